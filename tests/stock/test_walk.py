"""The height map against exact bookkeeping: straight passes, corners, arcs, trochoids, walls over several levels."""

import unittest

import numpy as np
import shapely

from lesna.geometry.motion import LINE, RAPID
from lesna.model.errors import InputError
from lesna.stock.body import Body
from lesna.stock.field import MOST_CELLS, block, cell_for, extruded
from lesna.stock.steps import steps_of
from lesna.stock.walk import Engagement, highest_within, walk
from tests.stock.gallery import exact_angle, motion, passes, trochoid, zigzag

R = 6.0
BODY = Body(R)


def met(path, low=(-60, -60, -30), high=(60, 60, 3), cell=0.2, step=0.5):  # type: ignore[no-untyped-def]
    stock, steps = block(low, high, cell), steps_of(path, step)
    return stock, steps, walk(stock, steps, BODY)


class Straight(unittest.TestCase):
    def test_engaged_angle_at_any_grid_angle_and_cell(self) -> None:
        for cell in (0.1, 0.25):
            for share in (0.05, 0.1, 0.3, 0.5, 1.0):
                for degrees in (0.0, 17.3, 45.0):
                    path = passes(share * 2 * R, degrees)
                    _, steps, found = met(path, cell=cell)
                    here = np.flatnonzero(steps.move == len(path) - 2)[36:-36]
                    exact = np.degrees(np.arccos(1 - 2 * share))
                    with self.subTest(cell=cell, ae=share, turned=degrees):
                        self.assertLess(np.abs(np.degrees(found.angle[here]) - exact).max(), 0.15)
                        np.testing.assert_allclose(found.depth[here], 3.0, atol=1e-6)

    def test_a_slot_in_full_material(self) -> None:
        _, steps, found = met(motion([(LINE, (20, 3.1, 0), None)], (-20, 3.1, 0)))
        np.testing.assert_allclose(np.degrees(found.angle[2:]), 180.0, atol=1e-9)

    def test_up_and_down_lie_on_their_sides(self) -> None:
        path = motion([(LINE, (20, 0, 0), None), (RAPID, (20, 0, 9), None), (RAPID, (-20, 2, 9), None), (RAPID, (-20, 2, 0), None),
                       (LINE, (20, 2, 0), None), (RAPID, (20, 2, 9), None), (RAPID, (20, -2, 9), None), (RAPID, (20, -2, 0), None),
                       (LINE, (-20, -2, 0), None), (LINE, (-20, 4, 0), None)], (-20, 0, 0))  # fmt: skip
        _, steps, found = met(path)
        up = np.flatnonzero(steps.move == 4)[40]
        self.assertAlmostEqual(found.found[up, 0, 0], 0.0)
        down = np.flatnonzero(steps.move == 8)[40]
        # the material lies at the left of this feed as well
        self.assertAlmostEqual(found.found[down, 0, 0], 0.0)

    def test_volume_that_angles_take_off_is_that_of_the_cells(self) -> None:
        for share, within in ((0.1, 0.02), (0.3, 0.005), (0.5, 0.005)):
            path = passes(share * 2 * R, 17.3)
            _, steps, found = met(path)
            here = np.flatnonzero(steps.move == len(path) - 2)[36:-36]
            swept = found.swept(BODY, steps.length)[here].sum()
            self.assertAlmostEqual(found.volume[here].sum() / swept, 1.0, delta=within)
            self.assertAlmostEqual(swept, share * 2 * R * 3.0 * steps.length[here].sum(), delta=0.005 * swept)

    def test_nothing_is_met_twice(self) -> None:
        path = motion([(LINE, (20, 0, 0), None), (LINE, (-20, 0, 0), None)], (-20, 0, 0))
        _, steps, found = met(path)
        self.assertFalse(found.angle[steps.move == 1][14:].any())
        self.assertLess(found.volume[steps.move == 1][14:].sum(), 1e-6)


