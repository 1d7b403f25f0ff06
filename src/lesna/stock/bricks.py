"""The stock as a signed distance in bricks of 4 x 4 x 4 cells, for a cutter that comes from any side: undercuts are nothing special.

Only bricks that a surface passes hold cells; the others are air or full. The same idea is known as composite distance fields
(Frisken and others 2000, Sullivan and others 2012).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array, engine

#: cells along a side of a brick, and in it
SIDE, IN_BRICK = 4, 64
#: distances reach so far [cells], in units of so much of a cell; as the kernel has them
REACH, UNITS, CLAMP = 2.5, 12000.0, 30000
AIR, FULL = -1, -2
#: air round the stock [cells]
_MARGIN = 4
#: bricks that are held in the index, and at most as rows: 130 bytes each
MOST_BRICKS, MOST_ROWS = 60_000_000, 12_000_000
#: bricks whose distance is asked for at once
_AT_ONCE = 4096
#: half the diagonal between the middles of the outermost cells of a brick [cells]
_HALF_DIAGONAL = 1.5 * math.sqrt(3.0)

#: distance to the surface at places (n, 3), positive in the material [mm]
Distance = Callable[[Array], Array]


@dataclass
class Bricks:
    """Cells over a box; they change as a cutter walks through them.

    Attributes
    ----------
    index : array (x, y, z) of int32
        Row of each brick, AIR or FULL.
    cells : array (rows, 64) of int16
        Distances of its cells, x first and z last.
    most : array (rows,) of int16
        Greatest distance in each row.
    free : array (rows,) of int32
        Rows that are free again.
    state : array (3,) of int
        Rows that were ever used, rows that are free again, and the step at which a walk goes on.
    origin : array (3,)
        Middle of the first cell [mm].
    cell : float
        Edge of a cell [mm].
    """

    index: NDArray[np.int32]
    cells: NDArray[np.int16]
    most: NDArray[np.int16]
    free: NDArray[np.int32]
    state: NDArray[np.int64]
    origin: Array
    cell: float

    def copy(self) -> Bricks:
        """The same stock, to be cut apart from this, with no room to spare."""
        used = int(self.state[0])
        return Bricks(
            self.index.copy(), self.cells[:used].copy(), self.most[:used].copy(), self.free[:used].copy(), self.state.copy(),
            self.origin, self.cell,
        )  # fmt: skip

    def make_room(self, rows: int) -> None:
        """Has at least so many rows to spare."""
        spare = len(self.cells) - int(self.state[0]) + int(self.state[1])
        if spare >= rows:
            return
        size = min(max(len(self.cells) + rows, int(1.5 * len(self.cells))), MOST_ROWS)
        if size < len(self.cells) + rows - spare:
            raise InputError(
                f"the stock needs more than {MOST_ROWS:,} bricks of cells of {self.cell:g} mm; choose larger cells"
            )
        for name in ("cells", "most", "free"):
            held = getattr(self, name)
            grown = np.zeros((size, *held.shape[1:]), held.dtype)
            grown[: len(held)] = held
            setattr(self, name, grown)

    @property
    def nbytes(self) -> int:
        """Memory that it takes [bytes]."""
        return self.index.nbytes + self.cells.nbytes + self.most.nbytes + self.free.nbytes

    @property
    def volume(self) -> float:
        """Material [mm3]."""
        rows = self.index[self.index >= 0]
        inside = 0.0
        for begin in range(0, len(rows), _AT_ONCE):
            some = self.cells[rows[begin : begin + _AT_ONCE]] / UNITS
            inside += float((np.clip(some, -0.5, 0.5) + 0.5).sum())
        return (inside + IN_BRICK * float((self.index == FULL).sum())) * self.cell**3

    def distance(self, places: Array) -> Array:
        """Distances at places (n, 3), positive in the material, at most `REACH` cells [mm]."""
        out = np.zeros(len(places))
        engine.kernel("brick_values")(
            self.index, self.cells, np.ascontiguousarray((places - self.origin) / self.cell), out
        )
        return out * self.cell


#: cells over the diameter of a cutter, and their least and greatest edge [mm]
_PER_DIAMETER, _FINEST, _COARSEST = 25.0, 0.05, 1.0
#: share of the bricks that are held which a stock may take where nobody says how fine it is
_FILLED = 0.3


def cell_for(diameter: float, low: Sequence[float], high: Sequence[float]) -> float:
    """Edge of the cells for a cutter and a box [mm]: fine beside the cutter, but never more bricks than are held."""
    wanted = min(max(diameter / _PER_DIAMETER, _FINEST), _COARSEST)
    box = float(np.prod(np.array(high) - np.array(low) + 2.0))
    return max(wanted, (box / (IN_BRICK * _FILLED * MOST_BRICKS)) ** (1.0 / 3.0))


def bricks_of(
    low: Sequence[float], high: Sequence[float], cell: float, distance: Distance, pulse: Pulse = STEADY
) -> Bricks:
    """Stock in a box from a distance that is exact near the surface and nowhere more than the true one.

    Parameters
    ----------
    low, high : sequence of float
        Opposite corners of what bounds the stock [mm].
    cell : float
        Edge of a cell [mm].
    distance : callable
        Distance at places (n, 3), positive in the material [mm].
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When there would be more bricks than are held.
    """
    empty = empty_bricks(low, high, cell)
    shape = empty.index.shape
    offsets = np.stack(np.meshgrid(*[np.arange(SIDE)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    rows: list[NDArray[np.int16]] = []
    flat, used = empty.index.reshape(-1), 0
    near_all = _near_surface(empty, distance)
    for begin in range(0, len(near_all), _AT_ONCE):
        pulse.tell(begin, len(near_all))
        numbers = near_all[begin : begin + _AT_ONCE]
        corner = SIDE * np.stack(np.unravel_index(numbers, shape), axis=1)
        middle = distance(empty.origin + (corner + 1.5) * cell) / cell
        near = np.flatnonzero(np.abs(middle) < _HALF_DIAGONAL + REACH)
        flat[numbers] = np.where(middle > 0, FULL, AIR)
        if not len(near):
            continue
        places = (corner[near][:, None, :] + offsets).reshape(-1, 3)
        found = np.clip(distance(empty.origin + places * cell) / cell, -REACH, REACH).reshape(-1, IN_BRICK)
        cells = np.rint(found * UNITS).astype(np.int16)
        mixed = ~((cells == CLAMP).all(axis=1) | (cells == -CLAMP).all(axis=1))
        flat[numbers[near]] = np.where(cells[:, 0] > 0, FULL, AIR)
        flat[numbers[near[mixed]]] = used + np.arange(int(mixed.sum()))
        used += int(mixed.sum())
        rows.append(cells[mixed])
        if used > MOST_ROWS:
            raise InputError(
                f"the stock needs more than {MOST_ROWS:,} bricks of cells of {cell:g} mm; choose larger cells"
            )
    cells = np.concatenate(rows) if rows else np.zeros((0, IN_BRICK), np.int16)
    return with_rows(empty, cells)


#: bricks along a side of what is looked at first
_COARSE = 4


def _near_surface(empty: Bricks, distance: Distance) -> NDArray[np.int64]:
    """Numbers of the bricks that may lie near the surface; the others are set air or full, many at once by their common middle."""
    shape, flat = empty.index.shape, empty.index.reshape(-1)
    blocks = [np.arange(0, size, _COARSE) for size in shape]
    first = np.stack(np.meshgrid(*blocks, indexing="ij"), axis=-1).reshape(-1, 3)
    middle = np.concatenate([
        distance(empty.origin + (SIDE * (some + 0.5 * _COARSE) - 0.5) * empty.cell) / empty.cell
        for some in np.array_split(first, max(len(first) // _AT_ONCE, 1))
    ])  # fmt: skip
    is_near = np.abs(middle) < 0.5 * np.sqrt(3.0) * SIDE * _COARSE + REACH
    inside = np.stack(np.meshgrid(*[np.arange(_COARSE)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    out = []
    for some, kind in ((first[~is_near & (middle > 0)], FULL), (first[is_near], None)):
        bricks = (some[:, None, :] + inside).reshape(-1, 3)
        bricks = bricks[(bricks < np.array(shape)).all(axis=1)]
        numbers = np.ravel_multi_index(tuple(bricks.T), shape)
        if kind is None:
            out.append(numbers)
        else:
            flat[numbers] = kind
    return np.sort(out[0])


def with_rows(empty: Bricks, cells: NDArray[np.int16]) -> Bricks:
    """Bricks whose index is filled, with the cells of its rows."""
    used = len(cells)
    return Bricks(empty.index, cells, cells.max(axis=1, initial=-CLAMP).astype(np.int16), np.zeros(used, np.int32),
                  np.array([used, 0, 0]), empty.origin, empty.cell)  # fmt: skip


def empty_bricks(low: Sequence[float], high: Sequence[float], cell: float) -> Bricks:
    """Air over a box and a margin, the box's faces between cells."""
    corner, size = np.array(low, float), np.array(high, float) - np.array(low, float)
    if (size <= 0).any() or not np.isfinite(size).all():
        raise InputError("the stock needs length, width and height")
    counts = np.ceil((np.ceil(size / cell - 1e-9) + 2 * _MARGIN) / SIDE)
    if float(np.prod(counts)) > MOST_BRICKS:
        raise InputError(
            f"{float(np.prod(counts)):,.0f} bricks of cells of {cell:g} mm are too many; choose larger cells"
        )
    index = np.full(tuple(counts.astype(int)), AIR, np.int32)
    nothing = np.zeros((0, IN_BRICK), np.int16)
    return Bricks(index, nothing, nothing[:, 0].copy(), np.zeros(0, np.int32), np.zeros(3, np.int64),
                  corner + (0.5 - _MARGIN) * cell, cell)  # fmt: skip


