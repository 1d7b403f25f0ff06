"""What the last look at an edge says, and the one change to make of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.learning.edges import CRITERION, CRITERION_LOCAL, LOCAL, land_share
from lesna.learning.fit import Fit
from lesna.learning.ladder import risk_of
from lesna.learning.next_step import LATEST, LOOKS_OF_SPEED, Quantity, Step, look_after, next_step
from lesna.learning.rules import Pace, Rule, Seen, holds
from lesna.learning.settings import Taken
from lesna.learning.stepping import STEPPED, limits_seen, point_of, points, prices_of, stepped, value_of
from lesna.model import names
from lesna.model.resolve import CutParts
from lesna.model.trials import Reading
from lesna.planning.chatter.stability import advice_of
from lesna.planning.cut.life import usual_speeds
from lesna.planning.cut.motion import chip_room_of
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of

#: an edge that lives shorter than so much of what was predicted wears fast, longer than this slowly
_FAST, _SLOW = 0.6, 1.6
#: share of running-in by which a look is read as a life
_RUN_IN = 0.25
#: a reduction and a rise never go further than this at once
_MOST_LESS, _MOST_MORE = 0.5, 1.5
#: chance of seeing a sign again that a reduction leaves
_SIGN_DARED = 0.25
_QUANTITY: dict[str, Quantity] = {"fz_mm": "feed", "ap_mm": "depth", "vc_m_min": "speed", "ae_mm": "stepover"}
#: why there is no next step, in words
_ENDED = {
    "ceiling": "geometry and machine hold no more: the ceiling is reached",
    "risk": "the next step would risk more than it can win",
    "gain": "no step is left that would bring 3 %",
}


@dataclass(frozen=True)
class Change:
    """One change: a field of the cut, or coolant, tool, holder, ``stop`` and ``none``."""

    what: str
    before: float | str | None = None
    after: float | str | None = None
    unit: str = ""

    @property
    def quantity(self) -> Quantity | None:
        """What a ladder would call it."""
        return _QUANTITY.get(self.what)


@dataclass(frozen=True)
class Advice:
    """What the coach says.

    Attributes
    ----------
    reading : str
        The look it speaks of; empty where there is none.
    says : tuple of (str, str)
        Signs: the rule, and what it says.
    change : Change
        The one change.
    why, look_for, source : str
        Why, what to look for next, and where that is known from.
    after_min : float
        Minutes in the cut after which to look next [min].
    conflicts : tuple of str
        Signs that speak against each other.
    beyond_model : bool
        Whether the change leads where the tables know nothing.
    """

    reading: str
    says: tuple[tuple[str, str], ...]
    change: Change
    why: str
    look_for: str
    after_min: float
    source: str = ""
    conflicts: tuple[str, ...] = ()
    beyond_model: bool = False


def coach(result: Result, fit: Fit, rules: Sequence[Rule], *, on_scrap: bool = True) -> Advice:
    """One change of a cut by what its last readings say.

    Parameters
    ----------
    result : Result
        The cut.
    fit : Fit
        What is known of its set-up; its readings are looked at.
    rules : sequence of Rule
        The rule base.
    on_scrap : bool
        Whether a scrap piece is cut; a real part is risked less.
    """
    risk = risk_of(result, on_scrap=on_scrap)
    looked = _last(fit.own)
    if not looked:
        after = look_after(fit.posterior, point_of(result), risk, LATEST)
        return Advice("", (), Change("none"), "no edge of this set-up was looked at yet: cut as it stands and look early",
                      "where wear begins: corner, depth line or along the flute", after)  # fmt: skip
    here = _as_it_ran(result, looked[-1].reading)
    found: list[tuple[Rule, Taken]] = []
    for one in looked:
        seen = _seen(here, fit, one)
        first = next((rule for rule in rules if holds(rule, one.reading, seen)), None)
        others = [rule for rule in rules if rule is not first and first is not None and rule.change.what != "next"
                  and holds(rule, one.reading, seen) and _is_other_sign(first, rule)]  # fmt: skip
        found += [(rule, one) for rule in ([first] if first is not None else []) + others]
    if not found:
        last = looked[-1].reading
        why = "the look says nothing that calls for a change"
        return Advice(last.called, (), Change("none"), why, "the same once more", LATEST)
    found.sort(key=lambda pair: -pair[0].weight)
    rule, one = found[0]
    conflicts = tuple(_conflicts(found))
    change, why = _answered(here, fit, rule, one, risk, conflicts)
    after, beyond = _next_look(here, fit, change, risk)
    says = tuple(dict.fromkeys((each.id, each.says) for each, _ in found))
    return Advice(one.reading.called, says, change, why, rule.look_for, after, rule.source, conflicts, beyond)


def _last(own: Sequence[Taken]) -> list[Taken]:
    """The newest look of every edge that was looked at in the last step, the very last one at the end."""
    if not own:
        return []
    newest = max(own, key=lambda one: (one.reading.taken_on, one.reading.step or 0, one.reading.minutes))
    mark = (newest.reading.trial, newest.reading.step, newest.reading.taken_on)
    by_edge: dict[str, Taken] = {}
    for one in sorted(own, key=lambda one: one.reading.minutes):
        if (one.reading.trial, one.reading.step, one.reading.taken_on) == mark:
            by_edge[one.reading.edge] = one
    return sorted(by_edge.values(), key=lambda one: one is newest)


def _as_it_ran(result: Result, reading: Reading) -> Result:
    """The cut as it was set when it was looked at, so that a change begins where the edge has been."""
    parts = result.setup.parts
    tool = parts.tool
    ae, ap = reading.ae_mm or parts.cut.ae_mm, reading.ap_mm or parts.cut.ap_mm
    if (
        not (reading.n_rpm and reading.vf_mm_min)
        or ae > tool.DC
        or ap > min(tool.usable_length, parts.cut.stick_out_mm)
    ):
        return result
    ran: CutParts = parts.with_cut(
        ae_mm=ae, ap_mm=ap, n_rpm=reading.n_rpm, vc_m_min=None, life_min_wanted=None, book=None, hex_mm=None,
        fz_mm=reading.vf_mm_min / (reading.n_rpm * tool.ZEFP), coolant=reading.coolant or parts.cut.coolant,
    )  # fmt: skip
    return result_of(setup_of(ran), timing=result.timing, wait=False)


def _seen(here: Result, fit: Fit, one: Taken) -> Seen:
    setup, state = here.setup, here.state
    room = chip_room_of(setup, float(state.ap))
    return Seen(
        pace=_pace(fit, one), measured=setup.parts.cut.is_judged_by_modes, wet=setup.parts.cut.coolant in ("flood", "mist", "through"),
        chip_under_least=bool(setup.chip.least and state.hex < setup.chip.least),
        chip_room=float(state.chip_space) / room if room else 0.0,
    )  # fmt: skip


def _pace(fit: Fit, one: Taken) -> Pace:
    """How fast the land grew against what the tables and the other edges said before."""
    land, minutes = one.reading.vb_mm, one.reading.minutes
    if land is None or minutes <= 0:
        return ""
    limit = CRITERION_LOCAL if one.reading.wear_kind in LOCAL else CRITERION
    shares = np.geomspace(0.01, 20.0, 400)
    share = float(np.interp(land / limit, land_share(shares, np.array(_RUN_IN)), shares))
    predicted = one.setting.life * math.exp(_expected(fit, one))
    implied = minutes / share
    return "fast" if implied < _FAST * predicted else "slow" if implied > _SLOW * predicted else "usual"


def _expected(fit: Fit, one: Taken) -> float:
    """ln of the median life over the table's without this very edge."""
    x = np.array([1.0, *one.setting.x])
    name = f"{one.reading.trial} / {one.reading.edge}"
    place = next((k for k, edge in enumerate(fit.posterior.edges) if edge.name == name), None)
    if place is None:
        return fit.posterior.shift(x)
    return float(fit.posterior.without()[place] @ (fit.posterior.beta @ x))


