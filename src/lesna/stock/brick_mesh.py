"""Bricks from a closed surface of triangles: the nearest triangle tells how far, crossings of upright lines whether inside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from lesna.model.errors import InputError
from lesna.physics import Array, engine
from lesna.stock.bricks import IN_BRICK, MOST_ROWS, REACH, SIDE, UNITS, Bricks, empty_bricks, with_rows

#: upright lines stand so far beside the middles of cells, so that none passes a corner [cells]
_BESIDE = (1.37e-4, 2.11e-4)


def bricks_of_surface(triangles: Array, low: Sequence[float], high: Sequence[float], cell: float) -> Bricks:
    """Stock inside a closed surface.

    Parameters
    ----------
    triangles : array (n, 3, 3)
        The surface [mm].
    low, high : sequence of float
        Opposite corners of what bounds it [mm].
    cell : float
        Edge of a cell [mm].

    Raises
    ------
    InputError
        When there would be more bricks than are held.
    """
    empty = empty_bricks(low, high, cell)
    t = np.ascontiguousarray((triangles - empty.origin) / cell)
    index = empty.index
    near = engine.kernel("mesh_near")
    near(t, index, np.zeros((0, IN_BRICK), np.float32), 0)
    marked = index == 0
    rows = int(marked.sum())
    if rows > MOST_ROWS:
        raise InputError(f"the stock needs more than {MOST_ROWS:,} bricks of cells of {cell:g} mm; choose larger cells")
    index[marked] = np.arange(rows)
    away = np.full((rows, IN_BRICK), (2 * REACH) ** 2, np.float32)
    near(t, index, away, 1)
    np.sqrt(away, out=away)
    columns = engine.kernel("mesh_columns")
    counts = np.zeros((SIDE * index.shape[0], SIDE * index.shape[1]), np.int64)
    columns(t, counts, np.zeros(0), *_BESIDE, 0)
    ends = np.cumsum(counts).reshape(counts.shape)
    begins = ends - counts
    heights = np.zeros(int(counts.sum()))
    columns(t, begins.copy(), heights, *_BESIDE, 1)
    engine.kernel("mesh_signs")(begins, ends, heights, index, away)
    return with_rows(empty, np.rint(np.clip(away, -REACH, REACH) * UNITS).astype(np.int16))
