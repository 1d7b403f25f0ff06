"""Library rows that a job keeps as it was computed with them, so that a later change in the library changes no job unasked."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Protocol, TypeVar

from pydantic import Field, PlainSerializer

from lesna.model.base import Record
from lesna.model.lesson import Lesson
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Taper, Tool
from lesna.model.standard import Standard

R = TypeVar("R")


class Shelf(Protocol):
    """What a library offers to whoever resolves a document."""

    @property
    def tools(self) -> Mapping[str, Tool]: ...
    @property
    def holders(self) -> Mapping[str, Holder]: ...
    @property
    def machines(self) -> Mapping[str, Machine]: ...
    @property
    def materials(self) -> Mapping[str, Material]: ...
    @property
    def tapers(self) -> Mapping[str, Taper]: ...
    @property
    def cutting_data(self) -> Mapping[tuple[str, str], CuttingData]: ...
    # whole parts of a cut, which are made where this is known already
    def lesson_of(self, parts: Any) -> Lesson | None: ...
    def standard_of(self, family: str, role: str) -> Standard | None: ...


def _written(rows: Mapping[str, Record]) -> dict[str, Any]:
    return {
        key: row.model_dump(mode="json", exclude_none=True, exclude_defaults=True, by_alias=True)
        for key, row in rows.items()
    }


def _kept(cls: type[Record], what: str) -> Any:
    return Annotated[
        dict[str, cls],  # type: ignore[valid-type]
        PlainSerializer(_written),
        Field(default_factory=dict, description=f"{what} by id"),
    ]


class Rows(Record):
    """Rows by id; cutting data by material group and cutting material, with a bar between them."""

    tools: _kept(Tool, "tools")  # type: ignore[valid-type]
    holders: _kept(Holder, "holders")  # type: ignore[valid-type]
    machines: _kept(Machine, "machines")  # type: ignore[valid-type]
    materials: _kept(Material, "materials")  # type: ignore[valid-type]
    cutting_data: _kept(CuttingData, "starting values")  # type: ignore[valid-type]

    def of(self, table: str) -> Mapping[str, Record]:
        """The rows of one table."""
        found: Mapping[str, Record] = getattr(self, table)
        return found

    @property
    def is_empty(self) -> bool:
        """Whether nothing is kept."""
        return not any(self.of(table) for table in TABLES)


#: tables of which rows are kept
TABLES = ("tools", "holders", "machines", "materials", "cutting_data")


def data_key(group: str, substrate: str) -> str:
    """Under which a row of the cutting data is kept."""
    return f"{group} | {substrate}"


class _Over(Mapping[Any, R]):
    """A table with some rows laid over it."""

    def __init__(self, rows: Mapping[Any, R], table: Mapping[Any, R]) -> None:
        self._rows, self._table = rows, table

    def __getitem__(self, key: Any) -> R:
        return self._rows[key] if key in self._rows else self._table[key]

    def __contains__(self, key: object) -> bool:
        return key in self._rows or key in self._table

    def __iter__(self) -> Iterator[Any]:
        yield from self._table
        yield from (key for key in self._rows if key not in self._table)

    def __len__(self) -> int:
        return sum(1 for _ in self)


class KeptShelf:
    """A library as a job sees it: the rows it keeps count before the library's own."""

    def __init__(self, rows: Rows, shelf: Shelf) -> None:
        self.rows, self.shelf = rows, shelf
        self.tools: Mapping[str, Tool] = _Over(rows.tools, shelf.tools)
        self.holders: Mapping[str, Holder] = _Over(rows.holders, shelf.holders)
        self.machines: Mapping[str, Machine] = _Over(rows.machines, shelf.machines)
        self.materials: Mapping[str, Material] = _Over(rows.materials, shelf.materials)
        self.tapers: Mapping[str, Taper] = shelf.tapers
        data = {tuple(key.split(" | ", 1)): row for key, row in rows.cutting_data.items()}
        self.cutting_data: Mapping[tuple[str, str], CuttingData] = _Over(data, shelf.cutting_data)

    def lesson_of(self, parts: Any) -> Lesson | None:
        """What trials taught of a cut, as the library knows it."""
        return self.shelf.lesson_of(parts)

    def standard_of(self, family: str, role: str) -> Standard | None:
        """The shop's standard, as the library knows it."""
        return self.shelf.standard_of(family, role)


#: shelves made lately: the same rows over the same library are asked for at every move of a drag
_RECENT: list[KeptShelf] = []
_RECENT_MOST = 8


def over(rows: Rows | None, shelf: Shelf) -> Shelf:
    """A library with a job's own rows over it; the library itself where the job keeps none."""
    if rows is None or rows.is_empty:
        return shelf
    base = shelf.shelf if isinstance(shelf, KeptShelf) else shelf
    for known in _RECENT:
        if known.rows is rows and known.shelf is base and known.tools._table is base.tools:  # type: ignore[attr-defined]
            return known
    made = KeptShelf(rows, base)
    _RECENT.insert(0, made)
    del _RECENT[_RECENT_MOST:]
    return made
