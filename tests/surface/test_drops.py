"""The exact drop: closed forms on planes, edges and cylinders; a dense sample of the triangles beside it; stick-out on a wall."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.surface.drops import NOTHING, Ground, frustum, rounded, tapered
from lesna.surface.mesh import welded
from lesna.surface.stick_out import Ring, reach_of
from tests import surface_parts as parts

SHAPES = (rounded(6, 3), rounded(6, 1), rounded(6, 0), frustum(3, 6, 12.0), frustum(5, 5, 1.0), tapered(4, 12.0, 10.0))
GROUNDS = {
    "prismatic": Ground(welded(parts.prismatic(8, 20.0))),
    "saddle": Ground(welded(parts.saddle(24, 20.0, 16.0))),
    "wall": Ground(welded(parts.wall(8, 20.0))),
}


class Exact(unittest.TestCase):
    def test_a_tool_on_a_plane_stands_as_the_closed_form_says(self) -> None:
        for slope in (0.0, 17.0, 45.0, 72.0):
            ground = Ground(welded(parts.plane(slope, 30.0)))
            s = np.radians(slope)
            for shape in (rounded(6, 3), rounded(6, 1), rounded(6, 0)):
                x, y = 10.0, 8.0
                plane = np.tan(s) * (np.cos(np.radians(30)) * x + np.sin(np.radians(30)) * y)
                wanted = plane + np.tan(s) * shape.rm + shape.r * (1 / np.cos(s) - 1)
                with self.subTest(slope=slope, shape=shape):
                    self.assertAlmostEqual(float(ground.drop(shape, np.array([[x, y]])).z[0]), wanted, 9)

    def test_a_ball_rests_on_the_edge_of_a_wall(self) -> None:
        # 1 mm beside an edge 22 mm high: 3 - sqrt(9 - 1) under it
        found = GROUNDS["wall"].drop(rounded(6, 3), np.array([[49.0, 10.0]]))
        self.assertAlmostEqual(float(found.z[0]), 22.0 - (3.0 - np.sqrt(8.0)), 9)
        np.testing.assert_allclose(found.contact[0], (50.0, 10.0, 22.0), atol=1e-9)

    def test_nothing_holds_a_tool_beside_the_part(self) -> None:
        found = GROUNDS["saddle"].drop(rounded(6, 3), np.array([[-10.0, 5.0]]))
        self.assertEqual((float(found.z[0]), int(found.held[0])), (NOTHING, -1))

    def test_no_place_of_a_dense_sample_stands_higher(self) -> None:
        rng = np.random.default_rng(7)
        for name, ground in GROUNDS.items():
            low, high = ground.mesh.box
            for shape in SHAPES:
                for place in rng.uniform(low[:2], high[:2], (6, 2)):
                    exact = float(ground.drop(shape, place[None]).z[0])
                    sampled = parts.plain_drop(ground.mesh.triangles, shape, place)
                    with self.subTest(part=name, shape=shape, place=place):
                        self.assertGreaterEqual(exact, sampled - 1e-6)
                        # a sample of steep long triangles lies far under the highest place
                        self.assertLess(exact - sampled, 0.6)

    @settings(max_examples=60, deadline=None)
    @given(st.floats(0, 100), st.floats(0, 20), st.sampled_from((*SHAPES[:3], SHAPES[5])))
    def test_the_contact_lies_on_its_triangle_and_on_the_tool(self, x: float, y: float, shape) -> None:  # type: ignore[no-untyped-def]
        ground = GROUNDS["prismatic"]
        found = ground.drop(shape, np.array([[x, y]]))
        d = float(np.hypot(*(found.contact[0, :2] - (x, y))))
        under = parts.underside(shape, np.array([d]))[0]
        self.assertLessEqual(d, shape.R + 1e-9)
        self.assertAlmostEqual(float(found.contact[0, 2]), float(found.z[0]) + under, 7)
        corners = ground.mesh.triangles[int(found.held[0])]
        normal = ground.mesh.normals[int(found.held[0])]
        self.assertAlmostEqual(float((found.contact[0] - corners[0]) @ normal), 0.0, 7)

    def test_the_way_places_are_asked_for_changes_nothing(self) -> None:
        rng = np.random.default_rng(3)
        ground = GROUNDS["saddle"]
        places = rng.uniform((0, 0), (20, 16), (200, 2))
        shape = rounded(6, 1)
        one = ground.drop(shape, places).z
        order = rng.permutation(200)
        np.testing.assert_allclose(ground.drop(shape, places[order]).z, one[order], atol=1e-9)
        np.testing.assert_allclose(ground.drop_on_cores(shape, places).z, one, atol=1e-9)


class StickOut(unittest.TestCase):
    def test_beside_a_wall_it_is_the_wall_and_the_clearance(self) -> None:
        y = np.linspace(2.0, 18.0, 30)
        tips = np.column_stack((np.full(30, 47.0), y, np.zeros(30)))
        ring = Ring("cone", 12.0, 20.0, 0.0, 60.0)
        found = reach_of(GROUNDS["wall"], tips, (ring,), 0.5, 0.5)
        self.assertAlmostEqual(found.length, 22.5, 9)
        self.assertEqual(found.piece, "cone")

    def test_it_is_the_most_that_any_place_asks_for(self) -> None:
        ground = GROUNDS["prismatic"]
        rng = np.random.default_rng(5)
        places = rng.uniform((5, 2), (95, 18), (37, 2))
        tips = np.column_stack((places, ground.drop(rounded(6, 3), places).z))
        ring = Ring("cone", 10.0, 18.0, 0.0, 40.0)
        found = reach_of(ground, tips, (ring,), 0.0, 0.0)
        each = ground.drop(frustum(10.0, 18.0, 40.0), places).z - tips[:, 2]
        self.assertAlmostEqual(found.length, float(each.max()), 9)
        np.testing.assert_allclose(found.place, tips[int(each.argmax())])


if __name__ == "__main__":
    unittest.main()
