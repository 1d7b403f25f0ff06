"""From the document's records to the numbers that physics takes: one set-up of one cut."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from lesna.geometry.holder import HolderShape, holder_shape, shank_diameter
from lesna.model import names
from lesna.model.curves import Curve
from lesna.model.job import Workpiece
from lesna.model.library_records import Holder, Machine, Material, Taper, Tool
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num
from lesna.physics.edge import chipspace, envelope, forces
from lesna.physics.edge.cutter import Cutter, Profile
from lesna.physics.edge.envelope import Envelope
from lesna.physics.life.hardness import brinell_from_rockwell
from lesna.physics.spindle import SpindleCurve, simple_curve, torque_speed
from lesna.physics.structure import beam
from lesna.physics.structure.beam import JointDamping, Mode, bending_modes
from lesna.physics.structure.grip import CLAMPING_FRICTION
from lesna.planning.cut.levels import depth_of


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
    is_at_nose: bool

    def idle(self, n: Num) -> Num:
        """Idle power at a speed, from none at rest [kW]."""
        return np.interp(n, self.idle_speeds, self.idle_powers)


@dataclass(frozen=True)
class ChipLimits:
    """Thinnest and thickest chip this edge may take in this material [mm]; None where no table says."""

    least: float | None
    typical: float | None
    most: float | None


@dataclass(frozen=True)
class Structure:
    """What bends, breaks, slips or comes off under the forces; None where nothing is known to compare with.

    Stresses in MPa, torques and moments in Nm, forces in N, lengths in mm.
    """

    beam: beam.Beam
    flute_end: float
    allowed_stress: float
    deflection_limit: float
    grip: float | None
    shank: float
    is_locked: bool
    lever: float
    taper_moment: float | None
    friction_force: float | None
    mass: float
    acceleration: float
    thrust: float | None
    damping: JointDamping

    @cached_property
    def modes(self) -> tuple[Mode, ...]:
        """Bending modes at the tip, the same in both directions."""
        return bending_modes(self.beam, self.damping)


#: how far a chart of depths goes beyond the edge's own, and beyond the feature's
_BEYOND_EDGE, _BEYOND_FEATURE = 1.25, 2.0


@dataclass(frozen=True)
class CutSetup:
    """Everything about a cut but its engagement, in the units of physics."""

    parts: CutParts
    shape: Envelope
    helix: float
    cutter: Cutter
    structure: Structure
    law: forces.ForceLaw
    drive: Drive
    chip: ChipLimits
    gullet: float | None
    swell: float
    blown: bool
    hb: float | None

    def radial_ratio(self, ae: Num, ap: Num) -> Num:
        """Stepover over the diameter that cuts at a depth, at most 1 [-]; a tilted ball cuts the lens of an upright one."""
        return np.minimum(ae / envelope.effective_diameter(self.shape.upright, ap), 1.0)

    @property
    def depth_top(self) -> float:
        """Largest depth worth drawing [mm]: what tool and stick-out can reach, and little more than edge and feature have."""
        cut, tool = self.parts.cut, self.parts.tool
        reach, feature = min(tool.usable_length, cut.stick_out_mm), depth_of(cut.feature)
        return min(reach, _BEYOND_EDGE * tool.edge_depth, math.inf if feature is None else _BEYOND_FEATURE * feature)


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
    hb = hardness_of(parts.workpiece)
    shape = envelope_of(parts.tool, parts.cut.tilt_deg)
    return CutSetup(
        parts=parts,
        shape=shape,
        helix=helix,
        cutter=cutter_of(tool, shape),
        structure=structure_of(parts),
        law=_law(parts, helix, hb),
        drive=_drive(parts.machine),
        chip=_chip_limits(parts),
        gullet=_gullet(tool),
        swell=chipspace.SWELL[material.chip_form] * (chipspace.BROKEN if tool.kind in _BREAKS_CHIPS else 1.0),
        blown=parts.cut.coolant in names.BLOWN,
        hb=hb,
    )


def hardness_of(piece: Workpiece) -> float | None:
    """Measured hardness of a workpiece [HB], None where the document names none."""
    if piece.hardness_hb is not None:
        return piece.hardness_hb
    return None if piece.hardness_hrc is None else float(brinell_from_rockwell(piece.hardness_hrc))


#: tensile strength of a steel over its Brinell hardness [MPa/HB], ISO 18265 table A.1
_STRENGTH_OVER_BRINELL = 3.2


def usual_hardness(material: Material) -> float | None:
    """Hardness to which a material's coefficients belong [HB]: the middle of its range, else by its typical HRC or strength."""
    if material.hb_mid is not None:
        return material.hb_mid
    if material.hardness_hrc_typ is not None:
        return float(brinell_from_rockwell(material.hardness_hrc_typ))
    return None if material.uts_mpa_typ is None else material.uts_mpa_typ / _STRENGTH_OVER_BRINELL


