"""Starting values of the tables for a tool, a material and a school of roughing, and for finishing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lesna.model import names
from lesna.model.job import Feature
from lesna.model.library_records import Material, Tool
from lesna.model.resolve import Shelf
from lesna.planning.cut.finishing import finishing_pass
from lesna.planning.cut.levels import depth_of, even_depth
from lesna.planning.cut.life import hardness_speed, multiplier_of
from lesna.planning.cut.windows import window_of

#: how much of the engagement's multiplier the starting speed takes
SpeedShare = Literal["none", "half", "full"]
_SHARES: dict[SpeedShare, float] = {"none": 0.0, "half": 0.5, "full": 1.0}

#: share of it that a finishing pass takes at most: the wall has to come out right, and the pass is short
_FINE_SHARE = 0.5


@dataclass(frozen=True)
class StartingValues:
    """What the tables propose; vc in m/min, lengths in mm."""

    vc: float
    hex: float
    ae: float
    ap: float
    source: str


def starting_values(
    tool: Tool,
    material: Material,
    strategy: str,
    shelf: Shelf,
    *,
    share: SpeedShare = "full",
    hb: float | None = None,
    feature: Feature | None = None,
    role: str = "rough",
    left: float | None = None,
) -> StartingValues | None:
    """The tables' proposal, None where they have none for this pair.

    ``vc = vc_typ vc_factor (HB/HB_row)^-1 (1 + share (m(x) - 1))`` with m the multiplier of the engagement, the same that the
    edge life is computed with. hex is the typical chip at this diameter; the engagement lies at the middle of the school's
    stepovers, at most the flute length deep and in whole levels of the feature.

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
    share : {'none', 'half', 'full'}
        How much of the multiplier the speed takes.
    hb : float or None
        Measured hardness [HB].
    feature : Feature or None
        What is made.
    role : str
        Role of the cut; one that finishes takes a light stepover, a fine chip and half the gain whatever its school.
    left : float or None
        What roughing left for it [mm].
    """
    key = (material.data_group, names.data_substrate(tool.substrate, tool.coating))
    data = shelf.cutting_data.get(key)
    h_ex = data.hex_at("typ", tool) if data else None
    if data is None or h_ex is None or data.vc_typ_m_min is None:
        return None
    window = window_of(strategy, data, tool)
    ae = (window.ae_min + window.ae_max) / 2 if window else data.ref_ae_over_d * tool.DC
    ap = window.ap_max if window else min(data.ref_ap_over_d * tool.DC, tool.APMX)
    ap = even_depth(depth_of(feature), ap)
    fine = finishing_pass(tool, feature, left, h_ex, data.hex_at("low", tool)) if role == "finish" else None
    if fine is not None:
        ae, ap, h_ex = fine.ae, fine.ap, fine.hex
    gain = float(multiplier_of(data, tool, material, min(ae / tool.DC, 1.0), ae * ap / tool.DC**2))
    base = data.vc_typ_m_min * material.vc_factor * hardness_speed(hb, material)
    return StartingValues(
        vc=base * (1.0 + min(_SHARES[share], 1.0 if fine is None else _FINE_SHARE) * (gain - 1.0)),
        hex=h_ex,
        ae=ae,
        ap=ap,
        source=f"cutting-data-baseline.csv, row {key[0]} / {key[1]}, confidence {data.confidence}",
    )