def of_block(low: Sequence[float], high: Sequence[float]) -> Distance:
    """Distance to a block."""
    middle, half = 0.5 * (np.array(low) + np.array(high)), 0.5 * (np.array(high) - np.array(low))

    def distance(places: Array) -> Array:
        away = np.abs(places - middle) - half
        return np.asarray(
            -np.where((away > 0).any(axis=1), np.linalg.norm(np.maximum(away, 0.0), axis=1), away.max(axis=1))
        )

    return distance


def of_outline(outline: Array) -> Distance:
    """Distance to what an outline (n, 2: radius, height), closed on the axis, turns round Z."""

    def distance(places: Array) -> Array:
        return to_polygon(
            outline, np.column_stack((np.hypot(places[:, 0], places[:, 1]), places[:, 2])), open_axis=True
        )

    return distance


def of_prism(rings: Sequence[Array], low: float, high: float) -> Distance:
    """Distance to outlines (n, 2) with holes, pulled up between two heights."""

    def distance(places: Array) -> Array:
        flat = np.min(
            [
                side * to_polygon(ring, places[:, :2])
                for side, ring in zip((1, *[-1] * len(rings[1:])), rings, strict=True)
            ],
            axis=0,
        )
        up = np.minimum(places[:, 2] - low, high - places[:, 2])
        out = np.minimum(flat, up)
        both = (flat < 0) & (up < 0)
        return np.where(both, -np.hypot(np.minimum(flat, 0), np.minimum(up, 0)), out)

    return distance


def to_polygon(outline: Array, points: Array, *, open_axis: bool = False) -> Array:
    """Distance of points (n, 2) to a polygon (m, 2), positive inside; its edges on the axis are none where `open_axis`."""
    a, b = outline, np.roll(outline, -1, axis=0)
    best, inside = np.full(len(points), np.inf), np.zeros(len(points), dtype=bool)
    x, y = points.T
    for (ax, ay), (bx, by) in zip(a.tolist(), b.tolist(), strict=True):
        crosses = (ay > y) != (by > y)
        inside ^= crosses & (x < (bx - ax) * (y - ay) / (by - ay if by != ay else np.inf) + ax)
        if open_axis and ax == 0.0 and bx == 0.0:
            continue
        ex, ey = bx - ax, by - ay
        share = np.clip(((x - ax) * ex + (y - ay) * ey) / max(ex * ex + ey * ey, 1e-300), 0.0, 1.0)
        best = np.minimum(best, (x - ax - share * ex) ** 2 + (y - ay - share * ey) ** 2)
    return np.where(inside, 1.0, -1.0) * np.sqrt(best)
