"""A feature from a drawing in Setup: dropped, its layers and open sides chosen, and what is wrong with it said."""

import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from lesna.desktop.dropped import kind_of
from lesna.desktop.workspaces.compare import feature_line
from lesna.model.files import save_job
from tests.desktop.driver import WindowTest, wait_for
from tests.geometry.test_drawing import drawn
from tests.geometry.test_drawn import plate


class DrawingForm(WindowTest):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "plate.dxf").write_bytes(drawn(plate))
        save_job(self.session.job, self.folder / "job.lesna")
        self.assertTrue(self.bench.open_path(self.folder / "job.lesna"))
        self.session.select(1)

    def take(self, path: Path) -> None:
        self.bench.take_file(path)
        wait_for(lambda: self.session.cut.feature is not None and self.session.cut.feature.dxf is not None)
        self.form = self.bench.page("setup").drawing

    def test_a_dropped_drawing_becomes_the_feature(self) -> None:
        self.assertEqual(kind_of(self.folder / "plate.dxf"), "drawing")
        self.take(self.folder / "plate.dxf")
        feature = self.session.cut.feature
        self.assertEqual((feature.dxf, feature.part_layer, feature.stock_layer, feature.island_layer, feature.keep_out_layer),
                         ("plate.dxf", "PART", "STOCK", "ISLAND", "CLAMP"))  # fmt: skip
        self.assertTrue(self.form.isVisible())
        self.assertIn("Read plate.dxf in mm: PART with 1 island", self.form.told.text())
        self.assertFalse(self.bench.page("setup").bound.fields["feature.length_mm"].isVisible())
        self.assertIn("From a drawing", feature_line(feature, "metric"))
        QTest.mouseClick(self.form.sides["x+"], Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.cut.feature.open_sides, ("x+",))
        self.form.layers["keep_out_layer"].chosen.emit("")
        self.assertIsNone(self.session.cut.feature.keep_out_layer)
        self.assertEqual(self.session.cut.feature.drawn.keep_out, ())
        self.bench.undo()
        self.assertEqual(self.session.cut.feature.keep_out_layer, "CLAMP")
        self.session.save(self.folder / "job.lesna")
        self.assertTrue(self.bench.open_path(self.folder / "job.lesna"))
        self.assertEqual(len(self.session.job.cuts[1].feature.outline), 4)

    def test_what_is_wrong_is_said_and_the_job_stays(self) -> None:
        (self.folder / "text.dxf").write_text("no drawing at all")
        self.bench.take_file(self.folder / "text.dxf")
        wait_for(lambda: "is no DXF" in self.bench.banner.text.text())
        self.assertEqual(self.session.cut.feature.kind, "pocket")
        self.take(self.folder / "plate.dxf")
        self.session.save(self.folder / "job.lesna")
        (self.folder / "plate.dxf").unlink()
        self.assertTrue(self.bench.open_path(self.folder / "job.lesna"))
        self.assertIn("plate.dxf: does not exist", self.bench.banner.text.text())

    def test_a_drawing_from_elsewhere_is_read_because_it_was_chosen(self) -> None:
        with tempfile.TemporaryDirectory() as other:
            path = Path(other) / "far.dxf"
            path.write_bytes(drawn(plate))
            self.take(path)
            self.assertEqual(Path(self.session.cut.feature.dxf), path.resolve())
            self.assertIn(path.resolve(), self.bench.memory.drawings())
            self.assertEqual(len(self.session.cut.feature.outline), 4)


if __name__ == "__main__":
    unittest.main()