class Bent(unittest.TestCase):
    def compare(self, path, rows, low=(-60, -60, -30), high=(60, 60, 3)):  # type: ignore[no-untyped-def]
        _, steps, found = met(path, low, high)
        numbers = rows(steps)
        exact = np.array([exact_angle(steps, k, R, np.array(low[:2]), np.array(high[:2])) for k in numbers])
        return np.abs(np.degrees(found.angle[numbers]) - exact)

    def test_corners_and_arcs(self) -> None:
        path = zigzag(3.6, 4, 1, 3.0)
        error = self.compare(path, lambda s: np.flatnonzero(s.move > 3)[::11])
        self.assertLess(error.mean(), 0.15)
        self.assertLess(error.max(), 1.2)

    def test_trochoids(self) -> None:
        path = trochoid(5.0, 1.0, 9)
        error = self.compare(path, lambda s: np.flatnonzero(s.move > 11)[::9])
        self.assertLess(error.mean(), 0.15)
        self.assertLess(error.max(), 1.2)

    def test_a_sharp_corner(self) -> None:
        path = motion([(LINE, (20, 0, 0), None), (LINE, (20, 20, 0), None), (RAPID, (20, 20, 9), None), (RAPID, (-20, 2, 9), None),
                       (RAPID, (-20, 2, 0), None), (LINE, (18, 2, 0), None), (LINE, (18, 20, 0), None)], (-20, 0, 0))  # fmt: skip
        error = self.compare(path, lambda s: np.flatnonzero(s.move >= 5)[::3])
        self.assertLess(error.mean(), 0.15)
        self.assertLess(error.max(), 1.2)


class Levels(unittest.TestCase):
    def test_walls_of_upper_levels_make_no_false_peaks(self) -> None:
        path = zigzag(4.8, 5, 4, 4.0)
        _, steps, found = met(path, (-40, -15, -30), (40, 40, 0))
        swept = found.swept(BODY, np.ones(len(steps)))
        flat = np.linalg.norm(steps.heading, axis=1) > 0
        peaks = []
        for level in range(4):
            here = flat & (np.abs(steps.end[:, 2] + 4.0 * (level + 1)) < 1e-6)
            peaks.append(swept[here].max())
        np.testing.assert_allclose(peaks, peaks[0], rtol=0.05)

    def test_depth_is_that_of_the_level(self) -> None:
        path = zigzag(4.8, 4, 3, 4.0)
        _, steps, found = met(path, (-40, -15, -30), (40, 40, 0))
        low = steps.end[:, 2] < -11
        wide = (found.found[low, 0, 1] - found.found[low, 0, 0] > 0.3) & (found.counts[low] > 0)
        np.testing.assert_allclose(found.found[low, 0, 2][wide], 4.0, atol=0.01)


class Maps(unittest.TestCase):
    def test_a_profile_pulled_up_has_its_outline_and_its_holes(self) -> None:
        outline = np.array([(-20, -15), (20, -15), (20, 15), (-20, 15)], dtype=float)
        hole = np.array([(-5, -5), (5, -5), (5, 5), (-5, 5)], dtype=float)
        stock = extruded(shapely.Polygon(outline, [hole]), 0.0, -10.0, 0.2)
        self.assertAlmostEqual(stock.volume / 11.0, 40 * 30 - 100, delta=2.0)
        steps = steps_of(motion([(LINE, (30, -15 - R + 2, -10), None)], (-30, -15 - R + 2, -10)), 0.5)
        found = walk(stock, steps, BODY)
        np.testing.assert_allclose(np.degrees(found.angle[45:70]), np.degrees(np.arccos(1 - 2 / R)), atol=0.15)

    def test_a_disc_touches_what_stands(self) -> None:
        stock = block((-10, -10, -10), (10, 10, 0), 0.2)
        places = np.array([(0, 0, 1.0), (0, 0, -2.0), (15, 0, -2.0), (13, 0, -2.0)])
        np.testing.assert_allclose(highest_within(stock, places, 4.0), [0, 2, 0, 2], atol=1e-6)

    def test_a_block_without_size_or_with_too_many_cells(self) -> None:
        with self.assertRaisesRegex(InputError, "lower corner below"):
            block((0, 0, 0), (0, 5, 5), 0.2)
        with self.assertRaisesRegex(InputError, "too many"):
            block((0, 0, 0), (9000, 9000, 5), 0.2)
        self.assertLess((600 / cell_for(0.5, 600, 400)) * (400 / cell_for(0.5, 600, 400)), MOST_CELLS)

    def test_joined_stretches(self) -> None:
        both = Engagement.joined([Engagement.empty(2), Engagement.empty(3)])
        self.assertEqual(len(both.counts), 5)
        self.assertEqual(both.depth.tolist(), [0.0] * 5)
