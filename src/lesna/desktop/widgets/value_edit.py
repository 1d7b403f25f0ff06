"""A line to type a value into, with the manners that every field of Lesna has."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence, QMouseEvent
from PySide6.QtWidgets import QLineEdit, QWidget

_UNDOES = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)


class ValueEdit(QLineEdit):
    """Selects its value at the click that enters it; leaves undo and redo to the job unless something is typed.

    Files dropped on it go to the window, which knows what to do with them.
    """

    given_up = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAcceptDrops(False)
        self._entered = False

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and _undoes(event):
            if self.isModified():
                event.accept()
            else:
                event.ignore()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.isModified() and _undoes(event):
            self.given_up.emit()
            return
        super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._entered = event.reason() == Qt.FocusReason.MouseFocusReason

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._entered and not self.hasSelectedText():
            self.selectAll()
        self._entered = False


def _undoes(event: QKeyEvent) -> bool:
    is_ctrl_y = event.key() == Qt.Key.Key_Y and event.modifiers() == Qt.KeyboardModifier.ControlModifier
    return is_ctrl_y or any(event.matches(key) for key in _UNDOES)
