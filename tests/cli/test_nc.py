"""`lesna nc` as scripts call it: JSON of the contract, exit codes, one line for whatever is wrong."""

import json

from tests.cli.driver import CommandTest
from tests.planning.program.leaning_job import BALL, BLOCK, passes
from tests.support import DEMOS

JOB = DEMOS[0].parent / "gauge-panel.lesna"
PROGRAM = DEMOS[0].parent / "gauge-panel-window.nc"
AT = ("--job", str(JOB), "--cut", "Window rough")


class Nc(CommandTest):
    def test_check_gives_the_object_of_the_contract(self) -> None:
        data = self.answer("nc", "check", PROGRAM, *AT)
        for key in (
            "time_s",
            "cut_time_s",
            "rapid_time_s",
            "removed_cm3",
            "fxy_peak_n",
            "fxy_p95_n",
            "power_peak_kw",
            "torque_peak_nm",
        ):
            self.assertGreater(data[key], 0)
        self.assertLess(data["fxy_p95_n"], data["fxy_peak_n"])
        self.assertEqual(data["blocks"], 93)
        self.assertEqual((data["rapids_in_stock"], data["slivers"]), ([], []))
        self.assertLessEqual(data["engagement"]["max_deg"], 180.0)

    def test_words_and_strict(self) -> None:
        code, out, _ = self.call("nc", "check", PROGRAM, *AT, "--stock", "block:-60,-40,-14,60,40,0", "--strict")
        self.assertEqual(code, 1)
        self.assertIn("side force", out)

    def test_level_writes_the_same_motions(self) -> None:
        out = self.folder / "out.nc"
        code, said, err = self.call("nc", "level", PROGRAM, *AT, "--aim", "push", "-o", out, "--json")
        data = json.loads(said)
        self.assertEqual((code, err), (0, "lesna: look before it runs: chatter margin at 101%, line 100\n"))
        self.assertEqual(self.call("nc", "level", PROGRAM, *AT, "--aim", "push", "-o", out, "--strict")[0], 1)
        for side in (data["before"], data["after"]):
            self.assertEqual(side["limits"], sorted(side["limits"], key=lambda limit: -limit["use"]))
        self.assertLess(data["after"]["time_s"], data["before"]["time_s"])
        self.assertAlmostEqual(data["saved_s"], data["before"]["time_s"] - data["after"]["time_s"])
        self.assertAlmostEqual(data["per_batch_h"], data["saved_s"] * 150 / 3600)
        self.assertLessEqual(data["after"]["fxy_peak_n"], 1.001 * data["before"]["fxy_peak_n"])
        self.assertTrue(out.read_bytes().startswith(b"%\no0417(gauge panel, window rough)\n(FEEDS LEVELLED"))

    def test_no_aim_changes_no_byte(self) -> None:
        out = self.folder / "out.nc"
        self.assertEqual(self.call("nc", "level", PROGRAM, *AT, "--aim", "none", "-o", out)[0], 0)
        self.assertEqual(out.read_bytes(), PROGRAM.read_bytes())

    def test_what_is_wrong_is_one_line(self) -> None:
        def file(name: str, content: bytes) -> str:
            (self.folder / name).write_bytes(content)
            return str(self.folder / name)

        out = ("-o", str(self.folder / "o.nc"))
        good = str(PROGRAM)
        for call, words in (
            (("check", file("empty.nc", b"")), "empty"), (("check", file("bin.nc", b"\0\1")), "no text"),
            (("check", file("nan.nc", b"G0 X0 Y0 Z0\nG1 XNAN F5\n")), "line 2: 'XNAN F5'"),
            (("check", file("feed.nc", b"G0 X0 Y0 Z0\nG1 X5\n")), "line 2: this move cuts before any F"),
            (("check", file("away.nc", b"S9 M3 G0 X90 Y90 Z9\nG1 X95 F5\n")), "never meets the stock"),
            (("check", str(self.folder / "none.nc")), "does not exist"), (("check", good, "--stock", "cube"), "--stock:"),
            (("check", good, "--tool", "7"), "T7"), (("check", good, "--step", "0"), "--step: must lie"),
            (("level", good, *out, "--peak", "10"), "must be at least"), (("level", good, "-o", good), "is what is read itself"),
            (("level", good, *out, "--ceiling", "0.2"), "--ceiling: must lie"), (("level", good, *out, "--peak", "nan"), "--peak"),
        ):  # fmt: skip
            code, printed, err = self.call("nc", *call, *AT)
            with self.subTest(call=call):
                self.assertEqual((code, printed), (2, ""))
                self.assertEqual(err.count("\n"), 1)
                self.assertTrue(err.startswith("lesna: "))
                self.assertIn(words, err)
        self.assertFalse((self.folder / "o.nc").exists())

    def test_the_sheet_tells_of_a_program_and_of_one_that_is_gone(self) -> None:
        data = json.loads(JOB.read_text())
        data["cuts"][0]["program"] = {"file": "window.nc"}
        data["lesna"] = 4
        (self.folder / "j.lesna").write_text(json.dumps(data))
        for ready, words in ((False, "window.nc cannot be judged"), (True, "side force")):
            if ready:
                (self.folder / "window.nc").write_bytes(PROGRAM.read_bytes())
            self.assertEqual(self.call("sheet", self.folder / "j.lesna", "-o", self.folder / "s.html")[0], 0)
            self.assertIn(words, (self.folder / "s.html").read_text().split(">Program")[1])

    def test_another_cuts_tool_moves_the_stock_before(self) -> None:
        data = json.loads((JOB.parent / "sluice-hinge-block.lesna").read_text())
        data["cuts"][4]["program"] = {"file": "x.nc", "tool": 5}
        (self.folder / "j.lesna").write_text(json.dumps(data))
        call = (
            "nc",
            "check",
            JOB.parent / "hinge-block-slot.nc",
            "--job",
            self.folder / "j.lesna",
            "--cut",
            "Pin slot",
            "--tool",
            "3",
        )
        self.assertEqual(self.answer(*call)["remarks"], [])
        data["cuts"][4]["program"]["tool"] = 6
        (self.folder / "j.lesna").write_text(json.dumps(data))
        self.assertIn("T5 is no tool of the job", self.answer(*call)["remarks"][0])


