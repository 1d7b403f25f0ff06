"""The store itself: readings, records and pictures in and out, each change with who, when and from where."""

from __future__ import annotations

import contextlib
import hashlib
import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from types import TracebackType
from typing import Any, Literal, TypeVar, get_args

from sqlalchemy import Connection, func, insert, select, text, update
from sqlalchemy.exc import IntegrityError, SQLAlchemyError

from lesna.bank.opening import file_of, open_store, trouble_of, url_of
from lesna.bank.schema import edges, history, pictures, readings, records, setups
from lesna.model.errors import FileProblem, InputError, LesnaError
from lesna.model.shown import shortened
from lesna.model.trials import Reading

Kind = Literal["trials", "recipes", "standards", "tools", "holders", "machines", "materials", "cutting_data"]
KINDS: tuple[Kind, ...] = get_args(Kind)
#: fields of a reading by which set-ups are told apart; a fit reads those of set-ups like its own only
SETUP_FIELDS = ("material", "hardness_hrc", "tool_kind", "DC", "substrate", "coating", "coolant", "machine", "holder")
T = TypeVar("T")
#: how often a write is tried that met another seat's row of the same name
_ATTEMPTS = 5
#: identities that are asked for at once
_AT_ONCE = 400
#: largest picture that is kept [bytes]
LARGEST_PICTURE = 20_000_000


@dataclass(frozen=True)
class Source:
    """Who changes something, and from which job and trial."""

    who: str = ""
    job: str = ""
    trial: str = ""


@dataclass(frozen=True)
class Kept:
    """A record as it is kept: its data, and the version that a change is made of."""

    kind: Kind
    name: str
    data: dict[str, Any]
    version: int
    who: str
    at: str


@dataclass(frozen=True)
class Change:
    """One change in the history of a record or a reading."""

    version: int
    who: str
    at: str
    job: str
    trial: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None


class Conflict(LesnaError):
    """Somebody else changed the same thing in between.

    Attributes
    ----------
    base, mine, theirs : dict or None
        What it was when it was read, what was to be written, what is there now (None: taken out).
    version : int
        Version of theirs.
    """

    def __init__(
        self,
        name: str,
        base: dict[str, Any] | None,
        mine: dict[str, Any] | None,
        theirs: dict[str, Any] | None,
        version: int,
    ) -> None:
        super().__init__(
            f"'{shortened(name)}' was changed by another seat in between; keep theirs, yours, or both changes"
        )
        self.base, self.mine, self.theirs, self.version = base, mine, theirs, version

    @property
    def parted(self) -> tuple[str, ...]:
        """Fields that both changed, each otherwise."""
        base, mine, theirs = self.base or {}, self.mine or {}, self.theirs or {}
        return tuple(key for key in sorted({*mine, *theirs}) if mine.get(key) != theirs.get(key)
                     and mine.get(key) != base.get(key) and theirs.get(key) != base.get(key))  # fmt: skip

    def both(self) -> dict[str, Any]:
        """Theirs with the fields that were changed here; where both changed one, what was written here."""
        base, mine, theirs = self.base or {}, self.mine or {}, self.theirs or {}
        out = dict(theirs)
        for key in {*base, *mine}:
            if mine.get(key) != base.get(key):
                if key in mine:
                    out[key] = mine[key]
                else:
                    out.pop(key, None)
        return out


@dataclass(frozen=True)
class Logged:
    """How many readings were new, how many were kept already, and why others were not taken, by their place among those given."""

    added: int
    known: int
    refused: tuple[tuple[int, str], ...] = ()


