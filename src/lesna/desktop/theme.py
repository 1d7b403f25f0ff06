"""Colours, type and the style sheet of the window, by day and by night."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase

from lesna.data.places import shipped_folder

#: the colours steel takes when heated, pale to blue
TEMPER = ("#F6EFD2", "#E9CF7B", "#C98A3A", "#8C4A52", "#5B3F78", "#2F5B93")


@dataclass(frozen=True)
class Palette:
    """One set of roles; every colour on the screen is one of these."""

    name: str
    paper: str
    panel: str
    field: str
    ink: str
    faint: str
    hairline: str
    accent: str
    accent_soft: str
    alarm: str
    good: str
    amber: str
    bar: str
    bar_ink: str
    stock: str
    steel: str
    outside: str


DAY = Palette(
    name="day", paper="#F3F0E8", panel="#FBF9F4", field="#FFFFFF", ink="#1F2B36", faint="#5F6A73", hairline="#D3CCBC",
    accent="#0E6E74", accent_soft="#DCEBEA", alarm="#C8452B", good="#2E7D4F", amber="#A8680F", bar="#1F2B36",
    bar_ink="#F3F0E8", stock="#DDD5C3", steel="#E6E1D5", outside="#E7E2D5",
)  # fmt: skip
NIGHT = Palette(
    name="night", paper="#182028", panel="#212B34", field="#2A3641", ink="#E7E2D6", faint="#A3ABB0", hairline="#3C4852",
    accent="#57B7BB", accent_soft="#24464A", alarm="#F0795F", good="#6FBF8D", amber="#E0A64A", bar="#10161C",
    bar_ink="#E7E2D6", stock="#4A463C", steel="#3A444D", outside="#2B343C",
)  # fmt: skip


@cache
def _parsed(name: str) -> QColor:
    """A colour read from its hexadecimal name, once."""
    return QColor(name)


class Theme(QObject):
    """The palette in use; tells when it changes."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.palette = DAY

    def use(self, palette: Palette) -> None:
        """Switches the palette."""
        if palette is not self.palette:
            self.palette = palette
            self.changed.emit()

    def color(self, role: str) -> QColor:
        """Colour of a role of the palette; the caller may change it."""
        return QColor(_parsed(getattr(self.palette, role)))


#: one theme for the window
THEME = Theme()


def load_fonts() -> None:
    """Makes the shipped type family known to Qt."""
    for path in sorted((shipped_folder() / "fonts").glob("*.otf")):
        QFontDatabase.addApplicationFont(str(path))


@cache
def font(px: float, *, bold: bool = False, mono: bool = False) -> QFont:
    """The shipped type at a size in pixels of the design; made once for each size."""
    face = QFont("B612 Mono" if mono else "B612")
    face.setPointSizeF(px * 0.75)
    face.setBold(bold)
    return face


def temper(share: float) -> QColor:
    """Colour of the temper scale at 0 (pale) to 1 (blue), in steps too fine to see; the caller may change it."""
    return QColor(_temper_step(round(min(max(share, 0.0), 1.0) * _TEMPER_STEPS)))


_TEMPER_STEPS = 250


@cache
def _temper_step(step: int) -> QColor:
    place = step / _TEMPER_STEPS * (len(TEMPER) - 1)
    low = min(int(place), len(TEMPER) - 2)
    a, b, t = QColor(TEMPER[low]), QColor(TEMPER[low + 1]), place - low
    red, green, blue = (
        x + (y - x) * t for x, y in ((a.redF(), b.redF()), (a.greenF(), b.greenF()), (a.blueF(), b.blueF()))
    )
    return QColor.fromRgbF(red, green, blue)


#: role of the ground of the containers that have one, by object name as in the style sheet
GROUNDS = {"page": "paper", "panel": "panel", "topbar": "bar", "dialog": "panel"}


