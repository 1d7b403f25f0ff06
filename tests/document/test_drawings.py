"""Drawings of a job: found from its folder, read again where they change, and never part of the document."""

import os
import tempfile
import unittest
from pathlib import Path

from lesna.document.document import Document
from lesna.document.drawings import Drawings, troubles_of
from lesna.document.edits import with_feature
from lesna.model.files import load_job, save_job
from tests.geometry.test_drawing import drawn
from tests.geometry.test_drawn import plate
from tests.support import LIBRARY, job

PROFILE = {"kind": "profile", "dxf": "plate.dxf", "part_layer": "PART", "depth_mm": 6.0}


class OfAJob(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "plate.dxf").write_bytes(drawn(plate))

    def drawn(self, **values):  # type: ignore[no-untyped-def]
        return Drawings().of(job(feature={**PROFILE, **values}), self.folder)

    def test_outlines_are_there_and_do_not_stand_in_the_file(self) -> None:
        found = self.drawn()
        self.assertEqual(len(found.cuts[0].feature.outline), 4)
        self.assertEqual(troubles_of(found), ())
        save_job(found, self.folder / "job.lesna")
        self.assertNotIn("outline", (self.folder / "job.lesna").read_text())
        self.assertIsNone(load_job(self.folder / "job.lesna").cuts[0].feature.drawn)

    def test_only_drawings_of_its_folder_are_read_unless_one_was_chosen(self) -> None:
        outside = self.folder / "sub"
        outside.mkdir()
        for name in ("../plate.dxf", str(self.folder / "plate.dxf")):
            found = Drawings().of(job(feature={**PROFILE, "dxf": name}), outside)
            self.assertIn("in the job's folder", troubles_of(found)[0][1])
        (outside / "link.dxf").symlink_to(self.folder / "plate.dxf")
        self.assertTrue(troubles_of(Drawings().of(job(feature={**PROFILE, "dxf": "link.dxf"}), outside)))
        chosen = Drawings([self.folder / "plate.dxf"])
        found = chosen.of(job(feature={**PROFILE, "dxf": str(self.folder / "plate.dxf")}), outside)
        self.assertEqual(troubles_of(found), ())

    def test_what_cannot_be_read_is_told_and_the_job_opens_all_the_same(self) -> None:
        (self.folder / "text.dxf").write_text("no drawing")
        for name, words in (("none.dxf", "none.dxf: does not exist"), ("text.dxf", "text.dxf: is no DXF")):
            document = Document(job(feature={**PROFILE, "dxf": name}), LIBRARY, self.folder / "job.lesna")
            self.assertIn(words, troubles_of(document.job)[0][1])
            self.assertEqual(len(document.results), 1)
        self.assertIn("save the job", troubles_of(Drawings().of(job(feature=PROFILE), None))[0][1])

    def test_an_edit_keeps_the_outline_and_a_changed_drawing_is_read_again(self) -> None:
        document = Document(job(feature=PROFILE), LIBRARY, self.folder / "job.lesna")
        edit = document.change("Depth", with_feature(document.job, 0, depth_mm=8.0))
        document.do(edit)
        self.assertEqual(len(document.job.cuts[0].feature.outline), 4)
        (self.folder / "plate.dxf").write_bytes(
            drawn(lambda space, _: space.add_circle((0, 0), 30, dxfattribs={"layer": "PART"}))
        )
        os.utime(self.folder / "plate.dxf", (1, 1))
        document.do(document.change("Depth", with_feature(document.job, 0, depth_mm=9.0)))
        self.assertGreater(len(document.job.cuts[0].feature.outline), 20)

    def test_a_job_that_is_saved_elsewhere_takes_its_drawings_along(self) -> None:
        document = Document(job(feature=PROFILE), LIBRARY, self.folder / "job.lesna")
        other = self.folder / "elsewhere"
        other.mkdir()
        document.save(other / "job.lesna")
        self.assertEqual((other / "plate.dxf").read_bytes(), (self.folder / "plate.dxf").read_bytes())
        # what is there already is somebody's own
        (other / "plate.dxf").write_text("mine")
        Document(job(feature=PROFILE), LIBRARY, self.folder / "job.lesna").save(other / "again.lesna")
        self.assertEqual((other / "plate.dxf").read_text(), "mine")

    def test_another_kind_of_feature_forgets_the_drawing_and_back(self) -> None:
        drawn_job = self.drawn()
        pocket = with_feature(drawn_job, 0, kind="pocket", length_mm=40.0, width_mm=30.0)
        self.assertIsNone(pocket.cuts[0].feature.dxf)
        back = with_feature(pocket, 0, **PROFILE)
        self.assertEqual(back.cuts[0].feature.dxf, "plate.dxf")


if __name__ == "__main__":
    unittest.main()
