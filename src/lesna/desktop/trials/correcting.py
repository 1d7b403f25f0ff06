"""A reading corrected: what is typed is kept with its history."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.trials.kept_dialog import KeptDialog
from lesna.desktop.widgets.fields import ChoiceField, NumberField, TextField
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.trials import RETIRED, WEAR_KINDS, Reading

if TYPE_CHECKING:
    from lesna.bank.store import Conflict

_NUMBERS: tuple[tuple[str, str, units.Quantity], ...] = (
    ("minutes", "In the cut", units.MINUTES), ("vb_mm", "Wear VB", units.CHIP), ("load_pct", "Load, % S1", units.PLAIN),
)  # fmt: skip


class CorrectDialog(KeptDialog):
    """The few fields of a reading in which slips happen."""

    gone = "somebody else took this reading out or moved it; close and look again"

    def __init__(self, session: Session, shop: ShopBank, reading: Reading, parent: QWidget) -> None:
        super().__init__(
            session, shop, "Correct a reading", "Keep the correction", parent, self.write_over, self.decide
        )
        self.former = reading
        self.values: dict[str, Any] = {}
        self.resize(420, 360)
        self.numbers = {key: NumberField(name, quantity, lambda value, key=key: self._put(key, value), may_be_empty=key != "minutes")  # type: ignore[misc]
                        for key, name, quantity in _NUMBERS}  # fmt: skip
        self.kind = ChoiceField("Kind of wear", tuple(WEAR_KINDS.items()))
        self.kind.chosen.connect(lambda value: self._put("wear_kind", value))
        self.retired = ChoiceField("The edge was", tuple(RETIRED.items()))
        self.retired.chosen.connect(lambda value: self._put("retired", value))
        self.note = TextField("Why", lambda text: self._put("note", text))
        self.who = TextField("Who", lambda text: self._put("who", text))
        head = f"{reading.trial} / {reading.edge} at {reading.minutes:g} min, {reading.taken_on or 'no day'}"
        self.lay_out(head, (*self.numbers.values(), self.kind, self.retired, self.note, self.who))
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

    def decide(self) -> None:
        """Writes the correction, where there is one."""
        try:
            new = self.former.with_values(**self.values)
        except InputError as error:
            self.say(str(error))
            return
        if new == self.former:
            self.reject()
        else:
            self._amend(self.former, new)

    def _amend(self, former: Reading, new: Reading) -> None:
        from lesna.bank.store import Source

        self.write(lambda bank: bank.amend(former, new, Source(who=new.who, job=new.job, trial=new.trial)))

    def write_over(self, data: dict[str, Any] | None, conflict: Conflict) -> None:
        """Corrects what the other one made of the reading."""
        self._amend(Reading.read(conflict.theirs), Reading.read(data))
