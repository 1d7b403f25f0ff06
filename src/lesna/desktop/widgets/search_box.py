"""A line to type any designation into, with the rows that answer to it underneath."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from lesna.data.search import Match
from lesna.desktop.widgets.value_edit import ValueEdit

_MOST_ROWS = 9


class SearchBox(ValueEdit):
    """Finds library rows; a click empties it for typing, Down lists all there are, Enter or a click on a row takes it.

    Escape, and Enter in an empty line, leave things as they are.
    """

    chosen = Signal(str)

    def __init__(self, name: str, find: Callable[[str], Sequence[Match]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._find = find
        self._shown = ""
        self.setAccessibleName(name)
        self.popup = QFrame(self, Qt.WindowType.ToolTip)
        self.popup.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.list = QListWidget(self.popup)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QVBoxLayout(self.popup)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.list)
        self.list.itemClicked.connect(self._take)
        self.textEdited.connect(self._on_text)
        self.given_up.connect(self._leave)
        self.installEventFilter(self)

    def show_value(self, text: str) -> None:
        """Shows what is in use, unless somebody is searching."""
        self._shown = text
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)
            self.setCursorPosition(0)

    def matches(self) -> list[str]:
        """Ids of the rows offered."""
        return [self.list.item(row).data(Qt.ItemDataRole.UserRole) for row in range(self.list.count())]

    def _on_text(self, text: str) -> None:
        found = self._find(text)
        self.list.clear()
        for match in found:
            item = QListWidgetItem(f"{match.name}, {match.detail}" if match.detail else match.name)
            item.setData(Qt.ItemDataRole.UserRole, match.id)
            self.list.addItem(item)
        if not found:
            nothing = QListWidgetItem("nothing answers to that; try a number, a name or a condition")
            nothing.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(nothing)
        # nothing is taken from an empty line unless a row is chosen
        self.list.setCurrentRow(0 if text.strip() else -1)
        rows = min(max(len(found), 1), _MOST_ROWS)
        self.popup.resize(max(self.width(), 330), rows * max(self.list.sizeHintForRow(0), 20) + 6)
        self.popup.move(self.mapToGlobal(QPoint(0, self.height() + 1)))
        self.popup.show()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        # where the keyboard is there already, a click begins a search as well
        if self.hasFocus() and not self.isModified() and self.text() == self._shown:
            self._entered = True
        super().mousePressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._entered:
            self._entered = False
            self.setPlaceholderText(self._shown)
            self.setText("")
        super().mouseReleaseEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut:
            self._leave()
        elif event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            return self._on_key(Qt.Key(event.key()))
        return super().eventFilter(watched, event)

    def _on_key(self, key: Qt.Key) -> bool:
        if key == Qt.Key.Key_Down and not self.popup.isVisible():
            self._on_text(self.text() if self.isModified() else "")
            return True
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.popup.isVisible():
            step = -1 if key == Qt.Key.Key_Up else 1
            self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.popup.isVisible():
            item = self.list.currentItem()
            if item is not None and item.data(Qt.ItemDataRole.UserRole):
                self._take(item)
            else:
                self._leave()
            return True
        if key == Qt.Key.Key_Escape:
            self._leave()
            return True
        return False

    def _take(self, item: QListWidgetItem) -> None:
        id = item.data(Qt.ItemDataRole.UserRole)
        self.popup.hide()
        self.setModified(False)
        if id:
            self.chosen.emit(id)
        self._leave()

    def _leave(self) -> None:
        self.popup.hide()
        self.setText(self._shown)
        self.setModified(False)
        self.setCursorPosition(0)
