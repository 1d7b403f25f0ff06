"""Starting values of the tables for a tool, a material and a school of roughing."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model import names
from lesna.model.library_records import Material, Tool
from lesna.model.resolve import Shelf
from lesna.planning.schools import window_of


@dataclass(frozen=True)
class StartingValues:
    """What the tables propose; vc in m/min, lengths in mm."""

    vc: float
    hex: float
    ae: float
    ap: float
    source: str


def starting_values(tool: Tool, material: Material, strategy: str, shelf: Shelf) -> StartingValues | None:
    """The tables' proposal, None where they have none for this pair.

    ``vc = vc_typ vc_factor vc_mult``; hex the typical chip at this diameter; the engagement at the middle of the
    school's stepovers and at most the flute length.

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
    """
    key = (material.data_group, names.data_substrate(tool.substrate, tool.coating))
    data = shelf.cutting_data.get(key)
    h_ex = data.hex_at("typ", tool.DC) if data else None
    if data is None or h_ex is None or data.vc_typ_m_min is None:
        return None
    window = window_of(strategy, data, tool)
    factor = window.vc_factor if window else 1.0
    ae = (window.ae_min + window.ae_max) / 2 if window else data.ref_ae_over_d * tool.DC
    ap = window.ap_max if window else min(data.ref_ap_over_d * tool.DC, tool.APMX)
    return StartingValues(
        vc=data.vc_typ_m_min * material.vc_factor * factor,
        hex=h_ex,
        ae=ae,
        ap=ap,
        source=f"cutting-data-baseline.csv, row {key[0]} / {key[1]}, confidence {data.confidence}",
    )
