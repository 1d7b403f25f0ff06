"""Opening a store: its address, what it is, its migrations with a backup beside, and words for what goes wrong.

A file that is foreign, damaged or newer is never written to.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event, inspect, text
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DBAPIError, NoSuchModuleError, SQLAlchemyError

from lesna.bank.schema import SCHEMA
from lesna.model.errors import FileProblem, InputError
from lesna.model.shown import one_line, shortened

#: milliseconds that a seat waits for another one's writing
_PATIENCE = 30_000
#: seconds after which the daily copy is made anew, and the largest file that is copied at opening [bytes]
_DAILY, _COPIED = 24 * 3600.0, 400_000_000
_REVISIONS = "alembic_version"


class Unreachable(FileProblem):
    """The server or the file does not answer now; what was to be written is not lost by that."""


class Foreign(FileProblem):
    """A file that is no store of ours, or one that is damaged."""


@dataclass(frozen=True)
class Opened:
    """An engine on a store, its schema, and why it cannot be written to; empty where it can."""

    engine: Engine
    schema: int
    read_only: str


def url_of(address: str) -> URL:
    """The address of a store: a database URL, or a plain path of a file.

    Raises
    ------
    InputError
        When it is neither.
    """
    if "://" not in address:
        return URL.create("sqlite", database=str(Path(address).expanduser()))
    try:
        url = make_url(address)
        url.get_dialect()
    except (ArgumentError, NoSuchModuleError, ValueError):
        raise InputError(
            f"'{shortened(address)}' is no address of a bank; give a path, sqlite:///PATH or postgresql+psycopg://…"
        ) from None
    except ImportError:
        raise InputError(f"the driver for '{url.drivername}' is not installed; install lesna[postgres]") from None
    return url


def file_of(url: URL) -> Path | None:
    """The file of a SQLite store, None for a server or a store in memory."""
    name = url.database
    return Path(name) if url.get_backend_name() == "sqlite" and name and name != ":memory:" else None


def open_store(url: URL, *, make: bool) -> Opened:
    """An engine on the store, brought to the newest schema.

    Parameters
    ----------
    url : URL
        Where it is.
    make : bool
        Whether it is made where there is none.

    Raises
    ------
    FileProblem
        When it is missing, foreign, damaged, locked or unreachable.
    """
    path = file_of(url)
    read_only = ""
    if path is not None:
        read_only = _looked_at(path, make)
    # looked at before it is opened for writing, which alone would change the file of another program
    is_there = path is not None and path.exists() and path.stat().st_size > 0
    engine = _engine(url, read_only=bool(read_only) or is_there)
    try:
        with engine.connect() as connection:
            schema = _schema_of(connection, path)
        if is_there and not read_only and schema <= SCHEMA:
            engine.dispose()
            engine = _engine(url, read_only=False)
        if schema > SCHEMA:
            read_only = (
                f"its schema {schema} is newer than the {SCHEMA} that this Lesna knows; it can only be read here"
            )
            engine.dispose()
            engine = _engine(url, read_only=True)
        elif schema < SCHEMA and not read_only:
            if path is not None and schema > 0:
                _copy(path, path.with_name(f"{path.name}.schema-{schema}"))
            schema = _upgrade(engine)
        elif path is not None and not read_only:
            _daily_copy(path)
    except SQLAlchemyError as error:
        engine.dispose()
        raise trouble_of(error, url) from None
    except BaseException:
        engine.dispose()
        raise
    return Opened(engine, schema, read_only)


def _looked_at(path: Path, make: bool) -> str:
    """Why a file can only be read; what is no store of ours is refused."""
    try:
        if path.is_dir():
            raise Foreign("is a folder; name a file in it")
        if not path.exists():
            if not make:
                raise FileProblem(
                    "does not exist; check the name, or begin a bank with 'lesna trial log' or 'lesna bank import'"
                )
            path.parent.mkdir(parents=True, exist_ok=True)
            return ""
        with path.open("rb") as handle:
            head = handle.read(100)
    except OSError as error:
        if isinstance(error, FileProblem):
            raise
        raise FileProblem(f"cannot be opened: {(error.strerror or str(error)).lower()}") from None
    if head and not head.startswith(b"SQLite format 3\x00"):
        raise Foreign("is no bank of Lesna: another kind of file; nothing was changed in it")
    return "" if os.access(path, os.W_OK) and os.access(path.parent, os.W_OK) else "the file is read-only"


def _engine(url: URL, *, read_only: bool) -> Engine:
    path = file_of(url)
    if url.get_backend_name() != "sqlite":
        return create_engine(url, pool_pre_ping=True, connect_args={"connect_timeout": 5})
    name = url.database or ":memory:"
    if path is not None and read_only:
        url = URL.create(
            "sqlite",
            database=f"file:{path.resolve().as_uri().removeprefix('file://')}",
            query={"mode": "ro", "uri": "true"},
        )
    elif name != ":memory:":
        url = URL.create("sqlite", database=name)
    engine = create_engine(url, connect_args={"timeout": _PATIENCE / 1000, "check_same_thread": False})

    @event.listens_for(engine, "connect")
    def connected(connection: Any, _record: Any) -> None:
        # the driver would begin late and commit before each change of a table; Lesna says when
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute(f"PRAGMA busy_timeout = {_PATIENCE}")
        cursor.execute("PRAGMA foreign_keys = ON")
        if not read_only and path is not None:
            cursor.execute("PRAGMA journal_mode = WAL")
            cursor.execute("PRAGMA synchronous = FULL")
        cursor.close()

    @event.listens_for(engine, "begin")
    def begun(connection: Connection) -> None:
        # a transaction that would write later on could find another one in between
        connection.exec_driver_sql(
            "BEGIN" if read_only or connection.get_execution_options().get("reads") else "BEGIN IMMEDIATE"
        )

    return engine


def _schema_of(connection: Connection, path: Path | None) -> int:
    """Number of the schema, 0 of an empty store."""
    connection = connection.execution_options(reads=True)
    tables = set(inspect(connection).get_table_names())
    if _REVISIONS not in tables:
        if tables & {"readings", "records"} or (tables and path is not None):
            raise Foreign("is a database of another program, no bank of Lesna; nothing was changed in it")
        return 0
    found = connection.execute(text(f"SELECT version_num FROM {_REVISIONS}")).scalar()
    if found is None:
        return 0
    if not str(found).isdigit() or "readings" not in tables:
        raise Foreign("is a database of another program, no bank of Lesna; nothing was changed in it")
    return int(found)


def _upgrade(engine: Engine) -> int:
    """Runs what is missing, in one transaction; a seat that comes second finds it done."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    return SCHEMA


