"""The one Result of a cut that screen, command line, sheet and bank all show."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model import units
from lesna.physics.edge.turn import Turn
from lesna.planning.cut.economy import Economy
from lesna.planning.cut.limits import NEAR, LimitUse
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

Standing = Literal["fits", "at the limit", "over"]


@dataclass(frozen=True)
class Chatter:
    """The depth of chatter that a cut is judged by, at its own speed and stepover (see `stability.Growth`).

    Depths in mm, frequency in Hz (0 where none was found); ``method`` is fast or sure.
    """

    depth: float
    frequency: float
    method: str
    deepest: float

    @property
    def is_open(self) -> bool:
        """Whether no boundary was found down to the deepest depth looked at."""
        return self.depth >= self.deepest * (1 - 1e-9)


@dataclass(frozen=True)
class Result:
    """What one cut does, what holds it back, and what to mind."""

    setup: CutSetup
    state: State
    turn: Turn
    chatter: Chatter | None
    limits: tuple[LimitUse, ...]
    constant_force_depth: float | None
    corner_angle: float | None
    advance: float | None
    cut_time: float | None
    economy: Economy | None

    @property
    def name(self) -> str:
        """Name of the cut."""
        return self.setup.parts.cut.name

    @property
    def limited_by(self) -> LimitUse | None:
        """The limit that is used most."""
        return self.limits[0] if self.limits else None

    @property
    def fxy_mean(self) -> float:
        """Mean of the side force over a turn [N]."""
        return float(self.turn.fxy.mean())

    @property
    def ripple(self) -> float:
        """Swing of the side force over a turn, over its mean [-]."""
        fxy = self.turn.fxy
        return float((fxy.max() - fxy.min()) / fxy.mean())

    @property
    def wall_error(self) -> float:
        """Deflection normal to the wall when the tooth that makes the wall passes it, at its worst height [um].

        Positive leaves material, negative cuts into the wall.
        """
        bar, state, cut = self.setup.structure.beam, self.state, self.setup.parts.cut
        at_wall = math.pi if cut.direction == "down" else 0.0
        toward = 1.0 if cut.direction == "down" else -1.0
        z = np.linspace(0.0, state.ap, 25)
        theta = (at_wall + float(self.setup.cutter.leads[0]) * z) % (2 * math.pi)
        order = np.argsort(self.turn.theta % (2 * math.pi))
        grid = (self.turn.theta % (2 * math.pi))[order]
        fy = np.interp(theta, grid, self.turn.fy[order], period=2 * math.pi)
        error = 1000.0 * toward * fy * bar.compliance(np.minimum(z, bar.length), min(state.height, bar.length))
        return float(error[int(np.argmax(np.abs(error)))])

    @property
    def load_deflection(self) -> float:
        """Deflection where the force acts [um]."""
        bar, at = self.setup.structure.beam, min(self.state.height, self.setup.structure.beam.length)
        return float(1000.0 * self.state.fxy_peak * bar.compliance(at, at))

    @property
    def stiffness_gain(self) -> float:
        """Share of the tip's compliance that goes for each millimetre of shorter stick-out [1/mm]."""
        bar = self.setup.structure.beam
        whole = float(bar.compliance(0.0, 0.0))
        arm = bar.length * bar.angular * 2
        d, E = float(bar.diameters[-1]), float(bar.E[-1])
        return float((bar.length**2 / (E * math.pi * d**4 / 64) + arm) / whole)

    @property
    def overload(self) -> float:
        """Chip of the worst tooth over that of an even cutter, less 1 [-]."""
        nominal = self.state.fz * math.sin(min(self.state.phi_s, math.pi / 2)) * self.state.s_top
        return float(self.turn.chips.max() / nominal - 1.0) if nominal > 0 else 0.0

    @property
    def teeth_working(self) -> int:
        """Teeth that cut anything at all in a turn."""
        return int((self.turn.chips > 0).sum())

    @property
    def standing(self) -> Standing:
        """Whether the cut fits, is at a limit, or is over one."""
        if any(limit.is_broken for limit in self.limits):
            return "over"
        return "at the limit" if any(limit.use >= NEAR for limit in self.limits) else "fits"

    def clipped(self, readout: str) -> str:
        """What a readout would have been had the machine allowed it, as a sentence; empty if it was not clipped."""
        s, drive = self.state, self.setup.drive
        if readout == "n" and _differs(s.n, s.n_asked):
            why = (
                "the lowest speed there is"
                if s.n > s.n_asked
                else "the nearest step below"
                if drive.rpm_steps
                else "the highest speed there is"
            )
            return f"asked for {s.n_asked:.0f} rpm; {s.n:.0f} rpm is {why}"
        if readout == "vf" and _differs(s.vf, s.vf_asked):
            why = (
                "the lowest feed there is"
                if s.vf > s.vf_asked
                else "the nearest step below"
                if drive.feed_steps
                else "the machine's highest feed"
            )
            return (
                f"asked for {units.FEED.mark(s.vf_asked)}; {units.FEED.mark(s.vf)} is {why}, so hex "
                f"goes from {units.CHIP.mark(s.hex_asked)} to {units.CHIP.mark(s.hex)}"
            )
        return ""


def _differs(a: float, b: float) -> bool:
    return abs(a - b) > 1e-6 * max(abs(a), abs(b))
