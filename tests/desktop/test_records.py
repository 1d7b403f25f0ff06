"""The library in its window and the values of one job, through real events."""

import json
import shutil
import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from lesna.data.places import shop_folder
from lesna.desktop.records.alone import AloneDialog, standing_of
from lesna.desktop.widgets.sentences import Sentences
from lesna.document.results import Results
from lesna.model.facts import facts_of, read, written
from lesna.model.files import job_from_text, job_text
from lesna.model.job import Batch, Book, Cut, Feature, Job, Workpiece
from lesna.model.library_records import Holder, Machine, Material, Tool
from lesna.planning.evaluate import evaluate
from tests.desktop.driver import APP, WindowTest, wait_for

CONTROL = Qt.KeyboardModifier.ControlModifier


class RecordsTest(WindowTest):
    def setUp(self) -> None:
        shutil.rmtree(shop_folder(), ignore_errors=True)
        # nobody else's window finds these rows
        self.addCleanup(shutil.rmtree, shop_folder(), ignore_errors=True)
        super().setUp()
        self.session.select(1)

    def field(self, form, key: str):  # type: ignore[no-untyped-def]
        """The line or list of one field."""
        widget = form.rows[key].field
        return widget.combo if hasattr(widget, "combo") else widget.edit

    def choose(self, form, key: str, word: str) -> None:  # type: ignore[no-untyped-def]
        """Chooses a word as somebody does with the keyboard."""
        combo = self.field(form, key)
        combo.setFocus()
        combo.setCurrentIndex(combo.findData(word))
        combo.activated.emit(combo.currentIndex())

    def click(self, button) -> None:  # type: ignore[no-untyped-def]
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def fresh(self) -> float:
        return float(evaluate(self.session.job, self.session.index, self.session.library).state.q)


class TroubledTables(RecordsTest):
    """What the shop's own tables hold that cannot be used is told whole, also of tables that nobody has asked for yet."""

    def restarted_with(self, **files: str) -> str:
        self.tearDown()
        shop_folder().mkdir(parents=True, exist_ok=True)
        for name, text in files.items():
            (shop_folder() / f"{name}.csv").write_text(text)
        self.start()
        wait_for(lambda: self.bench.banner.isVisible())
        return str(self.bench.banner.text.text())

    def test_one_thing_is_said_and_several_are_listed(self) -> None:
        said = self.restarted_with(tapers="id,name\nown,Own\n")
        self.assertIn("tapers.csv, line 2: gauge_diameter_mm: is missing", said)
        said = self.restarted_with(tools="id,kind,DC\na,round,8\nb,square,x\n")
        self.assertIn("3 things in the shop's own tables could not be used", said)
        self.click(self.bench.banner.buttons[0])
        shown = self.bench.findChild(Sentences)
        self.assertEqual(len(shown.text.toPlainText().split("\n\n")), 3)
        self.assertIn("tools.csv, line 2: kind: must be one of", shown.text.toPlainText())
        shown.reject()


class LibraryPages(RecordsTest):
    def setUp(self) -> None:
        super().setUp()
        self.running.window.activateWindow()
        wait_for(self.running.window.isActiveWindow)
        QTest.keyClick(self.bench, Qt.Key.Key_L, CONTROL)
        self.window = self.bench.library
        self.page = self.window.page("tools")
        APP.processEvents()

    def tearDown(self) -> None:
        self.window.close()
        self.window.deleteLater()
        self.bench.library = None
        super().tearDown()

    def key_at(self, row: int) -> str:
        return str(self.page.list.item(row, 0).data(Qt.ItemDataRole.UserRole))


