"""Nothing typed is lost and nothing changes unasked: wheel, shortcuts, Esc, drops, files that others change, through real events."""

import shutil
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMessageBox, QWidget

from lesna.data.places import shipped_folder
from lesna.desktop.dropped import kind_of
from lesna.desktop.records.alone import AloneLink
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.rename import NameEdit
from lesna.document import edits
from lesna.model.files import job_text, load_job, save_job
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.support import HINGE

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
TITANIUM = shipped_folder() / "demo" / "sensor-bracket.lesna"


class MannersTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.running.window.activateWindow()
        wait_for(self.running.window.isActiveWindow)
        self.session.select(1)
        self.said: list[str] = []
        self.session.said.connect(lambda kind, text: self.said.append(text))
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """A key where the keyboard is."""
        QTest.keyClick(APP.focusWidget() or self.running.window, key, modifier)
        APP.processEvents()

    def typed(self, edit: QLineEdit, text: str) -> None:
        """Types without leaving the field."""
        self.running.window.activateWindow()
        edit.setFocus()
        edit.selectAll()
        QTest.keyClicks(edit, text)

    def wheel(self, widget: QWidget) -> None:
        place = QPointF(widget.rect().center())
        APP.sendEvent(widget, QWheelEvent(place, widget.mapToGlobal(place), QPoint(0, -120), QPoint(0, -120), Qt.MouseButton.NoButton,
                                          Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip


class Fields(MannersTest):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        self.depth = self.cut_page.bound.fields["ap_mm"].edit

    def test_the_wheel_over_a_choice_changes_nothing_unless_it_has_the_keyboard(self) -> None:
        before = self.session.job
        for field in (self.cut_page.strategy, self.cut_page.coolant, self.cut_page.role):
            self.wheel(field.combo)
            self.assertIs(self.session.job, before)
        self.wheel(self.depth)
        self.assertIs(self.session.job, before)

    def test_what_is_typed_is_taken_before_a_shortcut_acts(self) -> None:
        path = self.folder / "mine.lesna"
        self.session.save(path)
        self.typed(self.depth, "20")
        self.key(Qt.Key.Key_S, CONTROL)
        self.assertEqual(load_job(path).cuts[1].ap_mm, 20.0)
        self.typed(self.depth, "18")
        self.key(Qt.Key.Key_U, CONTROL)
        self.assertEqual((self.session.job.cuts[1].ap_mm, self.session.system), (18.0, "inch"))
        self.typed(self.depth, "16 mm")
        self.key(Qt.Key.Key_PageDown, CONTROL)
        self.assertEqual((self.session.job.cuts[1].ap_mm, self.session.index), (16.0, 2))

    def test_what_is_refused_stays_and_the_shortcut_does_not_act(self) -> None:
        path = self.folder / "mine.lesna"
        self.session.save(path)
        content = path.read_text()
        self.typed(self.depth, "999")
        for key in (Qt.Key.Key_S, Qt.Key.Key_U, Qt.Key.Key_PageDown):
            self.key(key, CONTROL)
            self.assertEqual((self.depth.text(), self.session.index, self.session.system), ("999", 1, "metric"))
        self.assertEqual(path.read_text(), content)
        self.assertTrue(self.cut_page.bound.fields["ap_mm"].trouble.isVisibleTo(self.cut_page))

    def test_a_refused_value_is_named_where_the_job_is_saved(self) -> None:
        depth = self.cut_page.bound.fields["ap_mm"].edit
        self.typed(depth, "29 mm")
        self.key(Qt.Key.Key_Return)
        self.typed(depth, "500 mm")
        self.key(Qt.Key.Key_S, CONTROL)
        self.assertIn("waits for Depth ap (", self.bench.banner.text.text())
        # what is at fault is named: the depth is typed, and it is told against what the tool sticks out
        self.assertIn("Stick-out: is 32 mm and the depth ap 500 mm", self.cut_page.bound.fields["ap_mm"].trouble.text())
        # with the keyboard elsewhere the job is saved as it is, and what is not in it is told
        path = self.folder / "kept.lesna"
        self.typed(self.cut_page.bound.fields["ae_mm"].edit, "1 mm")
        self.bench._save_to(path)
        self.assertIn("but without what is refused: Depth ap (", self.bench.banner.text.text())
        self.assertLess(load_job(path).cuts[1].ap_mm, 100)

    def test_a_new_job_begins_with_its_material(self) -> None:
        self.key(Qt.Key.Key_N, CONTROL)
        material = self.setup_page.material
        self.assertIs(APP.focusWidget(), material)
        self.assertEqual(material.selectedText(), material.text())
        # on through what is filled in, in its order; links to further fields come after it
        order = []
        for _ in range(12):
            self.key(Qt.Key.Key_Tab)
            order.append(APP.focusWidget())
        fields = self.setup_page.bound.fields
        wanted = [fields["hardness_hrc"].edit, self.setup_page.tool, fields["stick_out_mm"].edit, fields["parts"].edit]
        places = [order.index(edit) if edit in order else -1 for edit in wanted]
        self.assertEqual(places, sorted(places))
        self.assertGreaterEqual(places[0], 0)
        self.assertFalse(any(isinstance(edit, AloneLink) for edit in order))

    def test_undo_and_redo_act_right_after_a_value_was_typed(self) -> None:
        start = self.session.cut.ap_mm
        self.typed(self.depth, "20")
        self.key(Qt.Key.Key_Return)
        self.assertEqual(self.session.cut.ap_mm, 20.0)
        self.assertIs(APP.focusWidget(), self.depth)
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertEqual((self.session.cut.ap_mm, self.depth.text()), (start, f"{start:.2f} mm"))
        self.key(Qt.Key.Key_Y, CONTROL)
        self.assertEqual(self.session.cut.ap_mm, 20.0)
        self.key(Qt.Key.Key_Z, CONTROL)
        self.key(Qt.Key.Key_Z, CONTROL | SHIFT)
        self.assertEqual(self.session.cut.ap_mm, 20.0)

    def test_undo_in_the_middle_of_typing_gives_the_typing_up_and_nothing_else(self) -> None:
        before, shown = self.session.job, self.depth.text()
        self.typed(self.depth, "7")
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertIs(self.session.job, before)
        self.assertEqual(self.depth.text(), shown)

    def test_undo_right_after_choosing_a_material(self) -> None:
        self.bench.show_step(0)
        before = self.session.job
        box = self.setup_page.material
        QTest.mouseClick(box, Qt.MouseButton.LeftButton)
        QTest.keyClicks(box, "ti-6al")
        self.key(Qt.Key.Key_Return)
        self.assertIn("Ti", self.session.result.setup.parts.material.name)
        self.key(Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.session.job, before)

    def test_a_click_into_a_number_selects_it_all(self) -> None:
        self.bench.route.setFocus()
        QTest.mouseClick(self.depth, Qt.MouseButton.LeftButton)
        self.assertEqual(self.depth.selectedText(), self.depth.text())
        QTest.keyClicks(self.depth, "12")
        self.key(Qt.Key.Key_Return)
        self.assertEqual(self.session.cut.ap_mm, 12.0)

    def test_a_search_empties_for_typing_and_gives_the_text_back(self) -> None:
        self.bench.show_step(0)
        box, before = self.setup_page.tool, self.session.job
        shown = box.text()
        QTest.mouseClick(box, Qt.MouseButton.LeftButton)
        self.assertEqual((box.text(), box.placeholderText()), ("", shown))
        self.key(Qt.Key.Key_Escape)
        self.assertEqual(box.text(), shown)
        QTest.mouseClick(box, Qt.MouseButton.LeftButton)
        self.key(Qt.Key.Key_Down)
        self.assertGreater(len(box.matches()), 20, "Down lists what there is")
        self.key(Qt.Key.Key_Return)
        self.assertIs(self.session.job, before)
        QTest.keyClicks(box, "d10")
        box.selectAll()
        self.key(Qt.Key.Key_Delete)
        self.key(Qt.Key.Key_Return)
        self.assertIs(self.session.job, before)
        self.assertEqual(box.text(), shown)

    def test_a_choice_that_is_refused_goes_back(self) -> None:
        field = self.cut_page.coolant
        shown = field.combo.currentIndex()
        field.chosen.disconnect()
        field.combo.setCurrentIndex((shown + 1) % field.combo.count())
        field.combo.activated.emit(field.combo.currentIndex())
        self.assertEqual(field.combo.currentIndex(), shown)

    def test_a_machine_of_another_job_does_not_stay_in_the_list(self) -> None:
        self.bench.show_step(0)
        combo = self.setup_page.machine.combo
        before = combo.count()
        own = {"id": "yard", "name": "Yard mill", "rpm_max": 4000.0, "power_s1_kw": 30.0}
        self.session.edit("Machine", self.session.job.with_values(machine=own))
        self.assertEqual((combo.count(), combo.currentText()), (before + 1, "Yard mill"))
        self.session.open(load_job(HINGE), None)
        self.assertEqual(combo.count(), before)


class Gestures(MannersTest):
    shares = True

    def test_escape_puts_a_drag_back(self) -> None:
        before, view = self.session.job, self.cut_page.map
        QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.at(1.2, 24.0).toPoint())
        for ae in (2.0, 3.0):
            self.move(view, view.at(ae, 12.0).toPoint(), Qt.KeyboardModifier.NoModifier)
        self.assertNotEqual(self.session.job, before)
        self.key(Qt.Key.Key_Escape)
        self.assertEqual(self.session.job, before)
        self.move(view, view.at(4.0, 12.0).toPoint(), Qt.KeyboardModifier.NoModifier)
        self.assertEqual(self.session.job, before)
        QTest.mouseRelease(
            view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.at(4.0, 12.0).toPoint()
        )

    def test_escape_closes_working(self) -> None:
        self.session.working_asked.emit("n")
        self.assertTrue(self.bench.working.isVisible())
        self.cut_page.map.setFocus()
        self.key(Qt.Key.Key_Escape)
        self.assertFalse(self.bench.working.isVisible())

    def test_a_step_changed_in_mid_drag_lets_go(self) -> None:
        view = self.cut_page.map
        QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.at(1.2, 24.0).toPoint())
        self.move(view, view.at(2.0, 12.0).toPoint(), Qt.KeyboardModifier.NoModifier)
        self.bench.show_step(0)
        self.assertFalse(self.session.is_dragging)
        moved = self.session.job
        self.move(view, view.at(4.0, 9.0).toPoint(), Qt.KeyboardModifier.NoModifier)
        self.assertIs(self.session.job, moved)

    def test_what_is_held_stays_whatever_moves_the_cut(self) -> None:
        self.session.edit_cut("hold", locks=("ap_mm", "vc_m_min"))
        cut = self.session.cut
        view = self.cut_page.map
        self.drag(view, view.at(1.2, 24.0), view.at(3.0, 10.0))
        self.assertEqual(self.session.cut.ap_mm, cut.ap_mm)
        self.assertGreater(self.session.cut.ae_mm, 2.0)
        self.cut_page._on_starting_values()
        self.assertEqual((self.session.cut.ap_mm, self.session.cut.vc_m_min), (cut.ap_mm, cut.vc_m_min))
        self.bench.show_step(0)
        self.setup_page.elevation.drag_to("ap", 10.0)
        self.assertEqual(self.session.cut.ap_mm, cut.ap_mm)
        self.assertIn("the depth is held", self.said[-1])
        held = self.session.cut.ae_mm
        self.bench.show_step(1)
        self.drag(view, view.at(held, 24.0), view.at(6.0, 10.0), modifier=SHIFT)
        self.assertEqual(self.session.cut.ae_mm, held, "one is held: the removal stays only where the point is")

    def test_b_works_wherever_the_keyboard_is_and_waits_for_the_map(self) -> None:
        self.session.edit_cut("Elsewhere", ae_mm=0.7, ap_mm=8.0)
        self.bench.rail.cards[1].setFocus()
        self.key(Qt.Key.Key_B)
        self.assertIn("computing the map of this cut", " ".join(self.said))
        wait_for(lambda: self.session.cut.ae_mm != 0.7)
        self.assertGreater(self.session.result.state.q, 30.0)

    def test_in_a_field_b_is_a_letter(self) -> None:
        self.bench.show_step(0)
        before = self.session.job
        QTest.mouseClick(self.setup_page.tool, Qt.MouseButton.LeftButton)
        QTest.keyClicks(self.setup_page.tool, "ball")
        self.assertIs(self.session.job, before)
        self.assertEqual(self.setup_page.tool.text(), "ball")


