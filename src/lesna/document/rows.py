"""Which library rows a job keeps, and how they differ from what the library says today."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from lesna.model import names
from lesna.model.base import Record, Reference
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.kept import TABLES, Rows, data_key, over
from lesna.model.resolve import Shelf, material_of, tool_of


@dataclass(frozen=True)
class RowChange:
    """A row that reads otherwise in the library than in the job.

    Attributes
    ----------
    table, id, name : str
        Which row.
    fields : tuple of (str, object, object)
        Field, what the job computes with, what the library says now.
    """

    table: str
    id: str
    name: str
    fields: tuple[tuple[str, Any, Any], ...]


@dataclass(frozen=True)
class ShelfState:
    """The library as a job sees it, to be compared: equal states offer the same rows.

    Attributes
    ----------
    version : int
        Of the library.
    kept : Rows
        What the job keeps otherwise than the library has it.
    """

    version: int
    kept: Rows = field(hash=False)


def state_of(rows: Rows | None, library: Shelf, version: int) -> ShelfState:
    """The state of a library under the rows that a job keeps."""
    other = {
        table: {id: row for id, row in (rows.of(table) if rows else {}).items() if _row(table, id, library) != row}
        for table in TABLES
    }
    return ShelfState(version, Rows(**other))


def with_rows(job: Job, shelf: Shelf, former: Job | None = None) -> Job:
    """The job with the rows it names, each as it was when it was first named; rows nobody names any more go."""
    if former is not None and _names_the_same(former, job):
        return job
    seen = over(job.rows, shelf)
    wanted: dict[str, dict[str, Record]] = {table: {} for table in TABLES}
    for table, id in _named(job, seen):
        row = _row(table, id, seen)
        if row is not None:
            wanted[table][id] = row
    rows = Rows(**wanted)
    return job if rows == job.rows or (job.rows is None and rows.is_empty) else job.with_values(rows=rows)


def _names_the_same(one: Job, other: Job) -> bool:
    return (
        one.rows is other.rows and one.machine is other.machine
        and one.workpiece.material is other.workpiece.material and len(one.cuts) == len(other.cuts)
        and all(a.tool is b.tool and a.holder is b.holder for a, b in zip(one.cuts, other.cuts, strict=True))
    )  # fmt: skip


def changed_rows(job: Job, library: Shelf) -> tuple[RowChange, ...]:
    """Rows of a job that the library tells otherwise today; those it no longer has are left as they are."""
    found = []
    for table in TABLES if job.rows is not None else ():
        for id, row in job.rows.of(table).items() if job.rows is not None else ():
            now = _row(table, id, library)
            if now is not None and now != row:
                was, new = dict(row), dict(now)
                fields = tuple((key, was[key], new[key]) for key in was if was[key] != new[key])
                found.append(RowChange(table, id, str(was.get("name") or id), fields))
    return tuple(found)


def with_rows_of_today(job: Job, library: Shelf) -> Job:
    """The job computed with what the library says now."""
    return with_rows(job.with_values(rows=None), library)


def without_row(job: Job, table: str, id: str) -> Job:
    """The job without the row of one thing that it keeps: whoever takes that thing anew takes it as the library has it now."""
    if job.rows is None or id not in job.rows.of(table):
        return job
    left = {key: row for key, row in job.rows.of(table).items() if key != id}
    return job.with_values(rows=job.rows.with_values(**{table: left}))


def _named(job: Job, shelf: Shelf) -> Iterator[tuple[str, str]]:
    """Every row that the computation of a job looks up."""
    material = material_of(job, shelf)
    yield from _by_id("machines", job.machine)
    yield from _by_id("materials", job.workpiece.material)
    for cut in job.cuts:
        yield from _by_id("tools", cut.tool)
        yield from _by_id("holders", cut.holder)
        kind = cut.holder.written().get("kind", "")
        if kind in names.HOLDER_ROWS:
            yield "holders", names.HOLDER_ROWS[kind]
        tool = tool_of(cut, shelf)
        yield "cutting_data", data_key(material.data_group, names.data_substrate(tool.substrate, tool.coating))


def _by_id(table: str, spec: Reference) -> Iterator[tuple[str, str]]:
    id = spec.written().get("id", "")
    if id:
        yield table, names.HOLDER_ROWS.get(id, id) if table == "holders" else id


def _row(table: str, id: str, shelf: Shelf) -> Record | None:
    rows: Mapping[Any, Record] = getattr(shelf, table)
    key: Any = tuple(id.split(" | ", 1)) if table == "cutting_data" else id
    try:
        return rows.get(key)
    except InputError:
        return None
