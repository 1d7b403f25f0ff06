"""From rows of a CSV or JSON table to library records, each row checked when it is first asked for."""

from __future__ import annotations

import contextlib
import csv
import re
import typing
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from lesna.model.base import Record
from lesna.model.errors import InputError
from lesna.model.files import UNREADABLE, parse_json
from lesna.model.shown import shortened

R = TypeVar("R", bound=Record)
#: completes a raw row before it is checked
Prepare = Callable[[dict[str, Any]], dict[str, Any]]


class Table(Mapping[Any, R], Generic[R]):
    """A table of records that completes and validates a row on first use and remembers where each row came from."""

    def __init__(
        self,
        cls: type[R],
        columns: dict[str, str],
        key: Callable[[dict[str, Any]], Any],
        prepare: Prepare | None = None,
    ) -> None:
        self._cls, self._columns, self._key, self._prepare = cls, columns, key, prepare
        self._rows: dict[Any, dict[str, Any]] = {}
        self._records: dict[Any, R] = {}
        self._origins: dict[Any, str] = {}
        self._under: Table[R] | None = None

    def copy(self, prepare: Prepare | None = None) -> Table[R]:
        """A table with the same rows to which others may be added; those that nothing completes otherwise are checked once for both."""
        made = Table(self._cls, self._columns, self._key, prepare)
        made._rows, made._origins = dict(self._rows), dict(self._origins)
        made._under = self if prepare is None else None
        return made

    @property
    def column_names(self) -> set[str]:
        """What a column may be called."""
        return {*self._cls.model_fields, *self._columns}

    def add(self, row: dict[str, Any], origin: str) -> None:
        """Takes in one raw row; a later row with the same key replaces an earlier one."""
        key = self._key(row)
        self._rows[key] = row
        self._records.pop(key, None)
        self._origins[key] = origin

    def discard(self, key: Any) -> None:
        """Forgets a row."""
        self._rows.pop(key, None)
        self._records.pop(key, None)

    def origin(self, key: Any) -> str:
        """Table and row that a record came from, for display."""
        return self._origins.get(key, "")

    def raw(self, key: Any) -> dict[str, Any]:
        """The row as it stands in the table."""
        return self._rows[key]

    def __getitem__(self, key: Any) -> R:
        if key not in self._records:
            self._records[key] = self._checked(key, self._rows[key])
        return self._records[key]

    def _checked(self, key: Any, row: dict[str, Any]) -> R:
        if self._under is not None and self._under._rows.get(key) is row:
            return self._under[key]
        return self._cls.read(typed_row(row if self._prepare is None else self._prepare(row), self._cls, self._columns))

    def __iter__(self) -> Iterator[Any]:
        return iter(self._rows)

    def __len__(self) -> int:
        return len(self._rows)


@dataclass(frozen=True)
class Row:
    """One row of a file: where it stands, what it says, and why it cannot be used where that is known already."""

    place: str
    values: dict[str, Any]
    trouble: str = ""


def csv_rows(text: str) -> list[Row]:
    """Rows of a CSV text as spreadsheet programs write it; empty cells and empty lines are left out.

    Commas, semicolons or tabs between the cells, quoted cells, a line ``sep=;`` in front, a byte-order mark, any line ends. A row
    that cannot be told apart into the header's columns is in trouble of its own, and the next one begins on its next line.

    Raises
    ------
    InputError
        When a column name stands twice, or the header cannot be read.
    """
    lines = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    said = lines[0].strip(" ")
    declared = said.lower().startswith("sep=") and len(said) == 5 and said[4] not in _NO_SEPARATORS
    found = _csv_records(lines, 1 if declared else 0, said[4] if declared else _separator(lines[0]))
    first = next(found, None)
    if first is None:
        return []
    if first.trouble:
        raise InputError(f"cannot be read as CSV: in its header {first.trouble}")
    header = [name.strip() for name in first.cells]
    if "".join(header).count(UNREADABLE) > len(header) / 2:
        raise InputError("cannot be read as CSV: its header holds bytes that are no text (UTF-8 is needed)")
    if twice := next((name for name in header if name and header.count(name) > 1), None):
        raise InputError(f"the column name '{shortened(twice)}' stands twice in the header")
    return [row for record in found if (row := _csv_row(header, record)) is not None]


#: signs that no separator can be
_NO_SEPARATORS = "\"'\\ \x00"


def _separator(header: str) -> str:
    """The sign between the cells: the one that stands most often outside quotes in the header."""
    outside = "".join(header.split('"')[::2])
    return max(",;\t", key=outside.count)


@dataclass(frozen=True)
class _CsvRecord:
    place: str
    cells: list[str]
    trouble: str = ""


