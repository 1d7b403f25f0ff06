"""The equal-temperature factor against the page's values and the formula written out."""

import math
import unittest

import numpy as np

from lesna.physics.life import heat


class EqualTemperature(unittest.TestCase):
    def test_values_of_the_page(self) -> None:
        # physics.md section 12: 1.153, 1.415, 1.708 with mc = 0.25
        for x, expected in ((0.25, 1.153), (0.10, 1.415), (0.05, 1.708), (0.5, 1.0)):
            self.assertAlmostEqual(float(heat.equal_temperature_factor(x, 0.25)), expected, places=3)

    def test_written_out(self) -> None:
        def rise(x: float, mc: float) -> float:
            phi = math.acos(1 - 2 * x)
            hm = 2 * x / phi / math.sin(min(phi, math.pi / 2))  # for hex = 1
            return hm**-mc * hm ** (1 / 3) * (1 - math.exp(-math.sqrt(20 * phi / math.pi)))

        for x in (0.03, 0.3, 0.8):
            for mc in (0.0, 0.18, 0.29):
                expected = (rise(0.5, mc) / rise(x, mc)) ** 3
                self.assertAlmostEqual(float(heat.equal_temperature_factor(x, mc)), expected, places=12)

    def test_practice_at_a_tenth_heat_between_and_a_straight_line_to_the_slot(self) -> None:
        m = [float(heat.speed_multiplier(x, 0.25, 1.55, 0.8)) for x in (0.1, 0.5, 0.75, 1.0)]
        np.testing.assert_allclose(m, [1.55, 1.0, 0.9, 0.8])
        between = 1 + 0.55 * (1.153 - 1) / (1.415 - 1)
        self.assertAlmostEqual(float(heat.speed_multiplier(0.25, 0.25, 1.55, 0.8)), between, places=2)
        steel, nickel = (float(heat.speed_multiplier(0.04, 0.25, 1.85, 0.8, share)) for share in (1.0, 0.5))
        self.assertAlmostEqual(nickel - 1.85, (steel - 1.85) / 2)
        thinnest = [float(heat.speed_multiplier(x, 0.25, 1.55, 0.8)) for x in (0.03, 0.001)]
        self.assertEqual(*thinnest)  # nothing is known below

    def test_the_multiplier_never_rises_with_the_engagement(self) -> None:
        slow = heat.speed_multiplier(np.linspace(0.001, 1.0, 50), 0.25, 0.1, 0.001)
        self.assertTrue((slow > 0).all(), "absurd tables give no speed below nothing")
        m = heat.speed_multiplier(np.linspace(0.001, 1.0, 400), 0.25, 1.95, 0.7)
        self.assertTrue((np.diff(m) <= 0).all())

    def test_thinner_runs_faster_and_slots_slower(self) -> None:
        factors = heat.equal_temperature_factor(np.array([0.02, 0.1, 0.3, 0.5, 1.0]), 0.25)
        self.assertTrue((np.diff(factors) < 0).all())
        self.assertLess(factors[-1], 1.0)
