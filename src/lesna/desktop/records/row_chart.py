"""Draws the chart of a row of the library, also while it is typed."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.theme import THEME
from lesna.desktop.widgets import chart
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.model import units
from lesna.planning.telling.row_charts import Chart, Line

#: each line has a stroke of its own, so that it is told without colour
_STROKES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine)
_STROKE_NAMES = ("solid", "dashed", "dotted")
#: curves of few points are typed ones, whose points are worth seeing
_FEW = 24


class RowChart(chart.Chart):
    """The curves of one row."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Curve of the row", parent)
        self.chart: Chart | None = None
        self._system: units.System = "metric"
        self.setMinimumSize(200, 160)

    def sizeHint(self) -> QSize:
        return QSize(270, 220)

    def show_chart(self, chart: Chart | None, system: units.System) -> None:
        """Draws a chart; None while what is typed makes no row."""
        self.chart, self._system = chart, system
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        drawn = self.chart
        if drawn is None or not drawn.lines:
            self.say(painter, "nothing to draw as it stands" if drawn is None else drawn.instead)
            return
        across = [x for line in drawn.lines for x, _ in line.points]
        top = max(max(y for line in drawn.lines for _, y in line.points), 1e-6)
        first = 0.0 if not drawn.marks else min(across)
        axes = Axes(QRectF(52, 36, self.width() - 66, self.height() - 74), Scale(first, max(*across, first + 1e-6)),
                    Scale(0.0, 1.08 * top))  # fmt: skip
        self._paint_axes(painter, axes, drawn)
        for name, place in drawn.marks:
            painter.setPen(QPen(THEME.color("accent"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(axes.at(place, 0.0), axes.at(place, axes.up.high))
            painter.setPen(THEME.color("accent"))
            painter.drawText(
                QRectF(axes.x(place) - 24, axes.plot.top() - 15, 48, 14), Qt.AlignmentFlag.AlignCenter, name
            )
        for number, line in enumerate(drawn.lines):
            self._paint_line(painter, axes, line, number)

    def _paint_line(self, painter: QPainter, axes: Axes, line: Line, number: int) -> None:
        painter.setPen(QPen(THEME.color("ink" if number == 0 else "faint"), 1.6, _STROKES[number % len(_STROKES)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([axes.at(*point) for point in line.points]))
        if len(line.points) <= _FEW:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(THEME.color("accent"))
            for point in line.points:
                painter.drawEllipse(axes.at(*point), 2.4, 2.4)

    def _paint_axes(self, painter: QPainter, axes: Axes, drawn: Chart) -> None:
        (across, wide), (up, high) = drawn.across, drawn.up
        self.frame(painter, axes.plot)
        self.ticks_up(painter, axes, chart.round_ticks((axes.up.low, axes.up.high), high, self._system, 4))
        self.ticks_across(painter, axes, chart.round_ticks((axes.across.low, axes.across.high), wide, self._system, 3))
        self.title_across(painter, axes.plot, f"{across} {wide.unit(self._system)}")
        painter.drawText(QPointF(4, 13), f"{up} {high.unit(self._system)}")
        if len(drawn.lines) > 1:
            named = zip(drawn.lines, _STROKE_NAMES, strict=False)
            told = ", ".join(f"{stroke} {line.name}" for line, stroke in named)
            painter.drawText(QRectF(4, 17, self.width() - 8, 15), Qt.AlignmentFlag.AlignRight, told)
