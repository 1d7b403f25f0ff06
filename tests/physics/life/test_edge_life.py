"""Taylor, abrasion and Weibull against closed forms and sampling."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lesna.physics.life import edge_life as life

LAW = life.LifeLaw(vc_ref=100.0, hex_ref=0.05, hex_min=0.01, life_ref=45.0, n=0.25, a=0.28)


class Taylor(unittest.TestCase):
    def test_a_fifth_more_speed_halves_the_life_at_n_a_quarter(self) -> None:
        self.assertAlmostEqual(float(LAW.by_heat(100 * 2**0.25, 0.05, 1.0)), 22.5)

    def test_the_multiplier_shifts_the_speed(self) -> None:
        self.assertAlmostEqual(float(LAW.by_heat(140.0, 0.05, 1.4)), 45.0)

    def test_thicker_chips_and_worse_coolant_shorten_it(self) -> None:
        self.assertAlmostEqual(float(LAW.by_heat(100.0, 0.1, 1.0)), 45 * 2 ** (-0.28 / 0.25))
        self.assertAlmostEqual(float(replace(LAW, coolant=0.5).by_heat(100.0, 0.05, 1.0)), 22.5)

    def test_thin_chips_relieve_an_edge_down_to_half_the_typical_one(self) -> None:
        self.assertAlmostEqual(float(LAW.by_heat(100.0, 0.025, 1.0)), 45 * 2 ** (0.28 / 0.25))
        self.assertEqual(float(LAW.by_heat(100.0, 0.012, 1.0)), float(LAW.by_heat(100.0, 0.025, 1.0)))


class Abrasion(unittest.TestCase):
    def test_ends_an_edge_however_slowly_it_runs(self) -> None:
        self.assertAlmostEqual(float(LAW.median(100.0, 0.05, 1.0)), 1 / (1 / 45 + 1 / 900))
        crawling = float(LAW.median(1.0, 0.05, 1.0))
        self.assertLess(crawling, 900.0)
        self.assertGreater(crawling, 899.0)

    def test_the_speed_that_keeps_a_life_gives_it(self) -> None:
        for ends, wanted in ((20.0, 90.0), (2.0, 60.0)):
            law = replace(LAW, ends=ends)
            for chip in (0.03, 0.005):  # well cut, and rubbing
                vc = law.speed_for(wanted * 0.2, chip, 1.4)
                self.assertAlmostEqual(float(law.median(vc, chip, 1.4)), wanted * 0.2)
        self.assertTrue(
            np.isnan(replace(LAW, ends=2.0).speed_for(90.0, 0.05, 1.0)), "no speed outlives twice the reference"
        )

    def test_a_chip_below_the_least_rubs(self) -> None:
        at, below = (float(LAW.median(100.0, chip, 1.0)) for chip in (0.01, 0.005))
        self.assertAlmostEqual(below / at, 0.25)

    @given(vc=st.floats(5.0, 900.0), chip=st.floats(0.001, 0.2), m=st.floats(0.7, 3.0))
    def test_falls_with_speed_and_rises_with_what_the_engagement_allows(self, vc: float, chip: float, m: float) -> None:
        here = float(LAW.median(vc, chip, m))
        self.assertLess(float(LAW.median(1.05 * vc, chip, m)), here)
        self.assertGreater(float(LAW.median(vc, chip, 1.05 * m)), here)
        self.assertGreater(here, 0.0)


class Scatter(unittest.TestCase):
    def test_share_of_sampled_edges_that_outlive_it(self) -> None:
        rng = np.random.default_rng(7)
        scale = 100.0 / math.log(2) ** (1 / life.WEIBULL_SHAPE)  # median 100
        edges = scale * rng.weibull(life.WEIBULL_SHAPE, 400_000)
        self.assertAlmostEqual(float(np.mean(edges > life.safe_life(100.0))), 0.95, delta=0.002)
        self.assertAlmostEqual(float(np.std(np.log(edges))), 0.37, delta=0.005)  # the spread the page names
