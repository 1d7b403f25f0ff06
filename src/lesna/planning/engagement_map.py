"""The engagement map: removal rate and every limit over stepover and depth, and the best point on it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from lesna.physics import Array
from lesna.planning import limits
from lesna.planning.schools import Window, window_of
from lesna.planning.setup import CutSetup
from lesna.planning.solve import solve

#: rounds of refinement round the best grid point, and points a side in each
_POLISH_ROUNDS, _POLISH_SIZE = 4, 17


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
    """

    ae: Array
    ap: Array
    q: Array
    uses: dict[str, Array]
    inside: Array
    best: BestPoint | None
    best_in_school: BestPoint | None
    window: Window | None = field(default=None)


def map_of(setup: CutSetup, columns: int = 96, rows: int = 96) -> EngagementMap:
    """The engagement map of a cut, in one vectorised pass.

    Parameters
    ----------
    setup : CutSetup
        The cut; its own ae and ap play no part.
    columns, rows : int
        Grid size over ae and ap [-].

    Returns
    -------
    EngagementMap
        Grids and best points.
    """
    ae = setup.shape.DC * np.arange(1, columns + 1) / columns
    ap = setup.depth_top * np.arange(1, rows + 1) / rows
    state = solve(setup, ae[None, :], ap[:, None])
    uses = limits.uses_over(setup, state)
    inside = limits.admissible(uses)
    window = window_of(setup.parts.cut.strategy, setup.parts.data, setup.parts.tool)
    return EngagementMap(
        ae=ae,
        ap=ap,
        q=state.q,
        uses=uses,
        inside=inside,
        window=window,
        best=_best(setup, (ae[0], setup.shape.DC), (ap[0], setup.depth_top)),
        best_in_school=_best_in(setup, window, ae, ap),
    )


def _best_in(setup: CutSetup, window: Window | None, ae: Array, ap: Array) -> BestPoint | None:
    """The best point of the school; a locked ae or ap stays where it is."""
    cut = setup.parts.cut
    wide = (window.ae_min, window.ae_max) if window else (float(ae[0]), float(ae[-1]))
    deep = (float(ap[0]), min(window.ap_max, setup.depth_top) if window else setup.depth_top)
    if "ae_mm" in cut.locks:
        wide = (cut.ae_mm, cut.ae_mm)
    if "ap_mm" in cut.locks:
        deep = (cut.ap_mm, cut.ap_mm)
    return _best(setup, wide, (min(deep), deep[1]))


def _best(setup: CutSetup, wide: tuple[float, float], deep: tuple[float, float]) -> BestPoint | None:
    """Highest removal in a rectangle: a grid, then ever smaller grids round its best point.

    Every grid holds the point it is centred on, so that the answer never gets worse, and the same input
    gives the same answer.
    """
    best: BestPoint | None = None
    size = 4 * _POLISH_SIZE
    span = (wide[1] - wide[0], deep[1] - deep[0])
    grid = _grid(wide, size), _grid(deep, size)
    for _ in range(_POLISH_ROUNDS):
        found = _best_on(setup, *grid)
        if found is None:
            return best
        if best is None or found.q > best.q:
            best = found
        span = (span[0] * 2 / (size - 1), span[1] * 2 / (size - 1))
        size = _POLISH_SIZE
        grid = (_grid(_around(best.ae, span[0], wide), size), _grid(_around(best.ap, span[1], deep), size))
    return best


def _grid(ends: tuple[float, float], size: int) -> Array:
    return np.array([ends[0]]) if ends[1] <= ends[0] else np.linspace(ends[0], ends[1], size)


def _around(centre: float, half: float, ends: tuple[float, float]) -> tuple[float, float]:
    return max(ends[0], centre - half), min(ends[1], centre + half)


def _best_on(setup: CutSetup, ae: Array, ap: Array) -> BestPoint | None:
    state = solve(setup, ae[None, :], ap[:, None])
    q = np.where(limits.admissible(limits.uses_over(setup, state)), state.q, -1.0)
    row, column = np.unravel_index(int(np.argmax(q)), q.shape)
    if q[row, column] < 0:
        return None
    return BestPoint(float(ae[column]), float(ap[row]), float(q[row, column]))
