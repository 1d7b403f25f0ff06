"""Ladders of test cuts, the one change that is advised, and the rules behind it."""

import unittest
from unittest import mock

import numpy as np

from lesna.learning.coach import Advice, coach, with_change
from lesna.learning.fit import fit_of
from lesna.learning.ladder import plan_ladder
from lesna.learning.next_step import Limit, Point, Prices, Quantity, next_step
from lesna.learning.rules import shipped_rules
from lesna.learning.settings import Settings
from lesna.learning.told import advice_lines, change_words, ladder_data, ladder_lines
from lesna.model.errors import InputError
from lesna.model.trials import Reading
from lesna.planning.chatter.stability import Advice as SpeedAdvice
from tests import support
from tests.learning.edges import learned, reading

SETTINGS = Settings(support.LIBRARY)
RESULT = support.result()
PARTS = support.parts(support.job())


def advised(*readings: Reading, on_scrap: bool = True, **changes: object) -> Advice:
    result = support.result(**changes) if changes else RESULT
    fit = fit_of(result.setup.parts, readings, SETTINGS)
    return coach(result, fit, shipped_rules(), on_scrap=on_scrap)


class Ladders(unittest.TestCase):
    def test_steps_rise_to_the_ceiling_and_end_there(self) -> None:
        fit = fit_of(PARTS, (), SETTINGS)
        for what in ("feed", "speed", "stepover"):
            found = plan_ladder(RESULT, fit, what, steps=20, size=0.2)
            values = [rung.value for rung in found.rungs]
            self.assertEqual(values, sorted(values))
            self.assertAlmostEqual(values[1] / values[0], 1.2, places=6)
            self.assertLessEqual(values[-1], found.ceiling * (1 + 1e-9))
            hard = ("spindle_power", "spindle_torque", "machine_feed", "deflection", "tool_stress")
            uses = [limit.use for rung in found.rungs for limit in rung.result.limits if limit.rule.id in hard]
            self.assertLessEqual(max(uses), 1.0 + 1e-6)
            self.assertGreater(found.minutes, 0)
            self.assertIn(found.held_by.lower(), " ".join(ladder_lines(found, "metric")))
            self.assertEqual(len(ladder_data(found)["steps"]), len(found.rungs))

    def test_looks_are_early_and_earlier_on_a_real_part(self) -> None:
        fit = fit_of(PARTS, (), SETTINGS)
        scrap, real = plan_ladder(RESULT, fit), plan_ladder(RESULT, fit, on_scrap=False)
        for rung in scrap.rungs:
            self.assertTrue(4 <= rung.minutes <= 15)
        self.assertLess(real.rungs[-1].minutes, scrap.rungs[-1].minutes + 1e-9)
        self.assertEqual({rung.minutes for rung in plan_ladder(RESULT, fit, minutes=9.0).rungs}, {9.0})

    def test_what_a_program_holds_is_the_ceiling(self) -> None:
        from dataclasses import replace

        from lesna.planning.cut.economy import Timing
        from lesna.planning.evaluate import with_timing

        held = float(RESULT.state.vf) * 1.15
        timed = with_timing(RESULT, Timing("program", 3.0, 1.0, held))
        found = plan_ladder(timed, fit_of(PARTS, (), SETTINGS), steps=8)
        self.assertEqual(found.held_by, "feed that this geometry can hold")
        self.assertAlmostEqual(found.ceiling / float(RESULT.state.fz), 1.15, delta=0.01)
        self.assertEqual(found.rungs[-1].held_by, found.held_by)
        self.assertIsNone(replace(timed.timing, held=None).held)  # type: ignore[type-var]

    def test_bad_plans_name_the_field(self) -> None:
        fit = fit_of(PARTS, (), SETTINGS)
        for values, field in (({"steps": 1}, "steps"), ({"size": 3.0}, "size"), ({"minutes": -1.0}, "minutes")):
            with self.assertRaises(InputError) as caught:
                plan_ladder(RESULT, fit, **values)  # type: ignore[arg-type]
            self.assertEqual(caught.exception.field, field)


