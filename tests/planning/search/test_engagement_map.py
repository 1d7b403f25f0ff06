"""The map and the best point on it."""

import unittest
from unittest import mock

import numpy as np

from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.cut import limits
from lesna.planning.cut.solve import solve, solve_one
from lesna.planning.cut.windows import window_of
from lesna.planning.search import engagement_map
from lesna.planning.search.engagement_map import best_in_school, map_of
from tests.support import LIBRARY, result, setup


class Map(unittest.TestCase):
    def test_axes_cover_the_tool(self) -> None:
        m = map_of(setup(), 24, 12)
        self.assertEqual(m.q.shape, (12, 24))
        self.assertAlmostEqual(m.ae[-1], 12.0)
        self.assertAlmostEqual(m.ap[-1], 1.25 * 26.0)
        self.assertTrue((np.diff(m.ae) > 0).all() and (np.diff(m.ap) > 0).all())

    def test_life_heat_and_cost_are_those_of_the_cut_at_each_place(self) -> None:
        prices = {
            "job": {"batch": {"parts": 10, "machine_rate_per_h": 90.0, "tool_change_min": 0.5}},
            "tool": {"price": 60.0},
        }
        found = map_of(setup(**prices), 20, 12)
        for row, column in ((0, 1), (6, 3), (11, 19)):
            here = result(**prices, ae_mm=float(found.ae[column]), ap_mm=float(found.ap[row]))
            e, s = here.economy, here.state
            assert e is not None and found.life is not None and found.heat is not None and found.cost is not None
            self.assertAlmostEqual(found.life[row, column] / e.life, 1.0)
            self.assertAlmostEqual(found.heat[row, column], s.vc / (e.m * e.law.vc_ref))
            self.assertAlmostEqual(found.cost[row, column], (1.5 + (1.5 * 0.5 + 60.0) / e.life) / s.q)

    def test_a_strategy_without_a_window_is_searched_once_and_a_lock_counts(self) -> None:
        for changes, looks in (
            ({"strategy": "surface"}, 1),
            ({"strategy": "light_radial"}, 2),
            ({"strategy": "surface", "locks": ["ae_mm"]}, 2),
            ({"strategy": "surface", "locks": ["ap_mm"]}, 2),
        ):
            own = setup(**changes)
            with (
                self.subTest(**changes),
                mock.patch.object(engagement_map, "best_within", wraps=engagement_map.best_within) as searched,
            ):
                found = map_of(own, 12, 8)
                self.assertEqual(searched.call_count, looks)
                self.assertEqual(found.best_in_school, best_in_school(own))
                self.assertEqual(found.best == found.best_in_school, looks == 1)

    def test_with_a_life_wanted_every_place_keeps_it(self) -> None:
        found = map_of(setup(life_min_wanted=60.0, vc_m_min=None), 20, 12)
        assert found.life is not None
        self.assertTrue((found.life > 59.999).all(), "the spindle may end first, never the edge")
        kept = found.uses["spindle_speed"] < 1.0
        np.testing.assert_allclose(found.life[kept], 60.0, rtol=1e-9)
        # a thinner pass may run faster for the same life, so it wins more than its chip alone gives
        typed = map_of(setup(), 20, 12)
        thin, wide = found.q / typed.q, found.ae / 12.0
        self.assertGreater(thin[5, int(np.argmin(abs(wide - 0.05)))], thin[5, int(np.argmin(abs(wide - 0.5)))])

    def test_the_best_depth_divides_its_feature(self) -> None:
        pocket = {"kind": "pocket", "length_mm": 100.0, "width_mm": 60.0, "depth_mm": 23.0}
        for stock, depth in ((0.0, 23.0), (0.4, 22.6)):
            found = map_of(setup(feature={**pocket, "stock_floor_mm": stock}, hex_mm=0.03), 24, 12)
            for best in (found.best, found.best_in_school):
                assert best is not None
                self.assertLessEqual(best.ap, depth * (1 + 1e-9))
                self.assertAlmostEqual(depth / best.ap, round(depth / best.ap))
            over = found.ap > depth * 1.001
            self.assertTrue(over.any() and not found.inside[over].any())

    def test_what_does_not_depend_on_the_stepover_is_eased_in_depth(self) -> None:
        # bending of the taper hardly knows the stepover of this rougher
        heavy = setup(job={"machine": "vmc30-10k"}, tool={"DC": 16.0, "DMM": 16.0, "APMX": 32.0, "LU": 34.0}, stick_out_mm=70.0,
                      ae_mm=16.0, strategy="full_slot", hex_mm=0.08)  # fmt: skip
        found = map_of(heavy)
        self.assertTrue(found.inside.any())
        self.assertIsNotNone(found.best)

    def test_rows_reach_what_a_lead_angle_tool_can_do(self) -> None:
        tool = {"kind": "high_feed", "KAPR": 15.0, "APMX": 0.8, "LU": 40.0}
        found = map_of(setup(tool=tool, ap_mm=0.5, ae_mm=6.0, strategy="high_feed"), 24, 20)
        self.assertLess(found.ap[0], 0.1)

    def test_stick_out_limits_the_depth_drawn(self) -> None:
        self.assertAlmostEqual(map_of(setup(stick_out_mm=30.0), 4, 4).ap[-1], 30.0)

    def test_inside_is_where_no_limit_is_broken(self) -> None:
        m = map_of(setup(), 40, 40)
        worst = np.maximum.reduce([use for key, use in m.uses.items() if not limits.BY_ID[key].is_capped])
        np.testing.assert_array_equal(m.inside, worst <= 1 + 1e-9)
        self.assertTrue(m.inside.any() and not m.inside.all())

    def test_the_cut_itself_does_not_move_the_map(self) -> None:
        a, b = map_of(setup(), 8, 8), map_of(setup(ae_mm=5.0, ap_mm=3.0), 8, 8)
        np.testing.assert_array_equal(a.q, b.q)


