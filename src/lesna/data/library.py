"""The library: shipped tables, and over them what the shop keeps in its XDG data directory."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import Any

from lesna.data.places import shipped_folder
from lesna.data.search import Match, ranked
from lesna.data.tables_io import Prepare, Table, csv_rows, json_rows
from lesna.model import names
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import parse_json, read_text
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Taper, Tool

_FILES = {
    "tools": "tools-generic.csv",
    "holders": "holders-generic.csv",
    "machines": "machines-generic.csv",
    "materials": "workpiece-materials.csv",
    "tapers": "tapers.csv",
    "cutting_data": "cutting-data-baseline.csv",
}


class Library:
    """Tables of tools, holders, machines, materials and cutting data, each read when first asked for.

    Parameters
    ----------
    shop : Path or None
        Folder of the shop's own tables; rows there replace shipped ones of the same id.
        Rows that cannot be used are left out and named in `problems`.
    """

    def __init__(self, shop: Path | None = None) -> None:
        self._shop = shop
        self.problems: list[str] = []

    @cached_property
    def tools(self) -> Table[Tool]:
        """Tools by id."""
        return self._table("tools", Tool, names.TOOL_COLUMNS)

    @cached_property
    def holders(self) -> Table[Holder]:
        """Holders by id."""
        return self._table("holders", Holder, names.HOLDER_COLUMNS)

    @cached_property
    def machines(self) -> Table[Machine]:
        """Machines by id, each with its curve."""
        return self._table("machines", Machine, {}, prepare=self._with_curve)

    @cached_property
    def materials(self) -> Table[Material]:
        """Materials by id."""
        return self._table("materials", Material, {})

    @cached_property
    def cutting_data(self) -> Table[CuttingData]:
        """Starting values by (data group, substrate)."""
        return self._table("cutting_data", CuttingData, {}, key=("data_group", "substrate"))

    @cached_property
    def tapers(self) -> Table[Taper]:
        """Spindle noses by id."""
        return self._table("tapers", Taper, {})

    def find_materials(self, text: str) -> list[Match]:
        """Materials that answer to a designation, best first (see `lesna.data.search`)."""
        return ranked(text, self.materials, ("id", "name", "en", "aisi_uns", "condition", "data_group"))

    def find_tools(self, text: str) -> list[Match]:
        """Tools whose id, name, geometry or notes answer to the words, best first."""
        return ranked(text, self.tools, ("id", "name", "geometry", "kind", "coating", "notes"))

    def _with_curve(self, row: dict[str, Any]) -> dict[str, Any]:
        """A machine's row with the curve that it names by its file."""
        name = row.get("curve_file")
        return {**row, "curve": _curve(name, self._shop)} if name and "curve" not in row else row

    def _table(
        self,
        what: str,
        cls: type[Any],
        columns: dict[str, str],
        key: tuple[str, ...] = ("id",),
        prepare: Prepare | None = None,
    ) -> Table[Any]:
        def key_of(row: dict[str, Any]) -> Any:
            parts = tuple(str(row[name]) for name in key)
            return parts if len(parts) > 1 else parts[0]

        table: Table[Any] = Table(cls, columns, key_of, prepare)
        shipped = shipped_folder() / "tables" / _FILES[what]
        for row in csv_rows(read_text(shipped)):
            table.add(row, f"{shipped.name}, row {' / '.join(row[name] for name in key)}")
        for name in (f"{what.replace('_', '-')}.csv", f"{what.replace('_', '-')}.json"):
            self._add_shop_rows(table, name, key)
        return table

    def _add_shop_rows(self, table: Table[Any], name: str, key: tuple[str, ...]) -> None:
        path = self._shop / name if self._shop else None
        if path is None or not path.exists():
            return
        try:
            text = read_text(path)
            rows = csv_rows(text) if path.suffix == ".csv" else json_rows(text)
        except (FileProblem, InputError) as error:
            self.problems.append(f"{path}: {error}")
            return
        for number, row in enumerate(rows, start=2 if path.suffix == ".csv" else 1):
            self._add_shop_row(table, row, key, f"{path}, row {number}")

    def _add_shop_row(self, table: Table[Any], row: dict[str, Any], key: tuple[str, ...], origin: str) -> None:
        if not all(row.get(name) for name in key):
            self.problems.append(f"{origin}: {key[0]}: is missing and must be given; the row is left out")
            return
        row_key = tuple(str(row[name]) for name in key) if len(key) > 1 else str(row[key[0]])
        former = (table.raw(row_key), table.origin(row_key)) if row_key in table else None
        table.add(row, f"shop library {origin}")
        try:
            table[row_key]
        except InputError as error:
            self.problems.append(f"{origin}: {error}; the row is left out")
            table.discard(row_key)
            if former:
                table.add(*former)


def _curve(name: str, shop: Path | None) -> Any:
    for folder in ([shop] if shop else []) + [shipped_folder() / "tables"]:
        if (folder / name).exists():
            try:
                return parse_json(read_text(folder / name))
            except (FileProblem, InputError) as error:
                raise InputError(f"'{name}': {error}", "curve_file") from None
    raise InputError(f"the file '{name}' is not there", "curve_file")
