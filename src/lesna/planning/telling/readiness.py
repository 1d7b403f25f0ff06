"""Is the set-up ready? The questions a careful colleague asks, in order of importance, each with its number."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from lesna.model import names, units
from lesna.model.shown import counted
from lesna.physics.structure.grip import CLAMPING_FRICTION
from lesna.planning.cut.life import usual_speeds
from lesna.planning.cut.limits import LimitUse, spindle_demand
from lesna.planning.cut.result import Result
from lesna.planning.cut.suits import misfit
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.standard import below_standard, is_below

Grade = Literal["good", "look", "stop"]

#: abrasiveness from which an edge wants a coating, 0 none to 3 strong
_ABRASIVE = 2
#: use of the grip from which a careful colleague speaks up
_GRIP_LOOK = 0.6
#: above the usual speeds by so much, somebody should have meant it
_FAST_ENOUGH = 1.1


@dataclass(frozen=True)
class Check:
    """One line of the readiness list."""

    title: str
    grade: Grade
    text: str


Ask = Callable[[Result, units.System], Check]
_ASKED: list[Ask] = []


def _asks(ask: Ask) -> Ask:
    _ASKED.append(ask)
    return ask


def readiness_of(result: Result, system: units.System) -> tuple[Check, ...]:
    """Every line of the list, in the units shown."""
    asked = tuple(ask(result, system) for ask in _ASKED)
    return asked if result.setup.parts.standard is None else (*asked, _standard(result, system))


def _grade(*limits: LimitUse | None) -> Grade:
    known = [limit for limit in limits if limit is not None]
    if any(limit.is_broken for limit in known):
        return "stop"
    return "look" if any(limit.use > 0.9 for limit in known) else "good"


def _limit(result: Result, id: str) -> LimitUse | None:
    return next((entry for entry in result.limits if entry.rule.id == id), None)


@_asks
def _parameters(result: Result, system: units.System) -> Check:
    s, chip = result.state, result.setup.chip
    grade = _grade(_limit(result, "chip_thickness_max"), _limit(result, "chip_thickness_min"))
    speeds = usual_speeds(result.setup, s.ae, s.ap)
    told = units.SURFACE_SPEED.full(s.vc, system)
    if speeds is not None:
        low, high = (units.SURFACE_SPEED.text(speed, system) for speed in speeds)
        told += f", usual here {low} to {high}"
        if grade == "good" and not speeds[0] <= s.vc <= speeds[1] * _FAST_ENOUGH:
            grade = "look"
    data = result.setup.parts.data
    thin = data.hex_at("low", result.setup.parts.tool) if data is not None else None
    if grade == "good" and thin is not None and s.hex < thin:
        grade = "look"
    span = (
        f"{units.CHIP.text(chip.least, system)} to {units.CHIP.full(chip.most, system)} in the tables"
        if chip.most is not None
        else "no table to compare with"
    )
    return Check(
        "Cutting parameters",
        grade,
        f"hex {units.CHIP.full(s.hex, system)}, {span}; {told}",
    )


def _standard(result: Result, system: units.System) -> Check:
    """Whether a cut keeps the shop's standard, where one is set."""
    standard = result.setup.parts.standard
    assert standard is not None  # asked for with one
    floor = units.REMOVAL.full(standard.removal, system)
    if not is_below(result):
        return Check("Shop's standard", "good", f"kept: not slower than {floor}")
    return Check("Shop's standard", "look", units.said(below_standard(result) or "", system))


@_asks
def _geometry(result: Result, system: units.System) -> Check:
    tool, data = result.setup.parts.tool, result.setup.parts.data
    limit = _limit(result, "chip_space")
    grade = _grade(limit)
    why = misfit(tool, result.setup.parts.cut.feature)
    if why:
        return Check("Tool geometry", "stop", units.said(why, system))
    room = f"chip fills {limit.use:.0%} of a gullet" if limit else "gullet unknown"
    feature = result.setup.parts.cut.feature
    if feature and feature.kind in ("pocket", "profile") and feature.is_enclosed and not tool.centre_cutting:
        return Check("Tool geometry", "look", f"{tool.ZEFP} flutes, {room}; does not cut to its centre: ramp in")
    if data is not None and data.recommended != "yes":
        grade = "stop" if data.recommended == "no" else "look"
        return Check("Tool geometry", grade, f"{tool.ZEFP} flutes; this cutting material is not for {data.group_name}")
    return Check("Tool geometry", grade, f"{tool.ZEFP} flutes, {room}")


