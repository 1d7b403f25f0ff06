"""The one Result of a cut that screen, command line, sheet and bank all show."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from lesna.model import units
from lesna.physics.edge.turn import Turn
from lesna.physics.life.heat import chip_temperature
from lesna.planning.cut.economy import Economy, Timing
from lesna.planning.cut.features import volume
from lesna.planning.cut.levels import count_of, depth_of
from lesna.planning.cut.limits import ENDS, NEAR, LimitUse, confidence_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

Standing = Literal["fits", "at the limit", "over"]
#: share of the greatest use from which a better known limit is named instead
_NEARLY = 0.9
#: bands of forces by the confidence of the material, and what thin chips add below a mean chip [mm]
_BANDS, _THIN_BAND, _THIN_CHIP = {"A": 0.15, "B": 0.25, "C": 0.40}, 0.10, 0.05


#: what chatter is judged by
Basis = Literal["estimate", "measured", "simulated"]


@dataclass(frozen=True)
class Chatter:
    """The depth of chatter that a cut is judged by, at its own speed and stepover.

    Attributes
    ----------
    basis : str
        ``estimate`` where nobody has measured, ``measured``, or ``simulated`` where simulated modes were kept.
    depth, low, high : float
        That depth, and the band it lies in [mm].
    frequency : float
        Frequency it would have [Hz], 0 where none is known.
    method : str
        ``anchored``, ``fast`` or ``sure``.
    deepest : float
        Deepest depth looked at [mm].
    """

    basis: Basis
    depth: float
    low: float
    high: float
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
    timing: Timing | None
    economy: Economy | None

    @property
    def name(self) -> str:
        """Name of the cut."""
        return self.setup.parts.cut.name

    @property
    def limited_by(self) -> LimitUse | None:
        """The limit that holds the cut back: the most used, or one that is better known and used nearly as much."""
        if not self.limits:
            return None
        broken = [limit for limit in self.limits if limit.is_broken]
        held = broken or [limit for limit in self.limits if limit.rule.id not in ENDS] or self.limits
        top = max(limit.use for limit in held)
        near = [limit for limit in held if limit.use >= _NEARLY * top]
        return min(near, key=lambda limit: (limit.confidence, -limit.use))

    @property
    def levels(self) -> int | None:
        """Equal levels in which its feature is cut; None without a feature."""
        depth = depth_of(self.setup.parts.cut.feature)
        return None if depth is None else int(count_of(depth, self.state.ap))

    @property
    def level_height(self) -> float:
        """What each level takes [mm]: the depth of cut, or less where the feature comes out even."""
        depth = depth_of(self.setup.parts.cut.feature)
        return float(self.state.ap) if depth is None or self.levels is None else depth / self.levels

    @property
    def cut_time(self) -> float | None:
        """Minutes in the cut for a part; None where they are not known."""
        return None if self.timing is None else self.timing.cutting

    @property
    def part_time(self) -> float | None:
        """Minutes of a part with its share of changing edges, without it where no edge life is known; None without a timing."""
        if self.timing is None:
            return None
        return self.timing.running if self.economy is None else self.economy.time_per_part

    @property
    def is_waiting(self) -> bool:
        """Whether its chatter follows from measured modes and is still being computed."""
        return self.chatter is None and self.setup.parts.cut.is_judged_by_modes

    @property
    def force_band(self) -> float:
        """How far force, power and torque may be off, either way [-]: wider for tables less known and for thin chips."""
        lesson = self.setup.parts.lesson
        if lesson is not None and lesson.force_edges:
            return max(lesson.force_high / lesson.force, lesson.force / lesson.force_low) - 1.0
        band = _BANDS[confidence_of(self.setup)]
        return band + (_THIN_BAND if self.state.hm < _THIN_CHIP else 0.0)

    @property
    def fxy_mean(self) -> float:
        """Mean of the side force over a turn [N]."""
        return float(self.turn.fxy.mean())

    @property
    def ripple(self) -> float:
        """Swing of the side force over a turn, over its mean [-]."""
        fxy = self.turn.fxy
        mean = float(fxy.mean())
        # a chip too thin for any force swings as little as it pushes
        return float(fxy.max() - fxy.min()) / mean if mean > 0 else 0.0

    @property
    def chip_mass(self) -> float | None:
        """Chips of one part [kg]; None where the feature or the density is not known."""
        material, removed = self.setup.parts.material, volume(self.setup.parts.cut.feature)
        if removed is None or material.density_kg_m3 is None:
            return None
        return removed * 1e-6 * material.density_kg_m3

    @property
    def chip_temperature(self) -> float | None:
        """Temperature at which the chips leave, roughly [C]; None where the material's heat is not known."""
        return chips_leave_at(self.setup, self.state)

    @property
    def load_deflection(self) -> float:
        """Deflection where the force acts [um]."""
        bar, at = self.setup.structure.beam, min(self.state.height, self.setup.structure.beam.length)
        return float(1000.0 * self.state.fxy_peak * bar.compliance(at, at))

    @property
    def stiffness_gain(self) -> float:
        """Share of the tip's compliance that goes for each millimetre of shorter stick-out [1/mm]."""
        bar = self.setup.structure.beam
        return bar.longer(1.0).at_tip / bar.at_tip - 1.0

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
        return (
            "at the limit" if any(limit.use >= NEAR for limit in self.limits if limit.rule.id not in ENDS) else "fits"
        )

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
            (vf, asked), (hex, hex_asked) = units.FEED.pair(s.vf, s.vf_asked), units.CHIP.pair(s.hex, s.hex_asked)
            return f"asked for {asked}; {vf} is {why}, so hex goes from {hex_asked} to {hex}"
        return ""


def _differs(a: float, b: float) -> bool:
    return abs(a - b) > 1e-6 * max(abs(a), abs(b))


def chips_leave_at(setup: CutSetup, state: State) -> float | None:
    """Temperature at which chips leave, roughly, at most that at which they melt [C]; None where too little is known."""
    m = setup.parts.material
    if m.density_kg_m3 is None or m.specific_heat_j_kgk is None or m.thermal_cond_w_mk is None:
        return None
    found = float(
        chip_temperature(state.kc, state.vc, state.hm, m.density_kg_m3, m.specific_heat_j_kgk, m.thermal_cond_w_mk)
    )
    return found if m.melting_or_solidus_c is None else min(found, m.melting_or_solidus_c)
