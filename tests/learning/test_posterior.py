"""Life from looks: the known cases, the ladder's shares of life, wild edges, bands that hold."""

import unittest
import warnings

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.learning.edges import CRITERION, Edge, Look, land_share, likelihoods
from lesna.learning.posterior import fit, prior_covariance
from lesna.learning.trust import SetUp, trust, trusts
from tests.learning.edges import COVARIANCE, LEVEL, TABLE, edge, learned, lives

LOOKS = st.tuples(
    st.floats(0.1, 5000), st.one_of(st.none(), st.floats(0, 150)), st.sampled_from(["", "good", "worn", "broken"])
)


class Quantiles(unittest.TestCase):
    def test_a_share_falls_below_its_quantile(self) -> None:
        shares = (0.001, 0.01, 0.05, 0.3, 0.5, 0.7, 0.95, 0.999)
        for edges in (
            (),
            (edge((12, 0.10, "")),),
            tuple(edge((60, None, "good")) for _ in range(6)),
            (edge((2, 1.5, "worn")),),
        ):
            found = learned(*edges)
            for x in (LEVEL, LEVEL + np.array((0.0, 0.4, -0.3))):
                at = found.quantiles(x, shares)
                with self.subTest(edges=len(edges), x=x.tolist()):
                    self.assertTrue((np.diff(at) > 0).all())
                    np.testing.assert_allclose([float(found.chance_below(x, value)) for value in at], shares, atol=1e-8)
                    self.assertAlmostEqual(found.quantile(x, 0.3), float(at[3]), places=7)

    def test_the_order_of_what_is_asked_does_not_matter(self) -> None:
        found = learned(edge((12, 0.10, "")))
        np.testing.assert_allclose(
            found.quantiles(LEVEL, (0.95, 0.05)), found.quantiles(LEVEL, (0.05, 0.95))[::-1], atol=1e-8
        )


class KnownCases(unittest.TestCase):
    """Worked cases: what few looks say against a table of 45 min (median, low, high)."""

    def check(self, edges: list[Edge], median: float, low: float, high: float, within: float = 0.12) -> None:
        found = lives(learned(*edges))
        for value, expected in zip(found, (median, low, high), strict=True):
            self.assertLess(abs(np.log(value / expected)), within, (found, (median, low, high)))

    def test_nothing_is_the_table_with_a_wide_band(self) -> None:
        self.check([], 45, 12, 166)

    def test_before_any_edge_the_spread_is_that_of_near_and_far_tables(self) -> None:
        near = LEVEL @ COVARIANCE @ LEVEL
        # one table in seven is far off, 2.5 times as far
        self.assertAlmostEqual(learned().median_spread(LEVEL), np.sqrt((0.85 + 0.15 * 2.5**2) * near), places=12)

    def test_looks(self) -> None:
        for looks, told in (
            ([(12, 0.10, "")], (57, 21, 158)), ([(8, 0.09, ""), (15, 0.12, "")], (56, 21, 147)), ([(12, None, "")], (47, 15, 170)),
            ([(60, None, "good")], (74, 26, 272)), ([(60, None, "worn")], (54, 21, 132)), ([(3, None, "broken")], (45, 13, 167)),
            ([(12, 120.0, "")], (45, 12, 166)), ([(30, 0.05, "worn")], (168, 35, 856)),
        ):  # fmt: skip
            with self.subTest(looks=looks):
                self.check([edge(*looks)], *told)  # type: ignore[arg-type]

    def test_many_edges(self) -> None:
        self.check([edge((40, 0.3, "worn"))] * 20, 41, 28, 60)
        self.check([edge((60, None, "good"))] * 20, 158, 69, 677, within=0.2)
        self.check([edge((60, None, "worn"))] * 5, 58, 31, 110)
        self.assertLess(learned(*[edge((40, 0.3, "worn"))] * 20).typical_scatter, 0.25)

    def test_lives_far_off_the_table_stay_finite(self) -> None:
        median, low, high = lives(learned(*[edge((0.05, 0.3, "worn"))] * 5))
        self.assertTrue(0.02 < low < median < high < 2.0, (low, median, high))


