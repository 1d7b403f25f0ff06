"""The window as somebody uses it: open, look, change, undo, save, leave."""

import json
import os
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from lesna.desktop.app import demo_job
from lesna.desktop.theme import DAY, NIGHT, THEME
from lesna.model.files import load_job
from tests.desktop.driver import WindowTest, wait_for
from tests.support import DEMOS, HINGE, READ_ONLY, raw


class Opening(WindowTest):
    shares = True

    def test_the_demo_is_there_with_all_its_cuts(self) -> None:
        self.assertEqual(len(self.bench.rail.cards), 5)
        self.assertIn("Sluice hinge block", self.bench.top.title.text())
        self.assertIn("not saved yet", self.running.window.windowTitle())
        self.assertFalse(self.session.is_dirty)

    def test_every_demo_opens_on_both_steps(self) -> None:
        for path in DEMOS:
            self.bench.show_step(0)
            self.assertTrue(self.bench.open_path(path))
            self.running.window.grab()
            self.assertFalse(self.answers.map.is_asked)  # nobody looks at it
            self.bench.show_step(1)
            self.wait_for_map()
            self.running.window.grab()

    def test_a_bad_file_is_said_and_the_job_stays(self) -> None:
        before = self.session.job
        with tempfile.TemporaryDirectory() as folder:
            for name, content in (("cut.lesna", HINGE.read_bytes()[:400]), ("noise.lesna", os.urandom(900)),
                                  ("new.lesna", b'{"lesna": 7}'), ("empty.lesna", b""), ("gone.lesna", None)):  # fmt: skip
                path = Path(folder) / name
                if content is not None:
                    path.write_bytes(content)
                self.assertFalse(self.bench.open_path(path))
                self.assertTrue(self.bench.banner.isVisible())
                self.assertIn(name, self.bench.banner.text.text())
                self.assertIs(self.session.job, before)

    def test_a_job_that_cannot_be_cut_is_refused_by_field(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deep.lesna"
            import json

            path.write_text(json.dumps(raw(ap_mm=40.0, stick_out_mm=50.0)))
            self.assertFalse(self.bench.open_path(path))
        self.assertIn("cuts[0].ap_mm", self.bench.banner.text.text())

    def test_a_dropped_file_opens(self) -> None:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(DEMOS[0]))])
        event = QDropEvent(QPointF(400, 300), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                           Qt.KeyboardModifier.NoModifier)  # fmt: skip
        self.bench.dropEvent(event)
        self.assertEqual(self.session.document.path, DEMOS[0])

    def test_recent_jobs_stand_in_the_menu(self) -> None:
        self.bench.open_path(DEMOS[0])
        self.bench._fill_menu()
        recent = next(a.menu() for a in self.bench.top.job_menu.actions() if a.menu() is not None)
        self.assertEqual(recent.actions()[0].text(), DEMOS[0].name)
        recent.actions()[0].trigger()
        self.assertEqual(self.session.document.path, DEMOS[0])

    def test_samples_open_without_a_file(self) -> None:
        self.bench._fill_menu()
        samples = next(a.menu() for a in self.bench.top.job_menu.actions() if a.text() == "Sample jobs")
        self.assertEqual(len(samples.actions()), len(DEMOS))
        samples.actions()[0].trigger()
        self.assertEqual((self.session.job.title, self.session.document.path), ("Gauge panel", None))


class OneAfterAnother(WindowTest):
    """Tests that follow each other in one window begin alike, whatever the one before left."""

    shares = True

    def begins_and_leaves(self) -> None:
        self.assertEqual(self.session.job.cuts, load_job(demo_job()).cuts)
        self.assertEqual((self.session.index, self.session.stack.count(), self.session.system), (0, 0, "metric"))
        self.assertIs(THEME.palette, DAY)
        self.assertEqual((self.bench.working.isVisible(), self.bench.banner.isVisible()), (False, False))
        self.assertEqual((self.running.window.width(), self.running.window.height()), (1280, 800))
        self.session.select(2)
        self.session.edit_cut("Change", ae_mm=0.8)
        self.session.show_in("inch")
        THEME.use(NIGHT)
        self.running.window.resize(1100, 700)
        self.bench.working.explain("fz")
        self.bench.banner.say("note", "left here", (("Do", lambda: None),))
        self.bench.show_step(0)

    def test_one(self) -> None:
        self.begins_and_leaves()

    def test_the_next(self) -> None:
        self.begins_and_leaves()