class LookingAndTyping(LibraryPages):
    """Nothing is kept for the shop."""

    shares = True

    def test_opens_at_the_tool_of_the_cut_and_draws_it(self) -> None:
        self.assertTrue(self.window.isVisible())
        self.assertEqual(self.page.key, self.session.result.setup.parts.tool.id)
        self.assertEqual(self.page.beside.drawing.tool.id, self.page.key)
        self.assertIn("tools-generic.csv", self.page.whence.text())

    def test_columns_are_as_wide_as_what_is_in_them(self) -> None:
        for text in ("", "ball", "d12"):
            self.type_into(self.page.search, text)
            APP.processEvents()
            header = self.page.list.horizontalHeader()
            for column in range(1, self.page.list.columnCount()):
                needed = max(self.page.list.sizeHintForColumn(column), header.sectionSizeHint(column))
                self.assertGreaterEqual(self.page.list.columnWidth(column), needed)
            whole = sum(self.page.list.columnWidth(column) for column in range(self.page.list.columnCount()))
            self.assertLessEqual(whole, self.page.list.viewport().width())

    def test_search_and_filters_narrow_the_list(self) -> None:
        self.type_into(self.page.search, "square d12 z4")
        self.assertEqual(self.page.table[self.page.key].DC, 12.0)
        self.assertTrue(self.page.count.text().startswith("1 of "))
        self.type_into(self.page.search, "")
        everything = self.page.list.rowCount()
        self.page.kind.setCurrentText("ball")
        self.assertLess(self.page.list.rowCount(), everything)
        self.assertTrue(
            all(self.page.table[self.key_at(row)].kind == "ball" for row in range(self.page.list.rowCount()))
        )
        self.type_into(self.page.reach, "30")
        self.assertTrue(
            all(self.page.table[self.key_at(row)].usable_length >= 30 for row in range(self.page.list.rowCount()))
        )
        self.page.whose.setCurrentIndex(1)
        self.assertEqual(self.page.list.rowCount(), 0)
        for part in (self.page.whose, self.page.kind):
            part.setCurrentIndex(0)
        self.type_into(self.page.reach, "")
        self.type_into(self.page.diameter, "10")
        self.type_into(self.page.flutes, "4")
        shown = [self.page.table[self.key_at(row)] for row in range(self.page.list.rowCount())]
        self.assertTrue(shown and all((tool.DC, tool.ZEFP) == (10.0, 4) for tool in shown))
        self.type_into(self.page.flutes, "")
        self.page.group.setCurrentIndex(self.page.group.findData("N"))
        shown = [self.page.table[self.key_at(row)] for row in range(self.page.list.rowCount())]
        self.assertTrue(shown and all("N" in tool.intended_iso_groups.split() for tool in shown))

    def test_the_short_form_first_and_what_a_kind_needs(self) -> None:
        form = self.page.form
        self.page.choose("sq-d12-z4")

        def seen() -> set[str]:
            return {key for key, row in form.rows.items() if row.isVisibleTo(form)}

        self.assertLessEqual({"DC", "ZEFP", "RE", "APMX", "LU", "DMM", "OAL", "substrate", "coating"}, seen())
        self.assertFalse({"FHA", "tip_angle_deg", "insert_count", "notes"} & seen())
        self.assertEqual(self.field(form, "kind").findText("not given"), -1, "a tool has a kind")
        self.choose(form, "kind", "chamfer")
        self.assertIn("tip_angle_deg", seen())
        self.choose(form, "kind", "high_feed")
        self.assertIn("KAPR", seen())
        # what is refused is seen, wherever it stands
        self.click(self.page.keep)
        self.assertIn("must be below 60", form.rows["KAPR"].field.trouble.text())
        form.fold.click()
        self.assertLessEqual({"FHA", "insert_count", "notes"}, seen())
        form.fold.click()
        self.type_into(self.field(form, "notes"), "x")
        self.assertNotIn("notes", seen())

    def test_what_does_not_fit_is_refused_beside_its_field_and_stays_typed(self) -> None:
        self.page.choose("sq-d12-z4")
        edit = self.field(self.page.form, "FHA")
        self.type_into(edit, "95")
        self.assertEqual(edit.text(), "95")
        self.assertIn("range 0 to 75", self.page.form.rows["FHA"].field.trouble.text())
        self.click(self.page.keep)
        self.assertFalse((shop_folder() / "tools.json").exists())
        self.type_into(edit, "38")
        self.type_into(self.field(self.page.form, "RE"), "9")
        self.click(self.page.keep)
        self.assertIn("at most half of DC", self.page.form.rows["RE"].field.trouble.text())
        self.assertFalse((shop_folder() / "tools.json").exists())

    def test_a_spindle_has_one_power(self) -> None:
        page = self.window.show_table("machines")
        page.choose("vmc40-8k")
        form, beside = page.form, page.beside
        was = [point for _, point in beside.drawing.chart.lines[0].points]
        # the curve follows a typed power by its ratio, and so does the torque
        self.type_into(self.field(form, "power_s1_kw"), "13.2")
        self.assertAlmostEqual(form.held("torque_s1_max_nm"), 95.49 * 1.2, delta=0.1)
        self.assertTrue(
            all(
                abs(b / a - 1.2) < 1e-3
                for a, b in zip(was, [p for _, p in beside.drawing.chart.lines[0].points], strict=True)
            )
        )
        self.assertIn("follows", beside.followed.text())
        # the figures follow a typed curve
        beside.curves["S1"].setPlainText("rpm kW\n1000 10\n8000 12")
        self.assertEqual(self.field(form, "power_s1_kw").text(), "12 kW")
        self.assertAlmostEqual(form.held("torque_s1_max_nm"), 95.49, delta=0.1)
        # and then the curve a typed figure again
        self.type_into(self.field(form, "power_s1_kw"), "6")
        self.assertIn("1000", beside.curves["S1"].toPlainText())
        self.assertAlmostEqual(form.record().curve.duty["S1"].greatest_power, 6.0)
        # more all day than for a while is refused beside its field
        self.type_into(self.field(form, "power_s1_kw"), "20")
        self.click(page.keep)
        self.assertIn("at least", form.rows["power_s6_40_kw"].field.trouble.text())

    def test_what_is_drawn_follows_what_is_typed(self) -> None:
        for table, key, text, seen in (
            ("holders", "nose_d12_mm", "50", lambda drawing: drawing.holder.nose_d12_mm),
            ("materials", "kc11_n_mm2", "3333", lambda drawing: drawing.chart.lines[0].points[-1][1]),
            ("cutting_data", "ref_life_min", "999", lambda drawing: drawing.chart.lines[0].points[0][1]),
        ):
            page = self.window.show_table(table)
            if table == "cutting_data":
                page.choose(("p-low-carbon", "carbide-uncoated"))
            drawing = page.beside.drawing
            before = seen(drawing)
            self.type_into(self.field(page.form, key), text)
            with self.subTest(table=table):
                self.assertGreater(seen(drawing), before)
                self.assertFalse(drawing.grab().isNull())

    def test_units_of_the_view_everywhere(self) -> None:
        self.page.choose("sq-d12-z4")
        self.bench.switch_units()
        self.assertIn("0.4724 in", self.field(self.page.form, "DC").text())
        self.type_into(self.field(self.page.form, "DC"), "1/2")
        self.assertAlmostEqual(self.page.form.held("DC"), 12.7)

    def test_escape_closes_and_the_meaning_of_a_field_is_told(self) -> None:
        self.field(self.page.form, "APMX").setFocus()
        APP.processEvents()
        self.assertIn("largest depth of cut", self.page.form.meaning.text().lower())
        self.assertIn("0.01 to 500", self.page.form.meaning.text())
        self.page.list.setFocus()
        QTest.keyClick(self.window, Qt.Key.Key_Escape)
        self.assertFalse(self.window.isVisible())


