"""The step Bank as a person uses it: what is kept, corrections, files in and out, a damaged file brought back."""

import os
import tempfile
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from lesna.bank.store import Bank, Source
from lesna.data.places import shop_folder
from lesna.desktop.records.keeper import RowConflict
from lesna.desktop.trials.correcting import CorrectDialog
from lesna.desktop.trials.standard_dialog import StandardDialog
from lesna.planning.telling.cautions import cautions_of
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.learning.edges import reading
from tests.support import HINGE


class BankStep(WindowTest):
    """On a bank of its own in a scratch folder."""

    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.path = self.folder / "bank.db"
        patched = mock.patch.dict(
            os.environ, {"LESNA_BANK": str(self.path), "XDG_DATA_HOME": str(self.folder / "data")}
        )
        patched.start()
        self.addCleanup(patched.stop)
        with Bank(self.path) as bank:
            bank.log([reading(), reading(minutes=20.0, vb_mm=0.2)], Source("shift A"))
            bank.keep(
                "recipes",
                "Cavity",
                {"setup": {"material": "42crmo4-qt30"}, "set": {"ae_mm": 1.2}},
                Source("me", trial="T"),
            )
        super().setUp()

    def open(self):  # type: ignore[no-untyped-def]
        QTest.keyClick(self.running.window, Qt.Key.Key_6, Qt.KeyboardModifier.ControlModifier)
        page = self.bench.page("bank")
        wait_for(lambda: page.shelves is not None or bool(page.shop.trouble))
        APP.processEvents()
        return page

    def test_what_is_kept_stands_there_with_its_history(self) -> None:
        page = self.open()
        self.assertEqual([page.readings.item(k, 2).text() for k in range(2)], ["20", "12"])
        self.assertIn("1 edge, 2 readings", page.words.text())
        page.faces.show_face(1)
        page.records["recipes"].selectRow(0)
        wait_for(lambda: "me" in page.past.text())
        self.assertIn("Stepover ae  1.2 mm", page.entry.text())
        self.assertIn("trial T", page.past.text())
        QTest.mouseClick(page.buttons["Check"], Qt.MouseButton.LeftButton)
        wait_for(lambda: page.words.text() == "The bank is sound")

    def test_own_rows_are_kept_in_the_bank_and_seen_by_every_seat(self) -> None:
        shop = self.answers.bank
        bank_page = self.open()
        wait_for(lambda: shop.bank is not None and shop.runner.is_idle)
        self.bench.open_library()
        library = self.bench.library
        page = library.page("tools")
        page.choose("sq-d12-z4")
        QTest.mouseClick(page.like, Qt.MouseButton.LeftButton)
        self.type_into(page.form.rows["name"].field.edit, "Twelve of ours")
        QTest.mouseClick(page.keep, Qt.MouseButton.LeftButton)
        wait_for(lambda: "is kept for the shop" in library.note.text())
        own = page.key
        self.assertIn("the bank, changed by", page.whence.text())
        with Bank(self.path) as other:
            self.assertEqual(other.record("tools", own).data["name"], "Twelve of ours")
            # another seat changes it, and adds one
            former = other.record("tools", own)
            other.keep("tools", own, {**former.data, "price": 33.0}, Source("Ben"), former)
            other.keep("tools", "own-two", {**former.data, "id": "own-two"}, Source("Ben"))
            self.type_into(page.form.rows["name"].field.edit, "Twelve, renamed")
            QTest.mouseClick(page.keep, Qt.MouseButton.LeftButton)
            wait_for(lambda: library.findChild(RowConflict) is not None)
            dialog = library.findChild(RowConflict)
            self.assertIn("another seat", dialog.words.text())
            dialog.choices.chosen.emit("both")
            wait_for(lambda: other.record("tools", own).data["name"] == "Twelve, renamed")
            self.assertEqual(other.record("tools", own).data["price"], 33.0)
            other.keep("tools", "own-three", {**former.data, "id": "own-three"}, Source("Ben"))
        wait_for(lambda: shop.runner.is_idle)
        shop.look_for_others()
        wait_for(lambda: "own-three" in self.session.library.tools)
        self.assertEqual(self.session.library.tools[own].price, 33.0)
        page.choose(own)
        QTest.mouseClick(page.drop, Qt.MouseButton.LeftButton)
        wait_for(lambda: own not in self.session.library.tools)
        library.close()
        wait_for(lambda: bank_page.records["library"].rowCount() == 2)
        bank_page.faces.show_face(3)
        bank_page.records["library"].selectRow(0)
        wait_for(lambda: "Ben" in bank_page.past.text())

    def test_rows_of_this_seats_files_are_moved_in_by_a_button(self) -> None:
        shop, library = self.answers.bank, self.session.library
        wait_for(lambda: shop.bank is not None and shop.runner.is_idle)
        library.keep("tools", library.tools["sq-d12-z4"].with_values(id="own-filed"))
        self.session.library_changed.emit()
        self.bench.open_library()
        window = self.bench.library
        self.assertTrue(window.move_rows.isVisible())
        QTest.mouseClick(window.move_rows, Qt.MouseButton.LeftButton)
        wait_for(lambda: "1 row moved into the bank" in window.note.text())
        wait_for(lambda: not window.move_rows.isVisible())
        self.assertIn("the bank, changed by", library.tools.origin("own-filed"))
        self.assertTrue((shop_folder() / "tools.json.moved").exists())

    def test_book_model_and_bank_and_the_run_plan_stand_beside_the_tables(self) -> None:
        page = self.open()
        self.session.select(1)
        page.faces.show_face(4)
        wait_for(lambda: page.beside.columns)
        self.assertFalse(page.detail.isVisible())
        self.assertEqual(page.beside.table.rowCount(), 12)
        self.assertIn("Model: Starting values of the tables", page.beside.says.text())
        page.faces.show_face(5)
        face = page.run_plan
        wait_for(lambda: face.isVisible() and face.plan is not None)
        self.type_into(face.fields["hours"].edit, "30")
        self.type_into(face.fields["pockets"].edit, "3")
        self.assertIn("Safe for", face.first.text())
        self.assertIn("magazine", face.first.text())
        self.type_into(face.fields["chip_room"].edit, "-4")
        self.assertIn("ust be above 0 and at most 1,000,000", face.fields["chip_room"].trouble.text())
        for name in ("plan.html", "plan.pdf"):
            face.write(self.folder / name)
            wait_for((self.folder / name).exists)
        self.assertIn("Safe for", (self.folder / "plan.html").read_text())
        self.bench.switch_units()
        APP.processEvents()
        page.faces.show_face(0)
        self.assertTrue(page.detail.isVisible())

    def test_a_recipe_is_adopted_with_its_conversions_and_undone(self) -> None:
        page = self.open()
        page.take_file(HINGE.parent / "kilnbrook-bank.json")
        wait_for(lambda: page.shelves.counts["recipes"] == 13)
        self.session.select(1)
        wait_for(lambda: page.shelves is not None)
        self.assertEqual(page.shelves.like[0].distance, 0.0)
        APP.processEvents()
        page.faces.show_face(1)
        names = [page.records["recipes"].item(k, 0).text() for k in range(13)]
        page.records["recipes"].selectRow(names.index("Pin slot by loops"))
        self.assertIn("diameter: 12 mm here, 10 mm there", page.entry.text())
        self.assertIn("the same share of the diameter", page.entry.text())
        before = self.session.job
        QTest.mouseClick(page.adopt, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(self.session.cut.ap_mm, 18.0 * 1.2)
        self.bench.undo()
        self.assertEqual(self.session.job, before)
        # one that says too little cannot be
        page.records["recipes"].selectRow(names.index("Cavity"))
        self.assertFalse(page.adopt.isEnabled())

    def test_a_correction_that_meets_another_one_asks_which(self) -> None:
        page = self.open()
        page.readings.selectRow(0)
        former = page.shelves.readings[0]
        dialog = CorrectDialog(self.session, page.shop, former, page)
        dialog.open()
        self.type_into(dialog.numbers["vb_mm"].edit, "0.18")
        with Bank(self.path) as other:
            other.amend(former, former.with_values(sound="chatter"), Source("you"))
        QTest.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
        wait_for(lambda: bool(dialog.choices.buttons))
        self.assertIn("theirs, yours, or both", dialog.words.text())
        QTest.mouseClick(dialog.choices.buttons[2], Qt.MouseButton.LeftButton)
        wait_for(lambda: not dialog.isVisible())
        with Bank(self.path) as bank:
            kept = bank.readings()[-1]
            self.assertEqual((kept.vb_mm, kept.sound), (0.18, "chatter"))

    def test_a_standard_is_set_marks_the_rail_and_meets_another_seat(self) -> None:
        page = self.open()
        QTest.mouseClick(page.buttons["Standard ..."], Qt.MouseButton.LeftButton)
        wait_for(lambda: bool(page.findChildren(StandardDialog)))
        dialog = page.findChildren(StandardDialog)[0]
        self.type_into(dialog.removal.edit, "500")
        self.type_into(dialog.who.edit, "tool room")
        QTest.mouseClick(dialog.keep, Qt.MouseButton.LeftButton)
        wait_for(lambda: self.session.result.setup.parts.standard is not None)
        self.assertIn("slower than the shop's standard", self.bench.rail.cards[0].accessibleName())
        self.assertIn("below_standard", [caution.id for caution in cautions_of(self.session.result)])
        with Bank(self.path) as other:
            kept = other.records("standards")[0]
            again = StandardDialog(self.session, page.shop, kept, page)
            again.open()
            other.keep("standards", kept.name, {"q_cm3_min": 40.0, "why": "mine"}, Source("you"), kept)
        self.type_into(again.why.edit, "agreed")
        QTest.mouseClick(again.keep, Qt.MouseButton.LeftButton)
        wait_for(lambda: bool(again.choices.buttons))
        QTest.mouseClick(again.choices.buttons[1], Qt.MouseButton.LeftButton)
        wait_for(lambda: not again.isVisible())
        with Bank(self.path) as bank:
            self.assertEqual(bank.records("standards")[0].data, {"q_cm3_min": 500.0, "why": "agreed"})

    def test_files_in_and_out(self) -> None:
        page = self.open()
        page.take_file(HINGE.parent / "kilnbrook-bank.json")
        wait_for(lambda: page.shelves.counts["readings"] == 62)
        out = self.folder / "out.json"
        page.write_file(out)
        wait_for(out.exists)
        (self.folder / "bad.csv").write_text("trial,edge,minutes\nT,E9,-1\n")
        page.take_file(self.folder / "bad.csv")
        wait_for(lambda: "1 refused" in self.bench.banner.text.text())
        for box in page.findChildren(type(page.window())) + [
            w for w in APP.topLevelWidgets() if w.isVisible() and w is not self.running.window
        ]:
            box.close()

    def test_a_damaged_bank_is_brought_back_from_its_copy(self) -> None:
        page = self.open()
        # nobody else has the file open while it is damaged
        wait_for(lambda: page.shop.runner.is_idle)
        page.shop.close()
        Bank(self.path).close()  # the copy of the day
        self.path.write_bytes(b"broken " * 500)
        page.shop.bank, page.shop.lessons, page.shelves = None, None, None
        page.shop.begin()
        wait_for(lambda: bool(page.shop.trouble))
        APP.processEvents()
        self.assertTrue(page.buttons["Bring back the copy"].isVisible())
        QTest.mouseClick(page.buttons["Bring back the copy"], Qt.MouseButton.LeftButton)
        wait_for(lambda: page.shelves is not None)
        self.assertEqual(page.shelves.counts["readings"], 2)
        self.assertEqual(
            len([path for path in self.folder.glob("bank.db.damaged-*") if path.suffix[-4:] not in ("-wal", "-shm")]), 1
        )
