"""The step Surface in the real window: it comes and goes with the feature, turns, drags its threshold, makes, proves and hands on."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from lesna.desktop.surfaces.eye import Eye
from lesna.model.files import load_job
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.planning.surface import test_finishing as small


class SurfaceStep(WindowTest):
    shares = True

    def open(self, name: str = "wall", **feature):  # type: ignore[no-untyped-def]
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        shutil.copy(small.FOLDER / small.file_of(name), self.folder / f"{name}.stl")
        self.session.open(small.job_of(name, **feature), None, folder=self.folder)
        self.bench.show_step(self.bench.place_of("surface"))
        page = self.bench.page("surface")
        wait_for(lambda: page.decision is not None or page.surfaces.decision.trouble)
        APP.processEvents()
        return page

    def test_it_stands_on_the_route_only_where_there_is_a_surface(self) -> None:
        self.assertNotIn("Surface", self.bench.route.steps)
        self.open()
        self.assertEqual(self.bench.route.steps[3:5], ("Surface", "Path"))
        QTest.keyClick(self.running.window, Qt.Key.Key_5, Qt.KeyboardModifier.ControlModifier)
        self.assertIs(self.bench.pages.currentWidget(), self.bench.page("path"))
        self.bench.show_step(3)
        self.session.edit_cut("No feature", feature=None)
        self.assertNotIn("Surface", self.bench.route.steps)
        self.assertIs(self.bench.pages.currentWidget(), self.bench.page("cut"))
        self.session.stack.undo()
        self.assertIn("Surface", self.bench.route.steps)

    def test_the_part_is_turned_by_drag_and_keys(self) -> None:
        view = self.open().view
        self.assertEqual(view.eye, Eye())
        QTest.keyClick(view, Qt.Key.Key_Left)
        QTest.keyClick(view, Qt.Key.Key_Up)
        self.assertEqual((view.eye.turn, view.eye.height), (Eye().turn - 10, Eye().height + 10))
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(100, 100))
        QTest.mouseMove(view, QPoint(150, 90))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(150, 90))
        self.assertNotEqual(view.eye.turn, Eye().turn - 10)
        QTest.keyClick(view, Qt.Key.Key_Plus)
        self.assertGreater(view.eye.zoom, 1.0)
        QTest.keyClick(view, Qt.Key.Key_H)
        self.assertEqual(view.eye, Eye())
        view.grab()

    def test_a_dragged_threshold_is_followed(self) -> None:
        page = self.open("ramp")
        chart = page.chart
        axes = chart.axes()
        at = axes.at(25.0, 0.1).toPoint()
        QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=at)
        QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=at)
        wait_for(lambda: page.decision is not None and page.decision.typed)
        self.assertEqual(page.decision.threshold, 25.0)
        self.assertEqual(page.fields["threshold"].edit.text(), "25.0 °")
        field = page.fields["threshold"]
        field.edit.setText("95")
        field.edit.setModified(True)
        self.assertFalse(field.commit_typing())
        self.assertIn("between 1 and 89", field.trouble.text())

    def test_a_path_is_made_proved_and_handed_on(self) -> None:
        page = self.open()
        QTest.mouseClick(page.make, Qt.MouseButton.LeftButton)
        wait_for(lambda: page.done is not None or page.surfaces.finished.trouble)
        done = page.done
        self.assertTrue(done.made.proof.passes)
        wait_for(lambda: self.session.result.timing is not None and self.session.result.timing.basis == "path")
        self.assertEqual(page.holders.rowCount(), len(done.held))
        page.panel.show_face(3)
        QTest.mouseClick(page.take_holder, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(self.session.cut.stick_out_mm, done.held[0].length, delta=0.011)
        self.assertEqual(self.session.cut.holder.id, done.held[0].holder.id)
        wait_for(lambda: page.done is not None)
        page.write_path(self.folder / "wall.stl")
        self.assertIn("is a part of this job", self.bench.banner.text.text())
        page.write_path(self.folder / "wall.nc")
        self.assertTrue((self.folder / "wall.nc").read_bytes().rstrip().endswith(b"%"))
        page.check(self.folder / "wall.nc")
        wait_for(lambda: page.checked is not None)
        APP.processEvents()
        self.assertIn("wall.nc: proved", page.proof.text())
        for colour in ("slope", "plan", "along", "down", "regions", "left"):
            page._on_colour(colour)
            page.view.grab()
        self.bench.window().repaint()
        page.view.grab()
        QTest.mouseMove(page.view, QPoint(page.view.width() // 2, page.view.height() // 2))
        page._on_pointed(int((page.decision.ground_faces.of == 0).argmax()))
        self.assertRegex(page.view.told, r"^face 1, \d+°, [\d.]+ mm from above, .* left$")
        QTest.mouseClick(page.take_cut, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(self.session.cut.ae_mm, done.made.decision.stepover, 3)

    def test_a_part_is_taken_and_refused_in_words(self) -> None:
        page = self.open()
        (self.folder / "words.stl").write_bytes(b"no part, but words enough to be read as one")
        self.bench.take_file(self.folder / "words.stl")
        self.assertEqual(self.session.cut.feature.stl, "words.stl")
        wait_for(lambda: bool(page.surfaces.decision.trouble))
        APP.processEvents()
        self.assertIn("no STL file", page.words.text())
        self.session.stack.undo()
        wait_for(lambda: page.decision is not None)

    def test_the_shipped_cover_opens(self) -> None:
        from lesna.data.places import shipped_folder

        job = load_job(shipped_folder() / "demo" / "hinge-cover.lesna")
        self.session.open(job, None, folder=shipped_folder() / "demo")
        self.bench.show_step(3)
        page = self.bench.page("surface")
        wait_for(lambda: page.decision is not None)
        self.assertEqual(page.decision.part.mesh.troubles, ())


if __name__ == "__main__":
    unittest.main()
