"""Chatter: zero order against a closed form, the sure method against a textbook semi-discretisation of its own."""

import math
import unittest

import numpy as np

from lesna.physics import engine
from lesna.physics.structure import floquet, stability
from lesna.physics.structure.beam import Mode

#: the one-degree benchmark of docs/physics.md section 11: m = 0.03993 kg, 922 Hz, zeta 0.011, Kt 600, Kn 200 N/mm2
MASS, FREQUENCY, ZETA = 0.03993, 922.0, 0.011
BENCHMARK = Mode(FREQUENCY, MASS * (2 * math.pi * FREQUENCY) ** 2 / 1e6, ZETA)


def cut(x: float, *, two: bool = False, direction: str = "down", **more: object) -> stability.Dynamics:
    phi = math.acos(1 - 2 * x)
    window = (math.pi - phi, math.pi) if direction == "down" else (0.0, phi)
    modes = (BENCHMARK,)
    return stability.Dynamics(modes, modes if two else (), 600.0, 200.0, np.array([0.5, 0.5]), window, **more)  # type: ignore[arg-type]


def textbook(x: float, n: float, ap: float, steps: int = 160) -> float:
    """Insperger and Stepan's semi-discretisation (zeroth-order delay, one degree of freedom), as their paper has it."""
    tau = 60.0 / n / 2
    dt = tau / steps
    w, m = 2 * math.pi * FREQUENCY, MASS
    phi_s = math.acos(1 - 2 * x)
    D = np.eye(steps + 2)
    for i in range(steps):
        fine = (i + (np.arange(20) + 0.5) / 20) * dt
        h = 0.0
        for tooth in range(2):
            phi = (2 * math.pi * n / 60 * fine + tooth * math.pi) % (2 * math.pi)
            inside = phi >= math.pi - phi_s
            inside &= phi <= math.pi
            h += float(np.mean(inside * (600e6 * np.cos(phi) + 200e6 * np.sin(phi)) * np.sin(phi)))
        wh = ap / 1000 * h / m
        A = np.array([[0.0, 1.0], [-(w**2) - wh, -2 * ZETA * w]])
        values, vectors = np.linalg.eig(A)
        P = (vectors @ np.diag(np.exp(values * dt)) @ np.linalg.inv(vectors)).real
        R = (P - np.eye(2)) @ np.linalg.inv(A) @ np.array([0.0, wh])
        step = np.zeros((steps + 2, steps + 2))
        step[:2, :2] = P
        step[:2, steps] = R / 2
        step[:2, steps + 1] = R / 2
        step[2, 0] = 1.0
        step[3:, 2:-1] = np.eye(steps - 1)
        D = step @ D
    return float(np.abs(np.linalg.eigvals(D)).max())


class Sure(unittest.TestCase):
    def test_the_published_benchmark(self) -> None:
        # slot, half, and the twentieth at which flip lobes appear; two ways of discretising agree within 2 %
        for x in (1.0, 0.5, 0.05):
            for n, ap in ((5000.0, 0.2), (5000.0, 1.0), (9300.0, 0.5), (12500.0, 2.0)):
                with self.subTest(x=x, n=n, ap=ap):
                    found = float(abs(floquet.largest(cut(x), n, np.array([ap]))[0]))
                    self.assertAlmostEqual(found / textbook(x, n, ap), 1.0, delta=0.02)

    def test_boundary_lies_where_the_textbook_multiplier_is_one(self) -> None:
        for x, n in ((1.0, 6000.0), (0.05, 8000.0)):
            edge = floquet.sure(cut(x), np.array([n]), 20.0)
            self.assertAlmostEqual(textbook(x, n, float(edge.ap[0])), 1.0, delta=0.03)

    def test_flip_lobes_at_low_immersion(self) -> None:
        # a period-two motion has a multiplier near -1: its frequency is half a tooth's off the harmonics
        n = 60.0 * FREQUENCY / 2 / 0.5 / 1.03
        mu = floquet.largest(cut(0.05), n, np.array([4.0, 6.0]))
        self.assertTrue(any(value.real < -0.9 and abs(value.imag) < 0.05 for value in mu))

    def test_compiled_equals_plain(self) -> None:
        engine.ready()
        for dynamics in (cut(0.3), cut(0.3, two=True, lead=0.1), cut(0.1)):
            depths = np.array([0.1, 0.6, 3.0])
            for n in (4000.0, 9000.0):
                np.testing.assert_allclose(np.abs(floquet.largest(dynamics, n, depths)),
                                           np.abs(floquet.largest_plain(dynamics, n, depths, depths)), rtol=2e-3)  # fmt: skip

    def test_unequal_pitch_that_is_nearly_equal_is_like_equal(self) -> None:
        even = cut(0.4, two=True)
        near = stability.Dynamics(even.x, even.y, even.Kt, even.Kr, np.array([0.5 + 1e-6, 0.5 - 1e-6]), even.window)
        self.assertFalse(near.is_even)
        for depth in (0.3, 1.5):
            tooth, turn = (abs(floquet.largest(d, 7000.0, np.array([depth]))[0]) for d in (even, near))
            self.assertAlmostEqual(turn / tooth**2, 1.0, delta=0.03)  # a turn is two teeth

    def test_progress_can_stop_it(self) -> None:
        def stop(done: int, total: int) -> None:
            raise InterruptedError

        with self.assertRaises(InterruptedError):
            floquet.sure(cut(0.3), np.array([5000.0, 6000.0]), 5.0, stop)


