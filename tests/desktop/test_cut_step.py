"""The Cut step: map, ladder, fields, tooth, readouts, Working."""

import dataclasses
import tempfile
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from lesna.planning.cut.limits import ENDS
from lesna.planning.cut.result import Chatter as Known
from lesna.planning.search import more
from tests.desktop.driver import WindowTest, wait_for
from tests.support import DEMOS

SHIFT = Qt.KeyboardModifier.ShiftModifier


class CutStep(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(1)
        self.bench.show_step(1)
        self.map = self.cut_page.map
        self.fields = self.cut_page.bound.fields


class Map(CutStep):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        self.wait_for_map()

    def test_a_drag_moves_the_cut_and_is_one_step_of_undo(self) -> None:
        before, steps = self.session.job, self.session.stack.count()
        end = self.map.at(3.0, 10.0)
        self.drag(self.map, self.map.at(1.2, 24.0), end, steps=6)
        ae, ap = self.map.engagement_at(QPointF(end.toPoint()))
        self.assertAlmostEqual(self.session.cut.ae_mm, ae, places=3)
        self.assertAlmostEqual(self.session.cut.ap_mm, ap, places=3)
        self.assertEqual(self.session.stack.count(), steps + 1)
        self.bench.undo()
        self.assertEqual(self.session.job, before)

    def test_two_drags_are_two_steps(self) -> None:
        for target in (3.0, 4.0):
            self.drag(self.map, self.map.at(self.session.cut.ae_mm, 20.0), self.map.at(target, 20.0))
        self.assertEqual(self.session.stack.count(), 2)

    def test_shift_drag_keeps_the_removal_rate(self) -> None:
        q = self.session.result.state.q
        self.drag(self.map, self.map.at(1.2, 24.0), self.map.at(3.0, 24.0), modifier=SHIFT)
        self.assertGreater(self.session.cut.ae_mm, 2.5)
        self.assertAlmostEqual(self.session.result.state.q / q, 1.0, delta=0.03)

    def test_arrows_nudge_one_percent_and_shift_a_tenth(self) -> None:
        for key, modifier, field, change in (
            (Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, "ae_mm", 0.12),
            (Qt.Key.Key_Left, SHIFT, "ae_mm", -0.012),
            (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, "ap_mm", 0.12),
            (Qt.Key.Key_Down, SHIFT, "ap_mm", -0.012),
        ):
            before = getattr(self.session.cut, field)
            QTest.keyClick(self.map, key, modifier)
            self.assertAlmostEqual(getattr(self.session.cut, field) - before, change, places=6)

    def test_nudging_stops_at_the_edges(self) -> None:
        self.session.edit_cut("Change", ae_mm=12.0)
        QTest.keyClick(self.map, Qt.Key.Key_Right)
        self.assertEqual(self.session.cut.ae_mm, 12.0)

    def test_b_goes_to_the_best_point_of_the_school(self) -> None:
        best = self.answers.map.value.map.best_in_school
        QTest.keyClick(self.map, Qt.Key.Key_B)
        self.assertAlmostEqual(self.session.cut.ae_mm, best.ae, places=3)
        self.assertAlmostEqual(self.session.cut.ap_mm, best.ap, places=3)
        self.assertNotEqual(self.session.result.standing, "over")

    def test_locked_fields_stay_where_they_are(self) -> None:
        QTest.mouseClick(self.fields["ap_mm"].lock, Qt.MouseButton.LeftButton)
        self.assertEqual(self.session.cut.locks, ("ap_mm",))
        self.drag(self.map, self.map.at(1.2, 24.0), self.map.at(3.0, 5.0))
        self.assertEqual(self.session.cut.ap_mm, 24.0)
        QTest.mouseClick(self.fields["ae_mm"].lock, Qt.MouseButton.LeftButton)
        QTest.keyClick(self.map, Qt.Key.Key_Right)
        self.assertIn("both held", self.bench.banner.text.text())

    def test_no_admissible_point_is_said(self) -> None:
        self.session.edit_cut("Change", hex_mm=0.2)
        self.wait_for_map()
        QTest.keyClick(self.map, Qt.Key.Key_B)
        self.assertIn("No point of this school", self.bench.banner.text.text())

    def test_a_drag_asks_for_no_new_map_but_a_new_speed_does(self) -> None:
        picture = self.answers.map.value
        self.drag(self.map, self.map.at(1.2, 24.0), self.map.at(2.0, 20.0))
        self.assertIs(self.answers.map.value, picture)
        self.session.edit_cut("Change", vc_m_min=100.0)
        self.wait_for_map()
        self.assertIsNot(self.answers.map.value, picture)

    def test_names_of_limits_never_overlap(self) -> None:
        for path in DEMOS:
            self.bench.open_path(path)
            for index in (0, len(self.session.job.cuts) - 1):
                self.session.select(index)
                self.wait_for_map()
                for size in ((1280, 800), (1100, 700)):
                    self.running.window.resize(*size)
                    QApplication.processEvents()
                    places = self.placed_names()
                    for i, a in enumerate(places):
                        self.assertFalse(any(a.intersects(b) for b in places[i + 1 :]))

    def placed_names(self):  # type: ignore[no-untyped-def]
        from unittest import mock

        from lesna.desktop.widgets import map_view

        drawn = []
        with mock.patch.object(
            map_view, "label_plate", lambda painter, rect, text, face, **colours: drawn.append((rect, text))
        ):
            self.map.still((object(),), self.map._paint_ground)
        return [rect for rect, _ in drawn]

    def test_pointing_tells_what_holds_that_point_back(self) -> None:
        name, use = self.answers.map.value.holding_back(11.9, 30.0)
        self.assertGreater(use, 1.0)
        self.assertIn(name, ("Taper bending", "Chatter margin"))


class Fields(CutStep):
    shares = True

    def test_typed_entry_understands_what_people_type(self) -> None:
        for text, field, value in (("10%", "ae_mm", 1.2), ("1.5xD", "ap_mm", 18.0), ("1/16 in", "ae_mm", 1.5875),
                                   (".5\"", "ap_mm", 12.7), ("400 sfm", "vc_m_min", 121.92), ("1.5 thou", "hex_mm", 0.0381),
                                   ("1,4", "ae_mm", 1.4)):  # fmt: skip
            with self.subTest(text=text):
                self.type_into(self.fields[field].edit, text)
                self.assertAlmostEqual(getattr(self.session.cut, field), value, places=6)

    def test_what_cannot_be_used_stays_with_a_sentence(self) -> None:
        field = self.fields["ae_mm"]
        for text, words in (
            ("abc", "cannot be read here"),
            ("14", "at most the diameter DC = 12 mm"),
            ("-1", "above 0"),
            ("", "A value is needed"),
        ):
            self.type_into(field.edit, text)
            self.assertTrue(field.trouble.isVisibleTo(self.bench))
            self.assertIn(words, field.trouble.text())
            self.assertEqual(field.edit.text(), text)
            self.assertEqual(self.session.cut.ae_mm, 1.2)
        self.session.edit_cut("Change", vc_m_min=110.0)
        self.assertEqual(field.edit.text(), "", "typing survives changes elsewhere")
        QTest.keyClick(field.edit, Qt.Key.Key_Escape)
        self.assertEqual(field.edit.text(), "1.20 mm")
        self.assertFalse(field.trouble.isVisibleTo(self.bench))

    def test_a_good_value_after_a_bad_one_is_taken(self) -> None:
        field = self.fields["ap_mm"]
        self.type_into(field.edit, "99")
        self.type_into(field.edit, "20")
        self.assertEqual(self.session.cut.ap_mm, 20.0)
        self.assertFalse(field.edit.property("wrong"))

    def test_another_cut_shows_its_own_values(self) -> None:
        self.type_into(self.fields["ae_mm"].edit, "abc")
        self.session.select(2)
        self.assertEqual(self.fields["ae_mm"].edit.text(), "1.00 mm")

    def test_ways_to_give_speed_and_feed(self) -> None:
        cut, n = self.cut_page, self.session.result.state.n
        cut.speed_by.chosen.emit("n_rpm")
        self.assertAlmostEqual(self.session.cut.n_rpm, n, places=0)
        self.assertTrue(
            self.fields["n_rpm"].isVisibleTo(self.bench) and not self.fields["vc_m_min"].isVisibleTo(self.bench)
        )
        self.type_into(self.fields["n_rpm"].edit, "4k")
        self.assertEqual(self.session.result.state.n, 4000.0)
        fz = self.session.result.state.fz
        cut.feed_by.chosen.emit("book")
        self.assertAlmostEqual(self.session.result.state.fz, fz, places=4)
        self.type_into(self.fields["book_ae"].edit, "50%")
        self.assertEqual(self.session.cut.book.ae_over_dc, 0.5)
        self.type_into(self.fields["book_ae"].edit, "")
        self.assertIsNone(self.session.cut.book.ae_over_dc)
        cut.feed_by.chosen.emit("fz_mm")
        self.assertFalse(cut.school.isVisibleTo(self.bench))
        cut.feed_by.chosen.emit("hex_mm")
        self.assertIsNotNone(self.session.cut.hex_mm)

    def test_choices_write_back(self) -> None:
        cut = self.cut_page
        chosen = (
            (cut.school, "compensation", "mean_chip"),
            (cut.strategy, "strategy", "heavy_radial"),
            (cut.role, "role", "semi"),
            (cut.direction, "direction", "up"),
            (cut.coolant, "coolant", "mist"),
        )
        for field, key, value in chosen:
            place = field.combo.findData(value)
            field.combo.setCurrentIndex(place)
            field.combo.activated.emit(place)
            self.assertEqual(getattr(self.session.cut, key), value)

    def test_starting_values_come_from_the_tables(self) -> None:
        self.cut_page._on_starting_values()
        self.assertEqual(self.session.cut.vc_m_min, 147)  # 90 times 1.63 at 8.5 % of the diameter


class Following(CutStep):
    shares = True

    def test_ladder_keeps_its_order_while_dragging_and_sorts_after(self) -> None:
        ladder = self.cut_page.ladder
        self.session.is_dragging = True
        order = [rule.id for rule, _ in ladder.rows()]
        self.session.edit_cut("Drag", ap_mm=0.5)
        self.assertEqual([rule.id for rule, _ in ladder.rows()], order)
        self.session.is_dragging = False
        self.session.result_changed.emit()
        uses = [entry.use for rule, entry in ladder.rows() if entry is not None and rule.id not in ENDS]
        self.assertEqual(uses, sorted(uses, reverse=True))

    def test_the_speed_may_be_set_by_the_life_of_the_edge(self) -> None:
        box = self.cut_page.speed_by.combo
        box.setCurrentIndex(box.findData("life_min_wanted"))
        box.activated.emit(box.currentIndex())
        self.assertEqual(self.session.cut.life_min_wanted, round(self.session.result.economy.life))
        self.type_into(self.fields["life_min_wanted"].edit, "90")
        self.assertAlmostEqual(self.session.result.economy.life, 90.0)
        self.session.edit_cut("Thinner", ae_mm=0.8)
        self.assertAlmostEqual(self.session.result.economy.life, 90.0)

    def test_m_goes_through_what_the_colours_tell(self) -> None:
        view, told = self.cut_page.map, []
        self.wait_for_map()
        for _ in range(5):
            QTest.keyClick(view, Qt.Key.Key_M)
            self.wait_for_map()
            told.append(view.colour.text())
        for words in ("removal at equal edge life, 45 min", "edge life", "cost in the cut, a part", "heat of the edge"):
            self.assertTrue(any(words in text for text in told), (words, told))
        self.assertEqual(told[-1], "Colour (M): removal")

    def test_the_time_of_a_part_names_its_source_and_follows_the_cut(self) -> None:
        wait_for(lambda: all(result.timing is not None for result in self.session.results))
        wait_for(lambda: self.session.result.timing.basis == "program")
        cell = self.bench.readouts.cells["part_time"]
        self.assertEqual(cell.figure.source(self.session.result), "program")
        program = self.session.result.timing
        self.session.edit_cut("Wider", ae_mm=1.4)
        self.assertEqual(self.session.result.timing, program, "a program takes its time whatever is typed")
        self.session.edit_cut("Without it", program=None)
        wait_for(lambda: self.session.result.timing is not None and self.session.result.timing.basis == "estimate")
        self.bench.undo()
        self.assertEqual(self.session.result.timing, program)
        lost = self.session.cut.program.with_values(file="not-there.nc")
        self.session.edit_cut("A program that is not there", program=lost)
        wait_for(lambda: self.session.result.timing is not None and self.session.result.timing.basis == "estimate")
        self.session.edit_cut("Another floor", feature=self.session.cut.feature.with_values(length_mm=97.3))
        wait_for(lambda: self.session.result.timing is not None)
        self.assertEqual(self.bench.rail.total.text().split(":")[0], "All cuts")

    def test_a_click_on_the_ladder_explains_the_limit(self) -> None:
        ladder = self.cut_page.ladder
        QTest.mouseClick(ladder, Qt.MouseButton.LeftButton, pos=QPoint(40, 12))
        self.assertTrue(self.bench.working.isVisible())
        self.assertIn(ladder.rows()[0][0].name, self.bench.working.text.text())

    def test_ladder_by_keyboard(self) -> None:
        ladder = self.cut_page.ladder
        ladder.setFocus()
        QTest.keyClick(ladder, Qt.Key.Key_Down)
        QTest.keyClick(ladder, Qt.Key.Key_Return)
        self.assertEqual(self.bench.working.subject, ladder.rows()[1][0].id)

    def test_f1_opens_and_closes_working_and_links_lead_on(self) -> None:
        working = self.bench.working
        working.subject = "vf"
        self.bench.readouts.cells["vf"].setFocus()
        QTest.keyClick(self.running.window, Qt.Key.Key_F1)
        self.assertIn("vf = n z fz", working.text.text())
        working.text.linkActivated.emit("n")
        self.assertIn("1000 vc", working.text.text())
        self.session.edit_cut("Change", vc_m_min=111.0)
        self.assertIn("111 m/min", working.text.text())
        QTest.keyClick(self.running.window, Qt.Key.Key_F1)
        self.assertFalse(working.isVisible())

    def test_a_readout_copies_its_value_and_explains_itself(self) -> None:
        cell = self.bench.readouts.cells["n"]
        QTest.mouseClick(cell, Qt.MouseButton.LeftButton, pos=QPoint(30, 40))
        self.assertEqual(QApplication.clipboard().text(), f"{self.session.result.state.n:.0f}")
        QTest.mouseClick(cell, Qt.MouseButton.LeftButton, pos=cell._how().center().toPoint())
        self.assertEqual(self.bench.working.subject, "n")

    def test_readouts_by_keyboard(self) -> None:
        strip = self.bench.readouts
        for key, name in ((Qt.Key.Key_Return, "n"), (Qt.Key.Key_Space, "vf")):
            cell = strip.cells[name]
            cell.setFocus()
            cell.grab()  # with the frame of the focus
            QTest.keyClick(cell, key)
            self.assertAlmostEqual(
                float(QApplication.clipboard().text()), getattr(self.session.result.state, name), delta=0.51
            )
        QApplication.clipboard().setText("kept")
        QTest.keyClick(strip.cells["n"], Qt.Key.Key_X)
        self.assertEqual(QApplication.clipboard().text(), "kept")

    def test_descriptions_rest_in_a_drag_and_follow_after(self) -> None:
        cell, ladder = self.bench.readouts.cells["q"], self.cut_page.ladder
        before = cell.accessibleDescription(), ladder.accessibleDescription()
        self.session.is_dragging = True
        self.session.edit_cut("Change", gesture=True, ae_mm=0.7)
        self.assertEqual((cell.accessibleDescription(), ladder.accessibleDescription()), before)
        self.session.is_dragging = False
        self.session.result_changed.emit()
        self.assertNotEqual(cell.accessibleDescription(), before[0])
        self.assertIn(f"{self.session.result.state.q:.1f}", cell.accessibleDescription())
        self.assertNotEqual(ladder.accessibleDescription(), before[1])

    def test_a_clipped_readout_says_what_was_asked(self) -> None:
        self.session.edit_cut("Change", vc_m_min=900.0, hex_mm=0.02)
        self.assertIn("asked for 23873 rpm", self.bench.readouts.cells["n"].accessibleDescription())
        self.running.window.grab()

    def test_tooth_and_tables_draw_in_every_situation(self) -> None:
        for values in ({"direction": "up"}, {"ae_mm": 12.0}, {"ae_mm": 0.02, "hex_mm": 0.01}, {"hex_mm": 0.2}):
            self.session.edit_cut("Change", **values)
            self.wait_for_map()
            self.running.window.grab()

    def test_the_third_face_shows_cost_over_speed_also_without_a_feature(self) -> None:
        faces = self.cut_page.faces.faces
        QTest.mouseClick(faces.buttons[2], Qt.MouseButton.LeftButton)
        self.assertEqual(faces.stack.currentIndex(), 2)
        for values in ({"vc_m_min": 60.0}, {"vc_m_min": 400.0, "hex_mm": 0.02}, {"feature": None}):
            self.session.edit_cut("Change", **values)
            faces.grab()

    def test_starting_speed_takes_the_chosen_factor(self) -> None:
        cut = self.cut_page
        cut.speed_share.setCurrentIndex(cut.speed_share.findData("none"))
        cut._on_starting_values()
        self.assertEqual(self.session.cut.vc_m_min, 90.0)
        self.assertIn("the table's speed", cut.heat.text())

    def test_life_and_cost_stand_in_the_strip(self) -> None:
        cells = self.bench.readouts.cells
        wait_for(lambda: self.session.result.timing is not None)
        for id, unit in (("life", "min"), ("alone", "min"), ("part_time", "min:s"), ("cost", "a part")):
            figure = cells[id].figure
            self.assertTrue(any(ch.isdigit() for ch in figure.text(self.session.result, "metric")))
            self.assertEqual(figure.shown(self.session.result, "metric")[1], unit)


class Chatter(CutStep):
    def test_the_chatter_limit_comes_in_behind_for_every_cut(self) -> None:
        wait_for(lambda: all(r.chatter is not None for r in self.session.results))
        self.assertIn("stability", [limit.rule.id for limit in self.session.result.limits])
        wait_for(lambda: self.answers.map.value is not None and "stability" in self.answers.map.value.map.uses)

    def test_the_stability_face_is_computed_when_it_is_looked_at(self) -> None:
        face = self.cut_page.stability
        QTest.mouseClick(self.cut_page.charts.buttons[1], Qt.MouseButton.LeftButton)
        face.grab()
        self.assertIn("should stay calm: set-ups like this one usually begin between", face.words.text())
        self.assertIn("Tap the tool or listen to the cut", face.source.text())
        self.assertIsNone(self.answers.chart.value)  # an estimate has no chart to compute
        QTest.mouseClick(face.measure, Qt.MouseButton.LeftButton)
        wait_for(lambda: self.answers.chart.value is not None)
        wait_for(lambda: self.session.result.chatter is not None)
        field, _ = self.answers.chart.value
        self.assertEqual(len(field.places), 6)
        face.grab()
        self.assertRegex(
            face.words.text(), r"should stay calm: .*\(estimate\) The simulated lobes show (none|\d)"
        )  # what nobody measured is no limit
        self.assertEqual(self.session.result.chatter.basis, "estimate")
        QTest.mouseClick(face.keep, Qt.MouseButton.LeftButton)
        self.assertTrue(self.session.cut.is_judged_by_modes)
        wait_for(lambda: self.session.result.chatter is not None and self.answers.chart.value is not None)
        self.assertEqual(self.session.result.chatter.basis, "simulated")
        face.grab()
        self.assertRegex(
            face.words.text(), r"this cut (is calm|chatters).*\(simulated, kept as the limit, (sure|fast) method\)"
        )
        self.assertTrue(face.keep.isHidden())
        self.bench.undo()
        self.assertEqual(self.session.result.chatter.basis, "estimate")

    def test_a_tap_test_becomes_modes_and_is_undone(self) -> None:
        face = self.cut_page.stability
        QTest.mouseClick(self.cut_page.charts.buttons[1], Qt.MouseButton.LeftButton)
        QTest.mouseClick(face.measure, Qt.MouseButton.LeftButton)
        wait_for(lambda: bool(self.session.cut.tap_modes))
        self.assertIn("hits averaged", self.bench.banner.text.text())
        self.assertIn("Simulated, nothing was measured", face.source.text())
        self.bench.undo()
        self.assertEqual(self.session.cut.tap_modes, ())

    def test_a_measured_response_and_a_bad_file(self) -> None:
        import numpy as np

        f = np.arange(200.0, 4000.0, 4.0)
        H = 1 / 20.0 / (1 - (f / 900) ** 2 + 2j * 0.03 * f / 900)
        with tempfile.TemporaryDirectory() as folder:
            good, bad = Path(folder) / "tip.csv", Path(folder) / "bad.csv"
            lines = [f"{a},{h.real},{h.imag}" for a, h in zip(f, H, strict=True)]
            good.write_text("f_hz,re_um_n,im_um_n\n" + "\n".join(lines))
            bad.write_text("f_hz,re_um_n\n1,2\n")
            self.cut_page.tapping.load(good)
            wait_for(lambda: bool(self.session.cut.tap_modes))
            self.assertAlmostEqual(self.session.cut.tap_modes[0].f_hz, 900.0, delta=1.0)
            self.cut_page.tapping.load(bad)
            wait_for(lambda: "im_um_n is missing" in self.bench.banner.text.text())
            self.assertAlmostEqual(self.session.cut.tap_modes[0].k_n_um, 20.0, delta=0.2)

    def test_listening_to_the_cut(self) -> None:
        from lesna.devices.microphone import SimulatedMicrophone

        face = self.cut_page.listen
        QTest.mouseClick(self.cut_page.charts.buttons[2], Qt.MouseButton.LeftButton)
        QTest.mouseClick(face.simulate, Qt.MouseButton.LeftButton)
        wait_for(lambda: face.chart.hearing is not None)
        self.assertIn("Quiet", face.words.text())
        state, z = self.session.result.state, self.session.result.setup.shape.z
        face.hear(lambda: SimulatedMicrophone(state.n, z, chatter=1240.0).record(3.0))
        wait_for(lambda: face.take.isEnabled())
        self.assertIn("Chatter at 1240 Hz", face.words.text())
        face.chart.grab()
        QTest.mouseClick(face.take, Qt.MouseButton.LeftButton)
        n = self.session.cut.n_rpm
        assert n is not None
        swings = 1240.0 * 60 / (n * z)
        self.assertAlmostEqual(swings, round(swings), delta=0.02)

    def test_listening_to_files(self) -> None:
        from lesna.devices.microphone import SimulatedMicrophone
        from tests.recordings import wav_bytes

        face = self.cut_page.listen
        QTest.mouseClick(self.cut_page.charts.buttons[2], Qt.MouseButton.LeftButton)
        state, z = self.session.result.state, self.session.result.setup.shape.z
        with tempfile.TemporaryDirectory() as folder:
            good, broken, gone = (Path(folder) / name for name in ("cut.wav", "broken.wav", "gone.wav"))
            good.write_bytes(wav_bytes(SimulatedMicrophone(state.n, z, chatter=1240.0).record(3.0)))
            broken.write_bytes(b"RIFF nothing of the kind")
            for path, words in ((broken, "is not a WAV recording"), (gone, "does not exist")):
                face.open_file(path)
                wait_for(lambda path=path: path.name in face.words.text())
                self.assertIn(words, face.words.text())
                self.assertFalse(face.take.isEnabled())
            with mock.patch(
                "lesna.desktop.widgets.listen_face.QFileDialog.getOpenFileName", return_value=(str(good), "")
            ):
                QTest.mouseClick(face.open, Qt.MouseButton.LeftButton)
            wait_for(lambda: face.take.isEnabled())
        self.assertIn("Chatter at 1240 Hz", face.words.text())
        self.session.select(0)  # another cut sounds another way
        self.assertIsNone(face.chart.hearing)
        self.assertFalse(face.take.isEnabled())
        face.chart.grab()

    def test_the_verdict_on_chatter_in_words(self) -> None:
        face, result = self.cut_page.stability, self.session.result
        for depth, frequency, words in (
            (60.0, 0.0, "this cut is calm; no chatter down to 60.00 mm."),
            (30.0, 812.0, "this cut is calm; chatter begins at 30.00 mm near 812 Hz."),
            (9.0, 812.0, "this cut chatters near 812 Hz; it is calm up to 9.00 mm."),
        ):
            known = dataclasses.replace(
                result, chatter=Known("measured", depth, 0.9 * depth, 1.1 * depth, frequency, "sure", 60.0)
            )
            self.session.results = (self.session.results[0], known, *self.session.results[2:])
            self.assertIn(words, face._verdict())
        self.session.results = (
            self.session.results[0],
            dataclasses.replace(result, chatter=None),
            *self.session.results[2:],
        )
        self.assertIn("Nothing is known about chatter", face._verdict())

    @mock.patch.object(more, "PROPOSALS", more.PROPOSALS[5:6])
    def test_what_would_buy_more_is_tried_and_undone(self) -> None:
        QTest.mouseClick(self.cut_page.answers.faces.buttons[1], Qt.MouseButton.LeftButton)
        wait_for(lambda: self.answers.offers.value is not None)
        shown = self.cut_page.more
        self.assertEqual(len(shown.buttons), min(len(self.answers.offers.value), 7))
        self.assertTrue(shown.buttons)
        before = self.session.job
        QTest.mouseClick(shown.buttons[0], Qt.MouseButton.LeftButton)
        self.assertNotEqual(self.session.job, before)
        self.assertTrue(self.session.stack.undoText().startswith("Try: "))
        self.bench.undo()
        self.assertEqual(self.session.job, before)
