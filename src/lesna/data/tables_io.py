"""From rows of a CSV or JSON table to library records, each row checked when it is first asked for."""

from __future__ import annotations

import csv
import io
import re
import typing
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from lesna.model.base import Record
from lesna.model.errors import InputError
from lesna.model.files import parse_json

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
            row = self._rows[key] if self._prepare is None else self._prepare(self._rows[key])
            self._records[key] = self._cls.read(typed_row(row, self._cls, self._columns))
        return self._records[key]

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

    Commas, semicolons or tabs between the cells, quoted cells, a line ``sep=;`` in front, a byte-order mark. A row with
    more cells than the header is in trouble of its own.

    Raises
    ------
    InputError
        When a column name stands twice, or the text is no CSV.
    """
    text = text.lstrip("\ufeff")
    before = 0
    first, _, rest = text.partition("\n")
    if first.strip().lower().startswith("sep=") and len(first.strip()) == 5:
        mark, text, before = first.strip()[4], rest, 1
    else:
        mark = _separator(first)
    try:
        reader = csv.DictReader(io.StringIO(text), restkey="", delimiter=mark)
        header = [name.strip() for name in reader.fieldnames or []]
        if len({name for name in header if name}) != len([name for name in header if name]):
            raise InputError("a column name stands twice in the header")
        reader.fieldnames = header
        return [found for row in reader if (found := _csv_row(row, f"line {reader.line_num + before}")).values]
    except csv.Error as error:
        raise InputError(f"cannot be read as CSV: {error}") from None


def _separator(header: str) -> str:
    """The sign between the cells: the one that stands most often outside quotes in the header."""
    outside = "".join(header.split('"')[::2])
    return max(",;\t", key=outside.count)


def _csv_row(row: dict[str, Any], place: str) -> Row:
    extra = [cell for cell in row.pop("", None) or [] if str(cell).strip()]
    values = {key: value.strip() for key, value in row.items() if key and value is not None and value.strip()}
    return Row(place, values, "has more cells than the header" if extra else "")


def json_rows(text: str) -> list[Row]:
    """Rows of a JSON text: a list of objects; an entry that is none is in trouble of its own.

    Raises
    ------
    InputError
        When the text is no JSON list.
    """
    rows = parse_json(text)
    if not isinstance(rows, list):
        raise InputError("must be a list of objects")
    return [
        Row(f"entry {number}", row, "") if isinstance(row, dict)
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
    if any(typing.get_origin(kind) is tuple for kind in kinds):
        return [_number(part, column) for part in value.split(";") if part.strip()]
    if value.startswith("{") and str not in kinds:
        return parse_json(value)
    if bool in kinds:
        return _truth(value, column)
    if kinds & {int, float}:
        number = _number(value, column)
        return int(number) if int in kinds and number.is_integer() else number
    return value


def _kinds(annotation: Any) -> set[Any]:
    """What a field may be."""
    return set(typing.get_args(annotation)) or {annotation}


def _number(text: str, column: str) -> float:
    """A number with a point or a comma before its decimals, and spaces or the other sign between thousands."""
    plain = re.sub(r"[ \xa0\u202f']", "", text)
    if "," in plain and "." in plain:
        thousands = "," if plain.rindex(".") > plain.rindex(",") else "."
        plain = plain.replace(thousands, "")
    try:
        return float(plain.replace(",", "."))
    except ValueError:
        raise InputError(f"must be a number, got '{text}'", column) from None


def _truth(value: str, column: str) -> bool:
    known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if value.lower() not in known:
        raise InputError(f"must be yes or no, got '{value}'", column)
    return known[value.lower()]
