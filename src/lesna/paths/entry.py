"""Letting a cutter into closed material: a helix, a ramp to and fro where it is narrow, straight down where the tool can."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from lesna.model.errors import InputError
from lesna.paths.demand import Demand
from lesna.physics import Array

#: radius of a helix over the cutter's, and the least that is one
_ORBIT, _LEAST = 0.6, 0.1
#: a ramp begins so high over the material [mm]
ABOVE = 0.2
#: chords of a turn
_CHORDS = 48
#: ends nearer than this are one [mm]
_SAME = 1e-6
#: least and most way of a ramp over the radius, and directions that are tried
_RAMP, _MOST_RAMP, _DIRECTIONS = 0.25, 4.0, 36


def let_in(demand: Demand, place: tuple[float, float], room: float, may_stand: Callable[[float, float], bool]) -> Array:
    """The way of the tip from above the material to the floor, with a last turn or pass on it (n, 3) [mm].

    Parameters
    ----------
    demand : Demand
        Cutter and heights.
    place : tuple of float
        Where there is room (x, y) [mm].
    room : float
        How far the middle may go from there in every direction [mm].
    may_stand : callable
        Whether the middle may be at (x, y) [mm].

    Raises
    ------
    InputError
        When the tool must not go straight down and there is no room for a ramp.
    """
    orbit = min(_ORBIT * demand.radius, room)
    if orbit >= _LEAST * demand.radius:
        return helix(demand, place, orbit)
    ends = _straight(demand, place, may_stand)
    if ends is not None:
        return ramp(demand, *ends)
    if not demand.plunges:
        x, y = place
        raise InputError(
            f"no way in at x {x:.2f}, y {y:.2f}: there is no room for a ramp and the tool does not cut to its centre; "
            "drill a hole there first, or take a smaller tool"
        )
    return np.array([(*place, demand.top + ABOVE), (*place, demand.floor)])


def helix(demand: Demand, place: tuple[float, float], orbit: float) -> Array:
    """Turns down to the floor and a last one on it (n, 3), to the left [mm]."""
    down = demand.top + ABOVE - demand.floor
    turns = max(down / (2 * math.pi * orbit * math.tan(math.radians(demand.ramp_deg))), 1.0)
    angle = np.linspace(0.0, 2 * np.pi * (turns + 1), int(_CHORDS * (turns + 1)))
    z = np.maximum(demand.top + ABOVE - down * angle / (2 * np.pi * turns), demand.floor)
    return np.stack((place[0] + orbit * np.cos(angle), place[1] + orbit * np.sin(angle), z), axis=1)


def ramp(demand: Demand, a: Array, b: Array) -> Array:
    """To and fro between two places down to the floor, and once more on it (n, 3); it ends at the first of them [mm]."""
    down, long = demand.top + ABOVE - demand.floor, float(np.hypot(*(b - a)))
    # both ways, so that the passes are even in number and end where they began
    passes = 2 * max(math.ceil(down / (long * math.tan(math.radians(demand.ramp_deg))) / 2), 1)
    heights = np.append(np.linspace(demand.top + ABOVE, demand.floor, passes + 1), (demand.floor, demand.floor))
    places = np.array([a if k % 2 == 0 else b for k in range(len(heights))])
    return np.column_stack((places, heights))


def along(demand: Demand, way: Array) -> Array:
    """A way gone down along, and then once on the floor (n, 3): round and round where it is closed, else to and fro [mm]."""
    down = demand.top + ABOVE - demand.floor
    gone = np.append(0.0, np.cumsum(np.hypot(*np.diff(way, axis=0).T)))
    whole = float(gone[-1])
    needed = down / math.tan(math.radians(demand.ramp_deg))
    is_round = bool(np.hypot(*(way[0] - way[-1])) < _SAME)
    # it arrives on the floor where the way begins
    laps = math.ceil(needed / whole) if is_round else 2 * math.ceil(needed / whole / 2)
    lines = [way if is_round or k % 2 == 0 else way[::-1] for k in range(laps)]
    run = np.vstack((way[:1], *(line[1:] for line in lines)))
    far = np.append(0.0, np.cumsum(np.hypot(*np.diff(run, axis=0).T)))
    ramp_down = np.column_stack((run, demand.top + ABOVE - down * far / far[-1]))
    return np.vstack((ramp_down, np.column_stack((way[1:], np.full(len(way) - 1, demand.floor)))))


def _straight(
    demand: Demand, place: tuple[float, float], may_stand: Callable[[float, float], bool]
) -> tuple[Array, Array] | None:
    """The longest straight way through a place on which the middle may be; None where none is long enough."""
    step, best, ends = 0.05 * demand.radius, _RAMP * demand.radius, None
    middle = np.array(place)
    for angle in np.linspace(0.0, np.pi, _DIRECTIONS, endpoint=False).tolist():
        u = np.array((math.cos(angle), math.sin(angle)))
        reach = []
        for way in (1.0, -1.0):
            gone = 0.0
            while gone < _MOST_RAMP * demand.radius / 2 and may_stand(*(middle + way * (gone + step) * u)):
                gone += step
            reach.append(gone)
        if sum(reach) > best:
            best, ends = sum(reach), (middle + reach[0] * u, middle - reach[1] * u)
    return ends
