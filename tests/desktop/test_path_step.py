"""The step Path through real events: a program is taken, looked at, levelled and written; what is wrong is said."""

import contextlib
import os
import shutil
import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox

from lesna.desktop.dropped import kind_of
from lesna.desktop.programs.answers import Simulated
from lesna.desktop.theme import THEME
from lesna.document.edits import with_cut
from lesna.model.files import load_job, save_job
from lesna.planning.routes.wish import Wish
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.stock.test_surface import binary, box
from tests.support import DEMOS, HINGE

GAUGE = DEMOS[0].parent / "gauge-panel.lesna"
PROGRAM = DEMOS[0].parent / "gauge-panel-window.nc"
#: tests take the first passes of both its levels
LINES = PROGRAM.read_bytes().splitlines(keepends=True)
FOLDER = Path(tempfile.gettempdir()) / f"lesna-path-step-{os.getpid()}"


class PathStep(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        # one place and one age of the files for all tests, so that they ask the same questions
        self.folder = FOLDER
        self.folder.mkdir(exist_ok=True)
        self.addCleanup(shutil.rmtree, self.folder)
        shutil.copy2(GAUGE, self.folder / "panel.lesna")
        (self.folder / "window.nc").write_bytes(b"".join((*LINES[:18], *LINES[55:63], *LINES[-4:])))
        os.utime(self.folder / "window.nc", (0, 0))
        self.assertTrue(self.bench.open_path(self.folder / "panel.lesna"))
        self.session.stack.setClean()
        self.bench.show_step(3)
        self.page = self.bench.page("path")

    def simulate(self) -> Simulated:
        self.page.take(self.folder / "window.nc")
        wait_for(lambda: self.page.found is not None)
        return self.page.found

    def test_without_a_program_it_says_what_to_do(self) -> None:
        self.assertIn("drop it here", self.page.words.text())
        self.assertFalse(self.page.levelled.export.isEnabled())

    def test_a_program_is_taken_as_an_edit_and_simulated(self) -> None:
        found = self.simulate()
        ref = self.session.cut.program
        self.assertEqual((ref.file, len(ref.digest)), ("window.nc", 64))
        self.assertIn("0:21 min:s", self.page.figures.text())
        self.assertEqual(found.summary.blocks, 15)
        self.assertIn("Nothing is touched", self.page.places.item(0).text())
        self.bench.undo()
        self.assertIsNone(self.session.cut.program)
        wait_for(lambda: self.page.found is None)
        self.assertIn("drop it here", self.page.words.text())

    def test_cursor_of_picture_strips_text_and_list_go_together(self) -> None:
        run = self.simulate().run
        middle = QPoint(self.page.strips.width() // 2, 40)
        QTest.mouseClick(self.page.strips, Qt.MouseButton.LeftButton, pos=middle)
        step = self.page.picture.here
        self.assertAlmostEqual(self.page.strips.time, float(run.end_time[step]), delta=0.5)
        line = int(run.geometry.program.moves.line[run.geometry.steps.move[step]])
        self.assertEqual(self.page.text.textCursor().blockNumber() + 1, line)
        self.assertIn(f"line {line}", self.page.player.here.text())
        QTest.keyClick(self.page.strips, Qt.Key.Key_Right)
        self.assertGreater(self.page.strips.time, float(run.end_time[step]) - 0.5)
        self.page.go_to_line(13)
        at = self.page.picture.at(*run.geometry.steps.end[self.page.picture.here][:2].tolist()).toPoint()
        QTest.mouseClick(self.page.picture, Qt.MouseButton.LeftButton, pos=at)
        item = self.page.places.item(1)
        self.page.places.itemClicked.emit(item)
        self.assertEqual(self.page.picture.here, item.data(Qt.ItemDataRole.UserRole))

    def test_it_plays_and_stops_at_the_end(self) -> None:
        run = self.simulate().run
        self.page.player.speed.show_value("100", "100 ×")
        QTest.mouseClick(self.page.player.play, Qt.MouseButton.LeftButton)
        self.assertEqual(self.page.player.play.text(), "Pause")
        wait_for(lambda: self.page.strips.time > 5)
        self.page.go_to_time(float(run.end_time[-1]) - 1.0)
        wait_for(lambda: not self.page.player.timer.isActive())
        self.assertEqual(self.page.player.play.text(), "Play")

    def level_to_own_targets(self) -> None:
        form = self.page.targets
        self.type_into(form.fields["peak"].edit, "-5")
        self.assertIn("above 0", form.fields["peak"].trouble.text())
        peak = 0.9 * self.page.found.summary.fxy_peak
        self.type_into(form.fields["peak"].edit, f"{peak:.0f} N")
        self.assertIn("lbf", form.fields["peak"].edit.text())
        self.type_into(form.fields["chip_most"].edit, "0.12 mm")
        form.by_block.setChecked(True)
        QTest.mouseClick(form.level, Qt.MouseButton.LeftButton)
        wait_for(lambda: len(self.page.levelled.variants) == 4)
        own = self.page.levelled.variants[3]
        self.assertEqual(own.aim, "own")
        self.assertLessEqual(own.summary.fxy_peak, 1.006 * peak)
        # the form that was asked for is the one that is looked at
        self.assertEqual(self.page.levelled.table.currentRow(), 4)
        self.assertIn("Your own targets", self.page.levelled.gain.text())
        with self.answering("Write it all the same"):
            self.page.export_to(self.folder / "own.nc")
        self.assertTrue((self.folder / "own.nc").exists())

    def test_levelled_forms_are_compared_and_one_is_written(self) -> None:
        program = self.folder / "window.nc"
        self.simulate()
        wait_for(lambda: bool(self.page.levelled.variants))
        self.assertEqual(
            [self.page.levelled.table.item(row, 0).text() for row in range(4)], ["as it is", "ease", "even", "push"]
        )
        self.page.levelled.table.selectRow(3)
        self.assertIn("in 150 parts", self.page.levelled.gain.text())
        self.assertIsNotNone(self.page.strips.other)
        before = program.read_bytes()
        self.page.export_to(program)
        self.assertEqual(program.read_bytes(), before)
        self.assertIn("the program itself", self.bench.banner.text.text())
        self.assertIn("chatter margin at 101%", self.page.broken.text())
        self.assertEqual(self.page.levelled.table.item(3, 5).foreground().color(), THEME.color("alarm"))
        with self.answering("Cancel") as asked:
            self.page.export_to(self.folder / "push.nc")
        self.assertFalse((self.folder / "push.nc").exists())
        self.assertIn("chatter margin at 101%", asked[0])
        with self.answering("Write it all the same"):
            self.page.export_to(self.folder / "push.nc")
        self.assertIn(b"AIM PUSH", (self.folder / "push.nc").read_bytes())
        self.assertFalse(self.page.grab().isNull())
        self.level_to_own_targets()

    @contextlib.contextmanager
    def answering(self, button: str):  # type: ignore[no-untyped-def]
        """Presses a button of the question that comes up; what it said is in the list."""
        asked: list[str] = []

        def press() -> None:
            box = QApplication.activeModalWidget()
            if not isinstance(box, QMessageBox):
                QTimer.singleShot(20, press)
                return
            asked.append(box.text())
            next(one for one in box.buttons() if one.text().replace("&", "") == button).click()

        QTimer.singleShot(0, press)
        yield asked
        self.assertTrue(asked)

    def make_ways(self) -> None:
        """Two ways of the pin slot of the hinge block, shorter than it is there and one level deep."""
        block = with_cut(load_job(HINGE), 1, program=None)
        slot = block.cuts[2].feature.with_values(length_mm=30.0, depth_mm=9.0)
        save_job(with_cut(block, 2, feature=slot, ap_mm=9.0), self.folder / "block.lesna")
        self.assertTrue(self.bench.open_path(self.folder / "block.lesna"))
        self.assertEqual(len(self.bench.answers.kept), 0)  # nothing stays of a job that is closed
        self.session.select(2)
        self.bench.show_step(3)
        QTest.mouseClick(self.page.make, Qt.MouseButton.LeftButton)
        face = self.page.ways_face
        self.assertTrue(face.isVisible())
        wait_for(lambda: len(face.made) == 1 and face.made[0].proved is not None)
        face.round.setChecked(True)
        QTest.mouseClick(face.make, Qt.MouseButton.LeftButton)
        wait_for(lambda: len(face.made) == 2)

    def test_ways_are_made_compared_and_one_is_written(self) -> None:
        self.make_ways()
        face = self.page.ways_face
        self.assertEqual([face.table.item(row, 0).text() for row in range(2)], ["loops", "loops, round"])
        wait_for(lambda: self.page.run is face.made[1].simulated.run)
        self.assertEqual(self.page.picture.others, (face.made[0].simulated.run,))
        self.assertIn("not written yet", self.page.name.text())
        self.assertFalse(self.page.levelled.isVisible())
        shares, within = self.page.histogram.shares()
        self.assertAlmostEqual(shares.sum(), 1.0, places=9)
        self.assertGreater(within, 0.99)
        face.table.selectRow(0)
        self.assertIs(self.page.run, face.made[0].simulated.run)
        self.assertFalse(self.page.grab().isNull())
        self.page.write_path(self.folder / "slot.nc")
        self.assertIn(b"(cut)", (self.folder / "slot.nc").read_bytes())
        self.assertIn("slot.nc", self.session.cut.program.file)
        wait_for(lambda: self.page.name.text() == "slot.nc" and self.page.found is not None)
        self.bench.show_step(2)
        self.assertIn("its path as set", self.bench.page("compare").schools.feature.text())

    def test_a_way_is_made_anew_as_the_cut_changes_and_can_be_stopped(self) -> None:
        self.make_ways()
        face, before = self.page.ways_face, self.page.ways_face.made
        self.session.edit_cut("Change ae", ae_mm=1.6)
        self.assertEqual(self.bench.route.mark(3), "making the path")
        self.bench.show_step(1)
        # nobody looks any more
        self.assertFalse(self.page.ways.answer.is_asked)
        self.assertEqual(self.bench.route.mark(3), "")
        self.bench.show_step(3)
        self.assertTrue(self.page.ways.answer.is_asked)
        wait_for(lambda: bool(face.made) and face.made[0] is not before[0])
        self.assertEqual(self.bench.route.mark(3), "")
        self.assertEqual(face.made[0].proved.route.stepover, 1.6)
        self.assertLess(face.made[0].simulated.summary.time, before[0].simulated.summary.time)
        self.session.edit_cut("Change ae", ae_mm=1.3)
        self.bench.show_step(3)
        QTest.mouseClick(self.page.stop, Qt.MouseButton.LeftButton)
        wait_for(lambda: "Stopped" in face.words.text())
        QTest.mouseClick(face.drop, Qt.MouseButton.LeftButton)

    def test_a_rest_path_follows_the_program_that_goes_before_on_the_disk(self) -> None:
        job = load_job(self.folder / "panel.lesna")
        first = with_cut(job, 0, program={"file": "window.nc"})
        rest = first.cuts[0].with_values(id="rest", name="Rest", role="rest", program=None)
        save_job(first.with_values(cuts=(first.cuts[0], rest)), self.folder / "rest.lesna")
        self.assertTrue(self.bench.open_path(self.folder / "rest.lesna"))
        self.session.select(1)
        ask, result = self.page.ways.answer.kind.ask, self.session.result
        self.page.ways.answer.watch(self.page, False)
        self.page.ways.want(Wish())
        before = ask(result)
        self.assertEqual(ask(result), before)
        path = self.folder / "window.nc"
        path.write_bytes(path.read_bytes().replace(b"f110.", b"f90."))
        self.assertNotEqual(ask(result), before)

    def test_a_job_without_a_file_reads_no_program_of_the_installation(self) -> None:
        sample = load_job(HINGE)
        self.session.open(sample, None)
        self.session.select(next(place for place, cut in enumerate(sample.cuts) if cut.program is not None))
        self.bench.show_step(3)
        wait_for(lambda: "no folder yet" in self.page.words.text())
        self.assertIsNone(self.page.found)

    def test_a_way_that_cannot_be_made_says_why(self) -> None:
        self.assertTrue(self.bench.open_path(DEMOS[0].parent / "sluice-hinge-block.lesna"))
        self.session.select(0)
        self.bench.show_step(3)
        face = self.page.ways_face
        face.way.show_value("loops")
        QTest.mouseClick(face.make, Qt.MouseButton.LeftButton)
        wait_for(lambda: "no channel" in face.words.text())
        self.assertEqual(face.table.item(0, 1).text(), "no path")
        self.assertFalse(face.write.isEnabled())
        QTest.mouseClick(face.drop, Qt.MouseButton.LeftButton)
        self.assertEqual(face.table.rowCount(), 0)

    def test_stock_comes_from_a_file(self) -> None:
        self.simulate()
        (self.folder / "plate.stl").write_bytes(binary(box((-70, -50, -30), (70, 50, 0))))
        self.page.stock.chosen.emit(self.folder / "plate.stl")
        self.assertEqual(self.session.cut.program.stock, "plate.stl")
        wait_for(lambda: self.page.found is not None and self.page.found.run.geometry.work.stock.triangles is not None)
        self.assertEqual(self.page.found.run.geometry.work.stock.high[2], 0.0)
        # the file changes on the disk: it is simulated in what it holds now
        (self.folder / "plate.stl").write_bytes(binary(box((-70, -50, -30), (70, 50, 1.5))))
        self.page.look_again()
        wait_for(lambda: self.page.found is not None and self.page.found.run.geometry.work.stock.high[2] == 1.5)
        (self.folder / "broken.stl").write_bytes(b"no surface at all")
        self.page.stock.chosen.emit(self.folder / "broken.stl")
        wait_for(lambda: "roken.stl: " in self.page.words.text() and "STL" in self.page.words.text())
        self.assertIsNone(self.page.found)
        self.bench.undo()
        self.assertEqual(self.session.cut.program.stock, "plate.stl")
        self.page.stock.chosen.emit(self.folder / "gone.stl")
        self.assertIn("gone.stl: does not exist", self.bench.banner.text.text())
        self.assertEqual(self.session.cut.program.stock, "plate.stl")

    def test_stock_and_tool_are_typed_and_refused_in_words(self) -> None:
        self.simulate()
        self.page.faces.show_face(2)
        edit = self.page.stock.stock.edit
        self.type_into(edit, "cube")
        self.assertIn("not understood", self.page.stock.stock.trouble.text())
        self.type_into(edit, "block:-60,-40,-14,60,40,0")
        wait_for(lambda: self.page.found is not None and self.page.found.run.geometry.work.stock.low[0] == -60)
        # what a job names that the program lacks is refused in full contrast
        self.session.edit_cut("Choose the tool", program={**dict(self.session.cut.program), "tool": 9})
        wait_for(lambda: "T9 makes no feed move" in self.page.words.text())
        self.assertEqual(self.page.words.objectName(), "wrong")

    def test_one_of_several_tools_is_clicked(self) -> None:
        text = (
            (self.folder / "window.nc")
            .read_bytes()
            .replace(b"t1m6", b"t4m6\ns900m3\ng0x-1.8y-1.05\nz.2\ng1z.1f40.\nt1m6")
        )
        (self.folder / "two.nc").write_bytes(text)
        self.page.take(self.folder / "two.nc")
        wait_for(lambda: [button.text() for button in self.page.which.buttons] == ["T1", "T4"])
        self.assertIn("Click the one", self.page.words.text())
        QTest.mouseClick(self.page.which.buttons[0], Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.cut.program.tool, 1)
        wait_for(lambda: self.page.found is not None)
        self.assertFalse(self.page.which.isVisible())
        combo = self.page.stock.tool.combo
        self.assertEqual([combo.itemText(place) for place in range(combo.count())], ["the only one", "T1", "T4"])
        self.bench.undo()
        self.assertIsNone(self.session.cut.program.tool)

    def test_a_cut_without_a_feature_takes_the_block_of_the_program(self) -> None:
        self.session.edit_cut("No feature", feature=None)
        self.page.take(self.folder / "window.nc")
        wait_for(lambda: self.page.found is not None)
        self.assertIn("as large as where it goes is taken, X ", self.page.words.text())
        stock = self.page.found.run.geometry.work.stock
        self.assertEqual(stock.high[2], 0.0)
        self.type_into(self.page.stock.stock.edit, "block:-60,-40,-14,60,40,0")
        wait_for(lambda: self.page.found is not None and self.page.found.run.geometry.work.stock.low[0] == -60)
        self.assertNotIn("as large as", self.page.words.text())

    def test_a_file_that_changes_or_goes_is_told(self) -> None:
        self.simulate()
        path = self.folder / "window.nc"
        path.write_bytes(path.read_bytes().replace(b"f110.", b"f90."))
        self.page.look_again()
        wait_for(lambda: "changed since it was taken" in self.page.words.text())
        path.unlink()
        self.page.look_again()
        wait_for(lambda: "choose the program again" in self.page.words.text())
        self.assertIsNone(self.page.found)

    def test_a_program_that_cannot_be_read_names_its_line(self) -> None:
        (self.folder / "bad.nc").write_text("G0 X0 Y0 Z0\nG41 D1\n")
        self.page.take(self.folder / "bad.nc")
        wait_for(lambda: "Line 2: G41" in self.page.words.text())

    def test_inputs_of_the_job_are_never_written_over_and_links_to_themselves_are_refused(self) -> None:
        stock = self.folder / "stock.stl"
        stock.write_bytes(binary(box((-70, -50, -14), (70, 50, 0))))
        before = stock.read_bytes()
        self.page.take(self.folder / "window.nc")
        self.session.edit_cut("Stock", program={**dict(self.session.cut.program), "stock": "stock.stl"})
        self.page.export_to(stock)
        self.assertIn("stock of this job", self.bench.banner.text.text())
        self.assertEqual(stock.read_bytes(), before)
        loop = self.folder / "loop.nc"
        loop.symlink_to(loop)
        self.bench.take_file(loop)
        self.assertIn("leads nowhere or to itself", self.bench.banner.text.text())

    def test_dropped_programs_come_here(self) -> None:
        self.assertEqual(kind_of(Path("a.nc")), "program")
        self.bench.show_step(1)
        self.bench.take_file(self.folder / "window.nc")
        self.assertEqual(self.session.cut.program.file, "window.nc")
        self.assertEqual(self.bench.route.current, 3)

    def test_saved_and_opened_again_it_is_there(self) -> None:
        job = load_job(self.folder / "panel.lesna")
        save_job(with_cut(job, 0, program={"file": "window.nc"}), self.folder / "again.lesna")
        self.assertTrue(self.bench.open_path(self.folder / "again.lesna"))
        wait_for(lambda: self.page.found is not None)
        APP.processEvents()


if __name__ == "__main__":
    unittest.main()