class Editing(WindowTest):
    shares = True

    def test_undo_and_redo_by_keyboard_for_each_kind_of_change(self) -> None:
        window = self.running.window
        before = self.session.job
        self.session.edit_cut("Change", ae_mm=3.0)
        self.bench.rail.add_variant()
        self.bench.switch_units()
        after = self.session.job
        self.assertEqual(len(after.cuts), 6)
        for _ in range(3):
            QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.job, before)
        for _ in range(3):
            QTest.keyClick(
                window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
            )
        self.assertEqual(self.session.job, after)

    def test_undo_shows_the_cut_it_touches(self) -> None:
        self.session.select(2)
        self.session.edit_cut("Change", ae_mm=0.8)
        self.session.select(0)
        self.bench.undo()
        self.assertEqual(self.session.index, 2)

    def test_units_switch_everything(self) -> None:
        QTest.mouseClick(self.bench.top.units, Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.system, "inch")
        unit = self.bench.readouts.cells["vf"].figure.shown(self.session.result, "inch")[1]
        self.assertEqual(unit, "ipm")
        self.assertIn("in", self.cut_page.bound.fields["ae_mm"].edit.text())
        self.bench.show_step(0)
        self.assertIn("ft-lb", " ".join(c.text for c in self.setup_page.readiness.checks))

    def test_night_and_back(self) -> None:
        QTest.keyClick(self.running.window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
        self.assertIs(THEME.palette, NIGHT)
        self.assertIn(NIGHT.paper, self.running.window.styleSheet())
        self.assertEqual(self.running.window.memory.theme, "night")
        self.bench.switch_theme()

    def test_steps_by_keyboard_and_route(self) -> None:
        QTest.keyClick(self.running.window, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.bench.pages.currentIndex(), 0)
        QTest.mouseClick(self.bench.route, Qt.MouseButton.LeftButton, pos=QPoint(150, 17))
        self.assertEqual(self.bench.pages.currentIndex(), 1)

    def test_a_step_is_marked_when_something_there_is_over(self) -> None:
        self.session.select(1)
        self.assertEqual(self.bench.route.mark(1), "")
        self.session.edit_cut("Change", hex_mm=0.09)
        self.assertIn("thickest chip", self.bench.route.mark(1))
        self.assertIn("cutting parameters", self.bench.route.mark(0))

    def test_nc_words_on_the_clipboard(self) -> None:
        QTest.keyClick(
            self.running.window, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        )
        state = self.session.result.state
        self.assertEqual(QApplication.clipboard().text(), f"S{state.n:.0f} F{state.vf:.0f}")

    def test_the_tour_walks_through_and_ends(self) -> None:
        self.bench.start_tour()
        banner = self.bench.banner
        first = banner.text.text()
        banner.buttons[0].click()
        wait_for(lambda: banner.isVisible() and banner.text.text() != first)
        self.assertTrue(self.running.window.memory.tour_seen)
        banner.buttons[-1].click()
        self.assertFalse(banner.isVisible())


class Commands(WindowTest):
    shares = True

    def test_next_and_former_cut(self) -> None:
        control = Qt.KeyboardModifier.ControlModifier
        QTest.keyClick(self.running.window, Qt.Key.Key_PageDown, control)
        QTest.keyClick(self.running.window, Qt.Key.Key_PageDown, control)
        QTest.keyClick(self.running.window, Qt.Key.Key_PageUp, control)
        self.assertEqual(self.session.index, 1)
        for _ in range(9):
            self.bench.next_cut()
        self.assertEqual(self.session.index, 4)

    def test_best_point_from_any_step(self) -> None:
        self.session.select(1)
        self.wait_for_map()
        self.bench.show_step(0)
        QTest.keyClick(self.running.window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
        self.assertAlmostEqual(self.session.cut.ae_mm, self.answers.map.value.map.best_in_school.ae, places=3)

    def test_open_and_sheet_by_dialog(self) -> None:
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(DEMOS[1]), "")):
            self.bench.open_dialog()
        self.assertEqual(self.session.document.path, DEMOS[1])
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "sheet.pdf"
            with mock.patch("lesna.desktop.job_files.ask_where_to_save", return_value=target):
                QTest.mouseClick(self.bench.top.sheet, Qt.MouseButton.LeftButton)
            wait_for(target.exists)
            self.assertTrue(target.read_bytes().startswith(b"%PDF"))
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")):
            self.bench.open_dialog()
        self.assertEqual(self.session.document.path, DEMOS[1])

    def test_route_by_arrow_keys_and_its_tips(self) -> None:
        route = self.bench.route
        route.setFocus()
        QTest.keyClick(route, Qt.Key.Key_Left)
        self.assertEqual(self.bench.pages.currentIndex(), 0)
        QTest.keyClick(route, Qt.Key.Key_Right)
        self.assertEqual(self.bench.pages.currentIndex(), 1)
        self.session.edit_cut("Change", hex_mm=0.5)
        QTest.mouseMove(route, QPoint(150, 17))
        self.running.window.grab()

    def test_quitting_by_keyboard(self) -> None:
        QTest.keyClick(self.running.window, Qt.Key.Key_Q, Qt.KeyboardModifier.ControlModifier)
        self.assertFalse(self.running.window.isVisible())


