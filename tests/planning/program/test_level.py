"""Levelled feeds: within the target when simulated again, never beyond a limit, the same motions, the same bytes but for feeds."""

import re
import unittest
from functools import lru_cache

import numpy as np

from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.nc.read import read_program
from lesna.planning.program.level import Leveller, Targets
from lesna.planning.program.run import geometry_of, run_of
from lesna.planning.program.stock import stock_of_feature
from lesna.planning.program.work import Look, Work
from tests.support import DEMOS, LIBRARY

FOLDER = DEMOS[0].parent


@lru_cache(maxsize=1)
def before():  # type: ignore[no-untyped-def]
    held = load_job(FOLDER / "gauge-panel.lesna")
    parts = parts_of(held, held.cut_named("Window rough"), LIBRARY)
    content = (FOLDER / "gauge-panel-window.nc").read_bytes()
    return run_of(geometry_of(read_program(content), Work(parts, stock_of_feature(parts), Look(step=0.8))))


@lru_cache(maxsize=8)
def levelled(aim: str, **values):  # type: ignore[no-untyped-def]
    return Leveller(before()).level(Targets(aim=aim, **values))


class Aims(unittest.TestCase):
    def test_each_keeps_to_its_force(self) -> None:
        whole = before().end_time[-1]
        peak = before().state.fxy_peak[before().geometry.contact].max()
        found = {aim: levelled(aim) for aim in ("ease", "even", "push")}
        for aim, made in found.items():
            after = made.run.state.fxy_peak[made.run.geometry.contact].max()
            with self.subTest(aim=aim):
                self.assertLessEqual(after, 1.0051 * made.force)
                self.assertLessEqual(after, 1.001 * peak)
        self.assertLess(found["ease"].force, found["even"].force)
        self.assertLess(found["even"].force, found["push"].force)
        self.assertLess(found["ease"].run.end_time[-1], 1.005 * whole)
        self.assertLess(found["push"].run.end_time[-1], 0.85 * whole)

    def test_a_force_of_ones_own(self) -> None:
        made = levelled("push", peak=330.0)
        self.assertLessEqual(made.run.state.fxy_peak[made.run.geometry.contact].max(), 1.0051 * 330)
        with self.assertRaisesRegex(InputError, "peak: must be at least .* line [0-9]+"):
            Leveller(before()).level(Targets(peak=20.0))

    def test_power_deflection_and_ceiling_are_kept_as_well(self) -> None:
        made = levelled("push", power=2.0, deflection=40.0, ceiling=1.3)
        contact = made.run.geometry.contact
        self.assertLessEqual(made.run.state.power_cut[contact].max(), 2.0 * 1.0051)
        self.assertLessEqual(made.run.state.deflection[contact].max(), 40.0 * 1.0051)
        given = before().geometry.program.moves.feed
        self.assertLessEqual(np.nanmax(made.run.geometry.program.moves.feed), 1.3 * np.nanmax(given) * 1.001)

    def test_no_limit_is_exceeded_that_was_not_before(self) -> None:
        made = levelled("push")
        for key, use in made.run.uses.items():
            with self.subTest(limit=key):
                self.assertLessEqual(use.max(), max(1.006, before().uses[key].max() * 1.006))


class Alone(unittest.TestCase):
    def test_a_program_that_only_goes_down_has_nothing_to_level(self) -> None:
        work = before().geometry.work
        program = read_program(b"S9000 M3\nG0 X0 Y0 Z5\nG1 Z-3 F90\nG0 Z5\n")
        with self.assertRaisesRegex(InputError, "line 3: nothing is cut along the path"):
            Leveller(run_of(geometry_of(program, work))).level(Targets())


class Written(unittest.TestCase):
    def test_only_feeds_and_parted_blocks_differ(self) -> None:
        original = before().geometry.program
        made = levelled("push")
        text = made.content.decode("ascii")
        self.assertIn("AIM PUSH", text)
        kept = [line for line in original.lines if not re.search("[xyz]", line)]
        for line in kept:
            if not line.startswith("f"):
                self.assertIn(line, text)
        again = read_program(made.content).moves
        self.assertAlmostEqual(float(again.length.sum()), float(original.moves.length.sum()), places=2)

    def test_one_feed_a_block_parts_none(self) -> None:
        made = levelled("push", by_block=True, note=False)
        self.assertEqual(len(read_program(made.content).moves), len(before().geometry.program.moves))
        lines = made.content.decode("ascii").splitlines()
        self.assertEqual([re.sub("f[0-9.]+", "", line) for line in lines],
                         [re.sub("f[0-9.]+", "", line.rstrip("\n")) for line in before().geometry.program.lines])  # fmt: skip

    def test_entry_is_slower(self) -> None:
        slow, plain = levelled("push", entry=0.5), levelled("push")
        self.assertGreater(slow.run.end_time[-1], plain.run.end_time[-1])


class Settings(unittest.TestCase):
    def test_what_means_nothing_is_refused(self) -> None:
        for key, value in (("ceiling", 0.5), ("least", 2.0), ("entry", 0.0), ("block_time", 9.0), ("peak", -1.0),
                           ("power", float("nan")), ("chip", (0.2, 0.1))):  # fmt: skip
            with self.subTest(key=key), self.assertRaises(InputError) as told:
                Targets(**{key: value})
            self.assertEqual(told.exception.field, key)
