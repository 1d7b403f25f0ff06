"""The one place that maps the spellings of shipped tables to those of the job document.

A document may use either; inside Lesna only the document's spelling exists.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

from lesna.model.base import nearest
from lesna.model.errors import InputError

Strategy = Literal["full_slot", "heavy_radial", "light_radial", "trochoidal", "high_feed", "surface"]
Role = Literal["rough", "rest", "semi", "finish"]
ToolKind = Literal[
    "square", "corner_radius", "ball", "tapered_ball", "high_feed", "serrated", "chip_splitter", "chamfer", "face"
]
HolderKind = Literal[
    "collet",
    "precision_collet",
    "shrink",
    "hydraulic",
    "hydraulic_form_lock",
    "side_lock",
    "milling_chuck",
    "mechanical_lock",
]
Substrate = Literal["carbide", "indexable", "hss", "hss_co"]
Coating = Literal["none", "AlTiN", "TiAlN", "AlTiSiN", "AlCrN", "TiN", "TiCN", "DLC", "ZrN", "TiB2", "diamond"]
Coolant = Literal["dry", "air", "mist", "flood", "through_air", "through"]
Direction = Literal["down", "up"]
Compensation = Literal["max_chip", "mean_chip"]
FeatureKind = Literal["slot", "pocket", "shelf", "face", "through", "surface", "chamfer", "profile"]
#: sides of a bounding box
Side = Literal["x-", "x+", "y-", "y+"]

#: how the document's words stand on screens and sheets; in the order in which they are offered
STRATEGIES: dict[Strategy, str] = {
    "full_slot": "full slot", "heavy_radial": "heavy radial", "light_radial": "light radial", "trochoidal": "trochoidal",
    "high_feed": "high feed", "surface": "surface",
}  # fmt: skip
ROLES: dict[Role, str] = {"rough": "rough", "rest": "rest", "semi": "semi-finish", "finish": "finish"}
DIRECTIONS: dict[Direction, str] = {"down": "down, climb", "up": "up"}
COOLANTS: dict[Coolant, str] = {
    "dry": "dry", "air": "air", "mist": "mist", "flood": "flood", "through_air": "air, through", "through": "through tool",
}  # fmt: skip
FEATURES: dict[FeatureKind, str] = {
    "slot": "slot", "pocket": "pocket", "shelf": "shelf", "face": "face", "through": "through", "surface": "surface",
    "chamfer": "chamfer", "profile": "from a drawing",
}  # fmt: skip
#: media that come through the tool, and those that blow chips out of a slot
THROUGH: frozenset[Coolant] = frozenset({"through", "through_air"})
BLOWN: frozenset[Coolant] = frozenset({"air", *THROUGH})

#: table column -> document field
TOOL_COLUMNS = {
    "geometry": "kind",
    "DC_mm": "DC",
    "DCX_mm": "DCX",
    "DMM_mm": "DMM",
    "APMX_mm": "APMX",
    "LU_mm": "LU",
    "DN_mm": "DN",
    "OAL_mm": "OAL",
    "FHA_deg": "FHA",
    "GAMF_deg": "GAMF",
    "RE_mm": "RE",
    "KAPR_deg": "KAPR",
    "n_max_rpm": "rated_rpm",
    "price_cu": "price",
    # what nobody computes with is read in older files and left out
    "unit_system": "",
    "regrindable": "",
}
HOLDER_COLUMNS = {"typical_price_cu": "", "price": ""}
DATA_COLUMNS = {"vc_mult_heavy": "", "vc_mult_troch": ""}

_TOOL_KINDS = {
    "corner-radius": "corner_radius",
    "tapered-ball": "tapered_ball",
    "high-feed-indexable": "high_feed",
    "high-feed-solid": "high_feed",
    "serrated-rougher": "serrated",
    "chip-splitter-rougher": "chip_splitter",
    "chip-splitter": "chip_splitter",
    "shoulder-indexable": "corner_radius",
    "face-mill": "face",
    "high-feed": "high_feed",
}
_SUBSTRATES = {
    "carbide-coated-altin": "carbide",
    "carbide-coated-nonferrous": "carbide",
    "carbide-uncoated": "carbide",
    "carbide-indexable": "indexable",
    "hss-co": "hss_co",
}
_HOLDER_KINDS = {
    "precision-collet": "precision_collet",
    "shrink-fit": "shrink",
    "hydraulic-form-lock": "hydraulic_form_lock",
    "side-lock": "side_lock",
    "milling-chuck": "milling_chuck",
    "mechanical-pull-out-lock": "mechanical_lock",
}
#: document kind -> id of the shipped row that stands for it
HOLDER_ROWS = {kind: row for row, kind in _HOLDER_KINDS.items()} | {"collet": "collet", "hydraulic": "hydraulic"}
_COOLANTS = {"mist-mql": "mist", "mql": "mist", "through-tool": "through"}
#: medium of the document -> as the cutting data rank it; air is air, however it comes to the edge
_RANKED_AS: dict[Coolant, str] = {
    "dry": "dry", "air": "air", "mist": "mist-mql", "flood": "flood", "through_air": "air", "through": "through-tool",
}  # fmt: skip

#: coating -> column of the cutting data for solid carbide
_NONFERROUS_COATINGS = {"DLC", "ZrN", "TiB2", "diamond"}


def spelled(value: Any, table: dict[str, str]) -> Any:
    """The document's spelling of a value that may stand in a table's."""
    return table.get(value, value) if isinstance(value, str) else value


def tool_kind(value: Any) -> Any:
    """The document's name of a tool geometry."""
    return spelled(value, _TOOL_KINDS)


