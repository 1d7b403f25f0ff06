"""The engagement map: removal rate and every limit over stepover and depth, and the best point on it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.chatter.judge import depths_over
from lesna.planning.chatter.stability import Growth
from lesna.planning.cut import limits
from lesna.planning.cut.economy import change_of, edge_cost_of, life_at, rate_of
from lesna.planning.cut.levels import depth_of, even_depths
from lesna.planning.cut.life import law_of, multiplier
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State, solve, solve_one
from lesna.planning.cut.windows import Window, window_of

#: points a side of the first grid of a search, rounds of refinement round its best point, and points over ae and ap of each
_FIRST_SIZE, POLISH_ROUNDS, _POLISH_SIZE = 40, 5, (13, 31)
#: cells that a finer grid reaches to each side: the best points lie along a limit, not round a summit
_REACH = 4
#: the next grid is smaller by this; starts of a search, and columns of the first grid between them
_SHRINK, STARTS, _APART = 0.4, 4, 2
#: a start is refined where it comes this near to the best one
_NEAR_BEST = 0.9
#: thinnest stepover over DC and shallowest depth over the deepest that a search looks at
_THINNEST, _SHALLOWEST = 0.01, 0.01
#: steps in which a point is drawn back from a limit, and the size of each
_DRAWN_BACK, _BACK = 24, 0.995


@dataclass(frozen=True)
class BestPoint:
    """A point on the map and what it removes."""

    ae: float
    ap: float
    q: float


@dataclass(frozen=True)
class EngagementMap:
    """Grids over ae (columns) and ap (rows), both rising.

    Attributes
    ----------
    ae, ap : array (columns,), (rows,)
        Grid lines [mm].
    q : array (rows, columns)
        Removal rate [cm3/min].
    uses : dict of array (rows, columns)
        Use of each limit [-].
    inside : array of bool (rows, columns)
        Where no limit is broken.
    best : BestPoint or None
        Highest removal rate inside every limit.
    best_in_school : BestPoint or None
        The same within the window of the cut's strategy.
    window : Window or None
        That window.
    life : array (rows, columns) or None
        Median edge life [min]; None where the tables know none.
    heat : array (rows, columns) or None
        Surface speed over the one that keeps the edge as warm as the tables' own cut [-]: an index, not a thermometer.
    cost : array (rows, columns) or None
        Money for a cubic centimetre, moves that cut nothing left aside; None without prices.
    """

    ae: Array
    ap: Array
    q: Array
    uses: dict[str, Array]
    inside: Array
    best: BestPoint | None
    best_in_school: BestPoint | None
    window: Window | None = field(default=None)
    life: Array | None = None
    heat: Array | None = None
    cost: Array | None = None


def map_of(setup: CutSetup, columns: int = 96, rows: int = 96, *, field: Growth | None = None) -> EngagementMap:
    """The engagement map of a cut, in one pass.

    Parameters
    ----------
    setup : CutSetup
        The cut; its own ae and ap play no part.
    columns, rows : int
        Grid size over ae and ap [-].
    field : Growth or None
        Where a measured set-up chatters over the stepover; others are estimated.

    Returns
    -------
    EngagementMap
        Grids and best points.
    """
    ae = setup.shape.DC * np.arange(1, columns + 1) / columns
    ap = setup.depth_top * np.arange(1, rows + 1) / rows
    state, uses = _judged(setup, ae, ap, field)
    inside = limits.admissible(uses)
    window = window_of(setup.parts.cut.strategy, setup.parts.data, setup.parts.tool)
    wide, depths = _everywhere(setup)
    best = best_within(setup, wide, depths, field)
    in_school, depths_in_school = _in_school(setup, window)
    is_free = in_school == wide and np.array_equal(depths_in_school, depths)
    return EngagementMap(
        ae=ae,
        ap=ap,
        q=state.q,
        uses=uses,
        inside=inside,
        window=window,
        best=best,
        best_in_school=best if is_free else best_within(setup, in_school, depths_in_school, field),
        **_worth(setup, state),
    )


def _everywhere(setup: CutSetup) -> tuple[tuple[float, float], Array]:
    """All stepovers and depths of the tool."""
    return (_THINNEST * setup.shape.DC, setup.shape.DC), _depths(setup, setup.depth_top)


def _worth(setup: CutSetup, state: State) -> dict[str, Array | None]:
    """Life, heat and cost over a map."""
    law = law_of(setup)
    if law is None:
        return {}
    life = np.asarray(life_at(law, setup, state))
    rate, edge, change = rate_of(setup.parts), edge_cost_of(setup.parts), change_of(setup.parts)
    return {
        "life": life,
        "heat": np.asarray(state.vc / (multiplier(setup, state.ae, state.ap) * law.vc_ref)),
        "cost": None if rate is None or edge is None else (rate + (rate * change + edge) / life) / state.q,
    }


#: grid of a rough map over stepover and depth
_ROUGH = (24, 20)


def rough_map_of(setup: CutSetup) -> EngagementMap:
    """The map on a coarse grid without best points, which needs no compiled sums: what a fresh machine shows first."""
    ae, ap = (
        top * np.arange(1, size + 1) / size for top, size in zip((setup.shape.DC, setup.depth_top), _ROUGH, strict=True)
    )
    state = solve(setup, ae, ap, plain=True)
    uses = limits.uses_over(setup, state, depths_over(setup, ae, ap, None))
    window = window_of(setup.parts.cut.strategy, setup.parts.data, setup.parts.tool)
    return EngagementMap(ae, ap, state.q, uses, limits.admissible(uses), None, None, window, **_worth(setup, state))


def best_in_school(setup: CutSetup, field: Growth | None = None, pulse: Pulse = STEADY) -> BestPoint | None:
    """The best point within the window of the cut's strategy; a locked ae or ap stays where it is."""
    window = window_of(setup.parts.cut.strategy, setup.parts.data, setup.parts.tool)
    return best_within(setup, *_in_school(setup, window), field, pulse)


