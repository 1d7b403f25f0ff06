"""The best admissible point of a task: stepover, depth, speed and chip together, for an aim.

A grid over all four, the best of it refined by ever smaller grids, and the answer drawn back until a whole turn of
its own breaks no limit. No step is random, so the same task gives the same answer. Depths are those that divide the
feature evenly: any other takes as many levels as the next of these, at more force.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import cast

import numpy as np

from lesna.model.job import SPEEDS
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array, Num
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.chatter.stability import growth_of
from lesna.planning.cut import limits
from lesna.planning.cut.life import multiplier
from lesna.planning.cut.motion import motion_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State, solve, solve_one
from lesna.planning.search.aims import Aim, Worth, score, worth_of

#: speeds, chips and stepovers of the first grid
_SPEEDS, _CHIPS, _STEPOVERS = 7, 5, 18
#: speeds and chips of it where a removal must be reached: the speed follows from the chip, so chips count for more
_SPEEDS_TO_FLOOR, _CHIPS_TO_FLOOR = 4, 9
#: combinations of speed and chip that are looked at for chatter once one is calm, depths that are looked at together, and
#: stepovers between which it is read
_LOOKED_AT, _DEEP, _NODES = 16, 3, 3
#: starts that are refined, rounds, and points of a round over speed, chip and stepover
STARTS, ROUNDS, _FINE, _FINE_STEPOVERS = 3, 7, 3, 5
#: a round that gains nothing makes the next one smaller, by this power of the ratio of neighbours
_SHRINK = 0.45
#: a gain above this keeps a round's grid as it is; even stepovers to each side that a round looks at
_GAINED, _EVEN_REACH = 0.002, 3
#: a start is refined where it comes this near to the best one; spans below this ratio tell points apart no more
_NEAR_BEST, _FINEST = 0.8, 1.002
#: candidates of a round that are looked at for chatter
_CANDIDATES = 3
#: speeds and chips that are traded for one another, and stepovers of the first grid to each side; values nearer than this are one [-]
_TRADED, _TRADED_REACH, _SAME = (9, 13), 3, 1e-6
#: what drawing back took more than this from is looked for at other depths, whose first places may gain up to so much when refined
_LOST, _MAY_GAIN = 0.005, 1.15
#: the best point is drawn back in steps of this, so often
_BACK, _DRAWN_BACK = 0.99, 40
#: how far drawing back may take it under the removal that is asked for
SHORT = 0.02
#: steps in which the speed that just reaches a removal is found at most; a change of its logarithm that is none, and what slopes can be
_STEPS_TO_FLOOR, _MOVED, _SLOPES = 7, 1e-6, (-1.6, -0.4)
#: how much wider a stepover is looked at for what stops it
_NEXT = 0.15
#: points kept for the chart of removal against life
_SCATTER = 250

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
        Ends of the surface speed at the tables' own engagement [m/min], which each stepover multiplies, and of the thickest
        chip [mm].
    minutes : callable
        Minutes in the cut and between cuts, over the points of a state.
    depth : float
        Depth of its material [mm].
    holds_feed, holds_speed : bool
        Whether the cut's own feed, or its own speed, is locked and stays.
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
    depth: float
    holds_feed: bool = False
    holds_speed: bool = False

    def gain(self, ae: Num, ap: Num) -> Num:
        """How many times the tables' speeds an engagement may run [-]."""
        if self.holds_speed:
            return np.ones(np.broadcast(ae, ap).shape)
        return multiplier(self.setup, np.asarray(ae), np.asarray(ap))

    def at(self, point: Point) -> CutSetup:
        """The set-up at a point."""
        parts = self.setup.parts
        values: dict[str, object] = {
            **dict.fromkeys(SPEEDS),
            "ae_mm": point.ae,
            "ap_mm": point.ap,
            "vc_m_min": point.vc,
        }
        if not self.holds_feed:
            values |= {"hex_mm": point.chip, "fz_mm": None, "book": None}
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
    def levels(self) -> int:
        """Levels down to the floor of the task."""
        return round(self.task.depth / self.point.ap)

    @property
    def is_admissible(self) -> bool:
        """Whether no limit is broken."""
        return not any(entry.is_broken for entry in self.limits)


