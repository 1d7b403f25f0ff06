"""Triangles welded to a surface: turned to look out, what is wrong told with its place, faces told apart, curvature of known bodies."""

from __future__ import annotations

import unittest

import numpy as np

from lesna.model.errors import InputError
from lesna.surface.curvature import curvature_of, principal
from lesna.surface.faces import faces_of
from lesna.surface.mesh import welded
from tests import surface_parts as parts


def box(a: float = 10.0):
    """A closed cube (12, 3, 3)."""
    x = np.array([(0, 0, 0), (a, 0, 0), (a, a, 0), (0, a, 0), (0, 0, a), (a, 0, a), (a, a, a), (0, a, a)])
    quads = ((0, 3, 2, 1), (4, 5, 6, 7), (0, 1, 5, 4), (1, 2, 6, 5), (2, 3, 7, 6), (3, 0, 4, 7))
    return x[np.array([corner for q in quads for corner in ((q[0], q[1], q[2]), (q[0], q[2], q[3]))])]


class Welding(unittest.TestCase):
    def test_a_closed_cube_is_told_as_sound(self) -> None:
        mesh = welded(box())
        self.assertEqual((len(mesh.points), len(mesh), mesh.troubles), (8, 12, ()))
        self.assertTrue((mesh.neighbours >= 0).all())
        np.testing.assert_allclose(np.degrees(mesh.bends).max(), 90.0)

    def test_triangles_that_look_in_are_turned(self) -> None:
        rng = np.random.default_rng(1)
        turned = box()
        some = rng.permutation(12)[:4]
        turned[some] = turned[some][:, ::-1]
        mesh = welded(turned)
        outward = ((mesh.triangles.mean(axis=1) - 5.0) * mesh.normals).sum(axis=1)
        self.assertTrue((outward > 0).all())
        self.assertRegex(mesh.troubles[0], r"4 triangles that look into the material, turned over, the first at x \d")
        self.assertEqual(
            welded(box()[:, ::-1]).troubles, ("all triangles looked into the material and were turned over",)
        )

    def test_what_is_wrong_is_told_with_its_place(self) -> None:
        twice = np.concatenate((box(), box()[:1]))
        self.assertIn("1 triangles that lie twice", welded(twice).troubles[0])
        self.assertIn("3 open edges", welded(box()[1:]).troubles[0])
        through = np.array([[(5.0, 5.0, 5.0), (5.1, 5.0, 15.0), (5.0, 5.1, 15.0)]])
        self.assertIn("pass through each other", " ".join(welded(np.concatenate((box(), through))).troubles))
        with self.assertRaisesRegex(InputError, "no triangle with an area"):
            welded(np.zeros((3, 3, 3)))


class Curved(unittest.TestCase):
    def test_a_cylinder_bends_one_way_and_a_dome_both(self) -> None:
        for radius in (20.0, 5.0, -8.0):
            mesh = welded(parts.cylinder(radius))
            bends = principal(curvature_of(mesh))
            inner = (mesh.triangles[:, :, 0].min(axis=1) > 0.5) & (
                mesh.triangles[:, :, 0].max(axis=1) < mesh.box[1][0] - 0.5
            )
            found = bends[inner]
            most = np.where(radius > 0, found[:, 1], found[:, 0])
            np.testing.assert_allclose(most, 1.0 / radius, rtol=0.01)
            self.assertLess(float(np.abs(np.where(radius > 0, found[:, 0], found[:, 1])).max()), 1e-3)
        mesh = welded(parts.cap(60, 20.0, 16.0, 40.0))
        bends = principal(curvature_of(mesh))
        self.assertLess(abs(float(np.median(bends)) * 40.0 - 1.0), 0.01)

    def test_planes_and_rounds_are_faces_of_their_own(self) -> None:
        faces = faces_of(welded(parts.prismatic(12, 30.0)))
        self.assertEqual(faces.count, 9)
        self.assertAlmostEqual(float(faces.areas.sum()), float(faces.mesh.areas.sum()), 6)
        # a plane's area lies within one degree, told by its middle
        planes = sorted(
            {round(at - 0.5) for low, at, high in map(faces.slopes, range(faces.count)) if high - low < 2.5}
        )
        self.assertEqual(planes, [0, 30, 60])
        np.testing.assert_allclose(faces.by_degree.sum(), faces.areas.sum(), rtol=1e-9)


if __name__ == "__main__":
    unittest.main()
