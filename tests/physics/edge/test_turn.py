"""One turn of forces against closed forms, conservation of power, symmetry, and the compiled sums."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.physics import engine
from lesna.physics.edge.cutter import Profile, heights, slices_of
from lesna.physics.edge.turn import Turn, forces_plain, turn_of, turn_plain, windows
from tests.physics.gallery import KIENZLE, LINEAR, PURE, cutter


def closed_means(Kt, Kr, Ka, *, z, ap, fz, st, ex):  # type: ignore[no-untyped-def]
    """Mean forces of a straight regular cutter, Altintas 2012 ch. 2, with the signs of forces on the tool.

    Each of Kt, Kr, Ka is (cutting, edge).
    """
    lead = z * ap / (2 * math.pi)

    def span(f):  # type: ignore[no-untyped-def]
        return f(ex) - f(st)

    s2 = span(lambda p: p / 2 - math.sin(2 * p) / 4)
    sc = span(lambda p: -math.cos(2 * p) / 4)
    s1, c1 = span(lambda p: -math.cos(p)), span(math.sin)
    fx = lead * (fz * (-Kt[0] * sc - Kr[0] * s2) - Kt[1] * c1 - Kr[1] * s1)
    fy = lead * (fz * (Kt[0] * s2 - Kr[0] * sc) + Kt[1] * s1 - Kr[1] * c1)
    return fx, fy, -lead * (fz * Ka[0] * s1 + Ka[1] * (ex - st))


class Means(unittest.TestCase):
    def test_closed_forms_of_straight_regular_cutters(self) -> None:
        Kt, Kr, Ka = LINEAR.linear
        for x in (1.0, 0.5, 0.1):
            for direction in ("down", "up"):
                phi = math.acos(1 - 2 * x)
                st_, ex = (math.pi - phi, math.pi) if direction == "down" else (0.0, phi)
                wanted = closed_means(Kt, Kr, Ka, z=4, ap=5.0, fz=0.1, st=st_, ex=ex)
                for helix in (0.0, 40.0):  # the helix shifts the force in time, not its mean
                    turn = turn_of(cutter(helix=helix), LINEAR, 0.1, 12 * x, 5.0, direction=direction)
                    with self.subTest(x=x, direction=direction, helix=helix):
                        np.testing.assert_allclose(turn.means[:3], wanted, rtol=1e-6)

    def test_power_is_kc_times_removal(self) -> None:
        for tool in (cutter(), cutter(runout=0.005), cutter(swing=4.0), cutter(r=1.0)):
            for ae in (0.6, 4.0) if tool.shape.r else (0.6, 4.0, 12.0):
                torque = turn_of(tool, PURE, 0.08, ae, 8.0).means[3]
                removed = ae * 8.0 * 0.08 * 4  # mm3 a turn
                # a round foot is a chain of chords: 24 of them lose less than 2e-4 of its share
                rtol = 1e-9 if tool.shape.r == 0 and tool.eccentricity == 0 else 1e-4
                np.testing.assert_allclose(torque * 2 * math.pi * 1000, 2000.0 * removed, rtol=rtol)

    def test_up_and_down_mirror_each_other(self) -> None:
        tool = cutter(helix=0.0)
        for law in (KIENZLE, LINEAR):
            down, up = (turn_of(tool, law, 0.1, 3.0, 6.0, direction=d) for d in ("down", "up"))
            np.testing.assert_allclose(up.means[2:], down.means[2:])  # axial force and torque do not know the side
            self.assertAlmostEqual(up.fxy.max(), down.fxy.max(), places=6)


class Peaks(unittest.TestCase):
    def test_ripple_vanishes_at_the_constant_force_depth(self) -> None:
        pitch = math.pi * 12 / (4 * math.tan(math.radians(40)))
        for k in (1, 2):
            turn = turn_of(cutter(), KIENZLE, 0.08, 3.0, k * pitch)
            self.assertLess(np.ptp(turn.torque) / turn.torque.mean(), 0.02)  # what is left is the slices' own step
        off = turn_of(cutter(), KIENZLE, 0.08, 3.0, 0.5 * pitch)
        self.assertGreater(np.ptp(off.torque) / off.torque.mean(), 0.5)

    def test_runout_on_two_teeth_doubles_and_empties(self) -> None:
        for e, chips in ((0.02, (0.09, 0.01)), (0.04, (0.1, 0.0)), (0.1, (0.1, 0.0))):
            # +-e on two teeth moves 2 e of chip from one to the other, until one tooth cuts the whole turn's feed
            turn = turn_of(cutter(2, helix=0.0, runout=e), LINEAR, 0.05, 12.0, 2.0)
            np.testing.assert_allclose(turn.chips, chips, atol=1e-12)

    def test_slices_do_not_matter(self) -> None:
        tool = cutter(5, r=1.0, runout=0.004)
        fine = np.unique(
            np.concatenate(
                [
                    np.linspace(a, b, 7)
                    for a, b in zip(*(lambda e: (e[:-1], e[1:]))(heights(tool.shape, 15.0)), strict=True)
                ]
            )
        )
        slices = slices_of(tool, fine)
        window = windows(slices, 1.2, "down")
        theta = window[0][1, -1] + 2 * np.pi * np.arange(1440) / 1440
        forces, means, _ = turn_plain(slices, KIENZLE, 0.07 * 5, window, theta)
        coarse = turn_of(tool, KIENZLE, 0.07, 1.2, 15.0)
        np.testing.assert_allclose(coarse.means, means[:4], rtol=2e-4)
        self.assertAlmostEqual(coarse.fxy.max() / np.hypot(forces[0], forces[1]).max(), 1.0, delta=0.01)

    def test_a_serrated_edge_shares_unevenly_but_removes_the_same(self) -> None:
        plain = turn_of(cutter(), PURE, 0.1, 6.0, 12.0)
        wave = turn_of(cutter(profile=Profile("wave", 0.15, 1.5)), PURE, 0.1, 6.0, 12.0)
        self.assertAlmostEqual(wave.means[3] / plain.means[3], 1.0, delta=2e-3)
        self.assertGreater(wave.chips.max(), 1.5 * plain.chips.max())
        notch = turn_of(cutter(profile=Profile("notch", 0.3, 8.0, 1.0)), PURE, 0.1, 6.0, 12.0)
        self.assertAlmostEqual(notch.means[3] / plain.means[3], 1.0, delta=2e-3)


class Alike(unittest.TestCase):
    def test_equal_teeth_are_computed_as_one_and_all_of_them_count(self) -> None:
        for z in (1, 2, 3, 4, 5, 6, 7, 9):  # 7 does not divide the angles of a turn
            for direction in ("down", "up"):
                turn = turn_of(cutter(z=z, r=1.0), KIENZLE, 0.08, 4.0, 8.0, direction=direction)
                forces, means, chips = turn_plain(*turn.edges, turn.theta)
                with self.subTest(z=z, direction=direction):
                    np.testing.assert_allclose((turn.fx, turn.fy, turn.fz, turn.torque), forces, rtol=1e-4, atol=0.05)
                    np.testing.assert_allclose(turn.means, means[:4], rtol=1e-6)
                    np.testing.assert_allclose(turn.chips, chips, rtol=1e-9)


class Compiled(unittest.TestCase):
    def test_compiled_sums_equal_the_plain_ones(self) -> None:
        compiled, at_own_angles = engine.kernel("turn"), engine.kernel("turn_at")
        own = np.random.default_rng(3).uniform(-9.0, 9.0, 40)
        for tool in (cutter(), cutter(5, r=1.0, runout=0.004, swing=3.0), cutter(r=6.0, runout=0.003),
                     cutter(profile=Profile("wave", 0.15, 1.5))):  # fmt: skip
            for law in (KIENZLE, LINEAR):
                slices = slices_of(tool, heights(tool.shape, 4.0, tool.profile))
                for direction in ("down", "up"):
                    window = windows(slices, 2.0, direction)
                    theta = 2 * np.pi * np.arange(360) / 360
                    for a, b in zip(compiled(slices, law, 0.3, window, theta),
                                    turn_plain(slices, law, 0.3, window, theta), strict=True):  # fmt: skip
                        # the trace reads its force curve from a table of 8192 nodes
                        np.testing.assert_allclose(a, b, rtol=1e-6, atol=1e-6 * np.abs(b).max())
                    plain = forces_plain(slices, law, 0.3, window, own)
                    np.testing.assert_allclose(
                        at_own_angles(slices, law, 0.3, window, own), plain, rtol=1e-9, atol=1e-9 * np.abs(plain).max()
                    )


class Properties(unittest.TestCase):
    @settings(max_examples=60)
    @given(fz=st.floats(0.005, 0.3), ae=st.floats(0.01, 12.0), ap=st.floats(0.05, 30.0), z=st.integers(1, 7),
           r=st.sampled_from([0.0, 1.0, 6.0]), runout=st.floats(0.0, 0.03), direction=st.sampled_from(["down", "up"]))  # fmt: skip
    def test_finite_everywhere_and_growing_with_feed_and_depth(  # type: ignore[no-untyped-def]
        self, fz, ae, ap, z, r, runout, direction
    ) -> None:
        tool = cutter(z, r=r, runout=runout)
        turn = turn_of(tool, KIENZLE, fz, ae, ap, direction=direction)
        for part in (turn.fx, turn.fy, turn.fz, turn.torque, turn.means, turn.chips):
            self.assertTrue(np.isfinite(part).all())
        more = turn_of(tool, KIENZLE, 1.1 * fz, ae, ap, direction=direction)
        deeper = turn_of(tool, KIENZLE, fz, ae, 1.1 * ap, direction=direction)
        self.assertGreater(more.means[3], turn.means[3])
        self.assertGreater(deeper.means[3], turn.means[3] * (1 - 1e-9))

    def test_continuous_at_half_the_diameter(self) -> None:
        def peak(ae: float) -> Turn:
            return turn_of(cutter(), KIENZLE, 0.1, ae, 8.0)

        below, above = peak(6.0 - 1e-6), peak(6.0 + 1e-6)
        np.testing.assert_allclose(below.means, above.means, rtol=1e-5, atol=1e-3)
        self.assertAlmostEqual(below.fxy.max() / above.fxy.max(), 1.0, places=3)


if __name__ == "__main__":
    unittest.main()
