"""Side cutting: heavy stepover at part depth, or thin stepover at full depth."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.schools.strategies.base import (
    LEAD_ANGLE,
    Case,
    Stage,
    Strategy,
    by_its_way,
    corners_left,
    entry_problem,
    even_lines,
    reach_problem,
    register,
    task_of,
)  # fmt: skip

#: room beside the tool, over DC, from which leaning on it is another thing than slotting
_ROOM = 1.3
#: slot width over DC from which a thin cut needs no loops
_SLOT_ROOM = 2.0


def side_suits(case: Case) -> str:
    """Why cutting from the side does not suit; empty where it does."""
    if case.solid.kind == "surface":
        return "a surface is cut line beside line"
    if case.parts.tool.kind == "high_feed":
        return LEAD_ANGLE
    if case.solid.largest_cutter < _ROOM * case.D:
        return f"between walls {units.LENGTH.mark(case.solid.largest_cutter)} apart the tool has no side free"
    return entry_problem(case, case.setup) or reach_problem(case, case.setup)


def thin_suits(case: Case) -> str:
    """Why a thin cut at full depth does not suit; empty where it does."""
    if case.solid.kind == "slot" and case.solid.width < _SLOT_ROOM * case.D:
        return f"in a slot of {units.LENGTH.mark(case.solid.width)} a thin cut runs in loops: that is trochoidal"
    return side_suits(case)


def _heavy(case: Case) -> tuple[Stage, ...]:
    setup, minutes = case.setup, by_its_way(case.setup, "heavy_radial", case.feature)
    lines = even_lines(case, setup, "heavy_radial")
    return (Stage(task_of(case, setup, "heavy_radial", "rings", minutes, stepovers=lines), "heavy_radial"),)


def _light(case: Case) -> tuple[Stage, ...]:
    setup, minutes = case.setup, by_its_way(case.setup, "light_radial", case.feature)
    lines = even_lines(case, setup, "light_radial")
    return (Stage(task_of(case, setup, "light_radial", "thin passes", minutes, stepovers=lines), "light_radial"),)


register(Strategy(
    "heavy_radial", "Heavy radial", "For stiff spindles and short tools, where torque is there and length is not.",
    side_suits, _heavy, note=corners_left,
))  # fmt: skip
register(Strategy(
    "light_radial", "Light radial, full depth",
    "Preferred with long flutes and fast machines: the heat leaves with thin chips and the whole edge wears evenly.",
    thin_suits, _light, note=corners_left,
))  # fmt: skip
