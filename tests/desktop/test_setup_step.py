"""The Setup step and the rail: pick, drag, search, reorder."""

import unittest
from unittest import mock

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from lesna.desktop.widgets.words import Elided, tip
from tests.desktop.driver import WindowTest
from tests.support import LIBRARY


class SetupStep(WindowTest):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        self.session.select(1)
        self.bench.show_step(0)
        self.setup = self.setup_page

    def test_a_hint_without_room_ends_in_dots_and_tells_all_of_it_to_a_resting_mouse(self) -> None:
        hint = Elided("machine's 70.00")
        for width in (400, hint.sizeHint().width(), 60, 8):
            hint.resize(width, 20)
            self.assertEqual(hint.shown == hint.text(), width >= hint.sizeHint().width())
            if hint.shown != hint.text():
                self.assertTrue(hint.shown.endswith("\u2026") or not hint.shown)
            self.assertFalse(hint.grab().isNull())
        hint.setText("machine's 8 <Nm>")
        self.assertEqual(hint.toolTip(), tip("machine's 8 <Nm>"))

    def test_the_holder_face_drags_the_stick_out(self) -> None:
        view = self.setup.elevation
        handle = view.handle("stick_out")
        self.drag(view, handle, QPointF(handle.x(), view.at(0, 52.0).y()))
        self.assertAlmostEqual(self.session.cut.stick_out_mm, 52.0, delta=0.6)
        self.assertEqual(self.session.stack.count(), 1)

    def test_the_stick_out_stops_at_the_depth_and_at_the_tool(self) -> None:
        view = self.setup.elevation
        view.drag_to("stick_out", 1.0)
        self.assertEqual(self.session.cut.stick_out_mm, 24.0)
        view.drag_to("stick_out", 500.0)
        self.assertEqual(self.session.cut.stick_out_mm, 93.0)

    def test_lengths_by_keyboard(self) -> None:
        view = self.setup.elevation
        view.setFocus()
        for key, modifier, field, change in (
            (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, "stick_out_mm", 0.5),
            (Qt.Key.Key_Down, Qt.KeyboardModifier.NoModifier, "stick_out_mm", -0.5),
            (Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, "ap_mm", -0.5),
            (Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier, "ap_mm", 0.5),
        ):
            before = getattr(self.session.cut, field)
            QTest.keyClick(view, key, modifier)
            self.assertAlmostEqual(getattr(self.session.cut, field), before + change)
        before_all = self.session.job
        QTest.keyClick(view, Qt.Key.Key_A)
        self.assertIs(self.session.job, before_all)

    def test_away_from_the_handles_nothing_is_dragged(self) -> None:
        view, before = self.setup.elevation, self.session.job
        self.drag(view, QPointF(view.width() / 2, 2.0), QPointF(view.width() / 2, 60.0))
        self.assertIs(self.session.job, before)
        self.assertFalse(self.session.is_dragging)

    def test_the_depth_drags_and_nudges(self) -> None:
        view = self.setup.elevation
        handle = view.handle("ap")
        self.drag(view, handle, QPointF(handle.x(), view.at(0, 18.0).y()))
        self.assertAlmostEqual(self.session.cut.ap_mm, 18.0, delta=0.6)
        before = self.session.cut.stick_out_mm
        QTest.keyClick(view, Qt.Key.Key_Up)
        self.assertAlmostEqual(self.session.cut.stick_out_mm, before + 0.5)

    def test_material_search_offers_and_takes(self) -> None:
        box = self.setup.material
        box.setFocus()
        box.selectAll()
        QTest.keyClicks(box, "4140 prehard")
        self.assertEqual(box.matches(), ["42crmo4-qt30"])
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.workpiece.material.id, "42crmo4-qt30")
        self.assertIsNone(self.session.job.workpiece.hardness_hrc)
        self.assertIn("1.7225", self.setup.notes.text())

    def test_search_by_arrow_escape_and_nothing_found(self) -> None:
        box = self.setup.material
        box.setFocus()
        box.selectAll()
        QTest.keyClicks(box, "1.7225")
        QTest.keyClick(box, Qt.Key.Key_Down)
        QTest.keyClick(box, Qt.Key.Key_Escape)
        self.assertEqual(self.session.job.workpiece.material.id, "40crmnnimo8-6-4-32")
        self.assertIn("40CrMnNiMo8", box.text())
        box.selectAll()
        QTest.keyClicks(box, "unobtainium")
        self.assertIn("nothing answers", box.list.item(0).text())
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.workpiece.material.id, "40crmnnimo8-6-4-32")
        QTest.keyClick(box, Qt.Key.Key_Escape)

    def test_tool_machine_and_holder_write_back(self) -> None:
        self.setup.tool.chosen.emit("ball-d10-z4")
        self.assertEqual(self.session.result.setup.parts.tool.kind, "ball")
        self.bench.show_step(1)
        self.assertTrue(self.cut_page.tilt.isVisibleTo(self.cut_page))
        self.setup.machine.chosen.emit("bench-gear")
        self.assertEqual(self.session.result.setup.parts.machine.id, "bench-gear")
        self.setup.holder.chosen.emit("collet")
        self.assertEqual(self.session.cut.holder.id, "collet")
        self.running.window.grab()

    def test_fields_write_back_in_any_unit(self) -> None:
        fields = self.setup.bound.fields
        for key, text, read, value in (
            ("hardness_hrc", "34 HRC", lambda: self.session.job.workpiece.hardness_hrc, 34.0),
            ("hardness_hb", "310 HB", lambda: self.session.job.workpiece.hardness_hb, 310.0),
            ("mass_kg", "40 lb", lambda: self.session.job.workpiece.mass_kg, 18.143695),
            ("clamp_force_n", "18 kN", lambda: self.session.job.workpiece.clamp_force_n, 18000.0),
            ("stick_out_mm", "4xD", lambda: self.session.cut.stick_out_mm, 48.0),
            ("runout_um", "0.3 thou", lambda: self.session.cut.tool.runout_um, 7.62),
            ("runout_um", "", lambda: self.session.cut.tool.runout_um, None),
            ("parts", "48", lambda: self.session.job.batch.parts, 48),
            ("tool_change_min", "45 s", lambda: self.session.job.batch.tool_change_min, 0.75),
            ("feature.depth_mm", "1 in", lambda: self.session.cut.feature.depth_mm, 25.4),
        ):  # fmt: skip
            with self.subTest(key=key, text=text):
                self.type_into(fields[key].edit, text)
                self.assertEqual(read() if value is None else round(read(), 6), value)

    def test_half_a_part_is_refused_in_words(self) -> None:
        field = self.setup.bound.fields["parts"]
        self.type_into(field.edit, "2.5")
        self.assertIn("whole number", field.trouble.text())

    def test_feature_kinds(self) -> None:
        self.setup.feature.chosen.emit("slot")
        self.assertEqual(self.session.cut.feature.kind, "slot")
        self.setup.feature.chosen.emit("")
        self.assertIsNone(self.session.cut.feature)
        self.assertIn("1 unknown", self.bench.rail.total.text())

    def test_readiness_and_cautions_follow(self) -> None:
        self.setup.machine.chosen.emit("bench-gear")
        verdicts = {check.title: check.grade for check in self.setup.readiness.checks}
        self.assertEqual(verdicts["Spindle"], "stop")

    def test_every_machine_and_holder_can_be_drawn(self) -> None:
        for key in LIBRARY.machines:
            self.setup.machine.chosen.emit(key)
            self.running.window.grab()
        for key in LIBRARY.holders:
            self.setup.holder.chosen.emit(key)
            self.setup.elevation.grab()


