"""Side cutting: heavy stepover at part depth, or thin stepover at full depth."""

from __future__ import annotations

import numpy as np

from lesna.model import units
from lesna.physics import Array, Num
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State
from lesna.planning.cut.windows import window_of
from lesna.planning.schools.strategies.base import (
    LEAD_ANGLE,
    Case,
    Stage,
    Strategy,
    corner_share,
    corners_left,
    entry,
    entry_problem,
    even_stepovers,
    levels_of,
    reach_problem,
    register,
    task_of,
    travel,
)  # fmt: skip
from lesna.planning.search.optimum import Minutes

#: of the length of a thin controlled cut so much works at its full stepover, and moves between passes add so much
EFFICIENCY, LINK_SHARE = 0.89, 0.22
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


def _lines(case: Case, setup: CutSetup, school: str) -> Array | None:
    """Stepovers that come out even on an open side, None in a closed feature."""
    if case.solid.is_closed or case.solid.kind == "slot":
        return None
    window = window_of(school, setup.parts.data, setup.parts.tool)
    least, most = (window.ae_min, window.ae_max) if window else (0.05 * case.D, case.D)
    return even_stepovers(case.solid.width, least, most)


def one_way(case: Case, setup: CutSetup) -> Minutes:
    """Minutes of passes along an open side, each followed by a return above the part."""

    def minutes(state: State) -> tuple[Num, Num]:
        levels = levels_of(case, state.ap)
        passes = np.ceil(case.solid.width / state.ae - 1e-9)
        length = case.solid.length + setup.shape.DC  # in from the side and out again
        return passes * levels * length / state.vf, travel(setup.parts, passes * levels * length, passes * levels)

    return minutes


def _heavy(case: Case) -> tuple[Stage, ...]:
    setup, solid = case.setup, case.solid

    def rings(state: State) -> tuple[Num, Num]:
        levels = levels_of(case, state.ap)
        cutting = solid.area * levels / (state.ae * state.vf) * corner_share(case, setup, state.ae)
        count = np.ceil(solid.width / 2 / state.ae)
        links = travel(setup.parts, levels * (count * state.ae + solid.depth), levels)
        return cutting, entry(case, setup, state, levels) + links

    lines = _lines(case, setup, "heavy_radial")
    minutes = rings if lines is None else one_way(case, setup)
    return (Stage(task_of(case, setup, "heavy_radial", "rings", minutes, stepovers=lines), "heavy_radial"),)


def _light(case: Case) -> tuple[Stage, ...]:
    setup = case.setup
    lines = _lines(case, setup, "light_radial")
    minutes = controlled(case, setup) if lines is None else one_way(case, setup)
    return (Stage(task_of(case, setup, "light_radial", "thin passes", minutes, stepovers=lines), "light_radial"),)


def controlled(case: Case, setup: CutSetup) -> Minutes:
    """Minutes of a path that holds its engagement, with its moves between passes."""

    def minutes(state: State) -> tuple[Num, Num]:
        levels = levels_of(case, state.ap)
        cut = case.solid.area / (state.ae * EFFICIENCY) * levels
        links = travel(setup.parts, LINK_SHARE * cut, cut / max(case.solid.length, 1e-9))
        return cut / state.vf, entry(case, setup, state, levels) + links

    return minutes


register(Strategy(
    "heavy_radial", "Heavy radial", "For stiff spindles and short tools, where torque is there and length is not.",
    side_suits, _heavy, note=corners_left,
))  # fmt: skip
register(Strategy(
    "light_radial", "Light radial, full depth",
    "Preferred with long flutes and fast machines: the heat leaves with thin chips and the whole edge wears evenly.",
    thin_suits, _light, note=corners_left,
))  # fmt: skip