class SavingAndLeaving(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def test_save_as_save_and_the_dirty_mark(self) -> None:
        self.session.edit_cut("Change", ae_mm=1.0)
        self.assertTrue(self.running.window.isWindowModified())
        target = self.folder / "mine.lesna"
        with mock.patch("lesna.desktop.job_files.ask_where_to_save", return_value=target):
            QTest.keyClick(self.running.window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
        self.assertFalse(self.running.window.isWindowModified())
        self.assertEqual(load_job(self.folder / "mine.lesna"), self.session.job)
        self.session.edit_cut("Change", ae_mm=1.1)
        self.bench.save()
        self.assertEqual(load_job(self.folder / "mine.lesna").cuts[0].ae_mm, 1.1)
        self.assertTrue((self.folder / "mine.lesna~").exists())

    def test_what_is_protected_or_was_changed_by_others_is_asked_about(self) -> None:
        path, asked = self.folder / "own.lesna", []

        def answers(word: str):  # type: ignore[no-untyped-def]
            def press(box: QMessageBox) -> int:
                asked.append(box.text())
                box.buttons()[[button.text() for button in box.buttons()].index(word)].click()
                return 0

            return mock.patch.object(QMessageBox, "exec", press)

        self.assertTrue(self.bench._save_to(path))
        for spoil, words in (
            (lambda: path.chmod(0o444), "is read-only"),
            (lambda: path.write_text(path.read_text() + " "), "changed on disk"),
        ):
            path.chmod(0o644)
            self.assertTrue(self.bench._save_to(path))
            self.session.edit_cut("Change", ae_mm=1.0 + 0.1 * len(asked))
            spoil()
            before = path.read_bytes()
            with answers("Cancel"):
                self.assertFalse(self.bench._save_to(path))
            self.assertEqual((path.read_bytes(), self.session.is_dirty), (before, True))
            with answers("Replace it"):
                self.assertTrue(self.bench._save_to(path))
            self.assertEqual(load_job(path), self.session.job)
            self.assertTrue(all(words in text for text in asked[-2:]), asked)
        self.bench.write_sheet(path)
        self.assertIn("own.lesna is the job itself", self.bench.banner.text.text())
        self.assertEqual(load_job(path), self.session.job)

    def test_a_save_that_fails_loses_nothing(self) -> None:
        self.session.edit_cut("Change", ae_mm=1.0)
        self.assertFalse(self.bench._save_to(READ_ONLY / "x.lesna"))
        self.assertTrue(self.session.is_dirty)
        self.assertIn("save it elsewhere", self.bench.banner.text.text())

    def test_sheet_is_written_and_trouble_said(self) -> None:
        self.bench.write_sheet(self.folder / "s.pdf")
        wait_for((self.folder / "s.pdf").exists)
        self.assertTrue((self.folder / "s.pdf").read_bytes().startswith(b"%PDF-1."))
        self.bench.write_sheet(self.folder / "s.html")
        wait_for((self.folder / "s.html").exists)
        self.bench.write_sheet(READ_ONLY / "s.pdf")
        wait_for(lambda: "cannot be" in self.bench.banner.text.text())

    def test_closing_asks_once_about_unsaved_work(self) -> None:
        buttons = QMessageBox.StandardButton
        self.session.edit_cut("Change", ae_mm=1.0)
        for answer, closes in ((buttons.Cancel, False), (buttons.Discard, True)):
            with mock.patch.object(QMessageBox, "question", return_value=answer) as asked:
                self.assertEqual(self.running.window.close(), closes)
                asked.assert_called_once()

    def test_closing_with_save_saves(self) -> None:
        self.session.save(self.folder / "job.lesna")
        self.session.edit_cut("Change", ae_mm=1.0)
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Save):
            self.assertTrue(self.running.window.close())
        self.assertEqual(load_job(self.folder / "job.lesna").cuts[0].ae_mm, 1.0)

    def test_opening_another_job_asks_too(self) -> None:
        self.session.edit_cut("Change", ae_mm=1.0)
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Cancel):
            self.bench.open_asking(DEMOS[0])
        self.assertIsNone(self.session.document.path)


