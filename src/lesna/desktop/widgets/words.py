"""Labels and tips that show what they are given as it stands: words of a job are never read as markup."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
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


class Elided(Words):
    """A label of one line that ends in dots where it has no room: half a number would be read as another one."""

    def setText(self, text: str) -> None:
        super().setText(text)
        self.setToolTip(tip(text))

    @property
    def shown(self) -> str:
        """What of it has room."""
        return self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())

    def paintEvent(self, event: QPaintEvent) -> None:
        self.style().drawItemText(
            QPainter(self), self.rect(), Qt.AlignmentFlag.AlignVCenter.value, self.palette(), self.isEnabled(), self.shown,
            self.foregroundRole(),
        )  # fmt: skip


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
