"""The cautions of the chosen cut, the gravest first."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.words import MarkedUp
from lesna.model import units
from lesna.planning.telling.cautions import cautions_of

_WORDS = {"danger": ("Danger. ", "alarm"), "caution": ("Caution. ", "amber"), "note": ("", "faint")}


class CautionsList(MarkedUp):
    """Sentences; a word stands for the severity, its colour only helps."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.setAccessibleName("Cautions")
        THEME.changed.connect(Follower(self, session, self.refresh, rests_in_drag=True).now)

    def refresh(self) -> None:
        """Follows the Result."""
        lines = []
        for caution in cautions_of(self.session.result):
            word, role = _WORDS[caution.severity]
            ink = THEME.color("faint" if caution.severity == "note" else "ink").name()
            lines.append(
                f"<p style='margin:0 0 5px 0; color:{ink}'><b style='color:{THEME.color(role).name()}'>{word}</b>"
                f"{escape(units.said(caution.text, self.session.system))}</p>"
            )
        self.setText("".join(lines))
