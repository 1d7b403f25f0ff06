"""Base of the charts of what trials say: they follow the answer of the step, and say what they wait for."""

from __future__ import annotations

from abc import abstractmethod

from PySide6.QtCore import QSize
from PySide6.QtGui import QPainter, QPaintEvent

from lesna.desktop.session import Session
from lesna.desktop.trials.answers import Taught, TrialAnswers
from lesna.desktop.widgets.chart import Chart


class TaughtChart(Chart):
    """A chart of one answer."""

    def __init__(self, name: str, session: Session, answers: TrialAnswers) -> None:
        super().__init__(name)
        self.session, self.answers = session, answers
        self.setMinimumSize(200, 150)
        answers.taught.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(360, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = self.begin()
        taught: Taught | None = self.answers.taught.value
        if taught is None:
            self.say(painter, self.answers.taught.trouble or "Looking at what trials say")
        else:
            self.paint(painter, taught)

    @abstractmethod
    def paint(self, painter: QPainter, taught: Taught) -> None:
        """Draws the answer."""
