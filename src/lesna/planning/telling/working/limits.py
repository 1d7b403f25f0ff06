"""The limits: value, limit, and what would move it."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.limits import BY_ID, LimitUse
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.entries import (
    Explanation,
    Input,
    Where,
    Working,
    data_row,
    holder_row,
    machine_row,
    tool_row,
)

_ORIGINS = {"machines": machine_row, "tools": tool_row, "cutting_data": data_row, "holders": holder_row}


def limit_working(result: Result, id: str, where: Where) -> Working:
    """The working of a limit: use, value and what it is compared with."""
    entry: LimitUse | None = next((use for use in result.limits if use.rule.id == id), None)
    rule = BY_ID[id]
    words = rule.words
    origin = _ORIGINS[words.table](result, where)
    if entry is None:
        return Working(
            rule.name, None, units.SHARE, Explanation("nothing is known to compare with", (), origin, words.override)
        )
    inputs = (
        Input("is", "value of this cut", entry.value, rule.quantity, "this cut"),
        Input("may be", "limit", entry.limit, rule.quantity, origin),
    )
    return Working(
        rule.name,
        entry.use,
        units.SHARE,
        Explanation(f"use = {words.use}", inputs, "docs/physics.md sections 4 to 11", words.override),
    )
