"""What was proven: kept with its proof, found by likeness, adopted with its conversions; a batch with its spread."""

import unittest
from dataclasses import replace

from lesna.learning.batch import batch_spread
from lesna.learning.fit import fit_of
from lesna.learning.recipes import adopted, is_proven, like_this, recipe_of
from lesna.learning.settings import Settings
from lesna.learning.told_batch import like_lines, spread_data, spread_lines
from lesna.model.job import Job
from lesna.model.lesson import Lesson
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of, with_timing
from lesna.planning.quote import quote_of
from tests import support
from tests.learning.edges import reading

SETTINGS = Settings(support.LIBRARY)
RESULT = support.result()


def recipe(result=RESULT, *readings):  # type: ignore[no-untyped-def]
    return recipe_of(result, fit_of(result.setup.parts, readings, SETTINGS))


class Recipes(unittest.TestCase):
    def test_only_what_ran_like_this_proves_it(self) -> None:
        self.assertFalse(is_proven(recipe()))
        other = reading(edge="E2", vf_mm_min=2 * float(RESULT.state.vf))
        found = recipe(RESULT, reading(minutes=20.0, vb_mm=0.1), reading(minutes=40.0, vb_mm=0.2), other)
        self.assertTrue(is_proven(found))
        self.assertEqual((found["evidence"]["edges"], found["evidence"]["minutes"]), (1, 40.0))
        self.assertAlmostEqual(found["evidence"]["cm3_per_edge"], 40.0 * float(RESULT.state.q))

    def test_the_nearest_is_the_same_and_every_difference_is_listed(self) -> None:
        mine = recipe()
        small = recipe(support.result(tool={"DC": 8.0}, ae_mm=0.8, ap_mm=8.0))
        steel = {**mine, "setup": {**mine["setup"], "material": "ti-6al-4v-a"}}
        strange = {**mine, "setup": {**mine["setup"], "material": "nobody-knows"}}
        found = like_this(
            RESULT, [("strange", strange), ("steel", steel), ("small", small), ("mine", mine)], support.LIBRARY
        )
        self.assertEqual([one.name for one in found], ["mine", "small", "steel", "strange"])
        self.assertEqual((found[0].distance, found[0].differences), (0.0, ()))
        self.assertIn(("diameter", "12 mm", "8 mm"), found[1].differences)
        self.assertIn("not proven by any edge", "\n".join(like_lines(found)))
        gone = like_this(
            RESULT, [("gone", {**mine, "setup": {**mine["setup"], "tool_id": "sold-last-year"}})], support.LIBRARY
        )
        self.assertEqual(gone[0].distance, 0.0)
        self.assertIn("its tool: sold-last-year, which is not in the library any more", "\n".join(like_lines(gone)))

    def test_what_is_adopted_keeps_shares_speed_and_chip(self) -> None:
        there = support.result(tool={"DC": 8.0, "ZEFP": 3}, ae_mm=0.8, ap_mm=8.0, stick_out_mm=28.0)
        values, told = adopted(RESULT, recipe(there))
        self.assertAlmostEqual(values["ae_mm"], 1.2)
        self.assertAlmostEqual(values["ap_mm"], 12.0)
        here = result_of(setup_of(RESULT.setup.parts.with_cut(**values)))
        self.assertAlmostEqual(float(here.state.vc), float(there.state.vc), delta=0.2)
        self.assertAlmostEqual(float(here.state.hex), float(there.state.hex), places=4)
        self.assertIn("teeth", " ".join(one.how for one in told))
        longer = support.result(stick_out_mm=60.0)
        shallow, told = adopted(longer, recipe(there))
        self.assertLess(shallow["ap_mm"], 8.0)
        self.assertIn("stiffness", " ".join(one.how for one in told))


TIMED = with_timing(RESULT, Timing("path", 6.0, 2.0))


def spread_of(results, **batch):  # type: ignore[no-untyped-def]
    job = Job.read({**support.raw(), "batch": {"parts": 200, "machine_rate_per_h": 90.0, **batch}})
    return batch_spread(quote_of(job, results), results)


class Batches(unittest.TestCase):
    def test_the_spread_narrows_with_what_is_known_and_holds_the_plain_figure(self) -> None:
        plain = spread_of([TIMED])
        assert TIMED.economy is not None and TIMED.economy.time_per_part is not None
        self.assertTrue(plain.minutes[1] < TIMED.economy.time_per_part < plain.minutes[2])
        self.assertFalse(plain.is_own)
        known = Lesson(edges=12, own_share=1.0, scatter=0.3, spread=0.08)
        taught = with_timing(result_of(setup_of(replace(RESULT.setup.parts, lesson=known))), Timing("path", 6.0, 2.0))
        narrow = spread_of([taught])
        self.assertTrue(narrow.is_own)
        self.assertLess(narrow.minutes[2] - narrow.minutes[1], 0.5 * (plain.minutes[2] - plain.minutes[1]))
        self.assertEqual(spread_data(narrow)["from"], "bank")
        self.assertIn("from 12 edges", "\n".join(spread_lines(narrow)))

    def test_setting_up_is_shared_and_what_is_not_known_is_named(self) -> None:
        plain, with_setup = (spread_of([TIMED], parts=10, setup_min=minutes).minutes[0] for minutes in (0.0, 50.0))
        self.assertAlmostEqual(with_setup - plain, 5.0, places=2)
        untimed = support.result(feature=None)
        self.assertEqual(spread_of([untimed]).unknown, (untimed.name,))


if __name__ == "__main__":
    unittest.main()
