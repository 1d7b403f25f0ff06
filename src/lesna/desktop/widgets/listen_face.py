"""Listening: the spectrum of a recording with the teeth of this cut marked, and what stands between them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import Canvas
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import read_bytes
from lesna.planning.chatter.measuring import Verdict

#: seconds that the simulated microphone listens, and the highest frequency shown [Hz]
_SECONDS, _SHOWN = 3.0, 4000.0
#: largest recording that is read [bytes]
_LARGEST = 200_000_000


class SpectrumChart(Canvas):
    """Level over frequency in decibel below the loudest."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Spectrum of the recording", parent)
        self.verdict: Verdict | None = None
        self.setMinimumSize(330, 160)

    def sizeHint(self) -> QSize:
        return QSize(520, 380)

    def show_verdict(self, verdict: Verdict | None) -> None:
        """Draws another recording, or none."""
        self.verdict = verdict
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        plot = QRectF(46, 12, self.width() - 60, self.height() - 48)
        painter.setFont(self.face(11))
        if self.verdict is None:
            painter.setPen(THEME.color("faint"))
            words = "Open a recording of the cut (WAV), or let the simulated microphone listen to this cut."
            painter.drawText(plot, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        self._paint_axes(painter, plot)
        heard = self.verdict.heard
        top = min(_SHOWN, float(heard.f[-1]))
        for k, tooth in enumerate(heard.teeth):
            if tooth < top:
                x = plot.left() + plot.width() * tooth / top
                painter.setPen(QPen(THEME.color("accent"), 1, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
                if k == 0:
                    painter.setPen(THEME.color("accent"))
                    painter.drawText(QPointF(x + 4, plot.top() + 13), f"teeth {tooth:.0f} Hz")
        shown = heard.f <= top
        decibel = 20 * np.log10(np.maximum(heard.level[shown], 1e-4))
        points = [QPointF(plot.left() + plot.width() * float(f) / top, plot.top() - plot.height() * float(d) / 80)
                  for f, d in zip(heard.f[shown], decibel, strict=True)]  # fmt: skip
        painter.setPen(QPen(THEME.color("ink"), 1))
        painter.drawPolyline(QPolygonF(points))
        for number, frequency in enumerate(heard.chatter[:1]):
            x = plot.left() + plot.width() * frequency / top
            painter.setPen(QPen(THEME.color("alarm"), 2))
            painter.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() - 14))
            if number == 0:
                painter.drawText(
                    QPointF(min(x + 4, plot.right() - 90), plot.bottom() - 4), f"chatter {frequency:.0f} Hz"
                )

    def _paint_axes(self, painter: QPainter, plot: QRectF) -> None:
        assert self.verdict is not None  # painted only with one
        top = min(_SHOWN, float(self.verdict.heard.f[-1]))
        painter.setPen(QPen(THEME.color("hairline"), 1))
        painter.drawRect(plot)
        painter.setPen(THEME.color("faint"))
        for step in range(5):
            x = plot.left() + plot.width() * step / 4
            painter.drawText(
                QRectF(x - 40, plot.bottom() + 3, 80, 14), Qt.AlignmentFlag.AlignCenter, f"{top * step / 4:.0f}"
            )
            y = plot.top() + plot.height() * step / 4
            painter.drawText(QRectF(0, y - 8, 40, 16), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             f"{-20 * step}")  # fmt: skip
        painter.drawText(QRectF(plot.left(), plot.bottom() + 18, plot.width(), 15), Qt.AlignmentFlag.AlignCenter,
                         "frequency, Hz; level, dB below the loudest")  # fmt: skip


class ListenFace(QWidget):
    """A recording of the chosen cut and its verdict."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chart = SpectrumChart()
        self.words = QLabel("A recording tells teeth from chatter.")
        self.words.setWordWrap(True)
        self.open = QPushButton("Open a recording ...")
        self.open.setToolTip("WAV, half a second or more, with the cut running")
        self.open.clicked.connect(self._on_open)
        self.simulate = QPushButton("Listen, simulated")
        self.simulate.setToolTip("The simulated microphone beside this cut; it chatters where the computation says so")
        self.simulate.clicked.connect(self._on_simulate)
        self.take = QPushButton("Take the nearest better speed")
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
        session.cut_selected.connect(self._forget)
        session.opened.connect(self._forget)

    def _forget(self) -> None:
        self._show(None)
        self.words.setText("A recording tells teeth from chatter.")

    def _show(self, verdict: Verdict | None) -> None:
        self.chart.show_verdict(verdict)
        self.take.setEnabled(bool(verdict and verdict.speeds))
        if verdict is not None:
            self.words.setText(verdict.text)

    def _on_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a recording", str(Path.home()), "Recordings (*.wav)")
        if name:
            self.open_file(Path(name))

    def open_file(self, path: Path) -> None:
        """Listens to a file; what is wrong with it is said below the chart."""
        from lesna.devices.microphone import read_wav

        try:
            self.hear(read_wav(read_bytes(path, largest=_LARGEST)))
        except LesnaError as error:
            self._show(None)
            self.words.setText(f"{path.name}: {error}")

    def _on_simulate(self) -> None:
        from lesna.devices.microphone import SimulatedMicrophone

        result = self.session.result
        chatter = result.chatter
        sings = chatter is not None and chatter.depth < result.state.ap
        microphone = SimulatedMicrophone(
            result.state.n, result.setup.shape.z, chatter=chatter.frequency if chatter is not None and sings else 0.0
        )
        self.hear(microphone.record(_SECONDS))

    def hear(self, recording: Any) -> None:
        """Judges a recording behind and shows its verdict."""
        setup, n = self.session.result.setup, self.session.result.state.n

        def work(cancelled: Any) -> Any:
            from lesna.planning.chatter.measuring import judge

            return judge(setup, n, recording)

        self.session.background.run("listen", work, self._show, self.words.setText)

    def _on_take(self) -> None:
        verdict = self.chart.verdict
        if verdict is None or not verdict.speeds:
            return
        now = self.session.result.state.n
        n = round(min(verdict.speeds, key=lambda speed: abs(speed - now)))

        def change() -> None:
            if self.session.cut.n_rpm is None and self.session.cut.vc_m_min is None:
                raise InputError("the speed comes from the book value; give it as a spindle speed first")
            self.session.edit_cut("Take a calmer speed", n_rpm=float(n), vc_m_min=None)

        self.session.attempt(change)
