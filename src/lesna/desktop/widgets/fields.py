"""Fields of the document: a number that understands what people type, and a choice among names."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLabel,
    QPlainTextEdit,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from lesna.desktop.theme import THEME
from lesna.desktop.widgets.value_edit import ValueEdit
from lesna.desktop.widgets.words import Elided, Words, tip
from lesna.model import units
from lesna.model.errors import InputError

LABEL_WIDTH, EDIT_WIDTH = 101, 96


def _trouble() -> QLabel:
    """Room for the sentence under a field, hidden until there is one."""
    label = Words()
    label.setObjectName("wrong")
    label.setWordWrap(True)
    label.hide()
    return label


class NumberField(QWidget):
    """A labelled number. What cannot be used stays as typed, marked, with a sentence under it.

    Parameters
    ----------
    label : str
        What the number is.
    quantity : Quantity
        Its units.
    commit : callable
        Takes the canonical value, None for an emptied optional field; raises InputError when it does not fit.
    may_be_empty : bool
        Whether the field may be cleared.
    empty : str
        What stands faintly in it while it is empty; its unit where nothing is said.
    lockable : bool
        Whether a lock stands beside it.
    """

    lock_toggled = Signal(bool)

    def __init__(
        self, label: str, quantity: units.Quantity, commit: Callable[[float | None], None], *,
        may_be_empty: bool = False, empty: str = "", lockable: bool = False, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._quantity, self._commit, self._may_be_empty, self._empty = quantity, commit, may_be_empty, empty
        self._system: units.System = "metric"
        self._diameter: float | None = None
        self._shown = ""
        #: what show_value was told last; most fields do not change while one value is moved
        self._latest: tuple[float | None, units.System, str] | None = None
        self.label = Words(label)
        self.label.setFixedWidth(LABEL_WIDTH)
        self.edit = ValueEdit()
        self.edit.given_up.connect(self.forget_typing)
        self.edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.edit.setFixedWidth(EDIT_WIDTH)
        self.edit.setAccessibleName(label)
        self.edit.setToolTip(f"{label}; for example {quantity.example}")
        self.edit.editingFinished.connect(self._on_finished)
        self.edit.installEventFilter(self)
        self.hint = Elided()
        self.hint.setObjectName("faint")
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.lock = _Lock(label)
        if not lockable:
            self.lock.hide()
        self.lock.toggled.connect(self.lock_toggled)
        self.trouble = _trouble()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(7)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.label, 0, 0)
        grid.addWidget(self.edit, 0, 1)
        grid.addWidget(self.lock, 0, 2)
        grid.addWidget(self.hint, 0, 3)
        grid.setColumnStretch(3, 1)
        grid.addWidget(self.trouble, 1, 0, 1, 4)

    def show_value(
        self, value: float | None, system: units.System, *, diameter: float | None = None, hint: str = ""
    ) -> None:
        """Shows the document's value; what is typed and not yet taken, or was refused, stays."""
        self._diameter = diameter
        if (value, system, hint) == self._latest:
            return
        self._latest, self._system = (value, system, hint), system
        self._shown = "" if value is None else self._quantity.full(value, system)
        self.edit.setPlaceholderText(self._empty or self._quantity.unit(system))
        self.hint.setText(hint)
        if not self.edit.isModified():
            self._put(self._shown)

    def forget_typing(self) -> None:
        """Drops what was typed and not taken, because the field now shows something else."""
        self._put(self._shown)

    def commit_typing(self) -> bool:
        """Takes what is typed now; False where it is refused, which the field says."""
        self._on_finished()
        return not self.edit.isModified()

    @property
    def quantity(self) -> units.Quantity:
        """Its units."""
        return self._quantity

    def show_lock(self, locked: bool) -> None:
        """Shows whether the field is locked."""
        self.lock.blockSignals(True)
        self.lock.show_state(locked)
        self.lock.blockSignals(False)

    def refuse(self, sentence: str) -> None:
        """Marks what was typed and says why it cannot be used."""
        self.edit.setProperty("wrong", True)
        self._restyle()
        self.trouble.setText(sentence)
        self.trouble.show()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            watched is self.edit and event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Escape
        ):  # fmt: skip
            self._put(self._shown)
            return True
        return super().eventFilter(watched, event)

    def _put(self, text: str) -> None:
        self.edit.setText(text)
        self.edit.setModified(False)
        if self.trouble.isVisibleTo(self) or self.edit.property("wrong"):
            self.edit.setProperty("wrong", False)
            self.trouble.hide()
            self._restyle()

    def _restyle(self) -> None:
        self.edit.style().unpolish(self.edit)
        self.edit.style().polish(self.edit)

    def _on_finished(self) -> None:
        if not self.edit.isModified():
            return
        text = self.edit.text()
        try:
            if not text.strip():
                if not self._may_be_empty:
                    raise InputError(f"a value is needed; write for example {self._quantity.example}")
                value = None
            else:
                value = units.parse(text, self._quantity, self._system, self._diameter)
            self.edit.setModified(False)
            self._commit(value)
        except InputError as error:
            self.edit.setModified(True)
            self.refuse(units.said(error.message[:1].upper() + error.message[1:], self._system))
            return
        self._put(self._shown)


