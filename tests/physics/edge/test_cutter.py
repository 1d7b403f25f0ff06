"""Slices of the edge: they add up to the edge, lag as the helix says, and know the teeth ahead."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics.edge.cutter import Cutter, Profile, heights, round_height, slices_of
from lesna.physics.edge.envelope import Envelope, effective_diameter
from lesna.physics.edge.sweep import foot
from tests.physics.gallery import cutter


def cone(DC: float = 12.0, kappa: float = 15.0, height: float = 0.8, z: int = 4) -> Cutter:
    """A lead-angle cutter without helix."""
    tip = DC - 2 * height / math.tan(math.radians(kappa))
    shape = Envelope("cone", DC, 0.0, math.radians(kappa), tip, 0.0, z, 2)
    return Cutter(shape, 2 * np.pi * np.arange(z) / z, np.zeros(z))


class Edge(unittest.TestCase):
    def test_the_slices_add_up_to_the_edge(self) -> None:
        for tool, length in (
            (cutter(), 10.0),
            (cutter(r=1.0), math.pi / 2 + 9.0),
            (cutter(r=6.0), 6.0 * math.pi / 2 + 4.0),
            (cone(), 0.8 / math.sin(math.radians(15.0)) + 9.2),
        ):
            slices = slices_of(tool, heights(tool.shape, 10.0))
            self.assertAlmostEqual(float(slices.db.sum()), length, places=9)
            # an edge spans its height whatever its lead angle
            self.assertAlmostEqual(float((slices.db * np.sin(slices.kappa)).sum()), 10.0, places=9)

    def test_every_end_lies_on_the_envelope(self) -> None:
        for tool in (cutter(), cutter(r=1.0), cutter(r=6.0), cone()):
            edges = heights(tool.shape, 9.0)
            slices = slices_of(tool, edges)
            upper = [effective_diameter(tool.shape, float(z)) / 2 for z in edges[1:]]
            np.testing.assert_allclose(slices.ends[1], upper, rtol=1e-12)
            np.testing.assert_array_equal(slices.ends[0, 1:], slices.ends[1, :-1])
            between = (slices.ends[0] <= slices.r + 1e-12) & (slices.r <= slices.ends[1] + 1e-12)
            self.assertTrue(between.all())
            self.assertTrue(((edges[:-1] <= slices.z) & (slices.z <= edges[1:])).all())

    def test_the_tip_of_a_ball_is_on_its_axis_and_of_a_cone_on_its_tip(self) -> None:
        ball, lead = cutter(r=6.0), cone()
        self.assertEqual(slices_of(ball, heights(ball.shape, 3.0)).ends[0, 0], 0.0)
        self.assertAlmostEqual(slices_of(lead, heights(lead.shape, 0.5)).ends[0, 0], lead.shape.tip_diameter / 2)

    def test_the_round_part_ends_where_the_flank_begins(self) -> None:
        self.assertEqual(round_height(cutter().shape), 0.0)
        self.assertEqual(round_height(cutter(r=1.5).shape), 1.5)
        self.assertAlmostEqual(round_height(cone(height=0.8).shape), 0.8)

    def test_a_tilted_ball_cuts_further_from_its_axis(self) -> None:
        upright, tilted = (Envelope("round", 12.0, 6.0, np.pi / 2, 12.0, tilt, 2, 2) for tilt in (0.0, 0.3))
        arms = [
            slices_of(Cutter(s, np.array([0.0, np.pi]), np.full(2, 0.5)), heights(s, 1.0)).arm
            for s in (upright, tilted)
        ]
        self.assertTrue((arms[1] > arms[0]).all())


class Lag(unittest.TestCase):
    def test_teeth_trail_by_their_pitch_and_by_the_helix(self) -> None:
        tool = cutter(5, helix=40.0)
        slices = slices_of(tool, heights(tool.shape, 12.0))
        lag = math.tan(math.radians(40.0)) / 6.0
        np.testing.assert_allclose(slices.trail[0], lag * slices.z, rtol=1e-12)
        np.testing.assert_allclose(np.diff(slices.trail, axis=0), 2 * np.pi / 5, rtol=1e-12)
        self.assertAlmostEqual(float(slices.smear.sum()), lag * 12.0, places=12)

    def test_straight_teeth_enter_at_once(self) -> None:
        tool = cutter(helix=0.0)
        slices = slices_of(tool, heights(tool.shape, 12.0))
        np.testing.assert_array_equal(slices.smear, 0.0)
        np.testing.assert_array_equal(np.ptp(slices.trail, axis=1), 0.0)

    def test_unequal_helix_changes_the_pitch_along_the_height(self) -> None:
        shape = cutter().shape
        tool = Cutter(shape, np.array([0.0, 1.5, 3.2, 4.7]), np.radians([40.0, 42.0, 40.0, 42.0]))
        self.assertFalse(tool.has_plain_flank)
        slices = slices_of(tool, heights(shape, 12.0))
        np.testing.assert_allclose(slices.share[:, 0].sum(axis=0), 1.0, rtol=1e-12)  # once round
        self.assertGreater(np.ptp(slices.share[0, 0]), 0.0)


class Ahead(unittest.TestCase):
    @settings(max_examples=60)
    @given(z=st.integers(1, 7), swing=st.floats(0.0, 6.0), runout=st.floats(0.0, 0.02))
    def test_shares_of_the_turn_add_up_and_gaps_close(self, z: int, swing: float, runout: float) -> None:
        tool = cutter(z, swing=swing, runout=runout)
        slices = slices_of(tool, heights(tool.shape, 3.0))
        np.testing.assert_allclose(slices.share[:, 0].sum(axis=0), 1.0, rtol=1e-9)
        # going round from tooth to tooth one is back at the first: the radial steps cancel
        np.testing.assert_allclose(slices.gap[:, 0].sum(axis=0), 0.0, atol=1e-12)
        if slices.share.shape[1] == z:  # with offsets a tooth also finds its own last turn
            np.testing.assert_array_equal(slices.share[:, -1], 1.0)
            np.testing.assert_array_equal(slices.gap[:, -1], 0.0)

    def test_without_offsets_only_the_tooth_ahead_counts(self) -> None:
        tool = cutter(5)
        self.assertEqual(slices_of(tool, heights(tool.shape, 3.0)).share.shape[1], 1)
        shaken = cutter(5, runout=0.004)
        self.assertEqual(slices_of(shaken, heights(shaken.shape, 3.0)).share.shape[1], 5)

    def test_even_teeth_are_known_as_such(self) -> None:
        self.assertTrue(cutter().is_even)
        for other in (cutter(runout=0.001), cutter(swing=2.0), cutter(profile=Profile("wave", 0.1, 1.5))):
            self.assertFalse(other.is_even)


class Relief(unittest.TestCase):
    def test_a_wave_moves_from_tooth_to_tooth_by_its_share(self) -> None:
        wave = Profile("wave", 0.2, 2.0)
        z = np.linspace(0.0, 2.0, 400, endpoint=False)
        offsets = wave.offsets(z, 4)
        np.testing.assert_allclose(offsets.mean(axis=1), 0.0, atol=1e-12)
        self.assertAlmostEqual(float(np.abs(offsets).max()), 0.2, places=6)
        np.testing.assert_allclose(offsets[1], wave.offsets(z + 0.5, 4)[0], atol=1e-12)
        np.testing.assert_allclose(offsets.sum(axis=0), 0.0, atol=1e-12)  # four teeth a quarter apart

    def test_a_notch_only_takes_away_and_only_in_its_width(self) -> None:
        notch = Profile("notch", 0.3, 8.0, 1.0)
        z = np.linspace(0.0, 8.0, 4000, endpoint=False)
        offsets = notch.offsets(z, 2)
        self.assertTrue((offsets <= 0.0).all())
        self.assertAlmostEqual(float(offsets.min()), -0.3, places=3)
        np.testing.assert_allclose((offsets < 0).mean(axis=1), 1.0 / 8.0, atol=2e-3)
        self.assertFalse(((offsets[0] < 0) & (offsets[1] < 0)).any())  # what one leaves the other takes

    def test_waves_are_resolved(self) -> None:
        tool = cutter(profile=Profile("wave", 0.15, 1.6))
        self.assertLess(float(np.diff(heights(tool.shape, 10.0, tool.profile)).max()), 1.6 / 10)


class Foot(unittest.TestCase):
    @settings(max_examples=80)
    @given(r=st.sampled_from([0.5, 2.0, 6.0]), deepest=st.floats(0.05, 30.0), count=st.integers(2, 96))
    def test_depths_that_are_asked_for_are_ends_of_slices(self, r: float, deepest: float, count: int) -> None:
        tool = cutter(r=r)
        ap = deepest * np.arange(1, count + 1) / count
        edges = foot(tool, ap)
        self.assertEqual((edges[0], round(float(edges[-1]), 9)), (0.0, r))
        self.assertTrue((np.diff(edges) > 0).all())
        # all but those that lie closer than a slice needs to be
        places = np.arccos(1 - ap[ap < r] / r)
        ends = np.arccos(1 - edges / r)
        off = np.array([np.abs(ends - place).min() for place in places])
        self.assertTrue((off <= 0.025 * places + 1e-9).all())

    def test_a_plain_straight_edge_has_no_foot_and_a_profiled_one_is_all_foot(self) -> None:
        self.assertEqual(foot(cutter(), np.array([1.0, 9.0])).tolist(), [0.0])
        tool = cutter(profile=Profile("wave", 0.15, 1.6))
        self.assertAlmostEqual(float(foot(tool, np.array([1.0, 9.0]))[-1]), 9.0)


if __name__ == "__main__":
    unittest.main()