def envelope_of(tool: Tool, tilt_deg: float = 0.0) -> Envelope:
    """Outline of a tool's edges."""
    # a corner radius is cut with wherever one stands, also on an edge that is called square or serrated
    form = "cone" if tool.kind in ("high_feed", "chamfer") else "round" if _has_round_corner(tool) else "straight"
    kappa = 90.0 - tool.half_angle if tool.kind == "chamfer" else (90.0 if tool.is_ball else tool.KAPR)
    centre = tool.flutes_to_centre if tool.flutes_to_centre is not None else 2
    tilt = math.radians(tilt_deg) if tool.is_ball else 0.0
    return Envelope(form, tool.DC, tool.corner, math.radians(kappa), tool.tip_diameter, tilt, tool.ZEFP, centre)


def _has_round_corner(tool: Tool) -> bool:
    return tool.is_ball or (tool.corner > 0 and (tool.kind != "face" or tool.KAPR >= 90.0))


def cutter_of(tool: Tool, shape: Envelope, teeth: int | None = None) -> Cutter:
    """The teeth of a tool: pitch, helix, runout and relief."""
    z = teeth or tool.ZEFP
    if tool.pitch_deg is not None and z == tool.ZEFP:
        places = np.radians(np.concatenate(([0.0], np.cumsum(tool.pitch_deg[:-1]))))
    else:
        places = 2 * np.pi * np.arange(z) / z
    helices = np.radians(tool.helix_deg if tool.helix_deg is not None and z == tool.ZEFP else (tool.FHA,) * z)
    return Cutter(shape, places, helices, (tool.runout_um or 0.0) / 2000.0, _profile(tool))


#: usual relief of roughers where the tool does not name its own, as shares of DC
_WAVE_DEPTH, _WAVE_LENGTH = 0.015, 0.12
_NOTCH_DEPTH, _NOTCH_WIDTH, _NOTCH_SPACING = 0.025, 0.08, 0.75


def _profile(tool: Tool) -> Profile:
    if tool.kind == "serrated":
        depth = _WAVE_DEPTH * tool.DC if tool.wave_depth_mm is None else tool.wave_depth_mm
        return Profile("wave", depth, tool.wave_length_mm or _WAVE_LENGTH * tool.DC)
    if tool.kind == "chip_splitter":
        depth = _NOTCH_DEPTH * tool.DC if tool.notch_depth_mm is None else tool.notch_depth_mm
        width = tool.notch_width_mm or _NOTCH_WIDTH * tool.DC
        return Profile("notch", depth, tool.notch_spacing_mm or _NOTCH_SPACING * tool.DC, width)
    return Profile()


