"""One line under the top bar that says what happened or went wrong, without getting in the way."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

#: a note goes away by itself, what went wrong stays
_NOTE_MS = 4000


class Banner(QFrame):
    """Shows a sentence, and buttons where something can be done about it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("banner")
        self.text = QLabel()
        self.text.setWordWrap(True)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(16, 5, 10, 5)
        self._row.addWidget(self.text, 1)
        self._buttons: list[QPushButton] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, kind: str, text: str, actions: tuple[tuple[str, Callable[[], None]], ...] = ()) -> None:
        """Shows a sentence: ``note`` fades by itself unless it asks something, ``wrong`` stays until closed."""
        self.setProperty("kind", kind)
        self.style().unpolish(self)
        self.style().polish(self)
        first = text.split(" ", 1)[0]
        self.text.setText(text[:1].upper() + text[1:] if first.isalpha() else text)
        for button in self._buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self._buttons = [self._button(label, action) for label, action in actions]
        if kind == "wrong" or actions:
            self._buttons.append(self._button("Close", lambda: None))
            self._timer.stop()
        else:
            self._timer.start(_NOTE_MS)
        self.setAccessibleName(text)
        self.show()

    def _button(self, label: str, action: Callable[[], None]) -> QPushButton:
        button = QPushButton(label)
        button.clicked.connect(self.hide)
        button.clicked.connect(lambda: action())
        self._row.addWidget(button)
        return button
