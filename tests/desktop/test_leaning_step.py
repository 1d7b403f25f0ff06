"""A program of five axes in the step Path: turned by drag and keys, cut to the cursor, clicked, levelled, written, refused in words."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from lesna.desktop.dropped import kind_of
from lesna.desktop.programs.leaning_scene import LeaningScene
from lesna.desktop.records.axes_drawing import AxesDrawing
from lesna.desktop.theme import NIGHT, THEME
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.planning.program.leaning_job import BALL, BLOCK, geometry_of, passes


class LeaningStep(WindowTest):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        cut = {"name": "Pass", "strategy": "heavy_radial", "tool": BALL, "holder": {"kind": "shrink"}, "stick_out_mm": 44.0, "ae_mm": 3.0,
               "ap_mm": 2.0, "vc_m_min": 120.0, "hex_mm": 0.03, "program": {"file": "five.cl", "stock": BLOCK}}  # fmt: skip
        job = {
            "lesna": 1,
            "title": "Five",
            "machine": "hsk63-5x-18k",
            "workpiece": {"material": "42crmo4-qt30"},
            "cuts": [cut],
        }
        (self.folder / "five.lesna").write_text(json.dumps(job))
        (self.folder / "five.cl").write_text(passes(2))
        self.assertTrue(self.bench.open_path(self.folder / "five.lesna"))
        self.session.stack.setClean()
        self.bench.show_step(3)
        self.page = self.bench.page("path")
        wait_for(lambda: self.page.found is not None or bool(self.page.programs.simulation.trouble))

    def settled(self) -> None:
        wait_for(lambda: not self.page.leaning._settles.isActive() and not self.page.leaning._goes_on.isActive())
        self.page.leaning.grab()

    def test_it_is_seen_turned_and_cut_to_the_cursor(self) -> None:
        view, run = self.page.leaning, self.page.found.run
        self.assertIs(self.page.seen.currentWidget(), view)
        whole = view.scene.bricks.volume
        self.page.go_to_step(20)
        self.settled()
        self.assertIsInstance(view.scene, LeaningScene)
        self.assertGreater(view.scene.bricks.volume, whole)
        self.page.go_to_step(len(run.geometry.steps) - 1)
        self.settled()
        self.assertEqual(view.scene.bricks.volume, whole)
        before, pixels = view.eye, view._seen.pixels.copy()
        QTest.keyClick(view, Qt.Key.Key_Right)
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(60, 60))
        QTest.mouseMove(view, QPoint(120, 90))
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(120, 90))
        self.settled()
        self.assertNotEqual(view.eye.turn, before.turn)
        self.assertFalse(np.array_equal(view._seen.pixels, pixels))
        QTest.keyClick(view, Qt.Key.Key_H)
        self.assertEqual(view.eye, view.home)
        THEME.use(NIGHT)
        APP.processEvents()
        self.settled()

    def test_strips_readout_and_colours_know_the_rotary_axes(self) -> None:
        g = geometry_of(self.page.found.run)
        step = int(np.flatnonzero(g.contact)[5])
        self.page.go_to_step(step)
        text = self.page.player.here.text()
        self.assertIn(" A-", text)
        self.assertIn("; on the part X ", text)
        offered = [self.page.player.colour.combo.itemData(k) for k in range(self.page.player.colour.combo.count())]
        self.assertIn("turns A", offered)
        self.page.player.colour.combo.setCurrentIndex(offered.index("feed"))
        self.page.player.colour.combo.activated.emit(offered.index("feed"))
        self.assertIn("feed", self.page.leaning.title)
        self.assertFalse(self.page.player.level.isVisible())

    def test_a_click_on_the_path_moves_the_cursor(self) -> None:
        view, g = self.page.leaning, geometry_of(self.page.found.run)
        self.page.go_to_step(0)
        self.settled()
        step = int(np.flatnonzero(g.judged)[-1])
        low, high = view.scene.low, view.scene.high
        x, y, _ = view.eye.project(g.steps.end[step][None], low, high, view.width(), view.height())[0]
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPointF(x, y).toPoint())
        self.assertLess(np.linalg.norm(g.steps.end[view.here] - g.steps.end[step]), 6.0)

    def test_levelled_and_written(self) -> None:
        wait_for(lambda: bool(self.page.levelled.variants))
        self.page.levelled.table.selectRow(3)
        made = self.page.levelled.chosen.made
        self.assertLess(made.run.end_time[-1], self.page.found.run.end_time[-1])
        self.assertIn("FEDRAT/", made.content.decode())
        self.assertIn("h", self.page.levelled.gain.text())

    def test_a_machine_that_cannot_says_so(self) -> None:
        self.session.edit("Another machine", self.session.job.with_values(machine="vmc40-12k"))
        wait_for(lambda: bool(self.page.programs.simulation.trouble))
        self.assertIn("has no rotary axes", self.page.words.text())
        self.bench.undo()
        wait_for(lambda: self.page.found is not None)

    def test_files_of_cutter_locations_are_programs(self) -> None:
        self.assertEqual((kind_of(Path("a.cl")), kind_of(Path("a.APT"))), ("program", "program"))

    def test_the_library_draws_the_axes(self) -> None:
        self.bench.open_library()
        page = self.bench.library.show_table("machines")
        page.choose("hsk100-5x")
        drawing = self.bench.library.findChild(AxesDrawing)
        self.assertTrue(drawing.isVisibleTo(self.bench.library))
        self.assertFalse(drawing.grab().isNull())
        page.choose("vmc40-12k")
        self.assertFalse(drawing.isVisibleTo(self.bench.library))


if __name__ == "__main__":
    unittest.main()