def _law(parts: CutParts, helix: float, hb: float | None) -> forces.ForceLaw:
    m, tool = parts.material, parts.tool
    rake = tool.GAMF if tool.GAMF is not None else _RAKE.get(_rake_group(m), _RAKE_PLAIN)
    # coefficients that were identified on a cutter hold its rake already
    turned = 1.0 if m.Ktc_n_mm2 and tool.GAMF is None else forces.rake_factor(rake, m.rake_ref_deg)
    factor = forces.hardness_factor(hb, usual_hardness(m), m.kc_hardness_exp) * turned
    learned = 1.0 if parts.lesson is None else parts.lesson.force
    grown = factor * learned * forces.wear_factors(parts.cut.wear_vb_mm)
    return law_of_material(m, grown, helix, tool.edge_radius_um)


def law_of_material(m: Material, grown: Num, helix: float, edge_radius: float) -> forces.ForceLaw:
    """The force law of a material."""
    shares = np.array([1.0, m.kr_ratio, float(forces.axial_ratio(m.ka_ratio, helix))])
    if not m.Ktc_n_mm2:
        kienzle = (m.kc11_n_mm2 or 0.0) * shares * grown
        return forces.ForceLaw(mc=m.mc or 0.0, kienzle=kienzle, h1=forces.tangent_below(edge_radius))
    cutting = m.Ktc_n_mm2 * shares
    edge = (m.Kte_n_mm or m.edge_force_n_mm or 0.0) * shares
    for place, (K, Ke) in enumerate(((m.Krc_n_mm2, m.Kre_n_mm), (m.Kac_n_mm2, m.Kae_n_mm)), start=1):
        cutting[place] = cutting[place] if K is None else K
        edge[place] = edge[place] if Ke is None else Ke
    return forces.ForceLaw(mc=0.0, kienzle=np.zeros(3), linear=np.column_stack((cutting * grown, edge * grown)))


#: rake of tools that name none, by what they are made for [deg]
_RAKE, _RAKE_PLAIN = {"N": 16.0, "M": 10.0, "titanium": 10.0, "H": 6.0}, 8.0


def _rake_group(material: Material) -> str:
    return "titanium" if material.data_group.startswith("s-ti") else material.iso_group


#: allowed stress of the tool's substrate [MPa]: transverse rupture over a factor near 3
_ALLOWED_STRESS = {"carbide": 1200.0, "hss": 700.0, "hss_co": 700.0, "indexable": 700.0}
#: tip deflection of roughing over DC, where neither the cut names a limit nor much stock is left
_BENT_OVER_DC = 0.02
#: error of the wall that finer roles allow where the cut names none [um], scaled down below DC 6
_WALL_ERROR = {"semi": 25.0, "finish": 10.0}
_SMALL_TOOL = 6.0
#: what a seat gives as if the shank were so many diameters longer, over the holder's relative stiffness
_SEAT_LENGTH = 0.5
#: damping ratios: of tool and holder themselves, of a plain seat, of taper and bearings
_ZETA_BODY, _ZETA_SEAT, _ZETA_NOSE = 0.015, 0.05, 0.05
#: spindle nose stiffness where the machine names none [N/um]: the generic machine with a 40 taper
NOSE_STIFFNESS = 150.0
#: pieces of the holder's cone
_CONE_PIECES = 5
#: mass that moves with the tool where the taper is not known [kg]
_NOSE_MASS = 3.0


def deflection_limit(parts: CutParts) -> float:
    """Tip deflection that roughing, or wall error that finishing may have [um].

    Roughing: 2 % of DC or half of the stock it leaves, whichever is more.
    """
    cut, tool = parts.cut, parts.tool
    if cut.deflection_limit_um is not None:
        return cut.deflection_limit_um
    if cut.finishes_wall:
        return _WALL_ERROR[cut.role] * min(tool.DC / _SMALL_TOOL, 1.0)
    left = cut.feature.stock_wall_mm if cut.feature is not None else 0.0
    return 1000.0 * max(_BENT_OVER_DC * tool.DC, left / 2)


