"""Hardness conversion at tabled points and beyond the ends."""

import unittest

from lesna.physics.life.hardness import brinell_from_rockwell


class Hardness(unittest.TestCase):
    def test_tabled_points_and_between(self) -> None:
        for hrc, hb in ((30.0, 286.0), (45.0, 421.0), (60.0, 654.0), (32.5, 306.5)):
            self.assertAlmostEqual(float(brinell_from_rockwell(hrc)), hb)

    def test_beyond_the_ends_it_goes_on_rising(self) -> None:
        self.assertLess(float(brinell_from_rockwell(15.0)), 226.0)
        self.assertGreater(float(brinell_from_rockwell(68.0)), 739.0)
