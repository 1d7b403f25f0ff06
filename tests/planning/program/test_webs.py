"""Planted webs are told with their thickness, place and line, along the feed, head-on and standing; passes that end flush leave none."""

import math
import unittest

import numpy as np

from lesna.planning.program.webs import Swept
from lesna.stock.field import distance_to_walls
from tests.planning.program.test_run import run, slot, work

#: thin to thick, DC 12: those under 1.8 mm are webs
THICK = (0.1, 0.15, 0.3, 0.6, 0.8, 1.0, 1.2, 1.4, 1.7)


def slots(thick: float, angle: float = 0.0, shift: float = 0.37, length: float = 120.0) -> str:
    """Two straight slots with a rib between them, turned about the middle of the block."""
    u, v = (math.cos(angle), math.sin(angle)), (-math.sin(angle), math.cos(angle))
    text = ""
    for side in (shift - 6.0 - thick / 2, shift + 6.0 + thick / 2):
        a, b = ((u[0] * s + v[0] * side, u[1] * s + v[1] * side) for s in (-length / 2, length / 2))
        text += f"G0 Z5.\nX{a[0]:.4f} Y{a[1]:.4f}\nZ-6.\nG1 X{b[0]:.4f} Y{b[1]:.4f} F500.\n"
    return text + "G0 Z5.\n"


def webs(text: str):  # type: ignore[no-untyped-def]
    return [f for f in run(text).geometry.findings if f.kind == "sliver"]


class Planted(unittest.TestCase):
    def test_one_that_stands_at_the_end(self) -> None:
        for thick in THICK:
            for angle in (0.0, 0.4):
                with self.subTest(thick=thick, angle=angle):
                    found = webs(slots(thick, angle))
                    self.assertEqual(len(found), 1)
                    self.assertAlmostEqual(found[0].value, thick, delta=0.02)
                    self.assertEqual(found[0].line, 12)  # the pass that made it one
                    across = -math.sin(angle) * found[0].place[0] + math.cos(angle) * found[0].place[1]
                    self.assertAlmostEqual(across, 0.37, delta=0.05)

    def test_one_that_is_met_head_on(self) -> None:
        for thick in THICK:
            with self.subTest(thick=thick):
                found = webs(slots(thick) + "X0.2 Y-50.\nZ-6.\nG1 Y50.\n")
                self.assertEqual(len(found), 1)
                self.assertAlmostEqual(found[0].value, thick, delta=0.02)
                self.assertEqual(found[0].line, 16)
                self.assertAlmostEqual(
                    found[0].place[0], 0.2, delta=6.0
                )  # a thin one is first seen beside the rim's middle
                self.assertAlmostEqual(found[0].place[1], 0.37, delta=0.05)

    def test_one_that_is_cut_away_along_the_feed(self) -> None:
        for thick in THICK:
            with self.subTest(thick=thick):
                found = webs(slots(thick) + "X-60. Y0.37\nZ-6.\nG1 X60.\n")
                self.assertEqual(len(found), 1)
                self.assertAlmostEqual(found[0].value, thick, delta=0.02)
                self.assertEqual(found[0].line, 16)

    def test_none_where_passes_end_flush_overlap_or_stand_far_apart(self) -> None:
        for thick in (-0.2, 0.0, 0.001, 1.9, 4.0):
            with self.subTest(thick=thick):
                self.assertEqual(webs(slots(thick)), [])

    def test_the_side_of_a_stock_counts_where_somebody_has_stated_it(self) -> None:
        for gap in (-0.3, 0.0, 0.5):
            pass_beside = f"G0 Z5.\nX-60. Y{24 - gap:.3f}\nZ-6.\nG1 X60. F500.\nG0 Z5.\n"
            with self.subTest(gap=gap):
                found = webs(pass_beside)
                self.assertEqual([round(web.value, 2) for web in found], [0.5] if gap > 0 else [])

    def test_a_ridge_is_none(self) -> None:
        self.assertEqual(webs(slots(0.5).replace("Z-6.", "Z-0.9")), [])


class Levels(unittest.TestCase):
    def test_a_web_of_a_lower_level_is_told(self) -> None:
        over = "G0 Z5.\nX-60. Y0.\nZ-3.\nG1 X60. F500.\nG0 Z5.\n"
        found = [web for web in webs(over + slots(0.5)) if web.place[2] < -5]
        self.assertEqual(len(found), 1)
        self.assertAlmostEqual(found[0].value, 0.5, delta=0.02)


class Ramps(unittest.TestCase):
    def test_steep_ways_down_without_a_tool_that_cuts_at_its_centre(self) -> None:
        plain = work(tool={"centre_cutting": False})
        for slope, kind in ((2.0, None), (14.0, "ramp"), (84.0, "plunge")):
            run_out = 4.0 / math.tan(math.radians(slope))
            text = f"G0 X-10. Y0.\nZ0.\nG1 X{-10 + run_out:.4f} Z-4. F300.\nG1 X38.\n"
            with self.subTest(slope=slope):
                kinds = {f.kind for f in run(text, plain).geometry.findings}
                self.assertEqual(kinds - {"holder"}, set() if kind is None else {kind})
                self.assertEqual({f.kind for f in run(text).geometry.findings} - {"holder"}, set())


