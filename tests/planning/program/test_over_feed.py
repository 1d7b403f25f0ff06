"""Values over the feed as powers of it: both readings agree with the closed form."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.planning.program.over_feed import OverFeed

NODES = 0.02 * 20.0 ** (np.arange(14) / 13)


def over(scale: float, power: float, steps: int = 3) -> OverFeed:
    """Steps whose force is ``scale * k * fz^power``."""
    force = scale * np.arange(1, steps + 1)[None, :] * NODES[:, None] ** power
    rest = np.zeros_like(force)
    return OverFeed(NODES, force, rest, rest, rest, rest, np.zeros(steps, dtype=bool))


class BothWays(unittest.TestCase):
    @settings(max_examples=100)
    @given(st.floats(10, 5000), st.floats(0.2, 1.0), st.floats(0.021, 0.39))
    def test_a_power_of_the_feed_is_read_exactly(self, scale: float, power: float, fz: float) -> None:
        found = over(scale, power)
        exact = scale * np.arange(1, 4) * fz**power
        np.testing.assert_allclose(found.at(found.force, np.full(3, fz)), exact, rtol=1e-9)
        np.testing.assert_allclose(found.most(found.force, exact), fz, rtol=1e-9)

    def test_a_limit_for_each_step(self) -> None:
        found = over(100.0, 0.75)
        most = found.most(found.force, np.array([20.0, 40.0, 60.0]))
        np.testing.assert_allclose(most, most[0])

    def test_never_beyond_the_nodes_and_below_them_as_the_power_goes(self) -> None:
        found = over(100.0, 0.5)
        np.testing.assert_allclose(found.most(found.force, 1e9), NODES[-1])
        least = found.most(found.force, 100.0 * 0.01**0.5)
        self.assertAlmostEqual(float(least[0]), 0.01)
        self.assertLess(least[2], least[0])

    def test_values_that_stay_none_set_no_limit(self) -> None:
        found = over(100.0, 0.5)
        np.testing.assert_allclose(found.most(found.limits, 1.0), NODES[-1])
