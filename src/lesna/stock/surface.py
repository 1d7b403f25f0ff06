"""Stock from a surface of triangles: how high it stands over each cell, and its upright walls to a fraction of a cell."""

from __future__ import annotations

import numpy as np

from lesna.model.errors import InputError
from lesna.physics import Array, engine
from lesna.stock.field import BAND, HeightMap, middles, walled

#: edges of triangles nearer than this are one [mm]
_SAME = 1e-4
#: a face leans over where it looks up by less than this
_UPRIGHT = 1e-3
#: a surface's triangles cover its cells at most so many times; cells that are looked at whatever they cover
_OVER, _ANYWAY = 100, 30_000_000
#: heights that differ by less over a few cells are no wall [mm]
_FLAT = 0.05


def surface_map(triangles: Array, cell: float) -> HeightMap:
    """The stock under a surface, seen from above."""
    low, high = triangles.min(axis=(0, 1)), triangles.max(axis=(0, 1))
    if ((high - low) < cell).any():
        raise InputError("the surface is as thin as a sheet; stock needs length, width and height")
    x, y = middles((low[0], low[1], high[0], high[1]), cell)
    spans = np.ceil(np.ptp(triangles[:, :, :2], axis=1) / cell) + 1
    if float((spans[:, 0] * spans[:, 1]).sum()) > _OVER * len(x) * len(y) + _ANYWAY:
        raise InputError(
            f"its triangles lie more than {_OVER} times over each other; write the part as one closed surface"
        )
    floor = float(low[2]) - 1.0
    height = np.full((len(y), len(x)), floor)
    engine.kernel("stock_surface")(np.ascontiguousarray(triangles), float(x[0]), float(y[0]), cell, height)
    signed = _walls(triangles, height, x, y, cell)
    below = _lowest_beside(height)
    return walled(signed, height, below, (float(x[0]), float(y[0])), cell, floor)


def _walls(triangles: Array, height: Array, x: Array, y: Array, cell: float) -> Array:
    """Distance of each cell's middle to the nearest wall, positive where it stands above it [mm]; far where there is none."""
    import shapely

    signed = np.where(height > height.min(), 1.0, -1.0) * (BAND + 1) * cell
    tops = _edges_of_walls(triangles)
    near = np.argwhere(_highest_beside(height) - _lowest_beside(height) > _FLAT)
    if not len(tops) or not len(near):
        return signed
    tree = shapely.STRtree(shapely.linestrings(tops[:, :, :2]))
    points = shapely.points(x[near[:, 1]], y[near[:, 0]])
    (which, edge), away = tree.query_nearest(
        points, max_distance=(BAND + 1) * cell, return_distance=True, all_matches=False
    )
    rows, columns = near[which].T
    # the cell is above a wall where it stands nearly as high as its upper edge
    on_top = height[rows, columns] > tops[edge, :, 2].min(axis=1) - _FLAT
    signed[rows, columns] = np.where(on_top, away, -away)
    return signed


def _edges_of_walls(triangles: Array) -> Array:
    """Edges (n, 2, 3) at which a face that looks up meets one that does not [mm]."""
    a, b, c = triangles[:, 0], triangles[:, 1], triangles[:, 2]
    normal = np.cross(b - a, c - a)
    size = np.linalg.norm(normal, axis=1)
    up = normal[:, 2] > _UPRIGHT * np.maximum(size, 1e-12)
    corners = np.unique(np.round(triangles.reshape(-1, 3) / _SAME), axis=0, return_inverse=True)[1].reshape(-1, 3)
    edges = np.concatenate([triangles[:, [i, (i + 1) % 3]] for i in range(3)])
    ends = np.sort(np.concatenate([corners[:, [i, (i + 1) % 3]] for i in range(3)]), axis=1)
    which = np.unique(ends, axis=0, return_inverse=True)[1].ravel()
    of_up = np.tile(up, 3)
    ups, faces = np.bincount(which, weights=of_up), np.bincount(which)
    return np.asarray(edges[of_up & ((ups < faces) | (faces == 1))[which]])


def _lowest_beside(height: Array) -> Array:
    from scipy.ndimage import minimum_filter

    return np.asarray(minimum_filter(height, size=5))


def _highest_beside(height: Array) -> Array:
    from scipy.ndimage import maximum_filter

    return np.asarray(maximum_filter(height, size=5))
