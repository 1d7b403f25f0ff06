"""What a record says about its fields: kind, unit, range, meaning; whoever shows or types any record reads it here."""

from __future__ import annotations

import math
import re
import types
import typing
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from lesna.model import units
from lesna.model.base import LARGEST, SMALLEST, Number, Record
from lesna.model.errors import InputError
from lesna.model.job import TapMode

Kind = Literal["number", "count", "yes_no", "choice", "text", "numbers", "points", "outlines", "modes", "other"]

_QUANTITIES = {
    "mm": units.DIMENSION, "um": units.SMALL, "deg": units.ANGLE, "1/min": units.SPINDLE_SPEED, "m/min": units.SURFACE_SPEED,
    "mm/min": units.FEED, "kW": units.POWER, "Nm": units.TORQUE, "N": units.FORCE, "kg": units.MASS, "HB": units.BRINELL,
    "HRC": units.HARDNESS, "cm3/min": units.REMOVAL, "min": units.MINUTES, "money": units.MONEY, "money/h": units.MONEY,
    "N/mm2": units.STRESS, "MPa": units.STRESS,
}  # fmt: skip
#: ends of keys that only repeat the unit
_UNIT_END = re.compile(r"_(mm|um|deg|rpm|m_min|mm_min|kw|nm|n|kg|hb|hrc|n_mm2|n_mm|mpa|kn|hz|n_um|m_s2|m_s3|kg_m3|w_mk|j_kgk|"
                       r"n_m|cu|s|c|min|cm3_min)$")  # fmt: skip


#: names for screens where the key alone says too little or too much
_LABELS = {
    "id": "Short name (id)", "core_dia_ratio": "Core over DC", "gullet_area_per_flute_mm2_hint": "Gullet, mm²",
    "rated_rpm": "Rated speed", "insert_cost_cu": "Insert price", "intended_iso_groups": "For groups",
    "unit_system": "Made in", "pitch_deg": "Pitch angles", "helix_deg": "Helix angles", "tip_angle_deg": "Tip angle",
    "runout_3xd_typ_um": "Usual runout", "runout_3xd_max_um": "Largest runout", "radial_stiffness_rel": "Radial stiffness",
    "damping_rel": "Damping", "nose_d12_mm": "Nose at 12 mm", "nose_growth": "Nose growth", "torque_d6_nm": "Grip at 6 mm",
    "torque_d10_nm": "Grip at 10 mm", "torque_d12_nm": "Grip at 12 mm", "torque_d16_nm": "Grip at 16 mm",
    "torque_d20_nm": "Grip at 20 mm", "pullout_force_d12_n_hint": "Pull-out", "rpm_guide_max_40taper": "Highest speed",
    "rpm_min": "Lowest speed", "rpm_max": "Highest speed", "power_s1_kw": "Power S1", "power_s6_40_kw": "Power S6 40 %",
    "torque_s1_max_nm": "Torque S1", "torque_s6_40_max_nm": "Torque S6 40 %", "idle_power_at_half_rpm_kw": "Idle power",
    "axis_thrust_max_n": "Axis thrust", "lookahead_blocks_s": "Blocks a second", "table_load_max_kg": "Table load",
    "spindle_radial_stiffness_n_um": "Nose stiffness", "hourly_rate_cu": "Rate per hour", "tool_change_s": "Tool change",
    "iso_group": "ISO 513 group", "vc_factor": "Speed factor", "en": "EN name", "aisi_uns": "AISI, UNS",
    "hardness_hb_min": "Hardness from", "hardness_hb_max": "Hardness to", "hardness_hrc_typ": "Hardness", "mc": "mc",
    "uts_mpa_typ": "Strength", "kc11_n_mm2": "kc1.1", "rake_ref_deg": "Reference rake", "kc_hardness_exp": "Hardness exp.",
    "kr_ratio": "Radial share", "ka_ratio": "Axial share", "thermal_cond_w_mk": "Conductivity",
    "specific_heat_j_kgk": "Specific heat", "melting_or_solidus_c": "Melts at", "min_chip_thickness_um_ref": "Least chip",
    "built_up_edge_tendency": "Built-up edge", "work_hardening_tendency": "Work hardening", "profile_mm": "Outline",
    "islands_mm": "Islands", "stock_wall_mm": "Left on walls", "stock_floor_mm": "Left on floor", "cusp_um": "Cusp",
    "corner_radius_mm": "Inner corner", "wear_vb_mm": "Flank wear VB", "tap_modes": "Measured modes",
    "removal_floor_cm3_min": "Least removal", "machine_rate_per_h": "Rate per hour", "tool_change_min": "Tool change",
    "stick_out_mm": "Stick-out", "ae_mm": "Stepover ae", "ap_mm": "Depth ap", "vc_m_min": "Speed vc", "n_rpm": "Spindle n",
    "hex_mm": "Chip hex", "fz_mm": "Feed fz", "ae_over_dc": "ae / DC", "clamping_principle": "Clamps by",
    "shank_requirement": "Shank", "iso_subgroup": "ISO subgroup", "process_damping_n_m": "Damping Ci",
    "edges_per_insert": "Edges an insert", "ref_ae_over_d": "At ae / DC", "ref_ap_over_d": "At ap / DC",
    "vc_low_m_min": "vc from", "vc_typ_m_min": "vc typical", "vc_high_m_min": "vc to", "taylor_n": "Taylor n",
    "taylor_feed_exp": "Chip exponent", "ref_life_min": "Edge life", "vc_mult_slot": "vc in slots", "vc_mult_heavy": "vc heavy",
    "vc_mult_light": "vc light", "vc_mult_troch": "vc in loops", "vc_mult_highfeed": "vc high feed",
    "hex_low_d10_mm": "hex from", "hex_typ_d10_mm": "hex typical", "hex_high_d10_mm": "hex to",
    "hex_diameter_exp": "DC exponent", "hex_min_rubbing_mm": "Rubs below", "slot_ap_max_over_d": "Slot ap to",
    "heavy_ae_min_over_d": "Heavy ae from", "heavy_ae_max_over_d": "Heavy ae to", "heavy_ap_max_over_d": "Heavy ap to",
    "light_ae_min_over_d": "Light ae from", "light_ae_max_over_d": "Light ae to", "light_ap_max_over_d": "Light ap to",
    "troch_ae_min_over_d": "Loop ae from", "troch_ae_max_over_d": "Loop ae to", "troch_ap_max_over_d": "Loop ap to",
    "highfeed_ap_min_over_dc": "ap from", "highfeed_ap_max_over_dc": "ap to", "highfeed_fz_mult_min": "fz times, from",
    "highfeed_fz_mult_max": "fz times, to",
}  # fmt: skip