class Bank:
    """A store, opened.

    Parameters
    ----------
    address : str or Path
        Database URL, or path of a file.
    make : bool
        Whether it is made where there is none.

    Raises
    ------
    FileProblem
        When it is missing, foreign, damaged, locked or unreachable.
    InputError
        When that is no address.
    """

    def __init__(self, address: str | Path, *, make: bool = True) -> None:
        self.url = url_of(str(address))
        opened = open_store(self.url, make=make)
        self._engine, self.schema, self.read_only = opened.engine, opened.schema, opened.read_only
        #: records of a kind as they were read last, with the newest change of their history then
        self._records: dict[str, tuple[int | None, list[Kept]]] = {}

    def close(self) -> None:
        """Gives its connections back."""
        self._engine.dispose()

    def __enter__(self) -> Bank:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    @property
    def path(self) -> Path | None:
        """The file, None on a server."""
        return file_of(self.url)

    @property
    def label(self) -> str:
        """How it is named, without a password."""
        return str(self.path) if self.path is not None else self.url.render_as_string(hide_password=True)

    @contextlib.contextmanager
    def _reading(self) -> Iterator[Connection]:
        try:
            with self._engine.connect() as raw:
                yield raw.execution_options(reads=True)
        except SQLAlchemyError as error:
            raise trouble_of(error, self.url) from None

    def _written_by(self, work: Callable[[Connection], T]) -> T:
        """Does all of something in one transaction, or nothing; where two seats made the same row at once, once more."""
        if self.read_only:
            raise FileProblem(f"cannot be written to: {self.read_only}")
        for attempt in range(_ATTEMPTS):
            try:
                with self._engine.begin() as connection:
                    return work(connection)
            except IntegrityError as error:
                if attempt + 1 == _ATTEMPTS:
                    raise trouble_of(error, self.url) from None
            except SQLAlchemyError as error:
                raise trouble_of(error, self.url) from None
        raise AssertionError("the last attempt returns or raises")

    # readings

    def log(self, given: Sequence[Reading], source: Source | None = None) -> Logged:
        """Adds readings in one transaction; one that is kept already changes nothing.

        A reading of the same edge, minutes and day with other values is refused: it is corrected by `amend`.

        Raises
        ------
        FileProblem
            When it cannot be written; nothing is then.
        """
        source = source or Source()

        def work(connection: Connection) -> Logged:
            edge_ids = _ids(connection, edges, ("trial", "edge"), [reading.key[:2] for reading in given])
            setup_ids = _ids(connection, setups, ("told",), [(setup_of(reading),) for reading in given])
            wanted = [(edge_ids[reading.key[:2]], reading.minutes, reading.taken_on) for reading in given]
            there = _known(connection, {edge_id for edge_id, _, _ in wanted})
            rows, refused, known = [], [], 0
            for place, (reading, key) in enumerate(zip(given, wanted, strict=True)):
                data = _written(reading)
                if key in there:
                    if there[key] == data:
                        known += 1
                    else:
                        refused.append(
                            (
                                place,
                                f"is kept already with other values ({_parted(there[key], data)}); correct that one instead",
                            )
                        )
                    continue
                there[key] = data
                rows.append({
                    "edge_id": key[0], "setup_id": setup_ids[(setup_of(reading),)], "minutes": reading.minutes,
                    "taken_on": reading.taken_on, "data": data, "version": 1, "who": reading.who or source.who, "at": _now(),
                })  # fmt: skip
            if rows:
                connection.execute(insert(readings), rows)
            return Logged(len(rows), known, tuple(refused))

        return self._written_by(work)

    def readings(self, *, trial: str | None = None) -> list[Reading]:
        """Readings of a trial, or all, by edge and minutes."""
        query = (
            select(readings.c.data)
            .join(edges)
            .order_by(edges.c.trial, edges.c.edge, readings.c.minutes, readings.c.taken_on)
        )
        if trial is not None:
            query = query.where(edges.c.trial == trial)
        with self._reading() as connection:
            return [_read(data) for data in connection.scalars(query)]

    def setups(self) -> dict[int, dict[str, Any]]:
        """Set-ups of which there are readings, by number: the fields that tell them apart."""
        with self._reading() as connection:
            return {row.id: json.loads(row.told) for row in connection.execute(select(setups))}

    def readings_of(self, setup_ids: Iterable[int], most: int | None = None) -> list[Reading]:
        """Readings of edges that ran in some set-ups, whole edges, the `most` newest of them."""
        touched: set[int] = set()
        out: list[Reading] = []
        with self._reading() as connection:
            for some in _bunches(sorted(set(setup_ids))):
                query = select(readings.c.edge_id).where(readings.c.setup_id.in_(some)).distinct()
                touched |= set(connection.scalars(query))
            for some in _bunches(sorted(touched, reverse=True)[:most]):
                of_edges = select(readings.c.data).where(readings.c.edge_id.in_(some))
                found = connection.scalars(of_edges.order_by(readings.c.edge_id.desc(), readings.c.minutes))
                out += [_read(data) for data in found]
        return out

    def amend(self, former: Reading, new: Reading, source: Source) -> None:
        """Corrects a reading; its edge, minutes and day may change too.

        Raises
        ------
        Conflict
            When it is not there any more as `former` says.
        FileProblem
            When it cannot be written.
        """

        def work(connection: Connection) -> None:
            found = connection.execute(
                select(readings.c.id, readings.c.data, readings.c.version)
                .join(edges)
                .where(
                    edges.c.trial == former.trial,
                    edges.c.edge == former.edge,
                    readings.c.minutes == former.minutes,
                    readings.c.taken_on == former.taken_on,
                )
                .with_for_update(of=readings)
            ).first()
            if found is None or found.data != _written(former):
                theirs = None if found is None else json.loads(found.data)
                raise Conflict(
                    name_of(former), plain(former), plain(new), theirs, 0 if found is None else found.version
                )
            edge_ids = _ids(connection, edges, ("trial", "edge"), [new.key[:2]])
            setup_ids = _ids(connection, setups, ("told",), [(setup_of(new),)])
            connection.execute(update(readings).where(readings.c.id == found.id).values(
                edge_id=edge_ids[new.key[:2]], setup_id=setup_ids[(setup_of(new),)], minutes=new.minutes, taken_on=new.taken_on,
                data=_written(new), version=found.version + 1, who=source.who or new.who, at=_now()))  # fmt: skip
            _remember(connection, "readings", name_of(former), found.version + 1, source, found.data, _written(new))

        self._written_by(work)

    # records

    def records(self, kind: Kind) -> list[Kept]:
        """Records of a kind, by name; read anew only where one of them was changed since."""
        query = select(records).where(records.c.kind == kind, records.c.data != "").order_by(records.c.name)
        newest = select(func.max(history.c.id)).where(history.c.kind == kind)
        with self._reading() as connection:
            change = connection.scalar(newest)
            known = self._records.get(kind)
            if known is not None and change is not None and known[0] == change:
                return list(known[1])
            found = [_kept(row) for row in connection.execute(query)]
        self._records[kind] = change, found
        return list(found)

    def record(self, kind: Kind, name: str) -> Kept | None:
        """One record, None where there is none."""
        query = select(records).where(records.c.kind == kind, records.c.name == name, records.c.data != "")
        with self._reading() as connection:
            row = connection.execute(query).first()
        return None if row is None else _kept(row)

    def keep(
        self, kind: Kind, name: str, data: dict[str, Any] | None, source: Source, former: Kept | None = None
    ) -> Kept | None:
        """Writes a record, made of the version that was read; without data it is taken out.

        Raises
        ------
        Conflict
            When somebody else changed it since `former` was read, or made it where there was none.
        FileProblem
            When it cannot be written.
        """
        if not name or len(name) > 200:
            raise InputError("must be 1 to 200 characters", "name")
        written = "" if data is None else _json(data)

        def work(connection: Connection) -> Kept | None:
            there_now = select(records).where(records.c.kind == kind, records.c.name == name)
            row = connection.execute(there_now.with_for_update()).first()
            there = None if row is None or not row.data else _kept(row)
            version = 0 if row is None else row.version
            if (there is None) != (former is None) or (
                there is not None and former is not None and there.version != former.version
            ):
                if (there.data if there is not None else None) == data:
                    return there
                raise Conflict(name, former.data if former else None, data, there.data if there else None, version)
            at = _now()
            values = {"data": written, "version": version + 1, "who": source.who, "at": at}
            if row is None:
                connection.execute(insert(records).values(kind=kind, name=name, **values))
            else:
                connection.execute(update(records).where(records.c.id == row.id).values(**values))
            _remember(connection, kind, name, version + 1, source, row.data if row is not None else None, written)
            return None if data is None else Kept(kind, name, data, version + 1, source.who, at)

        return self._written_by(work)

    def history(self, kind: str, name: str) -> list[Change]:
        """Every change of a record or a reading, the newest first."""
        query = select(history).where(history.c.kind == kind, history.c.name == name).order_by(history.c.id.desc())
        with self._reading() as connection:
            return [
                Change(row.version, row.who, row.at, row.job, row.trial, _plain(row.before), _plain(row.after))
                for row in connection.execute(query)
            ]

    # pictures

    def keep_picture(
        self, reading: Reading, name: str, content: bytes, mm_per_pixel: float | None, source: Source
    ) -> None:
        """Keeps the picture of an edge; the same one twice changes its scale only.

        Raises
        ------
        InputError
            When it is too large.
        """
        if len(content) > LARGEST_PICTURE:
            raise InputError(f"is larger than {LARGEST_PICTURE // 1_000_000} MB; make it smaller first", "picture")
        digest = hashlib.sha256(content).hexdigest()

        def work(connection: Connection) -> None:
            edge_id = _ids(connection, edges, ("trial", "edge"), [reading.key[:2]])[reading.key[:2]]
            same = pictures.c.edge_id == edge_id, pictures.c.digest == digest
            if connection.scalar(select(pictures.c.id).where(*same)) is not None:
                connection.execute(update(pictures).where(*same).values(mm_per_pixel=mm_per_pixel))
                return
            connection.execute(insert(pictures).values(
                edge_id=edge_id, name=name[:200], minutes=reading.minutes, mm_per_pixel=mm_per_pixel, digest=digest,
                content=content, who=source.who, at=_now()))  # fmt: skip

        self._written_by(work)

    def pictures(self, trial: str, edge: str) -> list[tuple[str, float, float | None, bytes]]:
        """Name, minutes, scale [mm a pixel] and content of an edge's pictures, in order of time."""
        query = select(pictures.c.name, pictures.c.minutes, pictures.c.mm_per_pixel, pictures.c.content).join(edges)
        query = query.where(edges.c.trial == trial, edges.c.edge == edge).order_by(pictures.c.minutes)
        with self._reading() as connection:
            return [(row.name, row.minutes, row.mm_per_pixel, row.content) for row in connection.execute(query)]

    # the whole

    def state(self) -> tuple[int, int]:
        """Changes with every reading that is added and every change that is made, by whichever seat."""
        with self._reading() as connection:
            found = [connection.scalar(select(func.max(table.c.id))) for table in (readings, history)]
        return int(found[0] or 0), int(found[1] or 0)

    def counts(self) -> dict[str, int]:
        """Edges, readings, pictures and records of each kind."""
        with self._reading() as connection:
            out = {
                table.name: int(connection.scalar(select(func.count()).select_from(table)) or 0)
                for table in (edges, readings, pictures)
            }
            by_kind = select(records.c.kind, func.count()).where(records.c.data != "").group_by(records.c.kind)
            found = {row[0]: int(row[1]) for row in connection.execute(by_kind)}
        return {**out, **{kind: found.get(kind, 0) for kind in KINDS}}

    def problems(self) -> list[str]:
        """What is wrong in the store; empty where nothing is."""
        out = []
        with self._reading() as connection:
            if self.url.get_backend_name() == "sqlite":
                out += [line for line in connection.scalars(text("PRAGMA integrity_check(20)")) if line != "ok"]
                out += [
                    f"{row[0]}: row {row[1]} names no row of {row[2]}"
                    for row in connection.execute(text("PRAGMA foreign_key_check"))
                ]
            for row in connection.execute(select(readings.c.id, readings.c.data)):
                try:
                    _checked(row.data)
                except (InputError, ValueError) as error:
                    out.append(f"reading {row.id}: {error}")
            for one in connection.execute(
                select(records.c.kind, records.c.name, records.c.data).where(records.c.data != "")
            ):
                try:
                    json.loads(one.data)
                except ValueError:
                    out.append(f"{one.kind} '{shortened(one.name)}': its data cannot be read")
        return out


