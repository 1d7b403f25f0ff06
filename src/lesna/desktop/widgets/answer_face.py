"""A face that asks for an answer while it is looked at: progress in words, stop and go on."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.answers import Answer
from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.widgets.words import Words
from lesna.model import units


class AnswerFace(QWidget):
    """Base of such faces; `answered` brings the answer, None while there is none.

    Parameters
    ----------
    session : Session
        The open job.
    asked : Answer
        What it asks for.
    doing : str
        What is being done meanwhile, as the start of a sentence.
    """

    answered = Signal(object)

    def __init__(self, session: Session, asked: Answer, doing: str) -> None:
        super().__init__()
        self.session, self.asked, self.doing = session, asked, doing
        self.words = Words()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(lambda checked=False: self._toggle())
        self.titles = QVBoxLayout()
        self.titles.setSpacing(1)
        self.titles.addWidget(self.words)
        head = QHBoxLayout()
        head.addLayout(self.titles, 1)
        head.addWidget(self.stop, 0, Qt.AlignmentFlag.AlignTop)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)
        self.column.addLayout(head)
        asked.changed.connect(self.show_asked)
        asked.progressed.connect(self._show_words)
        Follower(self, session, self.refresh, rests_in_drag=True)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.asked.watch(self, True)
        self.refresh()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.asked.watch(self, False)

    def refresh(self) -> None:
        """Shows what follows from the job as it stands, and the answer."""
        self.show_asked()

    def show_asked(self) -> None:
        """Shows the answer, or how far it is, or what stands in its way."""
        if not self.isVisible():
            return
        answer, trouble = self.asked.value, self.asked.trouble
        self.stop.setVisible(answer is None and trouble in ("", "stopped"))
        self.stop.setText("Go on" if trouble else "Stop")
        self.words.mark("wrong" if answer is None and trouble not in ("", "stopped") else "faint")
        self._show_words()
        self.answered.emit(answer)

    def _show_words(self) -> None:
        if self.asked.value is None:
            trouble, progress = self.asked.trouble, self.asked.progress
            words = units.said(trouble[:1].upper() + trouble[1:], self.session.system) if trouble else self.doing
            self.words.setText(f"{words}, {progress}" if progress else words)

    def _toggle(self) -> None:
        if self.asked.trouble:
            self.asked.again()
        else:
            self.asked.stop()