def judged(task: Task, point: Point, scatter: Array | None = None, *, chatter: bool = True) -> Optimum:
    """What a task gives at a point, computed from a turn of its own."""
    setup = task.at(point)
    state, _ = solve_one(setup, point.ae, point.ap)
    found = limits.limits_of(setup, state)
    if chatter and not (setup.parts.cut.is_judged_by_modes and any(entry.is_broken for entry in found)):
        known = chatter_of(setup)
        found = limits.limits_of(setup, state, None if known is None else (known.depth, known.low, known.high))
    worth = worth_of(setup, state, task.volume, task.minutes(state))
    return Optimum(task, point, setup, state, worth, found, np.empty((0, 2)) if scatter is None else scatter)


def stopped_by(found: Optimum) -> limits.LimitUse | None:
    """The limit that the next step in the same direction breaks: deeper, else wider; None where the window ends first."""
    task, point = found.task, found.point
    deeper = task.depths[task.depths > point.ap * (1 + 1e-6)]
    if len(deeper):
        point = replace(point, ap=float(deeper[0]))
    elif task.stepovers[-1] > point.ae * (1 + _NEXT / 2):
        point = replace(point, ae=min(point.ae * (1 + _NEXT), float(task.stepovers[-1])))
    else:
        return None
    # the chip is at its most already, and a hair over it says nothing
    broken = [
        entry for entry in judged(task, point).limits if entry.is_broken and entry.rule.id != "chip_thickness_max"
    ]
    return broken[0] if broken else None


def best_of(
    task: Task, aim: Aim, floor: float = 0.0, *, chatter: bool = True, quick: bool = False, pulse: Pulse = STEADY
) -> Optimum | None:
    """The best admissible point of a task, None where there is none."""
    if not len(task.depths) or not len(task.stepovers):
        return None
    ae = task.stepovers if task.is_even else np.unique(np.geomspace(task.stepovers[0], task.stepovers[-1], _STEPOVERS))
    counts = (4, 2) if quick else _counts(floor)
    speeds, chips = between(task.speeds, counts[0]), between(task.chips, counts[1])
    grid = Grid.of(task, ae, task.depths, (speeds, chips), floor)
    values, cloud = scores(task, aim, floor, grid)
    starts = _starts(task, grid, values, chatter, pulse)
    near = [start for start in starts if start[0] >= _NEAR_BEST * starts[0][0]]
    found = starts[:2] if quick else [_refined(task, aim, floor, *start, chatter, pulse) for start in near]
    kept, worth = None, -np.inf
    found.sort(key=lambda entry: -entry[0])
    for value, point in found:
        if value <= worth:
            break
        kept, worth = _better_held(task, aim, floor, (kept, worth), point, cloud, chatter)
    if kept is not None and (quick or worth >= found[0][0] * (1 - _LOST)):
        return kept
    # what a search went up to did not hold a whole turn: it goes up again at each depth without leaving that
    for value, point in _others(grid, values):
        if value * (1.0 if quick else _MAY_GAIN) <= worth:
            break
        pulse.check()
        if not quick:
            alone = replace(task, depths=np.array([point.ap]))
            value, point = _refined(alone, aim, floor, value, point, chatter, pulse)
        if value > worth:
            kept, worth = _better_held(task, aim, floor, (kept, worth), point, cloud, chatter)
    return kept


def _better_held(
    task: Task, aim: Aim, floor: float, former: tuple[Optimum | None, float], point: Point, cloud: Array, chatter: bool
) -> tuple[Optimum | None, float]:
    """A point that holds a whole turn, drawn back for it, and what it gives, where that is more than the former one's."""
    held = _kept(task, point, floor, cloud, chatter)
    if held is not None and (gives := float(score(aim, held.worth, 0.0))) > former[1]:
        return held, gives
    return former


def _others(grid: Grid, values: Array) -> Iterator[tuple[float, Point]]:
    """The best places of the first grid, one of each depth: where no refined point holds, one of them may."""
    columns = values.argmax(axis=1)
    for row in np.argsort(-values.max(axis=1), kind="stable"):
        value = float(values[row, columns[row]])
        if np.isfinite(value):
            yield value, grid.point(int(row), int(columns[row]))