def structure_of(parts: CutParts) -> Structure:
    """The tool as a beam on its holder, and what holds tool and part."""
    cut, tool, holder, machine, taper = parts.cut, parts.tool, parts.holder, parts.machine, parts.taper
    piece = parts.workpiece
    moment = machine.taper_moment_nm
    if moment is None and taper is not None and machine.drawbar_force_kn is not None:
        moment = taper.moment_per_kn_mm * machine.drawbar_force_kn
    return Structure(
        beam=beam_of(tool, holder, cut.stick_out_mm, taper, machine.spindle_radial_stiffness_n_um),
        flute_end=min(tool.APMX, cut.stick_out_mm),
        allowed_stress=_ALLOWED_STRESS[tool.substrate],
        deflection_limit=deflection_limit(parts),
        grip=_grip(parts),
        shank=tool.DMM if tool.DMM is not None else tool.DC,
        is_locked="form" in holder.axial_security,
        lever=cut.stick_out_mm + (taper.projection_mm if taper is not None else 80.0),
        taper_moment=moment,
        friction_force=None if piece.clamp_force_n is None else CLAMPING_FRICTION * piece.clamp_force_n,
        mass=piece.mass_kg or 0.0,
        acceleration=max(machine.accel_x_m_s2 or 0.0, machine.accel_y_m_s2 or 0.0),
        thrust=machine.axis_thrust_max_n,
        damping=JointDamping(_ZETA_BODY, _ZETA_SEAT * holder.damping_rel, _ZETA_NOSE),
    )


@lru_cache(maxsize=256)
def beam_of(
    tool: Tool, holder: Holder, length: float, taper: Taper | None = None, nose_stiffness: float | None = None
) -> beam.Beam:
    """Fluted part, neck and shank, the holder as a tapered steel beam, on the springs of seat and spindle nose."""
    solid = beam.CARBIDE if tool.substrate == "carbide" else beam.STEEL
    shank = shank_diameter(tool)
    shape = holder_shape(holder, taper, shank)
    neck = tool.DN if tool.DN is not None else min(tool.DC, shank)
    reach = max(tool.usable_length, tool.APMX)
    fluted = min(tool.APMX, length)
    steps = _CONE_PIECES if tool.taper_deg is not None else 1
    pieces = [
        (
            (k + 1) * fluted / steps,
            beam.fluted_diameter(tool.diameter_at((k + 0.5) * fluted / steps), tool.core_ratio),
            solid,
        )
        for k in range(steps)
    ]
    neck = max(neck, min(tool.diameter_at(tool.APMX), shank)) if tool.taper_deg is not None else neck
    for end, diameter in ((min(reach, length), neck), (length, shank)):
        if end > pieces[-1][0] + 1e-9:
            pieces.append((end, diameter, solid))
    pieces += [(length + height, diameter, beam.STEEL) for height, diameter in _holder_cone(shape)]
    inertia = math.pi * shank**4 / 64
    return beam.Beam(
        ends=np.array([end for end, _, _ in pieces]), diameters=np.array([d for _, d, _ in pieces]),
        E=np.array([kind[0] for _, _, kind in pieces]), G=np.array([kind[1] for _, _, kind in pieces]),
        density=np.array([kind[2] for _, _, kind in pieces]), face=length,
        seat=_SEAT_LENGTH * shank / (solid[0] * inertia) / holder.radial_stiffness_rel,
        radial=1.0 / (1000.0 * (nose_stiffness or NOSE_STIFFNESS)),
        root_mass=taper.nose_mass_kg if taper is not None else _NOSE_MASS,
    )  # fmt: skip


def _holder_cone(shape: HolderShape) -> list[tuple[float, float]]:
    """Ends above the face and mean diameters of pieces of the holder [mm]."""
    step = shape.projection / _CONE_PIECES
    return [((k + 1) * step, shape.diameter_at((k + 0.5) * step)) for k in range(_CONE_PIECES)]


