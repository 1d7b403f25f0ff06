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
        painter = self.begin()
        state, drive = self.session.result.state, self.session.result.setup.drive
        faces = (
            (units.POWER, drive.s1.power, drive.s6.power, state.power_motor, state.power_s1),
            (units.TORQUE, drive.s1.torque, drive.s6.torque, state.torque, state.torque_s1),
        )
        low = max(drive.rpm_min, drive.rpm_max / 200, 1.0)
        speeds = np.linspace(low, drive.rpm_max, _POINTS)
        tops = [1.08 * max(float(s1(speeds).max()), float(s6(speeds).max()), value) for _, s1, s6, value, _ in faces]

        def ground(on: QPainter) -> None:
            for area, top, (quantity, s1, s6, _, _) in zip(self._areas(), tops, faces, strict=True):
                self._paint_curves(on, area, quantity, speeds, (s1(speeds), s6(speeds)), top)
            self._paint_speeds(on, self._areas()[1], drive.rpm_max)

        machine = self.session.result.setup.parts.machine
        key = (machine.id, id(machine.curve), self.session.system, *(round(top, 6) for top in tops))
        painter.drawImage(QPointF(0, 0), self.still(key, ground))
        for area, top, (quantity, _, _, value, limit) in zip(self._areas(), tops, faces, strict=True):
            self._paint_point(painter, area, quantity, (state.n / drive.rpm_max, value, limit), top)

    def _areas(self) -> tuple[QRectF, QRectF]:
        half = (self.height() - 34) / 2
        return tuple(QRectF(46, 16 + shift, self.width() - 72, half - 18) for shift in (0.0, half))  # type: ignore[return-value]

    def _paint_curves(
        self, painter: QPainter, area: QRectF, quantity: units.Quantity, speeds: Array, curves: tuple[Array, Array],
        top: float,
    ) -> None:  # fmt: skip
        system = self.session.system
        across = (area.left() + area.width() * speeds / speeds[-1]).tolist()

        def line(values: Array) -> list[QPointF]:
            up = (area.bottom() - area.height() * values / top).tolist()
            return [QPointF(x, y) for x, y in zip(across, up, strict=True)]

        s1 = line(curves[0])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("accent_soft"))
        painter.drawPolygon(QPolygonF([QPointF(across[0], area.bottom()), *s1, area.bottomRight()]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("faint"), 1.2, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF(line(curves[1])))
        painter.setPen(QPen(THEME.color("ink"), 1.6))
        painter.drawPolyline(QPolygonF(s1))
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.drawLine(area.topLeft(), area.bottomLeft())
        painter.setFont(self.face(10.5))
        painter.setPen(THEME.color("faint"))
        for height in (0.0, _round_below(quantity.shown(top, system) / 1.05)):
            y = area.bottom() - area.height() * height * (1 if system == "metric" else quantity.per_inch) / top
            painter.drawText(QRectF(0, y - 8, 42, 16), Qt.AlignmentFlag.AlignRight, f"{height:g}")
        painter.drawText(QPointF(0, area.top() - 5), quantity.unit(system))

    def _paint_point(
        self, painter: QPainter, area: QRectF, quantity: units.Quantity, point: tuple[float, float, float], top: float
    ) -> None:
        share, value, limit = point
        system = self.session.system

        def at(height: float) -> QPointF:
            return QPointF(area.left() + area.width() * share, area.bottom() - area.height() * height / top)

        over = value > limit * (1 + 1e-9)
        role = "alarm" if over else "accent"
        painter.setPen(QPen(THEME.color(role), 1, Qt.PenStyle.DotLine))
        painter.drawLine(at(0), at(limit))
        painter.setPen(QPen(THEME.color("panel"), 2))
        painter.setBrush(THEME.color(role))
        painter.drawEllipse(at(value), 5.5, 5.5)
        painter.setFont(self.face(10.5))
        margin = f"{quantity.full(value, system)} of {quantity.full(limit, system)} S1, {value / limit:.0%}"
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
