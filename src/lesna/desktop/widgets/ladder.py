"""The load ladder: every limit with the share of it that the cut uses."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.painting import Canvas
from lesna.planning.cut.limits import BY_ID, STABILITY, LimitUse, Rule

#: height of a row where there is room, and the least at which its words are read
_ROW, _LEAST_ROW = 18.0, 12.0
#: limits that one cut can have
_MOST_ROWS = 18
#: height of a row in a tall window
_EASY_ROW = 14.8
#: height of a row below which its words are set smaller
_SMALL = 14.0
_NAME, _VALUE, _PERCENT = 104.0, 152.0, 46.0
#: part of a bar up to the limit; the rest shows by how much it is exceeded
_FULL = 0.92
#: steps of the fade at the uncertain end of a bar, and how much of the ground covers its end (of 255)
_FADE_STEPS, _FADED = 64, 110


@cache
def _fade(ground: str) -> QImage:
    """A line from clear to nearly the ground, stretched over the uncertain end of a bar; made once for each ground."""
    line = QImage(_FADE_STEPS, 1, QImage.Format.Format_ARGB32)
    for step in range(_FADE_STEPS):
        color = QColor(ground)
        color.setAlpha(round(_FADED * step / _FADE_STEPS))
        line.setPixelColor(step, 0, color)
    return line.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


class LoadLadder(Canvas):
    """Bars of the limits, the most used on top; a click explains one. The order rests while something is dragged."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("What holds this cut back", parent)
        self.session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._order: list[str] = []
        self._chosen = 0
        #: height of a row
        self.row = _ROW
        session.result_changed.connect(self._on_result)
        self.setMinimumHeight(int(_MOST_ROWS * _LEAST_ROW))

    def sizeHint(self) -> QSize:
        return QSize(460, int(14 * _ROW))

    def make_room(self, tall: bool) -> None:
        """Rows of a comfortable height where the window is tall, of the least in a low one."""
        self.setMinimumHeight(int(_MOST_ROWS * (_EASY_ROW if tall else _LEAST_ROW)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """All rows are seen, whatever the window's height."""
        self.row = min(max(self.height() / max(len(self._order), 1), _LEAST_ROW), _ROW)

    def rows(self) -> list[tuple[Rule, LimitUse | None]]:
        """Limits in the order they are drawn; what is still being computed keeps its place without a number."""
        by_id = {entry.rule.id: entry for entry in self.session.result.limits}
        return [(BY_ID[key], by_id.get(key)) for key in self._order]

    def _on_result(self) -> None:
        result = self.session.result
        present = [entry.rule.id for entry in result.limits]
        if result.is_waiting:
            present.append(STABILITY.id)
        if not self.session.is_dragging or set(present) != set(self._order):
            self._order = present
            self._fit()
        if not self.session.is_dragging:
            self.setAccessibleDescription(
                "; ".join(f"{entry.rule.name} {entry.use:.0%}" for entry in self.session.result.limits)
            )
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // self.row)
        if 0 <= row < len(self.rows()):
            self._chosen = row
            self.session.working_asked.emit(self.rows()[row][0].id)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is not None:
            self._chosen = min(max(self._chosen + step, 0), len(self.rows()) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.rows():
            self.session.working_asked.emit(self.rows()[self._chosen][0].id)
        else:
            super().keyPressEvent(event)

    def _bar(self, number: int) -> QRectF:
        return QRectF(
            _NAME, number * self.row + 0.22 * self.row, self.width() - _NAME - _VALUE - _PERCENT, 0.56 * self.row
        )

    def _mark(self, number: int) -> QRectF:
        """The stroke at which a limit is reached."""
        bar = self._bar(number)
        return QRectF(bar.left() + bar.width() * _FULL - 0.7, bar.top() - 2, 1.4, bar.height() + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        rows = self.rows()
        key = tuple((rule.id, entry is not None and entry.is_broken) for rule, entry in rows)
        painter.drawImage(QPointF(0, 0), self.still(key, self._paint_names))
        size = 12 if self.row >= _SMALL else 11
        face, strong = self.face(size), self.face(size, bold=True)
        beside = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        for number, (_, entry) in enumerate(rows):
            percent = QRectF(self.width() - _VALUE - _PERCENT + 6, number * self.row, _PERCENT - 8, self.row)
            if entry is not None:
                self._paint_use(painter, number, entry)
                painter.setFont(face if number else strong)
                painter.setPen(THEME.color("alarm" if entry.is_broken else "ink"))
                painter.drawText(percent, beside, f"{entry.use:.0%}" if entry.use < 9.995 else f"{entry.use:.0f} ×")
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        for number, (_, entry) in enumerate(rows):
            place = QRectF(self.width() - _VALUE, number * self.row, _VALUE, self.row)
            painter.drawText(place, beside, "being computed" if entry is None else self._span(entry))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawRect(QRectF(0.5, self._chosen * self.row + 1, self.width() - 1, self.row - 2))

    def _paint_names(self, painter: QPainter) -> None:
        """Names of the limits and the bars that their use fills."""
        for number, (rule, entry) in enumerate(self.rows()):
            painter.setFont(self.face(12 if self.row >= _SMALL else 11, bold=number == 0))
            painter.setPen(THEME.color("alarm" if entry is not None and entry.is_broken else "ink"))
            painter.drawText(QRectF(0, number * self.row, _NAME, self.row), Qt.AlignmentFlag.AlignVCenter, rule.name)
            painter.fillRect(self._bar(number), THEME.color("outside"))
            painter.fillRect(self._mark(number), THEME.color("ink"))

    def _paint_use(self, painter: QPainter, number: int, entry: LimitUse) -> None:
        bar = self._bar(number)
        full = bar.width() * _FULL
        painter.fillRect(QRectF(bar.left(), bar.top(), min(entry.use, 1.0 / _FULL) * full, bar.height()),
                         THEME.color("alarm") if entry.is_broken else temper(min(entry.use, 1.0)))  # fmt: skip
        if entry.high > entry.low * 1.01:
            # how far it may be off: the end of the bar fades out over its band
            left, right = (bar.left() + min(use, 1.0 / _FULL) * full for use in (entry.low, entry.high))
            end = bar.left() + min(entry.use, 1.0 / _FULL) * full
            painter.drawImage(QRectF(left, bar.top(), max(end - left, 0.0), bar.height()), _fade(THEME.palette.outside))
            beyond = temper(min(entry.use, 1.0))
            beyond.setAlpha(70)
            painter.fillRect(QRectF(end, bar.top() + 2, max(right - end, 0.0), bar.height() - 4), beyond)
        if max(entry.use, entry.high) > 1.0:
            painter.fillRect(self._mark(number), THEME.color("ink"))
        if entry.is_exceeded:
            tip = QPointF(bar.right(), bar.center().y())
            painter.setBrush(THEME.color("alarm" if entry.is_broken else "amber"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(QPolygonF([tip, tip + QPointF(-7, -6), tip + QPointF(-7, 6)]))

    def _span(self, entry: LimitUse) -> str:
        quantity, system = entry.rule.quantity, self.session.system
        if entry.rule.is_capped and entry.is_exceeded:
            return f"capped at {quantity.full(entry.limit, system)}"
        word = "over" if entry.rule.is_floor else "of"
        return f"{quantity.text(entry.value, system)} {word} {quantity.full(entry.limit, system)}"
