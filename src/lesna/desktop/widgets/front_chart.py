"""Removal against edge life: the points that hold every limit, what none of them beats, and each school's best."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QPen, QPolygonF, QShowEvent

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, Chart, round_ticks
from lesna.desktop.widgets.painting import text_width
from lesna.model import units
from lesna.planning.schools.lanes import Comparison

#: minutes at which the scale of life is marked
_MARKS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000)

#: a name this far above or below its point is tied to it by a line
_FAR = 22.0


def _rooms(wide: float) -> list[tuple[float, float]]:
    """Where a name may stand beside its point, the nearest first."""
    near = [(7.0, -7.0), (-7 - wide, -7.0), (-wide / 2, -20.0), (-wide / 2, 7.0), (7.0, 4.0), (-7 - wide, 4.0)]
    return near + [(dx, dy) for dy in (-19.0, 17.0, -33.0, 30.0, -46.0) for dx in (7.0, -wide / 2, -7 - wide)]


#: room left and right of a name
_BESIDE = 3.0


class FrontChart(Chart):
    """Follows the comparison; life on a logarithmic scale, because a little speed costs much of it."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__("Removal against edge life")
        self.session, self.answer = session, answers.comparison
        self.setMinimumSize(180, 150)
        self.answer.changed.connect(self.update)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.answer.watch(self, True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.answer.watch(self, False)

    def sizeHint(self) -> QSize:
        return QSize(240, 260)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        comparison: Comparison | None = self.answer.value
        lanes = [] if comparison is None else [lane for lane in comparison.lanes if lane.is_there]
        if comparison is None or not lanes or not all(math.isfinite(lane.life) for lane in lanes):
            self.say(painter, "" if comparison is None else "No edge life is known for this tool in this material.")
            return
        points = [*map(tuple, comparison.cloud.tolist()), *((lane.q, lane.life) for lane in lanes)]
        lives = [life for _, life in points]
        self._axes = Axes(
            QRectF(34, 20, self.width() - 44, self.height() - 56),
            Scale(0.0, max(q for q, _ in points) * 1.06), Scale(min(lives) * 0.85, max(lives) * 1.25, is_log=True),
        )  # fmt: skip
        self._paint_axes(painter)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("stock"))
        for q, life in comparison.cloud.tolist():
            painter.drawEllipse(self._axes.at(q, life), 1.3, 1.3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(THEME.color("ink"), 1.2))
        painter.drawPolyline(QPolygonF([self._axes.at(q, life) for q, life in comparison.front.tolist()]))
        self._paint_schools(painter, comparison)

    def _paint_axes(self, painter: QPainter) -> None:
        axes, system = self._axes, self.session.system
        self.frame(painter, axes.plot)
        self.ticks_up(painter, axes, [(m, f"{m}") for m in _MARKS if axes.up.low <= m <= axes.up.high])
        self.ticks_across(painter, axes, round_ticks((0.0, axes.across.high), units.REMOVAL, system, 3))
        self.title_above(painter, axes.plot, "edge life, min")
        self.title_across(painter, axes.plot, f"removal, {units.REMOVAL.unit(system)}")

    def _paint_schools(self, painter: QPainter, comparison: Comparison) -> None:
        face = self.face(SMALL)
        painter.setFont(face)
        lanes = [lane for lane in comparison.lanes if lane.is_there]
        places = [self._axes.at(lane.q, lane.life) for lane in lanes]
        taken = [QRectF(place.x() - 5, place.y() - 5, 10, 10) for place in places]
        # from the last to the first, so that the winner lies on top
        for lane, place in reversed(list(zip(lanes, places, strict=True))):
            best = lane is comparison.winner
            painter.setPen(QPen(THEME.color("accent" if best else "ink"), 1.4))
            painter.setBrush(THEME.color("accent" if best else "panel"))
            painter.drawEllipse(place, 4.5, 4.5)
        for lane, place in zip(lanes, places, strict=True):
            row = self._free(place, text_width(face, lane.strategy.short), taken)
            if row is not None:
                taken.append(row)
                painter.setPen(THEME.color("ink"))
                painter.drawText(row, Qt.AlignmentFlag.AlignCenter, lane.strategy.short)
                if abs(row.center().y() - place.y()) > _FAR:
                    painter.setPen(QPen(THEME.color("faint"), 0.8))
                    edge = row.bottom() if row.center().y() < place.y() else row.top()
                    painter.drawLine(QPointF(min(max(place.x(), row.left()), row.right()), edge), place)

    def _free(self, place: QPointF, wide: float, taken: list[QRectF]) -> QRectF | None:
        """Room for a name beside its point that covers no other; None where there is none."""
        inside = QRectF(self._axes.plot.left() + 1, 14, self.width() - self._axes.plot.left() - 2, self.height() - 44)
        for dx, dy in _rooms(wide):
            row = QRectF(place.x() + dx - _BESIDE, place.y() + dy, wide + 2 * _BESIDE, 13)
            if inside.contains(row) and not any(row.intersects(other) for other in taken):
                return row
        return None