class Ladders(unittest.TestCase):
    def test_wear_at_several_settings_adds_up_as_shares_of_life(self) -> None:
        # half of its life at a speed where the table says 60 min, then to the end where it says 20
        climbed = Edge(
            "up",
            (Look(30.0, 60.0, (0.0, 0.0), 0.17, "uniform", ""), Look(10.0, 20.0, (0.3, 0.0), 0.30, "uniform", "worn")),
        )
        np.testing.assert_allclose(climbed.equal_minutes, [10.0, 20.0])
        np.testing.assert_allclose(climbed.covariates, [1.0, 0.15, 0.0])
        found = learned(*[climbed] * 8)
        self.assertLess(abs(found.shift(climbed.covariates)), 0.1)
        # all minutes at the last setting would say that it lives twice as long
        naive = Edge("up", (Look(40.0, 20.0, (0.3, 0.0), 0.30, "uniform", "worn"),))
        self.assertGreater(learned(*[naive] * 8).shift(naive.covariates), 0.5)

    def test_speed_is_learned_from_edges_at_several_speeds(self) -> None:
        speeds = np.linspace(-0.3, 0.3, 7)
        edges = []
        for speed in speeds:
            table = TABLE * float(np.exp(-4.0 * speed))
            life = TABLE * float(np.exp(-5.2 * speed))  # steeper than the table
            edges += [edge((life, CRITERION, "worn"), table=table, x=(float(speed), 0.0))] * 3
        found = learned(*edges)
        self.assertLess(found.mean[1], -0.6)
        self.assertGreater(found.mean[1], -1.3)


class WildEdges(unittest.TestCase):
    def test_one_wild_edge_is_flagged_and_moves_little(self) -> None:
        usual = [edge((life, 0.3, "worn"), name=str(life)) for life in (38, 42, 45, 47, 50, 44, 41, 52, 40)]
        plain, with_wild = learned(*usual), learned(*usual, edge((6, 0.3, "worn"), name="wild"))
        self.assertGreater(with_wild.wild()[-1], 0.9)
        self.assertLess(with_wild.wild()[:-1].max(), 0.2)
        self.assertLess(abs(with_wild.shift(LEVEL) - plain.shift(LEVEL)), 0.1)

    def test_influence_is_what_leaving_an_edge_out_does(self) -> None:
        edges = [edge((life, 0.3, "worn"), name=str(life)) for life in (30, 38, 42, 45, 60, 52, 41, 39, 70, 33)]
        found = learned(*edges)
        for place in (0, 4, 8):
            without = learned(*edges[:place], *edges[place + 1 :])
            self.assertAlmostEqual(found.influence(LEVEL)[place], found.shift(LEVEL) - without.shift(LEVEL), delta=0.02)

    def test_known_lives_are_held_out_and_early_looks_are_not(self) -> None:
        held, inside = learned(*[edge((life, 0.3, "worn")) for life in (38, 42, 45, 47, 50, 44)]).held_out()
        self.assertEqual((held, inside), (6, 6))
        self.assertEqual(learned(edge((10, 0.09, ""))).held_out(), (0, 0))


