"""Is the set-up ready? The questions a careful colleague asks, in order of importance, each with its number."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model import units
from lesna.planning.limits import LimitUse
from lesna.planning.result import Result

Verdict = Literal["good", "look", "stop"]


@dataclass(frozen=True)
class Check:
    """One line of the readiness list."""

    title: str
    verdict: Verdict
    text: str


Question = Callable[[Result, units.System], Check]
_QUESTIONS: list[Question] = []


def _question(ask: Question) -> Question:
    _QUESTIONS.append(ask)
    return ask


def readiness_of(result: Result, system: units.System) -> tuple[Check, ...]:
    """Every line of the list, in the units shown."""
    return tuple(ask(result, system) for ask in _QUESTIONS)


def _verdict(*limits: LimitUse | None) -> Verdict:
    known = [limit for limit in limits if limit is not None]
    if any(limit.is_broken for limit in known):
        return "stop"
    return "look" if any(limit.use > 0.9 for limit in known) else "good"


def _limit(result: Result, id: str) -> LimitUse | None:
    return next((entry for entry in result.limits if entry.rule.id == id), None)


@_question
def _parameters(result: Result, system: units.System) -> Check:
    s, chip = result.state, result.setup.chip
    verdict = _verdict(_limit(result, "chip_thickness_max"), _limit(result, "chip_thickness_min"))
    span = (
        f"{units.CHIP.text(chip.least, system)} to {units.CHIP.full(chip.most, system)} in the tables"
        if chip.most is not None
        else "no table to compare with"
    )
    return Check(
        "Cutting parameters",
        verdict,
        f"hex {units.CHIP.full(s.hex, system)}, {span}; {units.SURFACE_SPEED.full(s.vc, system)}",
    )


@_question
def _geometry(result: Result, system: units.System) -> Check:
    tool, data = result.setup.parts.tool, result.setup.parts.data
    limit = _limit(result, "chip_space")
    verdict = _verdict(limit)
    room = f"chip fills {limit.use:.0%} of a gullet" if limit else "gullet unknown"
    feature = result.setup.parts.cut.feature
    if feature and feature.kind == "pocket" and not tool.centre_cutting:
        return Check("Tool geometry", "look", f"{tool.ZEFP} flutes, {room}; does not cut to its centre: ramp in")
    if data is not None and data.recommended != "yes":
        verdict = "stop" if data.recommended == "no" else "look"
        return Check(
            "Tool geometry", verdict, f"{tool.ZEFP} flutes; this cutting material is not for {data.group_name}"
        )
    return Check("Tool geometry", verdict, f"{tool.ZEFP} flutes, {room}")


def grip_torque(result: Result) -> float | None:
    """Torque the holder carries at this shank [Nm]: as given, or between the tabled shanks."""
    holder, shank = result.setup.parts.holder, result.setup.parts.tool.DMM
    if holder.grip_torque_nm is not None or shank is None:
        return holder.grip_torque_nm
    table = {
        6: holder.torque_d6_nm,
        10: holder.torque_d10_nm,
        12: holder.torque_d12_nm,
        16: holder.torque_d16_nm,
        20: holder.torque_d20_nm,
    }
    known = [(d, torque) for d, torque in table.items() if torque is not None]
    if not known:
        return None
    return float(np.interp(shank, [d for d, _ in known], [torque for _, torque in known]))


@_question
def _holder(result: Result, system: units.System) -> Check:
    holder = result.setup.parts.holder
    if result.setup.parts.tool.kind == "face":
        return Check("Holder and grip", "good", "arbor mounted: the drive keys carry the torque")
    grip = grip_torque(result)
    lock = "form lock" if "form" in holder.axial_security else "friction only"
    if grip is None:
        return Check("Holder and grip", "look", f"{holder.name}: grip unknown, {lock}")
    share = result.state.torque / grip
    verdict: Verdict = "stop" if share > 1 else "look" if share > 0.3 else "good"
    return Check(
        "Holder and grip",
        verdict,
        f"mean torque {units.TORQUE.full(result.state.torque, system)} of "
        f"{units.TORQUE.full(grip, system)} grip ({share:.0%}), {lock}; peaks are higher",
    )


@_question
def _reach(result: Result, system: units.System) -> Check:
    tool, cut = result.setup.parts.tool, result.setup.parts.cut
    slender = cut.stick_out_mm / tool.DC
    depth = (cut.feature.depth_mm if cut.feature else None) or cut.ap_mm
    spare = cut.stick_out_mm - depth
    if spare < 0:
        return Check(
            "Stick-out",
            "stop",
            f"{units.DIMENSION.full(-spare, system)} too short for a feature "
            f"{units.DIMENSION.full(depth, system)} deep: the holder meets the part",
        )
    verdict: Verdict = "look" if slender > 4 else "good"
    shorter = 1 - (0.9**3)
    return Check(
        "Stick-out",
        verdict,
        f"{slender:.1f} x D, {units.DIMENSION.full(spare, system)} to spare; a tenth shorter bends {shorter:.0%} less",
    )


@_question
def _work(result: Result, system: units.System) -> Check:
    piece = result.setup.parts.job.workpiece
    if piece.clamp_force_n is None:
        return Check(
            "Work holding",
            "look",
            f"clamping force not given; mean side force {units.FORCE.full(result.state.fxy_mean, system)}",
        )
    share = result.state.fxy_mean / (0.2 * piece.clamp_force_n) if piece.clamp_force_n else np.inf
    verdict: Verdict = "stop" if share > 1 else "look" if share > 0.5 else "good"
    return Check(
        "Work holding",
        verdict,
        f"mean side force {units.FORCE.full(result.state.fxy_mean, system)} is "
        f"{share:.0%} of the friction of {units.FORCE.full(piece.clamp_force_n, system)} at 0.2",
    )


@_question
def _spindle(result: Result, system: units.System) -> Check:
    s = result.state
    power, torque = _limit(result, "spindle_power"), _limit(result, "spindle_torque")
    return Check(
        "Spindle",
        _verdict(power, torque, _limit(result, "tool_rated_speed")),
        f"{units.POWER.full(s.power_motor, system)} of {units.POWER.full(s.power_s1, system)} S1, "
        f"{units.TORQUE.full(s.torque, system)} of {units.TORQUE.full(s.torque_s1, system)} at "
        f"{units.SPINDLE_SPEED.full(s.n, system)}",
    )


@_question
def _coolant(result: Result, system: units.System) -> Check:
    cut, data = result.setup.parts.cut, result.setup.parts.data
    grave = [
        c
        for c in result.cautions
        if c.id in ("magnesium_fire", "titanium_fire", "welding", "coolant_avoid", "coolant_shock")
    ]
    if grave:
        return Check("Coolant", "stop" if grave[0].severity == "danger" else "look", grave[0].text)
    word = cut.coolant.replace("_", " ")
    return Check("Coolant", "good", f"{word}; {data.coolant_reason}" if data and data.coolant_reason else word)


@_question
def _coating(result: Result, system: units.System) -> Check:
    tool, data = result.setup.parts.tool, result.setup.parts.data
    what = f"{tool.substrate.replace('_', '-')}, {'uncoated' if tool.coating == 'none' else tool.coating}"
    if data is None:
        return Check("Coating", "look", f"{what}: no starting data for this pair")
    return Check(
        "Coating",
        "good" if data.recommended == "yes" else "look",
        f"{what}, edge radius {units.SMALL.full(tool.edge_radius_um, system)}",
    )