def _is_other_sign(first: Rule, other: Rule) -> bool:
    """Whether a rule speaks of something else than a variant of the first one."""
    return other.change.what != first.change.what or other.direction * first.direction < 0


def _conflicts(found: Sequence[tuple[Rule, Taken]]) -> list[str]:
    """Pairs of signs that ask for opposite things, or edges of which one asks for less while another could take more."""
    out = []
    for k, (rule, one) in enumerate(found):
        for other, two in found[k + 1 :]:
            differ = rule.change.what != other.change.what
            opposite = not differ and rule.direction * other.direction < 0
            mixed = differ and one.reading.edge != two.reading.edge and "next" in (rule.change.what, other.change.what)
            if opposite or mixed:
                out.append(f"{one.reading.called}: {rule.says}; {two.reading.called}: {other.says}")
    return list(dict.fromkeys(out))


def _answered(
    here: Result, fit: Fit, rule: Rule, one: Taken, risk: float, conflicts: Sequence[str]
) -> tuple[Change, str]:
    """The change that a rule asks for, its size by what is known, and why."""
    what, answer = rule.change.what, rule.change
    if what == "next":
        if conflicts:
            return Change("none"), "the edges disagree: cut the same once more"
        return _stepped_up(here, fit, rule, risk)
    if what == "coolant":
        to = answer.to if names.offers(here.setup.parts.machine.coolant_options, "air") else "dry"
        return Change("coolant", here.setup.parts.cut.coolant, to), rule.why
    if what in ("holder", "tool"):
        return Change(what, here.setup.parts.holder.name or here.setup.parts.holder.id, None), rule.why
    quantity = _QUANTITY[what]
    factor, told = _size(here, fit, rule, quantity, risk)
    before = value_of(here, quantity)
    return Change(what, before, before * factor, STEPPED[quantity].unit), f"{rule.why}{told}"


