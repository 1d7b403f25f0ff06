"""The schools of roughing side by side on one feature: each at its own best admissible point, ranked, with reasons."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.economy import tool_change_of
from lesna.planning.cut.features import solid_of
from lesna.planning.cut.limits import limits_of
from lesna.planning.cut.setup import setup_of
from lesna.planning.cut.solve import solve_one
from lesna.planning.schools.lanes import Comparison, Lane
from lesna.planning.schools.strategies import CHAMFER, Case, Stage, Strategy, passes_of, schools_for
from lesna.planning.search.aims import Aim, worth_of
from lesna.planning.search.optimum import SHORT, Optimum, Point, best_of, judged, stopped_by

#: a step with less than this share of the largest step's material is not held to a removal rate
_BULK = 0.2
#: schools that are searched at a time
_THREADS = 2


def compare(
    parts: CutParts, shelf: Shelf, aim: Aim = "cost", *, floor: float | None = None, quick: bool = False,
    own_tool: bool = False, pulse: Pulse = STEADY,
) -> Comparison:  # fmt: skip
    """Every strategy on the feature of a cut.

    Parameters
    ----------
    parts : CutParts
        The cut.
    shelf : Shelf
        Library.
    aim : {'time', 'cost', 'life', 'unattended'}
        What counts. Life and minutes alone are looked for at no less removal than the cut's floor, or than it has now.
    floor : float or None
        Another removal that must be reached [cm3/min].
    quick : bool
        A coarse search without its refinement, for ranking many tools.
    own_tool : bool
        Only strategies that need no other tool.
    pulse : Pulse
        Told how far it is; may stop it.

    Raises
    ------
    InputError
        When the cut has no feature with its dimensions.
    Cancelled
        When nobody waits any more.
    """
    case = case_of(parts, shelf)
    today = _today(case)
    floor = floor_of(case, aim, today) if floor is None else floor
    lanes: list[Lane] = []
    # the sums let other threads run, so two schools are looked at side by side; the answers keep their order
    with ThreadPoolExecutor(_THREADS) as pool:
        search = _Search(case, aim, floor, quick, own_tool, pulse)
        schools = schools_for(case)
        pending = [pool.submit(_lane_or_why, search, strategy) for strategy in schools]
        try:
            for done, future in enumerate(pending):
                lanes.append(future.result())
                pulse.tell(done + 1, len(schools))
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise
    lanes.sort(key=lambda lane: -lane.score(aim))  # equals keep the registry's order
    return Comparison(parts, aim, floor, tuple(lanes), today)


def case_of(parts: CutParts, shelf: Shelf) -> Case:
    """The feature of a cut as a case (errors as in `compare`)."""
    setup = setup_of(parts)
    solid = solid_of(parts.cut.feature)
    if solid is None:
        raise InputError(
            "is missing; strategies are compared on a feature with its kind, length, width and depth", "feature"
        )
    return Case(setup, solid, shelf)


def floor_of(case: Case, aim: Aim, today: Lane | None = None) -> float:
    """Removal that must be reached: the shop's floor of the cut, else for life and minutes alone what it removes now."""
    floor = case.parts.cut.removal_floor_cm3_min or 0.0
    if floor or aim not in ("life", "unattended"):
        return floor
    today = today or _today(case)
    return 0.0 if today is None else today.q


@dataclass(frozen=True)
class _Search:
    """What is looked for on every lane (see `compare`)."""

    case: Case
    aim: Aim
    floor: float
    quick: bool
    own_tool: bool
    pulse: Pulse


def _lane_or_why(search: _Search, strategy: Strategy) -> Lane:
    """A lane; where no path can be made that way, its reason stands in its place."""
    try:
        return _lane(search, strategy)
    except InputError as error:
        return Lane(strategy, (), error.message)


def _lane(search: _Search, strategy: Strategy) -> Lane:
    case, aim, floor = search.case, search.aim, search.floor
    reason = strategy.suits(case)
    if reason:
        return Lane(strategy, (), reason)
    stages = strategy.stages(case)
    if search.own_tool and any(stage.tool for stage in stages):
        return Lane(strategy, (), "it needs another tool")
    found: list[tuple[Stage, Optimum]] = []
    for stage in stages:
        for_aim, asked = asked_of(stage, stages, aim, floor)
        best = best_of(stage.task, for_aim, asked, quick=search.quick, pulse=search.pulse)
        if best is None:
            return Lane(strategy, (), _why_none(stage, asked, search.pulse))
        found.append((stage, best))
    lane = Lane(strategy, tuple(found), "", _besides(strategy, case, len(found)))
    if lane.q < floor * (1 - SHORT):
        most, wanted = units.REMOVAL.pair(lane.q, floor)
        return Lane(strategy, (), f"removes {most} at most, {wanted} are asked for")
    if search.quick:
        return lane
    left = strategy.note(case, lane.main) if strategy.note else ""
    return replace(lane, note=f"{passes_of(case, lane.main)} {left}".strip(), stop=stopped_by(lane.main))


def asked_of(stage: Stage, stages: Sequence[Stage], aim: Aim, floor: float) -> tuple[Aim, float]:
    """Aim and removal that a stage is searched for: a finishing pass removes next to nothing, so it is held to its cost."""
    is_bulk = stage.task.volume >= _BULK * max(other.task.volume for other in stages)
    return (aim, floor) if is_bulk or not floor else ("cost", 0.0)


def _besides(strategy: Strategy, case: Case, tools: int) -> tuple[float, str]:
    """Minutes on a part besides the tasks, and what they are: another tool for each further task, and what the school adds."""
    if strategy.extra:
        return strategy.extra(case)
    return ((tools - 1) * tool_change_of(case.parts), "changing the tool") if tools > 1 else (0.0, "")


def _why_none(stage: Stage, floor: float, pulse: Pulse) -> str:
    """What stops every point of a task, as a sentence."""
    task = stage.task
    if not len(task.depths) or not len(task.stepovers):
        return "no stepover of this school comes out even on the width"
    if floor:
        best = best_of(task, "time", pulse=pulse)
        if best is not None:
            most, wanted = units.REMOVAL.pair(float(best.worth.q), floor)
            return f"its quickest point removes {most}, {wanted} are asked for"
    least = judged(task, Point(float(task.stepovers[0]), float(task.depths[0]), task.speeds[0], task.chips[0]))
    broken = [entry for entry in least.limits if entry.is_broken]
    if not broken:
        return "no point of its window holds every limit together"
    entry = broken[0]
    word = "under" if entry.rule.is_floor else "over"
    value, limit = entry.rule.quantity.pair(entry.value, entry.limit)
    return f"{entry.rule.name.lower()} stops even its gentlest point: {value} is {word} {limit}"


def _today(case: Case) -> Lane | None:
    """The cut as it stands, timed like the others; None where its own school does not suit the feature."""
    cut = case.parts.cut
    own = CHAMFER if case.solid.kind == "chamfer" else cut.strategy
    strategy = next((entry for entry in schools_for(case) if entry.id == own), None)
    if strategy is None or strategy.suits(case):
        return None
    stage = strategy.stages(case)[0]
    if stage.tool:
        return None
    state, _ = solve_one(case.setup, cut.ae_mm, cut.ap_mm)
    try:
        worth = worth_of(case.setup, state, stage.task.volume, stage.task.minutes(state))
    except InputError:
        return None
    point = Point(cut.ae_mm, cut.ap_mm, float(state.vc), float(state.hex))
    found = limits_of(case.setup, state)
    return Lane(strategy, ((stage, Optimum(stage.task, point, case.setup, state, worth, found, np.empty((0, 2)))),))
