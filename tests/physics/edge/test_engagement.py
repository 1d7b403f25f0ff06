"""Engagement angles against sampled geometry: a circle, a wall, and the points of the one behind the other."""

import math
import unittest

import numpy as np

from lesna.physics.edge import engagement

ANGLES = np.linspace(0, 2 * np.pi, 720_001)


def engaged_span(centre: tuple[float, float], R: float, inside: object, heading: tuple[float, float]) -> float:
    """Angle between first and last point of the cutter's front half that lies in material."""
    x, y = centre[0] + R * np.cos(ANGLES), centre[1] + R * np.sin(ANGLES)
    front = np.cos(ANGLES) * heading[0] + np.sin(ANGLES) * heading[1] >= -1e-9
    touched = ANGLES[front & inside(x, y)]  # type: ignore[operator]
    middle = math.atan2(heading[1], heading[0])
    around = np.angle(np.exp(1j * (touched - middle)))
    return float(around.max() - around.min())


class Straight(unittest.TestCase):
    def test_known_angles(self) -> None:
        for x, degrees in ((0.0, 0.0), (0.25, 60.0), (0.5, 90.0), (0.75, 120.0), (1.0, 180.0)):
            self.assertAlmostEqual(math.degrees(engagement.engagement_angle(x)), degrees, places=6)

    def test_entry_and_exit(self) -> None:
        self.assertEqual(tuple(map(float, engagement.entry_exit(1.0, "up"))), (0.0, 1.0))
        start, end = engagement.entry_exit(1.0, "down")
        self.assertAlmostEqual(float(start), math.pi - 1.0)
        self.assertAlmostEqual(float(end), math.pi)

    def test_straight_equivalent_undoes_the_angle(self) -> None:
        phi = engagement.engagement_angle(np.array([0.07, 0.5, 0.93]))
        np.testing.assert_allclose(engagement.straight_equivalent(6.0, phi), 12 * np.array([0.07, 0.5, 0.93]))


class Curved(unittest.TestCase):
    def test_concave_against_sampled_bore(self) -> None:
        R, ae, rho = 6.0, 1.2, 9.0
        wall = rho + R - ae
        span = engaged_span((rho, 0.0), R, lambda x, y: np.hypot(x, y) > wall, (0.0, 1.0))
        self.assertAlmostEqual(float(engagement.concave_angle(R, ae, rho)), span, places=4)

    def test_sharp_former_corner_against_sampled_walls(self) -> None:
        R, ae, rho = 6.0, 1.2, 0.5
        corner = rho + R - ae
        spans = []
        for turned in np.linspace(0, np.pi / 2, 19):
            centre = (rho * math.sin(turned), rho * math.cos(turned))
            heading = (math.cos(turned), -math.sin(turned))
            spans.append(engaged_span(centre, R, lambda x, y: (x > corner) | (y > corner), heading))
        self.assertAlmostEqual(float(engagement.concave_angle(R, ae, rho)), max(spans), places=3)

    def test_sharp_corner_adds_a_right_angle(self) -> None:
        straight = engagement.engagement_angle(0.1)
        self.assertAlmostEqual(float(engagement.concave_angle(6.0, 1.2, 0.0)), float(straight) + math.pi / 2, places=6)

    def test_a_wide_curve_is_nearly_straight(self) -> None:
        straight = float(engagement.engagement_angle(0.1))
        self.assertAlmostEqual(float(engagement.concave_angle(6.0, 1.2, 1e5)), straight, places=4)

    def test_trochoid_peaks_before_mid_arc(self) -> None:
        # physics.md section 15: r 4, R 6, p 1 gives 52.8 deg where mid-arc has only 49.5
        self.assertAlmostEqual(math.degrees(engagement.concave_angle(6.0, 1.0, 4.0)), 52.8, places=1)

    def test_both_branches_meet_where_rho_equals_ae(self) -> None:
        below, above = engagement.concave_angle(6.0, 1.2, np.array([1.2 - 1e-9, 1.2]))
        self.assertAlmostEqual(below, above, places=3)


class Contacts(unittest.TestCase):
    def test_slot_with_straight_flutes_has_half_the_teeth(self) -> None:
        self.assertAlmostEqual(float(engagement.contacts(4, math.pi, 10.0, 0.0, 12.0)), 2.0)

    def test_one_axial_pitch_adds_one_tooth(self) -> None:
        helix = math.radians(38.0)
        pitch = float(engagement.axial_pitch(12.0, 4, helix))
        gained = engagement.contacts(4, 1.0, pitch, helix, 12.0) - engagement.contacts(4, 1.0, 0.0, helix, 12.0)
        self.assertAlmostEqual(float(gained), 1.0)

    def test_straight_flutes_have_no_axial_pitch(self) -> None:
        self.assertEqual(float(engagement.axial_pitch(12.0, 4, 0.0)), math.inf)
