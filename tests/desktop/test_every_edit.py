"""The property through the window and through the command line: what is shown equals a fresh evaluation, always."""

import json
import random
import tempfile
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from lesna.model.errors import InputError
from lesna.model.files import job_text, load_job
from lesna.planning.evaluate import evaluate
from lesna.planning.telling.figures import FIGURES, STRIP, result_data
from tests.cli.driver import CommandTest
from tests.desktop.driver import WindowTest, wait_for
from tests.document.every_edit import EDITS, REFUSED
from tests.support import DEMOS, HINGE, LIBRARY, untimed


class ThroughTheWindow(WindowTest):
    shares = True

    def check(self) -> None:
        """Once nothing is under way, every Result and every readout is that of a fresh evaluation."""
        wait_for(lambda: not any(result.is_waiting for result in self.session.results))
        for index, shown in enumerate(self.session.results):
            fresh = evaluate(self.session.job, index, LIBRARY, wait=False)
            self.assertEqual(untimed(result_data(shown)), untimed(result_data(fresh)))
        self.assertEqual(self.session.result.setup.parts.cut, self.session.cut.with_values(program=None))
        fresh = evaluate(self.session.job, self.session.index, LIBRARY, wait=False)
        for id in STRIP:
            if FIGURES[id].is_timed:
                continue
            figure = self.bench.readouts.cells[id].figure
            self.assertEqual(figure.text(self.session.result, "metric"), figure.text(fresh, "metric"))

    def test_edits_bad_ones_and_undo(self) -> None:
        chance, start = random.Random(11), self.session.job
        labels = [name for name in EDITS if name != "two steps"]
        chance.shuffle(labels)
        for number, label in enumerate(labels):
            before = self.session.job
            try:
                self.session.edit(label, EDITS[label](before))
            except InputError:
                self.assertIs(self.session.job, before)
            if number % 4 == 0:
                bad, before = chance.choice(list(REFUSED.values()))[0], self.session.job
                if not self.session.attempt(lambda bad=bad: self.session.edit("bad", bad(self.session.job))):
                    self.assertIs(self.session.job, before)
            if number % 6 == 0:
                self.check()
        while self.session.stack.canUndo():
            self.bench.undo()
        self.assertEqual(self.session.job, start)
        self.check()
        while self.session.stack.canRedo():  # cannot fail, whatever was tried before
            self.bench.redo()
        self.check()

    def test_a_refused_edit_saves_into_a_file_that_opens(self) -> None:
        fields = self.setup_page.bound.fields
        self.bench.show_step(0)
        self.session.select(1)
        for key, text in (("feature.stock_floor_mm", "24"), ("feature.corner_radius_mm", "110")):
            self.type_into(fields[key].edit, text)
            self.assertTrue(fields[key].trouble.text())
        with tempfile.TemporaryDirectory() as folder:
            self.session.save(Path(folder) / "kept.lesna")
            self.assertTrue(self.bench.open_path(Path(folder) / "kept.lesna"))


