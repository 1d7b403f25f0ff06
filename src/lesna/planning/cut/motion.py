"""How a cut moves before any force: speed, feed, chips and engagement that follow from what is set and what the machine allows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Num, speeds
from lesna.physics.edge import chip, chipspace, engagement, envelope, forces
from lesna.planning.cut.life import speed_keeping
from lesna.planning.cut.setup import CutSetup

#: a book value without a stated engagement is taken here, and table values of the chip hold here
REFERENCE_ENGAGEMENT = 0.5


#: rounds in which speed and chip are found that keep a life together
_ROUNDS = 3
#: a chip for the specific force where there is none [mm]
LEAST_CHIP = 1e-6


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


def speed_factor_of(setup: CutSetup, vc: Num) -> Num:
    """What the speed does to the force; measured linear coefficients hold at their own."""
    return np.ones(np.shape(vc)) if setup.law.is_linear else forces.speed_factor(vc)


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
    x = setup.radial_ratio(ae, ap)
    s_top, s_mean = envelope.sin_kappa_top(shape, ap), envelope.sin_kappa_mean(shape, ap)
    phi_s = engagement.engagement_angle(x)
    z = envelope.flutes_in_cut(shape, d_cut)
    fz_asked, reached = _feed_asked(setup, x, d_cut, s_top, chip_)

    def run(n_asked: Num) -> tuple[Num, Num, Num, Num]:
        """Speed, feed asked for, feed and feed per tooth that come of a speed."""
        n = speeds.step_at_most(np.clip(n_asked, drive.rpm_min, drive.rpm_max), drive.rpm_steps)
        vf_asked = speeds.feed_speed(n, z, fz_asked)
        vf = speeds.step_at_most(np.minimum(vf_asked, drive.feed_max), drive.feed_steps)
        return n, vf_asked, vf, vf / (n * z)

    if vc is not None:
        n_asked = speeds.spindle_speed(vc, d_eff)
    elif setup.parts.cut.life_min_wanted is None:
        n_asked = _speed_asked(setup, d_eff)
    else:
        fz = fz_asked
        for _ in range(_ROUNDS):
            kept = speed_keeping(setup, ae, ap, chip.greatest_thickness(fz, x, d_cut, s_top))
            n_asked = speeds.spindle_speed(kept, d_eff)
            # a chip that the machine's feed makes thinner spares the edge
            fz = run(n_asked)[3]
    n, vf_asked, vf, fz = run(n_asked)
    hm, vc_run = chip.mean_thickness(fz, x, s_mean), speeds.surface_speed(n, d_eff)
    factor = speed_factor_of(setup, vc_run)
    return Motion(
        ae=ae, ap=ap, d_eff=d_eff, x=x, phi_s=phi_s, s_top=s_top, s_mean=s_mean, z=z, n_asked=n_asked, n=n,
        vc=vc_run, fz_asked=fz_asked, chip_reached=reached, vf_asked=vf_asked, vf=vf, fz=fz,
        hex=chip.greatest_thickness(fz, x, d_cut, s_top), hex_asked=chip.greatest_thickness(fz_asked, x, d_cut, s_top),
        hm=hm, q=speeds.removal_rate(ae, ap, vf), contacts=engagement.contacts(z, phi_s, ap, setup.helix, shape.DC),
        kc=setup.law.specific(hm) * factor, force_factor=factor, chip_space=chip_space_of(setup, ae, ap, x, fz),
    )  # fmt: skip


def _speed_asked(setup: CutSetup, d_eff: Num) -> Num:
    cut = setup.parts.cut
    if cut.n_rpm is not None:
        return cut.n_rpm + 0.0 * d_eff
    assert cut.vc_wanted is not None  # the document guarantees one of the three
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


def is_compensation_capped(setup: CutSetup, state: Motion) -> bool:
    """Whether the cap of compensation holds the feed back."""
    target, is_mean = chip_target(setup)
    s_k = 1.0 if setup.parts.cut.book is not None else state.s_mean if is_mean else state.s_top
    return bool(state.fz_asked >= float(_most_compensated(target, is_mean, s_k)) * (1 - 1e-9))


def chip_space_of(setup: CutSetup, ae: Num, ap: Num, x: Num, fz: Num) -> Num:
    """Room that a chip takes in its gullet, swollen, and more where it does not get out [mm3]."""
    feature = setup.parts.cut.feature
    is_slot_feature = feature is not None and feature.kind == "slot"
    is_pocket = feature is not None and feature.kind in ("pocket", "profile") and feature.is_enclosed
    depth = np.maximum(ap, feature.depth_mm or 0.0) if feature is not None else ap
    factor = chipspace.closed_factor(
        slot=(x >= 1.0) | is_slot_feature, pocket=is_pocket, depth_over_d=depth / setup.shape.DC, blown=setup.blown
    )
    return chipspace.space_needed(ae, fz, ap, setup.swell, factor)


def chip_room_of(setup: CutSetup, ap: Num) -> Num | None:
    """Room of one gullet over a depth [mm3]; None for inserts of which the maker says nothing."""
    return None if setup.gullet is None else chipspace.room_of(setup.gullet, ap, setup.shape.DC)
