"""Each school of roughing: whether it suits and why not, its times, and the geometry it stands on."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lesna.model import units
from lesna.physics.edge.engagement import concave_angle, trochoid_advance
from lesna.planning.cut.levels import even_depths
from lesna.planning.cut.solve import solve
from lesna.planning.schools.compare import case_of
from lesna.planning.schools.strategies import REGISTRY, Case, schools_for, surfacing
from lesna.planning.schools.strategies.base import even_stepovers
from lesna.planning.schools.strategies.high_feed import leftover
from lesna.planning.schools.strategies.surfacing import lines_on, stepover_for
from tests.support import LIBRARY, job, parts

POCKET = {"kind": "pocket", "length_mm": 100.0, "width_mm": 60.0, "depth_mm": 20.0, "corner_radius_mm": 8.0}


def case(*, tool: dict[str, Any] | None = None, **feature: Any) -> Case:
    return case_of(parts(job(tool=tool, feature={**POCKET, **feature})), LIBRARY)


def why_not(id: str, of: Case) -> str:
    return units.said(next(entry for entry in REGISTRY if entry.id == id).suits(of), "metric")


class Suits(unittest.TestCase):
    def test_every_school_says_yes_somewhere(self) -> None:
        ball = {"kind": "ball", "RE": 6.0, "FHA": 30.0}
        places = (
            case(), case(kind="slot", width_mm=14.0), case(kind="face", depth_mm=1.0),
            case(tool=ball, kind="surface", slope_deg=30.0, depth_mm=0.3),
        )  # fmt: skip
        for strategy in schools_for(places[0]):
            with self.subTest(strategy=strategy.id):
                self.assertTrue(any(not strategy.suits(place) for place in places))

    def test_reasons(self) -> None:
        asked = (
            ("full_slot", case(kind="shelf"), "side is open"),
            ("full_slot", case(kind="slot", width_mm=10.0), "wider than"),
            ("light_radial", case(kind="slot", width_mm=16.0), "loops"),
            ("heavy_radial", case(width_mm=14.0, corner_radius_mm=7.0), "no side free"),
            ("trochoidal", case(kind="slot", width_mm=13.0), "no loop"),
            ("slot_first", case(kind="face", depth_mm=1.0), "open side"),
            ("slot_first", case(kind="slot", width_mm=16.0), "4.00 mm would be left"),
            ("corner_predrill", case(corner_radius_mm=12.0), "wide enough"),
            ("corner_predrill", case(kind="slot", width_mm=30.0), "no inner corners"),
            ("rough_finish", case(kind="face", depth_mm=1.0), "no walls"),
            ("surface", case(), "surfaces only"),
            ("high_feed", case(depth_mm=34.0, width_mm=13.0, corner_radius_mm=6.0), "no lead-angle tool"),
            ("heavy_radial", case(depth_mm=40.0), "the floor lies at 40.00 mm"),
            ("light_radial", case(tool={"centre_cutting": False}, width_mm=16.0), "does not cut at its centre"),
        )
        for id, place, words in asked:
            with self.subTest(strategy=id, words=words):
                self.assertIn(words, why_not(id, place))


class Surface(unittest.TestCase):
    def surface(self, **feature: Any) -> Case:
        ball = {"kind": "ball", "RE": 6.0, "FHA": 30.0}
        return case(tool=ball, kind="surface", **{"slope_deg": 30.0, "depth_mm": 0.3, "cusp_um": 10.0, **feature})

    def lines(self, place: Case) -> Any:
        return next(entry for entry in REGISTRY if entry.id == "surface").stages(place)[0].task

    def test_the_stepover_leaves_the_cusp_that_is_asked_for(self) -> None:
        for cusp in (5.0, 20.0):
            task = self.lines(self.surface(cusp_um=cusp))
            self.assertEqual(len(task.stepovers), 1)
            self.assertAlmostEqual(1000 * cusp_of(6.0, float(task.stepovers[0])), cusp, places=6)

    def test_a_steeper_surface_is_longer_to_walk(self) -> None:
        def minutes(slope: float) -> float:
            task = self.lines(self.surface(slope_deg=slope))
            cutting, _ = task.minutes(solve(task.setup, task.stepovers, task.depths[:1]))
            return float(np.asarray(cutting).min())

        flat = minutes(0.0)
        self.assertAlmostEqual(minutes(60.0) / flat, 2.0, delta=0.05)
        self.assertLess(minutes(30.0), minutes(60.0))

    def test_it_is_said_how_to_plan_the_lines(self) -> None:
        for slope, words in ((0.0, "Step over"), (5.0, "only rubs"), (30.0, "Step over"), (60.0, "Step down")):
            place = self.surface(slope_deg=slope)
            text = surfacing._advice(place, None)  # type: ignore[arg-type]
            with self.subTest(slope=slope):
                self.assertIn(words, text)
        self.assertNotIn("rubs", surfacing._advice(self.surface(slope_deg=40.0), None))  # type: ignore[arg-type]
        self.assertIn("ball or a corner radius", why_not("surface", case(kind="surface", slope_deg=10.0, depth_mm=0.3)))


class Times(unittest.TestCase):
    def test_rows_over_a_face_by_hand(self) -> None:
        face = case(kind="face", width_mm=60.0, depth_mm=4.0)
        task = next(entry for entry in REGISTRY if entry.id == "heavy_radial").stages(face)[0].task
        state = solve(task.setup, task.stepovers, task.depths)
        cutting, linking = task.minutes(state)
        # equal rows: in on an arc about the corner, along 100 mm, and out past the material
        rows, levels = np.ceil(60.0 / state.ae - 1e-9), np.round(4.0 / state.ap)
        length = 1.0 + np.pi / 2 * 6.0 + 100.0 + 1.05 * 6.0
        np.testing.assert_allclose(cutting, rows * levels * length / state.vf, rtol=0.05)
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
            found = depth / even_depths(depth, most)
            np.testing.assert_allclose(found, np.round(found), atol=1e-9)
            self.assertLessEqual(even_depths(depth, most).max(), most * (1 + 1e-9))
        passes = 60.0 / even_stepovers(60.0, 1.0, 7.0)
        np.testing.assert_allclose(passes, np.round(passes), atol=1e-9)


def cusp_of(radius: float, s: float) -> float:
    """Height that lines s apart leave between them [mm]."""
    return radius - math.sqrt(radius**2 - (s / 2) ** 2)


class Geometry(unittest.TestCase):
    @given(st.floats(2.0, 12.0), st.floats(1.0, 20.0), st.floats(0.05, 0.9))
    def test_advance_is_the_inverse_of_the_loop_engagement(self, R: float, r: float, share: float) -> None:
        p = share * min(r, R)
        phi = float(concave_angle(R, p, r))
        self.assertAlmostEqual(float(trochoid_advance(R, r, R * (1 - math.cos(phi)))), p, places=6)

    @given(st.floats(0.5, 10.0), st.floats(0.001, 0.2))
    def test_cusp_and_stepover_are_inverse(self, R: float, cusp: float) -> None:
        self.assertAlmostEqual(cusp_of(R, float(stepover_for(R, cusp))), cusp, places=9)

    def test_lines_on_a_slope(self) -> None:
        flat, steep = lines_on(5.0, 0.02, 5.0), lines_on(5.0, 0.02, 60.0)
        self.assertTrue(flat.centre_touches and not flat.is_steep)
        self.assertTrue(steep.is_steep and not steep.centre_touches)
        self.assertFalse(lines_on(5.0, 0.02, 5.0, tilt=15.0).centre_touches)
        self.assertAlmostEqual(math.hypot(steep.plan, steep.down), steep.along)

    @given(st.floats(3.0, 40.0), st.floats(0.3, 0.9), st.floats(8.0, 22.0), st.floats(0.0, 0.95))
    def test_no_part_of_the_edge_stands_out_of_the_programmed_radius(
        self, DC: float, share: float, kappa: float, corner: float
    ) -> None:
        tip, kappa = share * DC, math.radians(kappa)
        w = (DC - tip) / 2
        RE = corner * w
        # the edge: straight from the tip at the lead angle, then round into the diameter
        centre = np.array([DC / 2 - RE, ((w - RE) * math.sin(kappa) + RE) / math.cos(kappa)])
        angles = np.linspace(kappa, math.pi / 2, 60)
        bend = centre + RE * np.column_stack((np.sin(angles), -np.cos(angles)))
        straight = np.linspace([tip / 2, 0.0], bend[0], 60)
        np.testing.assert_allclose(straight[-1][1], (straight[-1][0] - tip / 2) * math.tan(kappa), atol=1e-9)
        edge = np.concatenate((straight, bend))

        def beyond(radius: float) -> np.ndarray:
            """How far each point stands out of a tool with that corner radius [mm]."""
            x, y = edge[:, 0] - (DC / 2 - radius), radius - edge[:, 1]
            return np.where((x > 0) & (y > 0), np.hypot(np.maximum(x, 0.0), np.maximum(y, 0.0)) - radius, x - radius)

        found = leftover(DC, tip, kappa, RE, DC)
        self.assertLessEqual(float(beyond(found.radius).max()), 1e-9 * DC)
        self.assertGreater(float(beyond(found.radius * 1.05).max()), 0.0)
        # what stays: how far the edge keeps away from the programmed corner, at its farthest
        arc = np.linspace(0.0, math.pi / 2, 4000)
        around = np.array([DC / 2 - found.radius, found.radius]) + found.radius * np.column_stack(
            (np.sin(arc), -np.cos(arc))
        )
        away = (around[:, 0] - tip / 2) * math.sin(kappa) - around[:, 1] * math.cos(kappa)
        self.assertAlmostEqual(found.under, max(float(away.max()), 0.0), delta=1e-4 * DC)

    def test_programmed_radii_of_the_table_are_just_kept(self) -> None:
        noted = {key: tool for key, tool in LIBRARY.tools.items() if "programmed corner radius" in (tool.notes or "")}
        self.assertEqual(len(noted), 3)
        for key, tool in noted.items():
            own = float((tool.notes or "").split("radius ")[1].split(" ")[0])
            tip = tool.DC - 2 * tool.APMX / math.tan(math.radians(tool.KAPR))
            found = leftover(tool.DC, tip, math.radians(tool.KAPR), tool.RE, 0.6 * tool.DC)
            with self.subTest(tool=key):
                self.assertLessEqual(own, found.radius)
                self.assertGreater(own, 0.8 * found.radius)

    def test_cusps_only_beyond_the_tip(self) -> None:
        kappa = math.radians(15.0)
        self.assertEqual(leftover(12.0, 8.0, kappa, 1.0, 7.0).cusp, 0.0)
        self.assertAlmostEqual(leftover(12.0, 8.0, kappa, 1.0, 9.0).cusp, 0.5 * math.tan(kappa))


if __name__ == "__main__":
    unittest.main()
