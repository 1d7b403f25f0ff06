"""Similarity: a cut twice as large is the same cut, and forces, bending and chips follow by known powers."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics.edge import chip, engagement
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.edge.turn import turn_of
from lesna.physics.structure.beam import CARBIDE, Beam
from tests.physics.gallery import PURE, cutter

SIZES = st.floats(0.2, 5.0)


def rod(length: float, d: float) -> Beam:
    """A carbide rod on stiff springs that scale with its size."""
    return Beam(ends=np.array([0.4, 1.0]) * length, diameters=np.array([0.8, 1.0]) * d, E=np.full(2, CARBIDE[0]),
                G=np.full(2, CARBIDE[1]), density=np.full(2, CARBIDE[2]), face=length, seat=1e-5 / d**3,
                radial=1e-5 / d, root_mass=1.0)  # fmt: skip


class Similar(unittest.TestCase):
    @settings(max_examples=30)
    @given(scale=SIZES, x=st.floats(0.05, 1.0), r=st.sampled_from([0.0, 1.0, 6.0]), helix=st.sampled_from([0.0, 38.0]))
    def test_forces_of_a_larger_cut_grow_with_its_area(self, scale: float, x: float, r: float, helix: float) -> None:
        small, large = (
            turn_of(cutter(DC=12.0 * s, r=r * s, helix=helix), PURE, 0.1 * s, 12.0 * x * s, 5.0 * s)
            for s in (1.0, scale)
        )
        for one, other, power in ((small.fxy, large.fxy, 2), (small.fz, large.fz, 2), (small.torque, large.torque, 3),
                                  (small.chips, large.chips, 1)):  # fmt: skip
            np.testing.assert_allclose(other, one * scale**power, rtol=1e-6, atol=1e-9 * float(np.abs(other).max()))
        self.assertAlmostEqual(large.height / small.height, scale, places=6)

    @settings(max_examples=30)
    @given(scale=SIZES, mc=st.floats(0.1, 0.4))
    def test_the_size_effect_takes_its_exponent_away(self, scale: float, mc: float) -> None:
        law = ForceLaw(mc, np.array([1800.0, 700.0, 400.0]))
        small, large = (turn_of(cutter(DC=12.0 * s), law, 0.4 * s, 4.0 * s, 5.0 * s) for s in (1.0, scale))
        # where the chips are thin the law goes over into its tangent, which has no exponent of its own
        thick = small.chips.min() * min(scale, 1.0) > 0.2
        if thick:
            self.assertAlmostEqual(float(large.fxy.max() / small.fxy.max()) / scale ** (2 - mc), 1.0, delta=0.04)
        self.assertLess(float(large.fxy.max() / small.fxy.max()), 1.001 * max(scale**2, 1.0))

    @settings(max_examples=40)
    @given(scale=SIZES, place=st.floats(0.0, 1.0), load=st.floats(0.0, 1.0))
    def test_a_larger_beam_is_stiffer_in_proportion(self, scale: float, place: float, load: float) -> None:
        small, large = (rod(60.0 * s, 12.0 * s).compliance(60.0 * place * s, 60.0 * load * s) for s in (1.0, scale))
        self.assertAlmostEqual(float(large) * scale / float(small), 1.0, places=9)

    @settings(max_examples=40)
    @given(places=st.lists(st.floats(0.0, 60.0), min_size=1, max_size=5), load=st.floats(0.0, 60.0))
    def test_one_place_and_many_places_bend_alike(self, places: list[float], load: float) -> None:
        bar = rod(60.0, 12.0)
        many = bar.compliance(np.array(places), load)
        np.testing.assert_allclose(many, [bar.compliance(place, load) for place in places], rtol=1e-12)

    @settings(max_examples=60)
    @given(scale=SIZES, x=st.floats(0.02, 1.0), fz=st.floats(0.01, 0.5))
    def test_chip_and_compensated_feed_scale_with_the_tool(self, scale: float, x: float, fz: float) -> None:
        thick = [float(chip.greatest_thickness(fz * s, x, 12.0 * s, 1.0)) for s in (1.0, scale)]
        self.assertAlmostEqual(thick[1], thick[0] * scale, places=9)
        feed, reached = chip.feed_for_greatest(thick[0], x, 12.0, 1.0)
        if reached and fz < 12.0 * x / 4:
            self.assertAlmostEqual(float(chip.greatest_thickness(feed, x, 12.0, 1.0)), thick[0], places=6)

    @settings(max_examples=60)
    @given(scale=SIZES, radius=st.floats(2.0, 20.0), loop=st.floats(0.5, 20.0), x=st.floats(0.02, 0.9))
    def test_loops_of_a_larger_tool_advance_in_proportion(
        self, scale: float, radius: float, loop: float, x: float
    ) -> None:
        advance = [float(engagement.trochoid_advance(radius * s, loop * s, 2 * radius * x * s)) for s in (1.0, scale)]
        self.assertAlmostEqual(advance[1] / advance[0], scale, places=6)

    @settings(max_examples=40)
    @given(turns=st.floats(-3.0, 3.0), shift=st.floats(0.0, 6.28))
    def test_forces_at_any_angle_are_those_of_the_turn_whatever_the_turn(self, turns: float, shift: float) -> None:
        turn = turn_of(cutter(), PURE, 0.1, 3.0, 6.0).scaled(1.5)
        at, most = np.array([shift]), float(np.abs(turn.fy).max())
        np.testing.assert_allclose(turn.at(at + 2 * np.pi * round(turns)), turn.at(at), atol=1e-6 * most)
        # the compiled sums read the law from a table
        np.testing.assert_allclose(turn.at(turn.theta)[1], turn.fy, atol=1e-4 * most)
