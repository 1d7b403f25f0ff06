"""What would buy more: the best point again under one change of the set-up at a time, ranked by what it gains.

Adding a change is adding one decorated function: it returns the changed cut, with its label and its reason, or None
where the change does not apply. Each is an ordinary edit of the document, so it can be tried and undone.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from lesna.model import names, units
from lesna.model.errors import InputError
from lesna.model.job import SPEEDS, Cut, Job
from lesna.model.resolve import CutParts, Shelf, parts_with
from lesna.model.work import STEADY, Pulse
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.chatter.stability import advice_of
from lesna.planning.cut.economy import economy_of
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import constant_force_depth, solve_one
from lesna.planning.search.engagement_map import BestPoint, best_in_school

Gain = Literal["removal", "cost", "life", "unattended"]
#: gain -> name on the screen
GAINS: dict[Gain, str] = {
    "removal": "removal", "cost": "cost", "life": "edge life", "unattended": "minutes alone",
}  # fmt: skip
#: gains below this are not worth a change
_WORTH = 0.01
#: stepovers at which a changed set-up is asked for chatter
_NODES = 5


@dataclass(frozen=True)
class Variation:
    """One change of the set-up as values of the cut, or as another machine."""

    label: str
    reason: str
    cut: dict[str, Any]
    machine: str | None = None


@dataclass(frozen=True)
class Offer:
    """A variation with what it gains, and the best point there (lengths in mm)."""

    variation: Variation
    gain: float
    best: BestPoint


@dataclass(frozen=True)
class Yield:
    """What the best point of a set-up gives: the greater, the better, in each gain's own measure."""

    best: BestPoint
    score: float


Proposal = Callable[[CutSetup, Shelf], Variation | None]
PROPOSALS: list[Proposal] = []


def _proposal(make: Proposal) -> Proposal:
    PROPOSALS.append(make)
    return make


def offers_of(parts: CutParts, shelf: Shelf, gain: Gain = "removal", *, pulse: Pulse = STEADY) -> tuple[Offer, ...]:
    """Every variation that gains something, the best first."""
    setup = setup_of(parts)
    needed = solve_one(setup, parts.cut.ae_mm, parts.cut.ap_mm)[0].q
    now = yield_of(setup, gain, needed, pulse)
    found: list[Offer] = []
    for done, make in enumerate(PROPOSALS):
        variation = make(setup, shelf)
        if variation is not None:
            then = yield_with(parts, shelf, variation, (gain, needed), pulse)
            share = None if then is None else math.inf if now is None else then.score / now.score - 1.0
            if then is not None and share is not None and share >= _WORTH:
                found.append(Offer(variation, share, then.best))
        pulse.tell(done + 1, len(PROPOSALS))
    return tuple(sorted(found, key=lambda offer: -offer.gain))


def yield_with(
    parts: CutParts, shelf: Shelf, variation: Variation, wanted: tuple[Gain, float], pulse: Pulse
) -> Yield | None:
    """What a changed set-up gives; a change that this tool or machine cannot make gives nothing."""
    try:
        if variation.machine is not None:
            parts = parts.on_machine(shelf.machines[variation.machine], shelf)
        return yield_of(setup_of(parts_with(parts, _varied(parts.cut, variation), shelf)), *wanted, pulse)
    except InputError:
        return None


def _varied(cut: Cut, variation: Variation) -> Cut:
    return cut.with_values(**variation.cut)


def with_offer(job: Job, index: int, offer: Offer) -> Job:
    """The job with an offer made: the set-up changed, the cut at its best point there."""
    point = {"ae_mm": round(offer.best.ae, 4), "ap_mm": round(offer.best.ap, 4)}
    cuts = list(job.cuts)
    cuts[index] = _varied(cuts[index], offer.variation).with_values(**point)
    machine = offer.variation.machine
    return job.with_values(cuts=tuple(cuts), **({} if machine is None else {"machine": machine}))