class Best(unittest.TestCase):
    SETUPS = ({}, {"job": {"machine": "vmc30-10k"}}, {"hex_mm": 0.03, "strategy": "heavy_radial"},
              {"tool": {"kind": "corner_radius", "RE": 1.0, "ZEFP": 5}}, {"vc_m_min": 500.0})  # fmt: skip

    def test_best_matches_a_dense_search_and_breaks_nothing(self) -> None:
        for changes in self.SETUPS:
            s = setup(**changes)
            best = map_of(s, 8, 8).best
            assert best is not None
            state = solve(s, np.linspace(0.1, 12, 300), np.linspace(0.1, 36, 300))
            dense = float(state.q[limits.admissible(limits.uses_over(s, state, estimated_depth(s, state.ae)))].max())
            with self.subTest(changes=changes):
                self.assertGreater(best.q, 0.99 * dense)
                at, _ = solve_one(s, best.ae, best.ap)
                self.assertFalse(any(entry.is_broken for entry in limits.limits_of(s, at)))
                self.assertLessEqual(at.ap, float(estimated_depth(s, at.ae)))
                self.assertAlmostEqual(at.q, best.q)

    def test_the_same_answer_every_time(self) -> None:
        self.assertEqual(map_of(setup(), 8, 8).best, map_of(setup(), 8, 8).best)

    def test_the_school_keeps_to_its_window(self) -> None:
        m = map_of(setup(), 8, 8)
        window, best = m.window, m.best_in_school
        assert window is not None and best is not None
        self.assertLessEqual(best.ae, window.ae_max + 1e-9)
        self.assertLessEqual(best.ap, window.ap_max + 1e-9)
        self.assertGreaterEqual(best.ae, window.ae_min - 1e-9)

    def test_locks_hold(self) -> None:
        best = map_of(setup(locks=["ae_mm"]), 8, 8).best_in_school
        assert best is not None
        self.assertEqual(best.ae, 1.2)
        best = map_of(setup(locks=["ap_mm"]), 8, 8).best_in_school
        assert best is not None
        self.assertEqual(best.ap, 12.0)

    def test_none_where_everything_is_over(self) -> None:
        m = map_of(setup(hex_mm=0.5), 8, 8)
        self.assertIsNone(m.best)
        self.assertFalse(m.inside.any())


class Windows(unittest.TestCase):
    def test_windows_come_from_the_table_and_stop_at_the_flutes(self) -> None:
        tool = LIBRARY.tools["sq-d10-z4"]
        data = LIBRARY.cutting_data[("p-tool-prehard", "carbide-coated-altin")]
        light = window_of("light_radial", data, tool)
        assert light is not None
        self.assertAlmostEqual(light.ae_max, 1.2)
        self.assertEqual(light.ap_max, tool.APMX)
        slot = window_of("full_slot", data, tool)
        assert slot is not None
        self.assertEqual((slot.ae_min, slot.ae_max), (10.0, 10.0))
        self.assertIsNone(window_of("surface", data, tool))
        self.assertIsNone(window_of("light_radial", None, tool))