class Bands(unittest.TestCase):
    def test_the_band_of_the_next_edge_holds(self) -> None:
        from scipy.special import ndtr

        inside = []
        for seed in range(40):
            rng = np.random.default_rng(seed)
            beta, scatter = rng.normal(0, np.sqrt(np.diag(COVARIANCE))), 0.37 * np.exp(rng.normal(0, 0.3))
            edges = []
            for _ in range(8):
                x = np.array([1.0, rng.normal(0, 0.12), rng.normal(0, 0.15)])
                table = TABLE * float(np.exp(-x[1] / 0.25 - x[2] * 0.28 / 0.25))
                life = table * float(np.exp(beta @ x + rng.normal(0, scatter)))
                at = float(rng.uniform(8, 15))
                land = max(
                    0.0, CRITERION * float(land_share(np.array(at / life), np.array(0.25))) + rng.normal(0, 0.015)
                )
                edges.append(edge((at, land, ""), table=table, x=(float(x[1]), float(x[2]))))
            found = learned(*edges)
            low, high = (found.quantile(LEVEL, share) for share in (0.05, 0.95))
            inside.append(ndtr((high - beta[0]) / scatter) - ndtr((low - beta[0]) / scatter))
        self.assertGreater(np.mean(inside), 0.82)
        self.assertLess(np.mean(inside), 0.98)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(LOOKS, min_size=1, max_size=6))
    def test_no_reading_makes_nonsense(self, looks: list[tuple[float, float | None, str]]) -> None:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            found = learned(*[edge(look) for look in looks])  # type: ignore[arg-type]
            median, low, high = lives(found)
            self.assertTrue(0 < low < median < high < np.inf)
            self.assertTrue(np.isfinite(found.influence(LEVEL)).all() and np.isfinite(found.wild()).all())

    def test_likelihoods_are_of_each_edge_alone(self) -> None:
        one, two = edge((12, 0.1, ""), (30, 0.2, "good")), edge((60, None, "worn"))
        both = likelihoods([one, two])
        np.testing.assert_allclose(both[0], likelihoods([one])[0])
        np.testing.assert_allclose(both[1], likelihoods([two])[0])


SETUP = SetUp("42crmo4", "P", "p", 300.0, 1800.0, 42.0, "AlTiN", "square", "carbide", 12.0, False, "a", "b")


class Trust(unittest.TestCase):
    def test_every_difference_multiplies(self) -> None:
        from dataclasses import replace

        self.assertEqual(trust(SETUP, SETUP), 1.0)
        self.assertAlmostEqual(trust(SETUP, replace(SETUP, letter="M")), 0.5)
        self.assertAlmostEqual(trust(SETUP, replace(SETUP, coating="TiAlN", machine="c")), 0.92 * 0.95)
        self.assertAlmostEqual(trust(SETUP, replace(SETUP, kind="ball", substrate="hss")), 0.6 * 0.2)
        self.assertAlmostEqual(trust(SETUP, replace(SETUP, hardness=150.0)), 0.5)
        # what a reading does not tell makes no difference
        self.assertEqual(trust(SETUP, replace(SETUP, machine="", holder="", wet=None, hardness=None)), 1.0)

    def test_trusts_make_a_covariance(self) -> None:
        from dataclasses import replace

        rng = np.random.default_rng(1)
        setups = [
            replace(SETUP, hardness=float(rng.uniform(150, 500)), DC=float(rng.uniform(4, 25)), wet=bool(rng.integers(2)),
                    letter=str(rng.choice(["P", "M", "S"])), coating=str(rng.choice(["AlTiN", "TiAlN", "none"])))
            for _ in range(12)
        ]  # fmt: skip
        self.assertGreater(np.linalg.eigvalsh(0.97 * trusts(setups) + 0.03 * np.eye(12)).min(), 0.0)

    def test_neighbours_move_a_setup_that_has_no_edge_of_its_own_as_far_as_they_are_believed(self) -> None:
        edges = [Edge(str(k), (Look(90.0, TABLE, (0.0, 0.0), 0.3, "uniform", "worn"),), group=1) for k in range(12)]
        shifts = []
        for rho in (0.0, 0.5, 0.95):
            tied = np.array([[1.0, rho], [rho, 1.0]])
            shifts.append(fit(edges, prior_covariance(0.25, 0.28), LEVEL, tied).shift(LEVEL))
        self.assertAlmostEqual(shifts[0], 0.0, delta=0.02)
        self.assertTrue(shifts[0] < shifts[1] < shifts[2] < np.log(2.0) + 0.05, shifts)


if __name__ == "__main__":
    unittest.main()
