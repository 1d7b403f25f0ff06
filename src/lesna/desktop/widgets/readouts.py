"""The readout strip: what to set and what comes of it, always there."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QHBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, text_width
from lesna.model import units
from lesna.planning.telling.figures import FIGURES, STRIP, Figure


class ReadoutStrip(QWidget):
    """A row of readouts."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setFixedHeight(74)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(0)
        self.cells = {id: ReadoutCell(session, FIGURES[id], is_first=id == STRIP[0]) for id in STRIP}
        for cell in self.cells.values():
            row.addWidget(cell, 1)


class ReadoutCell(Canvas):
    """One readout: a click copies it, its small mark explains it, a corner flag says that it was clipped."""

    def __init__(
        self, session: Session, figure: Figure, *, is_first: bool = False, parent: QWidget | None = None
    ) -> None:
        super().__init__(figure.label, parent)
        self.session, self.figure, self._is_first = session, figure, is_first
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        session.result_changed.connect(self._on_result)

    def sizeHint(self) -> QSize:
        return QSize(120, 74)

    def copy(self) -> None:
        """Puts the number, as shown but without its unit and thousands spaces, on the clipboard."""
        text = self.figure.text(self.session.result, self.session.system)
        QApplication.clipboard().setText(text.replace("\xa0", ""))
        self.session.say("note", f"{self.figure.label} {text} copied")

    def _on_result(self) -> None:
        self.update()
        if not self.session.is_dragging:
            result, system = self.session.result, self.session.system
            text, unit = self.figure.shown(result, system)
            clipped = units.said(result.clipped(self.figure.id), system)
            self.setToolTip(
                f"{clipped[:1].upper()}{clipped[1:]}" if clipped else "Click copies it; ? tells how it came about"
            )
            self.setAccessibleDescription(f"{text} {unit} {clipped}")

    def _how(self) -> QRectF:
        return QRectF(self.width() - 24, 8, 16, 16)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self._how().adjusted(-4, -4, 4, 4).contains(event.position()):
            self.session.working_asked.emit(self.figure.id)
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
        text, unit = self.figure.shown(result, system)
        clipped = result.clipped(self.figure.id)
        self._paint_number(painter, text, unit, bool(clipped))
        if clipped:
            painter.setFont(self.face(10))
            painter.setPen(THEME.color("amber"))
            asked = result.state.n_asked if self.figure.id == "n" else result.state.vf_asked
            painter.drawText(QRectF(10, 55, self.width() - 12, 14), Qt.AlignmentFlag.AlignVCenter,
                             f"▾ asked {self.figure.quantity.text(asked, system)}")  # fmt: skip
        elif source := self.figure.source(result):
            painter.setFont(self.face(10))
            painter.setPen(THEME.color("faint"))
            painter.drawText(QRectF(10, 55, self.width() - 12, 14), Qt.AlignmentFlag.AlignVCenter, source)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawRect(QRectF(2.5, 4.5, self.width() - 5, self.height() - 8))

    def _paint_label(self, painter: QPainter) -> None:
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(0, 0, self.width(), 0)
        if not self._is_first:
            painter.drawLine(0, 14, 0, self.height() - 12)
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(10, 8, self.width() - 34, 16), Qt.AlignmentFlag.AlignVCenter, self.figure.label)
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
