"""Time and cost of a part over the surface speed: both least points, and where this cut stands."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.desktop.widgets.painting import text_width
from lesna.model import units
from lesna.physics import Array
from lesna.planning.cut.economy import Economy, Timing, over_speed

_POINTS = 120
#: the chart ends where a part takes this many times the least, and begins a little below it
_TOP, _FOOT = 2.2, 0.95


class CostChart(Chart):
    """Each curve as a multiple of its own least value, so that both share one scale."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Time and cost of a part over the surface speed", parent)
        self.session = session
        self.setMinimumSize(150, 120)
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(220, 180)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        result = self.session.result
        if result.economy is None or result.timing is None or result.economy.vc_quickest is None:
            self.say(
                painter,
                "Give the sizes of the feature (Setup), a price and a change time to see time and cost over the speed.",
            )
            return
        self._paint_chart(painter, result.economy, result.timing)

    def _paint_chart(self, painter: QPainter, economy: Economy, timing: Timing) -> None:
        state = self.session.result.state
        optima = [vc for vc in (economy.vc_cheapest, economy.vc_quickest, state.vc) if vc is not None]
        vc = np.linspace(0.55 * min(optima), 1.3 * max(optima), _POINTS)
        curve = over_speed(economy, timing, vc)
        area = QRectF(6, 16, self.width() - 14, self.height() - 52)
        axes = Axes(area, Scale(float(vc[0]), float(vc[-1])), Scale(_FOOT, _TOP))
        self.frame(painter, area, foot_only=True)
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(area, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight, "× the least")
        taken: list[QRectF] = []
        self._paint_curve(painter, axes, vc, curve.time, "ink", Qt.PenStyle.DashLine)
        self._paint_least(painter, axes, economy.vc_quickest, "quickest", "ink", taken)
        if curve.cost is not None:
            self._paint_curve(painter, axes, vc, curve.cost, "accent", Qt.PenStyle.SolidLine)
            self._paint_least(painter, axes, economy.vc_cheapest, "cheapest", "accent", taken)
        self._paint_now(painter, axes, state.vc)

    def _paint_curve(
        self, painter: QPainter, axes: Axes, vc: Array, values: Array, role: str, style: Qt.PenStyle
    ) -> None:
        multiples = values / values.min()
        shown = multiples <= _TOP
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color(role), 1.6, style))
        painter.drawPolyline(axes.polygon(np.column_stack((vc[shown], multiples[shown]))))

    def _paint_least(
        self, painter: QPainter, axes: Axes, best: float | None, word: str, role: str, taken: list[QRectF]
    ) -> None:
        if best is None:
            return
        place = axes.at(best, 1.0)
        painter.setPen(QPen(THEME.color("panel"), 1.5))
        painter.setBrush(THEME.color(role))
        painter.drawEllipse(place, 4.5, 4.5)
        face = self.face(SMALL)
        text = f"{word} {units.SURFACE_SPEED.full(best, self.session.system)}"
        width = text_width(face, text)
        left = min(max(place.x() - width / 2, 0.0), self.width() - width)
        row = QRectF(left, axes.plot.bottom() + 4, width, 14)
        if any(row.intersects(other) for other in taken):
            row.moveTop(row.top() + 15)
        taken.append(row)
        painter.setFont(face)
        painter.setPen(THEME.color(role))
        painter.drawText(row, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_now(self, painter: QPainter, axes: Axes, speed: float) -> None:
        top, bottom = axes.at(speed, _TOP), axes.at(speed, _FOOT)
        painter.setPen(QPen(THEME.color("ink"), 1.2, Qt.PenStyle.DotLine))
        painter.drawLine(top, bottom)
        painter.setFont(self.face(SMALL))
        text = f"now {units.SURFACE_SPEED.full(speed, self.session.system)}"
        width = text_width(self.face(SMALL), text)
        painter.setPen(THEME.color("ink"))
        left = min(max(top.x() - width / 2, 0.0), self.width() - width)
        painter.drawText(QRectF(left, 0, width, 14), Qt.AlignmentFlag.AlignCenter, text)
