"""The schools of roughing as engagement windows of the tables."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model.library_records import CuttingData, Tool


@dataclass(frozen=True)
class Window:
    """Where a school of cutting lives, in millimetres."""

    ae_min: float
    ae_max: float
    ap_max: float
    ap_min: float = 0.0


#: strategy -> columns of least ae, most ae and most ap, each over DC
_COLUMNS = {
    "full_slot": (None, None, "slot_ap_max_over_d"),
    "heavy_radial": ("heavy_ae_min_over_d", "heavy_ae_max_over_d", "heavy_ap_max_over_d"),
    "light_radial": ("light_ae_min_over_d", "light_ae_max_over_d", "light_ap_max_over_d"),
    "trochoidal": ("troch_ae_min_over_d", "troch_ae_max_over_d", "troch_ap_max_over_d"),
    "high_feed": (None, None, "highfeed_ap_max_over_dc"),
}
#: stepovers that are general practice where the table has no column: slots, and lead-angle cutters
_FIXED_AE = {"full_slot": (1.0, 1.0), "high_feed": (0.5, 0.8)}


def window_of(strategy: str, data: CuttingData | None, tool: Tool) -> Window | None:
    """The window of a school for this tool, None where the tables offer none.

    Parameters
    ----------
    strategy : str
        Strategy of the cut.
    data : CuttingData or None
        Row of the cutting data.
    tool : Tool
        The cutter; its APMX prevails.
    """
    if data is None or strategy not in _COLUMNS:
        return None
    low, high, deep = _COLUMNS[strategy]
    fixed = _FIXED_AE.get(strategy)
    ae_min = fixed[0] if fixed else getattr(data, low or "")
    ae_max = fixed[1] if fixed else getattr(data, high or "")
    ap_max = getattr(data, deep)
    if ae_min is None or ae_max is None or ap_max is None:
        return None
    ap_min = data.highfeed_ap_min_over_dc if strategy == "high_feed" else None
    deepest = min(ap_max * tool.DC, tool.edge_depth)
    return Window(ae_min * tool.DC, ae_max * tool.DC, deepest, min((ap_min or 0.0) * tool.DC, deepest))
