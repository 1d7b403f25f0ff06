"""The route along the top: the steps of the work, in order."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, text_width

_STEP_WIDTH = 128.0


class Route(Canvas):
    """Steps on a line; a mark shows where something needs attention."""

    chosen = Signal(int)

    def __init__(self, steps: tuple[str, ...], parent: QWidget | None = None) -> None:
        super().__init__("Route", parent)
        self.steps, self.current = steps, 0
        #: by the names of the steps, which come and go
        self._marks: dict[str, str] = {}
        self.setFixedHeight(34)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(int(_STEP_WIDTH * len(self.steps)), 34)

    def show_steps(self, steps: tuple[str, ...]) -> None:
        """Other steps; their marks stay with them."""
        if steps != self.steps:
            self.steps = steps
            self.updateGeometry()
            self.update()

    def show_step(self, index: int) -> None:
        """Marks the step that is open."""
        self.current = index
        self.setAccessibleDescription(f"{self.steps[index]} is open")
        self.update()

    def show_mark(self, index: int, text: str) -> None:
        """Marks a step that needs attention, with the reason; an empty text takes the mark away."""
        if text != self.mark(index):
            self._marks[self.steps[index]] = text
            self.update()

    def mark(self, index: int) -> str:
        """Why a step needs attention."""
        return self._marks.get(self.steps[index], "") if 0 <= index < len(self.steps) else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = int((event.position().x() - 6) // _STEP_WIDTH)
        if 0 <= index < len(self.steps):
            self.chosen.emit(index)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = int((event.position().x() - 6) // _STEP_WIDTH)
        self.setToolTip(self.mark(index))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.chosen.emit(min(max(self.current + step, 0), len(self.steps) - 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        y = self.height() / 2
        for index, name in enumerate(self.steps):
            x = 16 + index * _STEP_WIDTH
            here = index == self.current
            face = self.face(13, bold=here)
            if index:
                former = text_width(self.face(13, bold=index - 1 == self.current), self.steps[index - 1])
                painter.setPen(QPen(THEME.color("hairline"), 1.4))
                painter.drawLine(QPointF(x - _STEP_WIDTH + 16 + former + 22, y), QPointF(x - 9, y))
            painter.setPen(QPen(THEME.color("accent" if here else "faint"), 1.8))
            painter.setBrush(THEME.color("accent" if here else "paper"))
            painter.drawEllipse(QPointF(x, y), 5.5, 5.5)
            painter.setFont(face)
            painter.setPen(THEME.color("ink" if here else "faint"))
            painter.drawText(QPointF(x + 14, y + 5), name)
            if self.mark(index):
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(THEME.color("alarm"))
                painter.drawEllipse(QPointF(x + 20 + text_width(face, name), y - 5), 3, 3)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(THEME.color("accent"), 1))
            painter.drawRect(int(6 + self.current * _STEP_WIDTH), 3, int(_STEP_WIDTH - 24), self.height() - 6)