@dataclass(frozen=True)
class Grid:
    """Columns of a search: every stepover at every speed and chip, so that one sweep over the depths serves them all."""

    ae: Array
    ap: Array
    vc: Array  # (depths, columns)
    chip: Array
    shape: tuple[int, int]  # combinations of speed and chip, stepovers

    @staticmethod
    def of(task: Task, ae: Array, ap: Array, choices: tuple[Array, Array], floor: float) -> Grid:
        """The grid; where a removal must be reached, the speeds that just reach it are looked at besides the others."""
        speeds, chips = choices
        if floor > 0 and task.speeds[1] > task.speeds[0]:
            speeds = np.append(speeds, np.nan)
        base, chip, wide = (part.ravel() for part in np.meshgrid(speeds, chips, ae, indexing="ij"))
        every = base * np.broadcast_to(task.gain(wide[None, :], ap[:, None]), (len(ap), len(wide)))
        slow = np.isnan(base)
        if slow.any():
            every[:, slow] = _just_reaching(task, floor, wide[slow], chip[slow], ap)
        return Grid(wide, ap, every, chip, (len(speeds) * len(chips), len(ae)))

    def point(self, row: int, column: int) -> Point:
        """Stepover, depth, speed and chip of one place."""
        return Point(float(self.ae[column]), float(self.ap[row]), float(self.vc[row, column]), float(self.chip[column]))


def _just_reaching(task: Task, floor: float, ae: Array, chip: Array, ap: Array) -> Array:
    """Speeds at which a removal is just reached (depths, columns): with less, edges live longer but the part is late."""
    low, high = (end * task.gain(ae[None, :], ap[:, None]) for end in task.speeds)
    wide, deep = np.broadcast_arrays(ae[None, :], ap[:, None])
    least, most = (np.log(np.broadcast_to(end, wide.shape)) for end in (low, high))
    x, slope, former = most.copy(), np.full(wide.shape, -1.0), None
    # minutes in the cut fall with speed, but for bends a little less than in its ratio: a secant of their logarithm tells by how much
    for _ in range(_STEPS_TO_FLOOR):
        motion = motion_of(task.setup, wide, deep, vc=np.exp(x), chip_=None if task.holds_feed else chip)
        cutting, linking = task.minutes(cast(State, motion))
        room = task.volume / floor - linking
        over = np.log(cutting / np.maximum(room, 1e-12))
        if former is not None:
            moved = x - former[0]
            slope = np.where(
                np.abs(moved) > _MOVED, np.clip((over - former[1]) / np.where(moved == 0, 1.0, moved), *_SLOPES), slope
            )
        former = x, over
        x = np.where(room > 0, np.clip(x - over / slope, least, most), most)
        if np.abs(x - former[0]).max() < _MOVED:
            break
    vc = np.exp(x)
    return np.minimum(vc * (1 + 1e-5), high)


def _counts(floor: float) -> tuple[int, int]:
    """Speeds and chips of the first grid."""
    return (_SPEEDS_TO_FLOOR, _CHIPS_TO_FLOOR) if floor > 0 else (_SPEEDS, _CHIPS)


def between(ends: tuple[float, float], count: int) -> Array:
    """Values from one end to the other in equal ratios; one where the ends are the same."""
    return np.array([ends[0]]) if ends[1] <= ends[0] * (1 + 1e-9) else np.geomspace(*ends, count)


