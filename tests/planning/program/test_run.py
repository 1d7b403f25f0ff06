"""Programs through the stock: what they meet agrees with the single cut, and what should not be touched is found with its line."""

import unittest
from functools import lru_cache

import numpy as np

from lesna.model.errors import InputError
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.nc.read import read_program
from lesna.physics.edge.turn import turn_of
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.evaluate import evaluate
from lesna.planning.program.against_cut import unlike_line
from lesna.planning.program.extremes import extremes_of
from lesna.planning.program.run import geometry_of, held_feed, rubs, run_of
from lesna.planning.program.stock import Stock, stock_for, stock_of_feature
from lesna.planning.program.summary import gain_of, summary_of
from lesna.planning.program.told import on_sheet, program_lines
from lesna.planning.program.work import Look, Work
from lesna.stock.body import Body
from tests.support import DEMOS, LIBRARY, job

START = "G21 G17 G90 G94\nT1 M6\nS3183 M3\nG0 X-60. Y0. Z5.\n"
PARTS = parts_of(job(), 0, LIBRARY)
BLOCK = stock_for("block:-40,-30,-30,40,30,0", PARTS, None)


def work(stock: Stock = BLOCK, **values):  # type: ignore[no-untyped-def]
    return Work(parts_of(job(stick_out_mm=40.0, **values), 0, LIBRARY), stock)


def run(text: str, doing: Work | None = None):  # type: ignore[no-untyped-def]
    return run_of(geometry_of(read_program((START + text).encode()), doing or work()))


@lru_cache(maxsize=1)
def slot():  # type: ignore[no-untyped-def]
    return run("Z-6.\nG1 X60. F600.\nG0 Z5.\n")


class AgainstTheSingleCut(unittest.TestCase):
    def test_a_slot_is_the_cut_of_the_same_engagement(self) -> None:
        found = slot()
        steady = found.geometry.contact & (np.abs(found.geometry.steps.end[:, 0]) < 25)
        n = 3183.0
        own = evaluate(job(ae_mm=12.0, ap_mm=6.0, vc_m_min=None, n_rpm=n, hex_mm=None, fz_mm=600 / n / 4, stick_out_mm=40.0), 0,
                       LIBRARY).state  # fmt: skip
        for name in ("fxy_peak", "torque", "power_cut", "deflection", "hex"):
            with self.subTest(figure=name):
                self.assertAlmostEqual(
                    float(np.median(getattr(found.state, name)[steady])) / getattr(own, name), 1.0, delta=0.02
                )
        self.assertAlmostEqual(float(np.degrees(found.geometry.engagement.angle[steady]).max()), 180.0)

    def test_limits_are_those_of_the_cut(self) -> None:
        found = slot()
        own = evaluate(job(ae_mm=12.0, ap_mm=6.0, vc_m_min=None, n_rpm=3183.0, hex_mm=None, fz_mm=600 / 3183 / 4, stick_out_mm=40.0),
                       0, LIBRARY)  # fmt: skip
        steady = np.flatnonzero(found.geometry.contact & (np.abs(found.geometry.steps.end[:, 0]) < 25))[50]
        for entry in own.limits:
            use = found.uses.get(entry.rule.id)
            if use is not None and entry.use > 0.02:
                with self.subTest(limit=entry.rule.id):
                    self.assertAlmostEqual(float(use[steady]) / entry.use, 1.0, delta=0.04)

    def test_numbers(self) -> None:
        found = summary_of(slot())
        data = found.data()
        self.assertAlmostEqual(found.removed, 80 * 12 * 6 / 1000, delta=0.06)
        self.assertAlmostEqual(found.flux, 1.0, delta=0.02)
        self.assertAlmostEqual(found.cut_time, 60 * (80 + 6) / 600, delta=0.6)
        self.assertGreater(found.time, found.cut_time + found.rapid_time)
        self.assertAlmostEqual(data["engagement"]["median_deg"], 180.0)
        self.assertEqual((data["rapids_in_stock"], data["slivers"], data["blocks"]), ([], [], 3))
        self.assertEqual(gain_of(found, found, 10, 60.0)["saved_s"], 0.0)

    def test_force_between_nothing_and_full_follows_the_angle(self) -> None:
        found = run("Y-32.4\nZ-6.\nG1 X60. F600.\nG0 Z5.\n")
        steady = found.geometry.contact & (np.abs(found.geometry.steps.end[:, 0]) < 25)
        parts = found.geometry.setup
        turn = turn_of(parts.cutter, parts.law, 600 / 3183 / 4, 3.6, 6.0, direction="up")
        factor = float(found.state.force_factor[steady][0])
        self.assertAlmostEqual(
            float(np.median(found.state.fxy_peak[steady])) / turn.fxy.max() / factor, 1.0, delta=0.03
        )