#: what the csv module says of a row -> what is wrong with it
_CSV_TROUBLES = {
    "unexpected end of data": "a quote is opened and never closed",
    "expected after": "a quote stands inside a quoted cell (it is written twice there), or one is not closed",
    "field larger": f"a cell holds more than {csv.field_size_limit():,} characters",
}


def _csv_records(lines: list[str], at: int, mark: str) -> Iterator[_CsvRecord]:
    """Cells of each row with the lines on which it stands, as they are counted in the file."""
    while at < len(lines):
        reader = csv.reader((f"{lines[k]}\n" for k in range(at, len(lines))), delimiter=mark, strict=True)
        begin = at
        try:
            while True:
                begin = at + reader.line_num
                cells = next(reader)
                end = at + reader.line_num
                place = f"line {begin + 1}" if end == begin + 1 else f"lines {begin + 1} to {end}"
                if any(cell.strip() for cell in cells):
                    yield _CsvRecord(place, cells)
        except StopIteration:
            return
        except csv.Error as error:
            words = next((words for said, words in _CSV_TROUBLES.items() if said in str(error)), str(error))
            yield _CsvRecord(f"line {begin + 1}", [], words)
            at = begin + 1


def _csv_row(header: list[str], record: _CsvRecord) -> Row | None:
    trouble, cells = record.trouble, [cell.strip() for cell in record.cells]
    if any(cells[len(header) :]):
        trouble = "has more cells than the header"
    values = {key: cell for key, cell in zip(header, cells, strict=False) if key and cell}
    return Row(record.place, values, trouble or _foreign(values)) if values or trouble else None


def _foreign(values: dict[str, Any]) -> str:
    """What is wrong with a row that holds what no text holds."""
    for value in values.values():
        said = value if isinstance(value, str) else str(value)
        if UNREADABLE in said:
            return "holds a byte that is no text (UTF-8 is needed)"
        # within a list it is written as an escape; in a text that escape is four letters like any others
        if "\x00" in said or (not isinstance(value, str) and "\\x00" in said):
            return "holds a NUL byte"
    return ""


def json_rows(text: str) -> list[Row]:
    """Rows of a JSON text: a list of objects; an entry that is none is in trouble of its own."""
    rows = parse_json(text)
    if not isinstance(rows, list):
        raise InputError("must be a list of objects")
    return [
        Row(f"entry {number}", row, _foreign(row)) if isinstance(row, dict)
        else Row(f"entry {number}", {}, "must be an object with named fields")
        for number, row in enumerate(rows, start=1)
    ]  # fmt: skip


def typed_row(row: dict[str, Any], cls: type[Record], columns: dict[str, str]) -> dict[str, Any]:
    """The row with the text cells of number and yes/no columns turned into what the record expects."""
    return {key: _typed(value, cls, columns.get(key, key), key) for key, value in row.items()}


def _typed(value: Any, cls: type[Record], field: str, column: str) -> Any:
    info = cls.model_fields.get(field)
    if info is None or not isinstance(value, str):
        return value
    kinds = {info.annotation} if typing.get_origin(info.annotation) is tuple else _kinds(info.annotation)
    lists = [kind for kind in kinds if typing.get_origin(kind) is tuple]
    if any(_is_record(part) for kind in lists for part in typing.get_args(kind)):
        return value  # the record itself reads the text of each
    if lists:
        return [number_in(part, column) for part in value.split(";") if part.strip()]
    if value.startswith("{") and str not in kinds:
        try:
            return parse_json(value)
        except InputError as error:
            raise InputError(f"cannot be read: {error}", column) from None
    if bool in kinds:
        return _truth(value, column)
    if kinds & {int, float}:
        number = number_in(value, column)
        return int(number) if int in kinds and number.is_integer() else number
    return value


def _is_record(annotation: Any) -> bool:
    return isinstance(annotation, type) and issubclass(annotation, Record)


def _kinds(annotation: Any) -> set[Any]:
    """What a field may be."""
    return set(typing.get_args(annotation)) or {annotation}


def number_in(text: str, column: str) -> float:
    """A number with a point or a comma before its decimals, and spaces or the other sign between thousands."""
    with contextlib.suppress(ValueError):
        return float(text)
    plain = re.sub(r"[ \xa0\u202f']", "", text)
    if "," in plain and "." in plain:
        thousands = "," if plain.rindex(".") > plain.rindex(",") else "."
        plain = plain.replace(thousands, "")
    try:
        return float(plain.replace(",", "."))
    except ValueError:
        raise InputError(f"must be a number, got '{shortened(text)}'", column) from None


def _truth(value: str, column: str) -> bool:
    known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if value.lower() not in known:
        raise InputError(f"must be yes or no, got '{shortened(value)}'", column)
    return known[value.lower()]
