"""The limits: value, limit, and what would move it."""

from __future__ import annotations

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