class TextField(QWidget):
    """A labelled text of one or several lines; taken when the keyboard leaves it, or with Enter in a single line."""

    def __init__(
        self, label: str, commit: Callable[[str], None], *, lines: int = 1, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._commit, self._shown, self._is_touched = commit, "", False
        self.label = Words(label)
        self.label.setFixedWidth(LABEL_WIDTH)
        self.edit: ValueEdit | QPlainTextEdit = ValueEdit() if lines == 1 else QPlainTextEdit()
        self.edit.setAccessibleName(label)
        if isinstance(self.edit, ValueEdit):
            self.edit.given_up.connect(self.forget_typing)
            self.edit.editingFinished.connect(self.commit_typing)
            self.edit.textEdited.connect(self._touch)
        else:
            self.edit.setTabChangesFocus(True)
            self.edit.setFixedHeight(lines * self.edit.fontMetrics().lineSpacing() + 14)
            self.edit.textChanged.connect(self._touch)
        self.edit.installEventFilter(self)
        self.trouble = _trouble()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(7)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.label, 0, 0, Qt.AlignmentFlag.AlignVCenter if lines == 1 else Qt.AlignmentFlag.AlignTop)
        grid.addWidget(self.edit, 0, 1)
        grid.addWidget(self.trouble, 1, 0, 1, 2)

    def text(self) -> str:
        """What stands there."""
        return self.edit.text() if isinstance(self.edit, ValueEdit) else self.edit.toPlainText()

    def show_value(self, text: str) -> None:
        """Shows the document's text; what is typed and not yet taken stays."""
        self._shown = text
        if not self._is_touched:
            self._put(text)

    def forget_typing(self) -> None:
        """Drops what was typed and not taken."""
        self._put(self._shown)

    def commit_typing(self) -> bool:
        """Takes what is typed now; False where it is refused, which the field says."""
        if not self._is_touched:
            return True
        try:
            self._is_touched = False
            self._commit(self.text())
        except InputError as error:
            self._is_touched = True
            self.refuse(error.message[:1].upper() + error.message[1:])
            return False
        self._put(self._shown)
        return True

    def refuse(self, sentence: str) -> None:
        """Says under the field why what was typed cannot be used."""
        self.trouble.setText(sentence)
        self.trouble.show()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusOut and isinstance(self.edit, QPlainTextEdit):
            self.commit_typing()
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            self._put(self._shown)
            return True
        return super().eventFilter(watched, event)

    def _touch(self) -> None:
        self._is_touched = True

    def _put(self, text: str) -> None:
        if text != self.text():
            self.edit.setText(text) if isinstance(self.edit, ValueEdit) else self.edit.setPlainText(text)
        self._is_touched = False
        self.trouble.hide()


class _Lock(QToolButton):
    """Holds a field where it is when a better point is sought; drawn as a ring, filled when it holds."""

    def __init__(self, label: str) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setFixedSize(20, 20)
        self._label = label
        self.toggled.connect(self.show_state)
        THEME.changed.connect(self.update)
        self.show_state(False)

    def show_state(self, locked: bool) -> None:
        """Shows and tells whether it holds."""
        self.setChecked(locked)
        word = "held" if locked else "free"
        self.setToolTip(f"{self._label} is {word} when a better point is sought")
        self.setAccessibleName(f"hold {self._label}, {word}")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.isChecked() or self.hasFocus() or self.underMouse()
        painter.setPen(QPen(THEME.color("accent" if lit else "faint"), 1.6 if self.hasFocus() else 1.2))
        painter.setBrush(THEME.color("accent") if self.isChecked() else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(10, 10), 4.2, 4.2)


class Choice(QComboBox):
    """A list to choose from that leaves the wheel to the page around it until somebody has chosen to be in it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class ChoiceField(QWidget):
    """A labelled choice. Items are (value, text) pairs."""

    chosen = Signal(str)

    def __init__(
        self,
        label: str,
        items: Sequence[tuple[str, str]],
        *,
        label_width: int = LABEL_WIDTH,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.label = Words(label)
        self.label.setFixedWidth(label_width)
        if label_width == 0:
            self.label.hide()
        self.combo = Choice()
        self.combo.setAccessibleName(label)
        self.combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.combo.setMinimumContentsLength(4)
        self._offered = 0
        self.show_items(items)
        self._held = ("", "")
        self.combo.activated.connect(self._on_chosen)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(7)
        grid.addWidget(self.label, 0, 0)
        grid.addWidget(self.combo, 0, 1)
        grid.setColumnStretch(1, 1)

    def show_items(self, items: Sequence[tuple[str, str]]) -> None:
        """Offers other words."""
        self.combo.clear()
        for value, text in items:
            self.combo.addItem(text, value)
        self._offered = len(items)

    def show_value(self, value: str, text: str = "") -> None:
        """Shows the document's value; one that is not on the list stands there for as long as it is shown."""
        while self.combo.count() > self._offered and self.combo.itemData(self._offered) != value:
            self.combo.removeItem(self._offered)
        place = self.combo.findData(value)
        if place < 0:
            self.combo.addItem(text or value, value)
            place = self.combo.count() - 1
        self._held = (value, text)
        self.combo.setCurrentIndex(place)
        self.combo.setToolTip(tip(self.combo.currentText()))

    def _on_chosen(self, index: int) -> None:
        """Hands a choice on; one that was refused goes back to what is held."""
        self.chosen.emit(self.combo.itemData(index))
        self.show_value(*self._held)