def yield_of(setup: CutSetup, gain: Gain, needed: float, pulse: Pulse = STEADY) -> Yield | None:
    """The best point of the school under every limit, and what it is worth; None where there is none.

    Removal: cm3/min. Cost: cm3 for the money of machine, edge and change. Edge life and minutes alone: at the removal
    that is needed, the speed lowered (raised) until the best point gives just that.
    """
    nodes = np.geomspace(0.02 * setup.shape.DC, setup.shape.DC, _NODES)
    field = measured_over_stepover(setup, nodes, pulse)
    best = best_in_school(setup, field, pulse)
    if best is None:
        return None
    if gain == "removal":
        return Yield(best, best.q)
    state, _ = solve_one(setup, best.ae, best.ap)
    economy = economy_of(setup, state, None)
    if economy is None:
        return None
    if gain == "cost":
        rate, edge = economy.rate or 0.0, economy.edge_cost or 0.0
        minute = rate + (edge + economy.change_time * rate) / economy.life
        return Yield(best, best.q / minute) if minute > 0 else None
    life = float(economy.law.median(state.vc * needed / best.q, state.hex, economy.m))
    return Yield(best, life if gain == "life" else life * economy.alone / economy.life)


def _tool(setup: CutSetup, **values: Any) -> dict[str, Any]:
    return {"tool": {**setup.parts.cut.tool.written(), **values}}


# ---------------------------------------------------------------- the changes


@_proposal
def _shorter(setup: CutSetup, shelf: Shelf) -> Variation | None:
    cut = setup.parts.cut
    depth = (cut.feature.depth_mm if cut.feature else None) or cut.ap_mm
    length = round(0.9 * cut.stick_out_mm, 1)
    if length < max(depth, setup.parts.tool.APMX):
        return None  # the holder would meet the part, or grip on the flutes
    here, there = (units.DIMENSION.mark(v) for v in (cut.stick_out_mm, length))
    return Variation(f"Stick-out {here} to {there}", "a tenth shorter bends a quarter less", {"stick_out_mm": length})


@_proposal
def _stiffer_holder(setup: CutSetup, shelf: Shelf) -> Variation | None:
    holder = setup.parts.holder
    stiffer = [h for h in shelf.holders.values() if h.radial_stiffness_rel > holder.radial_stiffness_rel]
    if not stiffer or setup.parts.tool.kind == "face":
        return None
    pick = min(stiffer, key=lambda h: (h.radial_stiffness_rel, h.id))
    return Variation(f"{pick.name} instead", "a stiffer seat", {"holder": pick.id})


@_proposal
def _calmer_holder(setup: CutSetup, shelf: Shelf) -> Variation | None:
    holder = setup.parts.holder
    calmer = [h for h in shelf.holders.values() if h.damping_rel > holder.damping_rel]
    if not calmer or setup.parts.tool.kind == "face":
        return None
    pick = max(calmer, key=lambda h: (h.damping_rel, h.radial_stiffness_rel))
    return Variation(f"{pick.name} instead", "more damping against chatter", {"holder": pick.id})


@_proposal
def _locked_holder(setup: CutSetup, shelf: Shelf) -> Variation | None:
    if setup.structure.is_locked or setup.parts.tool.kind == "face":
        return None
    locked = [h for h in shelf.holders.values() if "form" in h.axial_security]
    if not locked:
        return None
    pick = max(locked, key=lambda h: (h.radial_stiffness_rel, h.id))
    return Variation(f"{pick.name} instead", "a form lock carries the pull-out", {"holder": pick.id})


@_proposal
def _half_runout(setup: CutSetup, shelf: Shelf) -> Variation | None:
    runout = setup.parts.tool.runout_um
    if not runout:
        return None
    here, there = (units.SMALL.mark(v) for v in (runout, runout / 2))
    return Variation(f"Runout {here} to {there}", "the worst tooth cuts less", _tool(setup, runout_um=runout / 2))


@_proposal
def _one_flute_more(setup: CutSetup, shelf: Shelf) -> Variation | None:
    tool = setup.parts.tool
    values: dict[str, Any] = {"ZEFP": tool.ZEFP + 1, "pitch_deg": None, "helix_deg": None}
    if tool.gullet_area_per_flute_mm2_hint is not None:
        values["gullet_area_per_flute_mm2_hint"] = tool.gullet_area_per_flute_mm2_hint * tool.ZEFP / (tool.ZEFP + 1)
    return Variation(
        f"{tool.ZEFP + 1} flutes instead of {tool.ZEFP}", "more teeth at the same chip", _tool(setup, **values)
    )