def _bunches(items: Sequence[T]) -> Iterator[Sequence[T]]:
    for start in range(0, len(items), _AT_ONCE):
        yield items[start : start + _AT_ONCE]


def _ids(
    connection: Connection, table: Any, columns: tuple[str, ...], wanted: Sequence[tuple[str, ...]]
) -> dict[tuple[str, ...], int]:
    """Numbers of rows by their own columns; those that are missing are made."""
    keys = dict.fromkeys(wanted)
    there = _ids_there(connection, table, columns, keys)
    missing = [dict(zip(columns, key, strict=True)) for key in keys if key not in there]
    if not missing:
        return there
    connection.execute(insert(table), missing)
    return _ids_there(connection, table, columns, keys)


def _ids_there(
    connection: Connection, table: Any, columns: tuple[str, ...], keys: Mapping[tuple[str, ...], None]
) -> dict[tuple[str, ...], int]:
    """Numbers of those rows that are there already, asked for in bunches by their first column."""
    out: dict[tuple[str, ...], int] = {}
    own = [table.c[name] for name in columns]
    for some in _bunches(sorted({key[0] for key in keys})):
        for number, *key in connection.execute(select(table.c.id, *own).where(own[0].in_(some))):
            if tuple(key) in keys:
                out[tuple(key)] = int(number)
    return out


