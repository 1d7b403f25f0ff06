"""The sure method where the answer is known: no cut, scaled time, scaled stiffness, and plain against compiled sums."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics import engine
from lesna.physics.structure import floquet
from lesna.physics.structure.beam import Mode
from lesna.physics.structure.stability import Dynamics

SLOW, QUICK = Mode(640.0, 8.0, 0.02), Mode(2100.0, 30.0, 0.03)
PITCH = {3: np.array([0.30, 0.37, 0.33]), 4: np.array([0.24, 0.26, 0.23, 0.27])}


def cut(
    z: int = 4, *, even: bool = True, x: float = 0.3, lead: float = 0.1, modes: tuple[Mode, ...] = (SLOW,)
) -> Dynamics:
    shares = np.full(z, 1.0 / z) if even else PITCH[z]
    return Dynamics(modes, modes, 1500.0, 500.0, shares, (math.pi - math.acos(1 - 2 * x), math.pi), lead)


def scaled(dynamics: Dynamics, *, time: float = 1.0, force: float = 1.0) -> Dynamics:
    """All frequencies times `time`; all stiffnesses and force coefficients times `force`."""
    x, y = (
        tuple(Mode(m.frequency * time, m.stiffness * force, m.zeta) for m in modes)
        for modes in (dynamics.x, dynamics.y)
    )
    return Dynamics(x, y, dynamics.Kt * force, dynamics.Kr * force, dynamics.shares, dynamics.window, dynamics.lead)


class Known(unittest.TestCase):
    def setUp(self) -> None:
        engine.ready()

    def test_without_a_cut_the_slowest_ringing_is_left(self) -> None:
        for even in (True, False):
            for modes in ((SLOW,), (SLOW, QUICK)):
                dynamics, n = cut(even=even, modes=modes), 9000.0
                period = floquet.period_of(dynamics, n)
                left = max(math.exp(-m.zeta * 2 * math.pi * m.frequency * period) for m in modes)
                found = abs(floquet.largest(dynamics, n, np.array([1e-9]))[0])
                self.assertAlmostEqual(found / left, 1.0, delta=1e-5)

    def test_the_period_is_a_tooth_or_a_turn(self) -> None:
        self.assertAlmostEqual(floquet.period_of(cut(), 6000.0), 0.0025)
        self.assertAlmostEqual(floquet.period_of(cut(even=False), 6000.0), 0.01)

    def test_time_may_be_scaled(self) -> None:
        depths = np.array([0.2, 1.0, 4.0])
        for even in (True, False):
            dynamics = cut(even=even)
            slow, quick = (floquet.largest(scaled(dynamics, time=t), 5000.0 * t, depths) for t in (1.0, 3.0))
            np.testing.assert_allclose(np.abs(quick), np.abs(slow), rtol=1e-6)

    def test_force_and_stiffness_may_be_scaled_together(self) -> None:
        depths = np.array([0.2, 1.0, 4.0])
        for even in (True, False):
            dynamics = cut(even=even)
            soft, hard = (floquet.largest(scaled(dynamics, force=f), 7000.0, depths) for f in (1.0, 5.0))
            np.testing.assert_allclose(np.abs(hard), np.abs(soft), rtol=1e-6)

    def test_twice_the_stiffness_bears_twice_the_straight_depth(self) -> None:
        soft = cut(lead=0.0)
        hard = scaled(soft, force=2.0)
        hard = Dynamics(hard.x, hard.y, soft.Kt, soft.Kr, soft.shares, soft.window)
        n = np.array([4000.0, 8000.0])
        np.testing.assert_allclose(floquet.sure(hard, n, 20.0).ap, 2 * floquet.sure(soft, n, 10.0).ap, rtol=1e-3)

    def test_many_depths_at_once_are_what_each_is_alone(self) -> None:
        depths = np.geomspace(0.05, 12.0, 23)
        for even in (True, False):
            dynamics = cut(even=even, modes=(SLOW, QUICK))
            together = floquet.largest(dynamics, 6500.0, depths)
            alone = [floquet.largest(dynamics, 6500.0, np.array([depth]))[0] for depth in depths]
            np.testing.assert_allclose(np.abs(together), np.abs(alone), rtol=1e-9)

    def test_what_grows_past_all_numbers_is_said_to_grow(self) -> None:
        wild = Dynamics((SLOW,), (SLOW,), 1e7, 5e6, np.full(2, 0.5), (0.0, math.pi))
        found = np.abs(floquet.largest(wild, 600.0, np.array([0.1, 5.0, 500.0])))
        self.assertTrue(np.isfinite(found).all())
        self.assertTrue((found > 1).all())


class Against(unittest.TestCase):
    @settings(max_examples=12)
    @given(z=st.sampled_from([3, 4]), even=st.booleans(), x=st.floats(0.03, 1.0), lead=st.sampled_from([0.0, 0.15]),
           n=st.floats(3000.0, 14000.0), two=st.booleans())  # fmt: skip
    def test_compiled_equals_plain(self, z: int, even: bool, x: float, lead: float, n: float, two: bool) -> None:
        engine.ready()
        dynamics = cut(z, even=even, x=x, lead=lead, modes=(SLOW, QUICK) if two else (SLOW,))
        depths = np.array([0.1, 0.7, 2.5])
        fast = np.log(np.abs(floquet.largest(dynamics, n, depths)))
        plain = np.log(np.abs(floquet.largest_plain(dynamics, n, depths, depths)))
        # both find the largest of many close multipliers in a small space of their own
        np.testing.assert_allclose(fast, plain, atol=0.02)

    def test_a_deep_edge_that_moves_less_pushes_less(self) -> None:
        dynamics, depths = cut(), np.array([0.5, 3.0])
        pushed = floquet.largest(dynamics, 7000.0, depths, depths / 3)
        straight = cut(lead=0.0)
        np.testing.assert_allclose(np.abs(floquet.largest(straight, 7000.0, depths, depths / 3)),
                                   np.abs(floquet.largest(straight, 7000.0, depths / 3)), rtol=1e-9)  # fmt: skip
        self.assertTrue((np.abs(pushed) <= np.abs(floquet.largest(dynamics, 7000.0, depths)) + 1e-9).all())

    def test_chatter_of_one_mode_lies_just_above_it(self) -> None:
        edge = floquet.sure(
            Dynamics((SLOW,), (), 1500.0, 400.0, np.full(2, 0.5), (0.0, math.pi)), np.array([9000.0]), 20.0
        )
        self.assertGreater(float(edge.frequency[0]), 0.97 * SLOW.frequency)
        self.assertLess(float(edge.frequency[0]), 1.4 * SLOW.frequency)

    def test_coefficients_average_to_those_of_the_whole_window(self) -> None:
        for even in (True, False):
            for lead in (0.0, 0.2):
                dynamics = cut(even=even, lead=lead)
                steps = floquet.steps_of(dynamics, 6000.0)
                H = floquet.coefficients(dynamics, np.array([0.5, 6.0]), steps).sum(axis=2).mean(axis=1)
                # over a period every tooth passes its window once (or, of equal teeth, one of them does)
                phi = np.linspace(*dynamics.window, 20001)
                s, c = np.sin(phi), np.cos(phi)
                Kt, Kr = dynamics.Kt, dynamics.Kr
                parts = ((Kt * c + Kr * s) * s, (Kt * c + Kr * s) * c, (Kr * c - Kt * s) * s, (Kr * c - Kt * s) * c)
                whole = [np.trapezoid(part, phi) * dynamics.teeth / (2 * math.pi) for part in parts]
                for row in H:
                    np.testing.assert_allclose(row, whole, rtol=1e-4)


if __name__ == "__main__":
    unittest.main()