class Rail(WindowTest):
    shares = True

    def names(self) -> list[str]:
        return [cut.name for cut in self.session.job.cuts]

    def test_a_click_chooses_and_arrows_move_on(self) -> None:
        card = self.bench.rail.cards[3]
        QTest.mouseClick(card, Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.index, 3)
        card.setFocus()
        QTest.keyClick(card, Qt.Key.Key_Up)
        self.assertEqual(self.session.index, 2)

    def test_add_variant_delete_and_undo(self) -> None:
        before = self.names()
        self.session.select(1)
        self.bench.rail.add_variant()
        self.assertEqual(self.names()[2], "Rough cavity, variant")
        self.assertEqual(self.session.index, 2)
        self.bench.rail.add_cut()
        self.assertEqual(self.session.cut.name, "New cut")
        self.bench.rail.delete_cut()
        self.bench.rail.delete_cut()
        self.assertEqual(len(self.bench.rail.cards), 5)
        for _ in range(4):
            self.bench.undo()
        self.assertEqual(self.names(), before)

    def test_reorder_keeps_the_choice(self) -> None:
        self.session.select(0)
        card = self.bench.rail.cards[0]
        card.setFocus()
        QTest.keyClick(card, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.names()[:2], ["Rough cavity", "Face top"])
        self.assertEqual(self.session.cut.name, "Face top")

    def test_a_card_dropped_on_another_takes_its_place(self) -> None:
        from PySide6.QtCore import QMimeData
        from PySide6.QtGui import QDropEvent

        mime = QMimeData()
        mime.setData("application/x-lesna-cut", b"4")
        event = QDropEvent(QPointF(5, 5), Qt.DropAction.MoveAction, mime, Qt.MouseButton.LeftButton,
                           Qt.KeyboardModifier.NoModifier)  # fmt: skip
        self.bench.rail.cards[1].dropEvent(event)
        self.assertEqual(self.names()[:3], ["Face top", "Cavity walls", "Rough cavity"])

    def test_a_card_is_taken_by_the_mouse_only_after_a_real_move(self) -> None:
        card = self.bench.rail.cards[2]
        with mock.patch("lesna.desktop.widgets.rail.QDrag") as drag:
            QTest.mousePress(card, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(20, 20))
            self.move(card, QPoint(21, 20), Qt.KeyboardModifier.NoModifier)
            self.assertFalse(drag.called)
            self.move(card, QPoint(20, 60), Qt.KeyboardModifier.NoModifier)
            self.assertTrue(drag.called)
            self.assertEqual(
                bytes(drag.return_value.setMimeData.call_args[0][0].data("application/x-lesna-cut").data()), b"2"
            )
            drag.reset_mock()
            self.move(card, QPoint(20, 90), Qt.KeyboardModifier.NoModifier)
            self.assertFalse(drag.called)

    def test_the_menu_of_a_card_acts_on_that_card(self) -> None:
        from PySide6.QtGui import QContextMenuEvent
        from PySide6.QtWidgets import QMenu

        before = self.names()

        def choose(wanted: str) -> None:
            class Chosen(QMenu):
                def exec(self, place: QPoint) -> None:
                    next(action for action in self.actions() if action.text() == wanted).trigger()

            card = self.bench.rail.cards[1]
            with mock.patch("lesna.desktop.widgets.rail.QMenu", Chosen):
                QApplication.sendEvent(
                    card, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, QPoint(5, 5), QPoint(5, 5))
                )

        for wanted, names in (
            ("Move down", [before[0], before[2], before[1], *before[3:]]),
            ("Move up", [before[1], before[0], *before[2:]]),
            ("Repeat as a variant", [*before[:2], f"{before[1]}, variant", *before[2:]]),
            ("Delete", [before[0], *before[2:]]),
        ):
            with self.subTest(action=wanted):
                choose(wanted)
                self.assertEqual(self.names(), names)
                self.bench.undo()
                self.assertEqual(self.names(), before)

    def test_a_card_by_keyboard(self) -> None:
        card = self.bench.rail.cards[3]
        card.setFocus()
        QTest.keyClick(card, Qt.Key.Key_Return)
        self.assertEqual(self.session.index, 3)
        QTest.keyClick(card, Qt.Key.Key_Delete)
        self.assertEqual(len(self.names()), 4)
        self.bench.undo()
        self.assertEqual(len(self.names()), 5)

    def test_a_card_says_its_state_in_words(self) -> None:
        self.session.select(1)
        self.session.edit_cut("Change", hex_mm=0.1)
        self.assertIn("over, thickest chip", self.bench.rail.cards[1].accessibleName())
        self.running.window.grab()

    def test_the_last_cut_cannot_be_deleted(self) -> None:
        for _ in range(6):
            self.bench.rail.delete_cut()
        self.assertEqual(len(self.names()), 1)
        self.assertIn("at least one cut", self.bench.banner.text.text())


if __name__ == "__main__":
    unittest.main()