def _in_school(setup: CutSetup, window: Window | None) -> tuple[tuple[float, float], Array]:
    """Stepovers and depths of a strategy's window, or the one that is locked."""
    cut = setup.parts.cut
    wide, depths = _everywhere(setup)
    if window is not None:
        wide, depths = (window.ae_min, window.ae_max), _depths(setup, min(window.ap_max, setup.depth_top))
    if "ae_mm" in cut.fixed:
        wide = (cut.ae_mm, cut.ae_mm)
    return wide, np.array([cut.ap_mm]) if "ap_mm" in cut.fixed else depths


def _depths(setup: CutSetup, most: float) -> Array:
    """Depths that are looked at, rising [mm]: whole levels of the feature, or all of them where there is none."""
    depth = depth_of(setup.parts.cut.feature)
    return np.geomspace(_SHALLOWEST * most, most, _FIRST_SIZE) if depth is None else even_depths(depth, most)


def best_within(
    setup: CutSetup, wide: tuple[float, float], depths: Array, field: Growth | None = None, pulse: Pulse = STEADY
) -> BestPoint | None:
    """Highest removal between two stepovers: a grid, then ever smaller grids round its best points.

    Every grid holds the point it is centred on, so that the answer never gets worse, and the same input
    gives the same answer. Depths of a feature are whole levels and stay as they are, others are refined as well.

    Along a limit many stepovers remove nearly the same, and a coarse grid cannot tell which is best: some of them,
    apart from each other, are refined.
    """
    # stepovers in proportion: thin ones are where feeds differ most
    grid = np.unique(np.geomspace(*wide, _FIRST_SIZE)), depths
    state, uses = _judged(setup, *grid, field)
    q = np.where(limits.admissible(uses), state.q, -1.0)
    tops = q.max(axis=0)
    starts: list[int] = []
    for column in np.argsort(-tops, kind="stable"):
        if tops[column] >= max(0.0, _NEAR_BEST * tops.max()) and all(
            abs(int(column) - other) >= _APART for other in starts
        ):
            starts.append(int(column))
    found = [_climbed(setup, grid, _point(grid, q, column), field, pulse) for column in starts[:STARTS]]
    kept: BestPoint | None = None
    for point in (*sorted(found, key=lambda point: -point.q), *_others(grid, q)):
        if kept is not None and point.q <= kept.q:
            break
        pulse.check()
        held = _kept(setup, point, grid, field)
        if held is not None and (kept is None or held.q > kept.q):
            kept = held
    return kept


