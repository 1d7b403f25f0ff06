"""One quantity of a cut changed, the others kept; what holds it, and what readings say of limits that are met by passing them."""

import math
import unittest

from lesna.learning.settings import Settings
from lesna.learning.stepping import (
    STEPPED,
    ceiling_use,
    limits_seen,
    most_of,
    point_of,
    points,
    prices_of,
    stepped,
    value_of,
    with_value,
)
from lesna.model.job import SPEEDS
from tests import support
from tests.learning.edges import reading

RESULT = support.result()
QUANTITIES = ("feed", "depth", "stepover", "speed")


class OneQuantity(unittest.TestCase):
    def test_it_alone_changes(self) -> None:
        for what in QUANTITIES:
            found = stepped(RESULT, what, 0.9)
            assert found is not None
            with self.subTest(what=what):
                for other in QUANTITIES:
                    share = value_of(found, other) / value_of(RESULT, other)
                    self.assertAlmostEqual(share, 0.9 if other == what else 1.0, places=6)

    def test_what_the_tool_cannot_take_is_none(self) -> None:
        self.assertIsNone(stepped(RESULT, "stepover", 11.0))
        self.assertIsNone(stepped(RESULT, "depth", 4.0))
        parts = RESULT.setup.parts
        self.assertEqual(most_of(parts, "stepover"), parts.tool.DC)
        self.assertEqual(most_of(parts, "depth"), min(parts.tool.usable_length, parts.cut.stick_out_mm))
        self.assertEqual(most_of(parts, "feed"), math.inf)

    def test_a_life_that_sets_the_speed_lets_go_of_it(self) -> None:
        own = support.result(life_min_wanted=60.0, vc_m_min=None)
        for what in QUANTITIES:
            cut = with_value(own, what, value_of(own, what)).cut
            self.assertIsNone(cut.life_min_wanted)
            # one speed and one feed are said, as the document asks
            self.assertEqual(sum(getattr(cut, name) is not None for name in SPEEDS if name != "life_min_wanted"), 1)
            self.assertEqual((cut.hex_mm, cut.book, cut.program), (None, None, None))

    def test_fields_and_units(self) -> None:
        for what, told in STEPPED.items():
            self.assertIn(told.field, type(RESULT.setup.parts.cut).model_fields, what)
            self.assertGreater(told.size, 0.0)


class Points(unittest.TestCase):
    def test_removal_goes_with_each_quantity(self) -> None:
        at, here = points(RESULT), point_of(RESULT)
        for what in QUANTITIES:
            with self.subTest(what=what):
                self.assertAlmostEqual(at(what, 0.8).q / here.q, 0.8, places=5)
                self.assertIs(at(what, 0.8), at(what, 0.8))
        self.assertIs(at("feed", 1.0), at("speed", 1.0))

    def test_life_falls_with_speed_and_use_rises_with_feed_and_depth(self) -> None:
        at, here = points(RESULT), point_of(RESULT)
        self.assertLess(at("speed", 1.2).table, here.table)
        self.assertGreater(at("feed", 1.2).used["feed"], here.used["feed"])
        self.assertAlmostEqual(at("depth", 0.5).used["depth"] / here.used["depth"], 0.5, places=6)

    def test_beyond_the_tool_is_over_the_ceiling(self) -> None:
        self.assertEqual(points(RESULT)("stepover", 11.0).hard, math.inf)

    def test_the_ceiling_is_the_greatest_use_of_what_can_be_known(self) -> None:
        use, name = ceiling_use(RESULT)
        known = {limit.rule.name: limit.use for limit in RESULT.limits}
        self.assertAlmostEqual(known[name], use)
        weak, name = ceiling_use(support.result(ae_mm=9.0, ap_mm=12.0, deflection_limit_um=2.0))
        self.assertGreater(weak, 1.0)
        self.assertEqual(name, "Deflection")

    def test_prices(self) -> None:
        batch = {"parts": 10, "machine_rate_per_h": 90.0, "tool_change_min": 0.5}
        priced = prices_of(support.parts(support.job(job={"batch": batch}, tool={"price": 60.0})))
        self.assertEqual((priced.rate, priced.edge, priced.change), (1.5, 60.0, 0.5))
        # without prices time alone counts
        bare = prices_of(support.parts(support.job()))
        self.assertEqual((bare.rate, bare.edge), (1.0, 0.0))
        self.assertGreater(bare.per_volume(10.0, 5.0), bare.per_volume(10.0, 50.0))


class WhatReadingsSay(unittest.TestCase):
    def seen(self, **values: object):  # type: ignore[no-untyped-def]
        taken, left = Settings(support.LIBRARY).take([reading(**values)])
        self.assertEqual(left, [])
        return limits_seen(taken)

    def test_a_calm_even_look_moves_limits_up(self) -> None:
        nothing, calm = limits_seen([]), self.seen(wear_kind="uniform", vb_mm=0.1)
        for name in ("feed", "depth"):
            used = point_of(RESULT).used[name]
            self.assertLess(calm[name].chance(used), nothing[name].chance(used) + 1e-12)

    def test_signs_and_losses_of_their_own_limit(self) -> None:
        calm = self.seen(wear_kind="uniform", vb_mm=0.1)
        used = point_of(RESULT).used
        for name, sign, loss in (
            ("feed", {"wear_kind": "chipping", "wear_zone": "corner"},
             {"wear_kind": "chipping", "wear_zone": "corner", "retired": "worn"}),
            ("depth", {"wear_kind": "notch", "wear_zone": "depth_line"},
             {"sound": "chatter", "wear_kind": "breakage", "retired": "worn"}),
        ):  # fmt: skip
            with self.subTest(limit=name):
                # a limit is told for a little more than was used
                chances = [
                    found[name].chance(1.1 * used[name]) for found in (calm, self.seen(**sign), self.seen(**loss))
                ]
                self.assertEqual(chances, sorted(chances))
                self.assertGreater(chances[2], 3 * chances[0])

    def test_chipping_at_the_depth_line_says_nothing_of_the_feed(self) -> None:
        used = point_of(RESULT).used["feed"]
        at_line = self.seen(wear_kind="chipping", wear_zone="depth_line")
        calm = self.seen(wear_kind="uniform")
        self.assertAlmostEqual(at_line["feed"].chance(1.1 * used), calm["feed"].chance(1.1 * used), places=9)

    def test_no_time_in_the_cut_says_nothing(self) -> None:
        none, nothing = self.seen(minutes=0.0, wear_kind="chipping", wear_zone="corner"), limits_seen([])
        for name in ("feed", "depth"):
            self.assertEqual(none[name].weights.tolist(), nothing[name].weights.tolist())


if __name__ == "__main__":
    unittest.main()