class KeptForTheShop(LibraryPages):
    def test_like_this_one_saved_is_live_and_used_without_a_restart(self) -> None:
        self.page.choose("sq-d12-z4")
        self.click(self.page.like)
        # what holds for that tool alone is not taken over, and the keyboard is in the name
        held = self.page.form.held
        self.assertEqual([held(key) for key in ("id", "DCX", "price", "gullet_area_per_flute_mm2_hint")], [None] * 4)
        name = self.field(self.page.form, "name")
        self.assertEqual(name.selectedText(), name.text())
        self.type_into(name, "Quay mill 11.5")
        self.type_into(self.field(self.page.form, "DC"), "11.5")
        self.assertAlmostEqual(self.page.beside.drawing.tool.DC, 11.5)
        own = "own-quay-mill-11-5"
        self.assertNotIn(own, self.session.library.tools)
        # a search that the new tool does not answer to is over once it is saved
        self.page.search.setText("ball")
        self.page.whose.setCurrentIndex(2)
        self.click(self.page.keep)
        self.assertEqual([self.page.search.text(), self.page.whose.currentIndex()], ["", 0])
        self.assertEqual(self.key_at(self.page.list.currentRow()), own)
        self.assertEqual(self.page.list.selectedItems()[0].text(), "Quay mill 11.5")
        self.assertEqual(self.session.library.tools[own].DC, 11.5)
        self.assertEqual(self.session.library.tools["sq-d12-z4"].DC, 12.0)
        rows = json.loads((shop_folder() / "tools.json").read_text())
        self.assertEqual([row["id"] for row in rows], [own])
        self.assertIn("kept for the shop", self.window.note.text())
        self.click(self.page.use)
        self.assertEqual(self.session.result.setup.parts.tool.DC, 11.5)
        self.assertEqual(self.session.result.state.q, self.fresh())
        # saved anew with another size: using it takes the row of now, though the job keeps the former one
        self.type_into(self.field(self.page.form, "DC"), "11")
        self.click(self.page.keep)
        self.assertEqual(self.session.result.setup.parts.tool.DC, 11.5)
        self.click(self.page.use)
        self.assertEqual(self.session.result.setup.parts.tool.DC, 11.0)
        # Ctrl+Z takes back what was used, in the library's window too
        QTest.keyClick(self.page.list, Qt.Key.Key_Z, CONTROL)
        self.assertEqual(self.session.result.setup.parts.tool.DC, 11.5)
        self.assertIn("aken back", self.window.note.text())
        self.bench.undo()
        self.assertNotEqual(self.session.result.setup.parts.tool.DC, 11.5)
        self.click(self.page.drop)
        self.assertNotIn(own, self.session.library.tools)

    def test_a_short_name_is_made_where_none_is_typed(self) -> None:
        self.page.choose("sq-d12-z4")
        self.type_into(self.field(self.page.form, "id"), "")
        self.type_into(self.field(self.page.form, "name"), "")
        self.click(self.page.keep)
        self.assertIn("own-row", self.session.library.tools)

    def test_a_machine_with_a_typed_and_a_read_curve(self) -> None:
        page = self.window.show_table("machines")
        page.choose("vmc40-12k")
        self.click(page.like)
        edit = page.beside.curves["S1"]
        edit.setPlainText("rpm\tkW\n100\t1\n1500\t9\n")
        self.assertEqual([speed for speed, _ in page.beside.drawing.chart.lines[0].points], [100, 1500])
        edit.setPlainText("100 1\n90 2")
        self.assertIsNone(page.beside.drawing.chart)
        self.assertIn("rising", page.beside.trouble.text())
        edit.setPlainText("100 one")
        self.assertIn("Line 1: 'one' is no number", page.beside.trouble.text())
        table = shop_folder().parent / "curve.csv"
        table.parent.mkdir(parents=True, exist_ok=True)
        table.write_text("speed rpm;torque Nm\n100;95,5\n9000;9,5\n")
        page.beside.read_curve(table)
        self.assertEqual(page.beside.trouble.text(), "")
        self.type_into(self.field(page.form, "name"), "Gate mill")
        self.click(page.keep)
        kept = self.session.library.machines["own-gate-mill"].curve
        self.assertAlmostEqual(kept.duty["S1"].points[0].power, 1.0, places=3)
        self.assertIn("S6-40", kept.duty, "the other duty stays")
        self.assertIn(
            "own-gate-mill",
            [self.setup_page.machine.combo.itemData(k) for k in range(self.setup_page.machine.combo.count())],
        )

    def test_export_and_import_through_files(self) -> None:
        folder = shop_folder().parent
        folder.mkdir(parents=True, exist_ok=True)
        self.page.export_to(folder / "out.csv", [self.session.library.tools["sq-d12-z4"].with_values(id="own-a")])
        broken = (folder / "out.csv").read_text() + "own-b,B,nonsense\n"
        (folder / "in.csv").write_text(broken)
        self.page.import_from(folder / "in.csv")
        self.assertTrue(self.session.library.is_own("tools", "own-a"))
        self.assertIn("1 row taken from in.csv", self.window.note.text())
        self.assertIn("line 3", self.window.note.text())

    def test_an_import_tells_all_that_is_wrong(self) -> None:
        folder = shop_folder()
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "in.csv").write_text("id,kind,DC,ZEFP,APMX\na,round,8,3,9\nb,square,x,3,9\nc,square,8,3,9\n")
        self.page.import_from(folder / "in.csv")
        shown = self.page.findChild(Sentences)
        self.assertIn("line 2: kind", shown.text.toPlainText())
        self.assertIn("line 3: DC: must be a number", shown.text.toPlainText())
        self.click(shown.copy)
        self.assertEqual(QApplication.clipboard().text(), shown.text.toPlainText())
        shown.reject()

    def test_a_row_that_changes_is_told_to_the_job_and_taken_on_a_click(self) -> None:
        id = self.session.result.setup.parts.machine.id
        page = self.window.show_table("machines")
        page.choose(id)
        before = self.session.result.state.power_s1
        page.beside.curves["S1"].setPlainText("100 0.5\n12000 5")
        self.type_into(self.field(page.form, "rpm_max"), "11000")
        page.beside.curves["S1"].setPlainText("100 0.5\n11000 5")
        self.click(page.keep)
        self.assertEqual(self.session.result.state.power_s1, before)
        self.assertIn("changed in the library", self.bench.banner.text.text())
        self.click(self.bench.banner.buttons[0])
        self.assertEqual(self.session.result.setup.drive.rpm_max, 11000)
        self.bench.undo()
        self.assertEqual(self.session.result.state.power_s1, before)


