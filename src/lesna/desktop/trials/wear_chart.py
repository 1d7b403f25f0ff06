"""Wear over the minutes in the cut: the predicted band, and every edge that was looked at."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.trials.taught_chart import TaughtChart
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, round_ticks
from lesna.learning.edges import CRITERION, land_share
from lesna.learning.fit import Band
from lesna.model import units
from lesna.model.trials import Reading

#: running-in that is drawn, and how far the axes go beyond what is drawn
_RUN_IN, _BEYOND = 0.25, 1.08
_POINTS = 80
#: largest land that is drawn [mm], and how tall the axis is at least
_TALLEST, _LEAST = 0.6, 0.36


class WearChart(TaughtChart):
    """A cross for a land that was read, a ring for an edge that is still good, an arrow where the land was not read."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__("Wear over minutes in the cut", session, answers)

    def paint(self, painter: QPainter, taught: Taught) -> None:
        fit = taught.fit
        readings = [one.reading for one in fit.own]
        minutes = max([fit.at_cut.median * 1.3, *(one.minutes for one in readings)]) * _BEYOND
        lands = [min(one.vb_mm, _TALLEST) for one in readings if one.vb_mm is not None]
        axes = Axes(
            QRectF(44, 20, self.width() - 58, self.height() - 56),
            Scale(0.0, minutes),
            Scale(0.0, max([_LEAST, *lands]) * _BEYOND),
        )
        self._paint_band(painter, axes, fit.at_cut)
        self._paint_axes(painter, axes)
        for edge in sorted({(one.trial, one.edge) for one in readings}):
            self._paint_edge(painter, axes, [one for one in readings if (one.trial, one.edge) == edge])

    def _paint_band(self, painter: QPainter, axes: Axes, band: Band) -> None:
        at = np.linspace(0.0, axes.across.high, _POINTS)

        def land(life: float) -> np.ndarray:
            return np.minimum(CRITERION * land_share(at / life, np.array(_RUN_IN)), axes.up.high)

        upper, lower = (axes.polygon(np.column_stack((at, land(life)))) for life in (band.low, band.high))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("accent_soft"))
        painter.drawPolygon(QPolygonF([*upper.toList(), *reversed(lower.toList())]))
        painter.setPen(QPen(THEME.color("accent"), 1.4))
        painter.drawPolyline(axes.polygon(np.column_stack((at, land(band.median)))))

    def _paint_axes(self, painter: QPainter, axes: Axes) -> None:
        system = self.session.system
        self.frame(painter, axes.plot)
        self.ticks_across(painter, axes, round_ticks((0.0, axes.across.high), units.MINUTES, system, 5))
        self.ticks_up(painter, axes, round_ticks((0.0, axes.up.high), units.CHIP, system, 4))
        self.title_across(painter, axes.plot, "minutes in the cut")
        self.title_above(painter, axes.plot, f"flank wear VB, {units.CHIP.unit(system)}")
        painter.setPen(QPen(THEME.color("alarm"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(axes.at(0.0, CRITERION), axes.at(axes.across.high, CRITERION))
        # over the plot, where no edge can lie under it
        painter.setPen(THEME.color("alarm"))
        painter.setFont(self.face(SMALL))
        place = QRectF(axes.plot.left(), axes.plot.top() - 19, axes.plot.width(), 15)
        painter.drawText(place, Qt.AlignmentFlag.AlignRight, f"worn at {units.CHIP.full(CRITERION, system)}")

    def _paint_edge(self, painter: QPainter, axes: Axes, looks: list[Reading]) -> None:
        looks = sorted(looks, key=lambda one: one.minutes)
        places = [axes.at(one.minutes, min(one.vb_mm or 0.0, axes.up.high)) for one in looks]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("stock"), 1))
        painter.drawPolyline(QPolygonF([axes.at(0.0, 0.0), *places]))
        for one, place in zip(looks, places, strict=True):
            self._paint_look(painter, one, place)
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QPointF(min(places[-1].x() + 6, self.width() - 24), places[-1].y() + 4), looks[-1].edge)

    def _paint_look(self, painter: QPainter, one: Reading, place: QPointF) -> None:
        ended = one.is_broken or one.retired == "worn"
        painter.setPen(QPen(THEME.color("alarm" if ended else "ink"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if one.vb_mm is None:
            # the land was not read: it lies somewhere above
            painter.drawLine(place, place + QPointF(0, -14))
            painter.drawPolyline(
                QPolygonF([place + QPointF(-3, -10), place + QPointF(0, -14), place + QPointF(3, -10)])
            )
        elif one.retired == "good":
            painter.drawEllipse(place, 4.0, 4.0)
        else:
            painter.drawLine(place + QPointF(-3.5, -3.5), place + QPointF(3.5, 3.5))
            painter.drawLine(place + QPointF(-3.5, 3.5), place + QPointF(3.5, -3.5))
