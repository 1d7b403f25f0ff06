"""The time by a program is simulated once, and anew where anything that it depends on has changed."""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from lesna.model.errors import FileProblem
from lesna.model.job import ProgramRef
from lesna.model.lesson import Lesson
from lesna.model.resolve import parts_of
from lesna.planning.program import kept_time
from lesna.planning.routes import kept
from tests import support

POCKET = {"kind": "pocket", "length_mm": 60.0, "width_mm": 40.0, "depth_mm": 8.0, "corner_radius_mm": 8.0}
PROGRAM = "G21 G90 G94\nT1 M6\nS3000 M3\nG0 X-20 Y0 Z5\nG1 Z-2 F200\nX20 F600\nG0 Z5\nM30\n"


class KeptTimes(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        (self.folder / "a.nc").write_text(PROGRAM)
        patched = mock.patch.object(kept, "_folder", lambda: self.folder / "cache")
        patched.start()
        self.addCleanup(patched.stop)
        self.parts = parts_of(support.job(feature=POCKET), 0, support.LIBRARY)
        self.ref = ProgramRef(file="a.nc")

    def time(self, parts=None, ref=None):  # type: ignore[no-untyped-def]
        """The time, and whether it was simulated for it."""
        with mock.patch.object(kept_time, "time_of_cut", wraps=kept_time.time_of_cut) as run:
            found = kept_time.program_time(parts or self.parts, ref or self.ref, self.folder, {})
        return found, run.called

    def test_it_is_simulated_once(self) -> None:
        first, simulated = self.time()
        self.assertTrue(simulated)
        self.assertGreater(first.cutting, 0.0)
        self.assertEqual(self.time(), (first, False))
        # neither what is typed for other cuts to come nor what trials taught changes how a program runs
        for typed in (
            {"ae_mm": 3.0, "name": "Other"},
            {"fz_mm": 0.09, "hex_mm": None},
            {"vc_m_min": None, "n_rpm": 900.0},
        ):
            self.assertEqual(self.time(self.parts.with_cut(**typed)), (first, False))

    def test_it_is_that_of_the_whole_simulation(self) -> None:
        from lesna.planning.program.of_cut import run_of_cut
        from lesna.planning.program.summary import summary_of

        whole, found = summary_of(run_of_cut(self.parts, self.ref, self.folder, {})), self.time()[0]
        self.assertEqual((found.cutting, found.held), (whole.cut_time / 60.0, whole.held))
        self.assertAlmostEqual(found.cutting + found.linking, whole.time / 60.0, places=12)

    def test_whatever_it_depends_on_makes_it_anew(self) -> None:
        from dataclasses import replace

        first, _ = self.time()
        self.assertFalse(self.time(replace(self.parts, lesson=Lesson(edges=3)))[1])
        slow = replace(self.parts, machine=self.parts.machine.with_values(feed_max_x_mm_min=300.0))
        changed, simulated = self.time(slow)
        self.assertTrue(simulated)
        self.assertGreater(changed.cutting, first.cutting)
        wide = replace(self.parts, tool=self.parts.tool.with_values(DC=1.5 * self.parts.tool.DC))
        self.assertNotEqual(self.time(wide)[0].cutting, first.cutting)
        self.assertTrue(self.time(ref=ProgramRef(file="a.nc", stock="block:-50,-50,-8,50,50,0"))[1])
        (self.folder / "a.nc").write_text(PROGRAM.replace("F600", "F300"))
        self.assertGreater(self.time()[0].cutting, first.cutting)

    def test_what_is_damaged_is_made_anew_and_what_is_gone_is_said(self) -> None:
        first, _ = self.time()
        for path in (self.folder / "cache").iterdir():
            path.write_bytes(b"PK\x03\x04 torn")
        self.assertEqual(self.time(), (first, True))
        (self.folder / "a.nc").unlink()
        with self.assertRaises(FileProblem):
            self.time()


if __name__ == "__main__":
    unittest.main()
