"""Ways of the cutter's middle beside walls at a distance, the wall on the right, with rolled inner corners."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.physics import Array

#: chords round a corner of a wall, each quarter
_QUARTER = 48
#: pieces shorter than this over the distance are not followed
_SHORTEST = 0.02
#: chords of a ring in which it may begin
_CHORDS_TRIED = 8
#: ends nearer than this are one [mm]
_CLOSED = 1e-6


def ways_beside(region: Region, away: float, beyond: float, rolled: float = 0.0) -> list[Array]:
    """Ways of the middle along the walls, each (n, 2) [mm].

    Parameters
    ----------
    region : Region
        Floor and walls.
    away : float
        Distance of the middle from the walls [mm].
    beyond : float
        How far they run out on open sides [mm].
    rolled : float
        Least radius of the middle's way in inner corners [mm].
    """
    import shapely

    if not len(region.walls):
        return []
    # so far out that its own outer edges come into no way
    whole = region.extended(beyond + 3 * away + rolled)
    middles = whole.buffer(-away - rolled, quad_segs=_QUARTER).buffer(rolled, quad_segs=_QUARTER)
    inside = region.extended(beyond).buffer(_CLOSED)
    found: list[Array] = []
    for polygon in getattr(middles, "geoms", [middles]):
        # walls on the right of a way: round an outer ring to the left, round a hole to the right
        turned = shapely.geometry.polygon.orient(polygon)
        for ring in (turned.exterior, *turned.interiors):
            kept = shapely.LineString(ring.coords).intersection(inside)
            for part in getattr(kept, "geoms", [kept]):
                if part.geom_type == "LineString" and part.length > _SHORTEST * away:
                    found.append(part)
    merged: Any = shapely.line_merge(shapely.MultiLineString(found), directed=True) if found else None
    if merged is None:
        return []
    return [np.array(part.coords)[:, :2] for part in getattr(merged, "geoms", [merged])]


def is_closed(way: Array) -> bool:
    """Whether a way ends where it begins."""
    return bool(np.hypot(*(way[0] - way[-1])) < _CLOSED)


def begun_in_a_straight(way: Array) -> Array:
    """A closed way that begins in the middle of its longest chord; an open one as it is.

    Parameters
    ----------
    way : array (n, 2)
        Places [mm].
    """
    return next(begun_in_long_chords(way)) if is_closed(way) else way


def begun_in_long_chords(way: Array) -> Iterator[Array]:
    """A closed way that begins in the middle of its longest chord, of the next one and so on (n, 2) each [mm]."""
    lengths = np.hypot(*np.diff(way, axis=0).T)
    for k in np.argsort(-lengths, kind="stable")[:_CHORDS_TRIED].tolist():
        middle = (way[k] + way[k + 1]) / 2
        yield np.vstack((middle, way[k + 1 :], way[1 : k + 1], middle))
