"""Side force and torque over one turn: the ripple, the mean, and how many teeth are in the cut."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.desktop.widgets.painting import text_width
from lesna.model import units

#: every so many angles of the turn are drawn
_EVERY = 5


class ForceTrace(Chart):
    """Follows the chosen cut."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Side force over one turn", parent)
        self.session = session
        self.setMinimumSize(170, 120)
        session.result_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(240, 180)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        result, system = self.session.result, self.session.system
        turn = result.turn
        order = np.argsort(turn.theta % (2 * math.pi))[::_EVERY]
        theta = (turn.theta % (2 * math.pi))[order]
        area = QRectF(8, 30, self.width() - 16, self.height() - 62)
        top = float(turn.fxy.max()) * 1.06
        axes = Axes(area, Scale(0.0, 2 * math.pi), Scale(0.0, top))
        painter.drawImage(QPointF(0, 0), self.still((), lambda still: self._paint_frame(still, axes)))
        mean = axes.y(result.fxy_mean)
        painter.setPen(QPen(THEME.color("faint"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(area.left(), mean), QPointF(area.right(), mean))
        self._paint_line(painter, axes.polygon(np.column_stack((theta, turn.fxy[order]))), "accent")
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("ink"))
        head = (
            f"peak {units.FORCE.full(result.state.fxy_peak, system)}   mean {units.FORCE.full(result.fxy_mean, system)}"
        )
        painter.drawText(QRectF(0, 0, self.width(), 15), Qt.AlignmentFlag.AlignLeft, head)
        painter.setPen(THEME.color("faint"))
        words = [
            f"ripple {result.ripple:.2f}", f"{result.state.contacts:.1f} teeth in the cut",
            f"torque {units.TORQUE.full(result.state.torque_peak, system)}",
        ]  # fmt: skip
        while len(words) > 1 and text_width(self.face(SMALL), "   ".join(words)) > self.width():
            words.pop()
        painter.drawText(QRectF(0, self.height() - 15, self.width(), 15), Qt.AlignmentFlag.AlignLeft, "   ".join(words))

    def _paint_frame(self, painter: QPainter, axes: Axes) -> None:
        self.frame(painter, axes.plot, foot_only=True)
        self.ticks_across(painter, axes, [(math.radians(turned), f"{turned}°") for turned in (0, 90, 180, 270, 360)])

    @staticmethod
    def _paint_line(painter: QPainter, line: QPolygonF, role: str) -> None:
        # two strokes of one pixel beside each other are drawn ten times as fast as one thicker stroke
        painter.setPen(QPen(THEME.color(role), 1.0))
        painter.drawPolyline(line)
        painter.drawPolyline(line.translated(0.4, 0.5))
