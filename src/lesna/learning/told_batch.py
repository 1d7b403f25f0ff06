"""Recipes like a cut, the spread of a batch and the plan of an unattended run, as JSON and in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from lesna.learning.batch import BatchSpread
from lesna.learning.recipes import Like, is_proven
from lesna.learning.run_plan import RunPlan, Stop, ToolPlan, Watch
from lesna.model import units
from lesna.model.shown import counted

#: stands under every plan of a run that nobody watches
UNATTENDED = "Fire watch, doors and what jams are not in it: the machine builder's and the shop's own rules come first."


def like_data(found: Sequence[Like]) -> list[dict[str, Any]]:
    """Recipes as the contract spells them."""
    return [{
        "id": one.name, "title": one.name, "distance": one.distance,
        "differences": [{"what": what, "here": here, "there": there} for what, here, there in one.differences],
        "evidence": one.data.get("evidence", {}), "proven": is_proven(one.data),
        "cut": {**one.data.get("setup", {}), **one.data.get("set", {})},
    } for one in found]  # fmt: skip


def proof_words(one: Like) -> str:
    """What stands behind a recipe."""
    evidence = one.data.get("evidence", {})
    if not is_proven(one.data):
        return "not proven by any edge"
    return f"{counted(evidence['edges'], 'edge')}, {evidence['minutes']:.0f} min in the cut"


def like_lines(found: Sequence[Like]) -> list[str]:
    """Recipes for somebody who reads them on a terminal."""
    lines = []
    for one in found:
        lines.append(f"{one.distance:5.2f}  {one.name} ({proof_words(one)})")
        lines += [
            f"         {what}: {here} here, {there} there" if here else f"         {what}: {there}"
            for what, here, there in one.differences
        ]
    return lines


def spread_data(found: BatchSpread) -> dict[str, Any]:
    """A batch as the contract spells it."""
    middle, low, high = found.minutes
    cost = found.cost or (None, None, None)
    return {
        "parts": found.parts, "minutes_per_part": middle, "minutes_low": low, "minutes_high": high, "edges_per_part": found.edges,
        "cost_per_part": cost[0], "cost_low": cost[1], "cost_high": cost[2],
        "cuts": [{
            "name": cut.name, "minutes": cut.minutes[0], "minutes_low": cut.minutes[1], "minutes_high": cut.minutes[2],
            "edges": cut.edges[0], "edges_low": cut.edges[1], "edges_high": cut.edges[2],
            "cost": cut.cost[0] if cut.cost else None, "from_edges": cut.from_edges,
        } for cut in found.cuts],
        "from": "bank" if found.is_own else "model", "unknown": list(found.unknown),
    }  # fmt: skip


def spread_words(found: BatchSpread) -> str:
    """The spread of a part in one sentence."""
    middle, low, high = map(units.clock, found.minutes)
    words = f"{middle} min:s a part with its share of the set-up, {low} to {high} in nine of ten batches"
    return (
        words
        if found.cost is None
        else f"{words}; {found.cost[0]:.2f} a part, {found.cost[1]:.2f} to {found.cost[2]:.2f}"
    )


def spread_lines(found: BatchSpread) -> list[str]:
    """A batch for somebody who reads it on a terminal."""
    lines = [f"{counted(found.parts, 'part')}: {spread_words(found)}"]
    for cut in found.cuts:
        source = f"from {counted(cut.from_edges, 'edge')}" if cut.from_edges else "by the tables"
        edges, least, most = cut.edges
        lines.append(
            f"  {cut.name}: {units.clock(cut.minutes[0])} min:s, {edges:.3g} edges ({least:.3g} to {most:.3g}), {source}"
        )
    return [*lines, *(f"  {name}: its time or its edge life is not known and not in the sum" for name in found.unknown)]


def plan_data(found: RunPlan) -> dict[str, Any]:
    """A run plan as JSON."""
    watch = found.watch
    return {
        "hours": watch.hours, "survival": watch.survival, "parts": found.parts, "minutes_per_part": found.part_minutes,
        "sister_tools": found.sisters, "pockets": watch.pockets, "lasts_h": found.lasts, "stops_first": found.stops_first,
        "chips_l": found.chips, "stops": [{"what": stop.what, "at_h": stop.at, "why": stop.why} for stop in found.stops],
        "cuts": [{
            "name": tool.name, "alone_min": tool.alone, "parts_per_edge": tool.parts_per_edge, "edges": tool.edges,
            "changes_h": list(tool.changes), "why": tool.why,
        } for tool in found.tools],
    }  # fmt: skip


def plan_sentence(found: RunPlan) -> str:
    """A run plan in one sentence."""
    part, watch = units.clock(found.part_minutes), found.watch
    needs = f"{counted(found.parts, 'part')} of {part} min:s take {counted(found.sisters, 'tool')} in the magazine"
    chips = "" if found.chips is None else f" and leave {found.chips:.0f} l of loose chips"
    return f"{watch.hours:g} h: {needs}{chips}"


def tool_words(tool: ToolPlan) -> tuple[str, ...]:
    """A tool as it stands in the table: its cuts, minutes alone, parts of an edge, edges, and when the next one takes over."""
    each = counted(tool.parts_per_edge, "part") if tool.parts_per_edge else "none"
    return (tool.name, f"{tool.alone:.0f}", each, str(tool.edges), _changes(tool.changes), tool.why)


#: changes that are written out
_TOLD = 6


def _changes(changes: Sequence[float]) -> str:
    words = ", ".join(units.clock(60.0 * at) for at in changes[:_TOLD])
    return f"{words} and {len(changes) - _TOLD} more" if len(changes) > _TOLD else words or "none"


def stop_words(stop: Stop, watch: Watch) -> tuple[str, ...]:
    """A stop as it stands in the table: what, when, why."""
    return (stop.what, f"{stop.at:.1f} h" if stop.at < watch.hours else f"{stop.at:.1f} h, after the run", stop.why)


def plan_lines(found: RunPlan) -> list[str]:
    """A run plan for somebody who reads it on a terminal."""
    lines = [plan_sentence(found)]
    for tool in found.tools:
        each = f"{counted(tool.parts_per_edge, 'part')} an edge" if tool.parts_per_edge else tool.why
        lines.append(
            f"  {tool.name}: {tool.alone:.0f} min alone, {each}, {counted(tool.edges, 'edge')}, changes at {_changes(tool.changes)} h:min:s"
        )
    lines += [f"  {what} {at}: {why}" for what, at, why in (stop_words(stop, found.watch) for stop in found.stops)]
    return [*lines, f"  first: {found.stops_first}", f"  {UNATTENDED}"]
