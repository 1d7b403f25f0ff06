"""Contour-parallel passes: from the middle or the open side towards the walls at equal distances, inner corners rolled."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.beside import begun_in_a_straight, ways_beside
from lesna.paths.demand import Demand, even_passes
from lesna.paths.entry import let_in
from lesna.paths.held import held_after
from lesna.paths.level import SKIN
from lesna.paths.linked import linked
from lesna.paths.way import Intent, Leg, Way
from lesna.physics import Array

#: radius of the middle's way in inner corners over the cutter's, and over the room that is left beside it
_ROLLED, _OF_ROOM = 1.0, 0.5
#: how far passes run out on open sides, over the radius
_OUT = 1.5
#: how finely the deepest place is looked for, over the radius, and how many times as coarsely at first
_GRID, _COARSER = 0.1, 6


def offsets(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Clears a floor in passes parallel to its walls; what rolled corners leave is taken with held engagement.

    Parameters
    ----------
    region : Region
        The floor, with walls.
    demand : Demand
        Cutter, stepover and heights.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When there are no walls, or the cutter does not fit.
    """
    if not len(region.walls):
        raise InputError("offsets follow walls and here are none; choose rows or held engagement")
    R, near = demand.radius, demand.radius + demand.wall + SKIN
    most, place = deepest(region, near)
    if most < near:
        raise InputError(
            f"the cutter of {2 * R:g} mm does not fit; up to {max(2 * (most - demand.wall - SKIN), 0):.2f} mm fits here"
        )
    closed = region.is_closed
    # from an open side the first pass takes one stepover, from within it clears the middle
    span = most - near if closed else most - demand.wall - SKIN
    count = even_passes(span, demand.stepover)
    step = span / count
    passes: list[tuple[Intent, Array]] = []
    for number in reversed(range(count)):
        rolled = min(_ROLLED * R, _OF_ROOM * (most - near - number * step))
        ways = ways_beside(region, near + number * step, _OUT * R, max(rolled, 0.0))
        passes += [("cut", begun_in_a_straight(way)) for way in _in_order(ways, passes)]
    first: list[Leg] = []
    if closed:
        # the way in, and the first round which has material on both its sides
        entry = let_in(demand, place, most - near, lambda x, y: _distance(region, np.array([[x, y]]))[0] >= near)
        first = [Leg("entry", entry, np.zeros(len(entry)))]
    # what corners leave is taken in passes as far apart as the rings
    even = replace(demand, stepover=step)
    return held_after(region, even, linked(region, even, passes, pulse, first), pulse)


def _in_order(ways: list[Array], passes: list[tuple[Intent, Array]]) -> list[Array]:
    """Ways one after the other, the nearest to where the last pass ended first."""
    here = passes[-1][1][-1] if passes else None
    out, left = [], list(ways)
    while left:
        k = 0 if here is None else int(np.argmin([np.hypot(*(way[0] - here)) for way in left]))
        out.append(left.pop(k))
        here = out[-1][-1]
    return out


def _distance(region: Region, places: Array) -> Array:
    """From the walls, none outside the floor [mm]."""
    return np.where(_is_within(region, places), _from_walls(region, places), 0.0)


def _from_walls(region: Region, places: Array) -> Array:
    import shapely

    walls = shapely.union_all(shapely.linestrings(region.walls.reshape(-1, 2, 2)))
    return np.asarray(shapely.distance(walls, shapely.points(places)))


def _is_within(region: Region, places: Array) -> Array:
    import shapely

    return np.asarray(shapely.contains_xy(region.cleared, *places.T))


def deepest(region: Region, near: float) -> tuple[float, tuple[float, float]]:
    """How far the place is from the walls that lies furthest from them, and where that is [mm]."""
    left, low, right, high = region.cleared.bounds
    step = max(_GRID * near, np.sqrt((right - left) * (high - low)) / 500)
    x, y = np.arange(left, right + step, step), np.arange(low, high + step, step)
    # nothing near a place is further from the walls by more than it is off that place: most of the grid need not be looked at
    coarse = _places(x[::_COARSER], y[::_COARSER])
    off = _from_walls(region, coarse)
    inside = _is_within(region, coarse)
    least = off[inside].max() if inside.any() else 0.0
    rows, columns = np.divmod(np.flatnonzero(off >= least - _COARSER * np.sqrt(2.0) * step), len(x[::_COARSER]))
    wanted = np.zeros((len(y), len(x)), dtype=bool)
    for row in range(_COARSER):
        for column in range(_COARSER):
            wanted[
                np.minimum(_COARSER * rows + row, len(y) - 1), np.minimum(_COARSER * columns + column, len(x) - 1)
            ] = True
    places = _places(x, y)[wanted.ravel()]
    away = _distance(region, places)
    k = int(away.argmax())
    return float(away[k]), (float(places[k, 0]), float(places[k, 1]))


def _places(x: Array, y: Array) -> Array:
    """A grid row by row (n, 2)."""
    return np.stack([column.ravel() for column in np.meshgrid(x, y)], axis=1)
