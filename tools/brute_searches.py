"""Searches against brute force: the best point of a map and of every lane within 1 % of a dense grid, every "none" confirmed.

``python tools/brute_searches.py --setups 60 --first 0``. Set-ups are random. The grids are judged by the quick sums and their best places
confirmed, one by one, by a whole turn as `evaluate` does it.
"""

from __future__ import annotations

import argparse
import random
import time
from collections.abc import Iterator
from typing import Any

import numpy as np

from lesna.data.library import Library
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.planning.chatter.judge import chatter_of, depths_over
from lesna.planning.cut import limits
from lesna.planning.cut.levels import depth_of, even_depths
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import solve, solve_one
from lesna.planning.cut.windows import window_of
from lesna.planning.schools.compare import asked_of, case_of, compare
from lesna.planning.search.aims import AIMS, score
from lesna.planning.search.engagement_map import BestPoint, map_of
from lesna.planning.search.optimum import Grid, Task, between, judged, scores

#: how much less than brute force a search may find
_SHORT = 0.01
#: stepovers of the grid of a map; stepovers, speeds and chips of that of a task; depths where there is no feature
_WIDE, _TASK_WIDE, _SPEEDS, _CHIPS, _DEEP = 240, 48, 13, 7, 160
#: places of a grid that are tried for one that holds, at most
_TRIES = 1500
_LIBRARY = Library()


def random_job(seed: int) -> Job:
    """A set-up that a shop might have: a tool of the library in a material on a machine, with a feature that fits it or none."""
    chance = random.Random(seed)
    tools = [
        tool for tool in _LIBRARY.tools.values() if tool.kind not in ("face", "chamfer") and 2.0 <= tool.DC <= 32.0
    ]
    while True:
        tool, material = chance.choice(tools), chance.choice(list(_LIBRARY.materials.values()))
        deep = min(tool.usable_length, 3 * tool.DC)
        kind = chance.choice(("pocket", "slot", "shelf", None))
        feature: dict[str, Any] | None = None
        if kind is not None:
            width = chance.uniform(1.0, 2.2) if kind == "slot" else chance.uniform(2.5, 6.0)
            feature = {"kind": kind, "length_mm": 10.0 * tool.DC, "width_mm": round(width * tool.DC, 2),
                       "depth_mm": round(chance.uniform(0.3, 0.95) * deep, 2), "closed": False if kind == "slot" else None}  # fmt: skip
        raw = {
            "lesna": 5, "title": str(seed), "batch": {"parts": 20, "machine_rate_per_h": 80.0, "tool_change_min": 0.8},
            "workpiece": {"material": material.id}, "machine": chance.choice(list(_LIBRARY.machines)),
            "cuts": [{
                "name": "c", "role": "rough", "tool": tool.id, "holder": chance.choice(list(_LIBRARY.holders)),
                "strategy": "high_feed" if tool.kind == "high_feed" else chance.choice(
                    ("full_slot", "heavy_radial", "light_radial", "trochoidal")),
                "stick_out_mm": round(min(max(tool.usable_length + 2.0, 2.5 * tool.DC) * chance.uniform(1.0, 1.3),
                                          0.75 * (tool.OAL or 999.0)), 1),
                "coolant": chance.choice(("air", "flood")), "ae_mm": 0.1 * tool.DC, "ap_mm": min(0.1 * tool.DC, tool.APMX),
                "vc_m_min": 100.0, "hex_mm": 0.03, "feature": feature,
            }],
        }  # fmt: skip
        try:
            job = Job.read(raw)
            parts = parts_of(job, 0, _LIBRARY)
            setup = setup_of(parts)
        except InputError:
            continue
        if parts.data is None or setup.chip.typical is None or parts.data.vc_typ_m_min is None:
            continue
        x = {"full_slot": 1.0, "heavy_radial": 0.4}.get(parts.cut.strategy, 0.1)
        # a third runs at half of the chip, as a careful start does
        chip = setup.chip.typical * chance.choice((0.5, 1.0, 1.0))
        cut = parts.cut.with_values(
            vc_m_min=round(parts.data.vc_typ_m_min * (1.3 if x < 0.2 else 1.0), 1), hex_mm=round(chip, 5)
        )
        return job.with_values(cuts=(cut,))


def holds(setup: CutSetup, ae: float, ap: float) -> bool:
    """Whether a whole turn breaks no limit."""
    state, _ = solve_one(setup, ae, ap)
    depth = depths_over(setup, np.array([ae]), np.array([ap]), None)
    chatter = None if depth is None else (float(depth[0, 0]),) * 3
    return not any(entry.is_broken for entry in limits.limits_of(setup, state, chatter))


def best_by_force(setup: CutSetup, wide: tuple[float, float], most: float) -> BestPoint | None:
    """Highest removal of a dense grid that a whole turn confirms."""
    depth = depth_of(setup.parts.cut.feature)
    ap = np.geomspace(0.005 * most, most, _DEEP) if depth is None else even_depths(depth, most)
    ae = np.unique(np.geomspace(*wide, _WIDE))
    state = solve(setup, ae, ap)
    uses = limits.uses_over(setup, state, depths_over(setup, ae, ap, None))
    worst = np.maximum.reduce(
        [np.where(np.isfinite(use), use, 1e9) for key, use in uses.items() if not limits.BY_ID[key].is_capped]
    )
    # the quick sums may lie a few per cent off either way
    q = np.where(worst <= 1.04, state.q, -1.0)
    for tried, place in enumerate(np.argsort(-q, axis=None)):
        row, column = divmod(int(place), len(ae))
        if q[row, column] <= 0 or tried > _TRIES:
            return None
        if holds(setup, float(ae[column]), float(ap[row])):
            return BestPoint(float(ae[column]), float(ap[row]), float(q[row, column]))
    return None


