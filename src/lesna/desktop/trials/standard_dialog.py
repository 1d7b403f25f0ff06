"""The shop's standard for cuts like the chosen one: not slower than, who says so and why."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.widgets.choices import Choices
from lesna.desktop.widgets.fields import NumberField, TextField
from lesna.desktop.widgets.words import Words
from lesna.model import names, units
from lesna.model.errors import InputError
from lesna.model.standard import standard_name

if TYPE_CHECKING:
    from lesna.bank.store import Bank, Conflict, Kept


class StandardDialog(QDialog):
    """A least removal with its reason; an empty one takes the standard out."""

    def __init__(self, session: Session, shop: ShopBank, former: Kept | None, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.shop, self.former = session, shop, former
        parts = session.result.setup.parts
        self.name = standard_name(parts.material.data_group, parts.cut.role)
        data = former.data if former is not None else {}
        own = round(float(session.result.state.q), 2)
        self.values: dict[str, Any] = {"q_cm3_min": data.get("q_cm3_min", own), "why": data.get("why", ""), "who": ""}
        self.setWindowTitle("The shop's standard")
        self.setObjectName("page")
        self.resize(460, 250)
        head = Words(f"Not slower than, for {parts.material.data_group}, {names.ROLES[parts.cut.role]}")
        head.setObjectName("title")
        self.removal = NumberField("Removal", units.REMOVAL, self._put_removal, may_be_empty=True)
        self.why = TextField("Why", lambda text: self.values.update(why=text))
        self.who = TextField("Who", lambda text: self.values.update(who=text))
        self.words = Words(
            "Whoever cuts slower is told so on the rail, in readiness and on the sheet, with what it costs."
        )
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self.choices = Choices()
        self.choices.chosen.connect(self._settle)
        self.keep = QPushButton("Keep the standard")
        self.keep.setAutoDefault(False)
        self.keep.clicked.connect(lambda checked=False: self.take())
        column = QVBoxLayout(self)
        for widget in (head, self.removal, self.why, self.who, self.words, self.choices):
            column.addWidget(widget)
        column.addStretch(1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.keep)
        column.addLayout(row)
        self._conflict: Conflict | None = None
        self.removal.show_value(self.values["q_cm3_min"], session.system)
        self.why.show_value(self.values["why"])

    def _put_removal(self, value: float | None) -> None:
        if value is not None and value <= 0:
            raise InputError("must be above 0, or empty to take the standard out")
        self.values["q_cm3_min"] = value
        self.removal.show_value(value, self.session.system)

    def take(self) -> None:
        """Keeps what stands there."""
        fields: list[NumberField | TextField] = [self.removal, self.why, self.who]
        if all(field.commit_typing() for field in fields):
            self._write(self._data(), self.former)

    def _data(self) -> dict[str, Any] | None:
        removal = self.values["q_cm3_min"]
        return None if removal is None else {"q_cm3_min": removal, "why": self.values["why"]}

    def _write(self, data: dict[str, Any] | None, former: Kept | None) -> None:
        def work(bank: Bank) -> Conflict | None:
            from lesna.bank.store import Conflict, Source

            try:
                bank.keep(
                    "standards", self.name, data, Source(who=self.values["who"], job=self.session.job.title), former
                )
            except Conflict as conflict:
                return conflict
            return None

        self.keep.setEnabled(False)
        self.shop.write("standard", work, self._written, self._say)

    def _written(self, conflict: Conflict | None) -> None:
        if conflict is None:
            self.accept()
            return
        self._conflict = conflict
        self._say(str(conflict))
        self.choices.show_choices((("theirs", "Keep theirs"), ("mine", "Keep mine"), ("both", "Keep both changes")))

    def _settle(self, choice: str) -> None:
        conflict = self._conflict
        if conflict is None or choice == "theirs":
            self.reject()
            return

        from lesna.bank.store import Kept

        # made of theirs now; should somebody be quicker again, that is asked about again
        data = conflict.both() if choice == "both" else conflict.mine
        theirs = (
            None if conflict.theirs is None else Kept("standards", self.name, conflict.theirs, conflict.version, "", "")
        )
        self._write(data, theirs)

    def _say(self, sentence: str) -> None:
        self.keep.setEnabled(True)
        self.words.mark("wrong")
        self.words.setText(sentence[:1].upper() + sentence[1:])