class Files(MannersTest):
    def drop(self, *paths: Path, on: QWidget | None = None) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        widget = on or self.bench
        event = QDropEvent(
            QPointF(20, 20), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        widget.dropEvent(event)

    def test_a_job_opens_wherever_it_is_dropped(self) -> None:
        for edit in self.cut_page.findChildren(QLineEdit) + self.setup_page.findChildren(QLineEdit):
            self.assertFalse(edit.acceptDrops(), edit.accessibleName())
        self.drop(TITANIUM)
        self.assertEqual(self.session.document.path, TITANIUM)

    def test_every_kind_of_file_goes_where_it_belongs_or_is_told(self) -> None:
        table = self.folder / "our tools.csv"
        table.write_text("id;kind;DC;ZEFP;APMX\nown-x;square;8;3;20\n")
        response = self.folder / "tap.csv"
        response.write_text("f_hz,re,im\n100,1,0\n")
        for name, kind in (("a.lesna", "job"), ("a.WAV", "recording")):
            self.assertEqual(kind_of(self.folder / name), kind)
        self.assertEqual((kind_of(table), kind_of(response)), ("tools", "response"))
        self.assertEqual(kind_of(self.folder / "o1000.nc"), "program")
        self.assertIn("no file that Lesna reads", kind_of(self.folder / "part.step"))
        self.assertIn("does not exist", kind_of(self.folder / "gone.csv"))
        before = self.session.job
        self.drop(self.folder / "part.step")
        self.assertIn("part.step", self.said[-1])
        self.drop(table)
        self.assertIn("own-x", self.session.library.tools)
        self.bench.library.close()
        self.assertIs(self.session.job, before)

    def test_two_files_say_which_was_taken(self) -> None:
        self.drop(TITANIUM, HINGE)
        self.assertEqual(self.session.document.path, TITANIUM)
        self.assertIn("sensor-bracket.lesna was taken", self.said[-1])

    def test_changed_by_somebody_else_is_asked_and_never_overwritten(self) -> None:
        path = self.folder / "job.lesna"
        save_job(load_job(HINGE), path)
        self.bench.open_path(path)
        self.session.edit_cut("Mine", ap_mm=10.0)
        theirs = job_text(load_job(HINGE).with_values(title="Theirs"))
        path.write_text(theirs)
        with mock.patch.object(QMessageBox, "exec", lambda box: 0):
            self.assertFalse(self.bench.save())
        self.assertEqual(path.read_text(), theirs)
        self.assertTrue(self.session.is_dirty)

        def replace(box: QMessageBox) -> int:
            button = next(b for b in box.buttons() if b.text() == "Replace it")
            button.click()
            return 0

        with mock.patch.object(QMessageBox, "exec", replace):
            self.assertTrue(self.bench.save())
        self.assertEqual(load_job(path).title, load_job(HINGE).title)
        self.session.edit_cut("Mine again", ap_mm=11.0)
        self.assertTrue(self.bench.save(), "its own saving is no change by somebody else")

    def test_messages_that_ask_do_not_push_each_other_out(self) -> None:
        banner, done = self.bench.banner, []
        banner.say("note", "first asks", (("Yes", lambda: done.append(1)),))
        banner.say("wrong", "second went wrong")
        banner.say("note", "a passing note")
        self.assertEqual(banner.text.text(), "A passing note")
        banner._next()
        self.assertEqual(banner.text.text(), "Second went wrong")
        self.assertEqual(banner.text.palette().windowText().color().name(), THEME.palette.paper.lower())
        QTest.mouseClick(banner.buttons[-1], Qt.MouseButton.LeftButton)
        self.assertEqual(banner.text.text(), "First asks")
        QTest.mouseClick(banner.buttons[0], Qt.MouseButton.LeftButton)
        self.assertEqual((done, banner.isVisible()), ([1], False))

    def test_a_title_of_any_length(self) -> None:
        for title in ("x", "W" * 200, "two words " * 19, "<b>bold</b> <img src=x>"):
            self.session.edit("Title", self.session.job.with_values(title=title))
            APP.processEvents()
            self.assertLessEqual(self.bench.top.title.width(), 400)
            self.assertEqual(self.running.window.width(), 1280)
        self.assertEqual(self.bench.top.title.textFormat(), Qt.TextFormat.PlainText)


class NewAndNames(MannersTest):
    shares = True

    def test_a_new_job_borrows_nothing_and_is_clean_until_something_is_typed(self) -> None:
        former = self.session.job
        QTest.keyClick(self.running.window, Qt.Key.Key_N, CONTROL)
        job = self.session.job
        self.assertFalse(self.session.is_dirty)
        self.assertEqual((job.title, job.notes, job.batch.parts, job.batch.machine_rate_per_h), ("", "", 1, None))
        piece = job.workpiece
        self.assertEqual((piece.hardness_hrc, piece.hardness_hb, piece.mass_kg, piece.clamp_force_n), (None,) * 4)
        self.assertEqual((job.machine, piece.material), (former.machine, former.workpiece.material))
        self.assertEqual(len(job.cuts), 1)
        self.assertIsNone(job.cuts[0].feature)
        self.assertEqual(self.bench.pages.currentIndex(), 0)
        self.type_into(self.setup_page.bound.fields["stick_out_mm"].edit, "40")
        self.assertTrue(self.session.is_dirty)

    def test_an_added_cut_takes_tool_holder_and_feature_along(self) -> None:
        cut = self.session.cut
        self.bench.rail.add_cut()
        new = self.session.cut
        self.assertEqual(
            (new.tool, new.holder, new.feature, new.stick_out_mm), (cut.tool, cut.holder, cut.feature, cut.stick_out_mm)
        )
        self.assertNotEqual(new.id, cut.id)

    def test_names_are_changed_where_they_stand(self) -> None:
        QTest.keyClick(self.running.window, Qt.Key.Key_F2)
        edit = self.bench.rail.cards[1].findChild(NameEdit)
        QTest.keyClicks(edit, "Rough pocket")
        QTest.keyClick(edit, Qt.Key.Key_Return)
        self.assertEqual(self.session.cut.name, "Rough pocket")
        QTest.mouseDClick(self.bench.rail.cards[2], Qt.MouseButton.LeftButton)
        edit = self.bench.rail.cards[2].findChild(NameEdit)
        QTest.keyClicks(edit, "Rough pocket")
        QTest.keyClick(edit, Qt.Key.Key_Return)
        self.assertIn("names two cuts", self.said[-1])
        self.session.select(2)
        QTest.keyClick(self.running.window, Qt.Key.Key_F2)
        edit = self.bench.rail.cards[2].findChildren(NameEdit)[-1]
        QTest.keyClicks(edit, "never")
        QTest.keyClick(edit, Qt.Key.Key_Escape)
        self.assertEqual(self.session.cut.name, "Pin slot")
        QTest.mouseDClick(self.bench.top.title, Qt.MouseButton.LeftButton)
        edit = self.bench.top.findChild(NameEdit)
        QTest.keyClicks(edit, "Hinge, side one")
        QTest.keyClick(edit, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.title, "Hinge, side one")


class Judgement(MannersTest):
    shares = True

    def test_a_tool_that_does_not_fit_stops_the_readiness(self) -> None:
        self.bench.show_step(0)
        self.session.edit_cut("Slot", feature={"kind": "slot", "width_mm": 6.0})
        checks = {check.title: check for check in self.setup_page.readiness.checks}
        self.assertEqual(checks["Tool geometry"].grade, "stop")
        self.assertIn("12 mm does not fit into a slot of 6 mm", checks["Tool geometry"].text)

    def test_a_speed_outside_the_table_is_told(self) -> None:
        self.bench.open_path(TITANIUM)
        self.bench.show_step(0)
        self.session.edit_cut("Fast", vc_m_min=230.0, n_rpm=None)
        checks = {check.title: check for check in self.setup_page.readiness.checks}
        self.assertEqual(checks["Cutting parameters"].grade, "look")
        self.assertIn("usual here", checks["Cutting parameters"].text)

    def test_another_material_offers_its_starting_values(self) -> None:
        self.bench.show_step(0)
        speeds = [cut.vc_m_min for cut in self.session.job.cuts]
        self.setup_page._on_material("ti-6al-4v-a")
        self.assertEqual([cut.vc_m_min for cut in self.session.job.cuts], speeds)
        button = self.bench.banner.buttons[0]
        self.assertEqual(button.text(), "Take its starting values")
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.assertLess(max(cut.vc_m_min or 0 for cut in self.session.job.cuts), max(speed or 0 for speed in speeds))
        self.bench.undo()
        self.assertEqual([cut.vc_m_min for cut in self.session.job.cuts], speeds)

    def test_whose_machine_rate_counts(self) -> None:
        self.bench.show_step(0)
        hint = self.setup_page.bound.fields["machine_rate_per_h"].hint
        self.assertIn("set aside", hint.text())
        self.type_into(self.setup_page.bound.fields["machine_rate_per_h"].edit, "")
        self.assertIn("machine's: ", hint.text())

    def test_the_stopwatch_tells_how_far_the_feed_is_off(self) -> None:
        watch, feed = self.cut_page.stopwatch, self.session.result.state.vf
        self.type_into(watch.distance, "300")
        self.type_into(watch.seconds, f"{300 / feed * 60 / 0.9:.3f}")
        self.assertIn("10% below", watch.verdict.text())
        self.type_into(watch.seconds, f"{300 / feed * 60:.3f} s")
        self.assertIn("as set", watch.verdict.text())
        self.type_into(watch.seconds, "soon")
        self.assertIn("a length and seconds", watch.verdict.text())
        self.bench.switch_units()
        self.type_into(watch.distance, "10")
        self.type_into(watch.seconds, f"{254 / feed * 60:.3f}")
        self.assertIn("as set", watch.verdict.text())
        self.assertIn("ipm", watch.verdict.text())

    def test_a_program_that_was_moved_beside_the_job_is_offered(self) -> None:
        job = load_job(HINGE)
        lost = job.cuts[1].program.model_copy(update={"file": "/nowhere/hinge-block-cavity.nc"})
        path = self.folder / "moved.lesna"
        save_job(edits.with_cut(job, 1, program=lost), path)
        shutil.copy(HINGE.parent / "hinge-block-cavity.nc", self.folder)
        self.bench.open_path(path)
        self.assertIn("lies beside the job", self.bench.banner.text.text())
        QTest.mouseClick(self.bench.banner.buttons[0], Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.job.cuts[1].program.file, "hinge-block-cavity.nc")
        self.bench.undo()
        self.assertEqual(self.session.job.cuts[1].program, lost)

    def test_the_simulated_tap_test_stays_marked(self) -> None:
        self.bench.show_step(1)
        self.cut_page.tapping.tap()
        wait_for(lambda: bool(self.session.cut.tap_modes))
        self.assertTrue(all(mode.simulated for mode in self.session.cut.tap_modes))
        self.cut_page.charts.show_face(1)
        APP.processEvents()
        self.assertIn("Simulated", self.cut_page.stability.source.text())
        self.session.save(self.folder / "m.lesna")
        self.assertTrue(load_job(self.folder / "m.lesna").cuts[1].tap_modes[0].simulated)
        from lesna.report.sheet import sheet_html

        wait_for(lambda: self.session.result.chatter is not None)
        self.assertIn(
            "nothing was measured on this machine", sheet_html(self.session.job, self.session.results, "metric")
        )


class EverySize(MannersTest):
    shares = True

    def test_the_ladder_shows_all_its_limits_at_the_smallest_window(self) -> None:
        self.running.window.resize(1100, 700)
        APP.processEvents()
        ladder = self.cut_page.ladder
        self.assertLessEqual(len(ladder.rows()) * ladder.row, ladder.height() + 0.5)

    def test_focus_goes_to_the_job_menu_first_and_reaches_every_control(self) -> None:
        first = self.bench.top.job_button
        reached, widget = [], first
        for _ in range(400):
            widget = widget.nextInFocusChain()
            if widget is first:
                break
            if widget.isVisible() and widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isEnabled():
                reached.append(widget)
        self.assertIn(self.cut_page.map, reached)
        self.assertIn(self.bench.rail.cards[0], reached)
        for widget in reached:
            name = widget.accessibleName() or getattr(widget, "text", lambda: "")()
            self.assertTrue(name, widget)
        self.assertIsNotNone(QApplication.focusWidget() or first)


if __name__ == "__main__":
    unittest.main()
