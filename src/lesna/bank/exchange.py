"""Readings and records in and out of files: CSV of readings, JSON of everything. One bad row costs itself alone."""

from __future__ import annotations

import base64
import binascii
import contextlib
import csv
import io
import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lesna.bank.store import KINDS, Bank, Conflict, Kept, Kind, Logged, Source, plain
from lesna.data.tables_io import Row, csv_rows, json_rows, typed_row
from lesna.model.base import nearest
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import parse_json, table_text, write_atomic
from lesna.model.shown import counted, one_line, shortened
from lesna.model.trials import Reading, doubts

#: columns of the published CSV, the optional ones last (docs/contract.md)
COLUMNS = tuple(Reading.model_fields)
#: says of a JSON file that it is a whole bank
MARK = "lesna_bank"
_KEPT = "kept"
#: rows in trouble that are named one by one
MOST_TOLD = 50
#: trials of a file whose edges are looked at as a whole
_MOST_TRIALS = 200


@dataclass
class Found:
    """What a file holds: readings with their places, records, pictures, and sentences about what cannot be used or is only a note."""

    readings: list[tuple[str, Reading]] = field(default_factory=list)
    records: list[tuple[Kind, str, dict[str, Any]]] = field(default_factory=list)
    pictures: list[tuple[Reading, str, bytes, float | None]] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    told: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Imported:
    """What came of an import."""

    readings: Logged
    records: int
    pictures: int
    refused: tuple[str, ...]
    told: tuple[str, ...]

    @property
    def is_empty(self) -> bool:
        """Whether nothing in it could be used."""
        return not (self.readings.added or self.readings.known or self.records or self.pictures)


def found_in(path: Path) -> Found:
    """What a CSV or JSON file holds.

    Raises
    ------
    FileProblem
        When it cannot be read.
    InputError
        When it is no CSV or JSON at all.
    """
    text = table_text(path)
    return found_in_text(text, is_csv=path.suffix.lower() == ".csv")


def found_in_text(text: str, *, is_csv: bool) -> Found:
    """The same of a text."""
    found = Found()
    if is_csv:
        _take_rows(csv_rows(text), found)
        return found
    data = parse_json(text)
    if isinstance(data, list):
        _take_rows(json_rows(text), found)
    elif isinstance(data, dict) and ("readings" in data or MARK in data):
        _take_whole(data, found)
    else:
        raise InputError('must be a list of readings, an object with "readings", or an exported bank')
    return found


def _take_rows(rows: Sequence[Row], found: Found, prefix: str = "") -> None:
    unknown = sorted({name for row in rows for name in row.values} - set(COLUMNS))
    if unknown:
        hints = [f"'{one_line(shortened(name))}'{_hint(name)}" for name in unknown[:10]]
        found.told.append(f"not known and kept as notes: {', '.join(hints)}")
    for row in rows:
        place = f"{prefix}{row.place}"
        if row.trouble:
            found.refused.append(f"{place}: {row.trouble}")
            continue
        try:
            found.readings.append((place, _reading(row.values)))
        except InputError as error:
            found.refused.append(f"{place}: {error}")


def _hint(name: str) -> str:
    guess = nearest(name, COLUMNS)
    return f" (did you mean '{guess}'?)" if guess else ""


def _reading(values: dict[str, Any]) -> Reading:
    known = {key: value for key, value in values.items() if key in COLUMNS}
    notes = [
        f"{one_line(shortened(key))}: {value}"
        for key, value in values.items()
        if key not in COLUMNS and value not in (None, "")
    ]
    if notes:
        known["note"] = "; ".join([text for text in (str(known.get("note", "")),) if text] + notes)
    return Reading.read(typed_row({key: value for key, value in known.items() if value is not None}, Reading, {}))


def _take_whole(data: dict[str, Any], found: Found) -> None:
    rows = data.get("readings", [])
    _take_rows(_as_rows(rows, "reading"), found)
    for kind in KINDS:
        for number, entry in enumerate(_listed(data.get(kind), kind, found), start=1):
            place = f"{kind}, entry {number}"
            if not isinstance(entry, dict) or not isinstance(entry.get("id"), str) or not entry["id"]:
                found.refused.append(f"{place}: id: is missing and must be given")
                continue
            if kind == "trials" and isinstance(entry.get("readings"), list):
                _take_rows(_as_rows(entry["readings"], "reading"), found, f"{place}, ")
            values = {key: value for key, value in entry.items() if key not in ("id", _KEPT, "readings", "edges")}
            if values:
                found.records.append((kind, entry["id"], values))
    for number, entry in enumerate(_listed(data.get("pictures"), "pictures", found), start=1):
        try:
            found.pictures.append(_picture(entry))
        except (InputError, KeyError, TypeError, binascii.Error, ValueError) as error:
            said = str(error) if isinstance(error, InputError) else "needs trial, edge, minutes and content_base64"
            found.refused.append(f"pictures, entry {number}: {said}")


def _as_rows(entries: Any, what: str) -> list[Row]:
    if not isinstance(entries, list):
        raise InputError(f"{what}s: must be a list of objects")
    rows = []
    for number, entry in enumerate(entries, start=1):
        is_object = isinstance(entry, dict)
        rows.append(
            Row(
                f"{what} {number}",
                entry if is_object else {},
                "" if is_object else "must be an object with named fields",
            )
        )
    return rows


def _listed(entries: Any, what: str, found: Found) -> list[Any]:
    if entries is None:
        return []
    if not isinstance(entries, list):
        found.refused.append(f"{what}: must be a list")
        return []
    return entries


