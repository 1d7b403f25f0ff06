"""The shop's standard for cuts like the chosen one: not slower than, who says so and why."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QWidget

from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.trials.kept_dialog import KeptDialog
from lesna.desktop.widgets.fields import NumberField, TextField
from lesna.model import names, units
from lesna.model.errors import InputError
from lesna.model.standard import standard_name

if TYPE_CHECKING:
    from lesna.bank.store import Conflict, Kept


class StandardDialog(KeptDialog):
    """A least removal with its reason; an empty one takes the standard out."""

    def __init__(self, session: Session, shop: ShopBank, former: Kept | None, parent: QWidget) -> None:
        super().__init__(
            session, shop, "The shop's standard", "Keep the standard", parent, self.write_over, self.decide
        )
        parts = session.result.setup.parts
        self.former, self.name = former, standard_name(parts.material.data_group, parts.cut.role)
        data = former.data if former is not None else {}
        own = round(float(session.result.state.q), 2)
        self.values: dict[str, Any] = {"q_cm3_min": data.get("q_cm3_min", own), "why": data.get("why", ""), "who": ""}
        self.resize(460, 250)
        self.removal = NumberField("Removal", units.REMOVAL, self._put_removal, may_be_empty=True)
        self.why = TextField("Why", lambda text: self.values.update(why=text))
        self.who = TextField("Who", lambda text: self.values.update(who=text))
        self.words.setText(
            "Whoever cuts slower is told so on the rail, in readiness and on the sheet, with what it costs."
        )
        self.words.setObjectName("faint")
        head = f"Not slower than, for {parts.material.data_group}, {names.ROLES[parts.cut.role]}"
        self.lay_out(head, (self.removal, self.why, self.who))
        self.removal.show_value(self.values["q_cm3_min"], session.system)
        self.why.show_value(self.values["why"])

    def _put_removal(self, value: float | None) -> None:
        if value is not None and value <= 0:
            raise InputError("must be above 0, or empty to take the standard out")
        self.values["q_cm3_min"] = value
        self.removal.show_value(value, self.session.system)

    def decide(self) -> None:
        """Keeps what stands there."""
        removal = self.values["q_cm3_min"]
        self._keep(None if removal is None else {"q_cm3_min": removal, "why": self.values["why"]}, self.former)

    def _keep(self, data: dict[str, Any] | None, former: Kept | None) -> None:
        from lesna.bank.store import Source

        source = Source(who=self.values["who"], job=self.session.job.title)
        self.write(lambda bank: bank.keep("standards", self.name, data, source, former))

    def write_over(self, data: dict[str, Any] | None, conflict: Conflict) -> None:
        """Keeps it in the place of the other one's."""
        from lesna.bank.store import Kept

        theirs = conflict.theirs
        former = None if theirs is None else Kept("standards", self.name, theirs, conflict.version, "", "")
        self._keep(data, former)
