"""Modes from a measured response, and hits that do not count."""

import unittest

import numpy as np

from lesna.physics.structure import frf
from lesna.physics.structure.beam import Mode

MODES = (Mode(780.0, 42.0, 0.031), Mode(2650.0, 18.0, 0.021))


def response(f: np.ndarray, modes: tuple[Mode, ...] = MODES) -> np.ndarray:
    return sum(1 / m.stiffness / (1 - (f / m.frequency) ** 2 + 2j * m.zeta * f / m.frequency) for m in modes)  # type: ignore[return-value]


class Fit(unittest.TestCase):
    def test_finds_the_modes_that_made_it(self) -> None:
        f = np.arange(200.0, 5000.0, 5.0)
        noise = np.random.default_rng(2).normal(0, 0.004, (2, len(f)))
        fit = frf.fit_modes(f, response(f) + noise[0] + 1j * noise[1])
        self.assertEqual(len(fit.modes), 2)
        for found, wanted in zip(fit.modes, MODES, strict=True):
            self.assertAlmostEqual(found.frequency / wanted.frequency, 1.0, delta=0.005)
            self.assertAlmostEqual(found.stiffness / wanted.stiffness, 1.0, delta=0.05)
            self.assertAlmostEqual(found.zeta / wanted.zeta, 1.0, delta=0.05)
        self.assertLess(fit.residual, 0.15)

    def test_slopes_of_what_is_left_are_its_differences(self) -> None:
        f = np.arange(200.0, 5000.0, 50.0)
        values = np.log([700.0, 40.0, 0.05, 2500.0, 15.0, 0.03])
        wanted = [(frf.left_over(values + step, f, response(f)) - frf.left_over(values - step, f, response(f))) / 2e-6
                  for step in 1e-6 * np.eye(6)]  # fmt: skip
        np.testing.assert_allclose(frf.slopes_of(values, f, response(f)), np.stack(wanted, axis=1), atol=1e-6)

    def test_what_is_no_response_is_refused_in_words(self) -> None:
        f = np.arange(200.0, 5000.0, 5.0)
        with self.assertRaisesRegex(ValueError, "at least 24"):
            frf.fit_modes(f[:10], response(f[:10]))
        with self.assertRaisesRegex(ValueError, "no peak"):
            frf.fit_modes(f, np.conj(response(f)))


class Hits(unittest.TestCase):
    RATE, SPAN = 51200.0, 500.0

    def hit(self, peak: float, *, again: float = 0.0, ring: float = 400.0) -> str:
        t = np.arange(16384) / self.RATE

        def blow(at: float, high: float) -> np.ndarray:
            return high * np.exp(-(((t - at) / 4e-5) ** 2))

        force = np.minimum(blow(0.005, peak) + blow(0.025, again), self.SPAN)
        return frf.hit_problem(force, np.exp(-ring * t / 10) * np.sin(2 * np.pi * 800 * t), self.RATE, self.SPAN)

    def test_reasons(self) -> None:
        self.assertEqual(self.hit(200.0), "")
        self.assertIn("clipped", self.hit(900.0))
        self.assertIn("too weak", self.hit(10.0))
        self.assertIn("double hit", self.hit(200.0, again=80.0))
        self.assertIn("died down", self.hit(200.0, ring=0.1))

    def test_receptance_and_coherence(self) -> None:
        rng = np.random.default_rng(4)
        force = rng.normal(0, 1, (6, 4096))
        response = 2.5 * force + rng.normal(0, 0.01, force.shape)
        f, H, coherence = frf.receptance_of(force, response, 1000.0)
        np.testing.assert_allclose(np.abs(H), 2.5, rtol=0.05)
        self.assertGreater(coherence.min(), 0.99)
        self.assertAlmostEqual(f[-1], 500.0)
