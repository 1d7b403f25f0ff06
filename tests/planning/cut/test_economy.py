"""Life, time and cost of a part from the tables, the batch and the prices."""

import math
import unittest

import numpy as np

from lesna.planning.cut.economy import edge_cost_of, over_speed
from lesna.planning.cut.life import coolant_factor
from lesna.planning.cut.starting import starting_values
from lesna.planning.telling.figures import result_data
from tests.support import LIBRARY, result

SHELF = {"kind": "shelf", "length_mm": 200.0, "width_mm": 24.0, "depth_mm": 12.0}
BATCH = {"batch": {"parts": 10, "machine_rate_per_h": 90.0, "tool_change_min": 0.5}}
PRICED = {"feature": SHELF, "job": BATCH, "tool": {"price": 60.0, "edges": 3}}


class OfACut(unittest.TestCase):
    def test_at_the_reference_it_lives_as_long_as_the_table_says(self) -> None:
        chip = 0.038 * 1.2**0.85
        e = result(ae_mm=6.0, vc_m_min=92.0, hex_mm=chip).economy
        assert e is not None
        self.assertAlmostEqual(e.life, 45 * 20 / 21)  # abrasion alone would leave 20 times as long
        self.assertAlmostEqual(e.m, 1.0)

    def test_by_hand(self) -> None:
        r = result(**PRICED)
        e, s = r.economy, r.state
        assert e is not None and r.timing is not None and r.cut_time is not None and e.edges_per_part is not None
        self.assertGreater(r.cut_time, 200 * 24 * 12 / 1000 / s.q)  # in and out of the material besides
        self.assertEqual(r.timing.basis, "estimate")
        self.assertAlmostEqual(e.edges_per_part, r.cut_time / e.life)
        self.assertAlmostEqual(e.time_per_part or 0, r.cut_time + r.timing.linking + 0.5 * e.edges_per_part)
        self.assertAlmostEqual(e.cost_per_part or 0, (e.time_per_part or 0) * 1.5 + e.edges_per_part * 20.0)
        self.assertAlmostEqual(e.volume_per_edge, s.q * e.life)
        self.assertEqual(e.change_after, math.floor(e.safe_life / r.cut_time))

    def test_the_economic_speeds_are_the_least_of_the_curves(self) -> None:
        r = result(**PRICED)
        e = r.economy
        assert e is not None and r.timing is not None
        vc = np.linspace(30.0, 1500.0, 100_001)
        curve = over_speed(e, r.timing, vc)
        assert curve.cost is not None
        self.assertAlmostEqual(vc[np.argmin(curve.cost)], e.vc_cheapest or 0, delta=0.1)
        self.assertAlmostEqual(vc[np.argmin(curve.time)], e.vc_quickest or 0, delta=0.1)
        here = over_speed(e, r.timing, np.array([r.state.vc]))
        self.assertAlmostEqual(float(here.time[0]), e.time_per_part or 0)
        assert here.cost is not None
        self.assertAlmostEqual(float(here.cost[0]), e.cost_per_part or 0)

    def test_at_the_economic_speeds_edges_live_as_long_as_gilbert_says(self) -> None:
        # T = (1/n - 1)(t_change + C_edge / rate), with the exponent n that holds at that speed (Gilbert 1950)
        r = result(**PRICED)
        e = r.economy
        assert e is not None and e.vc_cheapest is not None and e.vc_quickest is not None
        for vc, worth in ((e.vc_cheapest, 0.5 + 20.0 / 1.5), (e.vc_quickest, 0.5)):
            lives = e.law.median(vc * np.array([1 - 1e-5, 1.0, 1 + 1e-5]), r.state.hex, e.m)
            n = -2e-5 / math.log(lives[2] / lives[0])
            self.assertAlmostEqual(float(lives[1]) / ((1 / n - 1) * worth), 1.0, delta=0.01)

    def test_what_is_not_known_is_not_made_up(self) -> None:
        e = result().economy
        assert e is not None
        self.assertEqual((e.time_per_part, e.cost_per_part, e.change_after), (None, None, None))
        self.assertIsNone(result(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}}).economy)
        self.assertIsNone(
            result_data(result(job={"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25}}}))["life_min"]
        )

    def test_outside_the_chip_range_the_life_is_flagged(self) -> None:
        for chip, valid in ((0.04, True), (0.004, False), (0.09, False)):
            e = result(hex_mm=chip).economy
            assert e is not None
            self.assertEqual(e.is_valid, valid)

    def test_coolant_ranks(self) -> None:
        factors = [coolant_factor(result(coolant=c).setup.parts) for c in ("air", "mist", "dry", "through", "flood")]
        self.assertEqual(factors, sorted(factors, reverse=True))
        titanium = result(coolant="dry", job={"workpiece": {"material": "ti-6al-4v-a"}}).setup.parts
        self.assertEqual(coolant_factor(titanium), 0.5)

    def test_inserts_cost_by_the_set(self) -> None:
        tool = {"insert_count": 4, "insert_cost_cu": 9.0, "edges_per_insert": 2, "price": 200.0}
        self.assertEqual(edge_cost_of(result(tool=tool).setup.parts), 18.0)
        self.assertIsNone(edge_cost_of(result().setup.parts))


class StartingSpeed(unittest.TestCase):
    def test_a_share_of_what_the_engagement_allows(self) -> None:
        tool, material = LIBRARY.tools["sq-d12-z4"], LIBRARY.materials["42crmo4-qt30"]
        found = {share: starting_values(tool, material, "light_radial", LIBRARY, share=share)
                 for share in ("none", "half", "full")}  # fmt: skip
        speeds = {share: start.vc for share, start in found.items() if start is not None}
        self.assertAlmostEqual(speeds["none"], 92.0)
        self.assertAlmostEqual(speeds["half"] - 92.0, (speeds["full"] - 92.0) / 2)
        self.assertGreater(speeds["full"], 92.0 * 1.3)

    def test_starting_speed_and_life_take_the_same_multiplier(self) -> None:
        tool, material = LIBRARY.tools["sq-d12-z4"], LIBRARY.materials["42crmo4-qt30"]
        for strategy in ("light_radial", "heavy_radial", "full_slot"):
            start = starting_values(tool, material, strategy, LIBRARY)
            assert start is not None and start.vc is not None
            e = result(strategy=strategy, ae_mm=start.ae, ap_mm=5.0, vc_m_min=start.vc, hex_mm=start.hex,
                       stick_out_mm=40.0).economy  # fmt: skip
            assert e is not None
            self.assertAlmostEqual(e.life, 45 * 20 / 21, delta=0.5)

    def test_harder_work_is_cut_slower_and_ends_edges_sooner(self) -> None:
        lives = []
        for hb in (250.0, 290.0, 340.0):
            e = result(job={"workpiece": {"material": "42crmo4-qt30", "hardness_hb": hb}}).economy
            assert e is not None
            lives.append(e.life)
        self.assertEqual(lives, sorted(lives, reverse=True))
        self.assertGreater(lives[0] / lives[2], 2.0)
