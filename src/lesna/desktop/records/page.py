"""One table of the library: its rows with filters and search, the chosen row as a form, and what can be done with it."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from lesna.data.search import ranked
from lesna.data.shop import exported, key_of
from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.records.beside import beside_of
from lesna.desktop.records.form import RecordForm
from lesna.desktop.records.keeper import RowKeeper
from lesna.desktop.records.tables import TableSpec
from lesna.desktop.session import Session
from lesna.desktop.widgets.fields import Choice
from lesna.desktop.widgets.sentences import Sentences
from lesna.desktop.widgets.value_edit import ValueEdit
from lesna.desktop.widgets.words import Words
from lesna.model import units
from lesna.model.base import Record
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import write_atomic
from lesna.model.library_records import Tool
from lesna.planning.cut.suits import suitability

_LIST_WIDTH, _ROW_HEIGHT = 384, 25
#: fields that words are looked for in, by table; tools have a search of their own
_SEARCHED = {
    "holders": ("id", "name", "kind", "clamping_principle", "notes"), "machines": ("id", "name", "kind", "taper", "notes"),
    "materials": ("id", "name", "en", "aisi_uns", "condition", "data_group", "iso_subgroup"),
    "cutting_data": ("data_group", "group_name", "substrate", "iso_group"),
}  # fmt: skip
#: groups of workpiece materials after ISO 513
_ISO_513 = {"P": "steel", "M": "stainless", "K": "cast iron", "N": "non-ferrous", "S": "superalloy", "H": "hardened"}
#: two diameters closer than this share are the same
_SAME_SIZE = 0.01


class TablePage(QWidget):
    """The page of one table.

    Parameters
    ----------
    session : Session
        Whose library and job it is.
    spec : TableSpec
        Which table.
    say : callable
        Says in the window what happened (kind, sentence).
    keeper : RowKeeper
        Where rows are written.
    key : object
        The row that is shown first; the table's first where left out.
    """

    used = Signal(str)

    def __init__(
        self, session: Session, spec: TableSpec, say: Callable[[str, str], None], keeper: RowKeeper, key: object = None
    ) -> None:
        super().__init__()
        self.session, self.spec, self.say, self.keeper = session, spec, say, keeper
        self.key: Any = None
        self.form = RecordForm(spec.cls)
        self.form.edited.connect(self._on_edited)
        self.beside = beside_of(spec.id)
        self.beside.edited.connect(lambda: self._on_edited(here=True))
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 8, 12, 10)
        row.setSpacing(14)
        listed = QWidget()
        listed.setFixedWidth(_LIST_WIDTH)
        listed.setLayout(self._list_side())
        row.addWidget(listed)
        row.addLayout(self._form_side(), 1)
        row.addWidget(self.beside)
        self.choose(key if key in self.table else next(iter(self.table)))

    # ------------------------------------------------------------ assembly

    def _list_side(self) -> QVBoxLayout:
        self.search = ValueEdit()
        self.search.setPlaceholderText("square d12 z4, ø10, 0.5in" if self.spec.id == "tools" else "any designation")
        self.search.setAccessibleName(f"Search {self.spec.title.lower()}")
        self.search.textChanged.connect(self.refill)
        self.kind = Choice()
        self.kind.setAccessibleName(self.spec.kinds)
        self.whose = Choice()
        self.whose.setAccessibleName("Whose rows")
        for word in ("All rows", "Our own", "Shipped"):
            self.whose.addItem(word)
        self.group = Choice()
        self.group.setAccessibleName("Material group it is meant for")
        self.group.addItem("Any material")
        for letter, word in _ISO_513.items():
            self.group.addItem(f"{letter}, {word}", letter)
        self.diameter, self.flutes, self.reach = ValueEdit(), ValueEdit(), ValueEdit()
        named = (
            (self.diameter, "DC", "Diameter"), (self.flutes, "z", "Flutes"), (self.reach, "reach from", "Reach, at least"),
        )  # fmt: skip
        for edit, hint, name in named:
            edit.setPlaceholderText(hint)
            edit.setAccessibleName(name)
            edit.setMinimumWidth(44)
            edit.textChanged.connect(self.refill)
        for part in (self.kind, self.whose, self.group):
            part.currentIndexChanged.connect(self.refill)
        self.list = QTableWidget(0, len(self.spec.columns))
        self.list.setHorizontalHeaderLabels([title for title, _ in self.spec.columns])
        self.list.setAccessibleName(self.spec.title)
        self.list.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.list.setShowGrid(False)
        self.list.setTabKeyNavigation(False)
        self.list.verticalHeader().hide()
        self.list.verticalHeader().setDefaultSectionSize(_ROW_HEIGHT)
        self._size_columns()
        self.list.itemSelectionChanged.connect(self._on_selected)
        self.count = Words()
        self.count.setObjectName("faint")
        filters = QHBoxLayout()
        filters.addWidget(self.kind, 1)
        filters.addWidget(self.whose, 1)
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.addWidget(self.search)
        side.addLayout(filters)
        if self.spec.id == "tools":
            sizes = QHBoxLayout()
            sizes.addWidget(self.group, 3)
            for size, share in ((self.diameter, 1), (self.flutes, 1), (self.reach, 2)):
                sizes.addWidget(size, share)
            side.addLayout(sizes)
        side.addWidget(self.list, 1)
        side.addWidget(self.count)
        return side

    def _form_side(self) -> QVBoxLayout:
        self.whence = Words()
        self.whence.setObjectName("faint")
        self.whence.setWordWrap(True)
        self.use = self._button(
            "Use in this cut" if self.spec.id in ("tools", "holders") else "Use in this job", self._on_use
        )
        self.like = self._button("Like this one", self._on_like)
        self.keep = self._button("Save for the shop", self._on_keep)
        self.drop = self._button("Take out", self._on_drop)
        self.give = self._button("Export ...", self._on_export)
        self.take = self._button("Import ...", self._on_import)
        above, below = QHBoxLayout(), QHBoxLayout()
        for button in (self.like, self.keep, self.drop):
            above.addWidget(button)
        for button in (self.use, self.give, self.take):
            below.addWidget(button)
        if self.spec.id == "cutting_data":
            self.use.hide()
        above.addStretch(1)
        below.addStretch(1)
        side = QVBoxLayout()
        side.addWidget(self.whence)
        side.addWidget(self.form, 1)
        side.addLayout(above)
        side.addLayout(below)
        return side

    def _button(self, text: str, handler: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.clicked.connect(lambda checked=False: handler())
        return button

    # ------------------------------------------------------------ the list

    @property
    def table(self) -> Any:
        """The library's table."""
        return getattr(self.session.library, self.spec.id)

    def _size_columns(self) -> None:
        """As wide as what is in them, the first with what is left."""
        header = self.list.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)

    def refill(self) -> None:
        """Lists the rows that answer to search and filters, and keeps the chosen one."""
        self._fill_kinds()
        keys = self._found()
        self.list.blockSignals(True)
        # measured once when all is there, not anew with each item
        self.list.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.list.setRowCount(len(keys))
        for row, key in enumerate(keys):
            record = self.table[key]
            for column, (_, shown) in enumerate(self.spec.columns):
                item = QTableWidgetItem(shown(record, self.session.system))
                item.setData(Qt.ItemDataRole.UserRole, key)
                if self.session.library.is_own(self.spec.id, key):
                    font = item.font()
                    font.setBold(True)
                    item.setFont(font)
                self.list.setItem(row, column, item)
        self._size_columns()
        if self.key in keys:
            self.list.selectRow(keys.index(self.key))
        else:
            self.list.clearSelection()
        self.list.blockSignals(False)
        own = sum(self.session.library.is_own(self.spec.id, key) for key in self.table)
        self.count.setText(f"{len(keys)} of {len(self.table)} rows; {own} our own (bold)")
        if self.key is not None and self.key not in keys and keys:
            self.choose(keys[0])

    def _fill_kinds(self) -> None:
        words = sorted({self.spec.kind_of(self.table[key]) for key in self.table})
        if [self.kind.itemText(place) for place in range(1, self.kind.count())] != words:
            held = self.kind.currentText()
            self.kind.blockSignals(True)
            self.kind.clear()
            self.kind.addItem(self.spec.kinds)
            self.kind.addItems(words)
            self.kind.setCurrentIndex(max(self.kind.findText(held), 0))
            self.kind.blockSignals(False)

    def _found(self) -> list[Any]:
        text = self.search.text()
        if self.spec.id == "tools":
            parts = self.session.result.setup.parts

            def suits(tool: Tool) -> float:
                return suitability(tool, parts.material, parts.cut.feature, self.session.library)

            order: list[Any] = [match.id for match in self.session.library.find_tools(text, suits)]
        else:
            found = ranked(text, self.table, _SEARCHED[self.spec.id])
            by_text = {str(key): key for key in self.table}
            order = [by_text[match.id] for match in found]
        return [key for key in order if self._passes(key)]

    def _passes(self, key: Any) -> bool:
        record, own = self.table[key], self.session.library.is_own(self.spec.id, key)
        if self.kind.currentIndex() > 0 and self.spec.kind_of(record) != self.kind.currentText():
            return False
        if self.whose.currentIndex() and own != (self.whose.currentIndex() == 1):
            return False
        return not isinstance(record, Tool) or self._has_sizes(record)

    def _has_sizes(self, tool: Tool) -> bool:
        """Whether a tool is meant for the group and has the sizes that are asked for; what cannot be read asks for nothing."""
        group = self.group.currentData()
        if group and tool.intended_iso_groups and group not in tool.intended_iso_groups.split():
            return False
        wanted = {edit: self._typed(edit, kind) for edit, kind in (
            (self.diameter, units.LENGTH), (self.flutes, units.COUNT), (self.reach, units.LENGTH))}  # fmt: skip
        diameter, flutes, reach = (wanted[edit] for edit in (self.diameter, self.flutes, self.reach))
        return (
            (diameter is None or abs(tool.DC - diameter) <= _SAME_SIZE * diameter)
            and (flutes is None or round(flutes) == tool.ZEFP)
            and (reach is None or tool.usable_length >= reach)
        )

    def _typed(self, edit: ValueEdit, kind: units.Quantity) -> float | None:
        try:
            return units.parse(edit.text(), kind, self.session.system)
        except InputError:
            return None

    def choose(self, key: Any) -> None:
        """Shows a row."""
        self.key = key
        self.refill()
        self.show_row()

    def _on_selected(self) -> None:
        items = self.list.selectedItems()
        if items and items[0].data(Qt.ItemDataRole.UserRole) != self.key:
            self.key = items[0].data(Qt.ItemDataRole.UserRole)
            if isinstance(self.key, list):  # the item gives a pair back as a list
                self.key = tuple(self.key)
            self.show_row()

    # ------------------------------------------------------------ the row

    def show_row(self) -> None:
        """The chosen row as it stands in the library."""
        if self.key not in self.table:
            return
        record = self.table[self.key]
        self._show_record(record)
        self.whence.setText(str(self.table.origin(self.key)))

    def _show_record(self, record: Record) -> None:
        self.form.show_values(dict(record), self.session.system)
        self.beside.show_row(dict(record))
        self._on_edited()

    def record(self) -> Record:
        """What the form makes now (InputError says what does not fit)."""
        made = (
            {"id": _free_id(_slug(self.form.held("name") or ""), self.table)}
            if "id" in self.spec.cls.model_fields
            else {}
        )
        return self.beside.completed(self.form.record(**made))

    def _on_edited(self, *, here: bool = False) -> None:
        """The drawing follows what is typed; `here` beside the form."""
        made: Record | None = None
        trouble = ""
        try:
            made = self.record()
            self.beside.settle(self.form, made, here=here)
        except InputError as error:
            trouble = str(error)
        self.beside.draw(made, trouble, self.session.system)
        self.keep.setEnabled(True)
        self.drop.setEnabled(self.key in self.table and self.session.library.is_own(self.spec.id, self.key))

    # ------------------------------------------------------------ what can be done with it

    def _on_like(self) -> None:
        """A new row that starts as this one, under a name of its own."""
        its_own = self.spec.cls.ITS_OWN | {"id"}
        values = {key: value for key, value in self.form.values().items() if key not in its_own}
        if "name" in values:
            values["name"] = f"{values['name']}, ours"
        self.key = None
        self.list.clearSelection()
        self.form.show_values(values, self.session.system)
        self.whence.setText(f"a new {self.spec.one}; nothing is written until it is saved")
        self._on_edited()
        if "name" in self.form.rows:
            self.form.begin("name")

    def _on_keep(self) -> None:
        try:
            record = self.record()
        except InputError as error:
            self.form.refuse(error)
            return
        self.keep.setEnabled(False)
        self.keeper.keep(self.spec.id, [record], lambda: self._on_kept(record), self._on_refused)

    def _on_refused(self, error: LesnaError | str) -> None:
        """The row could not be written: beside the field where it is about one."""
        self.keep.setEnabled(True)
        if isinstance(error, InputError):
            self.form.refuse(error)
        else:
            self.say("wrong", str(error))

    def _on_kept(self, record: Record) -> None:
        """Shows the row as it is kept, whatever was asked for before."""
        saved = key_of(self.spec.id, dict(record))
        self.key = None  # nothing is looked for while the filters change
        if saved not in self._found():
            self._ask_for_everything()
        self.choose(saved)
        self.say("note", f"{getattr(record, 'name', '') or getattr(record, 'id', self.spec.one)} is kept for the shop")

    def _ask_for_everything(self) -> None:
        """Nothing is filtered out any more: what was saved is seen, whatever had been asked for before."""
        for edit in (self.search, self.diameter, self.flutes, self.reach):
            edit.clear()
        for choice in (self.kind, self.whose, self.group):
            choice.setCurrentIndex(0)

    def _on_drop(self) -> None:
        key = self.key
        self.keeper.drop(self.spec.id, key, lambda: self._on_dropped(key), lambda error: self.say("wrong", str(error)))

    def _on_dropped(self, key: Any) -> None:
        if key not in self.table:
            self.key = None
        self.refill()
        self.show_row()
        self.say("note", f"the shop's own row is out{'; the shipped one counts again' if key in self.table else ''}")

    def _on_use(self) -> None:
        if self.key in self.table:
            self.used.emit(str(self.key))
        else:
            self.say("note", f"save the new {self.spec.one} first")

    def _on_export(self) -> None:
        rows = self.session.library.own_rows(self.spec.id) or [self.table[key] for key in self.table]
        name = f"{self.spec.id.replace('_', '-')}.csv"
        path = ask_where_to_save(self, f"Export {self.spec.title.lower()}", Path.home() / name,
                                 "Table (*.csv);;JSON (*.json)", "csv")  # fmt: skip
        if path is not None:
            self.export_to(path, rows)

    def export_to(self, path: Path, rows: list[Record]) -> None:
        """Writes rows to a file in an open format."""
        try:
            write_atomic(path, exported(rows, path.suffix.lower().lstrip(".")).encode("utf-8"))
        except LesnaError as error:
            self.say("wrong", f"{path}: {error}")
            return
        self.say("note", f"{len(rows)} rows written to {path.name}")

    def _on_import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, f"Import {self.spec.title.lower()}", str(Path.home()),
                                              "Tables (*.csv *.json)")  # fmt: skip
        if name:
            self.import_from(Path(name))

    def import_from(self, path: Path) -> None:
        """Takes the rows of a file into the shop's folder; what cannot be used is named."""
        records, problems = self.session.library.rows_of(self.spec.id, path)

        def told(*first: str) -> None:
            self.refill()
            sentences = [*first, *problems]
            taken = f"{len(records)} {'row' if len(records) == 1 else 'rows'} taken from {path.name}"
            self.say("wrong" if sentences else "note", "; ".join([taken, *sentences[:1]]))
            if len(sentences) > 1:
                Sentences(self, f"What {path.name} holds that was not taken", sentences).open()

        if records:
            self.keeper.keep(self.spec.id, records, told, lambda error: told(str(error)))
        else:
            told()


def _slug(name: str) -> str:
    """A short name made of a long one."""
    return "own-" + (re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "row")


def _free_id(wanted: str, taken: Any) -> str:
    number, id = 2, wanted
    while id in taken:
        id, number = f"{wanted}-{number}", number + 1
    return id
