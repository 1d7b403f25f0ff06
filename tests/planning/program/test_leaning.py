"""Programs of five axes through the stock: forces of the single cut, what should not be touched, time by the axes, levelled feeds."""

import re
import unittest
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import ezdxf
import numpy as np

from lesna.model.errors import InputError
from lesna.nc.program import TiltedMoves
from lesna.planning.evaluate import evaluate
from lesna.planning.program.level import Leveller, Targets
from lesna.planning.program.run import rubs
from lesna.planning.program.simulate import simulate
from lesna.planning.program.stock import stock_for
from lesna.planning.program.summary import summary_of
from lesna.planning.program.told import broken_rules, program_lines, turning_lines
from lesna.planning.program.work import Look
from tests.nc.tilted import NOT_FOLLOWED
from tests.planning.program.leaning_job import (
    BALL,
    BLOCK,
    HEAD,
    TAIL,
    geometry_of,
    line,
    parts,
    passes,
    plain,
    run,
    runner,
)
from tests.support import LIBRARY, job

SQUARE = {"kind": "square", "DC": 10.0, "ZEFP": 4, "APMX": 15.0, "LU": 35.0, "centre_cutting": False}


def pocket(axes: str) -> str:
    """A slot and a side pass in blocks, the same for both engines but for words of axes that stand still."""
    return (f"G21 G90 G94\nT1 M6\nS4000 M3\nG0 X-40. Y0. Z20.{axes}\nG0 Z-4.\nG1 X40. F800.\nG0 Z20.\nG0 X-40. Y6.\n"
            "G0 Z-4.\nG1 X40. F800.\n"
            "G0 Z20.\nM30\n")  # fmt: skip


class AgainstThreeAxes(unittest.TestCase):
    def test_both_engines_tell_the_same_of_one_program(self) -> None:
        own = parts(tool={**SQUARE, "centre_cutting": True})
        upright, leaning = run(pocket(""), own, cell=0.2), run(pocket(" A0. C0."), own, cell=0.4)
        a, b = summary_of(upright), summary_of(leaning)
        self.assertIsNone(a.turning)
        self.assertIsNotNone(b.turning)
        for figure, off in (
            ("time", 0.01),
            ("removed", 0.01),
            ("fxy_p95", 0.03),
            ("torque_peak", 0.03),
            ("power_peak", 0.03),
        ):
            with self.subTest(figure=figure):
                self.assertAlmostEqual(getattr(b, figure) / getattr(a, figure), 1.0, delta=off)
        self.assertAlmostEqual(a.uses["tool_stress"] / b.uses["tool_stress"], 1.0, delta=0.08)

    def test_limits_are_those_of_the_cut(self) -> None:
        own = parts(tool={**SQUARE, "centre_cutting": True})
        found = run(pocket(" A0. C0."), own, cell=0.4)
        alone = evaluate(
            job(job={"machine": "hsk63-5x-18k"}, tool={**BALL, **SQUARE, "centre_cutting": True}, ae_mm=10.0, ap_mm=4.0, vc_m_min=None,
                n_rpm=4000.0, hex_mm=None, fz_mm=0.05, stick_out_mm=44.0), 0, LIBRARY,
        )  # fmt: skip
        g = geometry_of(found)
        steady = g.contact & (np.abs(g.steps.end[:, 0]) < 12) & (g.steps.end[:, 1] < 1)
        for use in alone.limits:
            if use.rule.id in ("spindle_power", "spindle_torque", "tool_stress", "deflection", "grip", "chip_space"):
                with self.subTest(limit=use.rule.id):
                    self.assertAlmostEqual(float(np.median(found.uses[use.rule.id][steady])) / use.use, 1.0, delta=0.06)


