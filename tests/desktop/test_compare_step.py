"""The step Compare as a person uses it: lanes, aims, taking one over, the tools, stopping."""

import tempfile
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from lesna.desktop.widgets import quote_face
from lesna.model.units import clock
from tests.desktop.driver import WindowTest, wait_for


class CompareStep(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(1)
        self.compare = self.compare_page

    def open(self) -> None:
        """Goes to the step by its shortcut and waits for the lanes."""
        QTest.keyClick(self.running.window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
        self.wait_for_lanes()

    def wait_for_lanes(self) -> None:
        wait_for(lambda: self.answers.comparison.value is not None)
        QApplication.processEvents()

    def test_lanes_use_one_and_undo(self) -> None:
        self.assertIsNone(self.answers.comparison.value)  # nothing is computed before somebody looks
        self.open()
        cards = self.compare.schools.lanes.cards
        answer = self.answers.comparison.value
        self.assertEqual([card.lane for card in cards], list(answer.lanes))
        self.assertIn("Wins", cards[0].sentence)
        for card in cards:  # two schools make the same passes in this pocket, and nothing is made of it
            self.assertNotRegex(card.sentence, r"(\S+ cm³/min) against \1")
        self.assertIn("min", self.compare.figures["minutes"].text())
        wait_for(lambda: self.session.result.timing is not None and self.session.result.timing.basis == "program")
        part_time = clock(self.session.result.part_time)
        self.assertIn(f"By its program a part takes {part_time} min:s.", self.compare.basis.text())
        before = self.session.job
        QTest.mouseClick(cards[0].button, Qt.MouseButton.LeftButton)
        point = answer.winner.main.point
        self.assertAlmostEqual(self.session.cut.ae_mm, point.ae, places=3)
        self.assertAlmostEqual(self.session.cut.vc_m_min, point.vc, places=1)
        self.wait_for_lanes()
        self.assertTrue(any(card.in_use for card in self.compare.schools.lanes.cards))
        self.bench.undo()
        self.assertEqual(self.session.job, before)

    def test_another_aim_ranks_anew_and_a_floor_is_kept(self) -> None:
        self.open()
        first = self.answers.comparison.value
        self.assertEqual(first.aim, "cost")  # what a shop wants unless it says otherwise
        QTest.mouseClick(self.compare.aims["time"], Qt.MouseButton.LeftButton)
        self.assertIsNone(self.answers.comparison.value)
        self.wait_for_lanes()
        self.assertEqual(self.answers.comparison.value.aim, "time")
        self.assertLess(self.answers.comparison.value.winner.minutes, first.winner.minutes)
        self.type_into(self.compare.floor.edit, "38")
        self.wait_for_lanes()
        answer = self.answers.comparison.value
        self.assertEqual(answer.floor, 38.0)
        self.assertGreaterEqual(answer.winner.q, 38.0 * 0.98)

    def test_stopped_and_gone_on(self) -> None:
        self.bench.show_step(2)
        schools = self.compare.schools
        self.assertTrue(schools.stop.isVisible())
        QTest.mouseClick(schools.stop, Qt.MouseButton.LeftButton)
        self.assertEqual(self.answers.comparison.trouble, "stopped")
        self.assertEqual((schools.words.text(), schools.stop.text()), ("Stopped", "Go on"))
        QTest.mouseClick(schools.stop, Qt.MouseButton.LeftButton)
        self.wait_for_lanes()
        self.assertFalse(schools.stop.isVisible())

    def test_tools_are_tried_only_when_asked_for(self) -> None:
        self.session.select(4)
        self.open()
        self.assertIsNone(self.answers.ranking.value)
        self.compare.faces.show_face(1)
        tools = self.compare.tools
        self.assertTrue(tools.stop.isVisible())
        QTest.mouseClick(tools.stop, Qt.MouseButton.LeftButton)
        self.assertEqual(tools.stop.text(), "Go on")

    def test_the_quote_of_the_whole_job(self) -> None:
        self.open()
        face = self.compare.quote
        QTest.mouseClick(self.compare.faces.buttons[2], Qt.MouseButton.LeftButton)
        self.assertEqual(face.cuts.rowCount(), len(self.session.job.cuts))
        empty = ["min", "min", "", "/cm³"]
        self.assertEqual([field.edit.placeholderText() for field in face.given], empty)
        tool, minutes = (face.cuts.item(0, column).textAlignment() for column in (1, 2))
        self.assertFalse(tool & Qt.AlignmentFlag.AlignRight)
        self.assertTrue(minutes & Qt.AlignmentFlag.AlignRight)
        before = face.quote.minutes
        self.type_into(face.setup.edit, "45")
        self.assertAlmostEqual(face.quote.minutes, before + 45)
        self.assertIn(("Set-up", "45 min"), [(name.text(), value.text()) for name, value in face.values])
        with mock.patch.object(quote_face, "batch_spread", wraps=quote_face.batch_spread) as spread:
            for news in (self.answers.changes.progressed, self.answers.changes.changed):
                news.emit()
            self.assertEqual(spread.call_count, 0, "the sums stay as they are")
        wait_for(lambda: self.answers.changes.value is not None)
        self.assertEqual(face.better.rowCount(), len(face.changes))
        self.assertIn("Rough cavity", [change.cut for change in face.changes])
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        table = Path(scratch.name) / "quote.csv"
        for path, words in ((table, "cut,tool,time by"), (table.with_suffix(".html"), "What each change would save")):
            face.write(path)
            wait_for(lambda path=path: path.exists())
            self.assertIn(words, path.read_text())
        wait_for(lambda: "Quote written to quote.html" in self.bench.banner.text.text())
        self.bench.undo()
        self.assertIsNone(self.session.job.batch.setup_min)
        money = face.quote.money
        for field, text in zip(face.given[1:], ("2 h", "70", "0.3"), strict=True):
            self.type_into(field.edit, text)
        self.assertAlmostEqual(face.quote.money, money + 140.0)
        shown = {name.text(): value.text() for name, value in face.values}
        self.assertEqual(shown["Programming"], "2 h 0 min")
        self.assertIn("usual 0.300", shown["A removed cm³"])
        self.assertIn(" to ", shown["Nine of ten, a part"])

    def test_without_a_feature_it_says_what_is_missing(self) -> None:
        self.session.edit_cut("Remove the feature", feature=None)
        self.bench.show_step(2)
        wait_for(lambda: bool(self.answers.comparison.trouble))
        self.assertIn("feature", self.compare.schools.words.text())
        self.assertFalse(self.bench.banner.isVisible())
