"""From readings to lessons: the cut's own set-up and its neighbours, force and chatter, what is said; and every screen follows."""

import unittest
from dataclasses import replace

import numpy as np

from lesna.learning.calm import depth_scale
from lesna.learning.fit import Fit, fit_of
from lesna.learning.force import Load, force_scale
from lesna.learning.settings import Settings, setting_of
from lesna.model.trials import Reading
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from tests import support
from tests.learning.edges import reading

PARTS = support.parts(support.job())
SETTINGS = Settings(support.LIBRARY)


def fitted(*readings: Reading) -> Fit:
    return fit_of(PARTS, readings, SETTINGS)


def worn(minutes: float, **values: object) -> Reading:
    return reading(minutes=minutes, vb_mm=0.3, retired="worn", **{"edge": f"E{minutes}", **values})


class Fits(unittest.TestCase):
    def test_without_readings_it_is_the_table_and_says_so(self) -> None:
        found = fitted()
        self.assertAlmostEqual(found.at_cut.median, support.result().economy.life, places=6)  # type: ignore[union-attr]
        self.assertEqual((found.edges, found.force.median, found.depth.median), (0, 1.0, 1.0))
        self.assertIn("table only", found.says[0])
        self.assertLess(found.safe_min, found.at_cut.low + 1e-9)

    def test_own_edges_narrow_the_band_and_move_the_median(self) -> None:
        table = fitted().at_cut.median
        found = fitted(*(worn(round(2 * table * k, 1)) for k in (0.8, 0.9, 1.0, 1.1, 1.2)))
        self.assertEqual((found.edges, found.others), (5, 0))
        self.assertGreater(found.at_cut.median, 1.5 * table)
        self.assertLess(found.at_cut.high / found.at_cut.low, 0.5 * found.prior_at_cut.high / found.prior_at_cut.low)
        self.assertTrue(found.safe_min <= found.at_cut.low < found.at_cut.median < found.at_cut.high)

    def test_the_same_life_stands_on_every_screen(self) -> None:
        table = fitted().at_cut.median
        found = fitted(*(worn(round(1.6 * table * k, 1)) for k in (0.8, 0.9, 1.0, 1.1, 1.2)))
        result = result_of(setup_of(replace(PARTS, lesson=found.lesson)))
        assert result.economy is not None
        self.assertAlmostEqual(result.economy.life, found.at_cut.median, places=6)
        self.assertAlmostEqual(result.economy.safe_life, found.safe_min, delta=0.05 * found.safe_min)
        # a life that is wanted is kept by the speed that these edges, not the tables, say
        wanted = PARTS.with_cut(vc_m_min=None, life_min_wanted=found.at_cut.median)
        kept = result_of(setup_of(replace(wanted, lesson=found.lesson)))
        self.assertAlmostEqual(float(kept.state.vc), float(result.state.vc), delta=1e-3)

    def test_a_neighbour_counts_as_far_as_it_is_believed_and_that_is_said(self) -> None:
        table = fitted().at_cut.median
        near = fitted(*(worn(round(2 * table * k, 1), coating="TiAlN") for k in (0.8, 0.9, 1.0, 1.1, 1.2)))
        self.assertEqual((near.edges, near.others), (0, 5))
        self.assertGreater(near.at_cut.median, 1.3 * table)
        own = fitted(*(worn(round(2 * table * k, 1)) for k in (0.8, 0.9, 1.0, 1.1, 1.2)))
        self.assertLess(near.at_cut.median, own.at_cut.median)
        self.assertTrue(any("100 % of this comes from 5 edges of neighbouring set-ups" in text for text in near.says))

    def test_what_cannot_be_used_is_named_and_the_others_count(self) -> None:
        found = fitted(
            worn(30),
            reading(edge="x", material="no-such"),
            reading(edge="y", n_rpm=None),
            reading(edge="z", minutes=0.0),
        )
        self.assertEqual(found.edges, 1)
        said = {one.name: one.why for one in found.left_out}
        self.assertIn("not in the library", said["T / x at 12 min"])
        self.assertIn("n_rpm not given", said["T / y at 12 min"])
        self.assertIn("no time in the cut", said["T / z at 0 min"])

    def test_doubts_are_said(self) -> None:
        said = " ".join(fitted(reading(minutes=10, vb_mm=0.15), reading(minutes=20, vb_mm=0.05), reading(edge="E2", vb_mm=120.0),
                               reading(edge="E3", vb_mm=0.05, retired="worn")).says)  # fmt: skip
        for words in ("wear does not shrink", "thousandths", "the two say different things"):
            self.assertIn(words, said)
        self.assertIn("no edge was worn yet", " ".join(fitted(reading(vb_mm=0.1)).says))
        crowds = fitted(*(worn(10 + k / 10) for k in range(5)), *(worn(200 + k / 10) for k in range(5)))
        self.assertIn("two crowds", " ".join(crowds.says))
        self.assertIn("shorter than the table", " ".join(fitted(*(worn(2 + k / 10) for k in range(6))).says))

    def test_a_wild_edge_stays_in_and_is_flagged(self) -> None:
        found = fitted(*(worn(m) for m in (38, 42, 45, 47, 50, 44)), worn(5.0, edge="wild"))
        self.assertEqual([one.name for one in found.flagged], ["T / wild"])
        self.assertEqual(found.edges, 7)

    def test_a_broken_edge_shortens_what_is_safe(self) -> None:
        whole = fitted(*(worn(m) for m in (38, 42, 45, 47, 50)))
        broken = fitted(*(worn(m) for m in (38, 42, 45, 47, 50)), reading(edge="b", minutes=5.0, wear_kind="breakage"))
        self.assertLess(broken.safe_min, whole.safe_min)

    def test_the_spindles_load_moves_the_force_and_calm_cuts_the_depth(self) -> None:
        setting = setting_of(PARTS)
        assert setting.cut_load is not None and setting.idle_load is not None
        load = setting.idle_load + 1.3 * setting.cut_load
        found = fitted(*(reading(edge=f"E{k}", load_pct=load, vb_mm=0.0, sound="calm") for k in range(6)))
        self.assertAlmostEqual(found.force.median, 1.3, delta=0.13)
        plain, taught = support.result(), result_of(setup_of(replace(PARTS, lesson=found.lesson)))
        self.assertAlmostEqual(float(taught.state.torque / plain.state.torque), found.force.median, places=3)
        self.assertLess(taught.force_band, plain.force_band)
        self.assertEqual(found.depth.looks, 6)

    def test_a_load_of_another_kind_is_flagged(self) -> None:
        setting = setting_of(PARTS)
        assert setting.cut_load is not None and setting.idle_load is not None
        usual, odd = (setting.idle_load + factor * setting.cut_load for factor in (1.0, 3.0))
        found = fitted(
            *(reading(edge=f"E{k}", load_pct=usual, vb_mm=0.08) for k in range(6)),
            reading(edge="odd", load_pct=odd, vb_mm=0.08),
        )
        self.assertEqual([one.name for one in found.flagged], ["T / odd"])


