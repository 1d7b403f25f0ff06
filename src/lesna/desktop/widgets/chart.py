"""Base of the charts: frame, ticks and titles in one hand, a sentence where nothing can be drawn, a closer look."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, View, round_values
from lesna.desktop.widgets.painting import Canvas, text_width
from lesna.model import units

#: places along an axis and what stands there
Ticks = Sequence[tuple[float, str]]

#: type of ticks and titles, and of a sentence in place of a chart [px]
SMALL, SENTENCE = 10.5, 11.5
#: length of a tick, and the height of a line of type [px]
_TICK, _LINE = 4.0, 15.0
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_CENTRE = Qt.AlignmentFlag.AlignCenter


def round_ticks(ends: tuple[float, float], quantity: units.Quantity, system: units.System, about: float) -> Ticks:
    """Places between two ends where the numbers that are shown are round, and those numbers."""
    one = quantity.shown(1.0, system)
    return [
        (value / one, f"{value:,g}".replace(",", "\xa0")) for value in round_values(ends[0] * one, ends[1] * one, about)
    ]


class Chart(Canvas):
    """Curves over two axes."""

    def say(self, painter: QPainter, words: str, place: QRectF | None = None) -> None:
        """A sentence in place of what cannot be drawn, or not yet."""
        painter.setFont(self.face(SENTENCE))
        painter.setPen(THEME.color("faint"))
        room = QRectF(self.rect()) if place is None else place
        painter.drawText(room, _CENTRE | Qt.TextFlag.TextWordWrap, words)

    @staticmethod
    def frame(painter: QPainter, plot: QRectF, *, foot_only: bool = False) -> None:
        """The lower axis, and the upright one where it is read."""
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        if not foot_only:
            painter.drawLine(plot.topLeft(), plot.bottomLeft())

    @staticmethod
    def box(painter: QPainter, plot: QRectF) -> None:
        """A frame all round what fills the plot."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("ink"), 1))
        painter.drawRect(plot)

    def ticks_across(self, painter: QPainter, axes: Axes, ticks: Ticks) -> list[QRectF]:
        """Numbers under the lower axis, kept on the widget; gives their places."""
        self._small(painter)
        foot, places = axes.plot.bottom(), []
        for value, text in ticks:
            x, width = axes.x(value), text_width(painter.font(), text) + 2
            painter.drawLine(QPointF(x, foot), QPointF(x, foot + _TICK))
            place = QRectF(min(max(x - width / 2, 0.0), self.width() - width), foot + _TICK, width, _LINE)
            painter.drawText(place, _CENTRE, text)
            places.append(place)
        return places

    def ticks_up(self, painter: QPainter, axes: Axes, ticks: Ticks) -> list[QRectF]:
        """Numbers beside the upright axis; gives their places."""
        self._small(painter)
        side, places = axes.plot.left(), []
        for value, text in ticks:
            y = axes.y(value)
            painter.drawLine(QPointF(side - _TICK, y), QPointF(side, y))
            place = QRectF(side - 46, y - 8, 46 - _TICK - 3, 16)
            painter.drawText(place, _RIGHT, text)
            places.append(place)
        return places

    def title_across(self, painter: QPainter, plot: QRectF, text: str) -> None:
        """What the lower axis is, under its numbers."""
        self._small(painter)
        painter.drawText(QRectF(plot.left(), plot.bottom() + _TICK + _LINE, plot.width(), _LINE), _CENTRE, text)

    def title_up(self, painter: QPainter, plot: QRectF, text: str) -> None:
        """What the upright axis is, along it."""
        self._small(painter)
        painter.save()
        painter.translate(9, plot.center().y())
        painter.rotate(-90)
        painter.drawText(QRectF(-120, -8, 240, 16), _CENTRE, text)
        painter.restore()

    def title_above(self, painter: QPainter, plot: QRectF, text: str) -> None:
        """What the upright axis is, over it, where there is no room beside its numbers."""
        self._small(painter)
        painter.drawText(QPointF(4, plot.top() - 6), text)

    def _small(self, painter: QPainter) -> None:
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("faint"))


class CloseChart(Chart):
    """A chart that is looked at closely: the wheel zooms where the pointer is, a drag moves, a double click shows the whole."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent)
        self.view = View()
        self._held: QPointF | None = None
        self.setToolTip("The wheel looks closer, a drag moves, a double click shows the whole")

    def looked_at(self) -> Axes | None:
        """The axes as they are shown; None while there is nothing to look at."""
        return None

    def wheelEvent(self, event: QWheelEvent) -> None:
        if (axes := self.looked_at()) is not None:
            self.view.zoom_at(*axes.shares_at(event.position()), 1.25 ** (event.angleDelta().y() / 120))
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        axes = self.looked_at()
        if axes is not None and self._held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            moved = event.position() - self._held
            self.view.move(moved.x() / axes.plot.width(), -moved.y() / axes.plot.height())
            self._held = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.view.reset()
        self.update()
