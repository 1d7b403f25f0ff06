"""Loops through a slot: the engagement of consecutive loop circles, and the air that each loop costs."""

from __future__ import annotations

import math

from lesna.model import units
from lesna.planning.schools.strategies.base import (
    LEAD_ANGLE,
    Case,
    Stage,
    Strategy,
    acceleration,
    by_its_way,
    corners_left,
    entry_problem,
    reach_problem,
    register,
    task_of,
)  # fmt: skip
from lesna.planning.search.optimum import Optimum

#: narrowest slot that leaves a loop, and widest that is cut in one line of loops, over DC
_NARROWEST, _WIDEST = 1.15, 2.2


def _width(case: Case) -> tuple[float, int]:
    """Width of one line of loops, and how many lie side by side."""
    lines = max(1, math.ceil(case.solid.width / (_WIDEST * case.D) - 1e-9))
    return case.solid.width / lines, lines


def _fastest(case: Case, r: float) -> float:
    """Feed at which the axes can just turn a loop [mm/min]."""
    return 60.0 * math.sqrt(acceleration(case.parts) * r)


def _suits(case: Case) -> str:
    if case.solid.kind in ("shelf", "face", "surface"):
        return "the side is open: straight passes need no loops"
    if case.parts.tool.kind == "high_feed":
        return LEAD_ANGLE
    width, _ = _width(case)
    if width < _NARROWEST * case.D:
        return f"a slot of {units.LENGTH.mark(width)} leaves the tool no loop"
    return entry_problem(case, case.setup) or reach_problem(case, case.setup)


def _stages(case: Case) -> tuple[Stage, ...]:
    minutes = by_its_way(case.setup, "trochoidal", case.feature)
    return (Stage(task_of(case, case.setup, "trochoidal", "loops", minutes), "trochoidal"),)


def _feeds(case: Case, found: Optimum) -> str:
    """Feed of the centre, and what the edge at the wall runs at, for controls that are told the latter."""
    width, _ = _width(case)
    R, r = case.D / 2, (width - case.D) / 2
    centre = min(found.state.vf, _fastest(case, r))
    return (
        f"Centre {units.FEED.mark(centre)}, edge at the wall {units.FEED.mark(centre * (r + R) / r)}. "
        f"{corners_left(case, found)}"
    ).strip()


register(Strategy(
    "trochoidal", "Trochoidal", "Right for slots a little wider than the tool, in hard or gummy material.",
    _suits, _stages, note=_feeds,
))  # fmt: skip
