"""Showing numbers in metric or inch, and understanding what people type.

The document is always metric; this module is the only place where inch units exist. A unit library was
measured and left out (docs/decisions/0002-units.md): most of what people type here (``10%``, ``1.75xD``,
``4 thou``, ``35 HRC``, ``5k rpm``) is no unit conversion.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from lesna.model.errors import InputError

System = Literal["metric", "inch"]
INCH = 25.4


@dataclass(frozen=True)
class Quantity:
    """How one kind of number is shown and typed.

    Parameters
    ----------
    metric, inch : str
        Unit labels.
    per_inch : float
        Canonical units in one inch unit.
    digits : tuple of int
        Decimals in metric and inch; significant digits when negative.
    typed : dict
        Unit words that may be typed, with their size in canonical units.
    example : str
        The right form, for error sentences.
    of_diameter : bool
        Whether ``%`` and ``xD`` make sense.
    is_share : bool
        Whether a share is shown in percent.
    trimmed : bool
        Whether zeros at the end say nothing, as in the size of a tool.
    """

    metric: str
    inch: str
    per_inch: float
    digits: tuple[int, int]
    typed: dict[str, float]
    example: str
    of_diameter: bool = False
    trimmed: bool = False
    is_share: bool = False

    def unit(self, system: System) -> str:
        """Label of the unit."""
        return self.metric if system == "metric" else self.inch

    def shown(self, value: float, system: System) -> float:
        """The number as it is shown."""
        return value / self.per_inch if system == "inch" or self.is_share else value

    def text(self, value: float | None, system: System) -> str:
        """The number with sensible digits, without its unit; a dash where there is none."""
        if value is None or not math.isfinite(value):
            return "–"
        text = grouped(self.shown(value, system), self.digits[0 if system == "metric" else 1])
        return text.rstrip("0").rstrip(".") if self.trimmed and "." in text else text

    def full(self, value: float | None, system: System) -> str:
        """Number and unit."""
        unit = self.unit(system)
        return f"{self.text(value, system)} {unit}" if unit else self.text(value, system)

    def mark(self, value: float | None) -> str:
        """A place in a sentence for the number and its unit, which `said` fills in the units of whoever reads it."""
        return self._place(value, None)

    def pair(self, value: float, other: float) -> tuple[str, str]:
        """Places for two numbers that a sentence compares: they get as many digits as it takes to tell them apart."""
        return self._place(value, other), self._place(other, value)

    def _place(self, value: float | None, beside: float | None) -> str:
        numbers = " ".join("" if number is None else repr(float(number)) for number in (value, beside))
        return f"{_OPEN}{_NAMES[id(self)]} {numbers}{_CLOSE}"

    def apart(self, value: float, beside: float, system: System) -> str:
        """Number and unit, with up to three digits more where another number would read the same."""
        for more in range(_DIGITS_APART + 1):
            finer = replace(self, digits=(_finer(self.digits[0], more), _finer(self.digits[1], more)))
            if finer.text(value, system) != finer.text(beside, system):
                return finer.full(value, system)
        return self.full(value, system)


def _finer(digits: int, more: int) -> int:
    return digits - more if digits < 0 else digits + more


#: private characters around a number that is still to be shown: nothing that people write holds them
_OPEN, _CLOSE = "\ue000", "\ue001"
_MARK = re.compile(f"{_OPEN}([A-Z_]+) ([^ {_CLOSE}]*) ([^{_CLOSE}]*){_CLOSE}")
_DIGITS_APART = 3


def said(sentence: str, system: System) -> str:
    """A sentence with its marked numbers in the units of a view.

    Sentences are made where the facts are known and belong to the Result; units belong to the view.

    Examples
    --------
    >>> said(f"At {LENGTH.mark(25.4)} it is calm.", "inch")
    'At 1.0000 in it is calm.'
    >>> said("{} is under {}".format(*CHIP.pair(0.0058, 0.006)), "metric")
    '0.0058 mm is under 0.0060 mm'
    """

    def shown(match: re.Match[str]) -> str:
        quantity, value, beside = _BY_NAME[match[1]], match[2], match[3]
        if value and beside:
            return quantity.apart(float(value), float(beside), system)
        return quantity.full(float(value) if value else None, system)

    return _MARK.sub(shown, sentence)


def grouped(number: float, digits: int) -> str:
    """A number with `digits` decimals (or that many significant ones if negative), thousands apart.

    Examples
    --------
    >>> grouped(12345.6, 0)
    '12\xa0346'
    >>> grouped(0.12345, -3)
    '0.123'
    """
    if digits < 0 and number:
        digits = max(0, -digits - 1 - math.floor(math.log10(abs(number))))
    text = f"{number:,.{max(digits, 0)}f}".replace(",", "\xa0")
    return text[1:] if text.startswith("-") and not text.strip("-0.\xa0") else text


_LENGTHS = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "um": 0.001,
    "µm": 0.001,
    "μm": 0.001,
    "in": INCH,
    "inch": INCH,
    '"': INCH,
    "″": INCH,
    "thou": INCH / 1000,
    "mil": INCH / 1000,
    "tenth": INCH / 10000,
}
_SPEEDS = {"m/min": 1.0, "m/s": 60.0, "sfm": 0.3048, "ft/min": 0.3048, "sfpm": 0.3048}
_FEEDS = {"mm/min": 1.0, "m/min": 1000.0, "mm/s": 60.0, "ipm": INCH, "in/min": INCH}
_TEETH = {
    **{f"{unit}{tail}": size for unit, size in _LENGTHS.items() for tail in ("", "/tooth", "/z", "/t")},
    "ipt": INCH,
}

LENGTH = Quantity("mm", "in", INCH, (2, 4), _LENGTHS, "12, 12 mm, 1/2 in, 10% or 1.75xD", of_diameter=True)
DIMENSION = Quantity("mm", "in", INCH, (3, 4), _LENGTHS, "42, 42 mm, 1-5/8 in or 4xD", of_diameter=True, trimmed=True)
#: a length that is only estimated: two digits
ROUGH_LENGTH = Quantity("mm", "in", INCH, (-2, -2), _LENGTHS, "12, 12 mm or 1/2 in")
CHIP = Quantity("mm", "thou", INCH / 1000, (3, 2), _TEETH, "0.06, 0.06 mm or 2.4 thou")
SMALL = Quantity(
    "µm",
    "thou",
    INCH,
    (-2, -2),
    {"um": 1.0, "µm": 1.0, "μm": 1.0, "mm": 1000.0, "thou": INCH, "in": 25400.0},
    "8, 8 um or 0.3 thou",
)
SURFACE_SPEED = Quantity("m/min", "sfm", 0.3048, (0, 0), _SPEEDS, "190, 190 m/min or 620 sfm")
SPINDLE_SPEED = Quantity(
    "rpm", "rpm", 1.0, (0, 0), {"rpm": 1.0, "1/min": 1.0, "u/min": 1.0, "min-1": 1.0}, "5000, 5000 rpm or 5k rpm"
)
FEED = Quantity("mm/min", "ipm", INCH, (0, 1), _FEEDS, "2600, 2.6 m/min or 102 ipm")
REMOVAL = Quantity(
    "cm³/min",
    "in³/min",
    16.387064,
    (-3, -3),
    {"cm3/min": 1.0, "in3/min": 16.387064},
    "66 or 4 in3/min",
)
POWER = Quantity("kW", "hp", 0.745699872, (-2, -2), {"kw": 1.0, "w": 0.001, "hp": 0.745699872}, "5 kW or 7 hp")
_FOOT_POUNDS = ("ft-lb", "ft-lbs", "ftlb", "ftlbs", "lb-ft", "lbft", "lbf-ft", "lbfft", "ft-lbf", "ftlbf")
TORQUE = Quantity(
    "Nm",
    "ft-lb",
    1.3558179483,
    (-3, -3),
    {
        "nm": 1.0,
        **dict.fromkeys(_FOOT_POUNDS, 1.3558179483),
        "in-lb": 0.112984829,
    },
    "12 Nm or 9 ft-lb",
)
FORCE = Quantity(
    "N",
    "lbf",
    4.4482216153,
    (-3, -3),
    {"n": 1.0, "kn": 1000.0, "lbf": 4.4482216153, "lb": 4.4482216153},
    "600 N or 135 lbf",
)
MASS = Quantity(
    "kg",
    "lb",
    0.45359237,
    (-3, -3),
    {"kg": 1.0, "g": 0.001, "t": 1000.0, "lb": 0.45359237, "lbs": 0.45359237},
    "18 kg or 40 lb",
)
ANGLE = Quantity("°", "°", 1.0, (1, 1), {"deg": 1.0, "°": 1.0}, "15 or 15 deg")
TURNING = Quantity("°/s", "°/s", 1.0, (1, 1), {"deg/s": 1.0, "°/s": 1.0}, "90 or 90 deg/s")
TEMPERATURE = Quantity("°C", "°C", 1.0, (0, 0), {"c": 1.0, "°c": 1.0}, "450")
HARDNESS = Quantity("HRC", "HRC", 1.0, (1, 1), {"hrc": 1.0, "rc": 1.0}, "35 or 35 HRC")
BRINELL = Quantity("HB", "HB", 1.0, (0, 0), {"hb": 1.0, "hbw": 1.0, "bhn": 1.0}, "300 or 300 HB")
RATIO = Quantity("", "", 1.0, (2, 2), {"": 1.0, "%": 0.01}, "0.5 or 50%")
SHARE = Quantity("%", "%", 0.01, (0, 0), {"%": 0.01}, "50%", is_share=True)
PLAIN = Quantity("", "", 1.0, (-3, -3), {"": 1.0}, "5")
#: a number without unit whose digits count as they stand
PLAIN_VALUE = Quantity("", "", 1.0, (-6, -6), {"": 1.0, "%": 0.01}, "0.35", trimmed=True)
COUNT = Quantity("", "", 1.0, (0, 0), {"": 1.0}, "24")
MONEY = Quantity("", "", 1.0, (2, 2), {"": 1.0}, "62.00")
#: money for removed material: an inch is dearer
PRICE_PER_VOLUME = Quantity(
    "/cm³", "/in³", 1 / 16.387064, (3, 2), {"": 1.0, "/cm3": 1.0, "/in3": 1 / 16.387064}, "0.30 /cm3 or 5 /in3"
)
STRESS = Quantity("N/mm²", "ksi", 6.894757293, (0, 0), {"n/mm2": 1.0, "mpa": 1.0, "ksi": 6.894757293}, "2000")
AREA = Quantity("mm²", "in²", INCH**2, (-3, -3), {"mm2": 1.0, "cm2": 100.0, "in2": INCH**2}, "40 mm2 or 0.06 in2")
VOLUME = Quantity("mm³", "in³", INCH**3, (-2, -2), {"mm3": 1.0, "cm3": 1000.0, "in3": INCH**3}, "40 mm3 or 0.002 in3")
#: a heap of chips, in round figures
BULK = Quantity("cm³", "in³", 16.387064, (-3, -3), {"cm3": 1.0, "in3": 16.387064}, "540 cm3 or 33 in3")
LONG_MINUTES = Quantity("min", "min", 1.0, (-2, -2), {"min": 1.0, "h": 60.0}, "45 min or 2 h")
MINUTES = Quantity("min", "min", 1.0, (-2, -2), {"min": 1.0, "s": 1 / 60, "h": 60.0}, "0.2 or 12 s")


_BY_NAME = {name: kind for name, kind in globals().items() if isinstance(kind, Quantity)}
_NAMES = {id(kind): name for name, kind in _BY_NAME.items()}


def clock(minutes: float | None) -> str:
    """Minutes as ``min:s``, or ``h:min:s`` from an hour up.

    Examples
    --------
    >>> clock(11.34)
    '11:20'
    """
    if minutes is None or not math.isfinite(minutes):
        return "–"
    seconds = round(minutes * 60)
    hours, rest = divmod(seconds, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"


_NUMBER = re.compile(
    r"""^\s*(?P<sign>-?)(?:
        (?P<whole>\d+)(?:\s*-\s*|\s+)(?P<mnum>\d+)\s*/\s*(?P<mden>\d+)       # 1-1/4, 1 1/4
        |(?P<num>\d+)\s*/\s*(?P<den>\d+)                                     # 1/2
        |(?P<plain>\d{1,3}(?:[ \xa0\u202f]\d{3})+(?:[.,]\d+)?|\d+[.,](?!\d)|\d*[.,]?\d+)
    )(?P<kilo>\s*k(?![a-zA-Z]))?\s*(?P<unit>.*)$""",
    re.VERBOSE,
)


def parse(text: str, quantity: Quantity, system: System = "metric", DC: float | None = None) -> float:
    """The canonical value of what somebody typed.

    A bare number is in the units shown; ``%`` and ``xD`` are of the diameter where that makes sense.

    Parameters
    ----------
    text : str
        Such as ``12``, ``12mm``, ``1/2in``, ``.5"``, ``1-1/4 in``, ``10%``, ``1.75xD``, ``4 thou``,
        ``200 sfm``, ``35 HRC``, ``5k rpm``, ``0,5``.
    quantity : Quantity
        What kind of number is meant.
    system : {'metric', 'inch'}
        Units of a bare number.
    DC : float, optional
        Cutting diameter for ``%`` and ``xD`` [mm].

    Returns
    -------
    float
        In the canonical unit of the quantity.

    Raises
    ------
    InputError
        When the text cannot be read; the sentence shows the right form.

    Examples
    --------
    >>> parse("1-1/4 in", LENGTH)
    31.75
    >>> parse("10%", LENGTH, DC=12.0)
    1.2
    """
    match = _NUMBER.match(text.strip())
    if not match:
        raise _refused(text, quantity)
    number = _value(match, text, quantity)
    unit = _plain_unit(match["unit"])
    if unit == "":
        return number * (quantity.per_inch if system == "inch" or quantity.is_share else 1.0)
    if quantity.of_diameter and unit in ("%", "xd", "x", "×d", "*d", "d", "xdc"):
        if DC is None:
            raise InputError(f"'{text}' needs a tool diameter; write a length such as {quantity.example}")
        return number * DC * (0.01 if unit == "%" else 1.0)
    if unit not in quantity.typed:
        raise _refused(text, quantity)
    return number * quantity.typed[unit]


def _plain_unit(raw: str) -> str:
    unit = raw.strip().lower().replace(" ", "").replace("²", "2").replace("³", "3").rstrip(".")
    return {"inches": "in", "''": '"', "thous": "thou", "mils": "mil", "tenths": "tenth", "degrees": "deg"}.get(
        unit, unit
    )


def _value(match: re.Match[str], text: str, quantity: Quantity) -> float:
    sign = -1.0 if match["sign"] else 1.0
    kilo = 1000.0 if match["kilo"] else 1.0
    if match["plain"] is not None:
        plain = re.sub(r"[ \xa0\u202f]", "", match["plain"])
        if quantity.digits[0] == 0 and re.fullmatch(r"\d{1,3},\d{3}", plain):
            raise InputError(
                f"'{text}' can be read in two ways; write {plain.replace(',', '')} or {plain.replace(',', '.')}"
            )
        return sign * float(plain.replace(",", ".")) * kilo
    top, bottom = match["num"] or match["mnum"], match["den"] or match["mden"]
    if int(bottom) == 0:
        raise _refused(text, quantity)
    return sign * (int(match["whole"] or 0) + int(top) / int(bottom)) * kilo


def _refused(text: str, quantity: Quantity) -> InputError:
    return InputError(f"'{text.strip()}' cannot be read here; write for example {quantity.example}")


def place(at: tuple[float, ...]) -> str:
    """Where something is, in a plane or in space, with marked numbers [mm]."""
    return ", ".join(f"{axis} {LENGTH.mark(value)}" for axis, value in zip("xyz", at, strict=False))
