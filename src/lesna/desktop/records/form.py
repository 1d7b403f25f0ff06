"""A form for any record: every field with its symbol, unit, range and meaning; what differs from a base row is marked."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Collection, Mapping
from functools import partial
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from lesna.desktop.theme import font
from lesna.desktop.widgets.fields import LABEL_WIDTH, ChoiceField, NumberField, TextField
from lesna.desktop.widgets.painting import scrolled, text_width
from lesna.desktop.widgets.words import Words, tip
from lesna.model import facts, units
from lesna.model.base import Record
from lesna.model.errors import InputError
from lesna.model.facts import Fact

#: what stands in a choice that may be left out
_LEFT_OUT = "not given"
#: height of a field of several lines, in lines
_LINES = 3
#: a number with the longest unit there is, 2 000 N/mm² [px]
_EDIT_WIDTH = 112
#: type of the names, as the style sets it [px]
_NAME = 12.0


class RecordForm(QWidget):
    """The fields of a record in groups; what is typed is checked as a whole, and refused beside the field it is about.

    Parameters
    ----------
    cls : type
        What is edited.
    without : collection of str
        Fields that are not shown.
    """

    edited = Signal()

    def __init__(self, cls: type[Record], without: Collection[str] = (), parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.cls, self.rows = cls, {}
        self._values: dict[str, Any] = {}
        self._base: Mapping[str, Any] | None = None
        self._system: units.System = "metric"
        self._facts = {fact.key: fact for fact in facts.facts_of(cls)}
        self.meaning = Words()
        self.meaning.setObjectName("faint")
        self.meaning.setWordWrap(True)
        self.meaning.setMinimumHeight(30)
        self.trouble = Words()
        self.trouble.setObjectName("wrong")
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        area, column = scrolled()
        shown = {fact.key for fact in self._facts.values()} - set(without) - cls.ELSEWHERE
        of_kinds = dict.fromkeys(key for keys in cls.OF_KIND.values() for key in keys)
        self._short = [key for key in (*cls.SHORT, *of_kinds) if key in shown]
        self._folded = QWidget()
        rest = QVBoxLayout(self._folded)
        rest.setContentsMargins(0, 0, 0, 0)
        rest.setSpacing(column.spacing())
        self.fold = QPushButton()
        self.fold.setObjectName("link")
        self.fold.setCheckable(True)
        self.fold.setAutoDefault(False)  # Enter takes what is typed, and presses nothing
        self.fold.toggled.connect(self._fold)
        for key in self._short:
            column.addWidget(self._row(key))
        if self._short:
            column.addWidget(self.fold, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self._folded)
        for heading, keys in facts.groups_of(cls):
            left = [key for key in keys if key in shown and key not in self._short]
            if heading and left:
                title = Words(heading)
                title.setObjectName("title")
                rest.addWidget(title)
            for key in left:
                rest.addWidget(self._row(key))
        # one column of names, as wide as the longest, also where it is marked
        names = max(text_width(font(_NAME, bold=True), row.fact.label) for row in self.rows.values())
        for row in self.rows.values():
            row.field.label.setFixedWidth(max(LABEL_WIDTH, math.ceil(names) + 2))
        column.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area, 1)
        whole.addWidget(self.meaning)
        whole.addWidget(self.trouble)
        self._fold(not self._short)

    def _row(self, key: str) -> _FieldRow:
        row = _FieldRow(self._facts[key], partial(self._take, key), partial(self._back, key), self._explain)
        self.rows[key] = row
        return row

    def _fold(self, is_open: bool) -> None:
        """Shows every field, or those alone without which nobody describes one of its kind."""
        self._folded.setVisible(is_open)
        self.fold.setText("Fewer fields" if is_open else f"All {len(self.rows)} fields ...")
        self._show_kinds()

    def _show_kinds(self) -> None:
        """What another kind needs stands there only with every field, or where it holds something."""
        kind = str(self._values.get("kind") or "")
        needed = (*self.cls.SHORT, *self.cls.OF_KIND.get(kind, ()))
        for key in self._short:
            held = self._values.get(key) not in (None, self._facts[key].default)
            self.rows[key].setVisible(key in needed or held or self._folded.isVisibleTo(self))

    rows: dict[str, _FieldRow]

    # ------------------------------------------------------------ what it shows

    def show_values(
        self, values: Mapping[str, Any], system: units.System, base: Mapping[str, Any] | None = None
    ) -> None:
        """Shows values; with `base` those that differ from it are marked and can be put back."""
        self._values, self._base, self._system = dict(values), base, system
        self.trouble.hide()
        self._show(forget=True)

    def show_in(self, system: units.System) -> None:
        """Shows the same values in other units."""
        self._system = system
        self._show()

    def agree(self, values: Mapping[str, Any]) -> None:
        """Takes values that follow from others; nothing is said of it."""
        self._values |= values
        self._show()

    def values(self) -> dict[str, Any]:
        """What stands there, without the fields that were left out."""
        return {key: value for key, value in self._values.items() if value is not None}

    def held(self, key: str) -> Any:
        """What stands in one field."""
        return self._values.get(key)

    def record(self, **made: Any) -> Record:
        """The record that stands there; `made` for fields that nobody has to type."""
        for key, row in self.rows.items():
            if not row.commit():
                raise InputError("was not understood; correct it first", key)
        typed = {key: value for key, value in self.values().items() if value != "" or key not in made}
        return self.cls.read({**made, **typed})

    def refuse(self, error: InputError) -> None:
        """Shows what is wrong, beside the innermost field of its path that stands here, else below."""
        path = re.split(r"[.\[\]]+", error.field)
        row = next((self.rows[part] for part in reversed(path) if part in self.rows), None)
        sentence = units.said(error.message[:1].upper() + error.message[1:], self._system)
        self.trouble.setVisible(row is None)
        if row is None:
            self.trouble.setText(f"{error.field}: {sentence}" if error.field else sentence)
        else:
            if row.fact.key not in self._short:
                self.fold.setChecked(True)
            row.refuse(sentence)
            row.setVisible(True)

    def begin(self, key: str) -> None:
        """The keyboard goes to a field, and what is typed replaces what stands there."""
        self.rows[key].begin()

    # ------------------------------------------------------------ edits

    def _take(self, key: str, value: Any) -> None:
        """A value was typed; a number alone is checked at once, the record as a whole when it is asked for."""
        check_one(self._facts[key], value)
        self._values[key] = value
        self.trouble.hide()
        self._show()
        self.edited.emit()

    def _back(self, key: str) -> None:
        self._values[key] = (self._base or {}).get(key)
        self._show(forget=True)
        self.edited.emit()

    def _show(self, *, forget: bool = False) -> None:
        self._show_kinds()
        for key, row in self.rows.items():
            value = self._values.get(key)
            base = None if self._base is None else self._base.get(key)
            row.show(value, self._system, marked=self._base is not None and value != base, base=base)
            if forget:
                row.forget()
            # nothing that differs is out of sight
            if row.is_marked and key not in self._short:
                self.fold.setChecked(True)

    def _explain(self, fact: Fact) -> None:
        span = fact.range(self._system)
        unit = fact.quantity.unit(self._system) if fact.kind == "number" else ""
        told = f"{fact.text[:1].upper()}{fact.text[1:]}" if fact.text else fact.label
        self.meaning.setText(". ".join(part for part in (told, f"{span} {unit}".strip()) if part) + ".")


def check_one(fact: Fact, value: Any) -> None:
    """Refuses a number out of its field's own range."""
    if value is None:
        if not fact.is_optional:
            raise InputError("a value is needed here")
        return
    if fact.kind in ("number", "count"):
        too_low = value < fact.low or (fact.is_above and value == fact.low)
        too_high = value > fact.high or (fact.is_below and value == fact.high)
        if too_low or too_high:
            raise InputError(
                f"must lie in the range {fact.range('metric')} {fact.unit if fact.unit != '1' else ''}".strip()
            )