def _others(grid: tuple[Array, Array], q: Array) -> Iterator[BestPoint]:
    """The best places of a judged grid, one of each depth first and of each stepover then: one of them may hold."""
    rows, columns = q.argmax(axis=1), q.argmax(axis=0)
    places = [(row, int(column)) for row, column in enumerate(rows)] + [
        (int(row), column) for column, row in enumerate(columns)
    ]
    for row, column in sorted(dict.fromkeys(places), key=lambda place: -q[place]):
        if q[row, column] > 0:
            yield BestPoint(float(grid[0][column]), float(grid[1][row]), float(q[row, column]))


def _kept(setup: CutSetup, point: BestPoint, grid: tuple[Array, Array], field: Growth | None) -> BestPoint | None:
    """The point drawn back until a whole turn of its own, finer than the grids, breaks no limit."""
    # in stepover where that is free, as near a constant-force depth a shallower cut has the higher peak; then in depth, as
    # some limits hardly know the stepover
    for by_ae, by_ap in ((_BACK, 1.0), (1.0, _BACK if _is_free(setup) else 0.0)):
        ae, ap = point.ae, point.ap
        for _ in range(_DRAWN_BACK):
            if ae < grid[0][0] * (1 - 1e-9) or ap < grid[1][0] * (1 - 1e-9):
                break
            state, _turn = solve_one(setup, ae, ap)
            depth = depths_over(setup, np.array([ae]), np.array([ap]), field)
            chatter = None if depth is None else (float(depth[0, 0]),) * 3
            if not any(entry.is_broken for entry in limits.limits_of(setup, state, chatter)):
                return BestPoint(ae, ap, state.q)
            ae, ap = ae * by_ae, ap * by_ap
    return None


def _is_free(setup: CutSetup) -> bool:
    """Whether depths lie anywhere, not at whole levels of a feature."""
    return depth_of(setup.parts.cut.feature) is None


def _climbed(
    setup: CutSetup, grid: tuple[Array, Array], best: BestPoint, field: Growth | None, pulse: Pulse
) -> BestPoint:
    """The best point near one, by ever smaller grids round it."""
    wide, deep = ((float(ends[0]), float(ends[-1])) for ends in grid)
    # a cell of the grid where the point lies: it is spaced in proportion
    span = [value * ((ends[1] / ends[0]) ** (1.0 / max(len(line) - 1, 1)) - 1.0)
            for value, ends, line in zip((best.ae, best.ap), (wide, deep), grid, strict=True)]  # fmt: skip
    for _ in range(POLISH_ROUNDS):
        pulse.check()
        ae = _grid(_around(best.ae, _REACH * span[0], wide), _POLISH_SIZE[0])
        if _is_free(setup):
            ap = _grid(_around(best.ap, _REACH * span[1], deep), _POLISH_SIZE[1])
        else:
            place = int(np.argmin(np.abs(grid[1] - best.ap)))
            ap = grid[1][max(place - 1, 0) : place + 2]
        state, uses = _judged(setup, ae, ap, field)
        q = np.where(limits.admissible(uses), state.q, -1.0)
        point = _point((ae, ap), q, int(np.argmax(q.max(axis=0))))
        if point.q > best.q:
            best = point
        span = [_SHRINK * part for part in span]
    return best


def _point(grid: tuple[Array, Array], q: Array, column: int) -> BestPoint:
    row = int(np.argmax(q[:, column]))
    return BestPoint(float(grid[0][column]), float(grid[1][row]), float(q[row, column]))


def _grid(ends: tuple[float, float], size: int) -> Array:
    return np.array([ends[0]]) if ends[1] <= ends[0] else np.linspace(ends[0], ends[1], size)


def _around(centre: float, half: float, ends: tuple[float, float]) -> tuple[float, float]:
    return max(ends[0], centre - half), min(ends[1], centre + half)


def _judged(setup: CutSetup, ae: Array, ap: Array, field: Growth | None) -> tuple[State, dict[str, Array]]:
    state = solve(setup, ae, ap)
    return state, limits.uses_over(setup, state, depths_over(setup, ae, ap, field))
