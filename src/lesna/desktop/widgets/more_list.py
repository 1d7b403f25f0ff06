"""What would buy more: changes of the set-up with their gain; a click tries one, undo takes it back."""

from __future__ import annotations

import math

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QWidget

from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.session import Session
from lesna.desktop.widgets.answer_face import AnswerFace
from lesna.desktop.widgets.fields import Choice
from lesna.desktop.widgets.words import Words, tip
from lesna.model import units
from lesna.planning.search.more import GAINS, Offer, with_offer

_SHOWN = 7


class MoreList(AnswerFace):
    """Single changes of the set-up, ranked."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__(session, answers.offers, "Trying changes one at a time")
        self.answered.connect(self.show_answer)
        self.aim = Choice()
        self.aim.setAccessibleName("What is to be gained")
        for key, name in GAINS.items():
            self.aim.addItem(name, key)
        self.aim.activated.connect(lambda index: answers.choose_gain(self.aim.itemData(index)))
        gain = QHBoxLayout()
        gain.addWidget(Words("Gain in"))
        gain.addWidget(self.aim)
        gain.addStretch(1)
        self.grid = QGridLayout()
        self.grid.setColumnStretch(0, 1)
        self.grid.setVerticalSpacing(2)
        self.buttons: list[QPushButton] = []
        self._rows: list[QWidget] = []
        self.column.insertLayout(0, gain)
        self.column.insertLayout(1, self.grid)
        self.column.addStretch(1)

    def show_answer(self, answer: tuple[Offer, ...] | None) -> None:
        """Shows the offers."""
        for old in self._rows:
            self.grid.removeWidget(old)
            old.deleteLater()
        self._rows, self.buttons = [], []
        if answer is None:
            return
        for row, offer in enumerate(answer[:_SHOWN]):
            self._add(row, offer)
        self.words.setText(
            "Each against the best point of the set-up as it is; a click goes there, undo comes back."
            if answer
            else "No single change gains anything: the limits that hold are the material's and the edge's."
        )

    def _add(self, row: int, offer: Offer) -> None:
        system = self.session.system
        label, why = units.said(offer.variation.label, system), units.said(offer.variation.reason, system)
        button = QPushButton(label)
        button.setObjectName("link")
        button.setToolTip(tip(f"Try it: {why}"))
        button.clicked.connect(lambda checked=False: self._try(offer, label))
        reason = Words(why)
        reason.setObjectName("faint")
        gain = Words("makes it possible" if math.isinf(offer.gain) else f"{offer.gain:+.0%}")
        gain.setObjectName("gain")
        gain.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.grid.addWidget(button, 2 * row, 0)
        self.grid.addWidget(gain, 2 * row, 1)
        self.grid.addWidget(reason, 2 * row + 1, 0, 1, 2)
        reason.setContentsMargins(5, 0, 0, 3)
        self._rows += [button, reason, gain]
        self.buttons.append(button)

    def _try(self, offer: Offer, label: str) -> None:
        session = self.session
        session.attempt(lambda: session.edit(f"Try: {label}", with_offer(session.job, session.index, offer)))
