"""The search over stepover, depth, speed and chip: as good as a dense one, never over a limit, always the same."""

import random
import unittest
from collections.abc import Iterator
from typing import Any

import numpy as np

from lesna.model.resolve import parts_with
from lesna.planning.cut import limits
from lesna.planning.cut.motion import motion_of
from lesna.planning.cut.setup import setup_of
from lesna.planning.schools.compare import case_of
from lesna.planning.schools.strategies import REGISTRY
from lesna.planning.search import optimum
from lesna.planning.search.optimum import Grid, Optimum, Point, Task, best_of, judged
from tests.support import LIBRARY, job, parts

AIMS = ("time", "cost", "life", "unattended")


class Reached(unittest.TestCase):
    def test_the_slow_columns_of_a_grid_just_reach_the_removal(self) -> None:
        looked = 0
        for seed in (0, 1, 4, 6, 9):
            task, _ = random_task(seed)
            middle = judged(task, Point(float(np.median(task.stepovers)), float(np.median(task.depths)),
                                        float(np.sqrt(np.prod(task.speeds))), float(np.sqrt(np.prod(task.chips)))))  # fmt: skip
            floor = 0.8 * middle.worth.q
            chips = np.geomspace(*task.chips, 3)
            grid = Grid.of(task, task.stepovers[::5], task.depths, (np.array(task.speeds), chips), floor)
            wide, deep = np.broadcast_arrays(grid.ae[None, :], grid.ap[:, None])
            motion = motion_of(task.setup, wide, deep, vc=grid.vc, chip_=None if task.holds_feed else grid.chip)
            removal = task.volume / sum(task.minutes(motion))
            slow = np.zeros(len(grid.ae), bool)
            slow[-len(chips) * len(task.stepovers[::5]) :] = True  # the last of the speeds is the one that is sought
            low, high = (end * task.gain(grid.ae[None, :], grid.ap[:, None]) for end in task.speeds)
            inside = slow[None, :] & (grid.vc > low * 1.001) & (grid.vc < high * 0.999)
            looked += int(inside.sum())
            np.testing.assert_allclose(removal[inside], floor, rtol=3e-5)
            self.assertTrue((removal[inside] >= floor * (1 - 1e-9)).all())
        self.assertGreater(looked, 40)


def random_task(seed: int) -> tuple[Task, Any]:
    """A task of a random school on a random set-up."""
    chance = random.Random(seed)
    diameter = chance.choice([8.0, 10.0, 12.0, 16.0])
    corner = chance.choice([0.0, 0.0, 1.0])
    tool = {
        "kind": "corner_radius" if corner else "square", "RE": corner, "DC": diameter, "ZEFP": chance.choice([3, 4, 5]),
        "APMX": 2.2 * diameter, "LU": 3.0 * diameter, "runout_um": chance.choice([0.0, 8.0]),
        "price": chance.uniform(30, 90),
    }  # fmt: skip
    feature = {
        "kind": chance.choice(["pocket", "slot", "shelf"]), "length_mm": chance.uniform(50, 100),
        "width_mm": chance.uniform(2.5, 5) * diameter, "depth_mm": chance.uniform(0.8, 2.0) * diameter,
        "corner_radius_mm": 8.0,
    }  # fmt: skip
    is_weak = seed % 4 == 3  # a long tool on a weak machine: often there is no point at all
    reach = (9.0 if is_weak else chance.uniform(3.1, 4.0)) * diameter
    tool["LU"] = max(tool["LU"], reach)
    piece = {"material": chance.choice(["42crmo4-qt30", "en-gjs-700-2", "x5crni18-10"])}
    document = job(
        job={"machine": "vmc30-10k" if is_weak else "vmc40-12k", "workpiece": piece,
             "batch": {"parts": 10, "machine_rate_per_h": 70.0, "tool_change_min": 0.5}},
        tool=tool, feature=feature, stick_out_mm=reach, ae_mm=0.1 * diameter, ap_mm=5.0,
        deflection_limit_um=chance.choice([2.0, 5.0, 15.0]) if is_weak else None,
    )  # fmt: skip
    case = case_of(parts(document), LIBRARY)
    school = chance.choice(["heavy_radial", "trochoidal" if feature["kind"] != "shelf" else "light_radial"])
    strategy = next(entry for entry in REGISTRY if entry.id == school)
    return strategy.stages(case)[0].task, chance.choice(AIMS)


