"""Bank: what the shop keeps of its trials and proven cuts, with who changed what; in and out of files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QHeaderView, QPushButton, QVBoxLayout, QWidget

from lesna.data.stored import STORED_TABLES
from lesna.desktop.bank.beside_face import BesideFace
from lesna.desktop.bank.run_plan_face import RunPlanFace
from lesna.desktop.cut_answers import CutAnswers
from lesna.desktop.dialogs import ask_where_to_save
from lesna.desktop.session import Session
from lesna.desktop.trials.correcting import CorrectDialog
from lesna.desktop.trials.standard_dialog import StandardDialog
from lesna.desktop.widgets.faces import FacesPanel
from lesna.desktop.widgets.painting import Panel, scrolled
from lesna.desktop.widgets.plain_table import add_row, chosen_row, plain_table
from lesna.desktop.widgets.words import Words
from lesna.learning.recipes import Converted, Like, adopted, takes
from lesna.learning.told_batch import proof_words
from lesna.model import units
from lesna.model.errors import LesnaError
from lesna.model.facts import fact_of
from lesna.model.files import write_atomic
from lesna.model.job import Cut
from lesna.model.shown import counted
from lesna.model.standard import standard_name
from lesna.model.trials import RETIRED, WEAR_KINDS, Reading
from lesna.planning.cut.features import volume
from lesna.planning.cut.result import Result

if TYPE_CHECKING:
    from lesna.bank.known_recipes import KnownRecipes
    from lesna.bank.store import Bank, Change, Kept, Kind

#: kinds that are shown beside readings, and what a face calls them
_KINDS = (("recipes", "Recipes"), ("standards", "Standards"), ("library", "Library"))
#: what a row of the library is called
_ROWS = {
    "tools": "tool", "holders": "holder", "machines": "machine", "materials": "material", "cutting_data": "starting values",
}  # fmt: skip


@dataclass(frozen=True)
class Shelves:
    """What is kept, as it was read at once."""

    readings: tuple[Reading, ...]
    records: dict[str, tuple[Kept, ...]]
    counts: dict[str, int]
    waiting: int
    like: tuple[Like, ...]


#: how to begin
_NOTHING = "Nothing is kept yet: log a look in the step Trial, or import readings of another seat."


class BankWorkspace(QWidget):
    """Tables of what is kept, one entry with its history beside them."""

    def __init__(self, session: Session, answers: CutAnswers) -> None:
        super().__init__()
        self.session, self.shop = session, answers.bank
        self.shelves: Shelves | None = None
        self.readings = plain_table(
            "Readings of the whole shop", ("Trial, edge", "day", "min", "VB", "wear", "edge was", "who"), 6
        )
        self.records = {
            kind: plain_table(
                name, ("Name", "proof", "distance") if kind == "recipes" else ("Name", "for", "changed by", "on"), 6
            )
            for kind, name in _KINDS
        }
        self.beside, self.run_plan = BesideFace(session, self.shop), RunPlanFace(session, answers)
        self.faces = FacesPanel({
            "Readings": self.readings, **{name: self.records[kind] for kind, name in _KINDS},
            "Book, model, bank": self.beside, "Run plan": self.run_plan,
        })  # fmt: skip
        self.faces.faces.stack.currentChanged.connect(lambda place: self._on_face())
        self.entry, self.past = Words(), Words()
        for words in (self.entry, self.past):
            words.setWordWrap(True)
        self.past.setObjectName("faint")
        self.picture = Words()
        self.picture.hide()
        area, column = scrolled(self.picture, self.entry, self.past)
        column.addStretch(1)
        self.detail = Panel("Nothing is chosen")
        self.detail.setFixedWidth(330)
        self.detail.body.addWidget(area, 1)
        self.correct = QPushButton("Correct this reading ...")
        self.correct.clicked.connect(lambda checked=False: self._correct())
        self.adopt = QPushButton("Adopt in this cut")
        self.adopt.clicked.connect(lambda checked=False: self._adopt())
        self.adopt.hide()
        self.detail.body.addWidget(self.correct)
        self.detail.body.addWidget(self.adopt)
        self.words = Words()
        self.words.setObjectName("faint")
        self.words.setWordWrap(True)
        self._assemble()
        self.shop.changed.connect(self.refresh)
        session.cut_selected.connect(self._on_other_cut)
        for kind, table in (("readings", self.readings), *self.records.items()):
            table.itemSelectionChanged.connect(lambda kind=kind: self._show_entry(kind))

    def _assemble(self) -> None:
        buttons = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        rows: tuple[tuple[str, Callable[[], None]], ...] = (
            ("Import ...", self._ask_import), ("Export ...", self._ask_export), ("Check", self.check),
            ("Standard ...", self.standard), ("Bring back the copy", self.bring_back),
        )  # fmt: skip
        for name, action in rows:
            self.buttons[name] = QPushButton(name)
            self.buttons[name].clicked.connect(lambda checked=False, action=action: action())
            buttons.addWidget(self.buttons[name])
        buttons.addWidget(self.words, 1)
        middle = QHBoxLayout()
        middle.setSpacing(8)
        middle.addWidget(self.faces, 1)
        middle.addWidget(self.detail)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 10, 8)
        column.addLayout(middle, 1)
        column.addLayout(buttons)
        for table in self.records.values():
            table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.readings.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)

    def _on_face(self) -> None:
        """One entry is told of beside the tables alone."""
        self.detail.setVisible(self.faces.faces.stack.currentWidget() not in (self.beside, self.run_plan))

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _behind(self, name: str, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Does something behind the window; what goes wrong is said under the tables."""
        self.shop.runner.run(
            f"bank {name}", lambda pulse: work(), done, lambda text: self._say(text, wrong=True), queue="disk"
        )

    # ------------------------------------------------------------ following

    def _on_other_cut(self) -> None:
        """Recipes lie otherwise far from another cut: what was told of the former one goes."""
        self.shelves = None
        self.records["recipes"].setRowCount(0)
        self.refresh()

    def refresh(self) -> None:
        """Reads what is kept behind the window, while somebody looks."""
        if not self.isVisible():
            return
        bank, trouble = self.shop.bank, self.shop.trouble
        self.buttons["Bring back the copy"].setVisible(bool(trouble) and _has_copy(self.shop.address))
        for name in ("Export ...", "Check", "Standard ..."):
            self.buttons[name].setEnabled(bank is not None)
        if bank is None:
            self._say(trouble or _NOTHING, wrong=bool(trouble))
            return
        result, recipes = self.session.result, self.shop.recipes
        assert recipes is not None  # there with its bank
        self._behind("shelves", lambda: _shelves(bank, recipes, result), self._show)

    def _show(self, shelves: Shelves) -> None:
        self.shelves = shelves
        self.readings.setRowCount(0)
        for one in shelves.readings:
            self._add_reading(one)
        for kind, table in self.records.items():
            table.setRowCount(0)
            for like in shelves.like if kind == "recipes" else ():
                add_row(table, (like.name, proof_words(like), f"{like.distance:.2f}"), ("", "", "0 is the same set-up"))
            for kept in shelves.records[kind] if kind != "recipes" else ():
                what = _ROWS.get(kept.kind) or _for(kept.data)
                row = kept.name, what, kept.who, kept.at[:10]
                add_row(table, row, ("", "", "", f"version {kept.version}"), names=range(len(row)))
        bank = self.shop.bank
        assert bank is not None  # shelves came of it
        where = "sample bank, this window's own copy" if self.shop.sample else bank.label
        state = f"; {bank.read_only}" if bank.read_only else ""
        waits = f"; {counted(shelves.waiting, 'file')} of readings waits for the server" if shelves.waiting else ""
        held = f"{counted(shelves.counts['edges'], 'edge')}, {counted(shelves.counts['readings'], 'reading')}"
        self._say(f"{where}: {held}{state}{waits}", wrong=False)

    def _add_reading(self, one: Reading) -> None:
        land = "" if one.vb_mm is None else units.CHIP.text(one.vb_mm, self.session.system)
        words = (f"{one.trial} / {one.edge}", one.taken_on, f"{one.minutes:g}", land, WEAR_KINDS[one.wear_kind],
                 RETIRED[one.retired].removeprefix("taken out "), one.who)  # fmt: skip
        is_lost = one.retired == "worn" or one.is_broken
        add_row(self.readings, words, (one.note, *[""] * 6), alarm=5 if is_lost else None)

    def _say(self, sentence: str, *, wrong: bool) -> None:
        self.words.mark("wrong" if wrong else "faint")
        self.words.setText(sentence[:1].upper() + sentence[1:])

    # ------------------------------------------------------------ one entry

    def _chosen_reading(self) -> Reading | None:
        place = chosen_row(self.readings)
        return None if place is None or self.shelves is None else self.shelves.readings[place]

    def _show_entry(self, kind: str) -> None:
        table = self.readings if kind == "readings" else self.records[kind]
        place = chosen_row(table)
        bank = self.shop.bank
        if place is None or self.shelves is None or bank is None:
            return
        from lesna.bank.store import name_of, plain

        self.correct.setVisible(kind == "readings")
        lines: list[str] = []
        kept_as = kind
        if kind == "readings":
            reading = self.shelves.readings[place]
            title = f"{reading.edge} at {reading.minutes:g} min"
            data, name = plain(reading), name_of(reading)
        elif kind == "recipes":
            like = self.shelves.like[place]
            title, data, name = like.name, dict(like.data), like.name
            lines = _likeness_lines(like) + self._conversions(like) + self._taken(like)
        else:
            kept = self.shelves.records[kind][place]
            kept_as = kept.kind
            title, data, name = kept.name, kept.data, kept.name
        self.adopt.setVisible(kind == "recipes")
        self.detail.title.setText(title)
        self.entry.setText("\n".join([*lines, *_lines(data, self.session.system)]))
        self.past.setText("")
        self.picture.hide()
        self.shop.runner.cancel("bank picture")  # that of the entry before
        if kind == "readings":
            self._behind("picture", lambda: _picture_at(bank, reading), self._show_picture)
        self._behind("history", lambda: bank.history(kept_as, name), self._show_past)

    def _show_picture(self, content: bytes | None) -> None:
        """The picture that was measured for a look, where one is kept."""
        if content is not None:
            pixmap = QPixmap()
            pixmap.loadFromData(content)
            self.picture.setPixmap(pixmap.scaledToWidth(_PICTURE, Qt.TransformationMode.SmoothTransformation))
            self.picture.show()

    def _show_past(self, changes: list[Change]) -> None:
        self.past.setText("\n".join(_change_words(change) for change in changes))

    def _conversions(self, like: Like) -> list[str]:
        """What each number of a recipe becomes in the chosen cut, and how."""
        try:
            _, converted = adopted(self.session.result, like.data)
        except (KeyError, TypeError, ValueError, ZeroDivisionError):
            self.adopt.setEnabled(False)
            return ["This recipe does not say enough to be adopted.", ""]
        self.adopt.setEnabled(True)
        system = self.session.system
        return ["Adopted in this cut:", *(f"   {_converted(one, system)}" for one in converted), ""]

    def _taken(self, like: Like) -> list[str]:
        """What the chosen cut's feature would take as the recipe cuts."""
        removed = volume(self.session.cut.feature)
        found = None if removed is None else takes(like.data, removed)
        if removed is None or found is None:
            return []
        minutes, edges = found
        used = "" if edges is None else f", {units.PLAIN.text(edges, 'metric')} edges"
        return [
            f"{units.BULK.full(removed, self.session.system)} of this feature so: {units.clock(minutes)} min:s in the cut{used}",
            "",
        ]

    def _adopt(self) -> None:
        """Sets the chosen cut as the recipe was, converted; undo takes it back."""
        place = chosen_row(self.records["recipes"])
        if place is None or self.shelves is None:
            return
        like = self.shelves.like[place]
        values, _ = adopted(self.session.result, like.data)
        if self.session.attempt(lambda: self.session.edit_cut(f"Adopt {like.name}", **values)):
            self.session.say("note", f"{like.name} is adopted in {self.session.cut.name}; undo takes it back")

    def _correct(self) -> None:
        reading = self._chosen_reading()
        if reading is not None and self.shop.bank is not None:
            CorrectDialog(self.session, self.shop, reading, self).open()

    # ------------------------------------------------------------ files

    def _ask_import(self) -> None:
        folder = str(self.session.folder or Path.home())
        name, _ = QFileDialog.getOpenFileName(self, "Import readings and records", folder, "Readings (*.csv *.json)")
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Takes a file's readings and records in, behind the window."""

        def work(bank: Bank) -> Any:
            from lesna.bank.exchange import found_in, take_in
            from lesna.bank.store import Source

            return take_in(bank, found_in(path), Source())

        def done(found: Any) -> None:
            from lesna.bank.exchange import MOST_TOLD, told
            from lesna.desktop.widgets.sentences import Sentences

            self.session.say("note", f"{path.name}: {told(found)}")
            sentences = [*found.told, *found.refused[:MOST_TOLD]]
            if sentences:
                Sentences(self, f"What {path.name} says that was not taken as it stands", sentences).open()

        self.shop.write("import", work, done, lambda text: self.session.say("wrong", f"{path.name}: {text}"))

    def _ask_export(self) -> None:
        suggested = (self.session.folder or Path.home()) / "bank.json"
        path = ask_where_to_save(self, "Export the bank", suggested, "Everything (*.json);;Readings (*.csv)", "json")
        if path is not None:
            self.write_file(path)

    def write_file(self, path: Path) -> None:
        """Writes everything, or the readings as CSV, behind the window."""
        bank = self.shop.bank
        if bank is None or self.session.is_job_itself(path):
            return

        def work() -> None:
            from lesna.bank.exchange import csv_of, json_of

            text = csv_of(bank.readings()) if path.suffix.lower() == ".csv" else json_of(bank)
            write_atomic(path, text.encode())

        self._behind("export", work, lambda _: self.session.say("note", f"{path.name} is written"))

    def check(self) -> None:
        """Looks whether the store is whole, behind the window."""
        bank = self.shop.bank
        if bank is None:
            return

        def told(problems: list[str]) -> None:
            self._say("; ".join(problems) if problems else "The bank is sound", wrong=bool(problems))

        self._behind("check", bank.problems, told)

    def standard(self) -> None:
        """The shop's standard for cuts like the chosen one: looked at, set, changed or taken out."""
        bank, parts = self.shop.bank, self.session.result.setup.parts
        if bank is None:
            return
        name = standard_name(parts.material.data_group, parts.cut.role)

        def show(kept: Kept | None) -> None:
            StandardDialog(self.session, self.shop, kept, self).open()

        self._behind("standard", lambda: bank.record("standards", name), show)

    def bring_back(self) -> None:
        """Puts the copy of the day in the place of a file that cannot be opened; that one stays beside it."""
        address = self.shop.address

        def work() -> Path:
            from lesna.bank.opening import file_of, from_backup, url_of

            path = file_of(url_of(address))
            assert path is not None  # the button is there for a file with a copy only
            return from_backup(path)

        def done(aside: Path) -> None:
            self.session.say("note", f"The copy of the day is in use; what was there lies in {aside.name}")
            self.shop.begin()

        self._behind("brought back", work, done)


