"""The stability chart: speed across, depth up; where a vibration grows is hatched."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from contourpy import FillType, contour_generator
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas, hatch, label_plate, text_width
from lesna.model import units
from lesna.planning.chatter.stability import Advice, Field

_MARGIN = (56.0, 12.0, 16.0, 38.0)


class StabilityChart(Canvas):
    """Draws the session's chart; it is computed while it is looked at."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("Stability chart: speed across, depth up", parent)
        self.session = session
        self._waiting = ""
        self.setMinimumSize(330, 130)
        session.chart.changed.connect(self.update)
        session.result_changed.connect(self.update)
        session.waiting_changed.connect(self._on_waiting)

    def sizeHint(self) -> QSize:
        return QSize(520, 380)

    def _on_waiting(self, target: str, text: str) -> None:
        if target == "chart":
            self._waiting = text
            self.update()

    def plot(self) -> QRectF:
        """The rectangle between the axes."""
        left, top, right, bottom = _MARGIN
        return QRectF(left, top, self.width() - left - right, self.height() - top - bottom)

    def _scale(self, field: Field) -> tuple[float, float, float]:
        """Least and greatest speed, and the depth at the top."""
        setup = self.session.result.setup
        return float(field.places[0]), float(field.places[-1]), min(1.15 * setup.depth_top, field.deepest)

    def at(self, field: Field, n: float, ap: float) -> QPointF:
        """Where a speed and a depth are on the widget."""
        low, high, top = self._scale(field)
        plot = self.plot()
        return QPointF(plot.left() + plot.width() * (n - low) / (high - low), plot.bottom() - plot.height() * ap / top)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        chart = self.session.chart.answer
        if chart is None:
            painter.setPen(THEME.color("faint"))
            painter.setFont(self.face(12))
            text = (
                f"computing the stability chart, {self._waiting}" if self._waiting else "computing the stability chart"
            )
            painter.drawText(self.plot(), Qt.AlignmentFlag.AlignCenter, text)
            return
        field, advice = chart
        key = (id(field), self.session.index, self.session.system)
        painter.drawImage(QPointF(0, 0), self.still(key, lambda on: self._paint_ground(on, field, advice)))
        self._paint_point(painter, field)

    def _paint_ground(self, painter: QPainter, field: Field, advice: Advice | None) -> None:
        plot = self.plot()
        painter.fillRect(plot, THEME.color("accent_soft"))
        painter.save()
        painter.setClipRect(plot)
        for rings in _grown(field):
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.OddEvenFill)
            for ring in rings:
                path.addPolygon(QPolygonF([self.at(field, float(n), float(ap)) for n, ap in ring]))
            painter.fillPath(path, THEME.color("outside"))
            ink = THEME.color("ink")
            ink.setAlpha(60)
            painter.fillPath(path, hatch(ink))
            painter.setPen(QPen(THEME.color("ink"), 1.4))
            painter.drawPath(path)
        painter.restore()
        painter.setPen(QPen(THEME.color("ink"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(plot)
        self._paint_axes(painter, field)
        if advice is not None:
            x = self.at(field, advice.n, 0.0).x()
            painter.setPen(QPen(THEME.color("good"), 1.6, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            text = f"calmer at {units.SPINDLE_SPEED.full(advice.n, self.session.system)}"
            width = text_width(self.face(10.5), text) + 10
            place = QRectF(min(max(x - width / 2, plot.left()), plot.right() - width), plot.top() + 6, width, 16)
            label_plate(painter, place, text, self.face(10.5), ink=THEME.color("good"), plate=THEME.color("panel"))

    def _paint_axes(self, painter: QPainter, field: Field) -> None:
        plot, system = self.plot(), self.session.system
        low, high, top = self._scale(field)
        painter.setFont(self.face(11))
        painter.setPen(THEME.color("faint"))
        for n in _round_steps(low, high):
            x = self.at(field, n, 0.0).x()
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 4))
            painter.drawText(QRectF(x - 40, plot.bottom() + 4, 80, 14), Qt.AlignmentFlag.AlignCenter,
                             units.SPINDLE_SPEED.text(n, system))  # fmt: skip
        painter.drawText(QRectF(plot.left(), plot.bottom() + 20, plot.width(), 15), Qt.AlignmentFlag.AlignCenter,
                         "spindle speed, rpm")  # fmt: skip
        scale = units.LENGTH.per_inch if system == "inch" else 1.0
        for ap in _round_steps(0.0, top / scale):
            y = self.at(field, low, ap * scale).y()
            painter.drawLine(QPointF(plot.left() - 4, y), QPointF(plot.left(), y))
            painter.drawText(QRectF(0, y - 8, plot.left() - 7, 16),
                             Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{ap:g}")  # fmt: skip
        painter.save()
        painter.translate(9, plot.center().y())
        painter.rotate(-90)
        painter.drawText(
            QRectF(-120, -8, 240, 16), Qt.AlignmentFlag.AlignCenter, f"depth ap, {units.LENGTH.unit(system)}"
        )
        painter.restore()

    def _paint_point(self, painter: QPainter, field: Field) -> None:
        state = self.session.result.state
        place = self.at(field, state.n, state.ap)
        for color, width in ((THEME.color("panel"), 4), (THEME.color("ink"), 2)):
            painter.setPen(QPen(color, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(place, 8, 8)


def _grown(field: Field) -> list[list[np.ndarray]]:
    """Regions in which vibrations grow, as rings of (speed, depth)."""
    generator: Any = contour_generator(
        field.places, field.ap, np.clip(field.growth, -9, 9), fill_type=FillType.OuterOffset
    )
    polygons, offsets = generator.filled(0.0, 1e9)
    return [
        [points[a:b] for a, b in zip(marks[:-1], marks[1:], strict=True)]
        for points, marks in zip(polygons, offsets, strict=True)
    ]


def _round_steps(low: float, high: float) -> list[float]:
    """Round numbers between two ends, about five."""
    raw = (high - low) / 5
    size = 10 ** math.floor(math.log10(raw))
    step = next(s * size for s in (1, 2, 2.5, 5, 10) if s * size >= raw * 0.8)
    first = math.ceil(low / step - 1e-9)
    return [k * step for k in range(first, int(high / step + 1e-9) + 1)]


class StabilityFace(QWidget):
    """The chart, what it rests on, and the ways to measure instead of estimate."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chart = StabilityChart(session)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.source = QLabel()
        self.source.setObjectName("faint")
        self.source.setWordWrap(True)
        self.measure = QPushButton("Tap test, simulated")
        self.measure.setToolTip("Hits the tool of this set-up with the simulated hammer and fits its modes")
        self.load = QPushButton("Measured response ...")
        self.load.setToolTip("A CSV file with f_hz, re_um_n, im_um_n")
        self.forget = QPushButton("Back to the estimate")
        row = QHBoxLayout()
        for button in (self.measure, self.load, self.forget):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.chart, 1)
        column.addWidget(self.words)
        column.addWidget(self.source)
        column.addLayout(row)
        session.chart.changed.connect(self.refresh)
        session.result_changed.connect(self.refresh)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.session.chart.watch(True)
        self.refresh()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.session.chart.watch(False)

    def refresh(self) -> None:
        """Says what the chart says."""
        if not self.isVisible():
            return
        self.words.setText(self._verdict())
        modes = self.session.result.setup.parts.cut.tap_modes
        self.forget.setEnabled(bool(modes))
        if modes:
            told = ", ".join(
                f"{m.f_hz:.0f} Hz {m.k_n_um:.1f} N/µm {100 * m.zeta:.1f} %" for m in modes if m.axis == "x"
            )
            self.source.setText(f"Measured at the tip: {told}")
        else:
            self.source.setText(
                "Estimated from tool, holder and spindle nose, with the damping of the rubbing flank at this speed; a tap test "
                "at the tip replaces it"
            )

    def _verdict(self) -> str:
        result, system, chart = self.session.result, self.session.system, self.session.chart.answer
        chatter = result.chatter
        if chatter is None:
            return "Chatter is being computed."
        here = units.LENGTH.full(result.state.ap, system)
        if chatter.is_open:
            text = f"At {here} this cut is calm; no chatter down to {units.LENGTH.full(chatter.deepest, system)}."
        elif chatter.depth >= result.state.ap:
            text = f"At {here} this cut is calm; chatter begins at {units.LENGTH.full(chatter.depth, system)}"
            text += f" near {chatter.frequency:.0f} Hz." if chatter.frequency else "."
        else:
            calm = units.LENGTH.full(chatter.depth, system)
            text = f"At {here} this cut chatters near {chatter.frequency:.0f} Hz; it is calm up to {calm}."
        if chart is not None and chart[1] is not None:
            text += f" More room at {units.SPINDLE_SPEED.full(chart[1].n, system)}."
        method = "sure method" if chatter.method == "sure" else "fast method"
        return f"{text} ({method})"
