"""How far a whole path cuts into walls, whichever generator made it: by exact distances of every line and arc that is written."""

from __future__ import annotations

import math

import numpy as np

from lesna.geometry.region import Region
from lesna.nc.post import Stretch
from lesna.physics import Array

#: a wall may be cut by so much [mm]
ALLOWED = 0.005
#: chords stand for arcs within this [mm]
_FINE = 5e-4


def cut_into_walls(region: Region, stretches: tuple[Stretch, ...], kept: float) -> tuple[float, tuple[float, float]]:
    """How far the cutter goes into a wall at most, where it is fed under the top [mm], and where (x, y).

    Parameters
    ----------
    region : Region
        The floor and its walls.
    stretches : tuple of Stretch
        The moves.
    kept : float
        How far the middle of the cutter stays from the walls: its radius and the stock that is left [mm].
    """
    import shapely

    if not len(region.walls):
        return 0.0, (0.0, 0.0)
    walls = shapely.union_all(shapely.linestrings(region.walls.reshape(-1, 2, 2)))
    shapely.prepare(walls)
    lines = [line for line in _lines(stretches) if len(line) > 1]
    if not lines:
        return 0.0, (0.0, 0.0)
    away = shapely.distance(walls, [shapely.LineString(line) for line in lines])
    worst = int(np.argmin(away))
    x, y = lines[worst].mean(axis=0).tolist()
    return max(kept - float(away[worst]), 0.0), (x, y)


def _lines(stretches: tuple[Stretch, ...]) -> list[Array]:
    """Ways of the middle of the cutter under the top, move by move (n, 2)."""
    out, at = [], (0.0, 0.0, 1.0)
    for stretch in stretches:
        for step in stretch.steps:
            if step.kind != 0 and min(at[2], step.end[2]) < -1e-6:
                out.append(_way(at, step.end, step.centre, is_left=step.kind == 3))
            at = step.end
    return out


def _way(a: tuple[float, ...], b: tuple[float, ...], centre: tuple[float, float] | None, *, is_left: bool) -> Array:
    if centre is None:
        # a way straight down is a place: two points of it that are apart
        ends = np.array([a[:2], b[:2]])
        return ends if np.ptp(ends, axis=0).max() > 0 else ends + np.array([[0.0, 0.0], [1e-7, 0.0]])
    begin, end = (math.atan2(place[1] - centre[1], place[0] - centre[0]) for place in (a, b))
    turn = (end - begin) % (2 * math.pi) if is_left else -((begin - end) % (2 * math.pi))
    size = math.dist(a[:2], centre)
    count = int(abs(turn) / (2 * math.acos(max(1 - _FINE / max(size, _FINE), 0.0)))) + 2
    angles = begin + np.linspace(0.0, turn, count)
    return np.column_stack((centre[0] + size * np.cos(angles), centre[1] + size * np.sin(angles)))