def _has_copy(address: str) -> bool:
    from lesna.bank.opening import backup_of, file_of, url_of

    try:
        path = file_of(url_of(address))
    except LesnaError:  # no address at all; that is said where it is opened
        return False
    return path is not None and backup_of(path).exists()


def _shelves(bank: Bank, recipes: KnownRecipes, result: Result) -> Shelves:
    from lesna.bank.waiting import folder_beside, waiting
    from lesna.data.places import shop_folder

    newest = sorted(bank.readings(), key=lambda one: (one.taken_on, one.trial, one.edge, one.minutes), reverse=True)
    records: dict[str, tuple[Kept, ...]] = {
        "recipes": tuple(bank.records("recipes")), "standards": tuple(bank.records("standards")),
        "library": tuple(one for what in STORED_TABLES for one in bank.records(cast("Kind", what))),
    }  # fmt: skip
    like = recipes.like(result, _MOST_RECIPES)
    waits = len(waiting(folder_beside(shop_folder())))
    return Shelves(tuple(newest[:_MOST_ROWS]), records, bank.counts(), waits, tuple(like))


def _likeness_lines(like: Like) -> list[str]:
    """What differs between a recipe and the chosen cut."""
    if not like.differences:
        return ["The very set-up of this cut.", ""]
    return [
        "Differs from this cut in",
        *(
            f"   {what}: {here} here, {there} there" if here else f"   {what}: {there}"
            for what, here, there in like.differences
        ),
        "",
    ]