def substrate(value: Any) -> Any:
    """The document's name of a cutting material."""
    return spelled(value, _SUBSTRATES)


def holder_kind(value: Any) -> Any:
    """The document's name of a holder kind."""
    return spelled(value, _HOLDER_KINDS)


def coolant(value: Any) -> Any:
    """The document's name of a cooling medium."""
    return spelled(value, _COOLANTS)


def ranked_as(medium: Coolant) -> str:
    """A medium as the cutting data rank and refuse it."""
    return _RANKED_AS[medium]


def offers(options: str, medium: Coolant) -> bool:
    """Whether a machine whose coolant options are told has a medium; one of which nothing is told may have any."""
    told = [option.strip() for option in options.split(";") if option.strip()]
    word = "through" if medium in THROUGH else medium
    return not told or medium == "dry" or any(option.startswith(word) for option in told)


def coating(value: Any) -> Any:
    """A coating in its standard spelling, whatever the case; ``-type`` endings are dropped."""
    if not isinstance(value, str):
        return value
    plain = value.strip().removesuffix("-type").lower()
    for known in get_args(Coating):
        if known.lower() == plain:
            return known
    guess = nearest(plain, get_args(Coating))
    hint = f"; did you mean '{guess}'?" if guess else ""
    raise InputError(f"must be one of {', '.join(get_args(Coating))}, got '{value}'{hint}")


def data_substrate(kind: str, coat: str) -> str:
    """The substrate column of the cutting data for a tool's substrate and coating."""
    if kind == "indexable":
        return "carbide-indexable"
    if kind in ("hss", "hss_co"):
        return kind.replace("_", "-")
    if coat == "none":
        return "carbide-uncoated"
    return "carbide-coated-nonferrous" if coat in _NONFERROUS_COATINGS else "carbide-coated-altin"


def renamed(raw: Any, columns: dict[str, str]) -> Any:
    """A row with its table columns under the document's names, without those that are none any more; a field in both its
    spellings is refused.
    """
    if not isinstance(raw, dict):
        return raw
    out: dict[str, Any] = {}
    for key, value in raw.items():
        name = str(columns.get(key, key))
        if not name:
            continue
        if name in out:
            raise InputError(f"is given twice, as '{name}' and under its table name '{key}'", name)
        out[name] = value
    return out
