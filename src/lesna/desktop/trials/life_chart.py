"""Edge life over surface speed: what the tables say, and what trials made of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.trials.taught_chart import TaughtChart
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, round_ticks
from lesna.desktop.widgets.painting import hatch
from lesna.learning.fit import Band, LifePoint
from lesna.model import units

_MARKS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 50000)


class LifeChart(TaughtChart):
    """Both bands hold nine of ten next edges; the tables' is hatched, the trials' is filled."""

    def __init__(self, session: Session, answers: TrialAnswers) -> None:
        super().__init__("Edge life over surface speed", session, answers)

    def paint(self, painter: QPainter, taught: Taught) -> None:
        life = taught.fit.life
        lives = [value for point in life for band in (point.band, point.prior) for value in (band.low, band.high)]
        axes = Axes(
            QRectF(46, 34, self.width() - 60, self.height() - 70), Scale(life[0].vc, life[-1].vc),
            Scale(min(lives) * 0.9, max(lives) * 1.1, is_log=True),
        )  # fmt: skip
        self._paint_band(painter, axes, life, lambda point: point.prior, is_prior=True)
        self._paint_band(painter, axes, life, lambda point: point.band, is_prior=False)
        self._paint_axes(painter, axes)
        self._paint_key(painter, taught)

    def _paint_band(
        self,
        painter: QPainter,
        axes: Axes,
        life: Sequence[LifePoint],
        of: Callable[[LifePoint], Band],
        *,
        is_prior: bool,
    ) -> None:
        upper = [axes.at(point.vc, of(point).high) for point in life]
        lower = [axes.at(point.vc, of(point).low) for point in life]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(hatch(THEME.color("stock")) if is_prior else THEME.color("accent_soft"))
        painter.setOpacity(1.0 if is_prior else 0.85)
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
        painter.setOpacity(1.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        line = QPen(THEME.color("faint" if is_prior else "accent"), 1.3)
        line.setStyle(Qt.PenStyle.DashLine if is_prior else Qt.PenStyle.SolidLine)
        painter.setPen(line)
        painter.drawPolyline(axes.polygon(np.array([(point.vc, of(point).median) for point in life])))

    def _paint_axes(self, painter: QPainter, axes: Axes) -> None:
        system = self.session.system
        self.frame(painter, axes.plot)
        self.ticks_across(
            painter, axes, round_ticks((axes.across.low, axes.across.high), units.SURFACE_SPEED, system, 5)
        )
        self.ticks_up(
            painter, axes, [(m, f"{m:,}".replace(",", "\xa0")) for m in _MARKS if axes.up.low <= m <= axes.up.high]
        )
        self.title_across(painter, axes.plot, f"surface speed, {units.SURFACE_SPEED.unit(system)}")
        self.title_above(painter, axes.plot, "edge life, min")
        at = axes.x(float(self.session.result.state.vc))
        if axes.plot.left() <= at <= axes.plot.right():
            painter.setPen(QPen(THEME.color("ink"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(at, axes.plot.top()), QPointF(at, axes.plot.bottom()))

    def _paint_key(self, painter: QPainter, taught: Taught) -> None:
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("accent"))
        known = "with trials" if taught.fit.edges + taught.fit.others else "no trial yet"
        painter.drawText(
            QRectF(0, 2, self.width() - 12, 14), Qt.AlignmentFlag.AlignRight, f"filled: {known};  hatched: tables alone"
        )
