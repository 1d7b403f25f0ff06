"""A full slot first, then passes to and fro along both its walls with held engagement and short links."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.demand import Demand
from lesna.paths.entry import ABOVE, ramp
from lesna.paths.held import held_after
from lesna.paths.level import SKIN
from lesna.paths.slots import slot_of
from lesna.paths.way import Leg, Way

#: how far the slot runs out of an open end, over the radius
_OUT = 1.1
#: walls this near to the cutter's own width are the slot's own [mm]
_OWN = 0.05


def slot_first(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Clears a straight slot: along its middle at full width, then its walls."""
    slot, R = slot_of(region), demand.radius
    room = slot.width - 2 * demand.wall - 2 * R
    if room < -1e-9:
        raise InputError(
            f"the cutter of {2 * R:g} mm does not fit; up to {slot.width - 2 * demand.wall:.2f} mm fits here"
        )
    near = R + demand.wall + min(SKIN, max(room, 0.0) / 2)
    begin = -_OUT * R if slot.opens[0] else near
    end = slot.length + _OUT * R if slot.opens[1] else slot.length - near
    a, b = slot.places(np.array((begin, end)), np.zeros(2))
    if slot.opens[0] or slot.opens[1]:
        line = np.array(((*a, demand.floor), (*b, demand.floor)))
    elif np.hypot(*(b - a)) > ABOVE:
        line = ramp(demand, b, a)
    else:
        raise InputError("the slot is no longer than the cutter is wide; drill it, or take a smaller tool")
    way = connected([Leg("entry", line, np.zeros(len(line)))], demand.clear)
    return way if room < _OWN else held_after(region, replace(demand, zigzag=True), way, pulse)
