"""The shop's own tools, holders, machines, materials and starting values in the store, with history; moved in from their files."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

from lesna.bank.store import Bank, Conflict, Kept, Kind, Source
from lesna.data.library import Library
from lesna.data.shop import key_of, row_of
from lesna.data.stored import STORED_TABLES, Stored, StoredRow
from lesna.model.base import Record
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import is_there

#: stands behind the name of a file whose rows are in the store now
MOVED = ".moved"


def stored_rows(bank: Bank) -> dict[str, tuple[StoredRow, ...]]:
    """What the store keeps of each table."""
    return {
        what: tuple(
            StoredRow(_whole(what, one), one.who, one.at, one.version) for one in bank.records(cast(Kind, what))
        )
        for what in STORED_TABLES
    }


def _whole(what: str, one: Kept) -> dict[str, Any]:
    """A row with its id, which a file of the whole bank holds as the record's name alone."""
    return one.data if what == "cutting_data" else {"id": one.name, **one.data}


def name_of_row(what: str, row: dict[str, Any]) -> str:
    """Under which a row is kept: its id, or both halves of its key."""
    key = key_of(what, row)
    return " / ".join(key) if isinstance(key, tuple) else str(key)


def kept_row(what: str, name: str, stored: Stored) -> Kept | None:
    """A row as it was read, for a change that is made of it; None where the store had none."""
    found = next((one for one in stored.get(what, ()) if name_of_row(what, one.values) == name), None)
    return None if found is None else Kept(cast(Kind, what), name, found.values, found.version, found.who, found.at)


def keep_row(bank: Bank, what: str, record: Record, stored: Stored, source: Source) -> None:
    """Writes a row (Conflict where another seat changed it since it was read, FileProblem where it cannot be written)."""
    row = row_of(record)
    name = name_of_row(what, row)
    if not name.strip(" /"):
        raise InputError("is missing; a row of the shop needs an id of its own", "id")
    bank.keep(cast(Kind, what), name, row, source, kept_row(what, name, stored))


def drop_row(bank: Bank, what: str, name: str, stored: Stored, source: Source) -> None:
    """Takes a row out (errors as in `keep_row`)."""
    bank.keep(cast(Kind, what), name, None, source, kept_row(what, name, stored))


@dataclass(frozen=True)
class Moved:
    """What was moved into the store: rows, and sentences about those that were not."""

    rows: int
    told: tuple[str, ...]


def own_files(folder: Path) -> list[Path]:
    """The shop's files of rows that are still read."""
    names = [f"{what.replace('_', '-')}.{ending}" for what in STORED_TABLES for ending in ("csv", "json")]
    return [folder / name for name in names if is_there(folder / name)]


def move_in(bank: Bank, folder: Path, source: Source) -> Moved:
    """Takes the rows of the shop's files into the store; each file is put aside under another name once all its rows are in.

    A row that stands in the store already as it is counts as moved; one that differs there is told and stays in its file.
    """
    files, stored, told, count = own_files(folder), stored_rows(bank), [], 0
    library = Library(folder)
    staying: set[str] = set()
    for what in STORED_TABLES:
        for record in library.own_rows(what):
            try:
                keep_row(bank, what, record, _alike(what, record, stored), source)
                count += 1
            except (Conflict, InputError) as trouble:
                told.append(f"{name_of_row(what, row_of(record))}: {trouble}")
                staying.add(what)
    told += library.problems
    for path in files:
        table = path.stem.replace("-", "_")
        if table not in staying and not any(str(path) in text for text in library.problems):
            _put_aside(path)
    return Moved(count, tuple(told))


def _alike(what: str, record: Record, stored: Stored) -> Stored:
    """The store's own row where it says the same: writing it again changes nothing. One that differs is no base for this one."""
    row = row_of(record)
    same = tuple(one for one in stored.get(what, ()) if one.values == row)
    return {what: same}


def _put_aside(path: Path) -> None:
    aside, number = path.with_name(path.name + MOVED), 2
    while aside.exists():
        aside, number = path.with_name(f"{path.name}{MOVED}-{number}"), number + 1
    try:
        path.rename(aside)
    except OSError as error:
        raise FileProblem(f"{path} cannot be put aside: {(error.strerror or str(error)).lower()}") from None