class OneJobAlone(RecordsTest):
    shares = True

    def test_a_value_of_this_job_alone_is_marked_and_goes_back(self) -> None:
        self.bench.show_step(0)
        dialog = AloneDialog(self.session, "tools", self.running.window)
        dialog.show()
        row = dialog.form.rows["core_dia_ratio"]
        self.type_into(row.field.edit, "0.6")
        self.assertTrue(row.undo.isVisible())
        before = self.session.result.state.deflection
        self.click(dialog.take)
        self.assertEqual(self.session.result.setup.parts.tool.core_dia_ratio, 0.6)
        self.assertGreater(self.session.result.state.deflection, before)
        self.assertIn("core_dia_ratio", standing_of(self.session, "tools").own)
        self.click(row.undo)
        self.click(dialog.take)
        self.assertEqual(self.session.result.state.deflection, before)
        dialog.close()

    def test_all_as_in_the_library(self) -> None:
        dialog = AloneDialog(self.session, "tools", self.running.window)
        self.assertGreater(len(standing_of(self.session, "tools").own), 3)
        self.session.edit_cut("shallow", ap_mm=10.0)
        dialog.back.click()
        self.assertEqual(standing_of(self.session, "tools").own, {})
        self.assertEqual(self.session.cut.tool.written(), {"id": standing_of(self.session, "tools").base["id"]})
        dialog.close()

    def test_machine_material_and_holder_as_well(self) -> None:
        for table, key, text, read_back in (
            ("machines", "drive_efficiency", "0.7", lambda p: p.machine.drive_efficiency),
            ("materials", "kc11_n_mm2", "2500", lambda p: p.material.kc11_n_mm2),
            ("holders", "damping_rel", "2", lambda p: p.holder.damping_rel),
        ):
            dialog = AloneDialog(self.session, table, self.running.window)
            dialog.show()
            self.type_into(dialog.form.rows[key].field.edit, text)
            self.click(dialog.take)
            with self.subTest(table=table):
                self.assertEqual(read_back(self.session.result.setup.parts), float(text))
                self.assertEqual(self.session.result.state.q, self.fresh())
            dialog.close()

    def test_the_curve_of_a_machine_for_one_job_alone(self) -> None:
        dialog = AloneDialog(self.session, "machines", self.running.window)
        dialog.show()
        row, before = dialog.base["curve"], self.session.result.state.power_s1
        self.click(dialog.take)
        self.assertEqual(standing_of(self.session, "machines").own, {}, "nothing typed, nothing changed")
        edit = dialog.beside.curves["S1"]
        edit.setPlainText("100 0.2\n12000 nonsense")
        self.assertIn("no number", dialog.beside.trouble.text())
        self.click(dialog.take)
        self.assertEqual(self.session.result.state.power_s1, before)
        edit.setPlainText("100 0.2\n12000 3")
        self.assertEqual(len(dialog.beside.drawing.chart.lines[0].points), 2)
        self.click(dialog.take)
        self.assertLess(self.session.result.state.power_s1, before)
        own = standing_of(self.session, "machines").own
        self.assertEqual(own["power_s1_kw"], own["curve"].duty["S1"].greatest_power)
        self.assertEqual(self.session.library.machines[dialog.base["id"]].curve, row, "the library stays as it is")
        again = job_from_text(job_text(self.session.job))
        self.assertEqual(
            Results(self.session.library).of(again)[self.session.index].state.power_s1,
            self.session.result.state.power_s1,
        )
        self.click(dialog.back)
        self.assertEqual(self.session.result.state.power_s1, before)
        self.assertIn("12000", edit.toPlainText().replace(",", ""))
        dialog.close()

    def test_what_the_job_cannot_take_is_said_beside_the_field(self) -> None:
        dialog = AloneDialog(self.session, "tools", self.running.window)
        dialog.show()
        self.type_into(dialog.form.rows["LU"].field.edit, "10")
        before = self.session.job
        self.click(dialog.take)
        self.assertIs(self.session.job, before)
        self.assertIn("usable length", dialog.form.trouble.text() + dialog.form.rows["LU"].field.trouble.text())
        dialog.close()

    def test_the_link_says_how_it_stands(self) -> None:
        self.bench.show_step(0)
        APP.processEvents()
        from lesna.desktop.records.alone import AloneLink

        links = {link.table: link for link in self.setup_page.findChildren(AloneLink)}
        self.assertIn("of this job alone", links["tools"].text())
        self.assertIn("As in the library", links["machines"].text())
        self.click(links["machines"])
        dialog = links["machines"].dialog
        self.assertTrue(dialog.isVisible())
        self.assertIs(links["machines"].open(), dialog, "opened once")
        dialog.close()
        self.assertIsNone(links["machines"].dialog)


