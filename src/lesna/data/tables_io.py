"""From rows of a CSV or JSON table to library records, each row checked when it is first asked for."""

from __future__ import annotations

import csv
import io
import typing
from collections.abc import Callable, Iterator, Mapping
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


def csv_rows(text: str) -> list[dict[str, Any]]:
    """Rows of a CSV text; empty cells are left out.

    Raises
    ------
    InputError
        When a row has more cells than the header, a column name stands twice, or the text is no CSV.
    """
    try:
        return _csv_rows(csv.DictReader(io.StringIO(text), restkey=""))
    except csv.Error as error:
        raise InputError(f"cannot be read as CSV: {error}") from None


def _csv_rows(reader: csv.DictReader[str]) -> list[dict[str, Any]]:
    header = reader.fieldnames or []
    if len(set(header)) != len(header):
        raise InputError("a column name stands twice in the header")
    rows = []
    for row in reader:
        if "" in row:
            raise InputError(f"line {reader.line_num} has more cells than the header")
        rows.append({key: value.strip() for key, value in row.items() if value is not None and value.strip()})
    return rows


def json_rows(text: str) -> list[dict[str, Any]]:
    """Rows of a JSON text: a list of objects.

    Raises
    ------
    InputError
        When the text is no JSON list of objects.
    """
    rows = parse_json(text)
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise InputError("must be a list of objects")
    return rows


def typed_row(row: dict[str, Any], cls: type[Record], columns: dict[str, str]) -> dict[str, Any]:
    """The row with the text cells of number and yes/no columns turned into what the record expects."""
    return {key: _typed(value, cls, columns.get(key, key), key) for key, value in row.items()}


def _typed(value: Any, cls: type[Record], field: str, column: str) -> Any:
    info = cls.model_fields.get(field)
    if info is None or not isinstance(value, str) or typing.get_origin(info.annotation) is tuple:
        return value
    kinds = set(typing.get_args(info.annotation)) or {info.annotation}
    if bool in kinds:
        return _truth(value, column)
    if kinds & {int, float}:
        try:
            number = float(value)
        except ValueError:
            raise InputError(f"must be a number, got '{value}'", column) from None
        return int(number) if int in kinds and number.is_integer() else number
    return value


def _truth(value: str, column: str) -> bool:
    known = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
    if value.lower() not in known:
        raise InputError(f"must be yes or no, got '{value}'", column)
    return known[value.lower()]
