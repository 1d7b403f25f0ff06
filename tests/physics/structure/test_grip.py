"""Shank grip and clamping by hand."""

import math
import unittest

from lesna.physics.structure import grip


class Grip(unittest.TestCase):
    def test_pull_counts_at_the_shank(self) -> None:
        self.assertAlmostEqual(float(grip.grip_demand(8.0, 1000.0, 12.0, is_locked=False)), 10.0)
        self.assertEqual(float(grip.grip_demand(8.0, 1000.0, 12.0, is_locked=True)), 8.0)

    def test_a_heavy_part_is_moved_by_rapids_not_by_the_cut(self) -> None:
        self.assertEqual(float(grip.clamping_demand(500.0, 400.0, 4.0)), 1600.0)
        self.assertEqual(float(grip.clamping_demand(2500.0, 400.0, 4.0)), 2500.0)
        self.assertTrue(math.isclose(grip.safe_acceleration(8000.0, 400.0), 4.0))
