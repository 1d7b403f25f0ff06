"""Each school of roughing: whether it suits and why not, its times, and the geometry it stands on."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lesna.physics.engagement import trochoid_angle
from lesna.planning.compare import case_of
from lesna.planning.solve import solve
from lesna.planning.strategies import REGISTRY, Case
from lesna.planning.strategies.base import depths_of, even_stepovers
from lesna.planning.strategies.high_feed import leftover
from lesna.planning.strategies.surfacing import cusp_of, lines_on, stepover_for
from lesna.planning.strategies.trochoid import advance
from tests.support import LIBRARY, job

POCKET = {"kind": "pocket", "length_mm": 100.0, "width_mm": 60.0, "depth_mm": 20.0, "corner_radius_mm": 8.0}


def case(*, tool: dict[str, Any] | None = None, **feature: Any) -> Case:
    return case_of(job(tool=tool, feature={**POCKET, **feature}), 0, LIBRARY)


def why_not(id: str, of: Case) -> str:
    return next(entry for entry in REGISTRY if entry.id == id).suits(of)


class Suits(unittest.TestCase):
    def test_every_school_says_yes_somewhere(self) -> None:
        ball = {"kind": "ball", "RE": 6.0, "FHA": 30.0}
        places = (
            case(), case(kind="slot", width_mm=14.0), case(kind="face", depth_mm=1.0),
            case(tool=ball, kind="surface", slope_deg=30.0, depth_mm=0.3),
        )  # fmt: skip
        for strategy in REGISTRY:
            with self.subTest(strategy=strategy.id):
                self.assertTrue(any(not strategy.suits(place) for place in places))

    def test_reasons(self) -> None:
        asked = (
            ("full_slot", case(kind="shelf"), "side is open"),
            ("full_slot", case(kind="slot", width_mm=10.0), "wider than"),
            ("light_radial", case(kind="slot", width_mm=16.0), "loops"),
            ("heavy_radial", case(width_mm=14.0), "no side free"),
            ("trochoidal", case(kind="slot", width_mm=13.0), "no loop"),
            ("slot_first", case(kind="face", depth_mm=1.0), "open side"),
            ("slot_first", case(kind="slot", width_mm=16.0), "4.0 mm would be left"),
            ("corner_predrill", case(corner_radius_mm=12.0), "wide enough"),
            ("corner_predrill", case(kind="slot", width_mm=30.0), "no inner corners"),
            ("rough_finish", case(kind="face", depth_mm=1.0), "no walls"),
            ("surface", case(), "surfaces only"),
            ("high_feed", case(depth_mm=34.0, width_mm=13.0), "no lead-angle tool"),
            ("heavy_radial", case(depth_mm=40.0), "the floor lies at 40.0 mm"),
            ("light_radial", case(tool={"centre_cutting": False}, width_mm=16.0), "does not cut at its centre"),
        )
        for id, place, words in asked:
            with self.subTest(strategy=id, words=words):
                self.assertIn(words, why_not(id, place))


class Times(unittest.TestCase):
    def test_cutting_time_is_volume_over_removal_for_an_ideal_path(self) -> None:
        shelf = case(kind="shelf", width_mm=6.0)
        stage = next(entry for entry in REGISTRY if entry.id == "heavy_radial").stages(shelf)[0]
        task = stage.task
        state = solve(task.setup, task.stepovers, task.depths)
        cutting, linking = task.minutes(state)
        # straight passes that divide the width and the depth evenly; a diameter to come in and go out besides
        ideal = task.volume / np.asarray(state.q) * (100 + 12) / 100
        np.testing.assert_allclose(cutting, ideal, rtol=1e-9)
        self.assertTrue(np.all(np.asarray(linking) > 0))

    def test_shallower_means_more_levels(self) -> None:
        for id in ("full_slot", "light_radial", "trochoidal"):
            task = next(entry for entry in REGISTRY if entry.id == id).stages(case())[0].task
            state = solve(task.setup, task.stepovers[-1:], task.depths)
            cutting, linking = task.minutes(state)
            with self.subTest(strategy=id):
                self.assertTrue(np.all(np.diff(np.asarray(cutting + linking)[:, 0]) < 0))

    def test_levels_and_passes_come_out_even(self) -> None:
        for depth, most in ((24.0, 26.0), (24.0, 5.0), (7.3, 0.6)):
            found = depth / depths_of(depth, most)
            np.testing.assert_allclose(found, np.round(found), atol=1e-9)
            self.assertLessEqual(depths_of(depth, most).max(), most * (1 + 1e-9))
        passes = 60.0 / even_stepovers(60.0, 1.0, 7.0)
        np.testing.assert_allclose(passes, np.round(passes), atol=1e-9)


class Geometry(unittest.TestCase):
    @given(st.floats(2.0, 12.0), st.floats(1.0, 20.0), st.floats(0.05, 0.9))
    def test_advance_is_the_inverse_of_the_loop_engagement(self, R: float, r: float, share: float) -> None:
        p = share * min(r, R)
        phi = float(trochoid_angle(R, r, p))
        self.assertAlmostEqual(float(advance(R, r, R * (1 - math.cos(phi)))), p, places=6)

    @given(st.floats(0.5, 10.0), st.floats(0.001, 0.2))
    def test_cusp_and_stepover_are_inverse(self, R: float, cusp: float) -> None:
        self.assertAlmostEqual(float(cusp_of(R, stepover_for(R, cusp))), cusp, places=9)

    def test_lines_on_a_slope(self) -> None:
        flat, steep = lines_on(5.0, 0.02, 5.0), lines_on(5.0, 0.02, 60.0)
        self.assertTrue(flat.centre_touches and not flat.is_steep)
        self.assertTrue(steep.is_steep and not steep.centre_touches)
        self.assertFalse(lines_on(5.0, 0.02, 5.0, tilt=15.0).centre_touches)
        self.assertAlmostEqual(math.hypot(steep.plan, steep.down), steep.along)

    def test_programmed_radius_never_lets_the_edge_stand_out(self) -> None:
        DC, tip, kappa = 12.0, 8.0, math.radians(15.0)
        found = leftover(DC, tip, kappa, 9.0)
        # points of the straight edge lie inside the rounded corner that is programmed
        for t in np.linspace(0.0, 1.0, 50):
            x, y = tip / 2 + t * (DC - tip) / 2, t * (DC - tip) / 2 * math.tan(kappa)
            inside = x <= DC / 2 - found.radius or math.hypot(x - (DC / 2 - found.radius), y - found.radius) >= 0
            self.assertTrue(inside)
            self.assertLessEqual(x, DC / 2 + 1e-12)
        self.assertEqual(leftover(DC, tip, kappa, 7.0).cusp, 0.0)


if __name__ == "__main__":
    unittest.main()
