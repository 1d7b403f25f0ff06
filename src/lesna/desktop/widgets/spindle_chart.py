"""What the spindle gives over its speed, and where this cut stands."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas
from lesna.model import units
from lesna.physics import Array

_POINTS = 160


class SpindleChart(Canvas):
    """Power and torque over speed, continuous (S1) and at 40 % duty (S6), with the operating point."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Spindle power and torque over speed", parent)
        self.session = session
        self.setMinimumSize(230, 180)
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(380, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        state, drive = self.session.result.state, self.session.result.setup.drive
        low = max(drive.rpm_min, drive.rpm_max / 200, 1.0)
        speeds = np.linspace(low, drive.rpm_max, _POINTS)
        half = (self.height() - 34) / 2
        upper = QRectF(46, 16, self.width() - 72, half - 18)
        lower = QRectF(46, 16 + half, self.width() - 72, half - 18)
        self._paint_face(painter, upper, units.POWER, (drive.s1.power(speeds), drive.s6.power(speeds)),
                         (state.n, state.power_motor, state.power_s1), drive.rpm_max)  # fmt: skip
        self._paint_face(painter, lower, units.TORQUE, (drive.s1.torque(speeds), drive.s6.torque(speeds)),
                         (state.n, state.torque, state.torque_s1), drive.rpm_max)  # fmt: skip
        self._paint_speeds(painter, lower, drive.rpm_max)

    def _paint_face(
        self, painter: QPainter, area: QRectF, quantity: units.Quantity, curves: tuple[Array, Array],
        point: tuple[float, float, float], rpm_max: float,
    ) -> None:  # fmt: skip
        system = self.session.system
        n, value, limit = point
        top = 1.08 * max(float(curves[1].max()), float(curves[0].max()), value)

        def at(speed: float, height: float) -> QPointF:
            return QPointF(area.left() + area.width() * speed / rpm_max, area.bottom() - area.height() * height / top)

        low = max(self.session.result.setup.drive.rpm_min, rpm_max / 200, 1.0)
        speeds = np.linspace(low, rpm_max, _POINTS)
        line = [at(float(s), float(v)) for s, v in zip(speeds, curves[0], strict=True)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("accent_soft"))
        painter.drawPolygon(QPolygonF([at(low, 0), *line, at(rpm_max, 0)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("faint"), 1.2, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF([at(float(s), float(v)) for s, v in zip(speeds, curves[1], strict=True)]))
        painter.setPen(QPen(THEME.color("ink"), 1.6))
        painter.drawPolyline(QPolygonF(line))
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.drawLine(area.topLeft(), area.bottomLeft())
        over = value > limit * (1 + 1e-9)
        role = "alarm" if over else "accent"
        painter.setPen(QPen(THEME.color(role), 1, Qt.PenStyle.DotLine))
        painter.drawLine(at(n, 0), at(n, limit))
        painter.setPen(QPen(THEME.color("panel"), 2))
        painter.setBrush(THEME.color(role))
        painter.drawEllipse(at(n, value), 5.5, 5.5)
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        for height in (0.0, _round_below(quantity.shown(top, system) / 1.05)):
            y = at(0, height * (1 if system == "metric" else quantity.per_inch)).y()
            painter.drawText(QRectF(0, y - 8, 42, 16), Qt.AlignmentFlag.AlignRight, f"{height:g}")
        margin = f"{quantity.full(value, system)} of {quantity.full(limit, system)} S1, {value / limit:.0%}"
        painter.drawText(QPointF(0, area.top() - 5), quantity.unit(system))
        painter.setPen(THEME.color("alarm" if over else "ink"))
        painter.drawText(QRectF(area.left(), area.top() - 17, area.width(), 15), Qt.AlignmentFlag.AlignRight, margin)

    def _paint_speeds(self, painter: QPainter, area: QRectF, rpm_max: float) -> None:
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        step = _round_below(rpm_max / 3.4)
        for number in range(int(rpm_max / step) + 1):
            x = area.left() + area.width() * number * step / rpm_max
            text = units.SPINDLE_SPEED.text(number * step, "metric")
            painter.drawText(QRectF(x - 30, area.bottom() + 2, 60, 14), Qt.AlignmentFlag.AlignHCenter, text)
        painter.drawText(QRectF(area.left(), area.bottom() + 15, area.width(), 15), Qt.AlignmentFlag.AlignHCenter,
                         "rpm      solid S1, dashed S6 40 %")  # fmt: skip


def _round_below(value: float) -> float:
    """The largest of 1, 2, 5 times a power of ten that is not above a value."""
    size = 10 ** math.floor(math.log10(value))
    return next(step * size for step in (5, 2, 1) if step * size <= value * (1 + 1e-9))
