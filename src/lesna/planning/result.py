"""The one Result of a cut that screen, command line, sheet and bank all show."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, Literal

from lesna.model import units
from lesna.planning.economy import Economy
from lesna.planning.limits import NEAR, LimitUse
from lesna.planning.setup import CutSetup
from lesna.planning.solve import State

Standing = Literal["fits", "at the limit", "over"]
Severity = Literal["note", "caution", "danger"]


@dataclass(frozen=True)
class Caution:
    """Something a careful colleague would say."""

    id: str
    severity: Severity
    text: str


@dataclass(frozen=True)
class Result:
    """What one cut does, what holds it back, and what to mind."""

    setup: CutSetup
    state: State
    limits: tuple[LimitUse, ...]
    cautions: tuple[Caution, ...]
    constant_force_depth: float | None
    corner_angle: float | None
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
            "fxy_mean_n": s.fxy_mean,
            "fx_mean_n": s.fx_mean,
            "fy_mean_n": s.fy_mean,
            "fz_mean_n": s.fz_mean,
            "torque_mean_nm": s.torque,
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
    "life_in_valid_range": "is_valid", "speed_factor_equal_temperature": "kv", "vc_cheapest_m_min": "vc_cheapest",
    "vc_quickest_m_min": "vc_quickest",
}  # fmt: skip


def _differs(a: float, b: float) -> bool:
    return abs(a - b) > 1e-6 * max(abs(a), abs(b))