class _FieldRow(QWidget):
    """One field, a mark where it differs, and a button that puts it back."""

    def __init__(
        self, fact: Fact, take: Callable[[Any], None], back: Callable[[], None], explain: Callable[[Fact], None]
    ) -> None:
        super().__init__()
        self.fact = fact
        self._take, self._explain = take, explain
        self.field = self._make()
        self.undo = QToolButton()
        self.undo.setText("back")
        self.undo.setAccessibleName(f"{fact.label} as in the row")
        self.undo.clicked.connect(back)
        self.undo.hide()
        self.is_marked = False
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(self.field, 1)
        line.addWidget(self.undo)
        self.setToolTip(tip(fact.text))
        for part in (self.field, *self.field.findChildren(QWidget)):
            part.installEventFilter(self)

    def _make(self) -> Any:
        fact = self.fact
        if fact.kind in ("number", "count"):
            quantity = units.COUNT if fact.kind == "count" else fact.quantity
            line = NumberField(fact.label, quantity, self._number, may_be_empty=True)
            line.edit.setFixedWidth(_EDIT_WIDTH)
            return line
        if fact.kind in ("choice", "yes_no"):
            words = [(word, word.replace("_", " ")) for word in fact.choices] or [("yes", "yes"), ("no", "no")]
            none = [("", _LEFT_OUT)] if fact.default is None and fact.is_optional else []
            field = ChoiceField(fact.label, [*none, *words])
            field.chosen.connect(self._chosen)
            return field
        lines = (
            _LINES
            if fact.kind in ("points", "outlines", "modes", "axes") or fact.key in ("notes", "source_note")
            else 1
        )
        return TextField(fact.label, lambda text: self._take(facts.read(text, fact.kind)), lines=lines)

    def _number(self, value: float | None) -> None:
        self._take(round(value) if value is not None and self.fact.kind == "count" else value)

    def _chosen(self, word: str) -> None:
        self._take((word == "yes") if self.fact.kind == "yes_no" and word else word or None)

    def show(self, value: Any, system: units.System, *, marked: bool, base: Any) -> None:  # type: ignore[override]
        """Shows a value; `marked` where it differs from `base`."""
        if isinstance(self.field, NumberField):
            shown = self.fact.default if value is None and isinstance(self.fact.default, (int, float)) else value
            span = self.fact.range(system)
            hint = f"row: {self.field.quantity.full(base, system)}" if marked and base is not None else span
            self.field.show_value(shown, system, hint=hint)
        elif isinstance(self.field, ChoiceField):
            held = self.fact.default if value is None else value
            word = ("yes" if held else "no") if isinstance(held, bool) else str(held or "")
            self.field.show_value(word, word.replace("_", " ") or _LEFT_OUT)
        else:
            self.field.show_value(facts.written(value, self.fact.kind))
        self.is_marked = marked
        self.undo.setVisible(marked)
        self.undo.setToolTip(
            "as in the row" if base is None else f"as in the row: {facts.written(base, self.fact.kind)}"
        )
        face = self.field.label.font()
        face.setBold(marked)
        self.field.label.setFont(face)

    def commit(self) -> bool:
        """Takes what is typed; False where it cannot be understood."""
        return True if isinstance(self.field, ChoiceField) else bool(self.field.commit_typing())

    def begin(self) -> None:
        """Takes the keyboard."""
        if isinstance(self.field, ChoiceField):
            self.field.combo.setFocus()
        else:
            self.field.edit.setFocus()
            self.field.edit.selectAll()

    def forget(self) -> None:
        """Drops what was typed and not taken."""
        if not isinstance(self.field, ChoiceField):
            self.field.forget_typing()

    def refuse(self, sentence: str) -> None:
        """Says under the field what is wrong."""
        if isinstance(self.field, ChoiceField):
            self.field.setToolTip(tip(sentence))
        else:
            self.field.refuse(sentence)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QFocusEvent) and event.gotFocus():
            self._explain(self.fact)
        return super().eventFilter(watched, event)
