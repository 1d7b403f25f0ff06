"""From the document's records to the numbers that physics takes: one set-up of one cut."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.model.library_records import Curve, Machine, Tool
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num, chipspace, forces
from lesna.physics.envelope import Envelope
from lesna.physics.hardness import brinell_from_rockwell
from lesna.physics.spindle import SpindleCurve, simple_curve

#: media that blow chips out of a slot
_BLOWN = frozenset({"air", "through_air", "through"})


@dataclass(frozen=True)
class Drive:
    """The machine's spindle and feed as the cut sees them (rpm, mm/min, kW)."""

    rpm_min: float
    rpm_max: float
    rpm_steps: tuple[float, ...]
    feed_max: float
    feed_steps: tuple[float, ...]
    s1: SpindleCurve
    s6: SpindleCurve
    idle_speeds: Array
    idle_powers: Array
    efficiency: float

    def idle(self, n: Num) -> Num:
        """Idle power at a speed [kW]."""
        return np.interp(n, self.idle_speeds, self.idle_powers)


@dataclass(frozen=True)
class ChipLimits:
    """Thinnest and thickest chip this edge may take in this material [mm]; None where no table says."""

    least: float | None
    typical: float | None
    most: float | None


@dataclass(frozen=True)
class CutSetup:
    """Everything about a cut but its engagement, in the units of physics."""

    parts: CutParts
    shape: Envelope
    helix: float
    law: forces.ForceLaw
    drive: Drive
    chip: ChipLimits
    gullet: float
    swell: float
    blown: bool
    hb: float | None

    @property
    def depth_top(self) -> float:
        """Largest depth worth drawing [mm]: what tool and stick-out can reach."""
        cut, tool = self.parts.cut, self.parts.tool
        return min(tool.usable_length, cut.stick_out_mm)


def setup_of(parts: CutParts) -> CutSetup:
    """The set-up of one cut.

    Parameters
    ----------
    parts : CutParts
        The cut with its whole records.

    Returns
    -------
    CutSetup
        Numbers for physics.
    """
    tool, material = parts.tool, parts.material
    helix = math.radians(tool.FHA)
    hb = measured_hardness(parts)
    return CutSetup(
        parts=parts,
        shape=_envelope(parts),
        helix=helix,
        law=_law(parts, helix, hb),
        drive=_drive(parts.machine),
        chip=_chip_limits(parts),
        gullet=_gullet(tool),
        swell=chipspace.SWELL[material.chip_form],
        blown=parts.cut.coolant in _BLOWN,
        hb=hb,
    )


def measured_hardness(parts: CutParts) -> float | None:
    """Hardness of this workpiece [HB], None where the document names none."""
    piece = parts.job.workpiece
    if piece.hardness_hb is not None:
        return piece.hardness_hb
    return None if piece.hardness_hrc is None else float(brinell_from_rockwell(piece.hardness_hrc))


def _envelope(parts: CutParts) -> Envelope:
    tool = parts.tool
    form = {"high_feed": "cone", "chamfer": "cone", "ball": "round", "corner_radius": "round"}.get(
        tool.kind, "straight"
    )
    if form == "round" and tool.corner <= 0:
        form = "straight"
    kappa = 90.0 - tool.half_angle if tool.kind == "chamfer" else (90.0 if tool.kind == "ball" else tool.KAPR)
    centre = tool.flutes_to_centre if tool.flutes_to_centre is not None else 2
    tilt = math.radians(parts.cut.tilt_deg) if tool.kind == "ball" else 0.0
    return Envelope(form, tool.DC, tool.corner, math.radians(kappa), tool.tip_diameter, tilt, tool.ZEFP, centre)


def _law(parts: CutParts, helix: float, hb: float | None) -> forces.ForceLaw:
    m, tool = parts.material, parts.tool
    factor = forces.hardness_factor(hb, m.hb_mid, m.kc_hardness_exp) * forces.rake_factor(tool.GAMF, m.rake_ref_deg)
    kr, ka = m.kr_ratio, m.ka_ratio
    if m.Ktc_n_mm2:
        kr = m.Krc_n_mm2 / m.Ktc_n_mm2 if m.Krc_n_mm2 is not None else kr
        ka = m.Kac_n_mm2 / m.Ktc_n_mm2 if m.Kac_n_mm2 is not None else ka
    return forces.ForceLaw(
        kc11=m.kc11_n_mm2 or 0.0,
        mc=m.mc or 0.0,
        Ktc=m.Ktc_n_mm2 or 0.0,
        Kte=m.Kte_n_mm or 0.0,
        kr=kr,
        ka=float(forces.axial_ratio(ka, helix)),
        factor=factor,
    )


def _chip_limits(parts: CutParts) -> ChipLimits:
    tool, material, data = parts.tool, parts.material, parts.data
    least = 0.0
    if material.min_chip_thickness_um_ref is not None:
        # the table's figure belongs to an edge radius of 10 um
        least = material.min_chip_thickness_um_ref * tool.edge_radius_um / 10.0 / 1000.0
    if data is not None and data.hex_min_rubbing_mm is not None:
        least = max(least, data.hex_min_rubbing_mm)
    typical = data.hex_at("typ", tool.DC) if data else None
    most = data.hex_at("high", tool.DC) if data else None
    return ChipLimits(least or None, typical, most)


def _gullet(tool: Tool) -> float:
    if tool.gullet_area_per_flute_mm2_hint is not None:
        return tool.gullet_area_per_flute_mm2_hint
    return chipspace.gullet_area(tool.DC, tool.core_ratio, tool.ZEFP)


def _drive(machine: Machine) -> Drive:
    curve = machine.curve
    s1 = _duty(curve, "S1", machine, machine.power_s1_kw)
    assert s1 is not None  # resolve refuses a machine with neither curve nor power
    s6 = _duty(curve, "S6-40", machine, machine.power_s6_40_kw) or s1
    idle = curve.idle.points if curve and curve.idle and curve.idle.points else ()
    speeds = [p.speed_rpm for p in idle] or [machine.rpm_max / 2]
    powers = [p.power for p in idle] or [machine.idle_power_at_half_rpm_kw]
    return Drive(
        rpm_min=machine.rpm_min,
        rpm_max=machine.rpm_max,
        rpm_steps=machine.spindle_steps_rpm,
        feed_max=machine.feed_max or math.inf,
        feed_steps=machine.feed_steps_mm_min,
        s1=s1,
        s6=s6,
        idle_speeds=np.array(speeds),
        idle_powers=np.array(powers),
        efficiency=machine.drive_efficiency,
    )


def _duty(curve: Curve | None, name: str, machine: Machine, power: float | None) -> SpindleCurve | None:
    if curve is not None and name in curve.duty:
        points = curve.duty[name].points
        return SpindleCurve(np.array([max(p.speed_rpm, 1e-9) for p in points]), np.array([p.power for p in points]))
    if curve is not None or power is None:
        return None
    base = machine.base_speed_rpm
    if base is None and machine.torque_s1_max_nm:
        base = 9549.3 * (machine.power_s1_kw or power) / machine.torque_s1_max_nm
    return simple_curve(power, base or machine.rpm_max / 5, machine.rpm_max)
