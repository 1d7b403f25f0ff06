"""`lesna path`: its object, its file, and one line for what cannot be done."""

import json
import tempfile
from pathlib import Path

from tests.cli.driver import CommandTest
from tests.geometry.test_drawing import drawn
from tests.geometry.test_drawn import plate
from tests.support import DEMOS, raw

JOB = DEMOS[0].parent / "sluice-hinge-block.lesna"
SLOT = {"kind": "slot", "length_mm": 40.0, "width_mm": 16.0, "depth_mm": 4.0, "closed": True}


class PathCommand(CommandTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.out = Path(folder.name) / "path.nc"

    def test_the_object_and_the_program(self) -> None:
        job = self.write(raw(feature=SLOT, ap_mm=4.0, ae_mm=2.0))
        data = self.answer("path", job, "--cut", "Side", "-o", self.out, "--way", "held", "--zigzag")
        for key in (
            "length_cut_mm",
            "length_link_mm",
            "time_s",
            "q_mean_cm3_min",
            "leftover_mm2",
            "slivers",
            "points",
            "compute_s",
        ):
            self.assertIn(key, data)
        self.assertLessEqual(data["engagement"]["p95_deg"], 1.03 * data["engagement"]["target_deg"])
        text = self.out.read_text()
        for word in ("(cut)", "(wall)", "(retract)", "G54", "M30"):
            self.assertIn(word, text)
        checked = self.answer(
            "nc", "check", self.out, "--job", str(job), "--cut", "Side", "--stock", "block:-30,-20,-10,30,20,0"
        )
        self.assertGreater(checked["fxy_peak_n"], 0)

    def test_a_feature_from_a_drawing(self) -> None:
        folder = self.out.parent
        (folder / "plate.dxf").write_bytes(drawn(plate))
        profile = {"kind": "profile", "dxf": "plate.dxf", "part_layer": "PART", "stock_layer": "STOCK", "island_layer": "ISLAND",
                   "keep_out_layer": None, "depth_mm": 6.0, "open_sides": ["x+"], "stock_wall_mm": 0.2, "stock_floor_mm": 0.0}  # fmt: skip
        job = folder / "job.lesna"
        data = raw(feature=profile, ae_mm=5.0, ap_mm=6.0)
        job.write_text(json.dumps(data))
        told = self.answer("path", job, "--cut", "Side", "-o", self.out)
        self.assertIn("read plate.dxf in mm: PART with 1 island, stock STOCK", told["remarks"][0])
        self.assertEqual((told["leftover_mm2"], told["rapids_in_stock"]), (0.0, []))
        checked = self.answer(
            "nc", "check", self.out, "--job", str(job), "--cut", "Side", "--stock", str(folder / "plate.dxf:STOCK")
        )
        self.assertAlmostEqual(checked["removed_cm3"] * 1000, 24771, delta=500)
        self.out.unlink()
        for key, value, words in (("dxf", "../plate.dxf", "cuts[0].feature.dxf: ../plate.dxf: must be a drawing in the job's folder"),
                                  ("dxf", "none.dxf", "none.dxf: does not exist"), ("part_layer", "WALL", "its layers are"),
                                  ("depth_mm", 0.0, "depth_mm"), ("open_sides", ["z"], "open_sides")):  # fmt: skip
            data["cuts"][0]["feature"] = {**profile, key: value}
            job.write_text(json.dumps(data))
            with self.subTest(key=key, value=value):
                self.assertIn(words, self.refused("path", job, "--cut", "Side", "-o", self.out))
                self.assertFalse(self.out.exists())

    def test_refusals(self) -> None:
        data = raw(feature={"kind": "face", "length_mm": 40.0, "width_mm": 30.0, "depth_mm": 1.0}, ap_mm=1.0, ae_mm=8.0)
        first = {**data["cuts"][0], "name": "Floor", "feature": {**SLOT, "kind": "pocket"}, "ap_mm": 4.0, "ae_mm": 4.0}
        data["cuts"] += [first, {**first, "name": "Rest", "role": "rest"}]
        job = self.write(data)
        for given, words in ((("--cut", "Side", "--way", "loops"), "no channel"), (("--cut", "None"), "None"),
                             (("--cut", "Side", "--way", "offsets"), "choose rows"), (("--cut", "Rest"), "leaves nothing"),
                             (("--cut", "Side", "--after", "Side"), "cannot follow itself"),
                             (("--cut", "Floor", "--post", "unknown"), "choose three-axis")):  # fmt: skip
            with self.subTest(words=words):
                self.assertIn(words, self.refused("path", job, *given, "-o", self.out))
                self.assertFalse(self.out.exists())
