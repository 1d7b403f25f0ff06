"""The best admissible point of a task: stepover, depth, speed and chip together, for an aim.

A grid over all four, the best of it refined by ever smaller grids, and the answer drawn back until a whole turn of
its own breaks no limit. No step is random, so the same task gives the same answer. Depths are those that divide the
feature evenly: any other takes as many levels as the next of these, at more force.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lesna.physics import Array, Num
from lesna.planning import limits
from lesna.planning.aims import Aim, Worth, score, worth_of
from lesna.planning.setup import CutSetup
from lesna.planning.solve import State, solve, solve_one
from lesna.planning.stability import growth_of, over_stepover

#: speeds, chips and stepovers of the first grid
_SPEEDS, _CHIPS, _STEPOVERS = 6, 3, 20
#: speeds and chips that are looked at for chatter before the search is content; stepovers of that
_LOOKED_AT, _NODES = 6, 4
#: starts that are refined, rounds, points of a round over speed and chip and over the stepover
_STARTS, _ROUNDS, _FINE, _FINE_STEPOVERS = 3, 6, 3, 7
#: each round is smaller by this
_SHRINK = 0.5
#: the best point is drawn back in steps of this, so often
_BACK, _DRAWN_BACK = 0.99, 40
#: points kept for the chart of removal against life
_SCATTER = 60

Minutes = Callable[[State], tuple[Num, Num]]


@dataclass(frozen=True)
class Point:
    """Where a task is cut: stepover, depth [mm], surface speed [m/min], thickest chip [mm]."""

    ae: float
    ap: float
    vc: float
    chip: float


@dataclass(frozen=True)
class Task:
    """One tool's share of a feature, with the room in which its best point is looked for.

    Attributes
    ----------
    label : str
        What it does.
    setup : CutSetup
        The tool on the machine; its own engagement, speed and chip play no part.
    volume : float
        Material [cm3].
    stepovers : array
        Stepovers to choose from where passes must come out even, else the two ends of a range [mm].
    is_even : bool
        Whether only the listed stepovers count.
    depths : array
        Depths to choose from, rising [mm].
    speeds, chips : tuple of float
        Ends of the surface speed [m/min] and of the thickest chip [mm].
    minutes : callable
        Minutes in the cut and between cuts, over the points of a state.
    """

    label: str
    setup: CutSetup
    volume: float
    stepovers: Array
    is_even: bool
    depths: Array
    speeds: tuple[float, float]
    chips: tuple[float, float]
    minutes: Minutes

    def at(self, point: Point) -> CutSetup:
        """The set-up at a point."""
        parts = self.setup.parts
        values = {
            "ae_mm": point.ae, "ap_mm": point.ap, "vc_m_min": point.vc, "n_rpm": None, "hex_mm": point.chip,
            "fz_mm": None, "book": None,
        }  # fmt: skip
        return replace(self.setup, parts=replace(parts, cut=parts.cut.model_copy(update=values)))


@dataclass(frozen=True)
class Optimum:
    """The best point of a task, or the one it was asked about.

    Attributes
    ----------
    task, point : Task, Point
        What was searched, and what was found.
    setup : CutSetup
        At the point's speed and chip.
    state : State
        What it does there, from a turn of its own.
    worth : Worth
        What that gives on a part.
    limits : tuple of LimitUse
        The most used first, chatter included.
    scatter : array (n, 2)
        Removal [cm3/min] and edge life [min] of admissible points that were looked at.
    """

    task: Task
    point: Point
    setup: CutSetup
    state: State
    worth: Worth
    limits: tuple[limits.LimitUse, ...]
    scatter: Array

    @property
    def is_admissible(self) -> bool:
        """Whether no limit is broken."""
        return not any(entry.is_broken for entry in self.limits)


def judged(task: Task, point: Point, scatter: Array | None = None, *, chatter: bool = True) -> Optimum:
    """What a task gives at a point, computed from a turn of its own.

    Parameters
    ----------
    task : Task
        What is cut.
    point : Point
        Where.
    scatter : array (n, 2) or None
        To be kept with it.
    chatter : bool
        Whether the chatter limit is computed too.
    """
    setup = task.at(point)
    state, _ = solve_one(setup, point.ae, point.ap)
    depth = None
    if chatter:
        depth = float(over_stepover(setup, np.array([point.ae])).limits_at(point.ae, np.array([point.ap]))[0])
    worth = worth_of(setup, state, task.volume, task.minutes(state))
    found = limits.limits_of(setup, state, depth)
    return Optimum(task, point, setup, state, worth, found, np.empty((0, 2)) if scatter is None else scatter)


def best_of(task: Task, aim: Aim, floor: float = 0.0, *, chatter: bool = True, quick: bool = False) -> Optimum | None:
    """The best admissible point of a task, None where there is none.

    Parameters
    ----------
    task : Task
        What is cut.
    aim : {'time', 'cost', 'life', 'unattended'}
        What counts.
    floor : float
        Removal that must be reached [cm3/min].
    chatter : bool
        Whether chatter is a limit.
    quick : bool
        Only the first grid, for ranking many tools.
    """
    if not len(task.depths) or not len(task.stepovers):
        return None
    ae = task.stepovers if task.is_even else np.unique(np.geomspace(*task.stepovers, _STEPOVERS))
    tried: list[tuple[float, float, float, Array]] = []
    scatter: list[Array] = []
    for vc in _between(task.speeds, 4 if quick else _SPEEDS):
        for chip in _between(task.chips, 2 if quick else _CHIPS):
            values, worth = _scores(task, aim, floor, Point(float(ae[0]), float(task.depths[-1]), vc, chip), ae, task.depths)
            if worth is not None:
                scatter.append(worth)
            tried.append((float(values.max()), vc, chip, values))
    tried.sort(key=lambda entry: -entry[0])
    starts = _starts(task, tried, ae, chatter)
    found = starts[:1] if quick else [_refined(task, aim, floor, *start, chatter) for start in starts]
    cloud = np.concatenate(scatter)[:: max(1, sum(map(len, scatter)) // _SCATTER)] if scatter else None
    for _, point in sorted(found, key=lambda entry: -entry[0]):
        kept = _kept(task, point, floor, cloud, chatter)
        if kept is not None:
            return kept
    return None


def _between(ends: tuple[float, float], count: int) -> list[float]:
    return [ends[0]] if ends[1] <= ends[0] * (1 + 1e-9) else [float(v) for v in np.geomspace(*ends, count)]


def _scores(
    task: Task, aim: Aim, floor: float, at: Point, ae: Array, ap: Array
) -> tuple[Array, Array | None]:
    """Scores over a grid at a speed and chip, minus infinity where a limit breaks; some of its points for the chart."""
    setup = task.at(at)
    state = solve(setup, ae, ap)
    allowed = limits.admissible(limits.uses_over(setup, state))
    worth = worth_of(setup, state, task.volume, task.minutes(state))
    values = np.where(allowed, score(aim, worth, floor), -np.inf)
    if not allowed.any():
        return values, None
    points = np.stack((np.broadcast_to(worth.q, allowed.shape)[allowed], worth.life[allowed]), axis=1)
    return values, points[:: max(1, len(points) // _SCATTER)]


def _starts(
    task: Task, tried: list[tuple[float, float, float, Array]], ae: Array, chatter: bool
) -> list[tuple[float, Point]]:
    """The best calm points of the first grid, each of a depth of its own."""
    best: dict[float, tuple[float, Point]] = {}
    incumbent = -np.inf
    for looked, (top, vc, chip, values) in enumerate(tried):
        if top == -np.inf or (len(best) >= _STARTS and top <= incumbent) or looked >= _LOOKED_AT:
            break
        allowed = _calm(task, vc, chip, ae, values, incumbent) if chatter else values
        for row in np.argsort(-allowed.max(axis=1), kind="stable")[:_STARTS]:
            column = int(np.argmax(allowed[row]))
            value, depth = float(allowed[row, column]), float(task.depths[row])
            if value > best.get(depth, (-np.inf,))[0]:
                best[depth] = (value, Point(float(ae[column]), depth, vc, chip))
        incumbent = max([incumbent, *(entry[0] for entry in best.values())])
    return sorted(best.values(), key=lambda entry: -entry[0])[:_STARTS]


def _calm(task: Task, vc: float, chip: float, ae: Array, values: Array, incumbent: float) -> Array:
    """Scores where the cut does not chatter, judged at a few stepovers and the depths that could still win."""
    setup = task.at(Point(float(ae[0]), float(task.depths[-1]), vc, chip))
    rows = np.flatnonzero(values.max(axis=1) > min(incumbent, values.max() * 0.999))
    rows = rows if len(rows) else np.array([int(np.argmax(values.max(axis=1)))])
    nodes = np.unique(np.linspace(0, len(ae) - 1, min(_NODES, len(ae))).round().astype(int))
    growth = np.stack([growth_of(setup, float(ae[k]), task.depths[rows]) for k in nodes], axis=1)
    out = np.full(values.shape, -np.inf)
    for place, row in enumerate(rows):
        calm = np.interp(np.log(ae), np.log(ae[nodes]), growth[place]) < 0 if len(nodes) > 1 else growth[place] < 0
        out[row] = np.where(calm, values[row], -np.inf)
    return out


def _refined(task: Task, aim: Aim, floor: float, value: float, point: Point, chatter: bool) -> tuple[float, Point]:
    """Ever smaller grids round a point; each holds the point itself, so the answer never gets worse."""
    span = {"vc": _spacing(task.speeds, _SPEEDS), "chip": _spacing(task.chips, _CHIPS),
            "ae": 1.0 if task.is_even else _spacing((float(task.stepovers[0]), float(task.stepovers[-1])), _STEPOVERS)}  # fmt: skip
    depths = _neighbours(task.depths, point.ap)
    for _ in range(_ROUNDS):
        candidates: list[tuple[float, Point]] = []
        ae = _neighbours(task.stepovers, point.ae) if task.is_even else _around(
            point.ae, span["ae"], (float(task.stepovers[0]), float(task.stepovers[-1])), _FINE_STEPOVERS)  # fmt: skip
        for vc in _around(point.vc, span["vc"], task.speeds, _FINE):
            for chip in _around(point.chip, span["chip"], task.chips, _FINE):
                values, _points = _scores(task, aim, floor, replace(point, vc=float(vc), chip=float(chip)), ae, depths)
                row, column = np.unravel_index(int(np.argmax(values)), values.shape)
                candidates.append(
                    (float(values[row, column]), Point(float(ae[column]), float(depths[row]), float(vc), float(chip)))
                )
        for best, there in sorted(candidates, key=lambda entry: -entry[0])[:_FINE]:
            if best <= value:
                break
            if not chatter or growth_of(task.at(there), there.ae, np.array([there.ap]))[0] < 0:
                value, point = best, there
                break
        span = {key: size**_SHRINK for key, size in span.items()}
    return value, point


def _spacing(ends: tuple[float, float], count: int) -> float:
    """Ratio of neighbours on the first grid."""
    return (ends[1] / ends[0]) ** (1.0 / (count - 1)) if ends[1] > ends[0] else 1.0


def _around(centre: float, ratio: float, ends: tuple[float, float], count: int) -> Array:
    if ratio <= 1.0 + 1e-12:
        return np.array([centre])
    return np.unique(np.clip(np.geomspace(centre / ratio, centre * ratio, count), *ends))


def _neighbours(choices: Array, value: float) -> Array:
    at = int(np.argmin(np.abs(choices - value)))
    return choices[max(0, at - 1) : at + 2]


def _kept(task: Task, point: Point, floor: float, scatter: Array | None, chatter: bool) -> Optimum | None:
    """The point drawn back until a whole turn of its own, finer than the grids, breaks no limit."""
    for _ in range(_DRAWN_BACK):
        found = judged(task, point, scatter, chatter=False)
        if found.is_admissible:
            found = judged(task, point, scatter) if chatter else found
            if found.is_admissible:
                return found if float(found.worth.q) >= floor * (1 - 2e-2) else None
        if not task.is_even and point.ae * _BACK >= task.stepovers[0]:
            point = replace(point, ae=point.ae * _BACK)
        elif point.chip * _BACK >= task.chips[0]:
            point = replace(point, chip=point.chip * _BACK)
        elif point.vc * _BACK >= task.speeds[0]:
            point = replace(point, vc=point.vc * _BACK)
        else:
            return None
    return None
