"""Effective diameter and lead angle against plain geometry."""

import math
import unittest

import numpy as np

from lesna.physics.edge import envelope
from lesna.physics.edge.envelope import Envelope


def shape(form: str = "round", DC: float = 12.0, r: float = 2.0, kappa: float = 90.0, tip: float = 0.0,
          tilt: float = 0.0, z: int = 4, z_centre: int = 2) -> Envelope:  # fmt: skip
    return Envelope(form, DC, r, math.radians(kappa), tip, math.radians(tilt), z, z_centre)


BALL = shape(DC=10.0, r=5.0)


class EffectiveDiameter(unittest.TestCase):
    def test_square_is_dc_at_every_depth(self) -> None:
        np.testing.assert_array_equal(
            envelope.effective_diameter(shape("straight"), np.array([0.1, 5.0])), [12.0, 12.0]
        )

    def test_corner_radius_below_and_above_its_height(self) -> None:
        # 12 - 4 + 2 sqrt(1 (4 - 1))
        self.assertAlmostEqual(float(envelope.effective_diameter(shape(), 1.0)), 8 + 2 * math.sqrt(3))
        for ap in (2.0, 7.0):
            self.assertAlmostEqual(float(envelope.effective_diameter(shape(), ap)), 12.0)

    def test_ball_is_the_chord_of_a_circle(self) -> None:
        for ap in (0.05, 0.2, 1.0, 4.9):
            self.assertAlmostEqual(float(envelope.effective_diameter(BALL, ap)), 2 * math.sqrt(ap * (10 - ap)))
        self.assertAlmostEqual(float(envelope.effective_diameter(BALL, 8.0)), 10.0)

    def test_tilted_ball_against_sampled_cap(self) -> None:
        # points of the contact cap around the surface normal, their distance from the tilted axis
        ap, beta = 0.3, math.radians(20.0)
        cap = math.acos(1 - 2 * ap / 10.0)
        polar, turn = np.meshgrid(np.linspace(0, cap, 200), np.linspace(0, 2 * np.pi, 400))
        point = 5 * np.array([np.sin(polar) * np.cos(turn), np.sin(polar) * np.sin(turn), -np.cos(polar)])
        axis = np.array([math.sin(beta), 0.0, -math.cos(beta)])
        along = np.tensordot(axis, point, axes=1)
        distance = np.sqrt(np.maximum(np.sum(point**2, axis=0) - along**2, 0))
        largest, smallest = envelope.tilted_ball_diameters(10.0, ap, beta)
        self.assertAlmostEqual(float(largest), 2 * distance.max(), places=3)
        self.assertAlmostEqual(float(smallest), 2 * distance.min(), places=3)

    def test_centre_in_the_cut_when_tilt_is_small(self) -> None:
        _, smallest = envelope.tilted_ball_diameters(10.0, 0.3, math.radians(5.0))
        self.assertEqual(float(smallest), 0.0)

    def test_chamfer_and_high_feed_grow_with_depth_up_to_dc(self) -> None:
        chamfer = shape("cone", DC=8.0, r=0.0, kappa=45.0, tip=0.8)
        self.assertAlmostEqual(float(envelope.effective_diameter(chamfer, 1.0)), 2.8)
        self.assertEqual(float(envelope.effective_diameter(chamfer, 9.0)), 8.0)
        high_feed = shape("cone", DC=16.0, r=0.0, kappa=17.0, tip=10.77)
        self.assertAlmostEqual(
            float(envelope.effective_diameter(high_feed, 0.5)), 10.77 + 1 / math.tan(math.radians(17))
        )


class LeadAngle(unittest.TestCase):
    def test_ball_top_and_mean(self) -> None:
        ap = 0.2
        kappa = math.acos(1 - ap / 5)
        self.assertAlmostEqual(float(envelope.sin_kappa_top(BALL, ap)), math.sin(kappa))
        self.assertAlmostEqual(float(envelope.sin_kappa_mean(BALL, ap)), (1 - math.cos(kappa)) / kappa)

    def test_mean_is_continuous_and_reaches_the_flank(self) -> None:
        ap = np.linspace(0.01, 8.0, 4000)
        mean = envelope.sin_kappa_mean(shape(), ap)
        self.assertLess(np.max(np.abs(np.diff(mean))), 0.01)
        self.assertAlmostEqual(float(envelope.sin_kappa_mean(shape(), 4.0)), 1.0)

    def test_lead_angle_tools_keep_their_angle(self) -> None:
        tool = shape("cone", kappa=17.0, tip=5.0, r=0.0)
        for value in (envelope.sin_kappa_top(tool, 0.4), envelope.sin_kappa_mean(tool, 0.4)):
            self.assertAlmostEqual(float(value), math.sin(math.radians(17)))


class Flutes(unittest.TestCase):
    def test_flutes_of_a_ball_join_gradually_where_they_begin(self) -> None:
        ball = shape(DC=10.0, r=5.0, z=4, z_centre=2)
        deep = np.linspace(0.0, 9.0, 400)
        found = envelope.flutes_in_cut(ball, deep)
        self.assertEqual((found[0], found[-1]), (2.0, 4.0))
        self.assertTrue((np.diff(found) >= 0).all())
        self.assertLess(float(np.diff(found).max()), 0.1)  # a feed that follows the flutes has no jump

    def test_other_tools_have_all(self) -> None:
        self.assertEqual(float(envelope.flutes_in_cut(shape(), np.array(1.0))), 4)
