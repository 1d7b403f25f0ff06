"""The text of a program, in step with the cursor."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QMouseEvent, QTextCursor, QTextFormat
from PySide6.QtWidgets import QPlainTextEdit, QTextEdit, QWidget

from lesna.desktop.theme import THEME, font

#: longer programs are shown around the cursor only
_MOST_LINES = 200_000


class ProgramText(QPlainTextEdit):
    """Lines of a program; a click goes to its first step."""

    #: a line was clicked
    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setReadOnly(True)
        self.setAccessibleName("Text of the program")
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setFont(font(11, mono=True))
        self._line = 0
        THEME.changed.connect(self._restyle)

    def _restyle(self) -> None:
        self.show_line(self._line)

    def show_text(self, text: str) -> None:
        """Shows a program; of a very long one its beginning."""
        lines = text.split("\n", _MOST_LINES)
        self.setPlainText("\n".join(line.rstrip("\r") for line in lines[:_MOST_LINES]))

    def show_line(self, line: int) -> None:
        """Marks a line, from 1, and brings it into view."""
        self._line = line
        block = self.document().findBlockByNumber(line - 1)
        if not block.isValid():
            self.setExtraSelections([])
            return
        mark = QTextEdit.ExtraSelection()
        mark.cursor = QTextCursor(block)
        mark.format.setBackground(THEME.color("accent_soft"))
        mark.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
        self.setExtraSelections([mark])
        self.setTextCursor(QTextCursor(block))
        self.centerCursor()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        self.chosen.emit(self.cursorForPosition(event.position().toPoint()).blockNumber() + 1)
