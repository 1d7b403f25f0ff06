"""The decisions about a surface, one under the other: figure, price and reason, and how each came about at a click."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.planning.surface.rows import Row


class _Entry(QWidget):
    """One decision."""

    def __init__(self) -> None:
        super().__init__()
        self.title, self.figure, self.reason, self.working = Words(), Words(), Words(), Words()
        self.title.setObjectName("title")
        self.reason.setObjectName("faint")
        self.working.setObjectName("faint")
        self.more = QPushButton("Working")
        self.more.setObjectName("link")
        self.more.clicked.connect(lambda checked=False: self.working.setVisible(not self.working.isVisible()))
        for words in (self.figure, self.reason, self.working):
            words.setWordWrap(True)
        self.working.hide()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 2, 0, 4)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.title, 0, 0)
        grid.addWidget(self.more, 0, 1)
        grid.addWidget(self.figure, 1, 0, 1, 2)
        grid.addWidget(self.reason, 2, 0, 1, 2)
        grid.addWidget(self.working, 3, 0, 1, 2)
        grid.setColumnStretch(0, 1)

    def show_row(self, row: Row, system: units.System) -> None:
        """Another decision, or the same in other units."""
        self.title.setText(row.title)
        self.figure.setText(_said(row.figure, system))
        self.figure.mark("wrong" if row.alarm else "")
        self.reason.setText(_said(row.reason, system))
        self.working.setText("\n".join(_said(text, system) for text in row.working if text))
        self.more.setVisible(bool(row.working))


def _said(text: str, system: units.System) -> str:
    words = units.said(text, system)
    return words[:1].upper() + words[1:]


class DecisionRows(QWidget):
    """All decisions that are there."""

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[_Entry] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 4, 0)
        self._grid.setSpacing(2)
        self._grid.setRowStretch(100, 1)

    def show_rows(self, rows: Sequence[Row], system: units.System) -> None:
        """Shows decisions; what was opened stays open."""
        while len(self.entries) < len(rows):
            entry = _Entry()
            self._grid.addWidget(entry, len(self.entries), 0)
            self.entries.append(entry)
        for entry, row in zip(self.entries, rows, strict=False):
            entry.show_row(row, system)
        for number, entry in enumerate(self.entries):
            entry.setVisible(number < len(rows))
