"""What the spindle gives over its speed, and where this cut stands."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale, round_below, round_step
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.model import units
from lesna.physics import Array
from lesna.planning.cut.limits import spindle_demand

_POINTS = 160
#: width that a tick of the speed needs [px]
_TICK_ROOM = 80.0


class SpindleChart(Chart):
    """Power and torque over speed, continuous (S1) and at 40 % duty (S6), with the operating point."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Spindle power and torque over speed", parent)
        self.session = session
        self.setMinimumSize(230, 180)
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(380, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        result = self.session.result
        state, drive = result.state, result.setup.drive
        faces = (
            (units.POWER, drive.s1.power, drive.s6.power, float(spindle_demand(result.setup, state)), state.power_s1),
            (units.TORQUE, drive.s1.torque, drive.s6.torque, state.torque, state.torque_s1),
        )
        low = max(drive.rpm_min, drive.rpm_max / 200, 1.0)
        speeds = np.linspace(low, drive.rpm_max, _POINTS)
        tops = [1.08 * max(float(s1(speeds).max()), float(s6(speeds).max()), value) for _, s1, s6, value, _ in faces]

        both = [
            Axes(area, Scale(0.0, drive.rpm_max), Scale(0.0, top))
            for area, top in zip(self._areas(), tops, strict=True)
        ]

        def ground(on: QPainter) -> None:
            for axes, (quantity, s1, s6, _, _) in zip(both, faces, strict=True):
                self._paint_curves(on, axes, quantity, speeds, (s1(speeds), s6(speeds)))
            self._paint_speeds(on, both[1])

        machine = self.session.result.setup.parts.machine
        key = (machine.id, id(machine.curve), self.session.system, *(round(top, 6) for top in tops))
        painter.drawImage(QPointF(0, 0), self.still(key, ground))
        for axes, (quantity, _, _, value, limit) in zip(both, faces, strict=True):
            self._paint_point(painter, axes, quantity, (state.n, value, limit))

    def _areas(self) -> tuple[QRectF, QRectF]:
        half = (self.height() - 34) / 2
        return tuple(QRectF(46, 16 + shift, self.width() - 72, half - 18) for shift in (0.0, half))  # type: ignore[return-value]

    def _paint_curves(
        self, painter: QPainter, axes: Axes, quantity: units.Quantity, speeds: Array, curves: tuple[Array, Array]
    ) -> None:
        system, area, top = self.session.system, axes.plot, axes.up.high

        def line(values: Array) -> QPolygonF:
            return axes.polygon(np.column_stack((speeds, values)))

        s1 = line(curves[0])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("accent_soft"))
        painter.drawPolygon(
            QPolygonF([QPointF(axes.x(float(speeds[0])), area.bottom()), *s1.toList(), area.bottomRight()])
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("faint"), 1.2, Qt.PenStyle.DashLine))
        painter.drawPolyline(line(curves[1]))
        painter.setPen(QPen(THEME.color("ink"), 1.6))
        painter.drawPolyline(s1)
        self.frame(painter, area)
        one = quantity.shown(1.0, system)
        heights = (0.0, round_below(one * top / 1.05))
        self.ticks_up(painter, axes, [(height / one, f"{height:g}") for height in heights])
        self.title_above(painter, area, quantity.unit(system))

    def _paint_point(
        self, painter: QPainter, axes: Axes, quantity: units.Quantity, point: tuple[float, float, float]
    ) -> None:
        n, value, limit = point
        system, area = self.session.system, axes.plot

        over = value > limit * (1 + 1e-9)
        role = "alarm" if over else "accent"
        painter.setPen(QPen(THEME.color(role), 1, Qt.PenStyle.DotLine))
        painter.drawLine(axes.at(n, 0.0), axes.at(n, limit))
        painter.setPen(QPen(THEME.color("panel"), 2))
        painter.setBrush(THEME.color(role))
        painter.drawEllipse(axes.at(n, value), 5.5, 5.5)
        painter.setFont(self.face(SMALL))
        margin = f"{quantity.full(value, system)} of {quantity.full(limit, system)} S1, {value / limit:.0%}"
        painter.setPen(THEME.color("alarm" if over else "ink"))
        painter.drawText(QRectF(area.left(), area.top() - 17, area.width(), 15), Qt.AlignmentFlag.AlignRight, margin)

    def _paint_speeds(self, painter: QPainter, axes: Axes) -> None:
        # numbers of five figures need this room each, so that none touches the next
        step = round_step(axes.across.high, max(axes.plot.width() / _TICK_ROOM, 1.0))
        speeds = [number * step for number in range(int(axes.across.high / step) + 1)]
        self.ticks_across(painter, axes, [(n, units.SPINDLE_SPEED.text(n, "metric")) for n in speeds])
        self.title_across(painter, axes.plot, "rpm      solid S1, dashed S6 40 %")