@_asks
def _holder(result: Result, system: units.System) -> Check:
    holder, held = result.setup.parts.holder, result.setup.structure
    if result.setup.parts.tool.kind == "face":
        return Check("Holder and grip", "good", "arbor mounted: the drive keys carry the torque")
    limit = _limit(result, "grip")
    lock = "form lock" if held.is_locked else "friction only"
    lock += f"; shank: {holder.shank_requirement}" if holder.shank_requirement else ""
    if limit is None:
        return Check("Holder and grip", "look", f"{holder.name}: grip unknown, {lock}")
    grade: Grade = "stop" if limit.is_broken else "look" if limit.use > _GRIP_LOOK else "good"
    return Check(
        "Holder and grip",
        grade,
        f"{units.TORQUE.full(limit.value, system)} of {units.TORQUE.full(limit.limit, system)} at the peak "
        f"({limit.use:.0%}), {lock}; pull-out {units.FORCE.full(result.state.pull_out, system)}",
    )


@_asks
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
    grade = _grade(_limit(result, "deflection"), _limit(result, "tool_stress"))
    if grade == "good" and slender > 4:
        grade = "look"
    step = "mm" if system == "metric" else "0.04 in"
    return Check(
        "Stick-out",
        grade,
        f"{slender:.1f} x D, {units.DIMENSION.full(spare, system)} to spare; tip bends "
        f"{units.SMALL.full(result.state.deflection, system)}, {result.stiffness_gain:.1%} less for each {step} shorter",
    )


@_asks
def _taper(result: Result, system: units.System) -> Check:
    limit = _limit(result, "taper_bending")
    machine = result.setup.parts.machine
    if limit is None:
        return Check("Taper", "look", f"{machine.taper or 'taper'}: allowed moment unknown")
    return Check(
        "Taper",
        _grade(limit),
        f"{machine.taper}: {units.TORQUE.full(limit.value, system)} of {units.TORQUE.full(limit.limit, system)} bending",
    )


@_asks
def _runout(result: Result, system: units.System) -> Check:
    tool, holder = result.setup.parts.tool, result.setup.parts.holder
    if tool.runout_um is None:
        usual = holder.runout_3xd_typ_um
        more = f"; {units.SMALL.full(usual, system)} is usual in this holder at 3 x D" if usual is not None else ""
        return Check("Runout", "look", f"not measured, computed as none{more}")
    share = tool.runout_um / 1000.0 / max(result.state.hex, 1e-9)
    grade: Grade = "stop" if result.overload > 1.0 else "look" if result.overload > 0.25 else "good"
    return Check(
        "Runout",
        grade,
        f"{units.SMALL.full(tool.runout_um, system)} is {share:.0%} of the thickest chip: worst tooth "
        f"{result.overload:+.0%}, {result.teeth_working} of {tool.ZEFP} teeth cut",
    )


@_asks
def _work(result: Result, system: units.System) -> Check:
    limit, held = _limit(result, "part_clamping"), result.setup.structure
    force = units.FORCE.full(result.state.fxy_peak, system)
    if limit is None:
        return Check("Work holding", "look", f"clamping force not given; peak side force {force}")
    rapid = ""
    if held.mass > 0 and held.acceleration > 0 and held.friction_force:
        rapid = f"; rapids at {held.acceleration:g} m/s² take {held.mass * held.acceleration / held.friction_force:.0%}"
    grade: Grade = "stop" if limit.is_broken else "look" if limit.use > 0.5 else "good"
    return Check(
        "Work holding",
        grade,
        f"{force} at the peak of {units.FORCE.full(limit.limit, system)} that friction holds at "
        f"{CLAMPING_FRICTION:g}{rapid}",
    )