def _converted(one: Converted, system: units.System) -> str:
    shown = fact_of(Cut, one.field)
    before, after = (shown.quantity.full(value, system) for value in (one.there, one.here))
    change = after if before == after else f"{before} to {after}"
    return f"{shown.label} {change}: {one.how}"


def _picture_at(bank: Bank, reading: Reading) -> bytes | None:
    """The picture of an edge that lies nearest to a look in time; None where none was taken for it."""
    kept = [
        (abs(minutes - reading.minutes), content)
        for _, minutes, _, content in bank.pictures(reading.trial, reading.edge)
    ]
    near = min(kept, key=lambda one: one[0], default=None)
    return near[1] if near is not None and near[0] <= _SAME_LOOK else None


#: minutes within which a picture is of a look
_SAME_LOOK = 0.5
#: width of a picture in the panel [px]
_PICTURE = 290
#: rows of readings that the table holds
_MOST_ROWS = 2000
#: recipes that are listed, the nearest
_MOST_RECIPES = 300


def _for(data: dict[str, Any]) -> str:
    """What a record is for, in few words."""
    setup = data.get("setup", data)
    return ", ".join(str(setup[key]) for key in ("material", "strategy") if setup.get(key)).replace("_", " ")


def _lines(data: dict[str, Any], system: units.System, indent: str = "") -> list[str]:
    """A record line by line; what a reading has too is called as there."""
    out = []
    for key, value in data.items():
        if isinstance(value, dict):
            out += [f"{indent}{key.capitalize()}", *_lines(value, system, f"{indent}   ")]
        elif value not in (None, "", []):
            out.append(f"{indent}{_named(key)}  {_shown(key, value, system)}")
    return out


def _named(key: str) -> str:
    label = fact_of(Reading, key).label if key in Reading.model_fields else ""
    return label or key.replace("_", " ").capitalize()


def _shown(key: str, value: Any, system: units.System) -> str:
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if isinstance(value, (int, float)) and key in Reading.model_fields:
        return fact_of(Reading, key).quantity.full(float(value), system)
    return f"{value:g}" if isinstance(value, float) else str(value).replace("_", " ")


def _change_words(change: Change) -> str:
    before, after = change.before or {}, change.after or {}
    keys = [key for key in sorted({*before, *after}) if before.get(key) != after.get(key)]
    what = ", ".join(keys[:4]) if change.before and change.after else "made" if change.after else "taken out"
    where = f", trial {change.trial}" if change.trial else ""
    return f"{change.at[:16].replace('T', ' ')}  {change.who or 'somebody'}: {what}{where}"