class Recovery(WindowTest):
    def test_unsaved_work_of_a_crashed_window_is_offered(self) -> None:
        self.session.edit_cut("Change", ae_mm=0.77)
        self.running.autosave.write()
        file = self.running.autosave._file
        wait_for(file.exists)
        crashed = file.with_name("999999999.json")  # no process has this number
        file.rename(crashed)
        self.session.stack.setClean()
        self.running.window.close()
        self.running.close()
        self.start(recover=True)
        self.assertIn("was not saved", self.bench.banner.text.text())
        self.bench.banner.buttons[0].click()
        self.assertEqual(self.session.job.cuts[0].ae_mm, 0.77)
        self.assertTrue(self.session.is_dirty)
        self.assertFalse(crashed.exists())

    def test_saving_removes_the_recovery_file(self) -> None:
        self.session.edit_cut("Change", ae_mm=0.77)
        self.running.autosave.write()
        wait_for(self.running.autosave._file.exists)
        with tempfile.TemporaryDirectory() as folder:
            self.session.save(Path(folder) / "x.lesna")
        wait_for(lambda: not self.running.autosave._file.exists())

    def test_forgetting_comes_after_what_is_still_being_written(self) -> None:
        gate, file = threading.Event(), self.running.autosave._file
        self.running.runner.run("slow disk", lambda pulse: gate.wait(5), lambda _: None, lambda _: None, queue="disk")
        self.session.edit_cut("Change", ae_mm=0.77)
        self.running.autosave.write()
        self.session.stack.setClean()
        gate.set()
        wait_for(lambda: self.running.runner.is_idle)
        self.assertFalse(file.exists())

    def test_somebody_who_never_pauses_is_saved_too(self) -> None:
        timer = self.running.autosave._timer
        timer.setInterval(60)
        with mock.patch.object(self.running.autosave, "write") as write:
            timer.timeout.disconnect()
            timer.timeout.connect(write)
            for step in range(12):
                self.session.edit_cut("Change", ae_mm=1.0 + 0.01 * step)
                QTest.qWait(15)
            self.assertGreaterEqual(write.call_count, 1)

    def test_autosave_follows_a_change_by_itself(self) -> None:
        self.running.autosave._timer.setInterval(10)
        self.session.edit_cut("Change", ae_mm=0.9)
        wait_for(self.running.autosave._file.exists)

    def test_a_broken_recovery_file_is_set_aside(self) -> None:
        from lesna.desktop.recovery import find_recovered

        with tempfile.TemporaryDirectory() as folder:
            for number, text in enumerate(('{"job": "nonsense"}', "[]", "", '{"job": 3}')):
                (Path(folder) / f"{999999990 + number}.json").write_text(text)
            os.mkfifo(Path(folder) / "999999980.json")
            self.assertIsNone(find_recovered(Path(folder)))
            self.assertEqual({path.suffix for path in Path(folder).iterdir()}, {".unread"})

    def test_what_is_recovered_is_private_and_no_foreign_process_withholds_it(self) -> None:
        from lesna.desktop.recovery import find_recovered

        self.session.edit_cut("Change", ae_mm=0.77)
        self.running.autosave.write()
        file = self.running.autosave._file
        wait_for(file.exists)
        self.assertEqual(file.stat().st_mode & 0o777, 0o600)
        data = json.loads(file.read_text())
        with tempfile.TemporaryDirectory() as folder:
            # the number is that of a process that runs now, but it began at another time
            other = Path(folder) / f"{os.getppid()}.json"
            other.write_text(json.dumps({**data, "born": "1"}))
            found = find_recovered(Path(folder))
            self.assertIsNotNone(found)
            self.assertEqual(found.job.cuts[0].ae_mm, 0.77)
            other.write_text(json.dumps({**data, "born": ""}))
            self.assertIsNone(find_recovered(Path(folder)))


if __name__ == "__main__":
    unittest.main()
