"""The command line as other programs see it: output, exit codes, one line on trouble."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests.cli.driver import CommandTest
from tests.support import DEMOS, HINGE, raw


class Commands(CommandTest):
    # ------------------------------------------------------------ compare

    def test_a_program_that_was_moved_beside_the_job_is_read_there_and_that_is_said(self) -> None:
        demo = json.loads(HINGE.read_text())
        demo["cuts"][1]["program"]["file"] = "/nowhere/hinge-block-cavity.nc"
        shutil.copy(HINGE.parent / "hinge-block-cavity.nc", self.folder)
        _, out, err = self.call("cut", self.write(demo), "--cut", "Rough cavity", "--json")
        self.assertIn("a file hinge-block-cavity.nc lies beside the job, which is read", err)
        self.assertEqual(json.loads(out)["cuts"][0]["time_basis"], "program")

    def test_compare_json_and_text(self) -> None:
        code, out, err = self.call("compare", HINGE, "--cut", "Face top", "--aim", "cost", "--json")
        data = json.loads(out)
        self.assertEqual((code, err, data["lesna"], data["cut"], data["aim"]), (0, "", 1, "Face top", "cost"))
        self.assertEqual(data["winner"], data["strategies"][0]["id"])
        self.assertEqual(data["strategies"][0]["name"], "High feed")
        self.assertEqual(data["batch"]["parts"], 24)
        code, out, _ = self.call("compare", HINGE, "--cut", "Face top", "--aim", "cost")
        self.assertEqual(code, 0)
        self.assertIn("1. High feed", out)
        self.assertRegex(out, r"2\. Heavy radial: .*\n   \d+% dearer than high feed: ")
        self.assertIn("Not here:", out)

    def test_compare_refuses_in_words(self) -> None:
        self.assertIn("feature: is missing", self.refused("compare", self.write(raw()), "--cut", "Side"))
        self.assertIn("no cut is named 'x'", self.refused("compare", HINGE, "--cut", "x"))
        self.assertIn("fastest", self.refused("compare", HINGE, "--cut", "Face top", "--aim", "fastest"))
        pocket = {"kind": "pocket", "length_mm": 50, "width_mm": 40, "depth_mm": 10, "stock_wall_mm": 25}
        self.assertIn("stock_wall_mm", self.refused("compare", self.write(raw(feature=pocket)), "--cut", "Side"))

    # ------------------------------------------------------------ cut

    def test_cut_json_is_one_object(self) -> None:
        for path in DEMOS:
            code, out, err = self.call("cut", path, "--json")
            data = json.loads(out)
            self.assertEqual((code, err, data["lesna"]), (0, "", 1))
            self.assertTrue(data["cuts"])

    def test_one_cut_by_name(self) -> None:
        _, out, _ = self.call("cut", HINGE, "--cut", "Pin slot", "--json")
        self.assertEqual([cut["name"] for cut in json.loads(out)["cuts"]], ["Pin slot"])

    def test_text_speaks_the_units_of_the_job(self) -> None:
        _, metric, _ = self.call("cut", HINGE)
        _, inch, _ = self.call("cut", DEMOS[0].parent / "gauge-panel.lesna")
        self.assertIn("cm³/min", metric)
        self.assertIn("in³/min", inch)

    def test_strict_tells_by_the_exit_code(self) -> None:
        fits, over, capped = (self.write(raw(**changes), f"{i}.lesna") for i, changes in
                              enumerate(({}, {"hex_mm": 0.09}, {"vc_m_min": 900.0})))  # fmt: skip
        held = json.loads(Path(fits).read_text())
        held["workpiece"]["clamp_force_n"] = 0.0
        loose = self.folder / "loose.lesna"
        loose.write_text(json.dumps(held))
        self.assertEqual([self.call("cut", p, "--strict")[0] for p in (fits, over, capped, loose)], [0, 1, 1, 1])
        self.assertEqual(self.call("cut", loose)[0], 0)
        self.assertEqual([self.call("cut", p)[0] for p in (fits, over, capped)], [0, 0, 0])

    # ------------------------------------------------------------ map

    def test_map_json_has_grids_of_the_size_asked_for(self) -> None:
        _, out, _ = self.call("map", HINGE, "--cut", "Rough cavity", "--size", "24x12", "--json")
        data = json.loads(out)
        self.assertEqual((len(data["ae_mm"]), len(data["ap_mm"])), (24, 12))
        for grid in (data["q_cm3_min"], data["admissible"], *data["limits"].values()):
            self.assertEqual((len(grid), len(grid[0])), (12, 24))
        best = data["best"]
        self.assertGreaterEqual(best["q_cm3_min"], max(q for row, ok in zip(data["q_cm3_min"], data["admissible"], strict=True)
                                                       for q, inside in zip(row, ok, strict=True) if inside))  # fmt: skip

    def test_map_in_words(self) -> None:
        code, out, _ = self.call("map", HINGE, "--cut", "Rough cavity")
        self.assertEqual(code, 0)
        self.assertIn("best in this school", out)

    # ------------------------------------------------------------ sheet

    def test_sheet_as_html_and_pdf(self) -> None:
        for name, start in (("s.html", b"<!DOCTYPE html>"), ("s.pdf", b"%PDF-")):
            code, _, _ = self.call("sheet", HINGE, "-o", self.folder / name)
            self.assertEqual(code, 0)
            self.assertTrue((self.folder / name).read_bytes().startswith(start))

    def test_quote_as_text_table_page_and_json(self) -> None:
        found = self.answer("quote", HINGE, "--parts", 12)
        self.assertEqual((found["parts"], len(found["cuts"]), found["cuts"][1]["time_basis"]), (12, 5, "program"))
        self.assertAlmostEqual(found["money"], found["machine_money"] + found["edge_money"])
        for name, start in (("q.csv", b"cut,tool,"), ("q.html", b"<!DOCTYPE html>"), ("q.pdf", b"%PDF-")):
            code, out, _ = self.call("quote", HINGE, "-o", self.folder / name)
            self.assertEqual(code, 0)
            self.assertIn("24 parts: set-up not given", out)
            self.assertTrue((self.folder / name).read_bytes().startswith(start))

    def test_a_quote_without_its_program_says_so_and_goes_on_with_an_estimate(self) -> None:
        code, out, err = self.call("quote", self.write(HINGE.read_text()), "--json")
        cut = json.loads(out)["cuts"][1]
        self.assertEqual((code, cut["name"], cut["time_basis"]), (0, "Rough cavity", "estimate"))
        self.assertGreater(cut["minutes"], 1.0)
        self.assertRegex(err, r"\Alesna: .*cuts\[1\]\.program: .*hinge-block-cavity\.nc.*; its time is estimated\n\Z")

    # ------------------------------------------------------------ window

    def test_without_a_command_the_window_opens(self) -> None:
        self.call()
        self.call("--demo")
        self.call(HINGE)
        self.assertEqual(self.opened, [(None, False), (None, True), (HINGE, False)])

    # ------------------------------------------------------------ trouble

    def test_bad_input_is_one_line_that_names_file_and_field(self) -> None:
        binary = self.folder / "binary.lesna"
        binary.write_bytes(os.urandom(4000))
        whole = HINGE.read_text()
        cases = (
            (self.write(raw(ae_mm=13.0), "a.lesna"), "cuts[0].ae_mm"),
            (self.write(raw(ap_mm=40.0, stick_out_mm=50.0), "b.lesna"), "cuts[0].ap_mm"),
            (self.write(raw(stick_out_mm=5.0), "c.lesna"), "cuts[0].stick_out_mm"),
            (self.write(raw(tool={"ZEFP": 0}), "d.lesna"), "cuts[0].tool.ZEFP"),
            (self.write(json.dumps(raw(ae_mm=float("nan"))), "e.lesna"), "cuts[0].ae_mm"),
            (self.write(raw(ae_mn=1.0), "f.lesna"), "'ae_mm'"),
            (self.write(whole[: len(whole) // 2], "g.lesna"), "line"),
            (self.write({"lesna": 99}, "h.lesna"), "newer Lesna"),
            (self.write("", "i.lesna"), "ends too early"),
            (binary, "not a text file"), (self.folder, "is a folder"), (self.folder / "gone.lesna", "does not exist"),
        )  # fmt: skip
        for path, words in cases:
            for command in (
                ("cut",),
                ("cut", "--json"),
                ("map", "--cut", "Side"),
                ("sheet", "-o", self.folder / "x.html"),
            ):
                with self.subTest(words=words, command=command[0]):
                    text = self.refused(command[0], path, *command[1:])
                    self.assertIn(words, text)
                    self.assertIn(str(path), text)
        self.assertFalse((self.folder / "x.html").exists())

    def test_wrong_calls_are_one_line_too(self) -> None:
        cases = (
            (("cut",), "JOB"), (("cut", HINGE, "--jsn"), "--json"), (("cut", HINGE, "--cut", "Rough"), "'Rough cavity'"),
            (("map", HINGE), "--cut"), (("map", HINGE, "--cut", "Pin slot", "--size", "1x1"), "2 to 512"),
            (("map", HINGE, "--cut", "Pin slot", "--size", "many"), "96x96"),
            (("map", HINGE, "--cut", "Pin slot", "--over", "n,ap"), "ae,ap"),
            (("sheet", HINGE, "-o", self.folder / "x.doc"), ".pdf or .html"),
            (("quote", HINGE, "-o", self.folder / "x.doc"), ".csv, .html or .pdf"), (("quote", HINGE, "--parts", 0), "--parts"),
            (("sheet", HINGE, "-o", self.folder / "no" / "x.html"), "cannot be written"),
            (("ctu", HINGE), "did you mean 'cut'"), ((self.folder / "gone.lesna",), "does not exist"),
        )  # fmt: skip
        for args, words in cases:
            with self.subTest(args=args[0], words=words):
                self.assertIn(words, self.refused(*args))

    def test_a_bad_row_of_the_shop_is_mentioned_and_the_job_computed(self) -> None:
        shop = Path(os.environ["XDG_DATA_HOME"]) / "lesna"
        shop.mkdir(parents=True, exist_ok=True)
        (shop / "tools.csv").write_text("id,kind,DC,ZEFP,APMX\nbad,square,8,0,20\n")
        self.addCleanup((shop / "tools.csv").unlink)
        code, out, err = self.call("cut", HINGE, "--json")
        self.assertEqual(code, 0)
        self.assertTrue(json.loads(out)["cuts"])
        self.assertIn("tools.csv, line 2: ZEFP: must be at least 1, got 0; the row is left out", err)


class OverItself(CommandTest):
    def test_a_sheet_is_never_written_over_its_own_job(self) -> None:
        path = self.folder / "job.pdf"
        path.write_bytes(HINGE.read_bytes())
        (self.folder / "link.pdf").symlink_to(path)
        for out in ("job.pdf", "link.pdf"):
            code, _, said = self.call("sheet", path, "-o", self.folder / out)
            self.assertEqual(code, 2)
            self.assertIn("is what is read itself", said)
        self.assertEqual(path.read_bytes(), HINGE.read_bytes())

    def test_five_hundred_cuts_are_enough(self) -> None:
        job = json.loads(HINGE.read_text())
        job["cuts"] = [{**job["cuts"][0], "id": f"c{k}", "name": f"cut {k}"} for k in range(501)]
        (self.folder / "long.lesna").write_text(json.dumps(job))
        code, _, said = self.call("cut", self.folder / "long.lesna")
        self.assertEqual(code, 2)
        self.assertIn("cuts: must have at most 500 entries, got 501", said)


class OrdinaryMistakes(CommandTest):
    """What nobody means ends in words that say it, not in the last net."""

    def said(self, text: str, *args: str) -> str:
        path = self.folder / "job.lesna"
        path.write_text(text)
        code, out, err = self.call(args[0], path, *args[1:])
        self.assertEqual((code, out), (2, ""))
        self.assertNotIn("should not have happened", err)
        return err

    def test_each_has_its_sentence(self) -> None:
        job = json.loads(HINGE.read_text())
        machine = {
            "id": "own",
            "curve": {"duty": {"S1": {"points": [{"speed_rpm": k, "power_kw": 0} for k in (0, 5000)]}}},
        }
        for changes, words in (
            ({"notes": "half \ud800"}, "holds half a character"), ({"title": "\udfff"}, "holds half a character"),
            ({"machine": machine}, "machine.curve.duty.S1: gives no power at any speed"),
        ):  # fmt: skip
            with self.subTest(words=words):
                self.assertIn(words, self.said(json.dumps({**job, **changes}), "cut"))
        empty = json.dumps({**job, "cuts": []})
        for command in ("map", "compare", "stability"):
            self.assertIn("the job has no cuts yet", self.said(empty, command, "--cut", "Rough cavity"))
        self.assertIn("at least one is needed", self.said(empty, "sheet", "-o", str(self.folder / "s.html")))
        self.assertIn("the file holds a number that is too long", self.said('{"lesna": ' + "1" * 5000 + "}", "cut"))
        path = self.folder / "job.lesna"
        path.write_text(empty)
        self.assertEqual(self.call("cut", path)[:2], (0, "the job has no cuts yet\n"))
        job["cuts"][1]["feature"] = {"kind": "pocket", "depth_mm": 5, "profile_mm": [[0, 0], [90000, 0], [90000, 900]]}
        said = self.said(json.dumps(job), "path", "--cut", "Rough cavity", "-o", str(self.folder / "p.nc"))
        self.assertIn("cuts[1].feature.profile_mm: has a coordinate beyond 20000 mm", said)


class AsAProgram(unittest.TestCase):
    def test_a_window_without_a_display_is_refused_in_words(self) -> None:
        environment = {
            k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        }
        done = subprocess.run([sys.executable, "-m", "lesna", "--demo"], capture_output=True, text=True, env=environment,
                              timeout=60, check=False)  # fmt: skip
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertIn("there is no display", done.stderr)

    def test_python_m_lesna_without_a_display(self) -> None:
        environment = {
            k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        }
        with tempfile.TemporaryDirectory() as folder:
            job, out = Path(folder) / "job.lesna", Path(folder) / "sheet.pdf"
            job.write_text(json.dumps(raw()))
            done = subprocess.run([sys.executable, "-m", "lesna", "sheet", str(job), "-o", str(out)], capture_output=True,
                                  text=True, env=environment, check=False)  # fmt: skip
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            self.assertTrue(out.read_bytes().startswith(b"%PDF-1."))
            self.assertGreater(out.stat().st_size, 20_000)

    def test_a_display_that_does_not_answer_is_said_and_a_sheet_needs_none(self) -> None:
        environment = {k: v for k, v in os.environ.items() if k not in ("WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        environment["DISPLAY"] = ":77"
        done = subprocess.run([sys.executable, "-m", "lesna", "--demo"], capture_output=True, text=True, env=environment,
                              timeout=60, check=False)  # fmt: skip
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertRegex(
            done.stderr, r"^lesna: the display does not answer \(.+\); lesna cut, map and sheet work without one\n$"
        )
        with tempfile.TemporaryDirectory() as folder:
            job, out = Path(folder) / "job.lesna", Path(folder) / "sheet.pdf"
            job.write_text(json.dumps(raw()))
            done = subprocess.run([sys.executable, "-m", "lesna", "sheet", str(job), "-o", str(out)], capture_output=True,
                                  text=True, env={**environment, "QT_QPA_PLATFORM": "xcb"}, check=False)  # fmt: skip
            self.assertEqual((done.returncode, done.stderr, out.read_bytes()[:7]), (0, "", b"%PDF-1."))

    def test_version(self) -> None:
        done = subprocess.run([sys.executable, "-m", "lesna", "--version"], capture_output=True, text=True, check=True)
        self.assertRegex(done.stdout, r"lesna, version \d+\.\d+\.\d+")
