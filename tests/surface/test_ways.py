"""Lines, contours and rings against closed forms: chords beside the tips, circles round a dome, a front over level ground."""

from __future__ import annotations

import unittest

import numpy as np
import shapely

from lesna.model.work import STEADY
from lesna.physics import engine
from lesna.surface.drops import Ground, rounded
from lesna.surface.faces import faces_of
from lesna.surface.levels import contours, heights
from lesna.surface.lines import lines
from lesna.surface.mesh import welded
from lesna.surface.rings import rings
from lesna.surface.spacing import allowed_any, field_of
from lesna.surface.tips import Tips, tips_over
from tests import surface_parts as parts

BALL = rounded(6, 3)


def over(triangles, threshold: float | None = None) -> Tips:  # type: ignore[no-untyped-def]
    """The ball over all of a part."""
    mesh = welded(triangles)
    (x0, y0, _), (x1, y1, _) = mesh.box
    return tips_over(Ground(mesh), faces_of(mesh), BALL, shapely.box(x0, y0, x1, y1), threshold)


class Ways(unittest.TestCase):
    def test_chords_of_lines_stay_beside_the_tips(self) -> None:
        tips = over(parts.cap(40, 20.0, 16.0, 22.0))
        for rows in lines(tips, 30.0, 1.5, tips.inside, STEADY):
            middles = 0.5 * (rows[1:, :3] + rows[:-1, :3])
            exact = tips.ground.drop(BALL, middles[:, :2]).z
            self.assertLess(float((exact - middles[:, 2]).max()), 0.0012)
            self.assertLess(float((middles[:, 2] - exact).max()), 0.002)

    def test_lines_lie_evenly_and_no_farther_than_asked(self) -> None:
        tips = over(parts.plane(0.0))
        found = lines(tips, 0.0, 0.7, tips.inside, STEADY)
        y = np.array([rows[0, 1] for rows in found])
        np.testing.assert_allclose(np.diff(y), 16.0 / 23, rtol=1e-9)
        # level ground needs no places but the ends
        self.assertTrue(all(len(rows) == 2 for rows in found))

    def test_contours_of_a_dome_are_circles(self) -> None:
        tips = over(parts.cap(120, 20.0, 16.0, 22.0), 10.0)
        z = -1.0
        found = contours(tips, np.array([z]), tips.inside, STEADY)
        self.assertEqual([closed for _, closed in found], [True])
        # the middle of the ball stands on a sphere of 25 mm, its tip 3 mm under it
        radius = np.sqrt(25.0**2 - (z + 3.0 + 22.0) ** 2)
        away = np.hypot(found[0][0][:, 0] - 10.0, found[0][0][:, 1] - 8.0)
        np.testing.assert_allclose(away, radius, atol=0.006)

    def test_levels_keep_to_what_lies_between_them(self) -> None:
        tips = over(parts.plane(60.0), 45.0)
        field = field_of(tips.faces, BALL, 0.02, None)
        steps = -np.diff(heights(tips, field.down, tips.steep))
        self.assertLessEqual(float(steps.max()), float(field.down.min()) * (1 + 1e-9))

    def test_a_front_over_level_ground_counts_spacings(self) -> None:
        z, inside = np.zeros((41, 61)), np.ones((41, 61), bool)
        begin = np.full(z.shape, 1e30)
        begin[0] = begin[-1] = 0.0
        begin[:, 0] = begin[:, -1] = 0.0
        far = engine.kernel("surface_front")(z, np.full(z.shape, 0.25), inside, begin, 0.5)
        j, i = np.mgrid[:41, :61]
        exact = np.minimum(np.minimum(i, 60 - i), np.minimum(j, 40 - j)) * 0.5 / 0.25
        np.testing.assert_allclose(far, exact, atol=1e-6)

    def test_rings_are_as_far_apart_as_is_allowed(self) -> None:
        tips = over(parts.plane(0.0))
        allowed = allowed_any(tips.faces, BALL, 0.02)
        found = [rows for rows, closed in rings(tips, allowed, tips.inside, STEADY) if closed]
        middle = sorted(
            float(rows[np.abs(rows[:, 0] - 10.0) < 0.5, 1].min()) for rows in found if np.ptp(rows[:, 0]) > 6
        )
        self.assertGreater(len(middle), 5)
        self.assertLess(float(np.diff(middle).max()), float(allowed.min()) * 1.02)


if __name__ == "__main__":
    unittest.main()
