"""One computation of a cut at one or many engagements: the same lines serve a readout and the whole map."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from lesna.model.resolve import CutParts
from lesna.physics import Array, Num, speeds, spindle
from lesna.physics.edge import chip, chipspace, engagement, envelope, forces
from lesna.physics.edge.cutter import Cutter
from lesna.physics.edge.sweep import Sweep, sweep, sweep_plain
from lesna.physics.edge.turn import Turn, turn_of
from lesna.physics.structure import beam
from lesna.planning.cut.setup import CutSetup, cutter_of, setup_of

#: a book value without a stated engagement is taken here, and table values of the chip hold here
REFERENCE_ENGAGEMENT = 0.5
#: a chip for the specific force where there is none [mm]
_LEAST_CHIP = 1e-6


@dataclass(frozen=True)
class Motion:
    """Engagement, speeds, feeds and chip: what a cut does before any force; floats, or arrays over points or a grid.

    Units as in docs/nomenclature.md.
    """

    ae: Num
    ap: Num
    d_eff: Num
    x: Num
    phi_s: Num
    s_top: Num
    s_mean: Num
    z: Num
    n_asked: Num
    n: Num
    vc: Num
    fz_asked: Num
    chip_reached: Num
    vf_asked: Num
    vf: Num
    fz: Num
    hex: Num
    hex_asked: Num
    hm: Num
    q: Num
    contacts: Num
    kc: Num
    force_factor: Num
    chip_space: Num


@dataclass(frozen=True)
class State(Motion):
    """What a cut does: its motion, and the forces, power, bending and stress that follow."""

    power_cut: Num
    power_motor: Num
    power_s1: Num
    power_s6: Num
    torque: Num
    torque_s1: Num
    torque_s6: Num
    torque_peak: Num
    fx_mean: Num
    fy_mean: Num
    fz_mean: Num
    fxy_peak: Num
    fz_max: Num
    fz_min: Num
    height: Num
    deflection: Num
    wall_error: Num
    stress: Num
    shear: Num

    @property
    def pull_out(self) -> Num:
        """Axial force that draws the tool out of its holder [N], 0 where it is pushed in."""
        return np.maximum(-self.fz_min, 0.0)

    def scalar(self) -> State:
        """The same state with plain floats and bools."""
        plain = {name: bool(value) if name == "chip_reached" else float(value) for name, value in vars(self).items()}
        return State(**plain)


def solve(
    setup: CutSetup, ae: Num, ap: Num, *, vc: Num | None = None, chip_: Num | None = None, plain: bool = False
) -> State:
    """Everything a cut does, over a grid of engagements.

    Parameters
    ----------
    setup : CutSetup
        The cut but for its engagement.
    ae, ap : array (columns,), (rows,)
        Radial engagements and axial depths, the depths rising [mm].
    vc, chip_ : array (columns,) or None
        Surface speed [m/min] and target of the chip [mm] of each column, instead of the cut's own.
    plain : bool
        By one turn after the other, for a small grid while the compiled sums are not there yet.

    Returns
    -------
    State
        Arrays (rows, columns).
    """
    ae, ap = np.asarray(ae, dtype=float), np.asarray(ap, dtype=float)
    motion = motion_of(setup, *np.broadcast_arrays(ae[None, :], ap[:, None]), vc=vc, chip_=chip_)
    sums = sweep_plain if plain else sweep
    loads = sums(setup.cutter, setup.law, _shared_feed(setup, motion), ae, ap, direction=setup.parts.cut.direction)
    return _state(setup, motion, loads.scaled(motion.force_factor), lambda bent: bent * wall_share(setup, ae, ap))


def state_along(setup: CutSetup, ae: Num, ap: Num, n: Num, fz: Num, loads: Sweep, hex_: Num) -> State:
    """What a cut does on the steps of a path, at speeds and feeds that the path gives and loads that were computed for it."""
    shape = setup.shape
    d_eff, d_cut = envelope.effective_diameter(shape, ap), envelope.effective_diameter(shape.upright, ap)
    x = np.minimum(ae / d_cut, 1.0)
    s_top, s_mean = envelope.sin_kappa_top(shape, ap), envelope.sin_kappa_mean(shape, ap)
    phi_s, z = engagement.engagement_angle(x), np.full(np.shape(ae), float(setup.cutter.teeth))
    vf, vc, hm = speeds.feed_speed(n, z, fz), speeds.surface_speed(n, d_eff), chip.mean_thickness(fz, x, s_mean)
    factor = _speed_factor(setup, vc)
    motion = Motion(
        ae=ae, ap=ap, d_eff=d_eff, x=x, phi_s=phi_s, s_top=s_top, s_mean=s_mean, z=z, n_asked=n, n=n, vc=vc, fz_asked=fz,
        chip_reached=np.ones(np.shape(ae), dtype=bool), vf_asked=vf, vf=vf, fz=fz, hex=hex_, hex_asked=hex_, hm=hm,
        q=speeds.removal_rate(ae, ap, vf), contacts=engagement.contacts(z, phi_s, ap, setup.helix, shape.DC),
        kc=setup.law.specific(np.maximum(hm, _LEAST_CHIP)) * factor, force_factor=factor, chip_space=_space(setup, ae, ap, x, fz),
    )  # fmt: skip
    return _state(setup, motion, loads.scaled(factor), lambda bent: bent)


def _speed_factor(setup: CutSetup, vc: Num) -> Num:
    """What the speed does to the force; measured linear coefficients hold at their own."""
    return np.ones(np.shape(vc)) if setup.law.is_linear else forces.speed_factor(vc)


def _shared_feed(setup: CutSetup, motion: Motion) -> Num:
    """Feed of a turn over all teeth: where a shallow ball cuts with fewer, the others share it in these sums [mm]."""
    return motion.vf / motion.n / setup.cutter.teeth


def solve_one(setup: CutSetup, ae: float, ap: float) -> tuple[State, Turn]:
    """Everything a cut does at one engagement, with its forces over one turn.

    Parameters
    ----------
    setup : CutSetup
        The cut but for its engagement.
    ae, ap : float
        Radial engagement and axial depth [mm].

    Returns
    -------
    State
        Floats.
    Turn
        Forces and torque over the angle.
    """
    motion = motion_of(setup, np.asarray(ae, dtype=float), np.asarray(ap, dtype=float))
    teeth = max(1, round(float(motion.z)))
    # where the flutes of a ball come in one after the other, those that cut share the feed of a turn
    turn = turn_of(_cutter_at(setup, teeth), setup.law, float(motion.fz) * float(motion.z) / teeth, ae, ap,
                   direction=setup.parts.cut.direction).scaled(float(motion.force_factor))  # fmt: skip
    fx, fy, fz, torque = turn.means
    loads = Sweep(
        fxy_peak=turn.fxy.max(), fx_mean=fx, fy_mean=fy, fz_mean=fz, fz_max=turn.fz.max(), fz_min=turn.fz.min(),
        torque_mean=torque, torque_peak=turn.torque.max(), height=turn.height,
    )  # fmt: skip
    return _state(setup, motion, loads, lambda bent: wall_error_of(setup, turn, ap, float(loads.height))).scalar(), turn


def _cutter_at(setup: CutSetup, teeth: int) -> Cutter:
    return setup.cutter if teeth == setup.cutter.teeth else cutter_of(setup.parts.tool, setup.shape, teeth)


def motion_of(setup: CutSetup, ae: Num, ap: Num, *, vc: Num | None = None, chip_: Num | None = None) -> Motion:
    """Speeds, feeds, engagement and chip.

    Parameters
    ----------
    setup : CutSetup
        The cut but for its engagement.
    ae, ap : array
        Engagements of one shape [mm].
    vc, chip_ : array or None
        Surface speed [m/min] and target of the chip [mm] instead of the cut's own.
    """
    shape, drive = setup.shape, setup.drive
    d_eff = envelope.effective_diameter(shape, ap)
    # a tilted ball turns with a larger diameter, but cuts the lens of an upright one
    d_cut = envelope.effective_diameter(shape.upright, ap)
    x = np.minimum(ae / d_cut, 1.0)
    s_top, s_mean = envelope.sin_kappa_top(shape, ap), envelope.sin_kappa_mean(shape, ap)
    phi_s = engagement.engagement_angle(x)
    z = envelope.flutes_in_cut(shape, d_cut)
    n_asked = _speed_asked(setup, d_eff) if vc is None else speeds.spindle_speed(vc, d_eff)
    n = speeds.step_at_most(np.clip(n_asked, drive.rpm_min, drive.rpm_max), drive.rpm_steps)
    fz_asked, reached = _feed_asked(setup, x, d_cut, s_top, chip_)
    vf_asked = speeds.feed_speed(n, z, fz_asked)
    vf = speeds.step_at_most(np.minimum(vf_asked, drive.feed_max), drive.feed_steps)
    fz = vf / (n * z)
    hm, vc_run = chip.mean_thickness(fz, x, s_mean), speeds.surface_speed(n, d_eff)
    factor = _speed_factor(setup, vc_run)
    return Motion(
        ae=ae, ap=ap, d_eff=d_eff, x=x, phi_s=phi_s, s_top=s_top, s_mean=s_mean, z=z, n_asked=n_asked, n=n,
        vc=vc_run, fz_asked=fz_asked, chip_reached=reached, vf_asked=vf_asked, vf=vf, fz=fz,
        hex=chip.greatest_thickness(fz, x, d_cut, s_top), hex_asked=chip.greatest_thickness(fz_asked, x, d_cut, s_top),
        hm=hm, q=speeds.removal_rate(ae, ap, vf), contacts=engagement.contacts(z, phi_s, ap, setup.helix, shape.DC),
        kc=setup.law.specific(hm) * factor, force_factor=factor, chip_space=_space(setup, ae, ap, x, fz),
    )  # fmt: skip


def _state(setup: CutSetup, motion: Motion, loads: Sweep, wall: Callable[[Num], Num]) -> State:
    """Power, bending and stress that follow from the loads."""
    drive, structure, n = setup.drive, setup.structure, motion.n
    power = 2 * np.pi * n / 60000.0 * loads.torque_mean
    bar = structure.beam
    root = np.minimum(loads.height, bar.length)
    sections = ((bar.diameter_at(structure.flute_end), structure.flute_end), (bar.diameter_at(bar.length), bar.length))
    stress = np.maximum(*(beam.von_mises(loads.fxy_peak, at - root, loads.torque_peak, d) for d, at in sections))
    bent = 1000.0 * loads.fxy_peak * bar.compliance(0.0, root)
    return State(
        **vars(motion),
        power_cut=power,
        power_motor=spindle.motor_power(power, drive.idle(n), drive.efficiency),
        power_s1=drive.s1.power(n),
        power_s6=drive.s6.power(n),
        torque=loads.torque_mean,
        torque_peak=loads.torque_peak,
        torque_s1=drive.s1.torque(n),
        torque_s6=drive.s6.torque(n),
        fx_mean=loads.fx_mean,
        fy_mean=loads.fy_mean,
        fz_mean=loads.fz_mean,
        fxy_peak=loads.fxy_peak,
        fz_max=loads.fz_max,
        fz_min=loads.fz_min,
        height=loads.height,
        deflection=bent,
        wall_error=wall(bent),
        stress=stress,
        shear=beam.shear_stress(loads.torque_peak, min(d for d, _ in sections)),
    )


def _speed_asked(setup: CutSetup, d_eff: Num) -> Num:
    cut = setup.parts.cut
    if cut.n_rpm is not None:
        return cut.n_rpm + 0.0 * d_eff
    assert cut.vc_wanted is not None  # the document guarantees one of the two
    return speeds.spindle_speed(cut.vc_wanted, d_eff)


def chip_target(setup: CutSetup) -> tuple[float, bool]:
    """The chip thickness that compensation holds, for sin(kappa) = 1, and whether it is a mean [mm].

    The maximum chip of the document or the table holds at half engagement; the mean-chip school keeps the
    mean that belongs to it there. A book value is first turned into its chip at its own engagement.
    """
    cut = setup.parts.cut
    if cut.book is None:
        return _held(setup, cut.hex_mm or 0.0)
    x_ref = cut.book.ae_over_dc or REFERENCE_ENGAGEMENT
    if cut.compensation == "mean_chip":
        return float(chip.mean_thickness(cut.book.fz_mm, x_ref, 1.0)), True
    return float(chip.greatest_thickness(cut.book.fz_mm, x_ref, setup.shape.DC, 1.0)), False


def _held(setup: CutSetup, target: Num) -> tuple[Num, bool]:
    """What compensation holds for a thickest chip at half engagement: that chip, or the mean that belongs to it."""
    if setup.parts.cut.compensation == "mean_chip":
        return target * float(chip.mean_over_greatest(REFERENCE_ENGAGEMENT)), True
    return target, False


def _feed_asked(setup: CutSetup, x: Num, d_eff: Num, s_top: Num, wanted: Num | None) -> tuple[Num, Num]:
    cut = setup.parts.cut
    if cut.fz_mm is not None and wanted is None:
        return cut.fz_mm + 0.0 * x, np.ones(np.shape(x), dtype=bool)
    target, is_mean = chip_target(setup) if wanted is None else _held(setup, wanted)
    # a book value was given for this very edge, its lead angle is already in it
    s_k = np.ones_like(x) if cut.book is not None and wanted is None else s_top
    school = chip.feed_for_mean if is_mean else chip.feed_for_greatest
    fz, reached = school(target, x, d_eff, s_k)
    return np.minimum(fz, _most_compensated(target, is_mean, s_k)), reached


#: compensation never multiplies the feed by more than this: beyond, runout and edge radius decide, not geometry
MOST_COMPENSATION = 4.0


def _most_compensated(target: Num, is_mean: bool, s_k: Num) -> Num:
    """Feed of half engagement times the most that compensation may make of it [mm]."""
    plain = target / chip.mean_over_greatest(REFERENCE_ENGAGEMENT) if is_mean else target
    return MOST_COMPENSATION * plain / s_k


def is_compensation_capped(setup: CutSetup, state: State) -> bool:
    """Whether the cap of compensation holds the feed back."""
    target, is_mean = chip_target(setup)
    s_k = 1.0 if setup.parts.cut.book is not None else state.s_mean if is_mean else state.s_top
    return bool(state.fz_asked >= float(_most_compensated(target, is_mean, s_k)) * (1 - 1e-9))


def _space(setup: CutSetup, ae: Num, ap: Num, x: Num, fz: Num) -> Num:
    feature = setup.parts.cut.feature
    is_slot_feature = feature is not None and feature.kind == "slot"
    is_pocket = feature is not None and feature.kind in ("pocket", "profile") and feature.is_enclosed
    depth = np.maximum(ap, feature.depth_mm or 0.0) if feature is not None else ap
    factor = chipspace.closed_factor(
        slot=(x >= 1.0) | is_slot_feature, pocket=is_pocket, depth_over_d=depth / setup.shape.DC, blown=setup.blown
    )
    return chipspace.space_needed(ae, fz, ap, setup.swell, factor)


#: heights of an edge at which the error of the wall is read, and steps of the grid on which its share is read between
_WALL_HEIGHTS, _WALL_GRID = 25, 7
#: least stepover and depth of that grid, over the greatest
_THINNEST = 0.005


def wall_error_of(setup: CutSetup, turn: Turn, ap: float, height: float) -> float:
    """Deflection normal to the finished surface when the edge that makes it passes, at its worst height [um].

    Positive leaves material, negative cuts into the part. On a slope the component along the surface's normal counts.
    """
    bar, cut = setup.structure.beam, setup.parts.cut
    at_wall, toward = (math.pi, 1.0) if cut.direction == "down" else (0.0, -1.0)
    z = np.linspace(0.0, ap, _WALL_HEIGHTS)
    fy = turn.read(turn.fy, at_wall + float(setup.cutter.leads[0]) * z)
    error = 1000.0 * toward * fy * bar.compliance(np.minimum(z, bar.length), min(height, bar.length)) * _normal(setup)
    return float(error[int(np.argmax(np.abs(error)))])


def _normal(setup: CutSetup) -> float:
    """Share of a sideways deflection along the normal of the finished surface: all of it on a wall."""
    feature = setup.parts.cut.feature
    if feature is None or feature.kind not in ("surface", "face"):
        return 1.0
    return math.sin(math.radians(feature.slope_deg or 0.0)) if feature.kind == "surface" else 0.0


def is_finishing(setup: CutSetup) -> bool:
    """Whether the wall it leaves is what counts, not how far the tip bends."""
    return setup.parts.cut.role in ("semi", "finish")


def wall_share(setup: CutSetup, ae: Num, ap: Num) -> Num:
    """Error of the wall over the tip's deflection (rows, columns); read between a few turns, since feed hardly changes it.

    Not a number where nobody asks for it, in roughing.
    """
    shape = (len(ap), len(ae))
    if not is_finishing(setup):
        return np.full(shape, np.nan)
    cut = setup.parts.cut.model_copy(update={"ae_mm": setup.shape.DC, "ap_mm": setup.depth_top})
    wide, deep, share = _wall_grid(replace(setup.parts, cut=cut))
    by_row = np.stack([np.interp(np.log(ae), np.log(wide), line) for line in share])
    return np.stack([np.interp(np.log(ap), np.log(deep), column) for column in by_row.T], axis=1)


@lru_cache(maxsize=64)
def _wall_grid(parts: CutParts) -> tuple[Array, Array, Array]:
    """Share of the tip's deflection that the wall sees over stepovers (k,) and depths (m,) of the whole tool (m, k)."""
    setup = setup_of(parts)
    wide, deep = (np.geomspace(_THINNEST * end, end, _WALL_GRID) for end in (setup.shape.DC, setup.depth_top))
    share = np.empty((len(deep), len(wide)))
    for row, depth in enumerate(deep):
        for column, width in enumerate(wide):
            state, _ = solve_one(setup, float(width), float(depth))
            share[row, column] = abs(state.wall_error) / max(state.deflection, 1e-12)
    return wide, deep, share


