"""Spacing, thresholds, the centre of the tool and leads, against closed forms and figures that were measured otherwise."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lesna.surface.centre import engaged
from lesna.surface.drops import rounded
from lesna.surface.faces import faces_of
from lesna.surface.lead import least_lead
from lesna.surface.mesh import welded
from lesna.surface.spacing import allowed_any, field_of, fits, hollows, least_of
from lesna.surface.threshold import split_of
from lesna.surface.tips import sides_of
from tests import surface_parts as parts

BALL = rounded(6, 3)


def middle(faces, values):  # type: ignore[no-untyped-def]
    """Of the triangles away from the border."""
    t = faces.mesh.triangles
    low, high = faces.mesh.box
    return values[(t[:, :, 0].min(axis=1) > low[0] + 1) & (t[:, :, 0].max(axis=1) < high[0] - 1)]


class Spacing(unittest.TestCase):
    def test_a_ball_on_a_plane_leaves_its_cusp(self) -> None:
        flat = 2 * np.sqrt(2 * 3 * 0.005)
        for slope in (0.0, 30.0, 60.0):
            faces = faces_of(welded(parts.plane(slope)))
            level, uphill = field_of(faces, BALL, 0.005, 90.0), field_of(faces, BALL, 0.005, 0.0)
            np.testing.assert_allclose(level.plan, flat * np.cos(np.radians(slope)), rtol=2e-3)
            np.testing.assert_allclose(uphill.plan, flat, rtol=2e-3)
            if slope:
                np.testing.assert_allclose(
                    field_of(faces, BALL, 0.005, None).down, flat * np.sin(np.radians(slope)), rtol=2e-3
                )

    def test_on_a_cylinder_it_follows_its_radius(self) -> None:
        # h = c^2 / (8 R (1 + R / rho)) for the distance of contacts
        for rho in (20.0, 8.0, -20.0, -5.0):
            faces = faces_of(welded(parts.cylinder(rho)))
            along = middle(faces, field_of(faces, BALL, 0.005, 90.0).along)
            contacts = np.sqrt(8 * 0.005 * 3 / (1 + 3 / rho))
            self.assertLess(abs(float(np.median(along)) / (contacts * (1 + 3 / rho)) - 1), 0.02, rho)

    def test_a_corner_radius_fed_uphill_cuts_as_a_larger_ball(self) -> None:
        faces = faces_of(welded(parts.plane(30.0)))
        found = field_of(faces, rounded(6, 1), 0.005, 0.0).plan
        np.testing.assert_allclose(found, 2 * np.sqrt(2 * 5 * 0.005), rtol=2e-3)
        np.testing.assert_allclose(allowed_any(faces, rounded(6, 1), 0.005), 2 * np.sqrt(2 * 1 * 0.005), rtol=2e-3)

    def test_a_tool_fits_where_the_hollow_is_wider(self) -> None:
        faces = faces_of(welded(parts.cylinder(-4.0)))
        self.assertGreater(float(middle(faces, fits(faces, BALL)).mean()), 0.99)
        self.assertLess(float(middle(faces, fits(faces, rounded(9, 4.5))).mean()), 0.01)
        self.assertAlmostEqual(hollows(faces)[0], 4.0, delta=0.1)

    def test_the_least_leaves_a_share_of_the_area_over(self) -> None:
        values, areas = np.arange(1.0, 1001.0), np.ones(1000)
        self.assertEqual(least_of(values, areas, 0.005), 5.0)
        self.assertEqual(least_of(values[:0], areas[:0], 0.005), float("inf"))


class Threshold(unittest.TestCase):
    def test_planes_are_never_cut_in_two(self) -> None:
        faces = faces_of(welded(parts.prismatic(16, 30.0)))
        split = split_of(faces, field_of(faces, BALL, 0.005, 90.0), field_of(faces, BALL, 0.005, None))
        self.assertIsNotNone(split.suggested)
        at = int(split.suggested or 0)
        self.assertTrue(32 < at < 58 or at > 62, at)
        self.assertLessEqual(split.cut_area[at], split.cut_area[45] + 1e-9)
        # a round from 0 to 60 deg of 5 mm is parted at 45 deg over its whole width
        self.assertAlmostEqual(float(split.seam[45]), 2 * 30.0, delta=2.0)

    def test_whole_faces_go_to_their_side(self) -> None:
        faces = faces_of(welded(parts.prismatic(16, 30.0)))
        steep, cut = sides_of(faces, 45.0)
        planes = [k for k in range(faces.count) if faces.slopes(k)[2] - faces.slopes(k)[0] < 2]
        for k in planes:
            own = steep[faces.of == k]
            self.assertTrue(own.all() or not own.any())
        self.assertEqual(sides_of(faces, None)[0].any(), False)
        self.assertGreater(len(cut), 0)

    def test_where_nothing_is_steep_none_is_suggested(self) -> None:
        faces = faces_of(welded(parts.plane(5.0)))
        split = split_of(faces, field_of(faces, BALL, 0.005, 0.0), field_of(faces, BALL, 0.005, None))
        self.assertIsNone(split.suggested)
        self.assertIn("nothing is steep", split.reason)
        faces = faces_of(welded(parts.plane(80.0)))
        split = split_of(faces, field_of(faces, BALL, 0.005, 0.0), field_of(faces, BALL, 0.005, None))
        self.assertIn("nothing is shallow", split.reason)


def frame(slope: float, heading: float):  # type: ignore[no-untyped-def]
    """Normal and heading of a way on a slope that rises along x; the heading is counted from uphill to the left."""
    s, h = np.radians(slope), np.radians(heading)
    normal = np.array((-np.sin(s), 0.0, np.cos(s)))
    up = np.array((np.cos(s), 0.0, np.sin(s)))
    return normal[None], (np.cos(h) * up + np.sin(h) * np.cross(normal, up))[None]


class Centre(unittest.TestCase):
    def test_diameters_by_heading(self) -> None:
        # D6, skin 0.1, stepover 0.3; worked out by hand on the sampled patch
        for slope, heading, side, least, greatest in (
            (5, 0, 1, 0.52, 2.04), (5, 180, 1, 0.0, 1.62), (15, 0, 1, 1.55, 2.99), (15, 90, -1, 1.26, 2.99), (15, 90, 1, 0.02, 2.34),
            (15, 180, 1, 0.02, 2.15), (30, 0, 1, 3.00, 4.23), (30, 180, 1, 1.57, 3.28),
        ):  # fmt: skip
            found = engaged(BALL, *frame(slope, heading), np.ones(1), 0.1, 0.3, float(side))
            with self.subTest(slope=slope, heading=heading, side=side):
                self.assertAlmostEqual(float(found.least[0]), least, delta=0.006)
                self.assertAlmostEqual(float(found.greatest[0]), greatest, delta=0.006)

    @settings(max_examples=40, deadline=None)
    @given(
        st.floats(0.5, 80), st.floats(0, 360), st.floats(0.02, 0.4), st.floats(0.05, 1.0), st.sampled_from((-1.0, 1.0))
    )
    @example(78.0, 0.0, 0.375, 1.0, -1.0)
    def test_a_dense_sample_of_the_patch_says_the_same(self, slope, heading, skin, over, side) -> None:  # type: ignore[no-untyped-def]
        normal, way = frame(slope, heading)
        found = engaged(BALL, normal, way, np.ones(1), skin, over, side)
        w = np.arccos(1 - skin / 3)
        a, b = np.meshgrid(np.linspace(0, w, 160), np.linspace(0, 2 * np.pi, 361))
        into = -normal[0]
        e1 = way[0] - (way[0] @ into) * into
        e1 /= np.linalg.norm(e1)
        left = np.cross(normal[0], e1)
        u = np.cos(a)[..., None] * into + np.sin(a)[..., None] * (
            np.cos(b)[..., None] * e1 + np.sin(b)[..., None] * left
        )
        inside = (u @ e1 >= 0) & (side * (u @ left) >= -over / 6)
        # over the middle of the ball its cylinder cuts, as wide as the ball
        diameters = np.where(u[inside][:, 2] > 0, 6.0, 6 * np.hypot(u[inside][:, 0], u[inside][:, 1]))
        self.assertAlmostEqual(float(found.greatest[0]), float(diameters.max()), delta=0.08)
        self.assertAlmostEqual(float(found.least[0]), float(diameters.min()), delta=0.08)

    def test_a_lead_turns_the_tip_out_of_a_plane(self) -> None:
        lead = least_lead(faces_of(welded(parts.plane(0.0))))
        self.assertTrue(lead.allowed)
        self.assertEqual((lead.tilt, lead.upright_tip), (10.0, 1.0))
        lead = least_lead(faces_of(welded(parts.plane(30.0))))
        self.assertEqual((lead.allowed, lead.tilt), (True, 0.0))


if __name__ == "__main__":
    unittest.main()