def _daily_copy(path: Path) -> None:
    """The copy of the day beside the file, from which a damaged one can be brought back."""
    beside = backup_of(path)
    with contextlib.suppress(OSError, sqlite3.Error):
        fresh = beside.exists() and time.time() - beside.stat().st_mtime < _DAILY
        if not fresh and path.stat().st_size < _COPIED:
            _copy(path, beside)


def backup_of(path: Path) -> Path:
    """Where the copy of the day lies."""
    return path.with_name(f"{path.name}~")


def _copy(path: Path, beside: Path) -> None:
    """A whole copy, also of what still lies in the write-ahead log."""
    making = beside.with_name(f"{beside.name}.making")
    try:
        with contextlib.closing(sqlite3.connect(path)) as source, contextlib.closing(sqlite3.connect(making)) as target:
            source.backup(target)
        making.replace(beside)
    finally:
        making.unlink(missing_ok=True)


def from_backup(path: Path) -> Path:
    """Puts the copy of the day in the place of a damaged file, which stays beside it under the name given back.

    Raises
    ------
    FileProblem
        When there is no copy, or it cannot be put there.
    """
    beside = backup_of(path)
    if not beside.exists():
        raise FileProblem("has no copy beside it that it could be brought back from")
    aside = path.with_name(f"{path.name}.damaged-{time.strftime('%Y%m%d-%H%M%S')}")
    try:
        for suffix in ("-wal", "-shm"):
            log = path.with_name(path.name + suffix)
            if log.exists():
                log.replace(aside.with_name(aside.name + suffix))
        if path.exists():
            path.replace(aside)
        shutil.copyfile(beside, path)
    except OSError as error:
        raise FileProblem(f"cannot be brought back: {(error.strerror or str(error)).lower()}") from None
    return aside


#: what SQLite and servers say, and what Lesna says of it
_SAID = (
    ("locked", "is in use by another program; try again when it is done"),
    ("busy", "is in use by another program; try again when it is done"),
    ("disk is full", "cannot be written: the disk is full; nothing was changed"),
    ("readonly", "is read-only; nothing was changed"),
    ("malformed", "is damaged; nothing was changed in it"),
    ("not a database", "is no bank of Lesna: another kind of file; nothing was changed in it"),
    ("file is encrypted", "is no bank of Lesna: another kind of file; nothing was changed in it"),
    ("unable to open", "cannot be opened; check the name and the folder"),
    ("unique", "holds something of the same name, or a look of the same edge, minutes and day; look again"),
    ("disk i/o", "cannot be read or written: the disk does not answer as it should"),
)
_DAMAGED = ("malformed", "not a database", "file is encrypted")


def trouble_of(error: SQLAlchemyError, url: URL) -> FileProblem:
    """What went wrong, in words."""
    said = str(getattr(error, "orig", None) or error)
    lower = said.lower()
    for sign, words in _SAID:
        if sign in lower:
            return (Foreign if sign in _DAMAGED else FileProblem)(words)
    if url.get_backend_name() != "sqlite" and (
        not isinstance(error, DBAPIError) or error.connection_invalidated or _is_gone(lower)
    ):
        return Unreachable(f"the server does not answer: {shortened(one_line(said), 120)}")
    return FileProblem(f"does not work: {shortened(one_line(said), 160)}")


def _is_gone(said: str) -> bool:
    return any(
        sign in said
        for sign in ("connect", "server closed", "terminat", "timeout", "network", "refused", "shutting down", "ssl")
    )
