"""Both palettes are readable, the shipped type holds every sign, every control has a name."""

import gc
import re
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtGui import QColor, QRawFont
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

import lesna
from lesna.data.places import shipped_folder
from lesna.desktop import steps
from lesna.desktop.theme import DAY, NIGHT, TEMPER, Palette, temper
from tests.desktop.driver import APP, WindowTest, wait_for


def contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours (WCAG 2.2, relative luminance)."""

    def luminance(name: str) -> float:
        parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(name).getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


class Palettes(unittest.TestCase):
    PAIRS = (("ink", "paper", 7.0), ("ink", "panel", 7.0), ("ink", "field", 7.0), ("faint", "panel", 4.5), ("faint", "paper", 4.5),
             ("accent", "panel", 4.5), ("alarm", "panel", 4.0), ("amber", "panel", 4.0), ("bar_ink", "bar", 7.0),
             ("paper", "alarm", 4.0))  # fmt: skip

    def test_words_stand_out_from_their_ground(self) -> None:
        palettes: tuple[Palette, ...] = (DAY, NIGHT)
        for palette in palettes:
            for ink, ground, least in self.PAIRS:
                with self.subTest(palette=palette.name, ink=ink, ground=ground):
                    self.assertGreaterEqual(contrast(getattr(palette, ink), getattr(palette, ground)), least)

    def test_temper_scale_runs_through_its_colours(self) -> None:
        for place, name in enumerate(TEMPER):
            self.assertEqual(temper(place / (len(TEMPER) - 1)).name(), QColor(name).name())
        self.assertEqual(temper(5.0).name(), QColor(TEMPER[-1]).name())

    def test_the_shipped_type_has_every_sign_that_is_used(self) -> None:
        face = QRawFont(str(shipped_folder() / "fonts" / "B612-Regular.otf"), 12)
        for path in (*Path(lesna.__file__).parent.rglob("*.py"), *Path(lesna.__file__).parent.rglob("*.j2")):
            for sign in set(re.findall(r"[^\x00-\x7f]", path.read_text(encoding="utf-8"))):
                with self.subTest(file=path.name, sign=sign):
                    self.assertTrue(face.supportsCharacter(ord(sign)))


class Names(WindowTest):
    shares = True

    def test_every_control_has_an_accessible_name(self) -> None:
        for kind in (QAbstractButton, QLineEdit, QComboBox):
            for widget in self.running.window.findChildren(kind):
                words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton) else "")
                with self.subTest(widget=type(widget).__name__, parent=type(widget.parent()).__name__):
                    self.assertTrue(words)

    def test_long_names_stay_inside(self) -> None:
        job = self.session.job.with_values(title="A very long title " * 8)
        self.session.edit("Rename", job)
        self.session.edit_cut("Rename", name="A very long name of a cut " * 4)
        self.running.window.resize(1100, 700)
        self.running.window.grab()
        self.assertLessEqual(self.bench.width(), self.running.window.width())
        self.assertLess(self.bench.top.title.width(), 380)


class Pages(WindowTest):
    shares = True

    def test_pages_that_nobody_sees_pay_nothing_for_a_theme_and_come_back_in_it(self) -> None:
        page = self.bench.page("setup")
        self.bench.show_step(0)
        self.bench.show_step(1)
        self.bench.switch_theme()
        self.assertIsNone(page.parentWidget())
        self.bench.show_step(0)
        APP.processEvents()
        self.assertTrue(page.isVisible())
        self.assertIs(self.bench.page("setup"), page)
        field = page.findChild(QLineEdit)
        self.assertEqual(field.grab().toImage().pixelColor(4, 4).name().upper(), NIGHT.field.upper())
        self.bench.switch_theme()

    def test_a_step_that_was_left_goes_out_of_the_window_by_itself(self) -> None:
        self.bench.show_step(0)
        page = self.bench.page("setup")
        with mock.patch.object(steps, "CALM_MS", 30):
            self.bench.show_step(1)
        wait_for(lambda: page.parentWidget() is None)
        self.assertIsNotNone(self.bench.page("cut").parentWidget())

    def test_garbage_is_collected_in_quiet_moments_only(self) -> None:
        collector, session = self.running.collector, self.session
        wait_for(lambda: self.running.runner.is_idle)
        with mock.patch.object(gc, "get_count", return_value=(0, 0, 9)):
            self.assertTrue(collector.look())
            session.is_dragging = True
            self.assertFalse(collector.look())
            session.is_dragging = False
        with mock.patch.object(gc, "get_count", return_value=(0, 0, 0)):
            self.assertFalse(collector.look())
        self.assertGreater(gc.get_threshold()[2], 1000)