class Scales(unittest.TestCase):
    def test_force_tells_the_idling_spindle_from_the_cut(self) -> None:
        rng = np.random.default_rng(3)
        loads = []
        for setup in range(12):
            own = 1.2 * float(np.exp(rng.normal(0, 0.10)))
            loads += [Load(1.15 * 8 + own * cut + rng.normal(0, 1), cut, 8.0, 0.0, setup) for cut in (5.0, 15.0, 40.0)]
        found = force_scale(loads, 0.25)
        self.assertAlmostEqual(found.median, 1.2, delta=0.12)
        self.assertTrue(found.low < 1.2 < found.high)
        wild = force_scale([*loads, Load(8 + 2.2 * 40, 40.0, 8.0, 0.0, 99)], 0.25)
        self.assertEqual(wild.wild, (99,))

    def test_calm_proves_a_depth_and_chatter_lowers_it(self) -> None:
        self.assertGreater(depth_scale([(1.3, False)] * 2).median, 1.25)
        self.assertLess(depth_scale([(0.7, True)] * 2).median, 0.72)
        both = depth_scale([(0.9, False), (1.1, True)])
        self.assertTrue(0.85 < both.median < 1.15)
        self.assertLess(both.high / both.low, depth_scale([]).high / depth_scale([]).low)


if __name__ == "__main__":
    unittest.main()
