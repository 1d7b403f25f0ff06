"""What leaning the tool away from the walls buys: the shortest stick-out and the bending of the tip over the lean."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, Chart, round_ticks
from lesna.model import units
from lesna.planning.surface.holders import Lean

#: room over the longest stick-out [-]
_ROOM = 1.15


class LeanChart(Chart):
    """Two curves over the lean in degrees."""

    def __init__(self, session: Session) -> None:
        super().__init__("Stick-out and bending over the lean")
        self.session = session
        self.leans: Sequence[Lean] = ()
        self.setMinimumHeight(132)

    def show_leans(self, leans: Sequence[Lean]) -> None:
        """Other leans."""
        self.leans = leans
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if len(self.leans) < 2:
            self.say(painter, "Make the path: what leaning the tool buys")
            return
        system = self.session.system
        plot = QRectF(46, 34, max(self.width() - 96, 20), max(self.height() - 70, 20))
        longest = max(lean.length for lean in self.leans) * _ROOM
        most = max(lean.tilt for lean in self.leans)
        lengths = Axes(plot, Scale(0.0, most), Scale(0.0, longest))
        bends = Axes(plot, Scale(0.0, most), Scale(0.0, max(lean.bends for lean in self.leans) * _ROOM))
        self.frame(painter, plot)
        self.ticks_across(painter, lengths, [(lean.tilt, f"{lean.tilt:g}°") for lean in self.leans])
        self.ticks_up(painter, lengths, round_ticks((0.0, longest), units.DIMENSION, system, 3))
        self.title_across(painter, plot, "lean of the axis, away from the walls")
        tilts = np.array([lean.tilt for lean in self.leans])
        self._curve(painter, lengths, np.column_stack((tilts, [lean.length for lean in self.leans])), "accent")
        self._curve(painter, bends, np.column_stack((tilts, [lean.bends for lean in self.leans])), "amber")
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("accent"))
        painter.drawText(QPointF(plot.left(), 13), f"shortest stick-out, {units.DIMENSION.unit(system)}")
        painter.setPen(THEME.color("amber"))
        best = min(self.leans, key=lambda lean: lean.bends)
        painter.drawText(
            QPointF(plot.left(), 27),
            f"bending of the tip: least at {best.tilt:g}°, {100 * best.bends:.0f} % of upright",
        )

    @staticmethod
    def _curve(painter: QPainter, axes: Axes, points: np.ndarray, role: str) -> None:
        painter.setPen(QPen(THEME.color(role), 1.8))
        painter.drawPolyline(axes.polygon(points))
