"""What a point is worth: sums that close, aims that order points as they say, the floor."""

import unittest

import numpy as np

from lesna.planning.cut.economy import Timing, economy_of
from lesna.planning.cut.solve import solve_one
from lesna.planning.search.aims import AIMS, Worth, score, worth_of
from tests.support import setup

BATCH = {"parts": 10, "machine_rate_per_h": 60.0, "tool_change_min": 0.5}


class Worths(unittest.TestCase):
    def test_without_links_it_is_the_economy_of_the_cut(self) -> None:
        s = setup(job={"batch": BATCH}, tool={"price": 40.0})
        state, _ = solve_one(s, 1.2, 12.0)
        worth = worth_of(s, state, 7.0 * state.q, (7.0, 0.0))
        economy = economy_of(s, state, Timing("estimate", 7.0, 0.0))
        assert economy is not None and economy.time_per_part is not None and economy.cost_per_part is not None
        self.assertAlmostEqual(float(worth.minutes), economy.time_per_part)
        self.assertAlmostEqual(float(worth.cost), economy.cost_per_part)  # type: ignore[arg-type]
        self.assertAlmostEqual(float(worth.safe), economy.safe_life)
        self.assertAlmostEqual(float(worth.q), state.q)
        self.assertAlmostEqual(float(worth.alone), economy.safe_life)

    def test_links_take_time_and_let_the_machine_run_alone_longer(self) -> None:
        s = setup(job={"batch": BATCH}, tool={"price": 40.0})
        state, _ = solve_one(s, 1.2, 12.0)
        plain, linked = (worth_of(s, state, 50.0, (7.0, links)) for links in (0.0, 3.5))
        self.assertAlmostEqual(float(linked.minutes - plain.minutes), 3.5)
        self.assertAlmostEqual(float(linked.cost) - float(plain.cost), 3.5)  # type: ignore[arg-type]
        self.assertAlmostEqual(float(linked.alone / plain.alone), 1.5)
        self.assertAlmostEqual(float(linked.edges), float(plain.edges))

    def test_chips_that_stay_in_the_way_leave_a_part_of_the_minutes_alone(self) -> None:
        for material, share in (("alloy-718-aged", 0.25), ("c45e-n", 0.5)):
            s = setup(job={"workpiece": {"material": material}}, ae_mm=12.0, ap_mm=7.0, hex_mm=0.02)
            for depth, left in ((7.0, share), (5.9, 1.0)):
                with self.subTest(material=material, depth=depth):
                    state, _ = solve_one(s, 12.0, depth)
                    economy = economy_of(s, state, Timing("estimate", 7.0, 0.0))
                    assert economy is not None
                    self.assertAlmostEqual(economy.alone, left * economy.safe_life)
                    self.assertAlmostEqual(float(worth_of(s, state, 50.0, (7.0, 0.0)).alone), economy.alone)

    def test_without_a_price_there_is_no_cost(self) -> None:
        s = setup()
        state, _ = solve_one(s, 1.2, 12.0)
        self.assertIsNone(worth_of(s, state, 50.0, (7.0, 0.0)).cost)


class Scores(unittest.TestCase):
    def setUp(self) -> None:
        # the first is quick, the second cheap, the third long-lived
        self.worth = Worth(
            cutting=np.array([5.0, 8.0, 12.0]), linking=np.array([1.0, 1.0, 1.0]), changing=np.array([1.0, 0.2, 0.1]),
            q=np.array([40.0, 27.0, 18.0]), life=np.array([10.0, 60.0, 200.0]), safe=np.array([5.0, 30.0, 100.0]),
            unwatched=np.array([5.0, 30.0, 100.0]),
            edges=np.array([0.5, 0.13, 0.06]), cost=np.array([30.0, 15.0, 17.0]),
        )  # fmt: skip

    def test_each_aim_has_its_own_best(self) -> None:
        best = {aim: int(np.argmax(score(aim, self.worth, 0.0))) for aim in AIMS}
        self.assertEqual(best, {"time": 0, "cost": 1, "life": 2, "unattended": 2})

    def test_below_the_floor_nothing_counts(self) -> None:
        for aim in AIMS:
            values = score(aim, self.worth, 25.0)
            self.assertEqual(values[2], -np.inf)
            self.assertTrue(np.all(np.isfinite(values[:2])))

    def test_without_prices_the_cheapest_is_the_quickest(self) -> None:
        bare = Worth(**{**vars(self.worth), "cost": None})
        np.testing.assert_array_equal(score("cost", bare, 0.0), score("time", bare, 0.0))


if __name__ == "__main__":
    unittest.main()