@_asks
def _chatter(result: Result, system: units.System) -> Check:
    chatter = result.chatter
    advice = (
        "; unequal pitch would disturb it" if result.setup.parts.tool.is_regular and result.setup.shape.z > 2 else ""
    )
    if chatter is None:
        return Check(
            "Chatter", "look", "being computed" if result.is_waiting else "not known for this edge in this material"
        )
    if chatter.basis == "estimate":
        span = f"{units.ROUGH_LENGTH.text(chatter.low, system)} to {units.ROUGH_LENGTH.full(chatter.high, system)}"
        grade: Grade = "stop" if result.state.ap > chatter.high else "look" if result.state.ap > chatter.low else "good"
        lesson = result.setup.parts.lesson
        heard = (
            f", moved by {counted(lesson.depth_looks, 'cut')} that somebody heard"
            if lesson and lesson.depth_looks
            else ""
        )
        return Check(
            "Chatter",
            grade,
            f"an estimate{heard}: to be reckoned with from ap {span}; tap or listen to know better{advice}",
        )
    if chatter.is_open:
        return Check("Chatter", "good", f"no chatter found within the tool's reach ({chatter.basis})")
    pitch = f" near {chatter.frequency:.0f} Hz" if chatter.frequency else ""
    text = f"begins at ap {units.LENGTH.full(chatter.depth, system)}{pitch} ({chatter.basis}, {chatter.method} method{advice})"
    return Check("Chatter", _grade(_limit(result, "stability")), text)


@_asks
def _spindle(result: Result, system: units.System) -> Check:
    s = result.state
    power, torque = _limit(result, "spindle_power"), _limit(result, "spindle_torque")
    return Check(
        "Spindle",
        _grade(power, torque, _limit(result, "tool_rated_speed")),
        f"{units.POWER.full(float(spindle_demand(result.setup, s)), system)} of {units.POWER.full(s.power_s1, system)} S1, "
        f"{units.TORQUE.full(s.torque, system)} of {units.TORQUE.full(s.torque_s1, system)} at "
        f"{units.SPINDLE_SPEED.full(s.n, system)}",
    )


@_asks
def _coolant(result: Result, system: units.System) -> Check:
    cut, data, machine = result.setup.parts.cut, result.setup.parts.data, result.setup.parts.machine
    if not names.offers(machine.coolant_options, cut.coolant):
        has = machine.coolant_options.replace(";", ",")
        return Check("Coolant", "stop", f"{names.COOLANTS[cut.coolant]} is not on this machine, which has {has}")
    grave = [
        c
        for c in cautions_of(result)
        if c.id in ("magnesium_fire", "titanium_fire", "welding", "coolant_avoid", "coolant_shock")
    ]
    if grave:
        return Check("Coolant", "stop" if grave[0].severity == "danger" else "look", units.said(grave[0].text, system))
    word = names.COOLANTS[cut.coolant]
    # the row tells why its first choice is best, and nothing of the others
    is_first = data is not None and data.cooled_best_by == names.ranked_as(cut.coolant)
    return Check(
        "Coolant", "good", f"{word}; {data.coolant_reason}" if data and is_first and data.coolant_reason else word
    )


@_asks
def _coating(result: Result, system: units.System) -> Check:
    tool, data = result.setup.parts.tool, result.setup.parts.data
    what = f"{tool.substrate.replace('_', '-')}, {'uncoated' if tool.coating == 'none' else tool.coating}"
    if data is None:
        return Check("Coating", "look", f"{what}: no starting data for this pair")
    is_bare = tool.coating == "none" and result.setup.parts.material.abrasiveness >= _ABRASIVE
    what += "; this material is abrasive and wears a bare edge" if is_bare else ""
    return Check(
        "Coating",
        "good" if data.recommended == "yes" and not is_bare else "look",
        f"{what}, edge radius {units.SMALL.full(tool.edge_radius_um, system)}",
    )