def _known(connection: Connection, edge_ids: set[int]) -> dict[tuple[int, float, str], str]:
    """Readings of some edges, by what tells them apart."""
    out = {}
    for some in _bunches(sorted(edge_ids)):
        query = select(readings.c.edge_id, readings.c.minutes, readings.c.taken_on, readings.c.data).where(
            readings.c.edge_id.in_(some)
        )
        out.update({(row.edge_id, row.minutes, row.taken_on): row.data for row in connection.execute(query)})
    return out


def setup_of(reading: Reading) -> str:
    """The fields that tell a reading's set-up apart, as they are kept."""
    return _json({name: value for name in SETUP_FIELDS if (value := getattr(reading, name)) not in (None, "")})


def plain(reading: Reading) -> dict[str, Any]:
    """A reading as plain data; what was left out stays left out."""
    return reading.model_dump(mode="json", exclude_none=True, exclude_defaults=True)


def _written(reading: Reading) -> str:
    return _json(plain(reading))


def _checked(data: str) -> Reading:
    return Reading.read(json.loads(data))


def _read(data: str) -> Reading:
    """A reading of the store: it was checked as it came in, so that long lists are not checked again."""
    values = json.loads(data)
    return Reading.model_construct(**{**_DEFAULTS, **values})


_DEFAULTS = {name: info.default for name, info in Reading.model_fields.items() if not info.is_required()}


def _json(data: Any) -> str:
    return json.dumps(data, sort_keys=True, ensure_ascii=False, allow_nan=False)


def _plain(data: str | None) -> dict[str, Any] | None:
    return json.loads(data) if data else None


def _kept(row: Any) -> Kept:
    return Kept(row.kind, row.name, json.loads(row.data), row.version, row.who, row.at)


def name_of(reading: Reading) -> str:
    """The name under which the history of a reading is kept."""
    return f"{reading.trial} / {reading.edge} / {reading.minutes:g} min"


def _parted(there: str, here: str) -> str:
    theirs, mine = json.loads(there), json.loads(here)
    keys = [key for key in sorted({*theirs, *mine}) if theirs.get(key) != mine.get(key)]
    return ", ".join(f"{key} {theirs.get(key, 'none')}, here {mine.get(key, 'none')}" for key in keys[:3])


def _remember(
    connection: Connection, kind: str, name: str, version: int, source: Source, before: str | None, after: str | None
) -> None:
    connection.execute(insert(history).values(
        kind=kind, name=name[:500], version=version, who=source.who, at=_now(), job=source.job, trial=source.trial,
        before=before or None, after=after or None))  # fmt: skip


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds")
