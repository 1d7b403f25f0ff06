"""One line under the top bar that says what happened or went wrong, without getting in the way."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from lesna.desktop.widgets.words import Words

#: a note goes away by itself, what went wrong stays
_NOTE_MS = 4000


@dataclass(frozen=True)
class _Message:
    kind: str
    text: str
    actions: tuple[tuple[str, Callable[[], None]], ...]

    @property
    def waits(self) -> bool:
        """Whether it stays until somebody has answered or closed it."""
        return self.kind == "wrong" or bool(self.actions)


class Banner(QFrame):
    """Shows a sentence, and buttons where something can be done about it; what asks or went wrong is not pushed out unread."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("banner")
        self.text = Words()
        self.text.setWordWrap(True)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(16, 5, 10, 5)
        self._row.addWidget(self.text, 1)
        self.buttons: list[QPushButton] = []
        self._waiting: list[_Message] = []
        self._shown: _Message | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._next)
        self.hide()

    def say(self, kind: str, text: str, actions: tuple[tuple[str, Callable[[], None]], ...] = ()) -> None:
        """Shows a sentence: ``note`` fades by itself unless it asks something, ``wrong`` stays until closed.

        What comes while another one waits for its answer is shown on top of it; the other comes back afterwards.
        """
        message = _Message(kind, text, actions)
        if self._shown is not None and self._shown.waits and self._shown.text != text:
            self._waiting = [other for other in self._waiting if other.text != self._shown.text]
            self._waiting.append(self._shown)
        self._waiting = [other for other in self._waiting if other.text != text]
        self._show(message)

    def clear(self) -> None:
        """Another job is open: what was said about the former one goes."""
        self._waiting.clear()
        self._shown = None
        self._timer.stop()
        self.hide()

    def _next(self) -> None:
        """The one shown is done with."""
        self._timer.stop()
        self._shown = None
        if self._waiting:
            self._show(self._waiting.pop())
        else:
            self.hide()

    def _show(self, message: _Message) -> None:
        self._shown = message
        self.setProperty("kind", message.kind)
        for part in (self, self.text):  # a label takes its colour from the kind of the banner around it
            part.style().unpolish(part)
            part.style().polish(part)
        text = message.text
        first = text.split(" ", 1)[0]
        self.text.setText(text[:1].upper() + text[1:] if first.isalpha() else text)
        for button in self.buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = [self._button(label, action) for label, action in message.actions]
        if message.waits:
            self.buttons.append(self._button("Close", lambda: None))
            self._timer.stop()
        else:
            self._timer.start(_NOTE_MS)
        self.setAccessibleName(text)
        self.show()

    def _button(self, label: str, action: Callable[[], None]) -> QPushButton:
        button = QPushButton(label)
        button.clicked.connect(lambda checked=False: self._press(action))
        self._row.addWidget(button)
        return button

    def _press(self, action: Callable[[], None]) -> None:
        self._next()
        action()
