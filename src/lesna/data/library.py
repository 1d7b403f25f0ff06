"""The library: shipped tables, and over them what the shop keeps in its XDG data directory."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cache, cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from lesna.data.places import shipped_folder
from lesna.data.search import Match, ranked
from lesna.data.shop import Shop, key_fields, key_of
from lesna.data.stored import STORED_TABLES, Stored
from lesna.data.tables_io import Prepare, Row, Table, csv_rows, json_rows
from lesna.data.tool_search import Suits, found_tools
from lesna.model import names
from lesna.model.base import Record, nearest
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import is_there, parse_json, read_text, table_text
from lesna.model.lesson import Lesson
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Taper, Tool
from lesna.model.shown import one_line, shortened
from lesna.model.standard import Standard, standard_name

if TYPE_CHECKING:
    from lesna.model.resolve import CutParts

_FILES = {
    "tools": "tools-generic.csv",
    "holders": "holders-generic.csv",
    "machines": "machines-generic.csv",
    "materials": "workpiece-materials.csv",
    "tapers": "tapers.csv",
    "cutting_data": "cutting-data-baseline.csv",
}
#: what stands in each table, and columns that are called otherwise than fields
_RECORDS: dict[str, type[Any]] = {
    "tools": Tool, "holders": Holder, "machines": Machine, "materials": Material, "tapers": Taper, "cutting_data": CuttingData,
}  # fmt: skip
_COLUMNS = {"tools": names.TOOL_COLUMNS, "holders": names.HOLDER_COLUMNS, "cutting_data": names.DATA_COLUMNS}
#: rows of a file that are read: some twenty times what a large shop keeps
MOST_ROWS = 20_000
#: rows of a file in trouble that are named one by one
_MOST_TOLD = 50
#: how the origin of a shop's row begins
_OWN = "shop library"


class Library:
    """Tables of tools, holders, machines, materials and cutting data, each read when first asked for.

    Parameters
    ----------
    shop : Path or None
        Folder of the shop's own tables; rows there replace shipped ones of the same id.
        Rows that cannot be used are left out and named in `problems`.
    """

    def __init__(self, shop: Path | None = None) -> None:
        self._shop = shop
        #: the shop's own rows in its store, over those in files
        self.stored: Stored = {}
        self.problems: list[str] = []
        #: what the shop's trials say of a cut, where there are any
        self.lessons: Callable[[CutParts], Lesson | None] | None = None
        #: least removals that the shop has set, by family of materials and role
        self.standards: dict[str, Standard] = {}
        #: counts the changes of its tables
        self.version = 0

    def standard_of(self, family: str, role: str) -> Standard | None:
        """The shop's standard for a kind of cut in a family of materials; None where none is set."""
        return self.standards.get(standard_name(family, role))

    def lesson_of(self, parts: CutParts) -> Lesson | None:
        """What trials taught of a cut; None where nothing is known."""
        return None if self.lessons is None else self.lessons(parts)

    def read(self) -> list[str]:
        """Reads every table that nobody has asked for yet; gives `problems`."""
        for what in _FILES:
            getattr(self, what)
        return self.problems

    def keep(self, what: str, *records: Record) -> None:
        """Writes rows into the shop's folder; they are in use at once, and a shipped row of the same id stays as it is."""
        self._own().keep(what, *records)
        self._forget(what)

    def drop(self, what: str, key: Any) -> None:
        """Takes a row out of the shop's folder; a shipped row of the same id comes back (errors as in `keep`)."""
        self._own().drop(what, key)
        self._forget(what)

    def take_stored(self, stored: Stored) -> bool:
        """Puts the rows of the shop's store over those of its files; says whether anything is otherwise than before."""
        changed = [what for what in STORED_TABLES if stored.get(what, ()) != self.stored.get(what, ())]
        self.stored = stored
        for what in changed:
            self._forget(what)
        return bool(changed)

    def is_own(self, what: str, key: Any) -> bool:
        """Whether a row is the shop's own."""
        return str(getattr(self, what).origin(key)).startswith(_OWN)

    def own_rows(self, what: str) -> list[Record]:
        """The shop's own rows of a table."""
        table = getattr(self, what)
        return [table[key] for key in table if self.is_own(what, key)]

    def rows_of(self, what: str, path: Path) -> tuple[list[Record], list[str]]:
        """The rows of a file that somebody wants to take over, and what is wrong with those that cannot be used."""
        beside = Library()
        key, columns, cls = key_fields(what), _COLUMNS.get(what, {}), _RECORDS[what]
        prepare = beside._with_curve if what == "machines" else None
        table: Table[Any] = Table(cls, columns, partial(key_of, what), prepare)
        beside._add_shop_rows(table, path, key)
        return [table[key] for key in table], beside.problems

    def _own(self) -> Shop:
        if self._shop is None:
            raise InputError("there is no folder for the shop's own rows")
        return Shop(self._shop)

    def _forget(self, what: str) -> None:
        """Reads a table anew when it is next asked for."""
        self.__dict__.pop(what, None)
        self.version += 1
        self.problems = [text for text in self.problems if _file_of(what) not in text]

    @cached_property
    def tools(self) -> Table[Tool]:
        """Tools by id."""
        return self._table("tools")

    @cached_property
    def holders(self) -> Table[Holder]:
        """Holders by id."""
        return self._table("holders")

    @cached_property
    def machines(self) -> Table[Machine]:
        """Machines by id, each with its curve."""
        return self._table("machines", self._with_curve)

    @cached_property
    def materials(self) -> Table[Material]:
        """Materials by id."""
        return self._table("materials")

    @cached_property
    def cutting_data(self) -> Table[CuttingData]:
        """Starting values by (data group, substrate)."""
        return self._table("cutting_data")

    @cached_property
    def tapers(self) -> Table[Taper]:
        """Spindle noses by id."""
        return self._table("tapers")

    def find_materials(self, text: str) -> list[Match]:
        """Materials that answer to a designation, best first (see `lesna.data.search`)."""
        return ranked(text, self.materials, ("id", "name", "en", "aisi_uns", "condition", "data_group", "iso_subgroup"))

    def find_tools(self, text: str, suits: Suits | None = None) -> list[Match]:
        """Tools that answer to words and sizes, those that suit the work first (see `lesna.data.tool_search`)."""
        return found_tools(text, self.tools, suits)

    def _with_curve(self, row: dict[str, Any]) -> dict[str, Any]:
        """A machine's row with the curve that it names by its file."""
        name = row.get("curve_file")
        return {**row, "curve": _curve(name, self._shop)} if name and "curve" not in row else row

    def _table(self, what: str, prepare: Prepare | None = None) -> Table[Any]:
        key, table = key_fields(what), _shipped(what).copy(prepare)
        if self._shop is not None:
            for suffix in ("csv", "json"):
                self._add_shop_rows(table, self._shop / f"{_file_of(what)}.{suffix}", key)
        for stored in self.stored.get(what, ()):
            row = Row(stored.origin, stored.values)
            self.problems.extend(self._row_troubles(table, [row], key, f"{_file_of(what)} in"))
        return table

    def _add_shop_rows(self, table: Table[Any], path: Path, key: tuple[str, ...]) -> None:
        if not is_there(path):
            return
        try:
            text = table_text(path)
            rows = csv_rows(text) if path.suffix == ".csv" else json_rows(text)
        except (FileProblem, InputError) as error:
            self.problems.append(f"{path}: {error}")
            return
        if len(rows) > MOST_ROWS:
            self.problems.append(
                f"{path}: holds {len(rows):,} rows; the first {MOST_ROWS:,} are read, the others are left out"
            )
        if path.suffix == ".csv":
            rows = self._without_unknown_columns(rows, table, path)
        whole = [row for row in rows if not row.trouble]
        if whole and not any(row.values.get(key[0]) for row in whole):
            self.problems.append(f"{path}: no row says its '{key[0]}'; a column of this name is needed")
            return
        told = list(self._row_troubles(table, rows[:MOST_ROWS], key, path))
        self.problems.extend(told[:_MOST_TOLD])
        if len(told) > _MOST_TOLD:
            self.problems.append(f"{path}: {len(told) - _MOST_TOLD:,} further rows are in trouble")

    def _without_unknown_columns(self, rows: list[Row], table: Table[Any], path: Path) -> list[Row]:
        """A column that nobody knows costs itself, not the rows."""
        unknown = {name for row in rows for name in row.values} - table.column_names
        for name in sorted(unknown)[:_MOST_TOLD]:
            guess = nearest(name, table.column_names)
            hint = f"; the nearest known one is '{guess}'" if guess else ""
            self.problems.append(f"{path}: the column '{one_line(shortened(name))}' is not known and not read{hint}")
        return [replace(row, values={k: v for k, v in row.values.items() if k not in unknown}) for row in rows]

    def _row_troubles(
        self, table: Table[Any], rows: list[Row], key: tuple[str, ...], path: Path | str
    ) -> Iterator[str]:
        """Takes rows in; sentences about those that are left out, and those that stand twice."""
        places: dict[Any, str] = {}
        for found in rows:
            origin, row = f"{path}{', ' if isinstance(path, Path) else ' '}{found.place}", found.values
            trouble = found.trouble
            if not trouble and not all(row.get(name) for name in key):
                trouble = f"{key[0]}: is missing and must be given"
            if trouble:
                yield f"{origin}: {trouble}; the row is left out"
                continue
            row_key = tuple(str(row[name]) for name in key) if len(key) > 1 else str(row[key[0]])
            former = (table.raw(row_key), table.origin(row_key)) if row_key in table else None
            table.add(row, f"{_OWN}{' ' if isinstance(path, Path) else ': '}{origin}")
            try:
                table[row_key]
            except InputError as error:
                yield f"{origin}: {error}; the row is left out"
                table.discard(row_key)
                if former:
                    table.add(*former)
                continue
            if row_key in places:
                name = shortened(" / ".join(row_key) if isinstance(row_key, tuple) else row_key)
                yield f"{origin}: {' / '.join(key)}: '{name}' stands in {places[row_key]} as well; this row is used"
            places[row_key] = found.place


@cache
def _shipped(what: str) -> Table[Any]:
    """A shipped table: every library of a process begins with it."""
    key, path = key_fields(what), shipped_folder() / "tables" / _FILES[what]
    table: Table[Any] = Table(_RECORDS[what], _COLUMNS.get(what, {}), partial(key_of, what))
    for row in csv_rows(read_text(path)):
        table.add(row.values, f"{path.name}, row {' / '.join(row.values[name] for name in key)}")
    return table


def _file_of(what: str) -> str:
    """Name of a table's file without its suffix."""
    return what.replace("_", "-")


def _curve(name: Any, shop: Path | None) -> Any:
    if not isinstance(name, str):
        raise InputError("must be the name of a file", "curve_file")
    try:
        path = next(
            (f / name for f in (shop, shipped_folder() / "tables") if f is not None and (f / name).exists()), None
        )
        if path is not None:
            return parse_json(read_text(path))
    except (OSError, InputError) as error:
        said = getattr(error, "strerror", None) or str(error)  # of the system in words, of ours whole
        raise InputError(f"'{shortened(name, 60)}': {said}", "curve_file") from None
    raise InputError(f"the file '{shortened(name, 60)}' is not there", "curve_file")
