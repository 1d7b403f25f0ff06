"""Taylor, Weibull and the economic speeds against sampling and against a search for the least."""

import math
import unittest

import numpy as np

from lesna.physics.life import edge_life as life

REFERENCE = {"kv": 1.0, "vc_ref": 100.0, "hex_ref": 0.05, "life_ref": 45.0, "n": 0.25, "a": 0.28}


class Taylor(unittest.TestCase):
    def test_a_fifth_more_speed_halves_the_life_at_n_a_quarter(self) -> None:
        self.assertAlmostEqual(float(life.edge_life(100 * 2**0.25, 0.05, **REFERENCE)), 22.5)

    def test_the_heat_factor_shifts_the_speed(self) -> None:
        self.assertAlmostEqual(float(life.edge_life(140.0, 0.05, **{**REFERENCE, "kv": 1.4})), 45.0)

    def test_thicker_chips_and_worse_coolant_shorten_it(self) -> None:
        self.assertAlmostEqual(float(life.edge_life(100.0, 0.1, **REFERENCE)), 45 * 2 ** (-0.28 / 0.25))
        self.assertAlmostEqual(float(life.edge_life(100.0, 0.05, **REFERENCE, coolant=0.5)), 22.5)

    def test_speed_for_life_undoes_it(self) -> None:
        vc = float(life.speed_for_life(120.0, 30.0, 60.0, 0.25))
        at = life.edge_life(np.array([120.0, vc]), 0.05, **REFERENCE)
        self.assertAlmostEqual(at[1] / at[0], 2.0)


class Scatter(unittest.TestCase):
    def test_share_of_sampled_edges_that_outlive_it(self) -> None:
        rng = np.random.default_rng(7)
        scale = 100.0 / math.log(2) ** (1 / life.WEIBULL_SHAPE)  # median 100
        edges = scale * rng.weibull(life.WEIBULL_SHAPE, 400_000)
        self.assertAlmostEqual(float(np.mean(edges > life.safe_life(100.0))), 0.95, delta=0.002)
        self.assertAlmostEqual(float(np.std(np.log(edges))), 0.37, delta=0.005)  # the spread the page names


class Economic(unittest.TestCase):
    def test_gilberts_lives_are_where_time_and_cost_are_least(self) -> None:
        n, change, edge, rate = 0.25, 0.5, 12.0, 1.2
        vc = np.linspace(40.0, 900.0, 200_001)
        lives = 45.0 * (vc / 100.0) ** (-1 / n)
        cutting = 600.0 / vc
        time = cutting + cutting / lives * change
        cost = time * rate + cutting / lives * edge
        self.assertAlmostEqual(float(lives[np.argmin(time)]), life.quickest_life(n, change), delta=0.01)
        self.assertAlmostEqual(float(lives[np.argmin(cost)]), life.cheapest_life(n, change, edge, rate), delta=0.05)