def _size(here: Result, fit: Fit, rule: Rule, quantity: Quantity, risk: float) -> tuple[float, str]:
    """How far a change goes, and what says so where it is not the rule itself."""
    answer = rule.change
    if answer.by == "limit":
        limits = limits_seen(fit.own)
        name = "depth" if quantity == "depth" else "feed"
        used = point_of(here).used.get(name)
        if used:
            grid = np.linspace(_MOST_LESS, 0.9, 41)
            fitting = [float(f) for f in grid if limits[name].sign_chance(used * float(f)) <= _SIGN_DARED]
            size = max(fitting, default=_MOST_LESS)
            again = limits[name].sign_chance(used * size)
            return size, f" So far down the chance of seeing it again is {100 * again:.0f} %."
    if answer.by == "posterior":
        step = _best_speed(here, fit, risk)
        if step is not None and step.factor < 0.99:
            return step.factor, f" By what is known now that is cheaper by {100 * step.gain:.0f} %."
    if answer.by == "least_chip" and here.setup.chip.least and here.state.hex < here.setup.chip.least:
        rise = here.setup.chip.least * 1.1 / float(here.state.hex)
        return min(rise, _MOST_MORE), " That is a tenth over the least chip of this edge."
    if answer.by == "chart":
        advice = advice_of(here.setup)
        if advice is not None:
            turned = float(advice.n) / float(here.state.n)
            return turned, f" At {advice.n:.0f} rpm there is room for {advice.ap:.1f} mm."
    return answer.factor, ""


def _best_speed(here: Result, fit: Fit, risk: float) -> Step | None:
    step = next_step(
        fit.posterior, limits_seen(fit.own), points(here), prices_of(here.setup.parts), risk, among=("speed",)
    )
    return step if step.what == "speed" else None


def _stepped_up(here: Result, fit: Fit, rule: Rule, risk: float) -> tuple[Change, str]:
    """The largest worthwhile step in one quantity, or that it is best to stop."""
    fixed = here.setup.parts.cut.fixed
    among: tuple[Quantity, ...] = tuple(
        q for q in ("feed", "depth", "stepover", "speed") if STEPPED[q].field not in fixed
    )
    step = next_step(
        fit.posterior, limits_seen(fit.own), points(here), prices_of(here.setup.parts), risk, among=among,
        looks_of_speed=min(_looks_at_this_speed(fit, here), LOOKS_OF_SPEED),
    )  # fmt: skip
    if not step.what:
        return Change("stop"), f"{_ENDED[step.why_none].capitalize()}: keep this as the recipe."
    stepped_ = STEPPED[step.what]
    before = value_of(here, step.what)
    if step.factor == 1.0:
        why = (
            "Feed and depth are as far as they should go; look at this speed once more, later, to know its life better."
        )
        return Change("none"), why
    gain = f"{rule.why} A cm³ becomes cheaper by {100 * step.gain:.0f} %, at a chance of {100 * step.chance:.0f} % of losing the edge."
    if step.at_ceiling:
        gain += " Geometry or machine hold no more than this."
    return Change(stepped_.field, before, before * step.factor, stepped_.unit), gain


def _looks_at_this_speed(fit: Fit, here: Result) -> int:
    """Edges that were looked at where the cut stands."""
    speed = float(here.state.n)
    here_looked = (one.reading for one in fit.own if one.reading.n_rpm and abs(one.reading.n_rpm / speed - 1.0) < 0.02)
    return len({reading.edge for reading in here_looked}) - 1


def _next_look(here: Result, fit: Fit, change: Change, risk: float) -> tuple[float, bool]:
    """Minutes until the next look after a change, and whether it leads where the tables know nothing."""
    then: Result | None = here
    if change.quantity is not None and isinstance(change.before, float) and isinstance(change.after, float):
        then = stepped(here, change.quantity, change.after / change.before)
    if then is None:
        return LATEST, True
    usual = usual_speeds(then.setup, then.state.ae, then.state.ap)
    beyond = then.economy is not None and not then.economy.is_valid
    if usual is not None and change.what == "vc_m_min":
        beyond = beyond or not usual[0] * 0.8 <= float(then.state.vc) <= usual[1] * 1.2
    return look_after(fit.posterior, point_of(then), risk, LATEST), beyond


def with_change(parts: CutParts, change: Change) -> dict[str, Any]:
    """Fields of the cut that a change sets; empty where it is nothing that stands in the cut."""
    if change.quantity is not None:
        others = {"fz_mm": ("hex_mm", "book"), "vc_m_min": ("n_rpm", "life_min_wanted")}.get(change.what, ())
        return {change.what: change.after, **dict.fromkeys(others)}
    return {"coolant": change.after} if change.what == "coolant" else {}