def constant_force_depth(setup: CutSetup) -> float | None:
    """Depth at which the force ripple of a regular cutter vanishes [mm]; None without helix."""
    pitch = float(engagement.axial_pitch(setup.shape.DC, setup.shape.z, setup.helix))
    return pitch if math.isfinite(pitch) else None


def loop_radius(setup: CutSetup) -> float | None:
    """Radius of a trochoid's loops [mm]: what is left beside the tool in its slot; None where nothing is, or no loops run."""
    cut = setup.parts.cut
    feature = cut.feature
    if cut.strategy != "trochoidal" or feature is None or feature.kind != "slot" or feature.width_mm is None:
        return None
    loop = (feature.width_mm - 2 * feature.stock_wall_mm - setup.shape.DC) / 2
    return loop if loop > 0 else None


def loop_advance(setup: CutSetup, ae: float) -> float | None:
    """Advance from loop to loop that engages the tool like a straight stepover [mm]; None where no loops run."""
    loop = loop_radius(setup)
    return None if loop is None else float(engagement.trochoid_advance(setup.shape.DC / 2, loop, ae))


def curve_radius(setup: CutSetup, state: State) -> float | None:
    """Radius of the tool centre's path in an inner corner [mm]; 0 where the tool is as round as the corner.

    None where no corner is known, and in loops, whose advance is chosen for the engagement.
    """
    feature = setup.parts.cut.feature
    if feature is None or feature.corner_radius_mm is None or feature.kind not in ("pocket", "shelf"):
        return None
    return max(0.0, feature.corner_radius_mm - float(state.d_eff) / 2)


def corner_angle(setup: CutSetup, state: State) -> float | None:
    """Widest engagement angle in an inner corner [rad]; None where none is known."""
    rho = curve_radius(setup, state)
    return None if rho is None else float(engagement.concave_angle(float(state.d_eff) / 2, float(state.ae), rho))