@_proposal
def _next_corner(setup: CutSetup, shelf: Shelf) -> Variation | None:
    tool = setup.parts.tool
    if tool.kind not in ("square", "corner_radius") or setup.parts.cut.role == "finish":
        return None
    corner = next((r for r in (0.5, 1.0, 2.0, 3.0) if r > tool.RE + 0.1 and r < 0.3 * tool.DC), None)
    if corner is None:
        return None
    shown = units.DIMENSION.mark(corner)
    return Variation(
        f"Corner radius {shown}", "the corner takes more feed", _tool(setup, kind="corner_radius", RE=corner)
    )


#: how far unequal teeth stand off an even pitch
_UNEQUAL = 0.04


@_proposal
def _unequal_pitch(setup: CutSetup, shelf: Shelf) -> Variation | None:
    tool = setup.parts.tool
    if not tool.is_regular or tool.ZEFP < 3:
        return None
    even = 360.0 / tool.ZEFP
    swing = [even * (1 + _UNEQUAL * (-1) ** j) for j in range(tool.ZEFP - tool.ZEFP % 2)]
    pitch = swing + [even] * (tool.ZEFP % 2)
    return Variation("Unequal pitch", "teeth that meet the wave out of step", _tool(setup, pitch_deg=pitch))


@_proposal
def _next_stable_speed(setup: CutSetup, shelf: Shelf) -> Variation | None:
    advice = advice_of(setup) if setup.parts.cut.is_judged_by_modes else None  # an estimate knows no pockets
    if advice is None:
        return None
    n = round(advice.n)
    return Variation(
        f"Speed {units.SPINDLE_SPEED.mark(n)}", "the next pocket between the lobes",
        {**dict.fromkeys(SPEEDS), "n_rpm": float(n)},
    )  # fmt: skip


@_proposal
def _constant_force(setup: CutSetup, shelf: Shelf) -> Variation | None:
    pitch = constant_force_depth(setup)
    cut = setup.parts.cut
    if pitch is None:
        return None
    depth = round(pitch * max(1, round(cut.ap_mm / pitch)), 3)
    if depth > min(setup.depth_top, setup.parts.tool.APMX) or abs(depth / cut.ap_mm - 1) < 0.02:
        return None
    return Variation(
        f"Depth {units.LENGTH.mark(depth)}", "constant-force depth: ripple near zero",
        {"ap_mm": depth, "locks": tuple({*cut.locks, "ap_mm"})},
    )  # fmt: skip


@_proposal
def _through_coolant(setup: CutSetup, shelf: Shelf) -> Variation | None:
    if setup.parts.cut.coolant in names.THROUGH:
        return None
    offered = setup.parts.machine.coolant_options
    if "through" not in offered:
        return None
    medium = "through" if setup.parts.material.iso_group in ("S", "M", "N") else "through_air"
    words = "coolant" if medium == "through" else "air"
    return Variation(f"{words.capitalize()} through the tool", "chips leave the cut", {"coolant": medium})


@_proposal
def _harder_coating(setup: CutSetup, shelf: Shelf) -> Variation | None:
    tool, material = setup.parts.tool, setup.parts.material
    better = "AlTiN" if material.iso_group in ("P", "M", "K", "S", "H") else "DLC"
    if tool.coating != "none" or tool.substrate != "carbide":
        return None
    return Variation(f"{better} coating", "a coating that stands the heat", _tool(setup, coating=better))


@_proposal
def _other_school(setup: CutSetup, shelf: Shelf) -> Variation | None:
    cut = setup.parts.cut
    if cut.fz_mm is not None:
        return None
    other = "mean_chip" if cut.compensation == "max_chip" else "max_chip"
    words = "mean" if other == "mean_chip" else "thickest"
    return Variation(f"Hold the {words} chip", "the other school of compensation", {"compensation": other})


@_proposal
def _next_machine(setup: CutSetup, shelf: Shelf) -> Variation | None:
    here = setup.parts.machine
    power = here.power_s1_kw or 0.0
    stronger = [m for m in shelf.machines.values() if (m.power_s1_kw or 0.0) > power and m.id != here.id]
    if not stronger:
        return None
    pick = min(stronger, key=lambda m: (m.power_s1_kw or 0.0, m.id))
    return Variation(f"On {pick.name}", "the next stronger machine of the shop", {}, machine=pick.id)