class FiveAxes(CommandTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.folder / "five.lesna"
        cut = {"name": "Pass", "strategy": "heavy_radial", "tool": BALL, "holder": {"kind": "shrink"}, "stick_out_mm": 44.0, "ae_mm": 3.0,
               "ap_mm": 2.0, "vc_m_min": 120.0, "hex_mm": 0.03}  # fmt: skip
        self.job.write_text(
            json.dumps(
                {
                    "lesna": 1,
                    "title": "Five",
                    "machine": "hsk63-5x-18k",
                    "workpiece": {"material": "42crmo4-qt30"},
                    "cuts": [cut],
                }
            )
        )
        self.file = self.folder / "five.cl"
        self.file.write_text(passes(1))
        self.at = ("--job", self.job, "--cut", "Pass", "--stock", BLOCK, "--cell", "0.5")

    def test_check_and_level(self) -> None:
        data = self.answer("nc", "check", self.file, *self.at)
        self.assertEqual((data["axes"], data["cell_mm"]), (5, 0.5))
        self.assertEqual(set(data["axis_use"]), {"A", "C"})
        self.assertGreater(data["fxy_peak_n"], 0)
        out = self.folder / "out.cl"
        code, said, _ = self.call("nc", "level", self.file, *self.at, "--aim", "push", "-o", out, "--json")
        data = json.loads(said)
        self.assertEqual((code, data["before"]["axes"], data["after"]["axes"]), (0, 5, 5))
        self.assertGreater(data["saved_pct"], 0)
        self.assertTrue(out.read_bytes().startswith(b"$$ FEEDS LEVELLED"))
        code, said, _ = self.call("nc", "check", self.file, *self.at[:-4], "--stock", "revolved:0,0;20,0;20,-20;0,-20")
        self.assertEqual(code, 0)
        self.assertIn("five axes, cells of", said)

    def test_another_machine_is_told_in_one_line(self) -> None:
        self.job.write_text(self.job.read_text().replace("hsk63-5x-18k", "vmc40-12k"))
        code, _, said = self.call("nc", "check", self.file, *self.at)
        self.assertEqual(code, 2)
        self.assertIn("line 8: the tool leans here and the machine has no rotary axes", said)
