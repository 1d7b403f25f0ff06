"""One computation of a cut at one or many engagements: the same lines serve a readout and the whole map."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from lesna.model.resolve import CutParts
from lesna.physics import Array, Num, speeds, spindle
from lesna.physics.edge import chip, engagement, envelope
from lesna.physics.edge.cutter import Cutter
from lesna.physics.edge.sweep import Sweep, sweep, sweep_plain
from lesna.physics.edge.turn import Turn, turn_of
from lesna.physics.structure import beam
from lesna.planning.cut.motion import LEAST_CHIP, Motion, chip_space_of, motion_of, speed_factor_of
from lesna.planning.cut.setup import CutSetup, cutter_of, setup_of
from lesna.planning.cut.walls import is_finishing, wall_error_of


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


@dataclass(frozen=True)
class Contact:
    """What of a cutter is in the material on the steps of a path.

    Attributes
    ----------
    ae, ap : array (n,)
        Radial engagement and axial depth [mm]; of a cutter that leans their product is the engaged area.
    d_eff, d_cut : array (n,)
        Widest diameter in contact, for speed and for the engagement [mm].
    s_top, s_mean : array (n,)
        Sine of the lead angle where the edge leaves the material, and its mean over the engaged edge [-].
    """

    ae: Num
    ap: Num
    d_eff: Num
    d_cut: Num
    s_top: Num
    s_mean: Num


def upright_contact(setup: CutSetup, ae: Num, ap: Num) -> Contact:
    """What is in contact of a cutter that stands upright at a stepover and a depth [mm]."""
    shape = setup.shape
    return Contact(
        ae, ap, envelope.effective_diameter(shape, ap), envelope.effective_diameter(shape.upright, ap),
        envelope.sin_kappa_top(shape, ap), envelope.sin_kappa_mean(shape, ap),
    )  # fmt: skip


def state_along(setup: CutSetup, seen: Contact, n: Num, fz: Num, loads: Sweep, hex_: Num) -> State:
    """What a cut does on the steps of a path, at speeds and feeds that the path gives and loads that were computed for it."""
    shape, ae, ap, d_eff, s_top, s_mean = setup.shape, seen.ae, seen.ap, seen.d_eff, seen.s_top, seen.s_mean
    x = np.minimum(ae / seen.d_cut, 1.0)
    phi_s, z = engagement.engagement_angle(x), np.full(np.shape(ae), float(setup.cutter.teeth))
    vf, vc, hm = speeds.feed_speed(n, z, fz), speeds.surface_speed(n, d_eff), chip.mean_thickness(fz, x, s_mean)
    factor = speed_factor_of(setup, vc)
    motion = Motion(
        ae=ae, ap=ap, d_eff=d_eff, x=x, phi_s=phi_s, s_top=s_top, s_mean=s_mean, z=z, n_asked=n, n=n, vc=vc, fz_asked=fz,
        chip_reached=np.ones(np.shape(ae), dtype=bool), vf_asked=vf, vf=vf, fz=fz, hex=hex_, hex_asked=hex_, hm=hm,
        q=speeds.removal_rate(ae, ap, vf), contacts=engagement.contacts(z, phi_s, ap, setup.helix, shape.DC),
        kc=setup.law.specific(np.maximum(hm, LEAST_CHIP)) * factor, force_factor=factor, chip_space=chip_space_of(setup, ae, ap, x, fz),
    )  # fmt: skip
    return _state(setup, motion, loads.scaled(factor), lambda bent: bent)


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


def constant_force_depth(setup: CutSetup) -> float | None:
    """Depth at which the force ripple of a regular cutter vanishes [mm]; None without helix."""
    pitch = float(engagement.axial_pitch(setup.shape.DC, setup.shape.z, setup.helix))
    return pitch if math.isfinite(pitch) else None


#: steps of the grid on which the share of the wall is read between
_WALL_GRID = 7
#: least stepover and depth of that grid, over the greatest
_THINNEST = 0.005


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
