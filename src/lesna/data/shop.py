"""The shop's own rows on disk: one JSON list a table, in the open format that the library reads."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from lesna.model.base import Record
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import is_there, parse_json, read_text, write_atomic

#: fields that tell the rows of a table apart
_KEYS = {"cutting_data": ("data_group", "substrate")}


def key_fields(what: str) -> tuple[str, ...]:
    """Fields that tell the rows of a table apart."""
    return _KEYS.get(what, ("id",))


def key_of(what: str, row: Mapping[str, Any]) -> Any:
    """What tells a row of a table from its others: its id, or the pair of both fields."""
    parts = tuple(str(row.get(name, "")) for name in key_fields(what))
    return parts if len(parts) > 1 else parts[0]


def row_of(record: Record) -> dict[str, Any]:
    """A record as a row: what was left out stays left out."""
    return record.model_dump(mode="json", exclude_none=True, exclude_defaults=True, by_alias=True)


class Shop:
    """A folder of the shop's own tables.

    Parameters
    ----------
    folder : Path
        Where they lie; made when the first row is kept.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def keep(self, what: str, *records: Record) -> None:
        """Writes rows, all or none; those with the same keys are replaced."""
        rows = {key_of(what, row): row for row in map(row_of, records)}
        if not all(key and all(key) for key in rows):
            raise InputError("is missing; a row of the shop needs an id of its own", "id")
        others = [other for other in self._rows(what) if key_of(what, other) not in rows]
        self._write(what, [*others, *rows.values()])

    def drop(self, what: str, key: Any) -> None:
        """Takes a row out (errors as in `keep`; InputError where it stands in another file of the shop)."""
        rows = self._rows(what)
        left = [row for row in rows if key_of(what, row) != key]
        if len(left) == len(rows):
            name = " / ".join(key) if isinstance(key, tuple) else key
            raise InputError(f"'{name}' does not stand in {self._path(what)}; take it out where it was written")
        self._write(what, left)

    def _path(self, what: str) -> Path:
        return self._folder / f"{what.replace('_', '-')}.json"

    def _rows(self, what: str) -> list[dict[str, Any]]:
        path = self._path(what)
        if not is_there(path):
            return []
        try:
            rows = parse_json(read_text(path))
        except InputError as error:
            raise InputError(f"{path}: {error}; mend it or move it away first, nothing was written") from None
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise InputError(f"{path} holds no list of rows; mend it or move it away first, nothing was written")
        return rows

    def _write(self, what: str, rows: list[dict[str, Any]]) -> None:
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileProblem(f"{self._folder} cannot be made: {(error.strerror or str(error)).lower()}") from None
        write_atomic(self._path(what), _json(rows).encode("utf-8"), keep_former=True)


def exported(records: list[Record], suffix: str) -> str:
    """Records as a table that a spreadsheet (``csv``) or another Lesna (``json``) reads.

    What is no plain value, such as a curve, stands in a CSV cell as JSON does it; lists of numbers with semicolons.
    """
    rows = [row_of(record) for record in records]
    if suffix == "json":
        return _json(rows)
    columns = list(dict.fromkeys(name for record in records for name in type(record).model_fields))
    used = [name for name in columns if any(name in row for row in rows)]
    out = io.StringIO()
    writer = csv.DictWriter(out, used, extrasaction="ignore", lineterminator="\n")
    writer.writeheader()
    writer.writerows({name: _cell(value) for name, value in row.items()} for row in rows)
    return out.getvalue()


def _json(rows: list[dict[str, Any]]) -> str:
    return json.dumps(rows, ensure_ascii=False, indent=1) + "\n"


def _cell(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (list, tuple)):
        return ";".join(f"{part:g}" if isinstance(part, float) else str(part) for part in value)
    return json.dumps(value) if isinstance(value, dict) else value
