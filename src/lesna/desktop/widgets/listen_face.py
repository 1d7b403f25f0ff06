"""Listening: the spectrum of a recording with the teeth of this cut marked, and what stands between them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.answers import Address, Answers, Kind, Question
from lesna.desktop.follower import Follower
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.axes import Axes, Scale
from lesna.desktop.widgets.chart import SMALL, CloseChart, round_ticks
from lesna.desktop.widgets.painting import text_width
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import read_bytes
from lesna.model.job import SPEEDS
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.planning.chatter.measuring import Hearing

#: seconds that the simulated microphone listens, and the highest frequency shown [Hz]
_SECONDS, _SHOWN = 3.0, 4000.0
#: quietest level shown, below the loudest [dB]
_FLOOR = 80.0
#: largest recording that is read [bytes]
_LARGEST = 100_000_000
_NOTHING = "A recording tells teeth from chatter."


def _nothing_yet(question: Question, shelf: Shelf, pulse: Pulse) -> Hearing:
    raise InputError("there is no recording")


#: what a recording belongs to: a cut of a job at its speed and tool, whatever else is changed
_HEARD = Kind("listen", "urgent", (), lambda result: Question(result.setup.parts.over_engagement()), _nothing_yet)


class SpectrumChart(CloseChart):
    """Level over frequency in decibel below the loudest."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Spectrum of the recording", parent)
        self.hearing: Hearing | None = None
        self.setMinimumSize(330, 160)

    def sizeHint(self) -> QSize:
        return QSize(520, 380)

    def show_hearing(self, hearing: Hearing | None) -> None:
        """Draws another recording, or none."""
        self.hearing = hearing
        self.view.reset()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        plot = self._plot()
        if self.hearing is None:
            words = "Open a recording of the cut (WAV), or let the simulated microphone listen to this cut."
            self.say(painter, words, plot)
            return
        heard, axes = self.hearing.heard, self._axes(plot, self.hearing)
        self.frame(painter, plot)
        self.ticks_across(painter, axes, round_ticks(axes.shown_across(), units.COUNT, "metric", 5))
        self.ticks_up(painter, axes, round_ticks(axes.shown_up(), units.COUNT, "metric", 4))
        self.title_across(painter, plot, "frequency, Hz; level, dB below the loudest")
        painter.setFont(self.face(SMALL))
        painter.setClipRect(plot)
        for k, tooth in enumerate(heard.teeth):
            x = axes.x(tooth)
            painter.setPen(QPen(THEME.color("accent"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            if k == 0:
                painter.setPen(THEME.color("accent"))
                painter.drawText(QPointF(x + 4, plot.top() + 13), f"teeth {tooth:.0f} Hz")
        shown = heard.f <= axes.across.high
        decibel = 20 * np.log10(np.maximum(heard.level[shown], 1e-4))
        painter.setPen(QPen(THEME.color("ink"), 1))
        painter.drawPolyline(axes.polygon(np.column_stack((heard.f[shown], decibel))))
        for word, color, frequencies in (
            ("chatter", "alarm", heard.chatter), ("chatter or teeth", "amber", () if heard.chatter else heard.unclear),
        ):  # fmt: skip
            for frequency in frequencies[:1]:
                x, text = axes.x(frequency), f"{word} {frequency:.0f} Hz"
                painter.setPen(QPen(THEME.color(color), 2))
                painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() - 14))
                width = text_width(self.face(SMALL), text)
                painter.drawText(QPointF(min(x + 4, plot.right() - width - 4), plot.bottom() - 4), text)

    def _plot(self) -> QRectF:
        return QRectF(46, 12, self.width() - 60, self.height() - 48)

    def _axes(self, plot: QRectF, hearing: Hearing) -> Axes:
        top = min(_SHOWN, float(hearing.heard.f[-1]))
        return Axes(plot, Scale(0.0, top), Scale(-_FLOOR, 0.0), self.view)

    def looked_at(self) -> Axes | None:
        return None if self.hearing is None else self._axes(self._plot(), self.hearing)


class ListenFace(QWidget):
    """A recording of a cut and what was heard in it; each cut keeps its own as long as it stands as it stood."""

    def __init__(self, answers: Answers) -> None:
        super().__init__()
        self.session, self.answers = answers.session, answers
        self._heard: dict[Address, Hearing] = {}
        self.chart = SpectrumChart()
        self.words = Words(_NOTHING)
        self.words.setWordWrap(True)
        self.open = QPushButton("Open a recording ...")
        self.open.setToolTip("WAV, half a second or more, with the cut running")
        self.open.clicked.connect(self._on_open)
        self.simulate = QPushButton("Listen, simulated")
        self.simulate.setToolTip("The simulated microphone beside this cut; it chatters where the computation says so")
        self.simulate.clicked.connect(self._on_simulate)
        self.take = QPushButton("Take a calmer speed")
        self.take.clicked.connect(self._on_take)
        self.take.setEnabled(False)
        row = QHBoxLayout()
        for button in (self.open, self.simulate, self.take):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.chart, 1)
        column.addWidget(self.words)
        column.addLayout(row)
        Follower(self, self.session, self._refresh, rests_in_drag=True)

    def _address(self, kind: Kind) -> Address:
        address = self.answers.address(kind, self.session.cut.id)
        assert address is not None  # of the chosen cut
        return address

    def _refresh(self) -> None:
        hearing = self._heard.get(self._address(_HEARD))
        if hearing is not self.chart.hearing:
            self.words.setText(_NOTHING if hearing is None else hearing.text)
        self.chart.show_hearing(hearing)
        self.take.setEnabled(bool(hearing and hearing.speeds))

    def _on_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a recording", str(Path.home()), "Recordings (*.wav)")
        if name:
            self.open_file(Path(name))

    def open_file(self, path: Path) -> None:
        """Listens to a file; what is wrong with it is said below the chart."""

        def record() -> Any:
            from lesna.devices.microphone import read_wav

            try:
                return read_wav(read_bytes(path, largest=_LARGEST))
            except LesnaError as error:
                raise InputError(f"{path.name}: {error}") from None

        self.hear(record)

    def _on_simulate(self) -> None:
        result = self.session.result

        def record() -> Any:
            from lesna.devices.microphone import SimulatedMicrophone
            from lesna.planning.chatter.standing_in import singing_of

            chatter, rings = result.chatter, 0.0
            if chatter is not None and chatter.depth < result.state.ap:
                rings = chatter.frequency or singing_of(result.setup)  # an estimate knows no frequency
            return SimulatedMicrophone(result.state.n, result.setup.shape.z, chatter=rings).record(_SECONDS)

        self.hear(record)

    def hear(self, record: Callable[[], Any]) -> None:
        """Judges a recording behind; what is heard belongs to the cut that was chosen when it was made."""
        setup, n = self.session.result.setup, self.session.result.state.n

        def judged(question: Question, shelf: Shelf, pulse: Pulse) -> Hearing:
            from lesna.planning.chatter.measuring import judge

            return judge(setup, n, record())

        kind = replace(_HEARD, compute=judged)
        address = self._address(kind)

        def take(hearing: Hearing) -> None:
            # also where the cut stands otherwise by now: it may be put back
            self._heard[address] = hearing
            self._refresh()

        def refuse(sentence: str) -> None:
            self._heard.pop(address, None)
            self._refresh()
            self.words.setText(sentence)

        self.answers.send(kind, address, take, refuse, lose=take, target=f"listen {address.cut}")

    def _on_take(self) -> None:
        hearing = self.chart.hearing
        if hearing is None or not hearing.speeds:
            return
        now = self.session.result.state.n
        n = round(min(hearing.speeds, key=lambda speed: abs(speed - now)))

        def change() -> None:
            if all(getattr(self.session.cut, key) is None for key in SPEEDS):
                raise InputError("the speed comes from the book value; give it as a spindle speed first")
            self.session.edit_cut("Take a calmer speed", n_rpm=float(n))

        self.session.attempt(change)
