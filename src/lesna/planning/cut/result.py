"""The one Result of a cut that screen, command line, sheet and bank all show."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np

from lesna.model import units
from lesna.physics.edge.turn import Turn
from lesna.planning.cut.economy import Economy
from lesna.planning.cut.limits import NEAR, LimitUse
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State
from lesna.planning.telling.cautions import Caution, cautions_of

Standing = Literal["fits", "at the limit", "over"]


@dataclass(frozen=True)
class Chatter:
    """The depth of chatter that a cut is judged by, at its own speed and stepover (see `stability.Field`).

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
    cut_time: float | None
    economy: Economy | None

    @cached_property
    def cautions(self) -> tuple[Caution, ...]:
        """What a careful colleague would say, once somebody asks."""
        return cautions_of(self.setup, self.state, self.turn, self.economy)

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
        s, drive, system = self.state, self.setup.drive, self.setup.parts.job.units
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
                f"asked for {units.FEED.full(s.vf_asked, system)}; {units.FEED.full(s.vf, system)} is {why}, so hex "
                f"goes from {units.CHIP.full(s.hex_asked, system)} to {units.CHIP.full(s.hex, system)}"
            )
        return ""

    def to_json(self) -> dict[str, Any]:
        """The object of the contract, with the figures this Lesna computes."""
        s = self.state
        values = {
            "n_rpm": s.n,
            "vc_m_min": s.vc,
            "d_eff_mm": s.d_eff,
            "fz_mm": s.fz,
            "hex_mm": s.hex,
            "hm_mm": s.hm,
            "phi_s_deg": math.degrees(s.phi_s),
            "vf_mm_min": s.vf,
            "q_cm3_min": s.q,
            "contacts": s.contacts,
            "ap_constant_force_mm": self.constant_force_depth,
            "fxy_peak_n": s.fxy_peak,
            "fxy_mean_n": self.fxy_mean,
            "fx_mean_n": s.fx_mean,
            "fy_mean_n": s.fy_mean,
            "fz_mean_n": s.fz_mean,
            "fz_max_n": s.fz_max,
            "fz_min_n": s.fz_min,
            "pull_out_n": s.pull_out,
            "ripple": self.ripple,
            "torque_mean_nm": s.torque,
            "torque_peak_nm": s.torque_peak,
            "deflection_tip_um": s.deflection,
            "deflection_load_um": self.load_deflection,
            "wall_error_um": self.wall_error,
            "stress_mpa": s.stress,
            "torsion_mpa": s.shear,
            "runout_overload_pct": 100.0 * self.overload,
            "teeth_working": self.teeth_working,
            "chatter_ap_mm": None if self.chatter is None else self.chatter.depth,
            "chatter_frequency_hz": None if self.chatter is None else self.chatter.frequency,
            "power_cut_kw": s.power_cut,
            "power_motor_kw": s.power_motor,
            "power_s1_use": s.power_motor / s.power_s1,
            "power_s6_use": s.power_motor / s.power_s6,
            "torque_s1_use": s.torque / s.torque_s1,
            "torque_s6_use": s.torque / s.torque_s6,
            "n_asked_rpm": s.n_asked,
            "vf_asked_mm_min": s.vf_asked,
            "hex_asked_mm": s.hex_asked,
            "kc_n_mm2": s.kc,
            "time_in_cut_min": self.cut_time,
            "phi_corner_deg": None if self.corner_angle is None else math.degrees(self.corner_angle),
        }
        return {
            "name": self.name,
            **values,
            **self._economy_json(),
            "limits": [
                {
                    "id": entry.rule.id,
                    "use": entry.use,
                    "value": entry.value,
                    "limit": entry.limit,
                    "unit": entry.rule.unit,
                    "capped": entry.rule.is_capped and entry.is_exceeded,
                }
                for entry in self.limits
            ],
            "limited_by": self.limited_by.rule.id if self.limited_by else None,
            "standing": self.standing,
            "cautions": [{"id": c.id, "severity": c.severity, "text": c.text} for c in self.cautions],
        }

    def _economy_json(self) -> dict[str, Any]:
        if self.economy is None:
            return dict.fromkeys(_ECONOMY_KEYS)
        return {key: getattr(self.economy, field) for key, field in _ECONOMY_KEYS.items()}


_ECONOMY_KEYS = {
    "life_min": "life", "life_p95_min": "safe_life", "cost_per_part": "cost_per_part", "edges_per_part": "edges_per_part",
    "time_per_part_min": "time_per_part", "change_after_parts": "change_after", "cm3_per_edge": "volume_per_edge",
    "cm3_per_money": "volume_per_money",
    "life_in_valid_range": "is_valid", "speed_factor_equal_temperature": "kv", "vc_cheapest_m_min": "vc_cheapest",
    "vc_quickest_m_min": "vc_quickest",
}  # fmt: skip


def _differs(a: float, b: float) -> bool:
    return abs(a - b) > 1e-6 * max(abs(a), abs(b))
