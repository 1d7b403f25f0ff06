"""The closing pass along the walls, material on the right, led in and out on a tangent."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.paths.way import Leg
from lesna.physics import Array

#: radius of the arcs that lead in and out, over the cutter's
_LEAD = 0.3
#: shares of it that are tried where there is little room
_SMALLER = (1.0, 0.6, 0.3, 0.1)
#: how much nearer to a wall than it is told to a way may come, as chords of the wall do [mm]
_NEARER = 0.002
#: chords of those arcs
_CHORDS = 8
#: chords round a corner of a wall, each quarter
_QUARTER = 48
#: pieces of wall shorter than this over the radius are not followed
_SHORTEST = 0.02


def along_walls(region: Region, radius: float, stock: float, floor: float, clear: float, beyond: float) -> list[Leg]:
    """Closing passes, each with the way to it over everything.

    Parameters
    ----------
    region : Region
        Floor and walls.
    radius : float
        Of the cutter [mm].
    stock : float
        That stays on the walls [mm].
    floor, clear : float
        Heights of the tip and over everything [mm].
    beyond : float
        How far passes run out on open sides [mm].
    """
    import shapely

    legs: list[Leg] = []
    walls = shapely.union_all(shapely.linestrings(region.walls.reshape(-1, 2, 2)))

    def is_clear(points: Array) -> bool:
        return bool(shapely.distance(walls, shapely.points(points)).min() >= radius + stock - _NEARER)

    for line in _lines(region, radius + stock, beyond):
        points = _led(line, radius, is_clear)
        down = np.array([(*points[0], clear), (*points[0], floor)])
        at = np.column_stack((points, np.full(len(points), floor)))
        legs.append(Leg("retract", down, np.zeros(2)))
        legs.append(Leg("wall", at, np.zeros(len(at))))
        legs.append(Leg("retract", np.array([at[-1], (*points[-1], clear)]), np.zeros(2)))
    return legs


def _lines(region: Region, away: float, beyond: float) -> list[Array]:
    """Ways of the middle along the walls, the wall on the right [mm]."""
    import shapely

    if not len(region.walls):
        return []
    walls = shapely.linestrings(region.walls.reshape(-1, 2, 2))
    near = shapely.union_all(walls).buffer(away, quad_segs=_QUARTER)
    inside = region.extended(beyond).buffer(1e-6)
    found: list[Array] = []
    for polygon in getattr(near, "geoms", [near]):
        for number, ring in enumerate((polygon.exterior, *polygon.interiors)):
            way = shapely.LineString(_with_polygon_on_right(ring, is_exterior=number == 0))
            kept = way.intersection(inside)
            for part in getattr(kept, "geoms", [kept]):
                if part.geom_type == "LineString" and part.length > _SHORTEST * away:
                    found.append(part)
    merged: Any = shapely.line_merge(shapely.MultiLineString(found), directed=True) if found else None
    if merged is None:
        return []
    return [np.array(part.coords)[:, :2] for part in getattr(merged, "geoms", [merged])]


def _with_polygon_on_right(ring: Any, *, is_exterior: bool) -> Array:
    points = np.array(ring.coords)[:, :2]
    turns_left = bool(ring.is_ccw)
    # round an outer ring to the right, round a hole to the left
    return points[::-1] if turns_left == is_exterior else points


def _led(line: Array, radius: float, is_clear: Callable[[Array], bool]) -> Array:
    """A way with quarter circles before and after it, on its left; one that is closed begins in the middle of a straight.

    Where there is no room for them they are smaller, and at last left out.
    """
    if np.hypot(*(line[0] - line[-1])) < 1e-6:
        lengths = np.hypot(*np.diff(line, axis=0).T)
        k = int(lengths.argmax())
        middle = (line[k] + line[k + 1]) / 2
        line = np.vstack((middle, line[k + 1 :], line[1 : k + 1], middle))
    angle = np.linspace(0.0, np.pi / 2, _CHORDS + 1)[:, None]

    def quarter(at: Array, along: Array, way: float) -> Array:
        """From a place on with a heading (1), or before it (-1), round a middle on the left."""
        unit = along / np.hypot(*along)
        side = np.array((-unit[1], unit[0]))
        for share in _SMALLER:
            r = share * _LEAD * radius
            arc = at + r * side - r * np.cos(angle) * side + way * r * np.sin(angle) * unit
            if is_clear(arc):
                return np.asarray(arc)
        return at[None, :]

    before, after = quarter(line[0], line[1] - line[0], -1.0), quarter(line[-1], line[-1] - line[-2], 1.0)
    return np.vstack((before[:0:-1], line, after[1:]))