class Addressed(WindowTest):
    """What comes back late lands where it belongs or nowhere."""

    shares = True

    def test_b_right_after_choosing_another_cut_goes_to_the_best_point_of_that_cut(self) -> None:
        self.session.select(1)
        self.wait_for_map()
        former = self.answers.map.value.map.best_in_school
        self.session.select(3)
        QTest.keyClick(self.running.window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
        wait_for(lambda: self.session.stack.canUndo())
        best = self.answers.map.value.map.best_in_school
        self.assertEqual(self.session.index, 3)
        self.assertAlmostEqual(self.session.cut.ap_mm, best.ap, places=3)
        self.assertNotAlmostEqual(self.session.cut.ap_mm, former.ap, places=1)

    def test_the_former_map_is_never_drawn_on_other_axes(self) -> None:
        view = self.cut_page.map
        self.session.select(1)
        self.wait_for_map()
        self.session.edit_cut("Slower", vc_m_min=100.0)
        self.assertIsNotNone(view.former)  # the same axes: shown under a veil until the new one is there
        self.assertIsNone(view.picture)
        self.session.edit_cut("Longer", stick_out_mm=29.0)
        self.assertIsNone(view.former)  # other axes
        self.session.select(0)
        self.assertIsNone(view.former)

    def test_tap_test_modes_land_in_the_cut_that_was_tapped(self) -> None:
        self.session.select(1)
        tapped = self.session.cut.id
        self.cut_page.tapping.tap()
        self.session.select(0)
        wait_for(lambda: bool(self.session.job.cuts[1].tap_modes))
        self.assertEqual([cut.id for cut in self.session.job.cuts if cut.tap_modes], [tapped])

    def test_modes_of_a_set_up_that_changed_meanwhile_are_dropped_in_words(self) -> None:
        self.session.select(1)
        self.cut_page.tapping.tap()
        self.session.edit_cut("Longer", stick_out_mm=50.0)
        wait_for(lambda: "dropped" in self.bench.banner.text.text())
        self.cut_page.tapping.tap()
        self.bench.open_path(DEMOS[0])
        wait_for(lambda: self.running.runner.is_idle)
        self.assertFalse(any(cut.tap_modes for cut in self.session.job.cuts))

    def test_lost_modes_are_said(self) -> None:
        self.session.select(1)
        self.session.edit("modes", EDITS["modes"](self.session.job))
        self.session.edit_cut("Longer", stick_out_mm=50.0)
        self.assertIn("measured modes of Rough cavity are gone", self.bench.banner.text.text())
        self.bench.undo()
        self.assertTrue(self.session.cut.tap_modes)

    def test_what_was_heard_stays_with_its_cut(self) -> None:
        face = self.cut_page.listen
        self.session.select(1)
        face._on_simulate()
        self.session.select(0)
        wait_for(lambda: self.running.runner.is_idle)
        self.assertIsNone(face.chart.hearing)
        self.session.select(1)
        self.cut_page.charts.show_face(2)
        self.assertIsNotNone(face.chart.hearing)

    def test_forty_moves_of_the_stick_out_compute_no_map_that_nobody_looks_at(self) -> None:
        self.wait_for_map()
        self.bench.show_step(0)
        asked: list[str] = []
        self.running.runner.busy_changed.connect(lambda target, busy: asked.append(target) if busy else None)
        view = self.setup_page.elevation
        start = view.handle("stick_out")
        self.drag(view, start, start - QPointF(0, 60), steps=40)
        self.assertNotIn("map", asked)

    def test_a_unit_switch_changes_no_document_and_asks_nothing(self) -> None:
        wait_for(lambda: self.running.runner.is_idle)
        self.wait_for_map()
        job, asked = self.session.job, []
        self.running.runner.busy_changed.connect(lambda target, busy: asked.append(target))
        QTest.keyClick(self.running.window, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.system, "inch")
        self.assertIs(self.session.job, job)
        self.assertEqual((asked, self.session.stack.count(), self.session.is_dirty), ([], 0, False))

    def test_a_drag_that_returns_leaves_no_step(self) -> None:
        self.session.begin_gesture()
        home = self.session.cut.ae_mm
        for ae in (2.0, 3.0, home):
            self.session.edit_cut("Move", gesture=True, ae_mm=ae)
        self.assertEqual(self.session.stack.count(), 0)


class ThroughTheCommandLine(CommandTest):
    def test_every_edit(self) -> None:
        start = load_job(HINGE)
        with tempfile.TemporaryDirectory() as folder:
            for label in ("rate", "ball", "lead angle", "unknown material", "modes", "variant", "machine"):
                with self.subTest(edit=label):
                    edited, path = EDITS[label](start), Path(folder) / "edited.lesna"
                    path.write_text(job_text(edited))
                    data: dict[str, Any] = json.loads(self.call("cut", path, "--json")[1])
                    fresh = [result_data(evaluate(load_job(path), k, LIBRARY)) for k in range(len(edited.cuts))]
                    self.assertEqual(data["cuts"], json.loads(json.dumps(fresh)))
