"""The closing pass along the walls, material on the right, led in and out on a tangent."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.paths.beside import begun_in_a_straight, is_closed, ways_beside
from lesna.paths.leads import led
from lesna.paths.way import Leg
from lesna.physics import Array

#: radius of the arcs that lead in and out, over the cutter's
_LEAD = 0.3
#: how much nearer to a wall than it is told to a way may come, as chords of the wall do [mm]
_NEARER = 0.002


def along_walls(
    region: Region, radius: float, stock: float, floor: float, beyond: float, *, spring: bool = False, near: Any = None
) -> list[Leg]:
    """Closing passes, one after the other.

    Parameters
    ----------
    region : Region
        Floor and walls.
    radius : float
        Of the cutter [mm].
    stock : float
        That stays on the walls [mm].
    floor : float
        Height of the tip [mm].
    beyond : float
        How far passes run out on open sides [mm].
    spring : bool
        Whether each goes over its way once more, for what bent away the first time.
    near : shapely geometry or None
        Where the middle has to pass; everywhere along the walls where None.
    """
    import shapely

    walls = shapely.union_all(shapely.linestrings(region.walls.reshape(-1, 2, 2)))

    def is_clear(points: Array) -> bool:
        return bool(shapely.distance(walls, shapely.points(points)).min() >= radius + stock - _NEARER)

    legs: list[Leg] = []
    for way in _kept(ways_beside(region, radius + stock, beyond), near):
        line = begun_in_a_straight(way)
        laps = np.vstack((line, line[1:])) if spring and is_closed(way) else line
        for points in (laps,) if is_closed(way) or not spring else (laps, laps):
            points = led(points, _LEAD * radius, is_clear)
            legs.append(Leg("wall", np.column_stack((points, np.full(len(points), floor))), np.zeros(len(points))))
    return legs


def _kept(ways: Sequence[Array], near: Any) -> Sequence[Array]:
    """The parts of ways that lie in an area; the whole ways where none is named."""
    import shapely

    if near is None:
        return ways
    found = []
    for way in ways:
        kept = shapely.line_merge(shapely.LineString(way).intersection(near), directed=True)
        found += [
            np.array(part.coords)
            for part in getattr(kept, "geoms", [kept])
            if part.geom_type == "LineString" and part.length > 0
        ]
    return found