class Places(unittest.TestCase):
    def kinds(self, text: str, doing: Work | None = None) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for finding in run(text, doing).geometry.findings:
            found.setdefault(finding.kind, []).append(finding.line)
        return found

    def test_a_rapid_through_stock(self) -> None:
        self.assertEqual(self.kinds("Z-4.\nG1 X0. F500.\nG0 X60.\n"), {"rapid_in_stock": [7]})
        self.assertEqual(self.kinds("Z-4.\nG1 X0. F500.\nG0 Z5.\nX60.\n"), {})

    def test_deeper_than_the_flutes_and_the_holder(self) -> None:
        found = self.kinds("Z-29.\nG1 X0. F500.\n", work(stock_for("block:-40,-30,-29,40,30,5", PARTS, None)))
        self.assertIn("too_deep", found)
        short = Work(parts_of(job(stick_out_mm=27.0), 0, LIBRARY), BLOCK)
        self.assertIn("holder", self.kinds("Y-26.\nZ-29.\nG1 X0. F500.\n", short))

    def test_a_plunge_without_cutting_at_the_centre(self) -> None:
        text = "X0. Y0.\nZ1.\nG1 Z-2. F100.\nX10.\n"
        self.assertEqual(self.kinds(text), {})
        self.assertEqual(self.kinds(text, work(tool={"centre_cutting": False})), {"plunge": [7]})

    def test_where_to_look(self) -> None:
        found = run("Z-6.\nG1 X0. F600.\nG1 X60.\nG1 Y60.\nX-60.\nY0.\n")
        places = extremes_of(found)
        peaks = [place for place in places if place.kind == "peak"]
        self.assertEqual(peaks[0].value, float(found.state.fxy_peak.max()))
        self.assertEqual(len({place.line for place in peaks}), len(peaks))
        air = [place for place in places if place.kind == "air"]
        self.assertGreaterEqual(air[0].value, air[-1].value)
        self.assertGreater(air[0].value, 15.0)
        self.assertFalse(found.geometry.contact[air[0].step])

    def test_a_thin_web_that_is_met_head_on(self) -> None:
        for thick, told in ((1.0, True), (1.6, True), (3.0, False)):
            right = 6.0 + thick / 2
            slots = "".join(f"G0 Z5.\nX{x} Y-50.\nZ-6.\nG1 Y50. F500.\n" for x in (-right, right))
            text = f"{slots}G0 Z5.\nX-60. Y0.\nZ-6.\nG1 X60.\n"
            found = [f for f in run(text).geometry.findings if f.kind == "sliver"]
            with self.subTest(thick=thick):
                self.assertEqual(len(found), int(told))
                if told:
                    self.assertAlmostEqual(found[0].value, thick, delta=0.35)
                    self.assertAlmostEqual(found[0].place[0], 0.0, delta=1.0)

    def test_a_thin_web(self) -> None:
        first, second = "Y-10.\nZ-6.\nG1 X60. F500.\nG0 Z5.\nX-60. ", "Z-6.\nG1 X60.\nG0 Z5.\nX-60. "
        self.assertEqual(self.kinds(f"{first}Y3.\n{second}Y-3.5\nZ-6.\nG1 X60.\n"), {"sliver": [15]})
        self.assertEqual(self.kinds(f"{first}Y-7.5\n{second}\n"), {})


class Chatter(unittest.TestCase):
    def test_a_measured_boundary_is_looked_up_to_two_percent(self) -> None:
        modes = [
            {"axis": "x", "f_hz": 820.0, "k_n_um": 18.0, "zeta": 0.03},
            {"axis": "y", "f_hz": 870.0, "k_n_um": 20.0, "zeta": 0.03},
        ]
        found = run("Y-32.4\nZ-6.\nG1 X60. F600.\nG0 Z5.\nX-60. Y-20.\nZ-6.\nG1 X60.\nG0 Z5.\n", work(tap_modes=modes))
        g = found.geometry
        growth = measured_over_stepover(g.setup)
        assert growth is not None and g.depth_of_chatter is not None  # modes are measured
        for step in np.flatnonzero(g.contact)[::25].tolist():
            exact = float(growth.limits_at(float(g.stepover[step]), np.array([1e-3]))[0])
            self.assertAlmostEqual(float(g.depth_of_chatter[step]) / exact, 1.0, delta=0.02)

    def test_an_estimate_needs_no_lookup(self) -> None:
        g = slot().geometry
        assert g.depth_of_chatter is not None  # the tables know this edge
        step = int(np.flatnonzero(g.contact)[60])
        exact = estimated_depth(g.setup, np.array([g.stepover[step]]))
        assert exact is not None
        self.assertAlmostEqual(float(g.depth_of_chatter[step]), float(exact[0]))


