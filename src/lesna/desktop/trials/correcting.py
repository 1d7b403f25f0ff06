"""A reading corrected: what is typed is kept with its history; where somebody else was quicker, theirs, mine or both."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.widgets.choices import Choices
from lesna.desktop.widgets.fields import ChoiceField, NumberField, TextField
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.trials import RETIRED, WEAR_KINDS, Reading

if TYPE_CHECKING:
    from lesna.bank.store import Bank, Conflict

_NUMBERS: tuple[tuple[str, str, units.Quantity], ...] = (
    ("minutes", "In the cut", units.MINUTES), ("vb_mm", "Wear VB", units.CHIP), ("load_pct", "Load, % S1", units.PLAIN),
)  # fmt: skip


class CorrectDialog(QDialog):
    """The few fields of a reading in which slips happen."""

    def __init__(self, session: Session, shop: ShopBank, reading: Reading, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.shop, self.former = session, shop, reading
        self.values: dict[str, Any] = {}
        self.setWindowTitle("Correct a reading")
        self.setObjectName("page")
        self.resize(420, 360)
        head = Words(f"{reading.trial} / {reading.edge} at {reading.minutes:g} min, {reading.taken_on or 'no day'}")
        head.setObjectName("title")
        self.numbers = {key: NumberField(name, quantity, lambda value, key=key: self._put(key, value), may_be_empty=key != "minutes")  # type: ignore[misc]
                        for key, name, quantity in _NUMBERS}  # fmt: skip
        self.kind = ChoiceField("Kind of wear", tuple(WEAR_KINDS.items()))
        self.kind.chosen.connect(lambda value: self._put("wear_kind", value))
        self.retired = ChoiceField("The edge was", tuple(RETIRED.items()))
        self.retired.chosen.connect(lambda value: self._put("retired", value))
        self.note = TextField("Why", lambda text: self._put("note", text))
        self.who = TextField("Who", lambda text: self._put("who", text))
        self.words = Words()
        self.words.setWordWrap(True)
        self.choices = Choices()
        self.choices.chosen.connect(self._settle)
        self.keep = QPushButton("Keep the correction")
        self.keep.setAutoDefault(False)  # Enter in a field takes what is typed there, no more
        self.keep.clicked.connect(lambda checked=False: self.take())
        column = QVBoxLayout(self)
        column.addWidget(head)
        for widget in (*self.numbers.values(), self.kind, self.retired, self.note, self.who):
            column.addWidget(widget)
        column.addWidget(self.words)
        column.addWidget(self.choices)
        column.addStretch(1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.keep)
        column.addLayout(row)
        self._conflict: Conflict | None = None
        self.refresh()

    def _put(self, key: str, value: Any) -> None:
        self.values[key] = value
        self.refresh()

    def refresh(self) -> None:
        """Shows the reading with what was typed."""
        for key, field in self.numbers.items():
            field.show_value(self.values.get(key, getattr(self.former, key)), self.session.system)
        self.kind.show_value(self.values.get("wear_kind", self.former.wear_kind))
        self.retired.show_value(self.values.get("retired", self.former.retired))
        self.note.show_value(self.values.get("note", self.former.note))
        self.who.show_value(self.values.get("who", self.former.who))

    def take(self) -> None:
        """Writes the correction."""
        fields: list[NumberField | TextField] = [*self.numbers.values(), self.note, self.who]
        if not all(field.commit_typing() for field in fields):
            return
        try:
            new = self.former.with_values(**self.values)
        except InputError as error:
            self._say(str(error))
            return
        if new == self.former:
            self.reject()
            return
        self._write(self.former, new)

    def _write(self, former: Reading, new: Reading) -> None:
        def work(bank: Bank) -> Conflict | None:
            from lesna.bank.store import Conflict, Source

            try:
                bank.amend(former, new, Source(who=new.who, job=new.job, trial=new.trial))
            except Conflict as conflict:
                return conflict
            return None

        self.keep.setEnabled(False)
        self.shop.write("correction", work, self._written, self._say)

    def _written(self, conflict: Conflict | None) -> None:
        if conflict is None:
            self.accept()
            return
        self._conflict = conflict
        parted = f" Both changed {', '.join(conflict.parted)}." if conflict.parted else ""
        if conflict.theirs is None:
            self._say("Somebody else took this reading out or moved it; close and look again.")
            return
        self._say(f"{conflict}.{parted}")
        self.choices.show_choices((("theirs", "Keep theirs"), ("mine", "Keep mine"), ("both", "Keep both changes")))

    def _settle(self, choice: str) -> None:
        conflict = self._conflict
        if conflict is None or conflict.theirs is None or choice == "theirs":
            self.reject()
            return
        data = conflict.both() if choice == "both" else conflict.mine
        self._write(Reading.read(conflict.theirs), Reading.read(data))

    def _say(self, sentence: str) -> None:
        self.keep.setEnabled(True)
        self.words.mark("wrong")
        self.words.setText(units.said(sentence[:1].upper() + sentence[1:], self.session.system))
