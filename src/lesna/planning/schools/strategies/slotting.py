"""Full slots, and a slot first with the walls swept after it."""

from __future__ import annotations

import numpy as np

from lesna.model import units
from lesna.model.job import Feature
from lesna.planning.schools.strategies.base import (
    LEAD_ANGLE,
    Case,
    Stage,
    Strategy,
    by_its_way,
    corners_left,
    entry_problem,
    reach_problem,
    register,
    task_of,
)  # fmt: skip

#: a slot beside which less than this is left, over DC, needs no sweep
_WORTH_SWEEPING = 0.6


def _slot_suits(case: Case) -> str:
    if case.solid.kind in ("shelf", "face", "surface"):
        return "the side is open: nothing asks for the full width"
    if case.parts.tool.kind == "high_feed":
        return LEAD_ANGLE
    if case.solid.largest_cutter < case.D:
        return f"the tool is wider than the {units.LENGTH.mark(case.solid.largest_cutter)} between the walls"
    return entry_problem(case, case.setup) or reach_problem(case, case.setup)


def _slot_stages(case: Case) -> tuple[Stage, ...]:
    minutes, width = by_its_way(case.setup, "full_slot", case.feature), np.array([case.D])
    return (Stage(task_of(case, case.setup, "full_slot", "slot", minutes, stepovers=width), "full_slot"),)


def _first_suits(case: Case) -> str:
    left = case.solid.width - case.D
    if case.solid.kind not in ("slot", "pocket", "through"):
        return "there is an open side to start from; a slot would only be in the way"
    if left < _WORTH_SWEEPING * case.D:
        return f"beside the slot only {units.LENGTH.mark(max(left, 0.0))} would be left to sweep"
    return _slot_suits(case)


def _first_stages(case: Case) -> tuple[Stage, ...]:
    setup, solid = case.setup, case.solid
    slot_area = min(solid.length * case.D, 0.9 * solid.area)
    rest = solid.area - slot_area
    slot = Feature.read({"kind": "slot", "length_mm": solid.length, "width_mm": case.D, "depth_mm": solid.depth,
                         "closed": solid.is_closed})  # fmt: skip
    # a drawn floor stays what its drawing says
    narrowed = {"width_mm": max(solid.width - case.D, 1e-3), "profile_mm": (), "islands_mm": ()}
    swept = case.feature if case.feature.drawn is not None else case.feature.with_values(**narrowed)
    first = task_of(case, setup, "full_slot", "slot", by_its_way(setup, "full_slot", slot), stepovers=np.array([case.D]),
                    volume=slot_area * solid.depth / 1000.0)  # fmt: skip
    second = task_of(
        case,
        setup,
        "light_radial",
        "walls",
        by_its_way(setup, "light_radial", case.feature, share=rest / solid.area),
        volume=rest * solid.depth / 1000.0,
    )
    return (
        Stage(first, "full_slot", name="slot first", feature=slot),
        Stage(second, "light_radial", feature=swept),
    )


register(Strategy(
    "full_slot", "Full slot", "Right for a slot as wide as the tool, on a stiff machine, with air to clear the chips.",
    _slot_suits, _slot_stages, note=corners_left,
))  # fmt: skip
register(Strategy(
    "slot_first", "Slot first, then walls", "Preferred where the slot opens to an edge; the first slot is loud.",
    _first_suits, _first_stages, note=corners_left,
))  # fmt: skip
