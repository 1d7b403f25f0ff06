"""The step Trial as a person uses it: ladder, log, coach, charts, the caliper; lessons on every screen."""

import os
import tempfile
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest

from lesna.bank.opening import Unreachable
from lesna.bank.store import Bank
from lesna.desktop.app import start
from lesna.desktop.trials.caliper import CaliperDialog, border_near, grey, picture_of
from lesna.desktop.trials.machine_dialog import MachineDialog
from lesna.model.errors import InputError
from tests.desktop.driver import APP, WindowTest, wait_for
from tests.support import HINGE


class OnTrial(WindowTest):
    """On a bank of its own in a scratch folder."""

    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        patched = mock.patch.dict(os.environ, {"LESNA_BANK": str(self.folder / "bank.db")})
        patched.start()
        self.addCleanup(patched.stop)
        super().setUp()

    def open(self):  # type: ignore[no-untyped-def]
        """Goes to the step by its shortcut and waits for what it asks."""
        self.session.select(1)
        QTest.keyClick(self.running.window, Qt.Key.Key_5, Qt.KeyboardModifier.ControlModifier)
        page = self.bench.page("trial")
        wait_for(lambda: page.trial.taught.value is not None)
        APP.processEvents()
        return page

    def readings(self) -> list[str]:
        with Bank(self.folder / "bank.db") as bank:
            return [
                f"{one.trial} {one.edge} {one.minutes:g} {one.vb_mm} {one.wear_kind} {one.wear_zone} {one.retired}"
                for one in bank.readings()
            ]

    def log(self, page, minutes: str, land: str) -> None:  # type: ignore[no-untyped-def]
        """Types a look and takes it by Ctrl+Enter."""
        form, count = page.form, page.trial.bank.revision
        self.type_into(form.numbers["minutes"].edit, minutes, Qt.Key.Key_Tab)
        self.type_into(form.numbers["vb_mm"].edit, land, Qt.Key.Key_Tab)
        QTest.keyClick(form.numbers["vb_mm"].edit, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        wait_for(
            lambda: (
                page.trial.bank.revision > count and page.form.log.isEnabled() and page.trial.taught.value is not None
            )
        )
        APP.processEvents()


class WhereWearSits(OnTrial):
    def test_every_place_has_its_name_beside_it_on_high_and_low_edges(self) -> None:
        page = self.open()
        for index in range(len(self.session.job.cuts)):
            self.session.select(index)
            for size in ((1280, 800), (1100, 700)):
                self.running.window.resize(*size)
                APP.processEvents()
                drawing = page.form.drawing
                names = list(drawing.names().values())
                with self.subTest(cut=index, size=size):
                    self.assertEqual(set(drawing.names()), {"tip", "corner", "flute", "depth_line", "gullet"})
                    for above, below in zip(names[:-1], names[1:], strict=True):
                        self.assertLessEqual(above.bottom(), below.top() + 1e-6)
                    self.assertTrue(all(name.top() >= 0 and name.bottom() <= drawing.height() for name in names))

    def test_empty_fields_and_the_ladder_say_their_units(self) -> None:
        page = self.open()
        for system, units in (("metric", ("min", "mm", "mm/min")), ("inch", ("min", "thou", "ipm"))):
            self.session.show_in(system)
            wait_for(lambda feed=units[2]: page.ladder.table.horizontalHeaderItem(1).text() == feed)
            shown = [page.form.numbers[key].edit.placeholderText() for key in ("minutes", "vb_mm")]
            self.assertEqual((*shown,), units[:2])


class TrialStep(OnTrial):
    """From nothing."""

    def test_a_look_is_logged_by_keyboard_and_teaches_every_screen(self) -> None:
        page = self.open()
        self.assertFalse((self.folder / "bank.db").exists())
        self.assertIn("Cut the first step", page.form.words.text())
        self.assertIn("No edge of this set-up was looked at yet", page.coach.why.text())
        before = self.session.result.economy.life
        page.form.drawing.setFocus()
        QTest.keyClick(page.form.drawing, Qt.Key.Key_Up)
        QTest.keyClick(page.form.drawing, Qt.Key.Key_Up)
        self.assertEqual(page.form.drawing.zone, "corner")
        self.log(page, "12", "0.06")
        self.assertEqual(self.readings()[0], "Rough cavity E1 12 0.06 uniform corner ")
        self.assertIn("E1 at 12 min is logged", page.form.words.text())
        self.assertTrue(page.form.numbers["minutes"].edit.hasFocus())
        wait_for(lambda: self.session.result.setup.parts.lesson is not None)
        self.assertNotEqual(self.session.result.economy.life, before)
        cell = self.bench.readouts.cells["life"]
        self.assertEqual(cell.figure.source(self.session.result), "from 1 edge")
        # the next look is of the same edge, which was put back
        self.assertEqual(page.form.edge.text(), "E1")
        self.log(page, "25", "0.11")
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.readings == 2)
        self.assertIn("wear even", page.coach.seen.text())
        self.assertEqual(page.readings.table.rowCount(), 2)

    def test_the_coachs_change_becomes_the_next_step_and_is_undone(self) -> None:
        page = self.open()
        self.log(page, "12", "0.06")
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 1)
        before, advice = self.session.job, page.trial.taught.value.advice
        QTest.mouseClick(page.coach.take, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(getattr(self.session.cut, advice.change.what), advice.change.after)
        self.bench.undo()
        self.assertEqual(self.session.job, before)

    def test_a_cut_is_kept_as_a_recipe_with_what_proves_it_and_its_plan_with_the_trial(self) -> None:
        page = self.open()
        self.log(page, "12", "0.06")
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 1)
        for button in (page.taught.keep, page.ladder.keep):
            count = page.trial.bank.revision
            page.charts.show_face(3)
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            wait_for(lambda count=count: page.trial.bank.revision > count and page.trial.taught.value is not None)  # type: ignore[misc]
        with Bank(self.folder / "bank.db") as bank:
            recipe, plan = bank.records("recipes")[0], bank.records("trials")[0]
        self.assertEqual((recipe.data["evidence"]["edges"], recipe.data["evidence"]["minutes"]), (1, 12.0))
        self.assertEqual((plan.name, plan.data["plan"]["step"]), ("Rough cavity", "feed"))
        self.bench.write_sheet(self.folder / "sheet.html")
        wait_for((self.folder / "sheet.html").exists)
        self.assertIn("Test cuts: feed per tooth", (self.folder / "sheet.html").read_text())

    def test_the_ladder_follows_its_choices_and_sets_a_step(self) -> None:
        page = self.open()
        ladder = page.trial.taught.value.ladder
        self.assertEqual(page.ladder.table.rowCount(), len(ladder.rungs))
        self.type_into(page.ladder.size_.edit, "20%")
        wait_for(lambda: page.trial.taught.value is not None and abs(page.trial.taught.value.ladder.size - 0.2) < 1e-9)
        APP.processEvents()
        page.ladder.table.selectRow(1)
        rung = page.ladder.rung
        self.assertAlmostEqual(page.form._planned["vf_mm_min"], float(rung.result.state.vf))
        QTest.mouseClick(page.ladder.set_, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(float(self.session.result.state.fz), rung.value, places=6)
        self.type_into(page.ladder.minutes.edit, "0")
        wait_for(lambda: page.trial.taught.value is not None)
        APP.processEvents()
        self.assertIn("must be above 0", page.ladder.sums.text())

    def test_what_is_wrong_stands_beside_the_button_and_nothing_typed_is_lost(self) -> None:
        page = self.open()
        QTest.mouseClick(page.form.log, Qt.MouseButton.LeftButton)
        self.assertIn("Minutes in the cut: is missing", page.form.words.text())
        self.type_into(page.form.numbers["minutes"].edit, "-4")
        QTest.mouseClick(page.form.log, Qt.MouseButton.LeftButton)
        self.assertIn("must be at least 0", page.form.words.text() + page.form.numbers["minutes"].trouble.text())
        self.type_into(page.form.numbers["minutes"].edit, "14")
        page.trial.bank.trouble = "the bank is away"
        page.form.take()
        self.assertIn("bank is away", page.form.words.text())
        self.assertEqual(page.form.values["minutes"], 14.0)
        page.trial.bank.trouble = ""

    def test_charts_and_units(self) -> None:
        page = self.open()
        self.log(page, "12", "0.06")
        for face in range(4):
            page.charts.show_face(face)
            self.bench.switch_units()
            APP.processEvents()
            image = page.charts.grab().toImage()
            self.assertGreater(
                len({image.pixel(x, y) for x in range(0, image.width(), 9) for y in range(0, image.height(), 9)}), 3
            )

    def test_the_edge_is_clicked_where_it_wears(self) -> None:
        page = self.open()
        drawing = page.form.drawing
        for zone, place in drawing._places().items():
            QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(round(place.x()), round(place.y())))
            self.assertEqual((drawing.zone, page.form.values["wear_zone"]), (zone, zone))

    def test_a_bank_that_cannot_be_opened_is_said_and_the_job_goes_on(self) -> None:
        (self.folder / "bank.db").write_text("no bank")
        self.answers.bank.begin()
        wait_for(lambda: bool(self.answers.bank.trouble))
        self.assertIn("no bank of Lesna", self.bench.banner.text.text())
        self.open()
        self.assertEqual((self.folder / "bank.db").read_text(), "no bank")

    def test_looks_wait_for_a_server_that_does_not_answer_and_are_sent_once_it_does(self) -> None:
        shop = self.answers.bank
        page = self.open()
        said: list[str] = []  # a note fades by itself, on a loaded machine before it is looked at
        self.session.said.connect(lambda kind, sentence: said.append(sentence))
        with mock.patch("lesna.desktop.shop_bank._opened", side_effect=Unreachable("the server does not answer")):
            for minutes in ("8", "16"):
                self.type_into(page.form.numbers["minutes"].edit, minutes)
                page.form.take()
                wait_for(lambda: "is logged" in page.form.words.text() and shop.runner.is_idle)
                self.assertIn("waits in", said.pop())
                self.assertTrue(page.form.log.isEnabled())
        self.assertIsNone(shop.bank)
        self.log(page, "24", "0.1")
        wait_for(lambda: shop.bank is not None and shop.runner.is_idle)
        self.assertEqual([one.minutes for one in shop.bank.readings()], [8.0, 16.0, 24.0])

    def test_the_caliper_measures_a_land(self) -> None:
        page = self.open()
        image = QImage(400, 300, QImage.Format.Format_RGB32)
        image.fill(QColor("#303030"))
        painter = QPainter(image)
        painter.fillRect(0, 120, 400, 40, QColor("#e8e8e8"))  # a bright land of 40 pixels
        painter.end()
        path = self.folder / "edge.png"
        image.save(str(path))
        dialog = CaliperDialog(self.session, page.form)
        measured: list[float] = []
        dialog.measured.connect(lambda land, name: measured.append(land))
        dialog.show_picture(path)
        APP.processEvents()
        self.type_into(dialog.length.edit, "0.8 mm")
        place, scale = dialog.plate._place()

        def click(x: float, y: float) -> None:
            at = place.topLeft() + QPointF(x, y) * scale
            QTest.mouseClick(dialog.plate, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))

        click(50, 30)
        click(250, 30)  # 200 pixels are 0.8 mm
        QTest.mouseClick(dialog.land_button, Qt.MouseButton.LeftButton)
        click(200, 114)
        click(200, 165)  # beside the borders, which are found
        QTest.mouseClick(dialog.borders, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(dialog.land, 0.16, delta=0.012)
        QTest.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(measured[0], 0.16, delta=0.012)
        for content in (b"no picture", b"x" * 30_000_000):
            (self.folder / "bad.png").write_bytes(content)
            dialog.show_picture(self.folder / "bad.png")
            self.assertIn("bad.png", self.bench.banner.text.text())

    def test_the_simulated_camera_is_measured_right(self) -> None:
        page = self.open()
        QTest.mouseClick(page.form.picture, Qt.MouseButton.LeftButton)
        dialog = page.form.findChild(CaliperDialog)
        self.assertIn("Open a picture", dialog.words.text())
        for land in (0.08, 0.15, 0.24):
            QTest.mouseClick(dialog.camera, Qt.MouseButton.LeftButton)
            APP.processEvents()
            self.assertEqual(dialog.known, 0.5)
            place, scale = dialog.plate._place()
            top = 120 + land / 0.0025
            for x, y, button in (
                (40, 400, dialog.scale_button),
                (240, 400, None),
                (320, 124, dialog.land_button),
                (320, top - 3, None),
            ):
                if button is not None:
                    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
                at = place.topLeft() + QPointF(x, y) * scale
                QTest.mouseClick(dialog.plate, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))
            QTest.mouseClick(dialog.borders, Qt.MouseButton.LeftButton)
            self.assertAlmostEqual(dialog.land, land, delta=0.006)
        QTest.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
        self.assertAlmostEqual(page.form.values["vb_mm"], 0.24, delta=0.006)
        self.assertEqual(page.form.values["picture"], "simulated edge.png")

    def test_the_machines_own_minutes_are_taken_over(self) -> None:
        page = self.open()
        self.log(page, "12", "0.06")
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 1)
        QTest.mouseClick(page.form.machine, Qt.MouseButton.LeftButton)
        dialog = page.form.findChild(MachineDialog)
        self.assertFalse(dialog.use.isEnabled())
        QTest.mouseClick(dialog.listen, Qt.MouseButton.LeftButton)
        self.assertIn("is the right form", dialog.state.text())
        self.type_into(dialog.url.edit, "http://127.0.0.1:9")
        QTest.mouseClick(dialog.listen, Qt.MouseButton.LeftButton)
        dead = dialog.watch
        wait_for(lambda: "does not answer" in dialog.state.text())
        QTest.mouseClick(dialog.simulate, Qt.MouseButton.LeftButton)
        live = dialog.watch
        wait_for(lambda: dialog.recorder.seconds > 0.5)
        self.assertIn("In the cut", dialog.state.text())
        self.assertIn("(simulated)", dialog.found.text())
        QTest.mouseClick(dialog.stop_button, Qt.MouseButton.LeftButton)
        minutes = dialog.recorder.minutes
        self.session.select(0)
        QTest.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
        self.assertIn("was heard for Rough cavity", dialog.state.text())
        self.session.select(1)
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 1)
        page.form.edge.combo.setCurrentText("E1")
        QTest.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
        wait_for(lambda: "minutes" in page.form.values)
        self.assertAlmostEqual(page.form.values["minutes"], 12.0 + minutes, delta=0.01)
        self.assertGreater(page.form.values["load_pct"], 10.0)
        self.assertEqual(page.form.values["note"], "simulated machine")
        self.assertFalse(dialog.use.isEnabled())
        dialog.close()
        for watch in (dead, live):
            watch.join()

    def test_borders_are_found_to_the_pixel(self) -> None:
        rows = np.zeros((60, 60))
        rows[:, 30:] = 200.0
        found = border_near(rows, QPointF(24.0, 20.0), QPointF(1.0, 0.0))
        self.assertAlmostEqual(found.x(), 29.5, delta=0.8)
        with self.assertRaises(InputError):
            picture_of(b"GIF89a broken")
        self.assertEqual(grey(QImage(3, 2, QImage.Format.Format_RGB32)).shape, (2, 3))


class SampleBank(OnTrial):
    """On the bank that comes with the sample job."""

    def start(self, path: Path | None = None, *, recover: bool = False) -> None:
        self.running = start(path, recover=recover, sample=True)
        self.running.window.show()
        APP.processEvents()

    def test_it_is_copied_and_teaches_the_sample_job(self) -> None:
        shipped = (HINGE.parent / "kilnbrook-bank.json").read_bytes()
        page = self.open()
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 8)
        self.log(page, "12", "0.06")
        wait_for(lambda: page.trial.taught.value is not None and page.trial.taught.value.fit.edges == 9)
        self.assertEqual((HINGE.parent / "kilnbrook-bank.json").read_bytes(), shipped)
        self.assertFalse((self.folder / "bank.db").exists())
