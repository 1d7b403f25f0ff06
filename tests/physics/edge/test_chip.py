"""Chip thickness against the true trochoid, and each compensation against its own inverse."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics.edge import chip
from lesna.physics.edge.engagement import engagement_angle


def trochoid_thickness(phi: float, fz: float, R: float, z: int) -> float:
    """Distance along the tooth's radius to the surface the former tooth left, by bisection on the true paths."""
    feed_per_rad = z * fz / (2 * math.pi)

    def gap(h: float) -> float:
        # the point at R - h under this tooth; the former tooth passed it at an angle to be found
        x = (R - h) * math.sin(phi) + feed_per_rad * phi
        y = (R - h) * math.cos(phi)
        former = phi
        for _ in range(60):
            centre = feed_per_rad * former - fz
            former = math.atan2(x - centre, y)
        return math.hypot(x - (feed_per_rad * former - fz), y) - R

    low, high = -0.5 * fz, 1.5 * fz
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if gap(middle) > 0 else (low, middle)
    return (low + high) / 2


engagements = st.floats(0.005, 1.0)
chips = st.floats(0.002, 0.3)


class Profile(unittest.TestCase):
    def test_shifted_circle_is_within_a_third_percent_of_the_trochoid(self) -> None:
        R, z = 6.0, 4
        for fz in (0.03 * R, 0.04 * R):
            for phi in np.radians([40.0, 70.0, 90.0, 120.0, 150.0]):
                true = trochoid_thickness(phi, fz, R, z)
                with self.subTest(fz=fz, phi=math.degrees(phi)):
                    self.assertAlmostEqual(float(chip.thickness_at(phi, fz, R, z)) / true, 1.0, delta=0.003)

    def test_small_feeds_use_the_circle(self) -> None:
        self.assertAlmostEqual(float(chip.thickness_at(1.0, 0.05, 6.0, 4)), 0.05 * math.sin(1.0), places=15)

    def test_very_thin_step_is_the_distance_between_the_circles(self) -> None:
        # entry point of the step on the new circle, its distance from the former circle
        R, ae, fz = 6.0, 0.05, 0.3
        s = math.sin(math.acos(1 - ae / R))
        entry = (R * s, R - ae)
        former = math.hypot(entry[0] - fz, entry[1])
        self.assertAlmostEqual(float(chip.greatest_thickness(fz, ae / 12, 12.0, 1.0)), R - former, places=9)

    def test_chip_never_outgrows_the_step(self) -> None:
        for fz in (0.5, 1.0, 5.0, 50.0):
            self.assertLessEqual(float(chip.greatest_thickness(fz, 0.002, 12.0, 1.0)), 0.002 * 12 + 1e-12)


class Compensation(unittest.TestCase):
    def test_doubled_feed_at_the_engagement_where_the_sine_is_a_half(self) -> None:
        x = (1 - math.cos(math.radians(30))) / 2
        fz, reached = chip.feed_for_greatest(0.05, x, 12.0, 1.0)
        self.assertAlmostEqual(float(fz), 0.1)
        self.assertTrue(reached)

    def test_lead_angle_thins_too(self) -> None:
        fz, _ = chip.feed_for_greatest(0.05, 0.7, 16.0, math.sin(math.radians(17)))
        self.assertAlmostEqual(float(fz), 0.05 / math.sin(math.radians(17)))

    def test_unreachable_target_is_capped_and_said(self) -> None:
        fz, reached = chip.feed_for_greatest(0.2, 0.1 / 12, 12.0, 1.0)
        phi = float(engagement_angle(0.1 / 12))
        self.assertFalse(reached)
        self.assertAlmostEqual(float(fz), 6.0 * math.sin(phi))
        self.assertAlmostEqual(float(chip.greatest_thickness(fz, 0.1 / 12, 12.0, 1.0)), 0.1)

    @settings(max_examples=200)
    @given(h=chips, x=engagements, D=st.floats(1.0, 80.0), s_k=st.floats(0.15, 1.0))
    def test_max_chip_feed_gives_back_its_chip(self, h: float, x: float, D: float, s_k: float) -> None:
        fz, reached = chip.feed_for_greatest(h, x, D, s_k)
        if reached:
            self.assertAlmostEqual(float(chip.greatest_thickness(fz, x, D, s_k)), h, delta=1e-9 + 1e-7 * h)
        else:
            self.assertLess(float(chip.greatest_thickness(fz, x, D, s_k)), h * (1 + 1e-12))

    @settings(max_examples=200)
    @given(h=chips, x=engagements, D=st.floats(1.0, 80.0), s_k=st.floats(0.15, 1.0))
    def test_mean_chip_feed_gives_back_its_chip(self, h: float, x: float, D: float, s_k: float) -> None:
        fz, reached = chip.feed_for_mean(h, x, D, s_k)
        if reached:
            self.assertAlmostEqual(float(chip.mean_thickness(fz, x, s_k)), h, delta=1e-12 + 1e-9 * h)

    def test_mean_chip_school_feeds_faster_on_thin_steps(self) -> None:
        target = 0.05 * float(chip.mean_over_greatest(0.5))
        for x in (0.05, 0.1, 0.3):
            by_mean, _ = chip.feed_for_mean(target, x, 12.0, 1.0)
            by_greatest, _ = chip.feed_for_greatest(0.05, x, 12.0, 1.0)
            self.assertGreater(float(by_mean), float(by_greatest))

    def test_continuous_at_half_engagement(self) -> None:
        below, at = chip.feed_for_greatest(0.05, np.array([0.5 - 1e-9, 0.5]), 12.0, 1.0)[0]
        self.assertAlmostEqual(below, at, places=6)


class Mean(unittest.TestCase):
    def test_mean_is_the_integral_over_the_arc(self) -> None:
        for x in (0.1, 0.5, 0.8):
            phi = np.linspace(0, float(engagement_angle(x)), 20001)
            self.assertAlmostEqual(float(chip.mean_thickness(0.1, x, 1.0)), float(np.mean(0.1 * np.sin(phi))), places=5)

    def test_slot_mean_is_two_over_pi(self) -> None:
        self.assertAlmostEqual(float(chip.mean_thickness(0.1, 1.0, 1.0)), 0.2 / math.pi)

    def test_thinning_factor(self) -> None:
        self.assertAlmostEqual(float(chip.thinning_factor(0.1)), 1 / 0.6)
        self.assertEqual(float(chip.thinning_factor(0.8)), 1.0)
