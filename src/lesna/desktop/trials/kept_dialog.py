"""Something that the bank keeps is changed; where somebody else was quicker, theirs, mine or both."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.widgets.choices import Choices
from lesna.desktop.widgets.fields import NumberField, TextField
from lesna.desktop.widgets.words import Words
from lesna.model import units

if TYPE_CHECKING:
    from lesna.bank.store import Bank, Conflict


class KeptDialog(QDialog):
    """What the dialogs have in common: their layout, writing behind the window, and the choice between two changes.

    Parameters
    ----------
    session, shop : Session, ShopBank
        Whose units it speaks in, and where it writes.
    title, keep : str
        Of the window, and of the button that writes.
    write_over : callable
        Writes what was chosen in the place of what another one wrote.
    decide : callable or None
        Writes what the fields make of the thing; None where there are none.
    """

    #: what is said where the thing is not there any more and nothing can be chosen; empty where it can be made anew
    gone = ""

    def __init__(
        self, session: Session, shop: ShopBank, title: str, keep: str, parent: QWidget,
        write_over: Callable[[dict[str, Any] | None, Conflict], None], decide: Callable[[], None] | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.session, self.shop = session, shop
        self.setWindowTitle(title)
        self.setObjectName("page")
        self.words = Words()
        self.words.setWordWrap(True)
        self.choices = Choices()
        self.choices.chosen.connect(self._settle)
        self.keep = QPushButton(keep)
        self.keep.setAutoDefault(False)  # Enter in a field takes what is typed there, no more
        self.keep.clicked.connect(lambda checked=False: self.take())
        self.keep.setVisible(decide is not None)
        self._decide, self._write_over = decide, write_over
        self._conflict: Conflict | None = None

    def lay_out(self, head: str, fields: Sequence[QWidget]) -> None:
        """Puts the fields under their heading, and what is said and chosen below them."""
        title = Words(head)
        title.setObjectName("title")
        column = QVBoxLayout(self)
        for widget in (title, *fields, self.words, self.choices):
            column.addWidget(widget)
        column.addStretch(1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.keep)
        column.addLayout(row)

    def take(self) -> None:
        """Writes what stands in the fields, where all of it can be read."""
        typed: list[NumberField | TextField] = [*self.findChildren(NumberField), *self.findChildren(TextField)]
        if self._decide is not None and all(field.commit_typing() for field in typed):
            self._decide()

    def write(self, work: Callable[[Bank], object]) -> None:
        """Writes behind the window; the dialog closes once it is kept."""

        def tried(bank: Bank) -> Conflict | None:
            from lesna.bank.store import Conflict

            try:
                work(bank)
            except Conflict as conflict:
                return conflict
            return None

        self.keep.setEnabled(False)
        self.shop.write("change", tried, self._written, self.say)

    def _written(self, conflict: Conflict | None) -> None:
        if conflict is None:
            self.accept()
            return
        self._conflict = conflict
        if conflict.theirs is None and self.gone:
            self.say(self.gone)
            return
        self.say(f"{conflict}." + (f" Both changed {', '.join(conflict.parted)}." if conflict.parted else ""))
        self.choices.show_choices((("theirs", "Keep theirs"), ("mine", "Keep mine"), ("both", "Keep both changes")))

    def _settle(self, choice: str) -> None:
        conflict = self._conflict
        if conflict is None or choice == "theirs":
            self.reject()
            return
        # made of theirs now; should somebody be quicker again, that is asked about again
        self._write_over(conflict.both() if choice == "both" else conflict.mine, conflict)

    def say(self, sentence: str) -> None:
        """Says what is wrong, and lets it be tried again."""
        self.keep.setEnabled(True)
        self.words.mark("wrong")
        self.words.setText(units.said(sentence[:1].upper() + sentence[1:], self.session.system))
