"""`lesna path`: its object, its file, and one line for what cannot be done."""

import tempfile
from pathlib import Path

from tests.cli.driver import CommandTest
from tests.support import DEMOS

JOB = DEMOS[0].parent / "sluice-hinge-block.lesna"


class PathCommand(CommandTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.out = Path(folder.name) / "path.nc"

    def test_the_object_and_the_program(self) -> None:
        data = self.answer("path", JOB, "--cut", "Pin slot", "-o", self.out, "--way", "held", "--zigzag")
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
            "nc", "check", self.out, "--job", str(JOB), "--cut", "Pin slot", "--stock", "block:-40,-20,-30,40,20,0"
        )
        self.assertGreater(checked["fxy_peak_n"], 0)

    def test_refusals(self) -> None:
        for given, words in ((("--cut", "Face top", "--way", "loops"), "open along its side"), (("--cut", "None"), "None"),
                             (("--cut", "Face top", "--way", "offsets"), "choose rows"), (("--cut", "Cavity floor"), "leaves nothing"),
                             (("--cut", "Face top", "--after", "Face top"), "cannot follow itself"),
                             (("--cut", "Pin slot", "--post", "unknown"), "choose three-axis")):  # fmt: skip
            with self.subTest(words=words):
                self.assertIn(words, self.refused("path", JOB, *given, "-o", self.out))
                self.assertFalse(self.out.exists())