def style_sheet(p: Palette) -> str:
    """The Qt style sheet of a palette."""
    return f"""
    QWidget {{ color: {p.ink}; font-family: "B612"; font-size: 9pt; }}
    QMainWindow, QWidget#page {{ background: {p.paper}; }}
    QToolTip {{ background: {p.panel}; color: {p.ink}; border: 1px solid {p.hairline}; padding: 4px; }}
    QFrame#panel {{ background: {p.panel}; border: 1px solid {p.hairline}; border-radius: 3px; }}
    QLabel#title {{ font-weight: bold; font-size: 9.75pt; }}
    QLabel#faint {{ color: {p.faint}; }}
    QLabel#wrong {{ color: {p.alarm}; }}
    QFrame#topbar {{ background: {p.bar}; }}
    QFrame#topbar QLabel {{ color: {p.bar_ink}; }}
    QFrame#topbar QPushButton, QFrame#topbar QToolButton {{ color: {p.bar_ink}; background: transparent;
        border: 1px solid #5F6A73; border-radius: 3px; padding: 4px 10px; min-height: 17px; }}
    QFrame#topbar QPushButton:hover, QFrame#topbar QToolButton:hover {{ background: #34424E; }}
    QFrame#topbar QPushButton:focus, QFrame#topbar QToolButton:focus {{ border: 1px solid {p.bar_ink}; }}
    QFrame#topbar QPushButton:disabled {{ color: #7C868D; border-color: #3F4B55; }}
    QToolButton::menu-indicator {{ image: none; }}
    QPushButton {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 3px; padding: 3px 9px; }}
    QPushButton:hover, QPushButton:focus {{ border-color: {p.accent}; }}
    QPushButton:disabled {{ color: {p.faint}; }}
    QPushButton#face {{ background: transparent; border: none; border-bottom: 2px solid transparent; padding: 1px 0;
        color: {p.faint}; font-weight: bold; font-size: 9.75pt; }}
    QPushButton#face:checked {{ color: {p.ink}; border-bottom-color: {p.accent}; }}
    QPushButton#face:focus {{ border-bottom-color: {p.ink}; }}
    QPushButton#link {{ background: transparent; border: none; color: {p.accent}; text-align: left; padding: 2px 4px; }}
    QPushButton#link:focus, QPushButton#link:hover {{ text-decoration: underline; }}
    QPushButton#link:disabled {{ color: {p.faint}; }}
    QLineEdit, QComboBox, QPlainTextEdit {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 3px;
        padding: 2px 6px; min-height: 18px; selection-background-color: {p.accent}; selection-color: {p.field}; }}
    QLineEdit:focus, QComboBox:focus {{ border-color: {p.accent}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {p.alarm}; color: {p.alarm}; }}
    QRadioButton {{ spacing: 6px; padding: 1px; }}
    QRadioButton::indicator {{ width: 11px; height: 11px; border: 1px solid {p.faint}; border-radius: 6px;
        background: {p.field}; }}
    QRadioButton::indicator:checked {{ width: 5px; height: 5px; border: 4px solid {p.accent}; }}
    QRadioButton:focus {{ color: {p.accent}; }}
    QCheckBox {{ spacing: 6px; }}
    QCheckBox::indicator {{ width: 11px; height: 11px; border: 1px solid {p.faint}; border-radius: 2px; background: {p.field}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; }}
    QCheckBox:focus {{ color: {p.accent}; }}
    QSlider::groove:horizontal {{ background: {p.hairline}; height: 4px; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {p.accent}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {p.field}; border: 1px solid {p.faint}; width: 11px; margin: -5px 0;
        border-radius: 3px; }}
    QSlider::handle:horizontal:focus {{ border-color: {p.accent}; }}
    QComboBox::drop-down {{ border: none; width: 16px; }}
    QComboBox::down-arrow {{ image: none; border-left: 4px solid {p.field}; border-right: 4px solid {p.field};
        border-top: 5px solid {p.faint}; width: 0; height: 0; margin-right: 6px; }}
    QComboBox QAbstractItemView, QListWidget, QMenu {{ background: {p.panel}; border: 1px solid {p.hairline};
        selection-background-color: {p.accent_soft}; selection-color: {p.ink}; outline: none; }}
    QMenu::item {{ padding: 4px 22px 4px 14px; }}
    QMenu::item:selected {{ background: {p.accent_soft}; }}
    QMenu::item:disabled {{ color: {p.faint}; }}
    QMenu::separator {{ height: 1px; background: {p.hairline}; margin: 3px 8px; }}
    QListWidget::item {{ padding: 3px 6px; }}
    QTableWidget {{ background: {p.panel}; border: 1px solid {p.hairline}; border-radius: 3px; outline: none;
        selection-background-color: {p.accent_soft}; selection-color: {p.ink}; }}
    QTableWidget:focus {{ border-color: {p.accent}; }}
    QTableWidget::item {{ padding: 2px 5px; border: none; }}
    QHeaderView::section {{ background: {p.paper}; color: {p.faint}; border: none; border-bottom: 1px solid {p.hairline};
        padding: 3px 5px; }}
    QTabBar {{ background: transparent; }}
    QTabBar::tab {{ background: transparent; color: {p.faint}; border: none; border-bottom: 2px solid transparent;
        padding: 5px 2px; margin: 0 11px; font-weight: bold; }}
    QTabBar::tab:selected {{ color: {p.ink}; border-bottom-color: {p.accent}; }}
    QTabBar:focus::tab:selected {{ border-bottom-color: {p.ink}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; }}
    QScrollBar::handle:vertical {{ background: {p.hairline}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
    QFrame#banner {{ background: {p.accent_soft}; border-bottom: 1px solid {p.hairline}; }}
    QFrame#banner[kind="wrong"] {{ background: {p.alarm}; }}
    QFrame#banner[kind="wrong"] QLabel {{ color: {p.paper}; }}
    QDialog, QMessageBox {{ background: {p.panel}; }}
    """
