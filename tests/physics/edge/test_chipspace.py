"""Chip room: the default gullet and the rule for closed cuts."""

import math
import unittest

import numpy as np

from lesna.physics.edge import chipspace


class ChipSpace(unittest.TestCase):
    def test_default_gullet_is_three_fifths_of_the_annulus_outside_the_core(self) -> None:
        self.assertAlmostEqual(chipspace.gullet_area(10.0, 0.6, 4), 0.6 * math.pi / 4 * 64 / 4)

    def test_more_flutes_leave_a_thicker_core_and_less_room_each(self) -> None:
        cores = [chipspace.core_of(z) for z in (1, 2, 3, 4, 5, 6, 12)]
        self.assertEqual(cores, [0.50, 0.50, 0.55, 0.60, 0.65, 0.70, 0.70])
        self.assertEqual(chipspace.core_of(4, 0.72), 0.72)
        rooms = [chipspace.gullet_area(10.0, chipspace.core_of(z), z) for z in range(2, 9)]
        self.assertEqual(rooms, sorted(rooms, reverse=True))

    def test_need_is_the_swollen_volume_of_one_tooth(self) -> None:
        self.assertAlmostEqual(float(chipspace.space_needed(2.0, 0.1, 8.0, chipspace.SWELL["long"], 1.5)), 12.0)

    def test_a_short_chip_spreads_over_half_a_diameter_of_the_gullet(self) -> None:
        np.testing.assert_allclose(chipspace.room_of(7.0, np.array([0.5, 5.0, 12.0]), 10.0), [35.0, 35.0, 84.0])

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
