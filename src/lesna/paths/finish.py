"""Finishing passes: along the walls with leads on a tangent, and over the floor."""

from __future__ import annotations

from dataclasses import replace

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.demand import Demand
from lesna.paths.offsets import offsets
from lesna.paths.rows import rows
from lesna.paths.walls import along_walls
from lesna.paths.way import Way

#: how far passes run out on open sides, over the radius
RUN_OUT = 1.5


def finish_walls(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Passes along every wall, cutting down, each once more where a spring pass is wanted."""
    if not len(region.walls):
        raise InputError("there are no walls to finish")
    legs = along_walls(region, demand.radius, demand.wall, demand.floor, RUN_OUT * demand.radius, spring=demand.spring)
    if not legs:
        raise InputError(f"the cutter of {2 * demand.radius:g} mm does not fit beside the walls")
    return connected([replace(leg, intent="cut") for leg in legs], demand.clear)


def finish_floor(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Passes over the floor: rows where it is open all round, else parallel to its walls."""
    return (offsets if len(region.walls) else rows)(region, demand, pulse)
