"""The load ladder: every limit with the share of it that the cut uses."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.painting import Canvas
from lesna.planning.limits import LimitUse

_ROW = 18.0


class LoadLadder(Canvas):
    """Bars of the limits, the most used on top; a click explains one. The order rests while something is dragged."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("What holds this cut back", parent)
        self.session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._order: list[str] = []
        self._chosen = 0
        session.result_changed.connect(self._on_result)
        self.setMinimumHeight(int(14 * _ROW))

    def sizeHint(self) -> QSize:
        return QSize(460, int(14 * _ROW))

    def rows(self) -> list[LimitUse]:
        """Limits in the order they are drawn."""
        by_id = {entry.rule.id: entry for entry in self.session.result.limits}
        return [by_id[key] for key in self._order if key in by_id]

    def _on_result(self) -> None:
        present = [entry.rule.id for entry in self.session.result.limits]
        if not self.session.is_dragging or set(present) != set(self._order):
            self._order = present
        self.setAccessibleDescription(
            "; ".join(f"{entry.rule.name} {entry.use:.0%}" for entry in self.session.result.limits)
        )
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // _ROW)
        if 0 <= row < len(self.rows()):
            self._chosen = row
            self.session.working_asked.emit(self.rows()[row].rule.id)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is not None:
            self._chosen = min(max(self._chosen + step, 0), len(self.rows()) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.rows():
            self.session.working_asked.emit(self.rows()[self._chosen].rule.id)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, entry in enumerate(self.rows()):
            self._paint_row(painter, number, entry)

    def _paint_row(self, painter: QPainter, number: int, entry: LimitUse) -> None:
        top, wide = number * _ROW, self.width()
        name_width, value_width, percent_width = 104.0, 152.0, 46.0
        bar = QRectF(name_width, top + 4, wide - name_width - value_width - percent_width, _ROW - 8)
        full = bar.width() * 0.92  # the last part shows by how much a limit is exceeded
        over = entry.is_exceeded
        painter.setFont(self.face(12, bold=number == 0))
        painter.setPen(THEME.color("alarm" if entry.is_broken else "ink"))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(0, top, name_width, _ROW), middle, entry.rule.name)
        painter.fillRect(bar, THEME.color("outside"))
        length = min(entry.use, 1.0 / 0.92) * full
        painter.fillRect(QRectF(bar.left(), bar.top(), length, bar.height()),
                         THEME.color("alarm") if entry.is_broken else temper(min(entry.use, 1.0)))  # fmt: skip
        painter.setPen(QPen(THEME.color("ink"), 1.4))
        painter.drawLine(QPointF(bar.left() + full, bar.top() - 2), QPointF(bar.left() + full, bar.bottom() + 2))
        if over:
            tip = QPointF(bar.right(), bar.center().y())
            painter.setBrush(THEME.color("alarm" if entry.is_broken else "amber"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(QPolygonF([tip, tip + QPointF(-7, -6), tip + QPointF(-7, 6)]))
        painter.setPen(THEME.color("alarm" if entry.is_broken else "ink"))
        percent = f"{entry.use:.0%}" if entry.use < 9.995 else f"{entry.use:.0f} ×"
        painter.drawText(
            QRectF(bar.right() + 6, top, percent_width - 8, _ROW), middle | Qt.AlignmentFlag.AlignRight, percent
        )
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(wide - value_width, top, value_width, _ROW), middle | Qt.AlignmentFlag.AlignRight,
                         self._span(entry))  # fmt: skip
        if self.hasFocus() and number == self._chosen:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawRect(QRectF(0.5, top + 1, wide - 1, _ROW - 2))

    def _span(self, entry: LimitUse) -> str:
        quantity, system = entry.rule.quantity, self.session.system
        if entry.rule.is_capped and entry.is_exceeded:
            return f"capped at {quantity.full(entry.limit, system)}"
        word = "over" if entry.rule.is_floor else "of"
        return f"{quantity.text(entry.value, system)} {word} {quantity.full(entry.limit, system)}"