def _picture(entry: dict[str, Any]) -> tuple[Reading, str, bytes, float | None]:
    of = Reading.read({key: entry[key] for key in ("trial", "edge", "minutes")})
    return (
        of,
        str(entry.get("name", "")),
        base64.b64decode(entry["content_base64"], validate=True),
        entry.get("mm_per_pixel"),
    )


def take_in(bank: Bank, found: Found, source: Source) -> Imported:
    """Puts what a file holds into the store: readings in one transaction, then records that are new.

    A record of the same name with other data is refused: one of the two has to be chosen.

    Raises
    ------
    FileProblem
        When the store cannot be written; nothing is then.
    """
    logged = bank.log([reading for _, reading in found.readings], source)
    refused = [*found.refused, *(f"{found.readings[place][0]}: {why}" for place, why in logged.refused)]
    count = 0
    for kind, name, data in found.records:
        try:
            bank.keep(kind, name, data, source)
            count += 1
        except Conflict:
            refused.append(f"{kind} '{shortened(name)}': is kept already with other values; it stays as it is")
        except InputError as error:
            refused.append(f"{kind} '{shortened(name)}': {error}")
    for reading, name, content, scale in found.pictures:
        bank.keep_picture(reading, name, content, scale, source)
    return Imported(logged, count, len(found.pictures), tuple(refused), (*found.told, *_doubts(bank, found)))


def _doubts(bank: Bank, found: Found) -> list[str]:
    """What does not go together in the edges of a file, with what was kept of them before."""
    edges = {reading.key[:2] for _, reading in found.readings}
    trials = sorted({trial for trial, _ in edges})[:_MOST_TRIALS]
    return doubts(one for trial in trials for one in bank.readings(trial=trial) if one.key[:2] in edges)[:MOST_TOLD]


def csv_of(given: Iterable[Reading]) -> str:
    """Readings as CSV, in the published columns."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for reading in given:
        values = plain(reading)
        writer.writerow([_cell(values.get(name)) for name in COLUMNS])
    return out.getvalue()


def _cell(value: Any) -> str:
    return "" if value is None else repr(value) if isinstance(value, float) else str(value)


def listed(bank: Bank, kinds: Iterable[Kind] = KINDS) -> dict[str, list[dict[str, Any]]]:
    """What is kept, by kind; a trial with its readings."""
    return {
        kind: list(_trials(bank)) if kind == "trials" else [_entry(one) for one in bank.records(kind)] for kind in kinds
    }


def _entry(one: Kept) -> dict[str, Any]:
    return {"id": one.name, **one.data, _KEPT: {"version": one.version, "who": one.who, "at": one.at}}


def _trials(bank: Bank) -> Iterator[dict[str, Any]]:
    planned = {one.name: _entry(one) for one in bank.records("trials")}
    by_trial: dict[str, list[Reading]] = {name: [] for name in planned}
    for reading in bank.readings():
        by_trial.setdefault(reading.trial, []).append(reading)
    for name, own in sorted(by_trial.items()):
        yield {
            "id": name,
            **planned.get(name, {}),
            "edges": len({one.edge for one in own}),
            "readings": [plain(one) for one in own],
        }


def json_of(bank: Bank, kinds: Sequence[Kind] = KINDS) -> str:
    """Everything, or some kinds, as JSON."""
    out: dict[str, Any] = {MARK: 1, **listed(bank, kinds)}
    if "trials" in kinds:
        found = []
        for trial, edge in sorted({one.key[:2] for one in bank.readings()}):
            for name, minutes, scale, content in bank.pictures(trial, edge):
                found.append({"trial": trial, "edge": edge, "name": name, "minutes": minutes, "mm_per_pixel": scale,
                              "content_base64": base64.b64encode(content).decode()})  # fmt: skip
        if found:
            out["pictures"] = found
    return json.dumps(out, ensure_ascii=False, indent=1)


def rescued(path: Path) -> tuple[Path, int] | None:
    """What can still be read of a damaged file, written beside it as JSON, with the number of its readings; None where nothing can."""
    found: list[Any] = []
    records: dict[str, list[Any]] = {}
    address = f"{path.resolve().as_uri()}?mode=ro"
    lost = sqlite3.Error, ValueError, OSError
    with contextlib.suppress(*lost), contextlib.closing(sqlite3.connect(address, uri=True)) as connection:
        with contextlib.suppress(*lost):
            found.extend(json.loads(data) for (data,) in connection.execute("SELECT data FROM readings"))
        for kind, name, data in connection.execute("SELECT kind, name, data FROM records WHERE data != ''"):
            records.setdefault(kind, []).append({"id": name, **json.loads(data)})
    if not found and not records:
        return None
    beside = path.with_name(f"{path.name}.saved.json")
    try:
        write_atomic(beside, json.dumps({MARK: 1, "readings": found, **records}, ensure_ascii=False, indent=1).encode())
    except FileProblem:
        return None
    return beside, len(found)


def told(done: Imported) -> str:
    """What came of an import, in words."""
    parts = [f"{counted(done.readings.added, 'reading')} added"]
    if done.readings.known:
        parts.append(f"{done.readings.known} kept already")
    if done.records:
        parts.append(counted(done.records, "record"))
    if done.pictures:
        parts.append(counted(done.pictures, "picture"))
    if done.refused:
        parts.append(f"{len(done.refused)} refused")
    return ", ".join(parts)
