"""Labels and tips that show what they are given as it stands: words of a job are never read as markup."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def mark(self, grade: str) -> None:
        """Its ink from now on, by a name of the style sheet: ``faint`` for what explains, ``wrong`` for what is refused."""
        if self.objectName() != grade:
            self.setObjectName(grade)
            self.style().unpolish(self)
            self.style().polish(self)


class MarkedUp(QLabel):
    """A label that Lesna marks up itself; whoever fills it escapes the words of a job."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.RichText)


def tip(text: str) -> str:
    """A tool tip or a question that shows a text as it stands, whatever it holds."""
    if "<" not in text and "&" not in text:
        return text
    return f"<qt>{escape(text).replace(chr(10), '<br>')}</qt>"