class WhereCuttersWere(unittest.TestCase):
    """Against plain loops over every step."""

    def setUp(self) -> None:
        self.geometry = run(slots(0.8) + "X0. Y-50.\nZ-3.\nG1 Y50.\nG0 Z5.\n").geometry
        steps, doing = self.geometry.steps, self.geometry.work
        self.whole = doing.stock.height_map(doing.cell)
        every = np.ones(len(steps), np.int64)
        self.swept = Swept(self.whole, steps, {1: doing.body}, every, steps.end[:, 2] < 0, has_sides=False)
        self.rng = np.random.default_rng(4)

    def test_whether_one_stood_near_low_enough_and_before(self) -> None:
        places = self.rng.uniform((-45, -35), (45, 35), (300, 2))
        z, step = self.rng.uniform(-7, 0, 300), self.rng.integers(0, len(self.geometry.steps), 300)
        found = self.swept.has_before(places, 2.5, z, step)
        for k in range(300):
            away = np.hypot(*(self.swept.places[:, :2] - places[k]).T)
            plain = (away <= 2.5) & (self.swept.places[:, 2] <= z[k]) & (self.swept.step < step[k])
            self.assertEqual(found[k], plain.any())
        self.assertTrue(0 < found.sum() < 300)

    def test_which_sweeps_touch_a_circle(self) -> None:
        places, low, before = self.rng.uniform((-45, -35), (45, 35), (60, 2)), np.full(60, -2.0), np.full(60, 400)
        rows, of = self.swept.near(places, 0.7, low, before, own=(50, 90))
        for k, place in enumerate(places):
            gap = np.hypot(*(self.swept.places[:, :2] - place).T) - self.swept.radius
            step = self.swept.step
            plain = (gap < 0.7) & (self.swept.places[:, 2] <= -2.0) & (step < 400) & ~((step >= 50) & (step < 90))
            self.assertEqual(set(rows[of == k].tolist()), set(np.flatnonzero(plain).tolist()))
        self.assertTrue(0 < len(set(of.tolist())) < 60)

    def test_how_far_places_lie_in_the_material(self) -> None:
        low = np.array((-5.0,))
        rows, of = self.swept.near(np.array([(0.0, 0.37)]), 1.0, low)
        across = np.array([(0.0, 0.37), (0.0, 0.37 + 0.3), (0.0, 0.37 + 1.0)])
        depth, who = self.swept.distance(across[None], rows, of, low)
        # a rib of 0.8 mm: its middle lies 0.4 mm in, a place beyond its face in the air
        np.testing.assert_allclose(depth[0], (0.4, 0.1, -0.6), atol=0.02)
        self.assertTrue((who >= 0).all())

    def test_groups_of_places_at_once_are_each_place_alone(self) -> None:
        middles, z = self.rng.uniform((-45, -12), (45, 12), (40, 2)), self.rng.uniform(-5.5, -1.0, 40)
        groups = middles[:, None, :] + self.rng.uniform(-0.6, 0.6, (40, 5, 2))
        rows, of = self.swept.near(middles, 1.2, z)
        depth, who = self.swept.distance(groups, rows, of, z)
        for k, group in enumerate(groups):
            mine = rows[of == k]
            walls = distance_to_walls(self.whole, np.column_stack((group, np.full(5, z[k]))))
            gaps = np.linalg.norm(group[:, None] - self.swept.places[None, mine, :2], axis=2) - self.swept.radius[mine]
            least = gaps.min(axis=1, initial=np.inf)
            np.testing.assert_allclose(depth[k], np.minimum(walls, least), atol=1e-12)
            self.assertEqual((who[k] >= 0).tolist(), (least < walls).tolist())
            met = who[k] >= 0
            away = np.linalg.norm(group[met] - self.swept.places[who[k][met], :2], axis=1)
            np.testing.assert_allclose(away - self.swept.radius[who[k][met]], least[met], atol=1e-12)
        self.assertTrue((who >= 0).any() and (who < 0).any())

    def test_beside_a_stock_whose_sides_nobody_stated(self) -> None:
        self.assertTrue(self.swept.is_outside(np.array((0.0, 200.0))))
        self.assertFalse(self.swept.is_outside(np.array((0.0, 0.0))))

    def test_nothing_swept_has_nothing_near(self) -> None:
        steps = slot().geometry.steps
        none = Swept(self.whole, steps, {}, np.ones(len(steps), np.int64), np.zeros(len(steps), bool), has_sides=True)
        self.assertEqual([len(found) for found in none.near(np.zeros((1, 2)), 1.0, np.zeros(1))], [0, 0])
        self.assertFalse(none.is_outside(np.array((0.0, 200.0))))


if __name__ == "__main__":
    unittest.main()
