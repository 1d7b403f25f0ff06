"""The stock as a height map: how high material stands in each cell, and how far the walls of cuts lie from its middle."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.raster import within
from lesna.model.errors import InputError
from lesna.physics import Array, engine

#: walls reach so far into both sides, in cells; as the kernel has it
BAND = 2.0
#: air around the block, in cells
_MARGIN = 4
#: cells that a map may have; 20 bytes each
MOST_CELLS = 40_000_000
#: a wall that is none
_NONE = 1e9


@dataclass
class HeightMap:
    """Cells over a rectangle; it changes as a cutter walks through it.

    Attributes
    ----------
    cells : array (rows, columns, 5) of float32
        Height of the material, the floor where there is none [mm]; then two walls, each as distance in cells, positive in the
        material, and floor of the cut that left it [mm].
    origin : tuple of float
        Place of the first cell's middle [mm].
    cell : float
        Edge of a cell [mm].
    floor : float
        Height under which nothing is known [mm].
    """

    cells: NDArray[np.float32]
    origin: tuple[float, float]
    cell: float
    floor: float

    @property
    def height(self) -> NDArray[np.float32]:
        """Height of the material (rows, columns) [mm]."""
        return self.cells[..., 0]

    @property
    def top(self) -> float:
        """Highest material [mm]."""
        return float(self.height.max())

    @property
    def volume(self) -> float:
        """Material over the floor [mm3]."""
        return float((self.height.astype(float) - self.floor).sum()) * self.cell**2

    def copy(self) -> HeightMap:
        """The same stock, to be cut apart from this."""
        return HeightMap(self.cells.copy(), self.origin, self.cell, self.floor)

    def extent(self) -> tuple[float, float, float, float]:
        """Left, lower, right and upper edge of the cells [mm]."""
        (x, y), half = self.origin, self.cell / 2
        rows, columns = self.height.shape
        return x - half, y - half, x + (columns - 0.5) * self.cell, y + (rows - 0.5) * self.cell


def cell_for(diameter: float, width: float, depth: float) -> float:
    """Edge of the cells for a cutter and an area [mm]: fine beside the cutter, but never more cells than fit in memory."""
    wanted = min(max(diameter / 60.0, 0.02), 0.25)
    return max(wanted, math.sqrt(width * depth / (0.9 * MOST_CELLS)))


def block(low: Sequence[float], high: Sequence[float], cell: float) -> HeightMap:
    """A rectangular block."""
    if any(not math.isfinite(v) for v in (*low, *high)) or any(a >= b for a, b in zip(low, high, strict=True)):
        raise InputError("the block of stock needs a lower corner below its upper one, as in block:-60,-40,-24,60,40,0")
    # cells lie so that the block's edge falls between two of them wherever it is; its exact place stands in the walls
    x, y = middles((low[0], low[1], high[0], high[1]), cell)
    # distance to the edges of the rectangle, positive inside
    across, up = np.minimum(x - low[0], high[0] - x), np.minimum(y - low[1], high[1] - y)
    top, bottom = float(high[2]), float(low[2]) - 1.0
    cells = np.empty((len(y), len(x), 5), dtype=np.float32)
    cells[...] = (top, BAND, _NONE, BAND, _NONE)
    (left, right), (lower, upper) = (_far_inside(inside, BAND * cell) for inside in (across, up))
    every, middle = slice(None), slice(lower, upper)
    for rows, columns in (
        (slice(lower), every),
        (slice(upper, None), every),
        (middle, slice(left)),
        (middle, slice(right, None)),
    ):
        a, b = across[None, columns], up[rows, None]
        signed = np.where((a > 0) & (b > 0), np.minimum(a, b), -np.hypot(np.maximum(-a, 0), np.maximum(-b, 0)))
        _stand(cells[rows, columns], signed, np.where(signed > 0, top, bottom), bottom, cell)
    return HeightMap(cells, (float(x[0]), float(y[0])), cell, bottom)


def _far_inside(inside: Array, band: float) -> tuple[int, int]:
    """First cell of a row, and the one after the last, that lie further inside than walls are told."""
    deep = np.flatnonzero(inside >= band)
    return (int(deep[0]), int(deep[-1]) + 1) if len(deep) else (len(inside), len(inside))


def extruded(shape: Any, top: float, bottom: float, cell: float) -> HeightMap:
    """Profiles pulled up, with their holes."""
    import shapely

    x, y = middles(shape.bounds, cell)
    inside = within(shape, x, y)
    # a wall's exact place matters only to the cells beside it
    edge = shape.boundary
    rows, columns = np.nonzero(within(edge.buffer((BAND + 2) * cell), x, y))
    distance = np.full(inside.shape, (BAND + 2) * cell)
    shapely.prepare(edge)
    distance[rows, columns] = shapely.distance(edge, shapely.points(x[columns], y[rows]))
    signed = np.where(inside, distance, -distance)
    return _pulled_up(signed, top, bottom, (float(x[0]), float(y[0])), cell)


def _pulled_up(signed: Array, top: float, bottom: float, origin: tuple[float, float], cell: float) -> HeightMap:
    """A map of an outline pulled up, from the distance to it [mm], positive inside."""
    floor = bottom - 1.0
    return walled(signed, np.where(signed > 0, top, floor), floor, origin, cell, floor)


def middles(bounds: Sequence[float], cell: float) -> tuple[Array, Array]:
    """Middles of the cells over a rectangle and the air around it, columns and rows [mm]."""
    left, low, right, high = bounds
    columns, rows = (math.ceil((b - a) / cell) + 2 * _MARGIN for a, b in ((left, right), (low, high)))
    if columns * rows > MOST_CELLS:
        raise InputError(f"{columns} x {rows} cells of {cell:g} mm are too many; up to {MOST_CELLS:,} are held")
    first = 0.5 - _MARGIN
    return left + cell * (first + np.arange(columns)), low + cell * (first + np.arange(rows))


def walled(
    signed: Array, height: Array, below: float | Array, origin: tuple[float, float], cell: float, floor: float
) -> HeightMap:
    """A map of stock with upright walls."""
    cells = np.empty((*signed.shape, 5), dtype=np.float32)
    _stand(cells, signed, height, below, cell)
    return HeightMap(cells, origin, cell, floor)


def _stand(cells: NDArray[np.float32], signed: Array, height: Array, below: float | Array, cell: float) -> None:
    """Fills cells (rows, columns, 5) with stock and its upright walls, from the distance to them [mm], positive inside."""
    cells[..., 0] = height
    cells[..., 1] = np.clip(signed / cell, -BAND, BAND)
    cells[..., 2] = np.where(np.abs(signed) < BAND * cell, below, _NONE)
    cells[..., 3], cells[..., 4] = BAND, _NONE


def away_from(stock: HeightMap, floor: float) -> Array:
    """Distance of the cells' middles from what stands on a level, negative in it (rows, columns) [mm].

    Beside walls it is that of the wall itself, elsewhere it counts in cells.
    """
    from scipy.ndimage import distance_transform_edt

    stands = stock.height > floor
    outside = distance_transform_edt(~stands) if stands.any() else np.full(stands.shape, 1e6)
    away = np.where(stands, 0.5 - distance_transform_edt(stands), outside - 0.5)
    for distance, foot in ((1, 2), (3, 4)):
        wall = -stock.cells[..., distance].astype(float)
        # a wall of this level, on the side on which the cell lies
        here = (np.abs(wall) < BAND - 1e-3) & (stock.cells[..., foot] <= floor) & ((wall < 0) == stands)
        # one that does not stand where the cells do is of another height
        away = np.where(here & (np.abs(np.abs(wall) - np.abs(away)) < 1.0), wall, away)
    return np.asarray(away * stock.cell)


def distance_to_walls(stock: HeightMap, places: Array) -> Array:
    """How far places (n, 3) lie in the material at their height, negative in the air [mm]; without end where no wall is near."""
    out = np.zeros((len(places), 1))
    engine.kernel("stock_depths")(stock.cells, np.ascontiguousarray(places), *stock.origin, stock.cell, out)
    return np.where(np.abs(out[:, 0]) > 0.99 * BAND * stock.cell, np.copysign(np.inf, out[:, 0]), out[:, 0])


#: patches that a coarse look has at most along a side
_PATCHES = 320


def seen(stock: HeightMap) -> NDArray[np.float32]:
    """The heights of a map as one sees them from further away: the highest of each patch (rows, columns) [mm]."""
    factor = max(math.ceil(max(stock.height.shape) / _PATCHES), 1)
    rows, columns = (size // factor for size in stock.height.shape)
    # row by row, then column by column: sixteen times as fast as the greatest of each patch at once
    height = stock.height[: rows * factor, : columns * factor]
    strips = height[::factor].copy()
    for k in range(1, factor):
        np.maximum(strips, height[k::factor], out=strips)
    out = strips[:, ::factor].copy()
    for k in range(1, factor):
        np.maximum(out, strips[:, k::factor], out=out)
    return out
