"""Spindle curves: constant torque below, constant power above, gears, idle."""

import unittest

import numpy as np

from lesna.physics import spindle


class Curve(unittest.TestCase):
    CURVE = spindle.SpindleCurve(np.array([60.0, 1500.0, 8500.0, 12000.0]), np.array([0.52, 13.0, 13.0, 9.5]))

    def test_constant_torque_below_base_speed(self) -> None:
        np.testing.assert_allclose(self.CURVE.torque(np.array([60.0, 700.0, 1500.0])), 82.76, rtol=1e-3)
        np.testing.assert_allclose(self.CURVE.torque(20.0), self.CURVE.torque(60.0))

    def test_constant_power_then_linear_fall(self) -> None:
        self.assertAlmostEqual(float(self.CURVE.power(5000.0)), 13.0)
        self.assertAlmostEqual(float(self.CURVE.power(10250.0)), 11.25)

    def test_gear_change_is_a_step(self) -> None:
        geared = spindle.SpindleCurve(np.array([100.0, 1500.0, 1500.0, 6000.0]), np.array([1.0, 15.0, 6.0, 22.0]))
        self.assertAlmostEqual(float(geared.power(1499.999)), 15.0, places=2)
        self.assertLess(float(geared.power(1500.1)), 6.1)

    def test_simple_curve(self) -> None:
        curve = spindle.simple_curve(10.0, 2000.0, 8000.0)
        self.assertAlmostEqual(float(curve.power(1000.0)), 5.0)
        self.assertAlmostEqual(float(curve.power(6000.0)), 10.0)

    def test_motor_power(self) -> None:
        self.assertAlmostEqual(float(spindle.motor_power(4.0, 0.5, 0.8)), 5.5)
