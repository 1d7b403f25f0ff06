"""Listening: teeth, chatter, and recordings that say nothing."""

import unittest

import numpy as np

from lesna.devices.microphone import SimulatedMicrophone
from lesna.physics.structure.listening import better_speeds, hear

N, Z = 3448.0, 5


def heard(*, n: float = N, seconds: float = 3.0, **how: float):  # type: ignore[no-untyped-def]
    r = SimulatedMicrophone(n, Z, **how).record(seconds)
    return hear(r.samples, r.rate, N, Z)


class Hearing(unittest.TestCase):
    def test_a_quiet_cut(self) -> None:
        found = heard()
        self.assertEqual((found.chatter, found.problem, found.remark), ((), "", ""))
        self.assertAlmostEqual(found.teeth[0], N * Z / 60)

    def test_chatter_is_named_with_its_frequency(self) -> None:
        for frequency in (1234.0, 2710.0):
            found = heard(chatter=frequency)
            self.assertAlmostEqual(found.chatter[0], frequency, delta=2.0)
            self.assertGreater(found.share, 0.3)

    def test_a_swing_on_a_multiple_of_the_turn_is_not_called_quiet(self) -> None:
        for n in (891.0, 1273.0, 3714.0):
            turn = n / 60.0
            for order in (int(900 / turn), int(1500 / turn), 3 * Z, 4 * Z):
                frequency = order * turn + 0.5
                if frequency < 400.0:
                    continue
                r = SimulatedMicrophone(n, Z, chatter=frequency).record(3.0)
                found = hear(r.samples, r.rate, n, Z)
                with self.subTest(n=n, order=order):
                    self.assertAlmostEqual((found.chatter + found.unclear)[0], frequency, delta=2.0)
            self.assertEqual(heard().unclear, ())

    def test_what_says_nothing(self) -> None:
        self.assertIn("clipped", heard(loudness=1.6).problem)
        self.assertIn("too short", heard(seconds=0.2).problem)
        noise = np.random.default_rng(1).normal(0, 0.1, 90_000)
        self.assertIn("only noise", hear(noise, 44100.0, N, Z).problem)
        self.assertIn("silent", hear(np.zeros(90_000), 44100.0, N, Z).problem)

    def test_another_speed_than_the_one_set(self) -> None:
        remark = heard(n=3700.0).remark
        self.assertRegex(remark, r"heard at 3(69|70)\d rpm, not at the 3448")
        self.assertEqual(heard(n=3700.0).chatter, ())

    def test_better_speeds_put_whole_swings_between_teeth(self) -> None:
        speeds = better_speeds(1234.0, Z, 2000.0, 6000.0)
        self.assertTrue(all(2000 <= n <= 6000 for n in speeds))
        for n in speeds:
            swings = 1234.0 * 60 / (n * Z)
            self.assertAlmostEqual(swings, round(swings), places=9)
