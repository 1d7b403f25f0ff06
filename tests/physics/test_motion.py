"""Times of a drive that looks ahead against what can be worked out by hand."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics.motion import Axes, Straight, Swinging, corner_speed, times, times_in_runs

AXES = Axes(np.full(3, 3000.0), 1e9, np.full(3, 500.0), 400.0, np.full(3, 400.0), 500.0, 0.01)


def straight(lengths, wanted, turns=None, axes=AXES):  # type: ignore[no-untyped-def]
    n = len(lengths)
    angle = np.cumsum([0.0] + list(turns if turns is not None else [0.0] * (n - 1)))
    way = np.stack((np.cos(angle), np.sin(angle), 0 * angle), axis=1)
    joined = np.ones(n, dtype=bool)
    ways = Straight(way, way, joined, np.full(n, np.inf), axes)
    return times(np.array(lengths, float), np.array(wanted, float), ways, axes.jerk)


class Times(unittest.TestCase):
    def test_a_long_line_speeds_up_runs_and_stops(self) -> None:
        found = straight([300.0], [100.0])
        self.assertAlmostEqual(found.time[0], 300.0 / 100 + 100.0 / 3000, places=5)
        self.assertEqual(found.peak[0], 100.0)

    def test_a_short_line_never_reaches_its_feed(self) -> None:
        found = straight([1.0], [100.0])
        self.assertAlmostEqual(found.peak[0], math.sqrt(3000.0), delta=0.05)
        self.assertAlmostEqual(found.time[0], 2 * math.sqrt(1.0 / 3000), places=4)

    def test_jerk_lengthens_each_change_of_speed(self) -> None:
        slow = Axes(AXES.acceleration, 30000.0, AXES.rapid, 400.0, AXES.feed_by_axis, 500.0, 0.01)
        found = straight([300.0], [100.0], axes=slow)
        # a^2/j = 300 mm/s: the full acceleration is not reached on the way to 100
        change = 2 * math.sqrt(100.0 / 30000)
        self.assertAlmostEqual(found.time[0], 2 * change + (300.0 - 100.0 * change) / 100, places=4)

    def test_a_move_takes_as_long_however_finely_it_is_looked_at(self) -> None:
        axes = Axes(AXES.acceleration, 30000.0, AXES.rapid, 400.0, AXES.feed_by_axis, 500.0, 0.01)
        for pieces in (1, 4, 37):
            n = 2 * pieces
            length, way = np.full(n, 7.0 / pieces), np.tile((1.0, 0.0, 0.0), (n, 1))
            begins = np.arange(n) % pieces == 0
            ways = Straight(way, way, np.ones(n, dtype=bool), np.full(n, np.inf), axes)
            found = times_in_runs(begins, length, np.full(n, 250.0), ways, axes.jerk)
            both = Straight(way[:2], way[:2], np.ones(2, dtype=bool), np.full(2, np.inf), axes)
            whole = times(np.full(2, 7.0), np.full(2, 250.0), both, axes.jerk)
            self.assertAlmostEqual(found.time.sum(), whole.time.sum())
            np.testing.assert_allclose(np.add.reduceat(found.time, np.flatnonzero(begins)), whole.time)
            self.assertLessEqual(found.peak.max(), whole.peak.max() * (1 + 1e-6))

    def test_a_line_in_pieces_takes_as_long_as_whole(self) -> None:
        whole = straight([50.0], [120.0]).time.sum()
        parts = straight([0.5] * 100, [120.0] * 100).time.sum()
        self.assertAlmostEqual(parts, whole, delta=0.01 * whole)

    def test_a_circle_takes_as_long_in_chords_of_any_length(self) -> None:
        axes = Axes(AXES.acceleration, 50000.0, AXES.rapid, 400.0, AXES.feed_by_axis, 5000.0, 0.01)
        for radius in (2.0, 5.0):
            found = []
            for count in (40, 100, 250):
                at = 2 * np.pi * np.arange(count + 1) / count
                chord = np.diff(np.stack((radius * np.cos(at), radius * np.sin(at), 0 * at), axis=1), axis=0)
                length = np.linalg.norm(chord, axis=1)
                way, every = chord / length[:, None], np.ones(count, dtype=bool)
                ways = Straight(way, way, every, np.full(count, np.inf), axes)
                found.append(times_in_runs(every, length, np.full(count, 60.0), ways, axes.jerk))
            taken = [float(one.time.sum()) for one in found]
            self.assertLess(
                max(taken) / min(taken), 1.03
            )  # the longest took 1.6 times as long where each chord was sped up
            speeds = found[2].peak
            self.assertLessEqual(speeds.max(), 60.0 * (1 + 1e-9))

    def test_corner_is_run_on_the_radius_that_the_tolerance_leaves(self) -> None:
        radius = 0.01 * math.cos(math.pi / 4) / (1 - math.cos(math.pi / 4))
        self.assertAlmostEqual(float(corner_speed(math.pi / 2, 3000.0, 0.01)), math.sqrt(3000.0 * radius))
        found = straight([50.0, 50.0], [100.0, 100.0], [math.pi / 2])
        self.assertLessEqual(found.speed[1], math.sqrt(3000.0 * math.sqrt(2) * radius) + 1e-9)
        self.assertAlmostEqual(float(corner_speed(math.pi, 3000.0, 0.01)), 0.0, places=6)

    def test_an_arc_holds_what_its_radius_allows(self) -> None:
        way = np.array([[1.0, 0, 0]])
        ways = Straight(way, way, np.array([True]), np.array([2.0]), AXES)
        found = times(np.array([100.0]), np.array([400.0]), ways, AXES.jerk)
        self.assertAlmostEqual(found.peak[0], math.sqrt(3000.0 * 2.0))

    @settings(max_examples=80)
    @given(st.lists(st.tuples(st.floats(0.01, 40), st.floats(1, 300), st.floats(-3, 3)), min_size=2, max_size=25))
    def test_no_limit_is_passed(self, rows: list[tuple[float, float, float]]) -> None:
        lengths, wanted = [r[0] for r in rows], [r[1] for r in rows]
        found = straight(lengths, wanted, [r[2] for r in rows[1:]])
        self.assertTrue((found.peak <= np.array(wanted) + 1e-9).all())
        v = found.speed
        self.assertTrue((v[1:] ** 2 - v[:-1] ** 2 <= 2 * 3000 * math.sqrt(2) * np.array(lengths) + 1e-6).all())
        self.assertTrue((v[:-1] ** 2 - v[1:] ** 2 <= 2 * 3000 * math.sqrt(2) * np.array(lengths) + 1e-6).all())
        self.assertTrue((found.time >= np.array(lengths) / np.array(wanted) - 1e-9).all())
        self.assertEqual((v[0], v[-1]), (0.0, 0.0))


class SeveralAxes(unittest.TestCase):
    TOP, GAIN = np.array([400.0, 400.0, 400.0, 90.0, 180.0]), np.array([3000.0, 3000.0, 3000.0, 300.0, 600.0])

    def ways(self, slope, length, whole=None):  # type: ignore[no-untyped-def]
        n = len(length)
        blocks = np.arange(n) if whole is None else np.array(whole)
        return Swinging(np.array(slope, float), np.array(length, float), np.arange(n) > 0, blocks,
                        self.TOP, self.GAIN, 0.01)  # fmt: skip

    def test_axes_that_stand_make_a_path_of_three(self) -> None:
        rng = np.random.default_rng(2)
        way = rng.normal(size=(60, 3))
        way /= np.linalg.norm(way, axis=1)[:, None]
        length, wanted, joined = rng.uniform(0.5, 6.0, 60), np.full(60, 150.0), np.arange(60) > 0
        three = times(length, wanted, Straight(way, way, joined, np.full(60, np.inf), AXES), 50_000.0)
        five = times(length, wanted, self.ways(np.hstack((way, np.zeros((60, 2)))), length), 50_000.0)
        np.testing.assert_allclose(five.time, three.time, rtol=1e-6)

    def test_the_slowest_axis_says_how_fast_the_tip_goes(self) -> None:
        # 30 degrees a millimetre at 90 degrees a second
        found = times(np.array([40.0]), np.array([200.0]), self.ways([[1.0, 0, 0, 30.0, 0]], [40.0]), 1e9)
        self.assertAlmostEqual(found.peak[0], 3.0)
        self.assertAlmostEqual(found.time[0], 40.0 / 3.0 + 3.0 / (0.7 * 300.0 / 30.0), delta=0.01)

    def test_a_bend_inside_a_block_is_held_by_its_acceleration(self) -> None:
        # the turn of C grows by 4 degrees a millimetre on each millimetre: v2 4 = 600
        slope = [[1.0, 0, 0, 0, 4.0 * k] for k in range(12)]
        found = self.ways(slope, [1.0] * 12, [0] * 12)
        # as far as C reaches that speed at all
        self.assertAlmostEqual(
            float(found.limited(np.full(12, 1e6), np.arange(12))[3]), min(math.sqrt(600.0 / 4.0), 180.0 / 12.0)
        )
        self.assertAlmostEqual(float(found.limited(np.full(12, 1e6), np.arange(12))[1]), math.sqrt(600.0 / 4.0))
        allowed, _ = found.joints(np.arange(12), np.arange(12))
        self.assertTrue(np.isinf(allowed).all())

    def test_a_corner_of_a_rotary_axis_is_rounded(self) -> None:
        found = self.ways([[1.0, 0, 0, 0, 0], [1.0, 0, 0, 0, 20.0]], [5.0, 5.0])
        allowed, _ = found.joints(np.arange(2), np.arange(2))
        self.assertAlmostEqual(float(allowed[0]), math.sqrt(8 * 0.02 * 600.0) / 20.0)
