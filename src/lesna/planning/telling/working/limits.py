"""The limits: value, limit, and what would move it."""

from __future__ import annotations

from collections.abc import Callable

from lesna.model import units
from lesna.planning.chatter.estimate import depth_over_diameter, rigidity
from lesna.planning.cut.limits import BY_ID, LimitUse
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.inputs import (
    TYPED,
    Explanation,
    Input,
    Where,
    data_row,
    holder_row,
    machine_row,
    tool_row,
)

_ORIGINS = {
    "machines": machine_row,
    "tools": tool_row,
    "cutting_data": data_row,
    "holders": holder_row,
    "": lambda result, where: TYPED,
}


_CONFIDENCE = {
    "A": "confidence A: measured, or given by the maker", "B": "confidence B: tables, or a force from tables",
    "C": "confidence C: an estimate; a measurement settles it",
}  # fmt: skip


def _bends(result: Result) -> str:
    cut = result.setup.parts.cut
    if cut.deflection_limit_um is not None:
        return TYPED
    if cut.finishes_wall:
        return "usual for a wall in this role, as nothing is typed in this cut"
    return "2 % of DC, or half of the stock that is left, as nothing is typed in this cut"


def _substrate(result: Result) -> str:
    return f"usual for {result.setup.parts.tool.substrate.replace('_', '-')}"


def _taper(result: Result) -> str:
    return (
        ""
        if result.setup.parts.machine.taper_moment_nm is not None
        else "table of tapers, times the pull of the drawbar"
    )


def _gullet(result: Result) -> str:
    tool = result.setup.parts.tool
    return (
        ""
        if tool.gullet_area_per_flute_mm2_hint is not None
        else "from diameter, core and teeth, as the tool's row names no gullet"
    )


def _clamping(result: Result) -> str:
    return "clamping force typed in this job, at a friction of 0.2"


def _modes(result: Result) -> str:
    return f"{result.chatter.basis} modes of this cut" if result.chatter is not None else ""


def _feature(result: Result) -> str:
    return "the feature of this cut"


#: limits that no row states, or not always: what stands for it there; empty where the row does
_NOT_OF_A_ROW: dict[str, Callable[[Result], str]] = {
    "deflection": _bends, "tool_stress": _substrate, "tool_torsion": _substrate, "taper_bending": _taper, "chip_space": _gullet,
    "part_clamping": _clamping, "stability": _modes, "feature_depth": _feature, "cusp": _feature,
}  # fmt: skip


def limit_explanation(result: Result, id: str, where: Where) -> Explanation:
    """How a limit is judged: use, value and what it is compared with."""
    entry: LimitUse | None = next((use for use in result.limits if use.rule.id == id), None)
    rule = BY_ID[id]
    words = rule.words
    origin = _ORIGINS[words.table](result, where)
    if entry is None:
        return Explanation("nothing is known to compare with", (), origin, words.override)
    if id == "stability" and result.chatter is not None and result.chatter.basis == "estimate":
        return _estimate(result, entry)
    assumed = _NOT_OF_A_ROW.get(id)
    origin = (assumed(result) if assumed is not None else "") or origin
    inputs = (
        Input("is", "value of this cut", entry.value, rule.quantity, "this cut"),
        Input("may be", "limit", entry.limit, rule.quantity, origin),
        Input("least", "use if all lies on the good side", entry.low, units.SHARE, _CONFIDENCE[entry.confidence]),
        Input("most", "use if all lies on the bad side", entry.high, units.SHARE, _CONFIDENCE[entry.confidence]),
    )
    return Explanation(f"use = {words.use}", inputs, "docs/physics.md sections 4 to 11", words.override)


def _estimate(result: Result, entry: LimitUse) -> Explanation:
    """What stands for chatter until somebody measures."""
    setup = result.setup
    depth = depth_over_diameter(setup.parts, result.state.ae / setup.shape.DC)
    return Explanation(
        "use = ap / (1.25 DC A(ae/DC) S); an estimate without lobes, a factor of 1.6 either way",
        (
            Input("ap", "axial depth", entry.value, units.LENGTH, "typed in this cut"),
            Input("A", "depth of the cutting data at this stepover, over DC", None if depth is None else float(depth), units.RATIO,
                  "light cut, heavy cut and slot of the row, straight between in logarithms"),
            Input("S", "stiffness and damping against the same tool 3 DC out of a shrink-fit holder on a 40 taper",
                  rigidity(setup), units.RATIO, "stick-out, holder table, machine"),
            Input("ap est", "depth to reckon with", entry.limit, units.LENGTH, _CONFIDENCE["C"]),
        ),
        "docs/physics.md section 11", "Tap the tool or listen to the cut: measured modes bring the real chart.",
    )  # fmt: skip
