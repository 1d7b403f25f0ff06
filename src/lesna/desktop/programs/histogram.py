"""How much of the way in the cut takes which stepover, against the one that is wanted."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.theme import THEME, temper
from lesna.desktop.widgets.chart import SMALL, Chart
from lesna.model import units
from lesna.physics import Array
from lesna.planning.program.intents import INTENTS, intents_of
from lesna.planning.program.run import Run

_BINS = 24
_LEFT, _RIGHT, _HEAD, _FOOT = 8.0, 10.0, 34.0, 20.0
#: the widest stepover that is shown, over the wanted one
_WIDEST = 2.0


class Histogram(Chart):
    """Shares of the way by stepover; a line stands at the one that is wanted."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("How much of the way takes which stepover, against the one that is wanted", parent)
        self.session = session
        self.run: Run | None = None
        self.wanted = 1.0
        self._version = 0
        self.setMinimumWidth(170)

    def sizeHint(self) -> QSize:
        return QSize(190, 200)

    def show_run(self, run: Run | None, wanted: float) -> None:
        """Draws a program; its wanted stepover in mm."""
        self.run, self.wanted = run, wanted
        self._version += 1
        self.update()

    def shares(self) -> tuple[Array, float]:
        """Share of the way in the cut in each bin, and the share up to a twentieth over what is wanted [-]."""
        run = self.run
        assert run is not None  # asked only with a run
        g = run.geometry
        here = g.contact.copy()
        intents = intents_of(g.program)[g.steps.move]
        if (intents == INTENTS.index("cut")).any():
            # the way in is a slot by its nature
            here &= intents == INTENTS.index("cut")
        taken, length = g.stepover[here] / self.wanted, g.steps.length[here]
        whole = float(length.sum()) or 1.0
        found = np.bincount(
            np.minimum((taken / _WIDEST * _BINS).astype(int), _BINS - 1), weights=length, minlength=_BINS
        )
        return found / whole, float(length[taken <= 1.05].sum()) / whole

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        if self.run is None:
            return
        painter.drawImage(QPointF(0, 0), self.still((self._version, self.session.system), self._paint))

    def _paint(self, painter: QPainter) -> None:
        shares, within = self.shares()
        area = QRectF(_LEFT, _HEAD, self.width() - _LEFT - _RIGHT, self.height() - _HEAD - _FOOT)
        wide, most = area.width() / _BINS, float(shares.max()) or 1.0
        painter.setPen(Qt.PenStyle.NoPen)
        for number, share in enumerate(shares.tolist()):
            high = area.height() * share / most
            painter.setBrush(temper(min((number + 0.5) / _BINS, 1.0)))
            painter.drawRect(QRectF(area.left() + number * wide, area.bottom() - high, wide - 1, high))
        self.frame(painter, area, foot_only=True)
        x = area.left() + area.width() / _WIDEST
        painter.setPen(QPen(THEME.color("ink"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, area.top() - 2), QPointF(x, area.bottom()))
        painter.setFont(self.face(SMALL))
        painter.setPen(THEME.color("ink"))
        painter.drawText(QRectF(_LEFT, 1, area.width(), 15), Qt.AlignmentFlag.AlignLeft, "Stepover in the cut")
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(_LEFT, 15, area.width(), 15), Qt.AlignmentFlag.AlignLeft, f"{within:.1%} within 105 %")
        foot = QRectF(x - 60, area.bottom() + 2, 120, 16)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, units.DIMENSION.full(self.wanted, self.session.system))