def check_map(setup: CutSetup) -> Iterator[str]:
    """What is wrong with the best points of a map."""
    found = map_of(setup)
    window = window_of(setup.parts.cut.strategy, setup.parts.data, setup.parts.tool)
    D, top = setup.shape.DC, setup.depth_top
    wide = (window.ae_min, window.ae_max) if window else (0.01 * D, D)
    for name, point, ends, most in (
        ("map", found.best, (0.01 * D, D), top),
        ("school", found.best_in_school, wide, min(window.ap_max, top) if window else top),
    ):
        brute = best_by_force(setup, ends, most)
        if point is not None and not holds(setup, point.ae, point.ap):
            yield f"{name}: its best point breaks a limit"
        if point is not None:
            again = float(solve_one(setup, point.ae, point.ap)[0].q)
            if abs(again / point.q - 1.0) > 0.01:
                yield f"{name}: says {point.q:.3f}, evaluates to {again:.3f}"
        if brute is not None and (point is None or point.q < (1 - _SHORT) * brute.q):
            said = (
                "none"
                if point is None
                else f"{point.q:.3f} at ({point.ae:.3f}, {point.ap:.3f}), {1 - point.q / brute.q:.1%} short"
            )
            yield f"{name}: {said} of {brute.q:.3f} at ({brute.ae:.3f}, {brute.ap:.3f})"
    if found.best is None and found.inside.any():
        yield f"map: none, where {found.inside.mean():.0%} of it is inside"


def check_task(task: Task, aim: Any, floor: float, found: Any) -> str:
    """What is wrong with the best point of a task; empty where nothing is."""
    ae = task.stepovers if task.is_even else np.unique(np.geomspace(task.stepovers[0], task.stepovers[-1], _TASK_WIDE))
    if not len(ae) or not len(task.depths):
        return ""
    grid = Grid.of(task, ae, task.depths, (between(task.speeds, _SPEEDS), between(task.chips, _CHIPS)), floor)
    values, _ = scores(task, aim, floor, grid)
    for place in np.argsort(-values, axis=None)[:_TRIES]:
        row, column = divmod(int(place), values.shape[1])
        if not np.isfinite(values[row, column]):
            return ""
        brute = judged(task, grid.point(row, column))
        if not brute.is_admissible:
            continue
        best, mine = (None if one is None else float(score(aim, one.worth, 0.0)) for one in (brute, found))
        if best is not None and (mine is None or mine < (1 - _SHORT) * best):
            return f"{'none' if mine is None else f'{1 - mine / best:.1%} short'} of {grid.point(row, column)}"
        return ""
    return ""


def check_lanes(job: Job, aim: Any) -> Iterator[tuple[str, str]]:
    """Every task of every lane of a comparison with what is wrong with it, and what it was asked for."""
    parts = parts_of(job, 0, _LIBRARY)
    comparison = compare(parts, _LIBRARY, aim=aim)
    case = case_of(parts, _LIBRARY)
    for lane in comparison.lanes:
        if lane.stages:
            stages = [stage for stage, _ in lane.stages]
            for stage, found in lane.stages:
                wanted, floor = asked_of(stage, stages, aim, comparison.floor)
                yield f"{lane.strategy.id}/{stage.task.label}", check_task(stage.task, wanted, floor, found)
        elif not lane.strategy.suits(case):
            for stage in lane.strategy.stages(case):
                if "asked for" in lane.why_not or "even" in lane.why_not:
                    continue
                said = check_task(stage.task, aim, 0.0, None)
                yield f"{lane.strategy.id}/{stage.task.label}", said and f"{said} ({lane.why_not})"


def main() -> None:
    """Prints what a search missed, and the count."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--setups", type=int, default=60)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--no-lanes", action="store_true", help="maps alone")
    wanted = parser.parse_args()
    asked = wrong = 0
    start = time.perf_counter()
    for seed in range(wanted.first, wanted.first + wanted.setups):
        job = random_job(seed)
        setup = setup_of(parts_of(job, 0, _LIBRARY))
        chatter_of(setup)
        label = f"{seed} {setup.parts.tool.id} {setup.parts.material.id} {setup.parts.cut.strategy}"
        found = [*check_map(setup)]
        asked += 2
        aim = list(AIMS)[seed % len(AIMS)]
        if job.cuts[0].feature is not None and not wanted.no_lanes:
            for lane, said in check_lanes(job, aim):
                asked += 1
                found += [f"{aim} {lane}: {said}"] if said else []
        for said in found:
            print(label, said, flush=True)
        wrong += len(found)
    print(f"{wrong} of {asked} searches wrong, {time.perf_counter() - start:.0f} s")


if __name__ == "__main__":
    main()
