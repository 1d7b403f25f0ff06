"""Starting values of the tables for a tool, a material and a school of roughing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lesna.model import names
from lesna.model.library_records import Material, Tool
from lesna.model.resolve import Shelf
from lesna.physics.life.heat import equal_temperature_factor
from lesna.planning.cut.windows import window_of

#: where the factor on the starting speed comes from
HeatShare = Literal["table", "none", "half", "full"]


@dataclass(frozen=True)
class StartingValues:
    """What the tables propose; vc in m/min, lengths in mm."""

    vc: float
    hex: float
    ae: float
    ap: float
    source: str


def starting_values(
    tool: Tool, material: Material, strategy: str, shelf: Shelf, *, heat_share: HeatShare = "table"
) -> StartingValues | None:
    """The tables' proposal, None where they have none for this pair.

    ``vc = vc_typ vc_factor f`` with f the table's multiplier of the school, or 1, half or all of the
    equal-temperature factor: one of them, never two, because they stand for the same effect. hex is the typical
    chip at this diameter; the engagement lies at the middle of the school's stepovers, at most the flute length deep.

    Parameters
    ----------
    tool : Tool
        The cutter.
    material : Material
        What is cut.
    strategy : str
        School of roughing.
    shelf : Shelf
        Library with the cutting data.
    heat_share : {'table', 'none', 'half', 'full'}
        Where the factor on the speed comes from.
    """
    key = (material.data_group, names.data_substrate(tool.substrate, tool.coating))
    data = shelf.cutting_data.get(key)
    h_ex = data.hex_at("typ", tool.DC) if data else None
    if data is None or h_ex is None or data.vc_typ_m_min is None:
        return None
    window = window_of(strategy, data, tool)
    ae = (window.ae_min + window.ae_max) / 2 if window else data.ref_ae_over_d * tool.DC
    ap = window.ap_max if window else min(data.ref_ap_over_d * tool.DC, tool.APMX)
    if heat_share == "table":
        factor = window.vc_factor if window else 1.0
    else:
        kv = float(equal_temperature_factor(min(ae / tool.DC, 1.0), material.mc or 0.0))
        factor = 1.0 + {"none": 0.0, "half": 0.5, "full": 1.0}[heat_share] * (kv - 1.0)
    return StartingValues(
        vc=data.vc_typ_m_min * material.vc_factor * factor,
        hex=h_ex,
        ae=ae,
        ap=ap,
        source=f"cutting-data-baseline.csv, row {key[0]} / {key[1]}, confidence {data.confidence}",
    )