def scores(task: Task, aim: Aim, floor: float, grid: Grid) -> tuple[Array, Array]:
    """Scores (depths, columns), minus infinity where a limit breaks; removal and life of some admissible points."""
    state = solve(task.setup, grid.ae, grid.ap, vc=grid.vc, chip_=None if task.holds_feed else grid.chip)
    estimated = None if task.setup.parts.cut.is_judged_by_modes else estimated_depth(task.setup, grid.ae)
    depth = None if estimated is None else np.broadcast_to(estimated, np.shape(state.ap))
    allowed = limits.admissible(limits.uses_over(task.setup, state, depth))
    worth = worth_of(task.setup, state, task.volume, task.minutes(state))
    points = np.stack((np.broadcast_to(worth.q, allowed.shape)[allowed], worth.life[allowed]), axis=1)
    thinned = points[:: max(1, len(points) // _SCATTER)]
    return np.where(allowed, score(aim, worth, floor), -np.inf), thinned


def _starts(task: Task, grid: Grid, values: Array, chatter: bool, pulse: Pulse) -> list[tuple[float, Point]]:
    """The best calm points of the first grid, each of a depth of its own."""
    combos, wide = grid.shape
    by_combo = values.reshape(len(task.depths), combos, wide)
    best: dict[float, tuple[float, Point]] = {}
    incumbent = -np.inf
    for looked, combo in enumerate(np.argsort(-by_combo.max(axis=(0, 2)), kind="stable")):
        pulse.check()
        here = by_combo[:, combo]
        # the best of one speed that chatters everywhere says nothing of the next speed, so the list goes on until one is calm
        if here.max() <= incumbent or (looked >= _LOOKED_AT and best):
            break
        allowed = (
            _calm(task, grid, int(combo), here, incumbent)
            if chatter and task.setup.parts.cut.is_judged_by_modes
            else here
        )
        for row in np.argsort(-allowed.max(axis=1), kind="stable")[:STARTS]:
            column = int(np.argmax(allowed[row]))
            value, depth = float(allowed[row, column]), float(task.depths[row])
            if value > best.get(depth, (-np.inf,))[0]:
                best[depth] = (value, grid.point(int(row), int(combo) * wide + column))
        incumbent = max([incumbent, *(entry[0] for entry in best.values())])
    return sorted(best.values(), key=lambda entry: -entry[0])[:STARTS]


def _calm(task: Task, grid: Grid, combo: int, values: Array, incumbent: float) -> Array:
    """Scores where the cut does not chatter, judged at a few stepovers and the depths that could still win."""
    columns = np.arange(grid.shape[1]) + combo * grid.shape[1]
    tops = values.max(axis=1)
    good = [int(row) for row in np.argsort(-tops, kind="stable") if tops[row] > incumbent]
    out = np.full(values.shape, -np.inf)
    for first in range(0, len(good), _DEEP):
        rows = sorted(good[first : first + _DEEP])
        _judge_rows(task, grid, columns, rows, values, out, incumbent)
        if out.max() > -np.inf:  # deeper is better as a rule, so the shallow ones wait until none of these is calm
            break
    return out


def _judge_rows(
    task: Task, grid: Grid, columns: Array, rows: list[int], values: Array, out: Array, incumbent: float
) -> None:
    """Takes over the scores of some depths where they are calm."""
    ae = grid.ae[columns]
    # between the stepovers that hold a score at all
    held = np.flatnonzero(values[rows].max(axis=0) > incumbent)
    nodes = np.unique(np.linspace(held[0], held[-1], min(_NODES, len(held))).round().astype(int))
    depths = task.depths[rows]
    growth = np.stack(
        [growth_of(task.at(grid.point(rows[-1], int(columns[k]))), float(ae[k]), depths) for k in nodes],
        axis=1,
    )
    for place, row in enumerate(rows):
        calm = np.interp(np.log(ae), np.log(ae[nodes]), growth[place]) < 0 if len(nodes) > 1 else growth[place] < 0
        out[row] = np.where(calm, values[row], -np.inf)


def _refined(
    task: Task, aim: Aim, floor: float, value: float, point: Point, chatter: bool, pulse: Pulse
) -> tuple[float, Point]:
    """Ever smaller grids round a point; each holds the point itself, so the answer never gets worse."""
    wide = (float(task.stepovers[0]), float(task.stepovers[-1]))
    counts = _counts(floor)
    span = [_spacing(task.speeds, counts[0]), _spacing(task.chips, counts[1]), _spacing(wide, _STEPOVERS)]
    depths = _neighbours(task.depths, point.ap)
    if not floor:
        # speed and chip are paid for by one another along a limit: at its own stepover all of both are looked at once
        value, point = _traded(task, aim, value, point, depths, chatter)
        span[:2] = _spacing(task.speeds, _TRADED[0]), _spacing(task.chips, _TRADED[1])
    for _ in range(ROUNDS):
        if max(span) < _FINEST:
            break
        pulse.check()
        ae = (
            _neighbours(task.stepovers, point.ae, _EVEN_REACH)
            if task.is_even
            else _around(point.ae, span[2], wide, _FINE_STEPOVERS)
        )
        base = point.vc / float(task.gain(point.ae, point.ap))
        speeds, chips = _around(base, span[0], task.speeds, _FINE), _around(point.chip, span[1], task.chips, _FINE)
        grid = Grid.of(task, ae, depths, (speeds, chips), floor)
        values, _ = scores(task, aim, floor, grid)
        former = value
        value, point = _better(task, grid, values, value, point, chatter)
        # along a limit the way may be long: the grid shrinks only where it holds nothing better
        if value <= former * (1 + _GAINED):
            span = [size**_SHRINK for size in span]
    return value, point


def _better(task: Task, grid: Grid, values: Array, value: float, point: Point, chatter: bool) -> tuple[float, Point]:
    """The best calm place of a grid that beats a point, else that point."""
    for place in np.argsort(-values, axis=None, kind="stable")[:_CANDIDATES]:
        row, column = divmod(int(place), values.shape[1])
        if values[row, column] <= value:
            break
        there = grid.point(row, column)
        is_asked = chatter and task.setup.parts.cut.is_judged_by_modes
        if not is_asked or growth_of(task.at(there), there.ae, np.array([there.ap]))[0] < 0:
            return float(values[row, column]), there
    return value, point


def _traded(task: Task, aim: Aim, value: float, point: Point, depths: Array, chatter: bool) -> tuple[float, Point]:
    """The best speed and chip at a point's own stepover and at those beside it: along a limit a step is paid for by a chip."""
    choices = between(task.speeds, _TRADED[0]), between(task.chips, _TRADED[1])
    wide = (float(task.stepovers[0]), float(task.stepovers[-1]))
    ae = (
        _neighbours(task.stepovers, point.ae, _EVEN_REACH)
        if task.is_even
        else _around(point.ae, _spacing(wide, _STEPOVERS) ** _TRADED_REACH, wide, 2 * _TRADED_REACH + 1)
    )
    grid = Grid.of(task, ae, depths, choices, 0.0)
    values, _ = scores(task, aim, 0.0, grid)
    return _better(task, grid, values, value, point, chatter)


def _spacing(ends: tuple[float, float], count: int) -> float:
    """Ratio of neighbours on the first grid."""
    return (ends[1] / ends[0]) ** (1.0 / (count - 1)) if ends[1] > ends[0] else 1.0


def _around(centre: float, ratio: float, ends: tuple[float, float], count: int) -> Array:
    if ratio <= 1.0 + 1e-12:
        return np.array([centre])
    return np.unique(np.clip(np.geomspace(centre / ratio, centre * ratio, count), *ends))


def _neighbours(choices: Array, value: float, reach: int = 1) -> Array:
    at = int(np.argmin(np.abs(choices - value)))
    return choices[max(0, at - reach) : at + reach + 1]


def _kept(task: Task, point: Point, floor: float, scatter: Array | None, chatter: bool) -> Optimum | None:
    """The point drawn back until a whole turn of its own, finer than the grids, breaks no limit."""
    for _ in range(_DRAWN_BACK):
        found = judged(task, point, scatter, chatter=chatter)
        if found.is_admissible:
            return found if float(found.worth.q) >= floor * (1 - SHORT) else None
        slowest, narrower = (
            task.speeds[0] * float(task.gain(point.ae, point.ap)),
            task.stepovers[task.stepovers < point.ae * (1 - _SAME)],
        )
        if not task.is_even and len(narrower):
            point = replace(point, ae=max(point.ae * _BACK, float(task.stepovers[0])))
        elif point.chip > task.chips[0] * (1 + _SAME):
            point = replace(point, chip=max(point.chip * _BACK, task.chips[0]))
        elif len(narrower):
            point = replace(point, ae=float(narrower[-1]))
        elif point.vc > slowest * (1 + _SAME):
            point = replace(point, vc=max(point.vc * _BACK, slowest))
        else:
            return None
    return None
