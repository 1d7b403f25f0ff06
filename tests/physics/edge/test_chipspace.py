"""Chip room: the default gullet and the rule for closed cuts."""

import math
import unittest

import numpy as np

from lesna.physics.edge import chipspace


class ChipSpace(unittest.TestCase):
    def test_default_gullet_is_a_quarter_of_the_annulus_over_the_flutes(self) -> None:
        self.assertAlmostEqual(chipspace.gullet_area(10.0, 0.6, 4), math.pi / 4 * 64 * 0.25 / 4)

    def test_need(self) -> None:
        self.assertAlmostEqual(float(chipspace.space_needed(2.0, 0.1, chipspace.SWELL["long"], 1.5)), 1.5)

    def test_closed_cuts_need_half_as_much_again_unless_blown_out(self) -> None:
        cases = (
            (True, False, 1.2, False, 1.5), (True, False, 0.9, False, 1.0), (False, True, 2.5, False, 1.5),
            (False, True, 1.5, False, 1.0), (True, False, 1.2, True, 1.0), (False, False, 3.0, False, 1.0),
        )  # fmt: skip
        for slot, pocket, depth, blown, expected in cases:
            with self.subTest(slot=slot, pocket=pocket, depth=depth, blown=blown):
                found = chipspace.closed_factor(slot=slot, pocket=pocket, depth_over_d=depth, blown=blown)
                self.assertEqual(float(found), expected)

    def test_factor_over_a_map(self) -> None:
        found = chipspace.closed_factor(slot=np.array([True, False]), pocket=False, depth_over_d=2.0, blown=False)
        np.testing.assert_array_equal(found, [1.5, 1.0])
