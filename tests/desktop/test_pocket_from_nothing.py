"""A pocket job from nothing, by mouse and keyboard in at most 26 actions, by keys alone in at most 50; docs/guide.md tells the steps."""

import tempfile
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QWidget

from lesna.model.files import load_job
from tests.desktop.driver import APP, WindowTest, wait_for

CONTROL = Qt.KeyboardModifier.ControlModifier


class Pocket(WindowTest):
    shares = True

    def setUp(self) -> None:
        super().setUp()
        self.running.window.activateWindow()
        wait_for(self.running.window.isActiveWindow)
        self.actions = 0

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(APP.focusWidget() or self.running.window, key, modifier)
        APP.processEvents()
        self.actions += 1

    def click(self, widget: QWidget, place: QPoint | None = None) -> None:
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place or QPoint())
        APP.processEvents()
        self.actions += 1

    def fill(self, edit: QWidget, text: str) -> None:
        """A click into a field and a value; Tab of the next field, or Enter, takes it."""
        self.click(edit)
        QTest.keyClicks(edit, text)
        self.actions += 1
        QTest.keyClick(edit, Qt.Key.Key_Tab)

    def choose(self, field, value: str) -> None:  # type: ignore[no-untyped-def]
        """The list opened and a word taken."""
        field.combo.setCurrentIndex(field.combo.findData(value))
        field.combo.activated.emit(field.combo.currentIndex())
        self.actions += 2

    def test_twenty_six_actions_are_enough(self) -> None:
        self.key(Qt.Key.Key_N, CONTROL)
        setup = self.bench.page("setup")
        # the keyboard is in the material already; who clicks there all the same begins a search as well
        QTest.mouseClick(setup.material, Qt.MouseButton.LeftButton)
        self.assertEqual(setup.material.text(), "")
        self.write("42crmo4 prehard")
        self.key(Qt.Key.Key_Return)
        self.fill_search(setup.tool, "corner d12 z5")
        self.fill(setup.bound.fields["stick_out_mm"].edit, "42")
        self.choose(setup.feature, "pocket")
        for key, text in (("length_mm", "110"), ("width_mm", "70"), ("depth_mm", "24"), ("corner_radius_mm", "8")):
            self.fill(setup.bound.fields[f"feature.{key}"].edit, text)
        self.key(Qt.Key.Key_2, CONTROL)
        cut = self.bench.page("cut")
        self.choose(cut.strategy, "light_radial")
        self.click(next(button for button in cut.findChildren(type(self.bench.top.undo)) if "alues" in button.text()))
        self.key(Qt.Key.Key_B)
        self.save_and_look(26)

    def test_fifty_keys_are_enough_without_a_mouse(self) -> None:
        self.key(Qt.Key.Key_N, CONTROL)
        setup = self.bench.page("setup")
        self.write("42crmo4 prehard")
        self.key(Qt.Key.Key_Return)
        self.tab_to(setup.tool)
        self.write("corner d12 z5")
        self.key(Qt.Key.Key_Return)
        self.tab_to(setup.bound.fields["stick_out_mm"].edit)
        self.write("42")
        self.tab_to(setup.feature.combo)
        self.write("po")
        for key, text in (("length_mm", "110"), ("width_mm", "70"), ("depth_mm", "24"), ("corner_radius_mm", "8")):
            self.tab_to(setup.bound.fields[f"feature.{key}"].edit)
            self.write(text)
        self.key(Qt.Key.Key_2, CONTROL)
        self.key(Qt.Key.Key_A, Qt.KeyboardModifier.AltModifier)
        self.key(Qt.Key.Key_B)
        self.save_and_look(50)

    def write(self, text: str) -> None:
        """Types where the keyboard is."""
        QTest.keyClicks(APP.focusWidget(), text)
        APP.processEvents()
        self.actions += 1

    def tab_to(self, widget: QWidget) -> None:
        """Tab until the keyboard is in a field."""
        for _ in range(20):
            if APP.focusWidget() is widget:
                return
            self.key(Qt.Key.Key_Tab)
        self.fail(f"Tab does not lead to {widget.accessibleName()}")

    def save_and_look(self, most: int) -> None:
        """Saves the job and looks at what is in it."""
        wait_for(lambda: not self.answers.map.is_asked and self.answers.map.value is not None)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "pocket.lesna"
            with (mock.patch.object(QFileDialog, "exec", lambda dialog: 1),
                  mock.patch.object(QFileDialog, "selectedFiles", lambda dialog: [str(path)])):  # fmt: skip
                self.key(Qt.Key.Key_S, CONTROL)
                self.actions += 1
            job = load_job(path)
        self.assertLessEqual(self.actions, most, "docs/guide.md tells these steps")
        feature = job.cuts[0].feature
        assert feature is not None
        self.assertEqual(
            (feature.kind, feature.length_mm, feature.depth_mm, feature.corner_radius_mm), ("pocket", 110.0, 24.0, 8.0)
        )
        self.assertEqual(job.cuts[0].stick_out_mm, 42.0)
        self.assertIn("42CrMo4", self.session.result.setup.parts.material.name)
        self.assertEqual(
            (self.session.result.setup.parts.tool.DC, self.session.result.setup.parts.tool.ZEFP), (12.0, 5)
        )
        self.assertGreater(self.session.result.state.q, 10.0)
        self.assertNotEqual(self.session.result.standing, "over")
        wait_for(lambda: self.session.result.cut_time is not None)

    def fill_search(self, box: QWidget, text: str) -> None:
        self.click(box)
        QTest.keyClicks(box, text)
        self.actions += 1
        self.key(Qt.Key.Key_Return)
