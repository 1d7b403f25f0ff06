"""Engagement, force, power and feed over the time of a program, one under the other, with one cursor."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from lesna.desktop.programs.series import Series, strips_of
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import round_values
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.desktop.widgets.painting import text_width
from lesna.physics import Array
from lesna.planning.program.run import Run
from lesna.planning.program.told import clock

_LATER_MS = 60
#: times stand at least so far apart [px]
_APART = 56.0
#: one nearer to the cursor than this makes way for its time [px]
_HIDDEN = 40.0
#: height of a strip under whose name there is room for its greatest value [px]
_TWO_LINES = 19.0
_LEFT, _RIGHT, _FOOT, _HEAD = 98.0, 14.0, 20.0, 4.0


class StripChart(Chart):
    """The strips; the cursor is dragged, or moved by the arrow keys."""

    #: the cursor was moved to a time [s]
    moved = Signal(float)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Engagement, force, power and feed over time; drag the cursor", parent)
        self.session = session
        self.run: Run | None = None
        self.other: Run | None = None
        self.more: tuple[Run, ...] = ()
        self.time = 0.0
        self._version = 0
        self.setMinimumSize(260, 170)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(620, 230)

    def show_runs(self, run: Run | None, other: Run | None = None, more: Sequence[Run] = ()) -> None:
        """Draws a program, a levelled form of it over it, and further forms faintly behind them."""
        self.run, self.other, self.more = run, other, tuple(more)
        self._version += 1
        # behind the picture above
        self.put_off(_LATER_MS)

    def show_time(self, time: float) -> None:
        """Moves the cursor."""
        self.time = time
        self.update()

    @property
    def whole(self) -> float:
        """Time that the strips span [s]."""
        runs = [run for run in (self.run, self.other, *self.more) if run is not None]
        return max((float(run.end_time[-1]) for run in runs), default=1.0)

    def x_of(self, time: float) -> float:
        """Where a time is on the widget."""
        return _LEFT + (self.width() - _LEFT - _RIGHT) * time / self.whole

    def _times(self) -> list[float]:
        """Times that stand under the strips [s]."""
        return list(round_values(0.0, self.whole, max(int((self.width() - _LEFT - _RIGHT) / _APART), 2)))

    # ------------------------------------------------------------ the cursor

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())

    def _move_to(self, x: float) -> None:
        if self.run is not None:
            share = (x - _LEFT) / max(self.width() - _LEFT - _RIGHT, 1.0)
            self.moved.emit(min(max(share, 0.0), 1.0) * self.whole)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_PageUp: -20, Qt.Key.Key_PageDown: 20}.get(
            Qt.Key(event.key())
        )
        if step is None or self.run is None:
            super().keyPressEvent(event)
            return
        per = self.whole / max(self.width() - _LEFT - _RIGHT, 1.0)
        self.moved.emit(min(max(self.time + step * per, 0.0), self.whole))

    # ------------------------------------------------------------ painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.run is None:
            return
        painter.drawImage(QPointF(0, 0), self.by_and_by((self._version, self.session.system), self._pieces))
        x = self.x_of(self.time)
        painter.setPen(QPen(THEME.color("ink"), 1.3))
        painter.drawLine(QPointF(x, _HEAD), QPointF(x, self.height() - _FOOT))
        text = clock(self.time)
        painter.setFont(self.face(SMALL, bold=True))
        place = QRectF(x - 22, self.height() - _FOOT + 2, 44, 16)
        # times that it would cover in part are covered whole
        for value in self._times():
            if abs(self.x_of(value) - x) < _HIDDEN:
                painter.fillRect(QRectF(self.x_of(value) - 26, place.top(), 52, 16), self.ground())
        painter.fillRect(place, self.ground())
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, text)

    def _pieces(self) -> Iterator[Callable[[QPainter], None]]:
        shown = strips_of(self.run)
        high = (self.height() - _FOOT - _HEAD) / len(shown)
        for number, series in enumerate(shown):
            area = QRectF(_LEFT, _HEAD + number * high + 4, self.width() - _LEFT - _RIGHT, high - 10)
            yield partial(self._paint_strip, area, series)
        yield self._paint_times

    def _paint_times(self, painter: QPainter) -> None:
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("faint"))
        for value in self._times():
            painter.drawText(
                QRectF(self.x_of(value) - 26, self.height() - _FOOT + 2, 52, 16),
                Qt.AlignmentFlag.AlignCenter,
                clock(value),
            )

    def _paint_strip(self, area: QRectF, series: Series, painter: QPainter) -> None:
        assert self.run is not None  # painted only with a run
        system = self.session.system
        runs = [(run, "hairline") for run in self.more]
        runs.append((self.run, "faint" if self.other is not None else "ink"))
        if self.other is not None:
            runs.append((self.other, "accent"))
        most = max(float(series.of(run).max()) for run, _ in runs) or 1.0
        asked = None if series.asked is None or self.other is not None else series.asked(self.run)
        if asked is not None:
            most = max(most, float(asked.max(initial=0.0)))
        self.frame(painter, area, foot_only=True)
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("ink"))
        painter.drawText(QRectF(6, area.top() - 3, _LEFT - 12, 15), Qt.AlignmentFlag.AlignLeft, series.name)
        painter.setPen(THEME.color("faint"))
        told, name = series.quantity.full(most, system), text_width(painter.font(), series.name)
        if area.height() >= _TWO_LINES:
            foot = QRectF(6, area.top() + 11, _LEFT - 12, 15)
            painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, told)
        elif name + text_width(painter.font(), told) < _LEFT - 14:  # beside its name where there is no room under it
            painter.drawText(QRectF(12 + name, area.top() - 3, _LEFT, 15), Qt.AlignmentFlag.AlignLeft, told)
        if asked is not None:
            painter.setPen(QPen(THEME.color("accent"), 1.0, Qt.PenStyle.DotLine))
            painter.drawPolyline(self._line(self.run, asked, area, most))
        for run, role in runs:
            painter.setPen(QPen(THEME.color(role), 1.1))
            painter.drawPolyline(self._line(run, series.of(run), area, most))

    def _line(self, run: Run, values: Array, area: QRectF, most: float) -> QPolygonF:
        """A polyline no finer than the widget: least and greatest value in each column of it."""
        columns = max(int(area.width()), 2)
        at = np.minimum((run.end_time / self.whole * columns).astype(int), columns - 1)
        first = np.flatnonzero(np.append(True, at[1:] != at[:-1]))
        low, high = np.minimum.reduceat(values, first), np.maximum.reduceat(values, first)
        x = area.left() + (at[first] + 0.5) * area.width() / columns
        points = []
        for k in range(len(first)):
            a, b = (low[k], high[k]) if k % 2 == 0 else (high[k], low[k])
            points += [
                QPointF(x[k], area.bottom() - area.height() * a / most),
                QPointF(x[k], area.bottom() - area.height() * b / most),
            ]
        return QPolygonF(points)
