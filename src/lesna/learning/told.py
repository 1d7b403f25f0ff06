"""Ladder, fit and advice as JSON and in words."""

from __future__ import annotations

from typing import Any

from lesna.learning.coach import Advice
from lesna.learning.edges import CRITERION
from lesna.learning.fit import Band, Fit
from lesna.learning.ladder import Ladder
from lesna.learning.stepping import STEPPED
from lesna.learning.trust import SetUp
from lesna.model import units
from lesna.model.shown import counted


def scope_words(scope: SetUp) -> str:
    """What a fit speaks of."""
    coating = "" if scope.coating == "none" else f" {scope.coating}"
    return f"{scope.material} x {scope.substrate.replace('_', ' ')}{coating} x {scope.kind.replace('_', ' ')} D{scope.DC:g}"


def _band(band: Band) -> dict[str, float]:
    return {"median_min": band.median, "low_min": band.low, "high_min": band.high}


def fit_data(fit: Fit) -> dict[str, Any]:
    """A fit as the contract spells it (docs/contract.md, *Trials and the bank*)."""
    held, inside = fit.held_out
    return {
        "scope": scope_words(fit.scope), "edges": fit.edges, "readings": fit.readings, "neighbour_edges": fit.others,
        "own_share": fit.lesson.own_share, "criterion_vb_mm": CRITERION,
        "life": [{"vc_m_min": point.vc, "hex_mm": point.hex, **_band(point.band)} for point in fit.life],
        "at_cut": {**_band(fit.at_cut), "safe_min": fit.safe_min}, "prior_at_cut": _band(fit.prior_at_cut),
        "force_scale": {"median": fit.force.median, "low": fit.force.low, "high": fit.force.high, "edges": fit.force.setups},
        "chatter_depth_scale": {"median": fit.depth.median, "low": fit.depth.low, "high": fit.depth.high, "looks": fit.depth.looks},
        "left_out": [{"reading": one.name, "why": one.why} for one in fit.left_out],
        "flagged": [{"edge": one.name, "why": one.why, "chance": one.value} for one in fit.flagged],
        "influence": [{"edge": one.name, "shift_ln": one.value} for one in fit.influence],
        "check": {"held_out": held, "inside_pct": 100.0 * inside / held if held else None}, "says": list(fit.says),
    }  # fmt: skip


def from_edges(fit: Fit) -> str:
    """How well something is known, in words."""
    if not fit.edges and not fit.others:
        return "table only"
    own = counted(fit.edges, "edge") if fit.edges else ""
    like = f"{counted(fit.others, 'edge')} of set-ups like it" if fit.others else ""
    return f"from {' and '.join(part for part in (own, like) if part)}"


def _minutes(value: float) -> str:
    return f"{value:.1f} min" if value < 10 else f"{value:.0f} min"


def band_words(band: Band) -> str:
    """Median and band."""
    return f"{_minutes(band.median)} ({_minutes(band.low)} to {_minutes(band.high)})"


def fit_lines(fit: Fit) -> list[str]:
    """A fit for somebody who reads it on a terminal."""
    held, inside = fit.held_out
    lines = [
        f"{scope_words(fit.scope)}: {from_edges(fit)}, {counted(fit.readings, 'reading')}",
        f"  edge life of this cut   {band_words(fit.at_cut)}, safe {_minutes(fit.safe_min)}; tables alone {band_words(fit.prior_at_cut)}",
        f"  force over the model    {fit.force.median:.2f} ({fit.force.low:.2f} to {fit.force.high:.2f}), {_by(fit.force.setups, 'edge')}",
        f"  depth of chatter        {fit.depth.median:.2f} ({fit.depth.low:.2f} to {fit.depth.high:.2f}), {_by(fit.depth.looks, 'cut')}",
        "  vc m/min  " + "  ".join(f"{point.vc:>7.0f}" for point in fit.life),
        "  life min  " + "  ".join(f"{point.band.median:>7.1f}" for point in fit.life),
        f"  check: {f'{inside} of {held} edges of known life lie in the band of the others' if held else '0 held out'}",
    ]  # fmt: skip
    lines += [f"  ! {sentence}" for sentence in fit.says]
    lines += [f"  ! {one.name}: {one.why} (chance {100 * one.value:.0f} %); it stays in the fit" for one in fit.flagged]
    return [*lines, *(f"  left out: {one.name}: {one.why}" for one in fit.left_out)]


