"""A program as it runs with its feeds: force, limits and time step by step."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Program
from lesna.physics import Array
from lesna.physics.motion import Times
from lesna.planning.cut.solve import State
from lesna.planning.program.geometry import Geometry
from lesna.planning.program.leaning import Leaning, leaning_geometry
from lesna.planning.program.places import lasting
from lesna.planning.program.upright import upright_geometry
from lesna.planning.program.work import Work

#: an edge rubs where its chip is too thin over so much of DC; every entry and exit is thin for a moment
_RUBS = 0.25


@dataclass(frozen=True)
class Run:
    """A program as it runs with its feeds.

    Attributes
    ----------
    geometry : Geometry
        What it meets.
    feed : array (n,)
        Feed that is asked for on each step [mm/min].
    fz : array (n,)
        Mean feed per tooth that is reached on each step [mm].
    state : State
        What the cut does on each step.
    uses : dict of str to array (n,)
        Use of every limit.
    times : Times
        Speeds and times of all steps.
    """

    geometry: Geometry
    feed: Array
    fz: Array
    state: State
    uses: dict[str, Array]
    times: Times

    @cached_property
    def push(self) -> Array:
        """Force of a leaning tool on the part where its side force is greatest, in program coordinates (n, 3) [N]."""
        geometry = self.geometry
        if not isinstance(geometry, Leaning):
            raise TypeError("a cutter that stands upright pushes along and across its feed: `state` has it")
        loads = geometry.forces_at(geometry.table_of((1.0, 1.0)), self.fz)
        return geometry.push_on_part(loads) * np.asarray(self.state.force_factor)[:, None]

    @cached_property
    def end_time(self) -> Array:
        """Time at the end of each step [s]."""
        return np.cumsum(self.times.time)


def geometry_of(program: Program, work: Work, pulse: Pulse = STEADY) -> Geometry:
    """Takes a program through the stock: of three axes through a height map, of five through bricks."""
    take = upright_geometry if program.kinematics is None else leaning_geometry
    return take(program, work, pulse)


def run_of(
    geometry: Geometry, feed: Array | None = None, table: Any = None, reach: tuple[float, float] = (1.0, 1.0)
) -> Run:
    """The program with its feeds, or with others that a table of forces covers."""
    moves, steps = geometry.program.moves, geometry.steps
    asked = moves.feed[steps.move] if feed is None else feed
    timed = geometry.times_at(asked)
    reached = 60.0 * timed.peak
    fz = np.where(geometry.judged, reached / (geometry.n * geometry.setup.cutter.teeth), 0.0)
    state, uses = geometry.loads_at(table or geometry.table_of(reach), fz)
    thrust = geometry.setup.structure.thrust
    if thrust:
        uses["axis_thrust"] = np.maximum(uses.get("axis_thrust", np.zeros(len(fz))), geometry.push_down(fz) / thrust)
    uses["machine_feed"] = np.where(geometry.judged, np.nan_to_num(asked) / geometry.highest_feed, 0.0)
    return Run(geometry, asked, fz, state, uses, timed)


def rubs(run: Run) -> NDArray[np.bool_]:
    """Steps on which the chip stays thinner than the edge needs over a stretch worth telling."""
    g = run.geometry
    least = g.setup.chip.least or 0.0
    return lasting(g.contact & (run.state.hex < least), g.steps.length, _RUBS * 2 * g.work.radius)


def held_feed(geometry: Geometry) -> float | None:
    """The feed that this geometry lets the machine hold while it cuts [mm/min]: reached or passed on nine tenths of the way."""
    contact = geometry.contact
    if not contact.any():
        return None
    peak = 60.0 * geometry.times_at(geometry.highest_feed).peak[contact]
    length = geometry.steps.length[contact]
    order = np.argsort(peak)
    share = np.cumsum(length[order]) / length.sum()
    return float(peak[order][np.searchsorted(share, 0.1)])
