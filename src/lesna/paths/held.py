"""What another way leaves, taken with held engagement."""

from __future__ import annotations

from dataclasses import replace

from lesna.geometry.region import Region
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.controlled import controlled
from lesna.paths.demand import Demand
from lesna.paths.way import Way


def held_after(region: Region, demand: Demand, way: Way, pulse: Pulse = STEADY) -> Way:
    """A way and after it passes with held engagement over what it leaves.

    Parameters
    ----------
    region : Region
        The floor.
    demand : Demand
        Cutter, stepover and heights.
    way : Way
        What comes first.
    pulse : Pulse
        Told how far it is.
    """
    cut = tuple(leg.points[:, :2] for leg in way.legs if leg.intent in ("entry", "cut"))
    rest = controlled(region, replace(demand, cut=(*demand.cut, *cut)), pulse)
    # between the two it goes over everything; the ways up and down are found anew
    return connected((*way.legs, *(leg for leg in rest.legs if leg.intent != "retract")), demand.clear)
