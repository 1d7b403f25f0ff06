"""What a record says about its fields: kind, unit, range, meaning; whoever shows or types any record reads it here."""

from __future__ import annotations

import math
import re
import types
import typing
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Literal

from lesna.model import units
from lesna.model.base import LARGEST, SMALLEST, Number, Record
from lesna.model.errors import InputError
from lesna.model.job import TapMode
from lesna.model.rotary import rotary_of

Kind = Literal["number", "count", "yes_no", "choice", "text", "numbers", "points", "outlines", "modes", "axes", "other"]

_QUANTITIES = {
    "mm": units.DIMENSION, "um": units.SMALL, "deg": units.ANGLE, "1/min": units.SPINDLE_SPEED, "m/min": units.SURFACE_SPEED,
    "mm/min": units.FEED, "kW": units.POWER, "Nm": units.TORQUE, "N": units.FORCE, "kg": units.MASS, "HB": units.BRINELL,
    "HRC": units.HARDNESS, "cm3/min": units.REMOVAL, "min": units.MINUTES, "money": units.MONEY, "money/h": units.MONEY,
    "money/cm3": units.PRICE_PER_VOLUME, "mm2": units.AREA,
    "N/mm2": units.STRESS, "MPa": units.STRESS,
}  # fmt: skip
#: significant digits of a typed figure
_TYPED = -4
#: ends of keys that only repeat the unit
_UNIT_END = re.compile(r"_(mm|um|deg|rpm|m_min|mm_min|kw|nm|n|kg|hb|hrc|n_mm2|n_mm|mpa|kn|hz|n_um|m_s2|m_s3|kg_m3|w_mk|j_kgk|"
                       r"n_m|cu|s|c|min|cm3_min)$")  # fmt: skip


@dataclass(frozen=True)
class Fact:
    """One field.

    Attributes
    ----------
    key, text : str
        Name in the document, and what it means.
    name, symbol : str
        Plain name for a screen, and the symbol of the trade; empty where the key says it.
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
    name: str = ""
    symbol: str = ""
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
        """Name for a screen: the plain word first and the symbol after it; a key in capitals is its ISO 13399 symbol."""
        is_symbol = self.key.isupper()
        words = self.name or self.key if is_symbol else self.name or _UNIT_END.sub("", self.key).replace("_", " ")
        symbol = self.symbol or (self.key if is_symbol and self.name else "")
        return f"{words[:1].upper()}{words[1:]} {symbol}".rstrip()

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
    """The quantity of a unit of the document; one that has no inch form is shown as it is.

    What somebody typed is not rounded to the few digits that do for a computed figure: 18.5 kW are not 18.
    """
    if unit in ("", "1"):
        return units.PLAIN_VALUE
    known = _QUANTITIES.get(unit)
    if known is not None:
        return known if min(known.digits) >= 0 else replace(known, digits=(_TYPED, _TYPED), trimmed=True)
    return units.Quantity(unit, unit, 1.0, (-6, -6), {unit.lower().replace(" ", ""): 1.0}, "12.5",
                                                   trimmed=True)  # fmt: skip


@lru_cache(maxsize=32)
def facts_of(cls: type[Record]) -> tuple[Fact, ...]:
    """The fields of a record in their order."""
    return tuple(_fact(key, info) for key, info in cls.model_fields.items())


def fact_of(cls: type[Record], key: str) -> Fact:
    """What a record says about one of its fields."""
    return next(fact for fact in facts_of(cls) if fact.key == key)


@lru_cache(maxsize=32)
def groups_of(cls: type[Record]) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The fields of a record as a form shows them, under their headings; without those that have a place of their own."""
    titles = {first: title for title, first in cls.GROUPS}
    groups: list[tuple[str, list[str]]] = []
    for fact in facts_of(cls):
        if fact.key in titles or not groups:
            groups.append((titles.get(fact.key, ""), []))
        if fact.key not in cls.ELSEWHERE:
            groups[-1][1].append(fact.key)
    return tuple((title, tuple(keys)) for title, keys in groups if keys)


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
        key, info.description or "", kind, unit=str(extra.get("unit", "")),
        low=bounds.get("ge", bounds.get("gt", -math.inf)), high=bounds.get("le", bounds.get("lt", math.inf)),
        is_above="ge" not in bounds, is_below="le" not in bounds, is_optional=is_optional or not info.is_required(),
        choices=choices, default=default, name=str(extra.get("label", "")), symbol=str(extra.get("symbol", "")),
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
        special: dict[str, Kind] = {
            "profile_mm": "points",
            "islands_mm": "outlines",
            "tap_modes": "modes",
            "rotary": "axes",
        }
        return special.get(key, "numbers" if typing.get_args(annotation)[0] is Number else "other"), ()
    plain: dict[Any, Kind] = {bool: "yes_no", int: "count", float: "number", str: "text"}
    return plain.get(annotation, "other"), ()


def written(value: Any, kind: Kind) -> str:
    """A value that is typed as text, as it is typed: numbers with blanks, points with semicolons, outlines, modes and axes by lines."""
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
            f"{mode.axis} {mode.f_hz:g} Hz {mode.k_n_um:g} N/um {mode.zeta:g}{_origin(mode)}" for mode in value
        )
    if kind == "axes":
        return "\n".join(axis.line() for axis in value)
    return str(value)


def _origin(mode: TapMode) -> str:
    return (" simulated" if mode.simulated else "") + (" kept" if mode.kept else "")


_MODE = re.compile(
    r"^\s*([xyXY])[\s,;]+([\d.,eE+]+)\s*(?:Hz)?[\s;]+([\d.,eE+]+)\s*(?:N/[uµ]m)?[\s;]+([\d.,eE+\-]+)\s*(%?)\s*(simulated)?\s*(kept)?\s*$"
)


def read(text: str, kind: Kind) -> Any:
    """The value of a typed text (see `written`)."""
    if kind == "numbers":
        return tuple(_number(part) for part in re.split(r"[;\s]+", text.strip()) if part)
    if kind == "points":
        return tuple(_point(part) for part in re.split(r"[;\n]+", text.strip()) if part.strip())
    if kind == "outlines":
        return tuple(read(line, "points") for line in text.splitlines() if line.strip())
    if kind == "modes":
        return tuple(_mode(line) for line in text.splitlines() if line.strip())
    if kind == "axes":
        return tuple(rotary_of(line) for line in re.split(r"[;\n]+", text) if line.strip())
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
        "simulated": bool(match[6]), "kept": bool(match[7]),
    })  # fmt: skip


def _number(text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise InputError(f"needs numbers, got '{text}'")
    return value