class Told(unittest.TestCase):
    def test_a_program_in_sentences(self) -> None:
        found = run("Z-4.\nG1 X0. F500.\nG0 X60.\n")
        summary = summary_of(found)
        lines = program_lines("a.nc", summary, "inch", ("push", summary))
        self.assertIn("lbf", lines[0])
        self.assertIn("rapid through stock at line 7", lines[1])
        self.assertIn("Feeds levelled, push", lines[-1])
        self.assertEqual(len(program_lines("a.nc", summary_of(slot()), "metric")), 1)

    def test_a_program_of_another_cut_is_told(self) -> None:
        own = {
            "ae_mm": 12.0,
            "ap_mm": 6.0,
            "vc_m_min": None,
            "n_rpm": 3183.0,
            "hex_mm": None,
            "fz_mm": 600 / 3183 / 4,
            "stick_out_mm": 40.0,
        }
        summary = summary_of(slot())
        self.assertEqual(unlike_line(summary, evaluate(job(**own), 0, LIBRARY)), "")
        for changed, words in (({"ap_mm": 5.0}, "depth 6.00 mm, the cut 5.00 mm"), ({"n_rpm": 2800.0}, "S 3 183 rpm, the cut 2 800 rpm"),
                               ({"fz_mm": 0.06}, "F 600 mm/min, the cut 764 mm/min")):  # fmt: skip
            with self.subTest(changed=changed):
                result = evaluate(job(**{**own, **changed}), 0, LIBRARY)
                told = on_sheet("a.nc", slot(), summary, result, "metric")
                self.assertIn(words, told.warning.replace("\u00a0", " "))
                self.assertEqual(told.numbers, "T1")
                self.assertRegex(told.file, "^a.nc, SHA-256 [0-9a-f]{12}$")

    def test_h_words_belong_to_the_tool_that_is_in_the_spindle(self) -> None:
        program = read_program(b"T1 M6\nG43 H11 Z5.\nS900 M3\nG1 X5. F100.\nT2 M6\nG43 H02 Z5.\nG1 X9.\n")
        self.assertEqual([program.length_offset(tool) for tool in (1, 2, 3)], ["H11", "H2", ""])
        self.assertEqual(len(program.digest), 64)


class Refusals(unittest.TestCase):
    def test_each_says_what_is_wrong(self) -> None:
        for text, words in (("Z-1.\nG1 X-55. F500.\n", "never meets the stock"), ("G0 X5.\n", "no feed move"),
                            ("X9000.\nG1 X0. F100.\n", "travels")):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, words):
                run(text)
        with self.assertRaisesRegex(InputError, "T1, T2"):
            run("Z-1.\nG1 X0. F500.\nT2 M6\nG1 X5.\n")
        with self.assertRaisesRegex(InputError, "T9 makes no feed move"):
            run("Z-1.\nG1 X0. F500.\n", Work(work().parts, BLOCK, tool=9))
        for text, words in (("cube:1", "not understood"), ("block:1,2", "six numbers"), ("block:0,0,0,0,1,1", "below its partner"),
                            ("block:a,0,0,1,1,1", "no number"), ("block:nan,0,0,1,1,1", "six numbers")):  # fmt: skip
            with self.subTest(stock=text), self.assertRaisesRegex(InputError, words):
                stock_for(text, PARTS, None)
        with self.assertRaisesRegex(InputError, "no length"):
            stock_of_feature(parts_of(job(), 0, LIBRARY))

    def test_other_tools_move_the_stock_where_they_are_known(self) -> None:
        text = "Z-6.\nG1 X60. F600.\nG0 Z5.\nX-60.\nT2 M6\nZ-6.\nG1 X60. F600.\n"
        both = Work(work().parts, BLOCK, tool=2, others={1: Body(6.0)})
        with self.assertRaisesRegex(InputError, "never meets"):
            run(text, both)
        alone = run(text, Work(work().parts, BLOCK, tool=2))
        self.assertIn("T1 is no tool of the job", alone.geometry.remarks[-1])

    def test_a_speed_left_out_is_the_cuts_own(self) -> None:
        program = read_program(START.replace("S3183 M3\n", "").encode() + b"Z-6.\nG1 X60. F600.\n")
        found = run_of(geometry_of(program, work(vc_m_min=None, n_rpm=2000.0)))
        self.assertEqual(found.geometry.setup.parts.cut.n_rpm, 2000.0)


class Demos(unittest.TestCase):
    def test_the_shipped_programs_run_and_touch_nothing(self) -> None:
        folder = DEMOS[0].parent
        for name, file, cut, tool in (
            ("hinge-block-cavity.nc", "sluice-hinge-block.lesna", "Rough cavity", None),
            ("hinge-block-slot.nc", "sluice-hinge-block.lesna", "Pin slot", 3),
            ("gauge-panel-window.nc", "gauge-panel.lesna", "Window rough", None),
        ):
            held = load_job(folder / file)
            parts = parts_of(held, held.cut_named(cut), LIBRARY)
            found = run_of(
                geometry_of(
                    read_program((folder / name).read_bytes()), Work(parts, stock_of_feature(parts), Look(), tool)
                )
            )
            with self.subTest(program=name):
                self.assertEqual(found.geometry.findings, ())
                self.assertAlmostEqual(summary_of(found).flux, 1.0, delta=0.02)
                self.assertGreater(held_feed(found.geometry) or 0, 1000)
                self.assertFalse(rubs(found).all())