def scattered(task: Task, count: int) -> Iterator[Optimum]:
    """What a task gives at places all over its window, each from a whole evaluation of its own."""
    chance = np.random.default_rng(7)
    ends = (task.stepovers[[0, -1]], task.depths[[0, -1]], task.speeds, task.chips)
    for draw in chance.random((count, 4)) ** 2:  # more of the gentle ones
        ae, ap, base, chip = (low * (high / low) ** share for (low, high), share in zip(ends, draw, strict=True))
        yield judged(task, Point(ae, ap, base * float(task.gain(ae, ap)), chip))


class Search(unittest.TestCase):
    def test_within_a_hundredth_of_a_dense_search(self) -> None:
        without = 0
        for seed in range(9):
            task, aim = random_task(seed)
            floor = 0.0
            if aim in ("life", "unattended"):
                quickest = best_of(task, "time")
                floor = 0.0 if quickest is None else 0.6 * float(quickest.worth.q)
            found = best_of(task, aim, floor)
            ae = task.stepovers if task.is_even else np.geomspace(*task.stepovers, 30)
            choices = optimum.between(task.speeds, 16), optimum.between(task.chips, 9)
            grid = optimum.Grid.of(task, ae, task.depths, choices, floor)
            dense, _ = optimum.scores(task, aim, floor, grid)
            with self.subTest(seed=seed, aim=aim, task=task.label):
                if found is None:
                    without += 1
                    self.assertFalse(any(one.is_admissible for one in scattered(task, 150)))
                    self.assertEqual(dense.max(), -np.inf)
                    continue
                value = float(optimum.score(aim, found.worth, 0.0))
                self.assertGreaterEqual(value, 0.99 * dense.max())
                self.assertTrue(found.is_admissible)
        self.assertTrue(0 < without < 6)

    def test_never_over_a_limit_and_the_same_again(self) -> None:
        for seed in (1, 4):
            task, aim = random_task(seed)
            first, second = best_of(task, "time"), best_of(task, "time")
            assert first is not None and second is not None
            self.assertEqual(first.point, second.point)
            self.assertEqual([e.use for e in first.limits], [e.use for e in second.limits])
            self.assertIn("stability", {e.rule.id for e in first.limits})
            self.assertTrue(all(not e.is_broken for e in first.limits))

    def test_a_window_without_a_point(self) -> None:
        task, _ = random_task(2)
        tight = optimum.replace(task, chips=(5.0, 5.0))
        self.assertIsNone(best_of(tight, "time", chatter=False))
        self.assertIsNone(best_of(optimum.replace(task, depths=np.empty(0)), "time"))

    def test_locks_hold(self) -> None:
        document = job(feature={"kind": "pocket", "length_mm": 90.0, "width_mm": 50.0, "depth_mm": 12.0},
                       locks=["vc_m_min", "hex_mm", "ae_mm"])  # fmt: skip
        case = case_of(parts(document), LIBRARY)
        task = next(entry for entry in REGISTRY if entry.id == "light_radial").stages(case)[0].task
        found = best_of(task, "time", chatter=False)
        assert found is not None
        self.assertEqual((found.point.ae, found.point.vc, found.setup.parts.cut.hex_mm), (1.2, 120.0, 0.04))

    def test_what_a_point_gives_is_what_the_cut_gives(self) -> None:
        task, _ = random_task(3)
        point = Point(float(task.stepovers[0]), float(task.depths[0]), task.speeds[0], task.chips[0])
        found = judged(task, point, chatter=False)
        cut = found.setup.parts.cut
        again = setup_of(parts_with(found.setup.parts, cut.with_values(), LIBRARY))
        state, _ = limits_of_again = optimum.solve_one(again, point.ae, point.ap)
        self.assertEqual(state.q, found.state.q)
        self.assertEqual([e.use for e in limits.limits_of(again, limits_of_again[0])], [e.use for e in found.limits])


if __name__ == "__main__":
    unittest.main()
