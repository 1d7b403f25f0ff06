"""The readiness list of a set-up: each line with its number, not only a tick."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.words import MarkedUp
from lesna.planning.telling.readiness import Check, readiness_of

_MARKS = {"good": ("✓", "good"), "look": ("!", "amber"), "stop": ("×", "alarm")}


class ReadinessList(QWidget):
    """Follows the chosen cut."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setAccessibleName("Is the set-up ready?")
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(5)
        self._grid.setColumnStretch(1, 1)
        self._rows: list[tuple[MarkedUp, MarkedUp]] = []
        self.checks: tuple[Check, ...] = ()
        THEME.changed.connect(Follower(self, session, self.refresh, rests_in_drag=True).now)

    def refresh(self) -> None:
        """Shows the checks of the chosen cut."""
        self.checks = readiness_of(self.session.result, self.session.system)
        while len(self._rows) < len(self.checks):
            row = (MarkedUp(), MarkedUp())
            row[0].setAlignment(Qt.AlignmentFlag.AlignTop)
            row[1].setWordWrap(True)
            for column, label in enumerate(row):
                self._grid.addWidget(label, len(self._rows), column)
            self._rows.append(row)
        for (mark, text), check in zip(self._rows, self.checks, strict=True):
            sign, role = _MARKS[check.grade]
            mark.setText(f"<b style='color:{THEME.color(role).name()}'>{sign}</b>")
            mark.setAccessibleName(check.grade)
            faint = THEME.color("faint").name()
            text.setText(f"{escape(check.title)} <span style='color:{faint}'>&nbsp;{escape(check.text)}</span>")