def _by(count: int, what: str) -> str:
    return f"from {counted(count, what)}" if count else "nothing heard or read yet"


def advice_data(advice: Advice) -> dict[str, Any]:
    """Advice as the contract spells it."""
    change = advice.change
    return {
        "reading": advice.reading, "says": [f"{sign}: {text}" for sign, text in advice.says],
        "change": {"what": change.what, "from": change.before, "to": change.after, "unit": change.unit}, "why": advice.why,
        "look_for": advice.look_for, "after_min": advice.after_min, "source": advice.source, "conflicts": list(advice.conflicts),
        "beyond_model": advice.beyond_model,
    }  # fmt: skip


def change_words(advice: Advice, system: units.System = "metric") -> str:
    """The change in words, in a unit system."""
    change = advice.change
    if change.quantity is not None and isinstance(change.before, float) and isinstance(change.after, float):
        shown = STEPPED[change.quantity]
        before, after = (shown.quantity.full(value, system) for value in (change.before, change.after))
        return f"{shown.name.capitalize()} {before} to {after} ({100 * (change.after / change.before - 1):+.0f} %)"
    if change.what == "coolant":
        return f"Coolant {change.before} to {change.after}".replace("_", " ")
    return {
        "stop": "Stop here", "none": "No change", "holder": "Another holder, or a shorter stick-out", "tool": "Another tool",
    }.get(change.what, change.what)  # fmt: skip


def advice_lines(advice: Advice) -> list[str]:
    """Advice for somebody who reads it on a terminal."""
    lines = [f"{advice.reading}: {'; '.join(text for _, text in advice.says)}"] if advice.reading else []
    lines.append(f"  {change_words(advice)}")
    lines += [f"  why: {advice.why}", f"  look for {advice.look_for}, after {advice.after_min:.0f} min in the cut"]
    lines += [f"  ! signs that conflict: {text}" for text in advice.conflicts]
    if advice.beyond_model:
        lines.append("  ! that lies beyond the range of the tables; go there in smaller steps")
    return lines


def ladder_data(ladder: Ladder) -> dict[str, Any]:
    """A ladder as JSON."""
    shown = STEPPED[ladder.what]
    return {
        "step": ladder.what, "size_pct": 100.0 * ladder.size, "on_scrap": ladder.on_scrap,
        "ceiling": {"what": shown.field, "value": ladder.ceiling, "unit": shown.unit, "held_by": ladder.held_by},
        "steps": [{
            "step": rung.number, "value": rung.value, "unit": shown.unit, "ae_mm": float(rung.result.state.ae),
            "ap_mm": float(rung.result.state.ap), "fz_mm": float(rung.result.state.fz), "hex_mm": float(rung.result.state.hex),
            "vc_m_min": float(rung.result.state.vc), "n_rpm": float(rung.result.state.n), "vf_mm_min": float(rung.result.state.vf),
            "minutes": rung.minutes, "material_cm3": rung.volume, "length_mm": rung.length, "worn_chance": rung.worn_chance,
            "limited_by": rung.result.limited_by.rule.id if rung.result.limited_by else None, "held_by": rung.held_by or None,
        } for rung in ladder.rungs],
        "minutes": ladder.minutes, "material_cm3": ladder.volume, "stop_rule": list(ladder.stop_rule),
    }  # fmt: skip


def ladder_lines(ladder: Ladder, system: units.System) -> list[str]:
    """A ladder for somebody who reads it on a terminal."""
    shown = STEPPED[ladder.what]
    where = "a scrap piece" if ladder.on_scrap else "a real part"
    lines = [f"{shown.name} in steps of {100 * ladder.size:.0f} % on {where}; ceiling {shown.quantity.full(ladder.ceiling, system)} by "
             f"{ladder.held_by.lower()}"]  # fmt: skip
    for rung in ladder.rungs:
        state = rung.result.state
        lines.append(
            f"  {rung.number}. {shown.quantity.full(rung.value, system):>14}   S{state.n:.0f}  "
            f"F {units.FEED.full(float(state.vf), system)}   look after {rung.minutes:.0f} min, "
            f"{units.BULK.full(rung.volume, system)}, {100 * rung.worn_chance:.0f} % worn by then"
        )
    lines.append(f"  in all {ladder.minutes:.0f} min and {units.BULK.full(ladder.volume, system)}")
    return [*lines, *(f"  {sentence}" for sentence in ladder.stop_rule)]
