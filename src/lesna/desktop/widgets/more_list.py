"""What would buy more: changes of the set-up with their gain; a click tries one, undo takes it back."""

from __future__ import annotations

import math
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.planning.more import AIMS, Offer

_SHOWN = 7


class MoreList(QWidget):
    """Computed while it is looked at."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.aim = QComboBox()
        self.aim.setAccessibleName("What is to be gained")
        for key, name in AIMS.items():
            self.aim.addItem(name, key)
        self.aim.activated.connect(lambda index: session.choose_gain(self.aim.itemData(index)))
        self.words = QLabel()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        head = QHBoxLayout()
        head.addWidget(QLabel("Gain in"))
        head.addWidget(self.aim)
        head.addStretch(1)
        self.grid = QGridLayout()
        self.grid.setColumnStretch(0, 1)
        self.grid.setVerticalSpacing(2)
        self.buttons: list[QPushButton] = []
        self._rows: list[QWidget] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addLayout(self.grid)
        column.addWidget(self.words)
        column.addStretch(1)
        session.offers.changed.connect(self.refresh)
        session.waiting_changed.connect(self._on_waiting)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.session.offers.watch(True)
        self.refresh()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.session.offers.watch(False)

    def _on_waiting(self, target: str, text: str) -> None:
        if target == "offers" and self.session.offers.answer is None and text:
            self.words.setText(f"trying changes one at a time, {text}")

    def refresh(self) -> None:
        """Shows the offers, or that they are being looked for."""
        if not self.isVisible():
            return
        for old in self._rows:
            self.grid.removeWidget(old)
            old.deleteLater()
        self._rows, self.buttons = [], []
        offers = self.session.offers.answer
        if offers is None:
            self.words.setText("trying changes one at a time")
            return
        for row, offer in enumerate(offers[:_SHOWN]):
            self._add(row, offer)
        if offers:
            self.words.setText(
                "Each against the best point of the set-up as it is; a click goes there, undo comes back."
            )
        else:
            self.words.setText(
                "No single change gains anything: the limits that hold are the material's and the edge's."
            )

    def _add(self, row: int, offer: Offer) -> None:
        button = QPushButton(offer.label)
        button.setObjectName("link")
        button.setToolTip(f"Try it: {offer.reason}")
        button.clicked.connect(lambda checked=False: self._try(offer))
        reason = QLabel(offer.reason)
        reason.setObjectName("faint")
        gain = QLabel("makes it possible" if math.isinf(offer.gain) else f"{offer.gain:+.0%}")
        gain.setObjectName("gain")
        gain.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.grid.addWidget(button, 2 * row, 0)
        self.grid.addWidget(gain, 2 * row, 1)
        self.grid.addWidget(reason, 2 * row + 1, 0, 1, 2)
        reason.setContentsMargins(5, 0, 0, 3)
        self._rows += [button, reason, gain]
        self.buttons.append(button)

    def _try(self, offer: Offer) -> None:
        self.session.attempt(lambda: self.session.edit(f"Try: {offer.label}", offer.job))