@dataclass(frozen=True)
class Fact:
    """One field.

    Attributes
    ----------
    key, text : str
        Name in the document, and what it means.
    kind : str
        How it is typed.
    unit : str
        Unit in the document, empty where it has none.
    low, high : float
        Least and greatest; a bound that is itself too much is told by `is_above` and `is_below`.
    is_optional : bool
        Whether it may be left out.
    choices : tuple of str
        The only words there are.
    default : object
        What holds where it is left out.
    """

    key: str
    text: str
    kind: Kind
    unit: str = ""
    low: float = -math.inf
    high: float = math.inf
    is_above: bool = False
    is_below: bool = False
    is_optional: bool = True
    choices: tuple[str, ...] = ()
    default: Any = None

    @property
    def quantity(self) -> units.Quantity:
        """How its number is shown and typed."""
        return quantity_of(self.unit)

    @property
    def label(self) -> str:
        """Name for a screen: an ISO symbol stays as it is."""
        if self.key in _LABELS:
            return _LABELS[self.key]
        if self.key.isupper() or re.fullmatch(r"[A-Z][a-z]{0,2}c?.*_n_mm2?", self.key):
            return _UNIT_END.sub("", self.key)
        words = _UNIT_END.sub("", self.key).replace("_", " ")
        return words[:1].upper() + words[1:]

    def range(self, system: units.System) -> str:
        """Its range in words; empty where any number will do."""
        if self.kind not in ("number", "count"):
            return ""
        plain = units.COUNT if self.kind == "count" else self.quantity
        least, most = (_trimmed(plain.text(value, system)) for value in (self.low, self.high))
        least = "0" if self.low == SMALLEST else least
        has_low, has_high = math.isfinite(self.low), math.isfinite(self.high) and self.high < LARGEST
        if has_high:
            return f"{least} to {most}" if has_low else f"up to {most}"
        return "" if not has_low else "above 0" if self.low == SMALLEST else f"from {least}"


def _trimmed(text: str) -> str:
    return text.rstrip("0").rstrip(".") if "." in text else text


@lru_cache(maxsize=64)
def quantity_of(unit: str) -> units.Quantity:
    """The quantity of a unit of the document; one that has no inch form is shown as it is."""
    if unit in ("", "1"):
        return units.PLAIN_VALUE
    return _QUANTITIES.get(unit) or units.Quantity(unit, unit, 1.0, (-6, -6), {unit.lower().replace(" ", ""): 1.0}, "12.5",
                                                   trimmed=True)  # fmt: skip