class Fast(unittest.TestCase):
    def test_least_depth_of_one_degree_in_closed_form(self) -> None:
        # one degree: 1/lambda = 1/(G a_xx); the least of a over frequency is -1/(2 a_xx min Re G)
        dynamics = cut(1.0)
        start, end = dynamics.window
        axx = (
            float(
                (
                    stability.window_integral(np.array([end]), 600.0, 200.0)
                    - stability.window_integral(np.array([start]), 600.0, 200.0)
                )[0, 0]
            )
            * 2
            / (2 * math.pi)
        )
        k = 1000 * BENCHMARK.stiffness
        least_re = -1 / (4 * ZETA * (1 + ZETA)) / k
        wanted = -1 / (2 * axx * least_re)
        edge = stability.zero_order(dynamics, np.linspace(3000, 25000, 1500))
        self.assertAlmostEqual(float(edge.ap.min()) / wanted, 1.0, delta=0.01)

    def test_agrees_with_the_sure_method_where_teeth_overlap(self) -> None:
        modes = (BENCHMARK,)
        many = stability.Dynamics(modes, modes, 600.0, 200.0, np.full(8, 1 / 8), (0.0, math.pi))
        n = np.linspace(2500.0, 6000.0, 8)
        fast, sure = stability.zero_order(many, n).ap, floquet.sure(many, n, 3.0).ap
        np.testing.assert_allclose(fast, sure, rtol=0.12)

    def test_process_damping_raises_the_boundary_at_low_speed(self) -> None:
        flank = cut(1.0, process=60 * 6.1e5 / (math.pi * 12))
        gains = []
        for n in (800.0, 3000.0, 24000.0):
            bare, damped = (
                float(stability.zero_order(d, np.array([n])).ap[0]) for d in (cut(1.0), flank.damped(n, 2.0))
            )
            gains.append(damped / bare)
        self.assertGreater(gains[0], 3.0)
        self.assertLess(gains[2], 1.5)
        self.assertEqual(gains, sorted(gains, reverse=True))

    def test_process_damping_in_closed_form(self) -> None:
        # slot, one straight mode in x: the mean of sin^2 + 0.3 sin cos over half a turn is a half, so with z teeth z/4
        Ci, DC, n, ap = 6.1e5, 12.0, 1000.0, 0.2
        added = cut(1.0, process=60 * Ci / (math.pi * DC)).damped(n, ap).x[0].zeta - ZETA
        vc = math.pi * DC / 1000 * n / 60
        c = Ci / vc * ap / 1000 * 2 / 4
        w, k = 2 * math.pi * FREQUENCY, BENCHMARK.stiffness * 1e6
        self.assertAlmostEqual(added / (c * w / (2 * k)), 1.0, places=3)


if __name__ == "__main__":
    unittest.main()
