"""Force laws, their corrections, and the arithmetic of power and torque."""

import math
import unittest

import numpy as np

from lesna.physics.edge import forces

LAW = forces.ForceLaw(0.25, np.array([2000.0, 800.0, 600.0]))
LINEAR = forces.ForceLaw(0.0, np.zeros(3), np.array([[796.0, 27.7], [168.8, 30.8], [222.0, 1.4]]))


class Law(unittest.TestCase):
    def test_kienzle_at_one_millimetre_is_kc11(self) -> None:
        self.assertAlmostEqual(float(LAW.specific(1.0)), 2000.0)
        np.testing.assert_allclose(LAW.directions(1.0), [2000.0, 800.0, 600.0])

    def test_tangent_joins_smoothly_and_leaves_the_edge_force(self) -> None:
        h1 = forces.TANGENT_BELOW
        step = 1e-7
        slope_below = (LAW.per_edge(h1) - LAW.per_edge(h1 - step)) / step
        slope_above = (LAW.per_edge(h1 + step) - LAW.per_edge(h1)) / step
        self.assertAlmostEqual(float(slope_below / slope_above), 1.0, places=4)
        self.assertAlmostEqual(float(LAW.per_edge(0.0)), 0.25 * float(LAW.per_edge(h1)))

    def test_linear_law_has_its_own_coefficients_in_each_direction(self) -> None:
        np.testing.assert_allclose(LINEAR.directions(0.1), [79.6 + 27.7, 16.88 + 30.8, 22.2 + 1.4])
        self.assertTrue(LINEAR.is_linear)

    def test_arrays_equal_scalars(self) -> None:
        h = np.array([[0.001, 0.02], [0.05, 0.3]])
        for law in (LAW, LINEAR):
            np.testing.assert_allclose(law.directions(h)[1, 1, 0], law.directions(0.05)[1])

    def test_slopes_are_those_of_the_law(self) -> None:
        for law in (LAW, LINEAR):
            for h in (0.03, 0.1):
                numeric = (law.directions(h + 1e-6) - law.directions(h - 1e-6)) / 2e-6
                np.testing.assert_allclose(law.slopes(h), numeric, rtol=1e-5)

    def test_corrections(self) -> None:
        self.assertAlmostEqual(forces.hardness_factor(330.0, 300.0, 0.5), math.sqrt(1.1))
        self.assertEqual(forces.hardness_factor(None, 300.0, 0.5), 1.0)
        self.assertAlmostEqual(forces.rake_factor(16.0, 6.0), 0.85)
        self.assertAlmostEqual(forces.rake_factor(60.0, 6.0), 0.70)  # held at 20 degrees
        self.assertAlmostEqual(float(forces.axial_ratio(0.3, math.radians(30.0))), 0.3)
        np.testing.assert_allclose(forces.wear_factors(0.15), [1.15, 1.375, 1.15])

    def test_9549(self) -> None:
        self.assertAlmostEqual(float(forces.torque_from_power(1.0, 9549.2966)), 1.0, places=7)


if __name__ == "__main__":
    unittest.main()
