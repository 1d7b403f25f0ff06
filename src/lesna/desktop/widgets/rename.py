"""A name changed where it stands: a line laid over it, taken with Enter or when the keyboard leaves it, dropped with Esc."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QRect, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from lesna.desktop.widgets.value_edit import ValueEdit


class NameEdit(ValueEdit):
    """Lies over a place of a widget while a name is changed.

    Parameters
    ----------
    over : QWidget
        On which it lies.
    place : QRect
        Where.
    name : str
        What stands there.
    take : callable
        Takes the new name; not called where nothing changed or nothing is left of it.
    what : str
        Its accessible name.
    """

    def __init__(self, over: QWidget, place: QRect, name: str, take: Callable[[str], object], what: str) -> None:
        super().__init__(over)
        self._name, self._take, self._is_done = name, take, False
        self.setText(name)
        self.setAccessibleName(what)
        self.setGeometry(place)
        self.installEventFilter(self)
        self.editingFinished.connect(self.done)
        self.show()
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.selectAll()

    def done(self) -> None:
        """Takes the name and goes."""
        if self._is_done:
            return
        self._is_done = True
        name = self.text().strip()
        self.hide()
        self.deleteLater()
        if name and name != self._name:
            self._take(name)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            self.setText(self._name)
            self.done()
            return True
        return super().eventFilter(watched, event)