def _grip(parts: CutParts) -> float | None:
    """Torque the holder carries at this shank [Nm]: as given, or between the tabled shanks; None on an arbor."""
    holder, shank = parts.holder, parts.tool.DMM
    if parts.tool.kind == "face":
        return None  # drive keys carry the torque
    if holder.grip_torque_nm is not None or shank is None:
        return holder.grip_torque_nm
    table = ((6, holder.torque_d6_nm), (10, holder.torque_d10_nm), (12, holder.torque_d12_nm),
             (16, holder.torque_d16_nm), (20, holder.torque_d20_nm))  # fmt: skip
    known = [(d, torque) for d, torque in table if torque is not None]
    return float(np.interp(shank, [d for d, _ in known], [torque for _, torque in known])) if known else None


def _chip_limits(parts: CutParts) -> ChipLimits:
    tool, material, data = parts.tool, parts.material, parts.data
    least = 0.0
    if material.min_chip_thickness_um_ref is not None:
        # the table's figure belongs to an edge radius of 10 um
        least = material.min_chip_thickness_um_ref * tool.edge_radius_um / 10.0 / 1000.0
    if data is not None and data.hex_min_rubbing_mm is not None:
        least = max(least, data.hex_min_rubbing_mm)
    typical = data.hex_at("typ", tool) if data else None
    most = data.hex_at("high", tool) if data else None
    return ChipLimits(least or None, typical, most)


#: edges that cut a chip into pieces
_BREAKS_CHIPS = frozenset({"serrated", "chip_splitter"})


def _gullet(tool: Tool) -> float | None:
    """Cross section of one gullet [mm2]; None for inserts of which the maker says nothing."""
    if tool.gullet_area_per_flute_mm2_hint is not None:
        return tool.gullet_area_per_flute_mm2_hint
    if tool.substrate == "indexable" or tool.kind == "face":
        return None
    return chipspace.gullet_area(tool.DC, chipspace.core_of(tool.ZEFP, tool.core_dia_ratio), tool.ZEFP)


def _drive(machine: Machine) -> Drive:
    curve = machine.curve
    s1 = _duty(curve, "S1", machine, machine.power_s1_kw, machine.torque_s1_max_nm)
    assert s1 is not None  # resolve refuses a machine with neither curve nor power
    s6 = _duty(curve, "S6-40", machine, machine.power_s6_40_kw, machine.torque_s6_40_max_nm) or s1
    idle = curve.idle.points if curve and curve.idle and curve.idle.points else ()
    known = [p for p in idle if p.speed_rpm > 0]
    speeds = [p.speed_rpm for p in known] or [machine.rpm_max / 2, machine.rpm_max]
    half = machine.idle_power_at_half_rpm_kw
    powers = [p.power for p in known] or [half, 2 * half]
    return Drive(
        rpm_min=machine.rpm_min,
        rpm_max=machine.rpm_max,
        rpm_steps=machine.spindle_steps_rpm,
        feed_max=machine.feed_max or math.inf,
        feed_steps=machine.feed_steps_mm_min,
        s1=s1,
        s6=s6,
        idle_speeds=np.array([0.0, *speeds]),
        idle_powers=np.array([0.0, *powers]),
        # a curve that names the loss it was taken with knows better than the row it is used in
        efficiency=(curve.drive_efficiency if curve else None) or machine.drive_efficiency,
        is_at_nose=machine.is_at_nose,
    )


def _duty(
    curve: Curve | None, name: str, machine: Machine, power: float | None, torque: float | None
) -> SpindleCurve | None:
    """The machine's own curve of a duty class, else its torque up to the speed from which its power is constant."""
    if curve is not None and name in curve.duty:
        points = curve.duty[name].points
        return SpindleCurve(np.array([max(p.speed_rpm, 1e-9) for p in points]), np.array([p.power for p in points]))
    power = power if power is not None or torque is None else machine.power_s1_kw
    if curve is not None or power is None:
        return None
    known = (torque, power) if torque else (machine.torque_s1_max_nm, machine.power_s1_kw or power)
    by_torque = torque_speed(known[1], known[0]) if known[0] else None
    base = by_torque if name != "S1" and torque else machine.base_speed_rpm or by_torque
    return simple_curve(power, base or machine.rpm_max / 5, machine.rpm_max)
