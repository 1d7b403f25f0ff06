"""A row of buttons, one of which is clicked where a question is open."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget


class Choices(QWidget):
    """Hidden while there is nothing to choose."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.buttons: list[QPushButton] = []
        self._shown: list[tuple[object, str]] = []
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.addStretch(1)
        self.hide()

    def show_choices(self, choices: Sequence[tuple[object, str]]) -> None:
        """Offers values under their names."""
        if list(choices) == self._shown:
            return
        self._shown = list(choices)
        for button in self.buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        for place, (value, name) in enumerate(choices):
            button = QPushButton(name)
            button.clicked.connect(lambda checked=False, value=value: self.chosen.emit(value))
            self._row.insertWidget(place, button)
            self.buttons.append(button)
        self.setVisible(bool(choices))