class EveryFieldOfTheDocument(RecordsTest):
    def setUp(self) -> None:
        super().setUp()
        QTest.keyClick(self.bench, Qt.Key.Key_E, CONTROL)
        self.dialog = self.bench.fields

    def tearDown(self) -> None:
        self.dialog.close()
        super().tearDown()

    def set(self, part: str, key: str, text: str) -> None:
        form = self.dialog.forms[part]
        self.dialog.tabs.setCurrentIndex(list(self.dialog.forms).index(part))
        edit = self.field(form, key)
        if hasattr(edit, "setPlainText"):
            edit.setFocus()
            edit.setPlainText(text)
            form.rows[key].commit()
        else:
            self.type_into(edit, text)

    def test_no_field_of_the_document_is_out_of_reach(self) -> None:
        shown = {title: set(form.rows) for title, form in self.dialog.forms.items()}
        #: what is reached by a place of its own: rail, records, locks beside the fields, units and version
        elsewhere = {"id", "tool", "holder", "book", "feature", "locks", "program"}
        #: what the drawing's own form in Setup holds
        drawn = {"dxf", "part_layer", "stock_layer", "island_layer", "keep_out_layer", "open_sides"}
        for title, cls, rest in (("Cut", Cut, elsewhere), ("What it makes", Feature, drawn), ("Book value", Book, set()),
                                 ("Batch", Batch, set()), ("Part", Workpiece, {"material"}),
                                 ("Job", Job, {"lesna", "units", "batch", "workpiece", "machine", "cuts", "rows"})):  # fmt: skip
            with self.subTest(part=title):
                self.assertEqual(set(cls.model_fields) - rest, shown[title])

    def test_each_is_taken_as_an_edit(self) -> None:
        for part, key, text, held in (
            ("Cut", "deflection_limit_um", "60", lambda s: s.cut.deflection_limit_um == 60.0),
            ("Cut", "wear_vb_mm", "0.1", lambda s: s.cut.wear_vb_mm == 0.1),
            ("Cut", "n_rpm", "3000", lambda s: s.cut.n_rpm == 3000 and s.cut.vc_m_min is None),
            (
                "Cut",
                "tap_modes",
                "x 900 Hz 20 N/um 0.03\ny 950 Hz 22 N/um 3 %",
                lambda s: [m.zeta for m in s.cut.tap_modes] == [0.03, 0.03],
            ),
            ("What it makes", "profile_mm", "0 0; 120 0; 120 80; 0 80", lambda s: len(s.cut.feature.profile_mm) == 4),
            ("What it makes", "islands_mm", "30 30; 40 30; 40 40", lambda s: len(s.cut.feature.islands_mm) == 1),
            ("Batch", "survivors", "0.9", lambda s: s.job.batch.survivors == 0.9),
            ("Job", "notes", "Watch the second side.", lambda s: s.job.notes.startswith("Watch")),
            ("Job", "title", "Hinge, second side", lambda s: s.job.title == "Hinge, second side"),
        ):
            with self.subTest(field=key):
                self.set(part, key, text)
                self.assertTrue(held(self.session), self.dialog.forms[part].rows[key].field.trouble.text())
                self.assertEqual(self.session.result.state.q, self.fresh())
                self.bench.undo()
                self.assertFalse(held(self.session))

    def test_choices_and_yes_or_no(self) -> None:
        self.choose(self.dialog.forms["What it makes"], "closed", "yes")
        self.assertTrue(self.session.cut.feature.closed)
        self.choose(self.dialog.forms["What it makes"], "closed", "")
        self.assertIsNone(self.session.cut.feature.closed)

    def test_an_emptied_field_goes_back_to_what_holds_where_it_is_left_out(self) -> None:
        self.set("Batch", "survivors", "0.8")
        self.set("Batch", "survivors", "")
        self.assertEqual(self.session.job.batch.survivors, 0.95)

    def test_a_refusal_stands_beside_its_field_and_the_job_stays(self) -> None:
        before = self.session.job
        for part, key, text, words in (("What it makes", "profile_mm", "0 0; 10", "x and y of each point"),
                                       ("What it makes", "profile_mm", "0 0; 10 0", "three corners"),
                                       ("Cut", "tap_modes", "z 900 20 0.03", "axis, frequency"),
                                       ("Cut", "ap_mm", "200", "stick_out")):  # fmt: skip
            with self.subTest(text=text):
                self.set(part, key, text)
                self.assertIs(self.session.job, before)
                told = self.dialog.forms[part].rows[key].field.trouble.text() + self.dialog.forms[part].trouble.text()
                told += self.dialog.forms[part].rows["stick_out_mm"].field.trouble.text() if part == "Cut" else ""
                self.assertTrue(words in told or "the holder would meet the part" in told, told)