class Seen(unittest.TestCase):
    def test_the_runner_of_the_lock_works(self) -> None:
        found = runner()
        s, g = summary_of(found), geometry_of(found)
        assert s.turning is not None
        self.assertAlmostEqual(s.removed, 15.2, delta=0.3)
        self.assertAlmostEqual(s.flux, 1.0, delta=0.06)
        self.assertEqual([axis.letter for axis in s.turning.axes], ["A", "C"])
        self.assertLess(s.turning.axes[0].high, 0.0)
        self.assertEqual([f.kind for f in s.findings], [])
        self.assertEqual(broken_rules(s), [])
        # half of what is cut lies under material that stays: the tool comes from the side
        self.assertLess(float(g.steps.axis_end[:, 2].min()), -0.1)

    def test_the_same_force_in_both_frames(self) -> None:
        found = plain()
        g = geometry_of(found)
        rows = np.flatnonzero(g.contact)
        loads = g.forces_at(g.table_of((1.0, 1.0)), found.fz)
        pushed = np.linalg.norm(found.push[rows], axis=1)
        own = np.linalg.norm(loads.at_peak[rows], axis=1) * np.asarray(found.state.force_factor)[rows]
        np.testing.assert_allclose(pushed, own, rtol=1e-6)

    def test_what_is_said_of_it(self) -> None:
        s = summary_of(plain())
        data = s.data()
        self.assertEqual(data["axes"], 5)
        self.assertEqual(data["cell_mm"], 0.5)
        self.assertEqual(set(data["axis_use"]), {"A", "C"})
        self.assertGreaterEqual(data["reach_limited_pct"], 0.0)
        self.assertIn("A ", turning_lines(s)[0])
        self.assertTrue(any("Five axes" in said for said in program_lines("x.cl", s, "metric")))

    def test_frames_are_the_stock_on_the_way(self) -> None:
        g = geometry_of(plain())
        done, bricks = g.frames[len(g.frames) // 2]
        again = g.frames[0][1].copy()
        g.cut_on(again, 0, done)
        self.assertEqual(again.volume, bricks.volume)


class Findings(unittest.TestCase):
    def kinds(self, text: str, **changes: object) -> dict[str, list[int]]:
        out: dict[str, list[int]] = {}
        for finding in summary_of(run(text, parts(**changes))).findings:
            out.setdefault(finding.kind, []).append(finding.line)
        return out

    def test_a_rapid_through_stock(self) -> None:
        text = (
            HEAD
            + "RAPID\n"
            + line((-30, 0, 5))
            + "FEDRAT/500,MMPM\n"
            + line((-30, 0, -3), (0, 0, -3))
            + "RAPID\n"
            + line((30, 0, -3))
            + TAIL
        )
        self.assertEqual(self.kinds(text), {"rapid_in_stock": [11]})

    def test_a_rapid_that_only_the_axes_lead_through_stock(self) -> None:
        # both ends stand free; between them the machine swings the tool through the block
        text = (
            HEAD
            + "RAPID\nGOTO/-20,0,4,-0.9848078,0,-0.1736482\nFEDRAT/500,MMPM\nGOTO/-24,0,4,-0.9848078,0,-0.1736482\n"
        )
        text += (
            "GOTO/-12,0,-9,-0.9848078,0,-0.1736482\nGOTO/-24,0,4,-0.9848078,0,-0.1736482\nRAPID\nGOTO/-1,0,-2,0.9,0,0.4358899\n"
            + TAIL
        )
        self.assertIn("rapid_in_stock", self.kinds(text))

    def test_ends_that_do_not_cut(self) -> None:
        text = (
            HEAD
            + "RAPID\n"
            + line((-30, 0, 5), lead=-15)
            + "FEDRAT/500,MMPM\n"
            + line((-30, 0, -3), (20, 0, -3), lead=-15)
            + TAIL
        )
        self.assertEqual(self.kinds(text, tool=SQUARE), {"ramp": [9]})
        self.assertEqual(self.kinds(text, tool={**SQUARE, "centre_cutting": True}), {})
        down = (
            HEAD
            + "RAPID\n"
            + line((0, 0, 5))
            + "FEDRAT/500,MMPM\n"
            + line((-2.07, 0, -2.73))
            + line((8, 0, -2.73))
            + TAIL
        )
        self.assertIn("plunge", self.kinds(down, tool=SQUARE))

    def test_shank_and_holder(self) -> None:
        deep = (
            HEAD
            + "RAPID\n"
            + line((-30, 0, 5), lead=0)
            + "FEDRAT/500,MMPM\n"
            + line((-30, 0, -18), (25, 0, -18), lead=0)
            + TAIL
        )
        found = self.kinds(deep, tool={"APMX": 8.0, "LU": 8.0, "DN": None, "DMM": 12.0}, stick_out_mm=14.0)
        self.assertEqual(set(found), {"too_deep", "shank", "holder"})

    def test_deeper_than_the_flutes(self) -> None:
        deep = (
            HEAD
            + "RAPID\n"
            + line((-30, 0, 5), lead=0)
            + "FEDRAT/500,MMPM\n"
            + line((-30, 0, -12), (25, 0, -12), lead=0)
            + TAIL
        )
        found = self.kinds(deep, tool={"APMX": 8.0, "LU": 30.0, "DN": 7.0})
        self.assertEqual(set(found), {"too_deep", "shank"})
        self.assertEqual(self.kinds(deep), {})

    def test_an_axis_that_jumps_by_the_pole(self) -> None:
        text = (
            HEAD
            + "RAPID\nGOTO/-30,0,5,0,-0.05,0.99875\nFEDRAT/500,MMPM\nGOTO/-30,0,-2,0,-0.05,0.99875\nGOTO/0,0,-2,0,-0.05,0.99875\n"
        )
        text += "GOTO/2,0,-2,0,0.05,0.99875\nGOTO/22,0,-2,0,0.05,0.99875\n" + TAIL
        found = run(text)
        self.assertEqual([(f.kind, f.line) for f in summary_of(found).findings], [("pole", 10)])
        # what the tip really runs there: C turns half round in two millimetres
        g = geometry_of(found)
        slow = g.program.moves.line[g.steps.move] == 10
        self.assertLess(60 * found.times.peak[slow].max(), 130.0)
        self.assertGreater(summary_of(found).data()["reach_limited_pct"], 2.0)
        self.assertFalse(rubs(found).all())


class Levelled(unittest.TestCase):
    def test_each_aim_keeps_its_target_and_every_byte_but_the_feeds(self) -> None:
        before, leveller = summary_of(plain()), Leveller(plain())
        feeds = re.compile(r"FEDRAT/[^\n]*\n")
        for aim, quicker in (("ease", 0.995), ("push", 0.97)):
            with self.subTest(aim=aim):
                made = leveller.level(Targets(aim=aim, note=False))  # type: ignore[arg-type]
                after = summary_of(made.run)
                self.assertLess(after.time, quicker * before.time)
                self.assertLessEqual(after.fxy_peak, 1.03 * made.force)
                self.assertEqual(geometry_of(made.run).left.cell, 0.25)
                # every line stands where it stood; points on the way may come between
                left = iter(feeds.sub("", made.content.decode()).splitlines())
                self.assertTrue(
                    all(any(own == other for other in left) for own in feeds.sub("", passes()).splitlines())
                )

    def test_feeds_that_the_axes_cannot_reach_are_not_written(self) -> None:
        own = parts()
        slow = [axis.with_values(speed_deg_s=4.0) if axis.letter == "C" else axis for axis in own.machine.rotary]
        own = replace(own, machine=own.machine.with_values(rotary=slow))
        turning = HEAD + "RAPID\nGOTO/-30,0,-1,0,-0.3,0.9539392\nFEDRAT/400,MMPM\n"
        for k in range(31):
            a = np.radians(3.0 * k)
            turning += f"GOTO/{-28 + 2 * k},0,-1,{-0.3 * np.sin(a):.7f},{-0.3 * np.cos(a):.7f},0.9539392\n"
        found = run(turning + TAIL, own)
        g = geometry_of(found)
        made = Leveller(found).level(Targets(aim="push"))
        written = made.run.geometry.program.moves
        assert isinstance(written, TiltedMoves)
        turns = written.is_feed & (np.abs(written.turned_end - written.turned_start).max(axis=1) > 0)
        # as fast as C turns, and not what it would be without
        self.assertLessEqual(float(written.feed[turns].max()), 400.0)
        self.assertLess(float(g.most_written[g.judged][5:-5].max()), 400.0)


class BadInput(unittest.TestCase):
    def test_stock(self) -> None:
        own = parts()
        with TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "open.stl").write_text(
                "solid a\nfacet normal 0 0 1\nouter loop\nvertex -20 -15 0\nvertex 20 -15 0\nvertex 0 15 0\nendloop\nendfacet\n"
                "facet normal 0 0 1\nouter loop\nvertex -20 -15 -9\nvertex 20 -15 -9\nvertex 0 15 -9\nendloop\nendfacet\nendsolid\n"
            )
            with self.assertRaisesRegex(InputError, "the surface is open at x .*five axes need a closed one"):
                run(passes(1), own, stock_for("open.stl", own, folder))  # type: ignore[arg-type]
        for text, told in (
            ("revolved:0,0;20", "no radius and height"), ("revolved:0,0;20,0", "three places or more"),
            ("revolved:5,0;20,-9;20,0;5,-9", "crosses itself"), ("revolved:-9,0;-2,0;-2,-5", "no positive radius"),
        ):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, told):
                stock_for(text, own, None)
        with self.assertRaisesRegex(InputError, "its stock is not known and cannot be told"):
            run(passes(1), own, None)  # type: ignore[arg-type]

    def test_what_turns_round_z(self) -> None:
        own = parts()
        stock = stock_for("revolved:0,0;20,0;20,-9;0,-9", own, None)
        assert stock is not None
        self.assertAlmostEqual(stock.bricks(0.5).volume / (np.pi * 400 * 9), 1.0, delta=0.005)
        # seen from above for a program of three axes
        self.assertAlmostEqual((stock.height_map(0.5).volume - np.pi * 400) / (np.pi * 400 * 9), 1.0, delta=0.02)

    def test_an_outline_of_a_drawing_turns_round_z(self) -> None:
        own, drawing = parts(), ezdxf.new()
        drawing.header["$INSUNITS"] = 4
        for layer, left in (("HALF", 0), ("WHOLE", -20)):
            drawing.modelspace().add_lwpolyline(
                [(left, 0), (20, 0), (20, -9), (left, -9)], close=True, dxfattribs={"layer": layer}
            )
        with TemporaryDirectory() as name:
            drawing.saveas(Path(name) / "blank.dxf")
            for layer in ("HALF", "whole"):
                stock = stock_for(f"revolved:blank.dxf:{layer}", own, Path(name))
                assert stock is not None
                self.assertAlmostEqual(stock.bricks(0.5).volume / (np.pi * 400 * 9), 1.0, delta=0.005)
            with self.assertRaisesRegex(
                InputError, "has outlines on HALF, WHOLE; name one, as in revolved:blank.dxf:TURNED"
            ):
                stock_for("revolved:blank.dxf", own, Path(name))

    def test_a_program_that_does_not_fit(self) -> None:
        for text, own, told in (
            (passes(1).replace("SPINDL", "SPINDEL"), parts(), "SPINDEL is not understood"),
            (passes(1), parts("vmc40-12k"), "line 8: the tool leans here and the machine has no rotary axes"),
            (NOT_FOLLOWED, parts("hsk100-5x"), "has no axis A"),
            (passes(1).replace("30.0000,0.0000,-2.0000", "3000.0000,0.0000,-2.0000"), parts(), "travels"),
            (HEAD + "RAPID\n" + line((-30, 0, 90)) + "FEDRAT/100,MMPM\n" + line((30, 0, 90)) + TAIL, parts(), "never meets the stock"),
            (HEAD + TAIL, parts(), "makes no feed move"),
        ):  # fmt: skip
            with self.subTest(told=told), self.assertRaisesRegex(InputError, told):
                run(text, own)

    def test_another_tool_of_which_nobody_knows_the_shape(self) -> None:
        text = HEAD.replace("LOADTL/1", "LOADTL/9") + "RAPID\n" + line((-30, 8, 5)) + "FEDRAT/500,MMPM\n"
        text += line((-30, 8, -3), (20, 8, -3)) + passes(1).split("MULTAX/ON\n")[1]
        own = parts()
        found = simulate(text.encode(), own, stock_for(BLOCK, own, None), Look(cell=0.5), tool=1)
        self.assertIn("T9 is no tool of the job: its moves leave the stock as it is", found.geometry.remarks)

    def test_f_where_the_tip_is_not_followed_is_an_option_of_the_machine(self) -> None:
        own = parts()
        text = "G21 G90 G94\nT1 M6\nS4000 M3\nG0 X-30. Y0. Z5. A-20. C0.\nG1 Z-3. F400.\nX20. C-60.\nG0 Z30.\nM30\n"
        times = []
        for option in ("all_words", "linear"):
            machine = own.machine.with_values(untipped_feed=option)
            times.append(summary_of(run(text, replace(own, machine=machine))).time)
        self.assertGreater(times[0], 1.1 * times[1])


if __name__ == "__main__":
    unittest.main()
