"""Which places of a grid lie in an area: row by row between its edges, and only beside them one by one."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array


def within(area: Any, x: Array, y: Array) -> NDArray[np.bool_]:
    """Whether places of a grid (rows, columns) lie in an area; its edges are no part of it, but those of gaps narrower than the grid.

    Parameters
    ----------
    area : shapely geometry
        Polygons, with holes or without.
    x, y : array (columns,), (rows,)
        The grid's lines, rising [mm].
    """
    import shapely

    inside = _crossed(area, x, y)
    # where all neighbours are alike no edge is near; next to one rounding decides, and there each place is asked about
    rows, columns = np.nonzero(_is_beside_another(inside))
    shapely.prepare(area)
    inside[rows, columns] = shapely.contains_xy(area, x[columns], y[rows])
    return inside


def _crossed(area: Any, x: Array, y: Array) -> NDArray[np.bool_]:
    """Whether an odd number of edges lies to the left of each place."""
    import shapely

    points, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(area)), return_index=True)
    joined = ring[1:] == ring[:-1]
    (ax, ay), (bx, by) = points[:-1][joined].T, points[1:][joined].T
    first, last = np.searchsorted(y, np.minimum(ay, by)), np.searchsorted(y, np.maximum(ay, by))
    count = last - first
    edge = np.repeat(np.arange(len(count)), count)
    row = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count) + first[edge]
    at = ax[edge] + (y[row] - ay[edge]) * (bx[edge] - ax[edge]) / (by[edge] - ay[edge])
    places = row * (len(x) + 1) + np.searchsorted(x, at)
    crossings = np.bincount(places, minlength=len(y) * (len(x) + 1)).astype(np.uint8).reshape(len(y), -1)
    return np.asarray(np.cumsum(crossings, axis=1, dtype=np.uint8)[:, :-1] & 1, dtype=bool)


def _is_beside_another(inside: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Places of which one of the eight round them is told otherwise."""
    some, every = np.pad(inside, 1, "edge"), np.pad(inside, 1, "edge")
    # along the columns, then along the rows
    for _ in range(2):
        some, every = (some[:-2] | some[1:-1] | some[2:]).T, (every[:-2] & every[1:-1] & every[2:]).T
    return np.asarray(some != every)