class Coaching(unittest.TestCase):
    def test_the_measured_chart_names_the_better_speed(self) -> None:
        modes = (
            {"axis": "x", "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03},
            {"axis": "y", "f_hz": 950.0, "k_n_um": 20.0, "zeta": 0.03},
        )
        with mock.patch("lesna.learning.coach.advice_of", return_value=SpeedAdvice(3600.0, 15.0)):
            found = advised(reading(sound="chatter", vb_mm=0.08), tap_modes=modes)
        self.assertEqual(found.change.what, "vc_m_min")
        self.assertIn("3600 rpm", found.why)
        self.assertAlmostEqual(found.change.after / found.change.before, 3600.0 / float(RESULT.state.n), places=3)  # type: ignore[operator]

    def test_no_look_asks_for_one(self) -> None:
        found = advised()
        self.assertEqual((found.change.what, found.reading), ("none", ""))
        self.assertTrue(4 <= found.after_min <= 15)

    def test_even_wear_steps_up_within_the_risk(self) -> None:
        found = advised(reading(vb_mm=0.09, wear_zone="corner"))
        self.assertIn(found.change.what, ("fz_mm", "ap_mm", "ae_mm"))
        assert isinstance(found.change.before, float) and isinstance(found.change.after, float)
        self.assertTrue(1.05 <= found.change.after / found.change.before <= 1.5 + 1e-9)
        self.assertIn("+", change_words(found))
        self.assertEqual(with_change(PARTS, found.change)[found.change.what], found.change.after)

    def test_each_sign_has_its_answer(self) -> None:
        for values, what, way in (
            ({"wear_kind": "chipping", "wear_zone": "corner", "vb_mm": 0.06, "minutes": 6.0}, "fz_mm", -1),
            ({"wear_kind": "chipping", "wear_zone": "depth_line", "vb_mm": 0.1}, "ap_mm", -1),
            ({"wear_kind": "notch", "vb_mm": 0.2}, "ap_mm", -1),
            ({"wear_kind": "built_up", "vb_mm": 0.05}, "vc_m_min", 1),
            ({"wear_kind": "deformation", "vb_mm": 0.2}, "vc_m_min", -1),
            ({"wear_kind": "thermal_cracks", "vb_mm": 0.1}, "vc_m_min", -1),
            ({"sound": "chatter", "vb_mm": 0.08}, "ap_mm", -1),
            ({"wear_kind": "breakage", "minutes": 3.0}, "fz_mm", -1),
            ({"vb_mm": 0.3, "minutes": 5.0, "retired": "worn", "chip_colour": "blue"}, "vc_m_min", -1),
            ({"vb_mm": 0.1, "note": "tool pulled out 2 mm"}, "holder", 0),
        ):  # fmt: skip
            with self.subTest(**values):
                found = advised(reading(**values))
                self.assertEqual(found.change.what, what)
                self.assertTrue(found.why and found.look_for and found.source)
                if way:
                    assert isinstance(found.change.before, float) and isinstance(found.change.after, float)
                    self.assertGreater(way * (found.change.after - found.change.before), 0)

    def test_cracks_in_a_wet_cut_ask_for_air(self) -> None:
        found = advised(reading(coolant="flood", wear_kind="thermal_cracks", vb_mm=0.1), coolant="flood")
        self.assertEqual((found.change.what, found.change.before, found.change.after), ("coolant", "flood", "air"))

    def test_a_chip_thinner_than_the_edge_asks_for_more_feed(self) -> None:
        thin = support.result(hex_mm=None, fz_mm=0.004)
        vf = float(thin.state.vf)
        found = advised(reading(vf_mm_min=vf, wear_kind="rubbing", vb_mm=0.15), hex_mm=None, fz_mm=0.004)
        self.assertEqual(found.change.what, "fz_mm")
        self.assertGreater(found.change.after, found.change.before)  # type: ignore[operator]

    def test_edges_of_one_step_that_disagree_are_shown(self) -> None:
        found = advised(
            reading(step=2, vb_mm=0.09),
            reading(edge="E2", step=2, wear_kind="chipping", wear_zone="corner", vb_mm=0.07),
        )
        self.assertTrue(found.conflicts)
        self.assertIn("conflict", " ".join(advice_lines(found)))

    def test_it_stops_where_nothing_is_left_to_win(self) -> None:
        locks = ("fz_mm", "ap_mm", "ae_mm", "vc_m_min")
        found = advised(reading(vb_mm=0.09), locks=locks)
        self.assertEqual(found.change.what, "stop")
        self.assertEqual(with_change(PARTS, found.change), {})

    def test_the_rules_are_data_with_sources(self) -> None:
        rules = shipped_rules()
        self.assertGreaterEqual(len(rules), 15)
        self.assertEqual(len({rule.id for rule in rules}), len(rules))
        for rule in rules:
            self.assertRegex(rule.source, r"\d{4}")


class NextStep(unittest.TestCase):
    """The rule in a small world of its own: removal grows with feed and depth, life falls with feed and speed."""

    PRICES = Prices(1.0, 20.0, 1.0)

    def at(self, setting: dict[str, float], hard: float = 2.0):  # type: ignore[no-untyped-def]
        def point(what: Quantity, factor: float) -> Point:
            now = {**setting, what: setting[what] * factor}
            x = np.array([1.0, np.log(now["speed"]), np.log(now["feed"])])
            used = {"feed": now["feed"], "depth": now["depth"]}
            return Point(
                now["feed"] * now["depth"] * now["speed"],
                45 * np.exp(-4 * x[1] - 1.1 * x[2]),
                x,
                used,
                max(now.values()) / hard,
            )

        return point

    def test_the_risk_bounds_the_step_and_a_dear_tool_steps_less(self) -> None:
        limits = {"feed": Limit([(0.6, "ok")]), "depth": Limit([(0.6, "ok")])}
        at = self.at({"feed": 0.6, "depth": 0.6, "speed": 0.8})
        usual, dear = (
            next_step(learned(), limits, at, self.PRICES, risk, among=("feed", "depth")) for risk in (0.10, 0.03)
        )
        self.assertGreater(usual.factor, dear.factor)
        self.assertLessEqual(usual.chance, 0.10 + 1e-6)
        self.assertLessEqual(dear.chance, 0.03 + 1e-6)

    def test_a_sign_holds_its_own_quantity_and_not_the_other(self) -> None:
        limits = {"feed": Limit([(0.7, "ok"), (0.8, "sign")]), "depth": Limit([(0.6, "ok")])}
        found = next_step(
            learned(),
            limits,
            self.at({"feed": 0.8, "depth": 0.6, "speed": 0.8}),
            self.PRICES,
            0.10,
            among=("feed", "depth"),
        )
        self.assertEqual(found.what, "depth")

    def test_the_ceiling_is_named(self) -> None:
        limits = {"feed": Limit(), "depth": Limit()}
        at = self.at({"feed": 0.5, "depth": 0.5, "speed": 0.5}, hard=0.5)
        found = next_step(learned(), limits, at, self.PRICES, 0.10, among=("feed", "depth"))
        self.assertEqual((found.what, found.why_none), ("", "ceiling"))


if __name__ == "__main__":
    unittest.main()