class Facts(unittest.TestCase):
    def test_every_field_is_described(self) -> None:
        for cls in (Tool, Holder, Machine, Material, Cut, Feature, Batch):
            labels = [fact.label for fact in facts_of(cls)]
            self.assertEqual(len(labels), len(set(labels)) if cls is not Machine else len(labels))
            for fact in facts_of(cls):
                if fact.kind in ("number", "count"):
                    self.assertTrue(fact.unit and fact.text, f"{cls.__name__}.{fact.key}")

    def test_ranges_in_the_units_of_the_view(self) -> None:
        facts = {fact.key: fact for fact in facts_of(Tool)}
        self.assertEqual((facts["DC"].range("metric"), facts["DC"].range("inch")), ("0.02 to 500", "0.0008 to 19.685"))
        self.assertEqual(facts["GAMF"].range("metric"), "-30 to 40")
        self.assertEqual(facts["ZEFP"].range("metric"), "1 to 60")
        self.assertEqual(facts["rated_rpm"].range("metric"), "above 0")
        gullet = facts["gullet_area_per_flute_mm2_hint"].quantity
        self.assertEqual((gullet.full(12.5, "metric"), gullet.full(645.16, "inch")), ("12.5 mm²", "1 in²"))

    def test_typed_texts_read_back(self) -> None:
        for kind, value in (("numbers", (69.0, 75.5)), ("points", ((0.0, 0.0), (12.5, -3.0), (1.0, 2.0))),
                            ("outlines", (((0.0, 0.0), (1.0, 0.0), (1.0, 1.0)),)), ("text", "as it is")):  # fmt: skip
            self.assertEqual(read(written(value, kind), kind), value)  # type: ignore[arg-type]
