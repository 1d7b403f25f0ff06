"""A folder with a job, its program and its stock is moved as a whole."""

import shutil
import tempfile
import unittest
from pathlib import Path

from lesna.document.document import Document
from lesna.document.named_files import found_beside
from lesna.model.files import load_job
from tests.support import LIBRARY, job


class NamedFiles(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        (self.folder / "here" / "nc").mkdir(parents=True)
        (self.folder / "here" / "nc" / "pocket.nc").write_text("G1 X1 F100\n")
        (self.folder / "here" / "part.stl").write_text("solid\nendsolid\n")

    def named(self, file: str, stock: str = "") -> Document:
        return Document(job(program={"file": file, "stock": stock}), LIBRARY)

    def saved(self, document: Document, name: str):  # type: ignore[no-untyped-def]
        path = self.folder / name / "job.lesna"
        path.parent.mkdir(exist_ok=True)
        document.save(path)
        return load_job(path).cuts[0].program

    def test_what_lies_beside_the_saved_job_is_named_from_there(self) -> None:
        here = self.folder / "here"
        document = self.named(str(here / "nc" / "pocket.nc"), f"{here / 'part.stl'};G55={here / 'part.stl'}")
        written = self.saved(document, "here")
        self.assertEqual((written.file, written.stock), ("nc/pocket.nc", "part.stl;G55=part.stl"))
        self.assertEqual(document.job.cuts[0].program.file, "nc/pocket.nc")  # the open job reads the same
        moved = self.folder / "moved"
        shutil.move(here, moved)
        again = load_job(moved / "job.lesna").cuts[0].program
        self.assertTrue((moved / again.file).is_file())

    def test_what_stays_in_the_former_folder_is_named_in_full(self) -> None:
        document = self.named(str(self.folder / "here" / "nc" / "pocket.nc"), "block:0,0,-5,10,10,0")
        self.saved(document, "here")
        written = self.saved(document, "elsewhere")
        self.assertEqual(written.file, str((self.folder / "here" / "nc" / "pocket.nc").resolve()))
        self.assertEqual(written.stock, "block:0,0,-5,10,10,0")

    def test_another_file_of_the_same_name_in_the_new_folder_is_not_taken_for_it(self) -> None:
        document = self.named(
            str(self.folder / "here" / "nc" / "pocket.nc"), f"part.stl;G55={self.folder}/here/part.stl"
        )
        self.saved(document, "here")
        (self.folder / "elsewhere" / "nc").mkdir(parents=True)
        (self.folder / "elsewhere" / "nc" / "pocket.nc").write_text("G1 X9 F900\n")
        written = self.saved(document, "elsewhere")
        here = (self.folder / "here").resolve()
        self.assertEqual(written.file, str(here / "nc" / "pocket.nc"))
        self.assertEqual(written.stock, f"{here / 'part.stl'};G55={here / 'part.stl'}")

    def test_a_file_of_the_same_name_beside_the_job_is_found(self) -> None:
        folder = self.folder / "here" / "nc"
        lost = job(program={"file": "/nowhere/pocket.nc"})
        found, told = found_beside(lost, folder)
        self.assertEqual(found.cuts[0].program.file, "pocket.nc")
        self.assertIn("pocket.nc lies beside the job", told[0])
        for same in (job(program={"file": "/nowhere/other.nc"}), job(program={"file": "pocket.nc"}), job()):
            self.assertEqual(found_beside(same, folder), (same, ()))


if __name__ == "__main__":
    unittest.main()
