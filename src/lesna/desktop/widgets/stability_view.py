"""The stability chart: speed across, depth up; where a vibration grows is hatched."""

from __future__ import annotations

from typing import Any

import numpy as np
from contourpy import FillType, contour_generator
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QLinearGradient, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, CloseChart, round_ticks
from lesna.desktop.widgets.painting import hatch, label_plate, text_width
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.planning.chatter.stability import Advice, Growth
from lesna.planning.cut.result import Result

_MARGIN = (56.0, 12.0, 16.0, 38.0)


class StabilityChart(CloseChart):
    """Draws the session's chart; it is computed while it is looked at."""

    def __init__(self, session: Session, answers: CutAnswers, parent: QWidget | None = None) -> None:
        super().__init__("Stability chart: speed across, depth up", parent)
        self.session, self.answer = session, answers.chart
        self.setMinimumSize(330, 130)
        self.answer.changed.connect(self.update)
        self.answer.progressed.connect(self.update)
        session.result_changed.connect(self.update)
        session.cut_selected.connect(self.view.reset)
        session.opened.connect(self.view.reset)

    def sizeHint(self) -> QSize:
        return QSize(520, 380)

    def plot(self) -> QRectF:
        """The rectangle between the axes."""
        left, top, right, bottom = _MARGIN
        return QRectF(left, top, self.width() - left - right, self.height() - top - bottom)

    @property
    def has_lobes(self) -> bool:
        """Whether there are modes to make a chart of, or only the estimate."""
        return bool(self.session.cut.tap_modes)

    def _paint_estimate(self, painter: QPainter) -> None:
        """The depth to reckon with as a band over the speed: it has no lobes, because nobody has measured any."""
        result = self.session.result
        setup, chatter, state = result.setup, result.chatter, result.state
        plot = self.plot()
        if chatter is None:
            words = "The tables name no depths for this edge in this material; a tap test at the tip tells."
            self.say(painter, words, plot)
            return
        low, high = max(0.5 * state.n, setup.drive.rpm_min, 1.0), min(1.5 * state.n, setup.drive.rpm_max)
        top = max(1.15 * setup.depth_top, 1.2 * state.ap, 1.25 * chatter.depth)
        axes = Axes(plot, Scale(low, max(high, low * 1.01)), Scale(0.0, top))
        painter.save()
        painter.setClipRect(plot)
        painter.fillRect(plot, THEME.color("accent_soft"))
        band = QLinearGradient(0.0, axes.y(chatter.low), 0.0, axes.y(chatter.high))
        clear, full = THEME.color("outside"), THEME.color("outside")
        clear.setAlpha(0)
        band.setColorAt(0.0, clear)
        band.setColorAt(1.0, full)
        painter.fillRect(
            QRectF(plot.left(), axes.y(chatter.high), plot.width(), axes.y(chatter.low) - axes.y(chatter.high)), band
        )
        painter.fillRect(
            QRectF(plot.left(), plot.top(), plot.width(), max(axes.y(chatter.high) - plot.top(), 0.0)), full
        )
        ink = THEME.color("ink")
        ink.setAlpha(60)
        painter.fillRect(
            QRectF(plot.left(), plot.top(), plot.width(), max(axes.y(chatter.depth) - plot.top(), 0.0)), hatch(ink)
        )
        for depth, line in ((chatter.low, Qt.PenStyle.DotLine), (chatter.depth, Qt.PenStyle.DashLine)):
            painter.setPen(QPen(THEME.color("faint"), 1.4, line))
            painter.drawLine(axes.at(low, depth), axes.at(axes.across.high, depth))
        painter.restore()
        self.box(painter, plot)
        self._paint_ticks(painter, axes)
        face = self.face(SMALL)
        low, high = (units.ROUGH_LENGTH.text(depth, self.session.system) for depth in (chatter.low, chatter.high))
        text = f"estimate {units.ROUGH_LENGTH.full(chatter.depth, self.session.system)}, between {low} and {high}"
        width = text_width(face, text) + 10
        height = min(max(axes.y(chatter.depth) - 8, plot.top() + 2), plot.bottom() - 18)
        plate = QRectF(plot.right() - width - 6, height, width, 16)
        label_plate(painter, plate, text, face, ink=THEME.color("ink"), plate=THEME.color("panel"))
        self._paint_ring(painter, axes.at(state.n, state.ap))

    def axes(self, growth: Growth) -> Axes:
        """Speed across and depth up, of the part that is looked at [1/min], [mm]."""
        result = self.session.result
        top = 1.15 * result.setup.depth_top
        if result.chatter is not None and result.chatter.basis == "estimate":
            top = max(top, 1.1 * result.chatter.high)  # drawn beside simulated lobes
        top = min(top, growth.deepest)
        return Axes(self.plot(), Scale(float(growth.places[0]), float(growth.places[-1])), Scale(0.0, top), self.view)

    def looked_at(self) -> Axes | None:
        return self.axes(self.answer.value[0]) if self.has_lobes and self.answer.value is not None else None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if not self.has_lobes:
            self._paint_estimate(painter)
            return
        chart = self.answer.value
        if chart is None:
            progress = self.answer.progress
            text = self.answer.trouble or "computing the stability chart" + (f", {progress}" if progress else "")
            self.say(painter, text, self.plot())
            return
        field, advice = chart
        key = (id(field), self.session.cut.id, self.session.cut.is_judged_by_modes, self.session.system, *self.view.key)
        painter.drawImage(QPointF(0, 0), self.still(key, lambda on: self._paint_ground(on, field, advice)))
        self._paint_point(painter, field)

    def _paint_ground(self, painter: QPainter, field: Growth, advice: Advice | None) -> None:
        plot, axes = self.plot(), self.axes(field)
        painter.fillRect(plot, THEME.color("accent_soft"))
        painter.save()
        painter.setClipRect(plot)
        for rings in _grown(field):
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.OddEvenFill)
            for ring in rings:
                path.addPolygon(axes.polygon(ring))
            painter.fillPath(path, THEME.color("outside"))
            ink = THEME.color("ink")
            ink.setAlpha(60)
            painter.fillPath(path, hatch(ink))
            painter.setPen(QPen(THEME.color("ink"), 1.4))
            painter.drawPath(path)
        painter.restore()
        self._paint_band(painter, axes)
        self.box(painter, plot)
        self._paint_ticks(painter, axes)
        if advice is not None and plot.left() <= axes.x(advice.n) <= plot.right():
            x = axes.x(advice.n)
            painter.setPen(QPen(THEME.color("good"), 1.6, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            text = f"calmer at {units.SPINDLE_SPEED.full(advice.n, self.session.system)}{_simulated(self.session)}"
            width = text_width(self.face(SMALL), text) + 10
            place = QRectF(min(max(x - width / 2, plot.left()), plot.right() - width), plot.top() + 6, width, 16)
            label_plate(painter, place, text, self.face(SMALL), ink=THEME.color("good"), plate=THEME.color("panel"))

    def _paint_band(self, painter: QPainter, axes: Axes) -> None:
        """Where the estimate lies beside the lobes of modes that do not count."""
        chatter = self.session.result.chatter
        if chatter is None or chatter.basis != "estimate":
            return
        painter.save()
        painter.setClipRect(self.plot())
        for depth, line in (
            (chatter.low, Qt.PenStyle.DotLine), (chatter.depth, Qt.PenStyle.DashLine), (chatter.high, Qt.PenStyle.DotLine),
        ):  # fmt: skip
            painter.setPen(QPen(THEME.color("accent"), 1.4, line))
            painter.drawLine(axes.at(axes.across.low, depth), axes.at(axes.across.high, depth))
        painter.restore()
        face = self.face(SMALL)
        text = f"limit: estimate {units.ROUGH_LENGTH.full(chatter.depth, self.session.system)}"
        width, plot = text_width(face, text) + 10, self.plot()
        height = min(max(axes.y(chatter.depth) - 8, plot.top() + 2), plot.bottom() - 18)
        plate = QRectF(plot.right() - width - 6, height, width, 16)
        label_plate(painter, plate, text, face, ink=THEME.color("accent"), plate=THEME.color("panel"))

    def _paint_ticks(self, painter: QPainter, axes: Axes) -> None:
        plot, system = self.plot(), self.session.system
        self.ticks_across(painter, axes, round_ticks(axes.shown_across(), units.SPINDLE_SPEED, system, 5))
        self.ticks_up(painter, axes, round_ticks(axes.shown_up(), units.LENGTH, system, 5))
        self.title_across(painter, plot, "spindle speed, rpm")
        self.title_up(painter, plot, f"depth ap, {units.LENGTH.unit(system)}")

    def _paint_point(self, painter: QPainter, field: Growth) -> None:
        state = self.session.result.state
        place = self.axes(field).at(state.n, state.ap)
        if not self.plot().adjusted(-1, -1, 1, 1).contains(place):
            return
        self._paint_ring(painter, place)

    @staticmethod
    def _paint_ring(painter: QPainter, place: QPointF) -> None:
        for color, width in ((THEME.color("panel"), 4), (THEME.color("ink"), 2)):
            painter.setPen(QPen(color, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(place, 8, 8)


def _simulated(session: Session) -> str:
    """What a figure of simulated modes is marked with."""
    return ", simulated" if session.result.setup.parts.cut.is_simulated else ""


def _lobes(field: Growth, result: Result, system: units.System) -> str:
    """What simulated modes say of a cut that is judged by the estimate."""
    n, ap = float(result.state.n), float(result.state.ap)
    depth = float(field.limits_at(n, np.array([ap]))[0])
    if depth >= field.deepest * (1 - 1e-9):
        return f"The simulated lobes show none down to {units.LENGTH.full(field.deepest, system)} at this speed."
    near = f" near {field.frequency_at(n):.0f} Hz" if field.frequency_at(n) else ""
    return f"The simulated lobes show {units.LENGTH.full(depth, system)}{near} at this speed."


def _grown(field: Growth) -> list[list[np.ndarray]]:
    """Regions in which vibrations grow, as rings of (speed, depth)."""
    generator: Any = contour_generator(
        field.places, field.ap, np.clip(field.growth, -9, 9), fill_type=FillType.OuterOffset
    )
    polygons, offsets = generator.filled(0.0, 1e9)
    return [
        [points[a:b] for a, b in zip(marks[:-1], marks[1:], strict=True)]
        for points, marks in zip(polygons, offsets, strict=True)
    ]


class StabilityFace(QWidget):
    """The chart, what it rests on, and the ways to measure instead of estimate."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self.answer = session, answers.chart
        self.chart = StabilityChart(session, answers)
        self.words = Words()
        self.words.setWordWrap(True)
        self.source = Words()
        self.source.setObjectName("faint")
        self.source.setWordWrap(True)
        self.measure = QPushButton("Tap test, simulated")
        self.measure.setToolTip("Hits the tool of this set-up with the simulated hammer and fits its modes")
        self.load = QPushButton("Measured response ...")
        self.load.setToolTip("A CSV file with f_hz, re_um_n, im_um_n")
        self.keep = QPushButton("Keep as the limit")
        self.keep.setToolTip("Judges this cut by the simulated modes instead of the estimate")
        self.forget = QPushButton("Back to the estimate")
        row = QHBoxLayout()
        for button in (self.measure, self.load, self.keep, self.forget):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.chart, 1)
        column.addWidget(self.words)
        column.addWidget(self.source)
        column.addLayout(row)
        self.answer.changed.connect(self.refresh)
        session.result_changed.connect(self.refresh)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._watch()
        self.refresh()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.answer.watch(self, False)

    def _watch(self) -> None:
        """An estimate is there already; only modes have a chart to compute."""
        self.answer.watch(self, self.chart.has_lobes)

    def refresh(self) -> None:
        """Says what the chart says."""
        if not self.isVisible():
            return
        if self.chart.has_lobes and not self.answer.is_watched_by(self):
            self._watch()
        self.words.setText(self._verdict())
        cut = self.session.result.setup.parts.cut
        modes = cut.tap_modes
        self.forget.setEnabled(bool(modes))
        self.keep.setVisible(bool(modes) and not cut.is_judged_by_modes)
        if modes:
            told = ", ".join(
                f"{m.f_hz:.0f} Hz {m.k_n_um:.1f} N/µm {100 * m.zeta:.1f} %" for m in modes if m.axis == "x"
            )
            what = "Simulated, nothing was measured on the machine" if cut.is_simulated else "Measured at the tip"
            counts = "" if cut.is_judged_by_modes else ". The estimate stays the limit unless these are kept."
            self.source.setText(f"{what}: {told}{counts}")
        else:
            self.source.setText(
                "The depth shops usually run at this engagement, scaled by stick-out, holder and machine; no lobes, because nobody "
                "has measured them. Tap the tool or listen to the cut to know better."
            )

    def _verdict(self) -> str:
        result, system, chart = self.session.result, self.session.system, self.answer.value
        chatter = result.chatter
        if chatter is None:
            return "Chatter is being computed." if result.is_waiting else "Nothing is known about chatter here."
        here = units.LENGTH.full(result.state.ap, system)
        if chatter.basis == "estimate":
            low, high = units.ROUGH_LENGTH.text(chatter.low, system), units.ROUGH_LENGTH.full(chatter.high, system)
            word = (
                "should stay calm" if result.state.ap <= chatter.low
                else "may chatter" if result.state.ap <= chatter.high else "is likely to chatter"
            )  # fmt: skip
            text = (
                f"At {here} this cut {word}: set-ups like this one usually begin between {low} and {high}. (estimate)"
            )
            return text if chart is None else f"{text} {_lobes(chart[0], result, system)}"
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
        word = "simulated, kept as the limit" if chatter.basis == "simulated" else "measured"
        return f"{text} ({word}, {chatter.method} method)"
