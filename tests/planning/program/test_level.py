"""Levelled feeds: within the target when simulated again, never beyond a limit, the same motions, the same bytes but for feeds."""

import math
import re
import unittest
from dataclasses import replace
from functools import lru_cache

import numpy as np

from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.nc.read import read_program
from lesna.planning.program.level import Leveller, Targets
from lesna.planning.program.run import geometry_of, run_of
from lesna.planning.program.stock import stock_for, stock_of_feature
from lesna.planning.program.summary import summary_of
from lesna.planning.program.told import broken_limits
from lesna.planning.program.work import Look, Work
from tests.planning.program.test_run import PARTS, work
from tests.planning.program.test_run import run as straight
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


def leveled(text: str, doing=None, **values):  # type: ignore[no-untyped-def]
    """A program and its levelled form."""
    run = straight(text, doing)
    return run, Leveller(run).level(Targets(note=False, **values))


def weak_spindle(power: float) -> Work:
    """The plain cut on a spindle of so many kW."""
    whole = work()
    machine = whole.parts.machine.model_copy(update={
        "curve": None, "power_s1_kw": power, "torque_s1_max_nm": 60.0, "power_s6_40_kw": None, "torque_s6_40_max_nm": None,
        "base_speed_rpm": 1000.0,
    })  # fmt: skip
    return replace(whole, parts=replace(whole.parts, machine=machine))


class Safe(unittest.TestCase):
    SLOT = "Z-12.\nG1 X60. F900.\nG0 Z5.\n"

    def test_feeds_are_brought_down_to_what_a_weak_spindle_holds(self) -> None:
        weak = weak_spindle(5.0)
        for aim in ("ease", "even", "push"):
            with self.subTest(aim=aim):
                run, made = leveled(self.SLOT, weak, aim=aim)
                before, after = summary_of(run), summary_of(made.run)
                self.assertGreater(before.uses["spindle_power"], 1.3)
                self.assertLess(after.uses["spindle_power"], 1.006)
                self.assertIn("spindle power at", "; ".join(broken_limits(before)))
                self.assertEqual([told for told in broken_limits(after) if "spindle power" in told], [])

    def test_a_limit_that_no_feed_can_keep_is_named(self) -> None:
        weak = weak_spindle(0.05)
        _, made = leveled(self.SLOT, weak)
        self.assertGreater(len(made.unreachable), 0)
        self.assertRegex("; ".join(broken_limits(summary_of(made.run))), r"spindle power at \d+%, line \d")

    def test_a_ramp_keeps_its_feed_or_less(self) -> None:
        run_out = 6 / math.tan(math.radians(14))
        text = f"G0 X-20. Y0.\nZ0.\nG1 X{-20 + run_out:.3f} Z-6. F350.\nG1 X60. F700.\nG0 Z5.\n"
        for aim in ("ease", "even", "push"):
            with self.subTest(aim=aim):
                run, made = leveled(text, aim=aim)
                moves = made.run.geometry.program.moves
                down = moves.is_feed & (moves.end[:, 2] < moves.start[:, 2] - 1e-9)
                self.assertLessEqual(float(moves.feed[down].max()), 350.0)
                level = float(made.run.feed[made.run.geometry.contact].max())
                self.assertLessEqual(float(moves.feed[down].max()), 0.51 * level + 1)

    def test_moves_at_a_zero_whose_stock_is_unknown_stay(self) -> None:
        text = self.SLOT + "G55 X-60. Y0.\nZ5.\nG1 Z-12. F300.\nX60. F900.\n"
        run, made = leveled(text)
        self.assertIn("G55: the stock at this zero is not known", " ".join(run.geometry.remarks))
        self.assertIn("G1 Z-12. F300.\nX60. F900.\n", made.content.decode())
        both = straight(
            text,
            replace(work(), stock=stock_for("block:-40,-30,-30,40,30,0;G55=block:-40,-30,-30,40,30,0", PARTS, None)),
        )
        self.assertEqual(both.geometry.remarks, ())
        engaged = both.geometry.engagement.volume[both.geometry.judged]
        self.assertAlmostEqual(
            float(engaged[: len(engaged) // 2].sum()), float(engaged[len(engaged) // 2 :].sum()), delta=900.0
        )

    def test_the_push_of_a_way_down_is_judged(self) -> None:
        whole = work()
        machine = whole.parts.machine.model_copy(update={"axis_thrust_max_n": 1500.0})
        down = "G0 X-20. Y0.\nZ0.5\nG1 Z-6. F{feed}\nG1 X60. F300.\n"
        doing = replace(whole, parts=replace(whole.parts, machine=machine))
        uses = [summary_of(straight(down.format(feed=feed), doing)).uses["axis_thrust"] for feed in (200, 400)]
        # a drill of the diameter: half of kc R f, and kc falls with the chip
        self.assertGreater(uses[0], 0.3)
        self.assertAlmostEqual(uses[1] / uses[0], 2 ** (1 - (whole.parts.material.mc or 0.25)), delta=0.15)

    def test_a_milder_program_wears_less(self) -> None:
        passes = "".join(f"G0 X-60. Y{y}\nZ-6.\nG1 X60. F900.\nG0 Z5.\n" for y in (-34.0, -31.0, -28.0))
        run, made = leveled(passes, aim="ease", peak=0.8 * float(straight(passes).state.fxy_peak.max()))
        before, after = summary_of(run).edges, summary_of(made.run).edges
        self.assertLess(after, 1.15 * before)

    def test_lines_of_a_subprogram_are_levelled_where_all_calls_agree(self) -> None:
        sub = "M30\nO7\nG91\nG1 X120. F900.\nG0 Z11.\nX-120. Y3.\nZ-11.\nG90\nM99\n"
        same = "G0 X-60. Y-33.\nZ-6.\nM98 P7 L3\nG0 Z5.\n"
        run, made = leveled(same + sub, aim="push", ceiling=1.6)
        self.assertEqual(made.content.decode().count("M98 P7 L3"), 1)
        self.assertLessEqual(float(made.run.state.fxy_peak.max()), 1.006 * float(run.state.fxy_peak.max()))


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
