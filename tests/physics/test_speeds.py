"""Speeds and feeds against pocket-calculator values, and stepped machines."""

import unittest

import numpy as np

from lesna.physics import speeds


class Speeds(unittest.TestCase):
    def test_published_rule_n_is_318_vc_over_d(self) -> None:
        # 1000/pi = 318.31, the shop formula
        self.assertAlmostEqual(float(speeds.spindle_speed(100.0, 10.0)), 3183.099, places=3)

    def test_surface_speed_undoes_spindle_speed(self) -> None:
        d = np.array([0.5, 6.0, 63.0])
        np.testing.assert_allclose(speeds.surface_speed(speeds.spindle_speed(137.0, d), d), 137.0, rtol=1e-14)

    def test_feed_and_removal(self) -> None:
        self.assertEqual(speeds.feed_speed(5000.0, 4, 0.05), 1000.0)
        self.assertEqual(speeds.removal_rate(2.0, 10.0, 1000.0), 20.0)

    def test_stepped_machine_takes_the_step_below(self) -> None:
        steps = (90.0, 140.0, 224.0, 355.0)
        for wanted, expected in ((89.0, 90.0), (90.0, 90.0), (139.9, 90.0), (140.0, 140.0), (1e5, 355.0)):
            with self.subTest(wanted=wanted):
                self.assertEqual(float(speeds.step_at_most(wanted, steps)), expected)

    def test_steps_work_on_arrays_and_vanish_without_steps(self) -> None:
        np.testing.assert_array_equal(
            speeds.step_at_most(np.array([[100.0], [400.0]]), (90.0, 355.0)), [[90.0], [355.0]]
        )
        self.assertEqual(speeds.step_at_most(123.4, ()), 123.4)

    def test_rounding_does_not_lose_a_step(self) -> None:
        self.assertEqual(float(speeds.step_at_most(0.1 + 0.2, (0.1, 0.3))), 0.3)

    def test_stopwatch(self) -> None:
        self.assertAlmostEqual(float(speeds.stopwatch_difference(500.0, 30.0, 1000.0)), 0.0)
        self.assertAlmostEqual(float(speeds.stopwatch_difference(500.0, 33.0, 1000.0)), -1 / 11)
