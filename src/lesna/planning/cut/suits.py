"""Whether a tool suits the work: does it fit into what is to be made, and is its cutting material meant for the part's."""

from __future__ import annotations

from lesna.model import names, units
from lesna.model.job import Feature
from lesna.model.library_records import Material, Tool
from lesna.model.resolve import Shelf

#: what a word of the tables is worth
_WORTH = {"yes": 1.0, "poor": 0.4, "no": 0.0}
#: of a tool whose cutting material no table knows for this material, and of one that does not fit
_UNKNOWN, _MISFIT = 0.3, 0.0


def misfit(tool: Tool, feature: Feature | None) -> str:
    """Why a tool cannot make a feature, with marked numbers; empty where it can, as far as the feature says.

    Parameters
    ----------
    tool : Tool
        The cutter.
    feature : Feature or None
        What is to be made.
    """
    if feature is None:
        return ""
    if feature.kind == "chamfer" and tool.kind != "chamfer":
        return "a chamfer is made along its edge with a chamfer mill"
    is_inside = feature.kind == "slot" or (feature.kind in ("pocket", "profile") and feature.is_enclosed)
    known = [side for side in feature.sides if side is not None] if feature.outline else [feature.width_mm]
    narrowest = min((side for side in known if side is not None), default=None)
    room = None if narrowest is None else narrowest - 2 * feature.stock_wall_mm
    widest = max(tool.DC, tool.DCX or 0.0)
    if is_inside and room is not None and room * (1 + 1e-9) < widest:
        return (
            f"the tool of {units.DIMENSION.mark(widest)} does not fit into a {feature.kind} of "
            f"{units.DIMENSION.mark(room)} between its walls"
        )
    corner = feature.corner_radius_mm
    if feature.kind in ("pocket", "shelf") and corner is not None and corner * (1 + 1e-9) < tool.DC / 2:
        return (
            f"an inner corner of {units.DIMENSION.mark(corner)} is smaller than the tool's radius of "
            f"{units.DIMENSION.mark(tool.DC / 2)}: material stays in it"
        )
    return ""


def suitability(tool: Tool, material: Material, feature: Feature | None, shelf: Shelf) -> float:
    """How well a tool suits a material and a feature, 0 not at all to 1 [-].

    Parameters
    ----------
    tool : Tool
        The cutter.
    material : Material
        What is cut.
    feature : Feature or None
        What is to be made.
    shelf : Shelf
        Where the cutting data stand.
    """
    if misfit(tool, feature):
        return _MISFIT
    data = shelf.cutting_data.get((material.data_group, names.data_substrate(tool.substrate, tool.coating)))
    worth = _UNKNOWN if data is None else _WORTH[data.recommended]
    depth = feature.depth_mm if feature is not None else None
    return worth * (0.6 if depth is not None and tool.usable_length < depth else 1.0)
