"""Trial: test cuts planned, looks at edges logged, what they taught, and the one change to make next."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QGridLayout, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.trials.answers import TrialAnswers
from lesna.desktop.trials.coach_card import CoachCard, TaughtFace
from lesna.desktop.trials.ladder_panel import LadderPanel
from lesna.desktop.trials.life_chart import LifeChart
from lesna.desktop.trials.look_form import LookForm
from lesna.desktop.trials.readings_face import ReadingsFace
from lesna.desktop.trials.wear_chart import WearChart
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.painting import Panel

#: widths of the outer columns [px]
_LADDER, _COACH = 292, 274


class TrialWorkspace(QWidget):
    """Ladder and coach beside the charts, the log under them."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session = session
        self.trial = TrialAnswers(answers)
        self.ladder = LadderPanel(session, self.trial)
        self.wear, self.life = WearChart(session, self.trial), LifeChart(session, self.trial)
        self.readings = ReadingsFace(session, self.trial)
        self.coach, self.taught = CoachCard(session, self.trial), TaughtFace(session, self.trial)
        self.charts = FacesPanel(
            {"Wear": self.wear, "Life over speed": self.life, "Readings": self.readings, "Taught": self.taught}
        )
        self.form = LookForm(session, self.trial)
        self.log = Panel("Log a look at the edge")
        self.log.body.addWidget(self.form, 1)
        self.ladder.chosen.connect(self.form.plan)
        self.ladder.setFixedWidth(_LADDER)
        self.coach.setFixedWidth(_COACH)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 10, 8)
        grid.setSpacing(8)
        grid.addWidget(self.ladder, 0, 0, 1, 1)
        grid.addWidget(self.charts, 0, 1)
        grid.addWidget(self.coach, 0, 2)
        grid.addWidget(self.log, 1, 0, 1, 3)
        grid.setRowStretch(0, 3)
        grid.setRowStretch(1, 2)
        grid.setColumnStretch(1, 1)
        Follower(self, session, self._refresh, rests_in_drag=True)

    def _refresh(self) -> None:
        self.form.refresh()
        self.ladder.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.trial.taught.watch(self, True)

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.trial.taught.watch(self, False)
