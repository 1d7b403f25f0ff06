"""Roughing with a finishing pass by a second tool, and corners drilled before the cutter comes."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from lesna.model import units
from lesna.model.job import Feature
from lesna.planning.cut.economy import tool_change_of
from lesna.planning.cut.features import solid_of
from lesna.planning.cut.finishing import FINE_CHIP, allowance
from lesna.planning.cut.levels import even_depths
from lesna.planning.cut.setup import setup_of
from lesna.planning.schools.strategies.base import (
    Case,
    Stage,
    Strategy,
    by_its_way,
    own_speed,
    register,
    speeds_of,
    task_of,
)  # fmt: skip
from lesna.planning.schools.strategies.radial import thin_suits
from lesna.planning.search.optimum import Optimum

#: corners are drilled where they are rounder than the tool by no more than this
_TIGHT = 1.6
#: feed a turn of a drill over its diameter, its surface speed over the cutter's, and minutes of approach a hole
_DRILL_FEED, _DRILL_SPEED, _APPROACH = 0.015, 0.5, 0.05


def _finish_suits(case: Case) -> str:
    if case.solid.kind in ("face", "surface"):
        return "there are no walls to finish"
    if case.parts.cut.role == "finish":
        return "this cut is the finishing already"
    return thin_suits(case)


def _stock(case: Case) -> float:
    return max(case.feature.stock_wall_mm, allowance(case.D))


def _finish_stages(case: Case) -> tuple[Stage, ...]:
    stock, setup = _stock(case), case.setup
    rough_feature = case.feature.with_values(stock_wall_mm=case.feature.stock_wall_mm + stock)
    solid = solid_of(rough_feature)
    assert solid is not None  # the feature had one before it was made smaller
    roughing = Case(setup, solid, case.shelf)
    rough = task_of(roughing, setup, "light_radial", "roughing", by_its_way(setup, "light_radial", rough_feature))
    parts = setup.parts
    finishing = setup_of(replace(parts, cut=parts.cut.model_copy(
        update={"role": "finish", "deflection_limit_um": None, "wear_vb_mm": 0.0, "locks": ()})))  # fmt: skip
    walls, deep = case.solid.wall, min(finishing.parts.tool.APMX, finishing.depth_top)

    wall = Feature.read({"kind": "shelf", "length_mm": round(walls, 3), "width_mm": stock, "depth_mm": case.solid.depth,
                         "corner_radius_mm": case.feature.corner_radius_mm})  # fmt: skip
    along = by_its_way(finishing, "light_radial", wall, role="finish")
    finish = task_of(case, finishing, "light_radial", "walls with a second tool", along, stepovers=np.array([stock]),
                     volume=walls * stock * case.solid.depth / 1000.0)  # fmt: skip
    typical = finishing.chip.typical
    chips = (
        finish.chips if typical is None else (max(FINE_CHIP * typical, 1.2 * (finishing.chip.least or 0.0)), typical)
    )
    finish = replace(finish, depths=even_depths(case.solid.depth, deep), chips=chips)
    return (
        Stage(rough, "light_radial", feature=rough_feature),
        Stage(finish, "light_radial", name="walls", feature=wall, role="finish"),
    )


def _apart(case: Case, found: Optimum) -> str:
    """How the two tools are kept from being mixed up."""
    stock = units.SMALL.mark(1000.0 * _stock(case))
    return f"Leaves {stock} for the second tool, which looks the same: mark it and keep it for this pass."


def _drill_suits(case: Case) -> str:
    r = case.solid.smallest_radius
    if case.solid.kind not in ("pocket", "through") or r <= 0 or case.feature.outline:
        return "there are no inner corners of a known radius"
    if 2 * r > _TIGHT * case.D:
        return f"corners of {units.LENGTH.mark(r)} are wide enough for the tool as they are"
    return thin_suits(case)


def _drilling(case: Case) -> tuple[float, str]:
    """Minutes to drill the corners, by a rule for solid drills."""
    r, setup = case.solid.smallest_radius, case.setup
    d = 2 * r
    slow = (speeds_of(setup) or (own_speed(setup),))[0]
    n = 1000.0 * _DRILL_SPEED * slow / (math.pi * d)
    each = (case.solid.depth + 0.3 * d) / (_DRILL_FEED * d * n) + _APPROACH
    return 4 * each + tool_change_of(setup.parts), f"drilling four corners of {units.LENGTH.mark(d)}"


def _drill_stages(case: Case) -> tuple[Stage, ...]:
    setup, solid = case.setup, case.solid
    # what the drill has taken need not be milled, and no pass slows down in a corner
    holes = 4 * (math.pi / 4) * solid.smallest_radius**2
    left = replace(solid, area=max(solid.area - holes, 0.1 * solid.area))
    minutes = by_its_way(setup, "light_radial", case.feature, share=left.area / solid.area)
    task = task_of(case, setup, "light_radial", "thin passes", minutes, volume=left.volume)
    return (Stage(task, "light_radial"),)


register(Strategy(
    "rough_finish", "Two tools, rough and finish", "The way when walls must hold size: one worn tool never does both.",
    _finish_suits, _finish_stages, note=_apart,
))  # fmt: skip
register(Strategy(
    "corner_predrill", "Corners drilled first", "Helps where the corner is hardly rounder than the tool, deep down.",
    _drill_suits, _drill_stages, _drilling,
))  # fmt: skip
