"""Book, model and bank for the chosen cut in three columns, with what they part by and why."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QHeaderView, QVBoxLayout, QWidget

from lesna.desktop.follower import Follower
from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.theme import THEME
from lesna.desktop.widgets.painting import scrolled
from lesna.desktop.widgets.plain_table import add_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.learning.beside import ROWS, SOURCES, Column, beside
from lesna.learning.told_beside import source_lines
from lesna.model.errors import InputError
from lesna.model.kept import Shelf
from lesna.planning.cut.result import Result
from lesna.planning.telling.figures import FIGURES

_TARGET = "book, model, bank"
#: recipes that are looked at
_NEAREST = 100


class BesideFace(QWidget):
    """Asked for behind the window while somebody looks; a figure that is more than a quarter off the model's is marked."""

    def __init__(self, session: Session, shop: ShopBank) -> None:
        super().__init__()
        self.session, self.shop = session, shop
        self.columns: tuple[Column, ...] = ()
        self.table = plain_table("Book, model and bank", ("", "as it stands", *SOURCES.values()), len(ROWS))
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.says = Words()
        self.says.setWordWrap(True)
        area, column = scrolled(self.says)
        column.addStretch(1)
        stack = QVBoxLayout(self)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(6)
        stack.addWidget(self.table, 3)
        stack.addWidget(area, 2)
        Follower(self, session, self.ask, rests_in_drag=True)
        shop.changed.connect(self.ask)

    def ask(self) -> None:
        """Has the columns made, where somebody looks at them."""
        if not self.isVisible() or not self.session.results:
            return
        result, shelf, shop = self.session.result, self.session.shelf, self.shop
        self.shop.runner.run(
            _TARGET, lambda pulse: _columns(result, shelf, shop), self.show_columns, self._refuse, queue="urgent"
        )

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.ask()

    def _refuse(self, sentence: str) -> None:
        self.table.setRowCount(0)
        self.says.setText(sentence)

    def show_columns(self, columns: tuple[Column, ...]) -> None:
        """Shows what each source says."""
        self.columns = columns
        system, here = self.session.system, self.session.result
        self.table.setRowCount(0)
        for id in ROWS:
            shown = FIGURES[id]
            words = [shown.label, shown.full(here, system, taught=False)]
            tips = ["", "what is set now"]
            for column in columns:
                apart = next((one for one in column.apart if one[0] == id), None)
                words.append("–" if column.result is None else shown.full(column.result, system, taught=False))
                tips.append("" if apart is None else f"{apart[1]:.2f} times the model's: {apart[2]}")
            add_row(self.table, words, tips)
            for place, column in enumerate(columns):
                if any(one[0] == id for one in column.apart):
                    item = self.table.item(self.table.rowCount() - 1, 2 + place)
                    assert item is not None  # was added just now
                    item.setForeground(THEME.color("accent"))
        self.says.setText("\n".join(source_lines(columns)))


def _columns(result: Result, shelf: Shelf, shop: ShopBank) -> tuple[Column, ...]:
    like = [] if shop.recipes is None else shop.recipes.like(result, _NEAREST)
    try:
        fit = shop.fit(result.setup.parts)
    except InputError:
        fit = None  # the tables know no life for it
    return beside(result, fit, like, shelf)
