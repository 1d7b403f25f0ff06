"""The readout strip: what to set and what comes of it, always there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QHBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, text_width
from lesna.model import units
from lesna.planning.cut.result import Result


@dataclass(frozen=True)
class Readout:
    """One number of the strip."""

    id: str
    label: str
    value: Callable[[Result], float | None]
    quantity: units.Quantity

    def text(self, result: Result, system: units.System) -> tuple[str, str]:
        """Number and unit."""
        if self.id == "part_time":
            return units.clock(self.value(result)), "min:s"
        unit = "a part" if self.id == "cost" else self.quantity.unit(system)
        return self.quantity.text(self.value(result), system), unit


def _of_economy(name: str) -> Callable[[Result], float | None]:
    return lambda result: None if result.economy is None else getattr(result.economy, name)


READOUTS = (
    Readout("n", "Spindle", lambda r: r.state.n, units.SPINDLE_SPEED),
    Readout("vf", "Feed", lambda r: r.state.vf, units.FEED),
    Readout("fz", "Per tooth", lambda r: r.state.fz, units.CHIP),
    Readout("q", "Removal", lambda r: r.state.q, units.REMOVAL),
    Readout("power_motor", "Motor", lambda r: r.state.power_motor, units.POWER),
    Readout("life", "Edge life", _of_economy("life"), units.LONG_MINUTES),
    Readout("safe_life", "Safe alone", _of_economy("safe_life"), units.LONG_MINUTES),
    Readout("part_time", "Part", _of_economy("time_per_part"), units.MINUTES),
    Readout("cost", "Cost", _of_economy("cost_per_part"), units.MONEY),
)


class ReadoutStrip(QWidget):
    """A row of readouts."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setFixedHeight(74)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(0)
        self.cells = {readout.id: ReadoutCell(session, readout) for readout in READOUTS}
        for cell in self.cells.values():
            row.addWidget(cell, 1)


class ReadoutCell(Canvas):
    """One readout: a click copies it, its small mark explains it, a corner flag says that it was clipped."""

    def __init__(self, session: Session, readout: Readout, parent: QWidget | None = None) -> None:
        super().__init__(readout.label, parent)
        self.session, self.readout = session, readout
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        session.result_changed.connect(self._on_result)

    def sizeHint(self) -> QSize:
        return QSize(120, 74)

    def copy(self) -> None:
        """Puts the number, as shown but without its unit and thousands spaces, on the clipboard."""
        text, _ = self.readout.text(self.session.result, self.session.system)
        QApplication.clipboard().setText(text.replace("\xa0", ""))
        self.session.said.emit("note", f"{self.readout.label} {text} copied")

    def _on_result(self) -> None:
        self.update()
        if not self.session.is_dragging:
            text, unit = self.readout.text(self.session.result, self.session.system)
            clipped = self.session.result.clipped(self.readout.id)
            self.setToolTip(
                f"{clipped[:1].upper()}{clipped[1:]}" if clipped else "Click copies it; ? tells how it came about"
            )
            self.setAccessibleDescription(f"{text} {unit} {clipped}")

    def _how(self) -> QRectF:
        return QRectF(self.width() - 24, 8, 16, 16)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self._how().adjusted(-4, -4, 4, 4).contains(event.position()):
            self.session.working_asked.emit(self.readout.id)
        else:
            self.copy()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.copy()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        painter.drawImage(QPointF(0, 0), self.still((), self._paint_label))
        result, system = self.session.result, self.session.system
        text, unit = self.readout.text(result, system)
        clipped = result.clipped(self.readout.id)
        self._paint_number(painter, text, unit, bool(clipped))
        if clipped:
            painter.setFont(self.face(10))
            painter.setPen(THEME.color("amber"))
            asked = result.state.n_asked if self.readout.id == "n" else result.state.vf_asked
            painter.drawText(QRectF(10, 55, self.width() - 12, 14), Qt.AlignmentFlag.AlignVCenter,
                             f"▾ asked {self.readout.quantity.text(asked, system)}")  # fmt: skip
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawRect(QRectF(2.5, 4.5, self.width() - 5, self.height() - 8))

    def _paint_label(self, painter: QPainter) -> None:
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(0, 0, self.width(), 0)
        if self.readout is not READOUTS[0]:
            painter.drawLine(0, 14, 0, self.height() - 12)
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(10, 8, self.width() - 34, 16), Qt.AlignmentFlag.AlignVCenter, self.readout.label)
        painter.drawEllipse(self._how().adjusted(1, 1, -1, -1))
        painter.drawText(self._how(), Qt.AlignmentFlag.AlignCenter, "?")

    def _paint_number(self, painter: QPainter, text: str, unit: str, clipped: bool) -> None:
        size = 24.0
        room = self.width() - 14
        while size > 14 and text_width(self.face(size, bold=True), text) + text_width(self.face(10.5), unit) + 6 > room:
            size -= 1
        face = self.face(size, bold=True)
        painter.setFont(face)
        painter.setPen(THEME.color("amber" if clipped else "ink"))
        painter.drawText(QRectF(10, 22, self.width() - 10, 34), Qt.AlignmentFlag.AlignVCenter, text)
        left = 10 + text_width(face, text) + 5
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(left, 26, self.width() - left, 30), Qt.AlignmentFlag.AlignVCenter, unit)
