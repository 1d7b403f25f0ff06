"""The tables of the library as rows of data: what a page lists, filters by, and in which groups its fields stand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lesna.model import units
from lesna.model.base import Record
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Tool

Shown = Callable[[Any, units.System], str]


@dataclass(frozen=True)
class TableSpec:
    """One table.

    Attributes
    ----------
    id, title, one : str
        Name in the library, name of its page, name of one of its rows.
    cls : type
        Its records.
    columns : tuple
        Headers of the list and what stands under them.
    kind_of : callable
        Word that the first filter chooses by.
    kinds : str
        Name of that filter.
    """

    id: str
    title: str
    one: str
    cls: type[Record]
    columns: tuple[tuple[str, Shown], ...]
    kinds: str
    kind_of: Callable[[Any], str]


def _length(key: str) -> Shown:
    def shown(record: Any, system: units.System) -> str:
        value = getattr(record, key)
        return "" if value is None else units.DIMENSION.text(value, system)

    return shown


def _plain(key: str) -> Shown:
    def shown(record: Any, system: units.System) -> str:
        value = getattr(record, key)
        return "" if value is None else f"{value:g}" if isinstance(value, (int, float)) else str(value)

    return shown


TABLES = (
    TableSpec("tools", "Tools", "tool", Tool,
              (("Name", _plain("name")), ("DC", _length("DC")), ("z", _plain("ZEFP")), ("reach", _length("usable_length"))),
              "Any kind", lambda tool: tool.kind.replace("_", " ")),
    TableSpec("holders", "Holders", "holder", Holder,
              (("Name", _plain("name")), ("stiffness", _plain("radial_stiffness_rel"))),
              "Any kind", lambda holder: holder.kind.replace("_", " ")),
    TableSpec("machines", "Machines", "machine", Machine,
              (("Name", _plain("name")), ("rpm", _plain("rpm_max")), ("kW", _plain("power_s1_kw"))),
              "Any taper", lambda machine: machine.taper or "not given"),
    TableSpec("materials", "Materials", "material", Material,
              (("Name", _plain("name")), ("group", _plain("iso_group")), ("kc1.1", _plain("kc11_n_mm2"))),
              "Any group", lambda material: material.iso_group or "not given"),
    TableSpec("cutting_data", "Starting values", "row", CuttingData,
              (("Material group", _plain("group_name")), ("edge", _plain("substrate")), ("vc", _plain("vc_typ_m_min"))),
              "Any group", lambda row: row.iso_group),
)  # fmt: skip
BY_ID = {spec.id: spec for spec in TABLES}