@lru_cache(maxsize=32)
def facts_of(cls: type[Record]) -> tuple[Fact, ...]:
    """The fields of a record in their order.

    Parameters
    ----------
    cls : type
        A record.
    """
    return tuple(_fact(key, info) for key, info in cls.model_fields.items())


def _fact(key: str, info: Any) -> Fact:
    bounds: dict[str, float] = {}
    for rule in info.metadata:
        for name in ("ge", "gt", "le", "lt"):
            value = getattr(rule, name, None)
            if value is not None:
                bounds[name] = float(value)
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    annotation, is_optional = _without_none(info.annotation)
    kind, choices = _kind(key, annotation)
    default = None if info.is_required() or info.default_factory is not None else info.default
    return Fact(
        key, info.description or "", kind, str(extra.get("unit", "")),
        low=bounds.get("ge", bounds.get("gt", -math.inf)), high=bounds.get("le", bounds.get("lt", math.inf)),
        is_above="ge" not in bounds, is_below="le" not in bounds, is_optional=is_optional or not info.is_required(),
        choices=choices, default=default,
    )  # fmt: skip


def _without_none(annotation: Any) -> tuple[Any, bool]:
    if typing.get_origin(annotation) in (typing.Union, types.UnionType):
        inner = [part for part in typing.get_args(annotation) if part is not type(None)]
        if len(inner) < len(typing.get_args(annotation)) and len(inner) == 1:
            return inner[0], True
    return annotation, False


def _kind(key: str, annotation: Any) -> tuple[Kind, tuple[str, ...]]:
    if typing.get_origin(annotation) is Literal:
        return "choice", tuple(str(part) for part in typing.get_args(annotation))
    if typing.get_origin(annotation) is tuple:
        special: dict[str, Kind] = {"profile_mm": "points", "islands_mm": "outlines", "tap_modes": "modes"}
        return special.get(key, "numbers" if typing.get_args(annotation)[0] is Number else "other"), ()
    plain: dict[Any, Kind] = {bool: "yes_no", int: "count", float: "number", str: "text"}
    return plain.get(annotation, "other"), ()


def written(value: Any, kind: Kind) -> str:
    """A value that is typed as text, as it is typed: numbers with blanks, points with semicolons, outlines and modes by lines."""
    if value is None:
        return ""
    if kind == "numbers":
        return " ".join(f"{part:g}" for part in value)
    if kind == "points":
        return "; ".join(f"{x:g} {y:g}" for x, y in value)
    if kind == "outlines":
        return "\n".join(written(outline, "points") for outline in value)
    if kind == "modes":
        return "\n".join(
            f"{mode.axis} {mode.f_hz:g} Hz {mode.k_n_um:g} N/um {mode.zeta:g}{' simulated' if mode.simulated else ''}"
            for mode in value
        )
    return str(value)


_MODE = re.compile(
    r"^\s*([xyXY])[\s,;]+([\d.,eE+]+)\s*(?:Hz)?[\s;]+([\d.,eE+]+)\s*(?:N/[uµ]m)?[\s;]+([\d.,eE+\-]+)\s*(%?)\s*(simulated)?\s*$"
)


def read(text: str, kind: Kind) -> Any:
    """The value of a typed text (see `written`).

    Raises
    ------
    InputError
        When it cannot be read; the sentence shows the right form.
    """
    if kind == "numbers":
        return tuple(_number(part) for part in re.split(r"[;\s]+", text.strip()) if part)
    if kind == "points":
        return tuple(_point(part) for part in re.split(r"[;\n]+", text.strip()) if part.strip())
    if kind == "outlines":
        return tuple(read(line, "points") for line in text.splitlines() if line.strip())
    if kind == "modes":
        return tuple(_mode(line) for line in text.splitlines() if line.strip())
    return text.strip()


def _point(text: str) -> tuple[float, float]:
    parts = re.split(r"\s+", text.strip())
    if len(parts) != 2:
        raise InputError(f"needs x and y of each point, such as 0 0; 120 0; 120 80, got '{text.strip()}'")
    return _number(parts[0]), _number(parts[1])


def _mode(line: str) -> TapMode:
    match = _MODE.match(line)
    if match is None:
        raise InputError(
            f"needs axis, frequency, stiffness and damping, such as x 820 Hz 18 N/um 0.03, got '{line.strip()}'"
        )
    share = 0.01 if match[5] else 1.0
    return TapMode.read({
        "axis": match[1].lower(), "f_hz": _number(match[2]), "k_n_um": _number(match[3]), "zeta": share * _number(match[4]),
        "simulated": bool(match[6]),
    })  # fmt: skip


def _number(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise InputError(f"needs numbers, got '{text}'")
    return value
