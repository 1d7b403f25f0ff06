"""A button and what it does."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QPushButton


def button(text: str, handler: Callable[[], object]) -> QPushButton:
    """A button that does something when it is pressed."""
    made = QPushButton(text)
    made.clicked.connect(lambda checked=False: handler())
    return made
