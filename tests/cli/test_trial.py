"""`lesna trial` and `lesna bank` as a script calls them; what trials taught reaches the other commands."""

import csv
import io
import json
import os
from pathlib import Path
from typing import Any
from unittest import mock

from lesna.bank.store import Bank
from tests import support
from tests.cli.driver import CommandTest
from tests.learning.edges import SETTING, reading

JOB = support.raw(ae_mm=1.2)
HEAD = [*SETTING, "n_rpm", "vf_mm_min", "vb_mm", "retired", "wear_kind"]


class TrialCommands(CommandTest):
    def setUp(self) -> None:
        super().setUp()
        self.address = str(self.folder / "bank.db")
        self.job = self.write(JOB)
        # no other bank of this machine is asked
        patched = mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder / "data"), "LESNA_BANK": self.address})
        patched.start()
        self.addCleanup(patched.stop)

    def rows(self, *rows: dict[str, Any], name: str = "looks.csv") -> Path:
        out = io.StringIO()
        ran = reading()
        usual = {**SETTING, "n_rpm": ran.n_rpm, "vf_mm_min": ran.vf_mm_min}
        writer = csv.DictWriter(out, HEAD)
        writer.writeheader()
        writer.writerows({**usual, **row} for row in rows)
        return self.write(out.getvalue(), name)

    def five(self, median: float = 180.0) -> Path:
        return self.rows(
            *(
                {"edge": f"E{k}", "minutes": round(median * k / 10, 1), "vb_mm": 0.3, "retired": "worn"}
                for k in (8, 9, 10, 11, 12)
            )
        )

    def test_log_counts_names_bad_lines_and_is_idempotent(self) -> None:
        file = self.rows({"minutes": 10, "vb_mm": 0.1}, {"minutes": -1}, {"minutes": 20, "vb_mm": 0.15})
        code, out, err = self.call("trial", "log", file)
        self.assertEqual((code, out), (1, "2 readings added, 1 refused\n"))
        self.assertRegex(err, r"looks.csv: line 3: minutes: must be at least 0, got -1")
        code, out, _ = self.call("trial", "log", file, "--json")
        self.assertEqual((code, json.loads(out)["added"], json.loads(out)["known"]), (1, 0, 2))
        self.assertIn("is missing", self.call("trial", "log", self.write("trial,edge,minutes\n,E1,3\n", "none.csv"))[2])
        self.assertEqual(self.call("trial", "log", self.folder / "none.csv")[0], 2)
        self.refused("trial", "log", self.folder / "missing.csv")

    def test_looks_wait_while_the_server_is_away(self) -> None:
        away = "postgresql+psycopg://nobody@127.0.0.1:1/none"
        code, _, err = self.call("trial", "log", self.rows({"minutes": 10, "vb_mm": 0.1}), "--bank", away)
        self.assertEqual(code, 2)
        self.assertRegex(
            err, "the server does not answer.*; the readings wait in .*waiting.*and are sent when it answers"
        )
        code, out, err = self.call("trial", "log", self.rows({"minutes": 20, "vb_mm": 0.15}))
        self.assertEqual((code, out), (0, "1 reading added\n"))
        self.assertIn("1 reading that waited for the server were sent", err)

    def test_a_land_that_shrinks_is_taken_and_said(self) -> None:
        code, out, err = self.call(
            "trial", "log", self.rows({"minutes": 10, "vb_mm": 0.15}, {"minutes": 20, "vb_mm": 0.05})
        )
        self.assertEqual((code, out), (0, "2 readings added\n"))
        self.assertIn("VB fell from 0.15 to 0.05 mm; wear does not shrink", err)

    def test_fit_next_and_plan_follow_the_contract(self) -> None:
        bare = self.answer("trial", "fit", "--like", self.job, "--cut", "Side")
        self.assertFalse(Path(self.address).exists())  # asking makes no bank
        self.assertEqual((bare["edges"], bare["check"]["inside_pct"], bare["criterion_vb_mm"]), (0, None, 0.3))
        self.assertEqual(self.call("trial", "log", self.five())[0], 0)
        found = self.answer("trial", "fit", "--like", self.job, "--cut", "Side")
        self.assertEqual((found["edges"], found["readings"], found["check"]["held_out"]), (5, 5, 5))
        self.assertGreaterEqual(len(found["life"]), 7)
        self.assertEqual(len({point["vc_m_min"] for point in found["life"]}), len(found["life"]))
        cut = found["at_cut"]
        self.assertTrue(cut["safe_min"] <= cut["low_min"] < cut["median_min"] < cut["high_min"])
        self.assertGreater(cut["median_min"], bare["at_cut"]["median_min"])
        self.assertEqual(set(found["force_scale"]) & {"median", "low", "high"}, {"median", "low", "high"})
        advice = self.answer("trial", "next", self.job, "--cut", "Side")
        self.assertEqual(set(advice["change"]), {"what", "from", "to", "unit"})
        self.assertIn(advice["change"]["what"], ("fz_mm", "ap_mm", "vc_m_min", "ae_mm", "stop", "none"))
        for key in ("reading", "says", "why", "look_for", "after_min", "conflicts", "beyond_model"):
            self.assertIn(key, advice)
        plan = self.answer(
            "trial",
            "plan",
            self.job,
            "--cut",
            "Side",
            "--step",
            "speed",
            "--steps",
            "4",
            "--minutes",
            "9",
            "--keep",
            "Speed",
        )
        self.assertEqual([step["minutes"] for step in plan["steps"]], [9.0] * 4)
        self.assertEqual(plan["ceiling"]["what"], "vc_m_min")
        self.assertTrue(plan["stop_rule"] and plan["ceiling"]["held_by"])
        listed = json.loads(self.call("bank", "list", "--kind", "trials", "--json")[1])
        self.assertEqual({entry["id"]: len(entry["readings"]) for entry in listed["trials"]}, {"Speed": 0, "T": 5})
        for command in (("trial", "fit", "--like"), ("trial", "next"), ("trial", "plan")):
            code, out, _ = self.call(*command, self.job, "--cut", "Side")
            self.assertEqual((code, "None" in out), (0, False))

    def test_what_trials_taught_reaches_every_command_and_says_so(self) -> None:
        def life() -> float:
            return float(self.answer("cut", self.job)["cuts"][0]["life_min"])

        table = life()
        self.assertIsNone(self.answer("cut", self.job)["cuts"][0]["learned"])
        self.call("trial", "log", self.five())
        fitted = self.answer("trial", "fit", "--like", self.job, "--cut", "Side")["at_cut"]["median_min"]
        self.assertAlmostEqual(life(), fitted, places=6)
        self.assertGreater(life(), 1.2 * table)
        self.assertEqual(self.answer("cut", self.job)["cuts"][0]["learned"]["edges"], 5)
        self.assertIn("(from 5 edges)", self.call("cut", self.job)[1])

    def test_a_bank_that_cannot_be_read_is_told_and_left_aside(self) -> None:
        Path(self.address).write_text("this is no bank")
        code, out, err = self.call("cut", self.job)
        self.assertEqual((code, "edge life" in out), (0, True))
        self.assertIn("left aside", err)
        for command in (
            ("bank", "list"),
            ("bank", "check"),
            ("trial", "log", self.five()),
            ("trial", "fit", "--like", self.job, "--cut", "Side"),
        ):
            self.assertIn("no bank of Lesna", self.refused(*command))
        self.assertEqual(Path(self.address).read_text(), "this is no bank")

    def test_bank_imports_exports_and_checks(self) -> None:
        said = self.refused("bank", "list")
        self.assertIn("does not exist; check the name, or begin a bank with", said)
        self.assertEqual(self.call("bank", "import", support.HINGE.parent / "kilnbrook-bank.json")[0], 0)
        check = json.loads(self.call("bank", "check", "--json")[1])
        self.assertEqual(
            (check["ok"], check["readings"], check["recipes"], check["schema"], check["problems"]),
            (True, 60, 12, 1, []),
        )
        for name in ("all.json", "looks.csv"):
            self.assertEqual(self.call("bank", "export", self.folder / name)[0], 0)
            self.assertEqual(
                self.call("bank", "import", self.folder / name, "--bank", self.folder / f"{name}.db")[0], 0
            )
            with Bank(self.folder / f"{name}.db") as copy, Bank(self.address) as first:
                self.assertEqual(copy.readings(), first.readings())
        self.refused("bank", "export", self.folder / "x.txt")
        self.refused("bank", "export", self.folder / "x.csv", "--kind", "recipes")
        self.refused("bank", "list", "--bank", "ftp://x/y")
        listed = json.loads(self.call("bank", "list", "--json")[1])
        self.assertLessEqual({"recipes", "trials", "tools", "standards"}, set(listed))
        self.assertIn("recipe  Pin slot by loops", self.call("bank", "list")[1])

    def test_recipes_quote_and_night_follow_the_contract(self) -> None:
        self.call("bank", "import", support.HINGE.parent / "kilnbrook-bank.json")
        like = self.answer("bank", "like", support.HINGE, "--cut", "Rough cavity")["like"]
        self.assertEqual([one["distance"] for one in like], sorted(one["distance"] for one in like))
        self.assertLessEqual({"id", "title", "distance", "differences", "evidence", "cut"}, set(like[0]))
        self.assertEqual(like[0]["evidence"]["edges"] > 0, like[0]["proven"])
        pocket = {"kind": "pocket", "length_mm": 90.0, "width_mm": 60.0, "depth_mm": 12.0, "corner_radius_mm": 8.0}
        sized = self.write(support.raw(feature=pocket), "sized.lesna")
        quote = self.answer("bank", "quote", sized, "--parts", "10")
        self.assertEqual((quote["parts"], quote["from"], len(quote["cuts"])), (10, "model", 1))
        self.assertTrue(quote["minutes_low"] < quote["minutes_per_part"] < quote["minutes_high"])
        plan = self.answer("bank", "plan", sized, "--hours", "6")
        self.assertGreater(plan["parts"], 0)
        self.assertEqual(len(plan["cuts"][0]["changes_h"]), plan["cuts"][0]["edges"] - 1)
        beside = self.answer("bank", "beside", support.HINGE, "--cut", "Pin slot")
        self.assertIsNone(beside["book"]["figures"])
        self.assertIn("proven by", beside["bank"]["says"])
        self.assertGreater(beside["model"]["figures"]["vc_m_min"], 0)
        for command in (("like", support.HINGE, "--cut", "Pin slot"), ("beside", support.HINGE, "--cut", "Pin slot"), ("quote", sized),
                        ("plan", sized, "-o", self.folder / "plan.html")):  # fmt: skip
            self.assertEqual(self.call("bank", *command)[0], 0)
        self.assertIn("not known", self.refused("bank", "plan", self.job))
        self.assertIn("is not in the range", self.call("bank", "plan", sized, "--survival", "1")[2])

    def test_a_machine_is_listened_to_and_what_it_said_logged(self) -> None:
        arguments = ("trial", "record", self.job, "--cut", "Side", "--for", "0.012")
        code, out, _ = self.call(*arguments, "--simulated", "--edge", "E1", "--json")
        found = json.loads(out)
        self.assertEqual((code, found["simulated"], found["rejected"]), (0, True, {}))
        self.assertGreater(found["minutes"], 0.0)
        with Bank(self.address) as bank:
            logged = bank.readings()[0]
        self.assertEqual((logged.trial, logged.edge, logged.note), ("Side", "E1", "simulated machine"))
        code, out, err = self.call(*arguments, "--url", "http://127.0.0.1:9")
        self.assertEqual(code, 0)
        self.assertIn("does not answer", err)
        self.assertIn("0.0 min in the cut", out)
        self.assertIn("has no address", self.refused(*arguments))
        self.assertIn("http://machine:5000 is the right form", self.refused(*arguments, "--url", "hello"))

    def test_a_newer_bank_is_read_and_not_written(self) -> None:
        import sqlite3

        self.call("trial", "log", self.five())
        raw = sqlite3.connect(self.address)
        raw.execute("UPDATE alembic_version SET version_num = '0099'")
        raw.commit()
        raw.close()
        self.assertEqual(self.answer("trial", "fit", "--like", self.job, "--cut", "Side")["edges"], 5)
        self.assertIn("newer", self.refused("trial", "log", self.rows({"edge": "E77", "minutes": 3})))

    def test_names_that_do_not_exist_are_refused(self) -> None:
        self.assertIn("no cut is named", self.refused("trial", "next", self.job, "--cut", "Nothing"))
        self.assertIn("steps", self.refused("trial", "plan", self.job, "--cut", "Side", "--steps", "1"))
        self.refused("trial", "plan", self.folder / "no.lesna", "--cut", "Side")
