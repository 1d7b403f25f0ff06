"""The grids of the map against single turns, and against conservation of power."""

import math
import unittest

import numpy as np

from lesna.physics.edge.cutter import Cutter, Profile
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.edge.sweep import sweep, sweep_plain
from tests.physics.gallery import KIENZLE, LINEAR, PURE, cutter

# not at half the diameter: there a tooth leaves as the next one enters, and rounding decides whether both count
AE, AP = 11.7 * np.arange(1, 13) / 12, 24.0 * np.arange(1, 13) / 12


def thinned(ae: np.ndarray, ap: np.ndarray, r: float = 0.0) -> np.ndarray:
    """Feeds that hold a chip over stepover and over a round foot."""
    x = np.minimum(ae / 12.0, 0.5)
    share = np.minimum(ap / r, 1.0) if r else np.ones_like(ap)
    return 0.05 / (2 * np.sqrt(x * (1 - x)))[None, :] / np.sqrt(2 * share - share**2)[:, None]


class Against(unittest.TestCase):
    def compare(self, tool: Cutter, law: ForceLaw, fz: np.ndarray, direction: str = "down") -> None:
        fast = sweep(tool, law, fz, AE, AP, direction=direction)
        plain = sweep_plain(tool, law, fz, AE, AP, direction=direction)
        for name in ("fxy_peak", "torque_peak"):
            off = np.abs(getattr(fast, name) / getattr(plain, name) - 1)
            # both sample the turn; the single turn steps through its slices
            self.assertLess(np.median(off), 0.006, name)
            self.assertLess(off.max(), 0.04, name)
        np.testing.assert_allclose(fast.torque_mean, plain.torque_mean, rtol=5e-3)
        scale = np.abs(plain.fxy_peak)
        for name in ("fx_mean", "fy_mean", "fz_mean", "fz_max", "fz_min"):
            off = np.abs(getattr(fast, name) - getattr(plain, name)) / scale
            self.assertLess(off.max(), 0.02, name)
        np.testing.assert_allclose(fast.height, plain.height, rtol=0.02)

    def test_even_teeth_both_laws_and_sides(self) -> None:
        for direction in ("down", "up"):
            for law in (KIENZLE, LINEAR):
                self.compare(cutter(), law, thinned(AE, AP), direction)

    def test_runout_and_unequal_pitch_with_a_corner(self) -> None:
        for direction in ("down", "up"):
            self.compare(cutter(5, r=1.0, runout=0.004, swing=3.0), KIENZLE, thinned(AE, AP), direction)

    def test_ball_whose_feed_changes_with_the_depth(self) -> None:
        self.compare(cutter(r=6.0, runout=0.003), KIENZLE, thinned(AE, AP, 6.0))

    def test_straight_flutes_and_serrated_edges(self) -> None:
        self.compare(cutter(helix=0.0), KIENZLE, thinned(AE, AP))
        self.compare(cutter(profile=Profile("wave", 0.15, 1.6)), KIENZLE, thinned(AE, AP))

    def test_columns_of_one_feed_are_those_that_stand_alone(self) -> None:
        fz = thinned(AE, AP, 6.0)
        many = np.array([3, 0, 3, 11, 0, 3])
        # speeds that are compared differ in the last digit of their feeds
        feeds = fz[:, many] * (1 + 1e-15 * np.arange(len(many)))
        tool = cutter(r=6.0, runout=0.003)
        together, whole = sweep(tool, KIENZLE, feeds, AE[many], AP), sweep(tool, KIENZLE, fz, AE, AP)
        for name, values in vars(whole).items():
            np.testing.assert_allclose(getattr(together, name), values[:, many], rtol=1e-6, err_msg=name)

    def test_means_are_kc_times_removal(self) -> None:
        ae, ap = 12.0 * np.arange(1, 97) / 96, 30.0 * np.arange(1, 97) / 96
        fz = np.full((96, 96), 0.07)
        for tool in (cutter(), cutter(5), cutter(5, r=1.0)):
            torque = sweep(tool, PURE, fz, ae, ap).torque_mean
            removed = ae[None, :] * ap[:, None] * 0.07 * tool.teeth
            # below a corner the floor is narrower than the cutter, so a wider cut removes less than ae ap there
            whole = ae <= 2 * (6.0 - tool.shape.r)
            np.testing.assert_allclose((torque * 2 * math.pi * 1000)[:, whole], 2000.0 * removed[:, whole], rtol=1e-6)
        # runout makes kinks in the chip, which twelve Gauss points do not meet exactly
        torque = sweep(cutter(runout=0.005), PURE, fz, ae, ap).torque_mean
        removed = ae[None, :] * ap[:, None] * 0.07 * 4
        np.testing.assert_allclose(torque * 2 * math.pi * 1000, 2000.0 * removed, rtol=1e-3)


if __name__ == "__main__":
    unittest.main()
