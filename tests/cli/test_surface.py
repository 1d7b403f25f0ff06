"""`lesna surface`: decides, writes and proves; answers as the contract says; refuses in one line."""

from __future__ import annotations

import copy
import shutil
import unittest
from typing import Any

from tests.cli.driver import CommandTest
from tests.planning.surface import test_finishing as small
from tests.support import raw

KEYS = {"faces", "threshold_deg", "threshold_reason", "cut_area_pct", "cut_faces", "stepover_mm", "step_down_mm", "tip_share_pct",
        "tip_share_down_pct", "d_eff_mm", "n_rpm", "vf_mm_min", "lead_deg", "stick_out", "path", "proof"}  # fmt: skip


class Surface(CommandTest):
    def job(self, name: str = "ramp", **feature: Any) -> Any:
        shutil.copy(small.FOLDER / small.file_of(name), self.folder / f"{name}.stl")
        data = raw(strategy="surface", role="finish", ae_mm=0.3, ap_mm=0.2,
                   feature={"kind": "surface", "stl": f"{name}.stl", "stock_mm": 0.2, "cusp_um": 20.0, **feature})  # fmt: skip
        data["cuts"][0]["tool"] = copy.deepcopy(small.BALL)
        return self.write(data)

    def test_it_decides_writes_and_proves(self) -> None:
        job, out = self.job(), self.folder / "ramp.nc"
        data = self.answer("surface", job, "--cut", "Side", "--threshold", "auto", "-o", out)
        self.assertLessEqual(KEYS, set(data))
        self.assertLessEqual({"length_mm", "time_s", "lifts", "turns", "links"}, set(data["path"]))
        proof = data["proof"]
        self.assertTrue(proof["passes"])
        self.assertLess(proof["gouge_um"], 2.0)
        self.assertGreater(proof["within_pct"], 99.0)
        self.assertEqual([c["slope_deg"] for c in proof["classes"]][0], [0, 15])
        self.assertGreater(len(data["stick_out"]), 5)
        checked = self.answer("surface", "check", job, "--cut", "Side", out)
        self.assertEqual(set(checked), {"lesna", "cut", "proof", "path"})
        self.assertEqual(checked["proof"]["gouge_um"], proof["gouge_um"])
        # the same program three hundredths lower
        low = self.folder / "low.nc"
        low.write_text(_lowered(out.read_text()))
        code, text, err = self.call("surface", "check", job, "--cut", "Side", low, "--strict")
        self.assertEqual((code, err), (1, ""))
        self.assertIn("NOT PROVED", text)
        spoiled = self.answer("surface", "check", job, "--cut", "Side", low)["proof"]
        self.assertFalse(spoiled["passes"])
        self.assertIn("into the part", " ".join(spoiled["fails"]))

    def test_people_read_lines(self) -> None:
        code, text, err = self.call(
            "surface", self.job(), "--cut", "Side", "--way", "lines", "--lines", "0", "--overlap", "0.8"
        )
        self.assertEqual((code, err), (0, ""))
        for words in (
            "Lines: 0°",
            "Steep or shallow",
            "Way: lines over all",
            "Shortest stick-out",
            "Path and proof",
            "leaning 35°",
        ):
            self.assertIn(words, text)

    def test_what_cannot_be_is_refused(self) -> None:
        job = self.job()
        self.assertIn(
            "threshold: must lie between 1 and 89", self.refused("surface", job, "--cut", "Side", "--threshold", "90")
        )
        self.assertIn(
            "neither a number of degrees nor auto", self.refused("surface", job, "--cut", "Side", "--lines", "steep")
        )
        self.assertIn(
            "feature.box_mm: misses the part", self.refused("surface", self.job(box_mm=[90, 0, 99, 9]), "--cut", "Side")
        )
        self.assertIn("feature.stl", self.refused("surface", self.write(raw()), "--cut", "Side"))
        gone = self.write(raw(feature={"kind": "surface", "stl": "gone.stl"}))
        self.assertIn("gone.stl", self.refused("surface", gone, "--cut", "Side"))
        over = self.job()
        self.assertIn("is what is read itself", self.refused("surface", over, "--cut", "Side", "-o", over))


def _lowered(text: str) -> str:
    """Each Z word three hundredths of a millimetre lower."""
    out = []
    for line in text.splitlines():
        words = [
            f"Z{float(word[1:]) - 0.03:.4f}" if word[:1] == "Z" and word[1:2] in "-.0123456789" else word
            for word in line.split(" ")
        ]
        out.append(" ".join(words))
    return "\n".join(out)


if __name__ == "__main__":
    unittest.main()
