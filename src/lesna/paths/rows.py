"""Facing in parallel rows of one width, each begun by rolling about the corner of its strip."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.demand import Demand, even_passes
from lesna.paths.way import Leg, Way
from lesna.physics import Array

#: how far a row runs past the material, over the radius
_PAST = 1.05
#: way at which a row comes to where it touches [mm]
_BEFORE = 1.0
#: chords of the roll-in
_CHORDS = 24
_ALL = frozenset(("x-", "x+", "y-", "y+"))


def rows(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Faces a region that is open all round, along its longer side.

    The strips are equal, so that no sliver stays for the last. A row rolls in on an arc of the cutter's radius about the
    lower corner of its strip: there the stepover grows from nothing, and the chip is thin where the edge leaves it.

    Parameters
    ----------
    region : Region
        What is faced, without walls.
    demand : Demand
        Cutter, stepover, heights, and whether every other row may cut up.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When there are walls.
    """
    if region.open_sides != _ALL or len(region.walls):
        raise InputError("rows are made for faces without walls; offsets or held engagement follow walls")
    shape = region.cleared if region.stock is None else region.cleared.intersection(region.stock)
    left, low, right, high = shape.bounds
    upright = high - low > right - left
    turn = np.array([[0.0, 1.0], [-1.0, 0.0]]) if upright else np.eye(2)
    legs: list[Leg] = []
    for number, (way, strip) in enumerate(_ways(_turned(shape, turn), demand)):
        pulse.tell(number, number + 1)
        points = np.column_stack((way @ turn, np.full(len(way), demand.floor)))
        if legs and demand.zigzag:
            lifted = np.vstack((legs[-1].points[-1], legs[-1].points[-1], points[0], points[0]))
            lifted[1:3, 2] += demand.lift
            legs.append(Leg("link", lifted, np.zeros(len(lifted))))
        legs.append(Leg("cut", points, np.full(len(points), strip)))
    return connected(legs, demand.clear)


def _turned(shape: Any, turn: Array) -> Any:
    import shapely

    return shapely.transform(shape, lambda places: places @ turn.T)


def _ways(shape: Any, demand: Demand) -> list[tuple[Array, float]]:
    """Rows along x from the upper edge down, each with the width of its strip."""
    import shapely

    left, low, right, high = shape.bounds
    count = even_passes(high - low, demand.stepover)
    strip, R = (high - low) / count, demand.radius
    out = []
    for number in range(count):
        foot = high - (number + 1) * strip
        span = shape.intersection(shapely.box(left - 1, foot, right + 1, foot + strip)).bounds
        # to and fro, every other row has the material on its left
        back = demand.zigzag and number % 2 == 1
        way = _row(span[0], span[2], R)
        out.append((way * (-1.0, 1.0) + (span[0] + span[2], foot) if back else way + (0.0, foot), strip))
    return out


def _row(left: float, right: float, R: float) -> Array:
    """A row over a strip whose lower corner lies at (left, 0), the material below it: rolled in from the left."""
    angle = np.linspace(np.pi, np.pi / 2, _CHORDS + 1)
    roll = np.stack((left + R * np.cos(angle), R * np.sin(angle)), axis=1)
    return np.vstack(((left - R, -_BEFORE), roll, (right + _PAST * R, R)))
