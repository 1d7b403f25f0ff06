"""How far a trial of one set-up is believed for another: every difference multiplies it; 1 is the same set-up, 0 tells nothing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lesna.physics import Array

#: coatings of one family, of aluminium and titanium nitride
_ALUMINIUM_TITANIUM = frozenset({"AlTiN", "TiAlN", "AlTiSiN"})
#: kinds that cut with a flat or round edge, against straight ones
_ROUND = frozenset({"ball", "tapered_ball", "high_feed"})
#: ln of a ratio over which belief falls by e
_PER_HARDNESS, _PER_FORCE, _PER_CONDUCTIVITY, _PER_DIAMETER = 1.0, 1.0, 3.0, 3.0
#: what each difference leaves of it (judgement, confidence C)
_LETTER, _GROUP, _COATING, _FAMILY, _KIND, _ROUND_KIND = 0.5, 0.85, 0.8, 0.92, 0.85, 0.6
_INSERTS, _SPEED_STEEL, _WET, _PLACE = 0.5, 0.2, 0.85, 0.95


@dataclass(frozen=True)
class SetUp:
    """What trials of different set-ups are told apart by; None or empty where a reading does not say.

    Attributes
    ----------
    material, letter, group : str
        Material, its ISO 513 letter and group of the cutting data.
    hardness, force, conductivity : float or None
        Of the work: Brinell [HB], specific cutting force [N/mm2] and heat conductivity [W/(m K)].
    coating, kind, substrate : str
        Of the tool.
    DC : float
        Diameter [mm].
    wet : bool or None
        Whether a liquid cools.
    machine, holder : str
        Where it ran.
    """

    material: str
    letter: str
    group: str
    hardness: float | None
    force: float | None
    conductivity: float | None
    coating: str
    kind: str
    substrate: str
    DC: float
    wet: bool | None
    machine: str
    holder: str


def trust(a: SetUp, b: SetUp) -> float:
    """How far a trial of one set-up is believed for another, 0 to 1 [-].

    A product of kernels, so that the trusts of many set-ups make a covariance.
    """
    out = _near(a.hardness, b.hardness, _PER_HARDNESS) * _near(a.force, b.force, _PER_FORCE)
    out *= _near(a.conductivity, b.conductivity, _PER_CONDUCTIVITY) * _near(a.DC, b.DC, _PER_DIAMETER)
    out *= _LETTER if a.letter != b.letter else 1.0
    out *= _GROUP if a.group != b.group else 1.0
    if a.coating != b.coating:
        out *= _FAMILY if {a.coating, b.coating} <= _ALUMINIUM_TITANIUM else _COATING
    if a.kind != b.kind:
        out *= _ROUND_KIND if (a.kind in _ROUND) != (b.kind in _ROUND) else _KIND
    if a.substrate != b.substrate:
        out *= _SPEED_STEEL if (a.substrate.startswith("hss")) != (b.substrate.startswith("hss")) else _INSERTS
    out *= _WET if None not in (a.wet, b.wet) and a.wet != b.wet else 1.0
    return out * _told(a.machine, b.machine) * _told(a.holder, b.holder)


def _told(a: str, b: str) -> float:
    return _PLACE if a and b and a != b else 1.0


def _near(a: float | None, b: float | None, span: float) -> float:
    """exp(-|ln a/b| / span); what is not told makes no difference."""
    return math.exp(-abs(math.log(a / b)) / span) if a and b else 1.0


def trusts(setups: Sequence[SetUp]) -> Array:
    """Trust of every set-up in every other (set-ups, set-ups)."""
    return np.array([[trust(a, b) for b in setups] for a in setups])


def differences(here: SetUp, there: SetUp) -> list[tuple[str, str, str]]:
    """What two set-ups differ in: what, here, there, in words."""
    out = []
    for what, mine, other in (
        ("material", here.material, there.material),
        ("hardness", _figure(here.hardness, "HB"), _figure(there.hardness, "HB")),
        ("coating", here.coating, there.coating),
        ("tool kind", here.kind, there.kind),
        ("substrate", here.substrate, there.substrate),
        ("diameter", _figure(here.DC, "mm"), _figure(there.DC, "mm")),
        ("coolant", _wet(here.wet), _wet(there.wet)),
        ("machine", here.machine, there.machine),
        ("holder", here.holder, there.holder),
    ):
        if mine and other and mine != other:
            out.append((what, mine.replace("_", " "), other.replace("_", " ")))
    return out


def _figure(value: float | None, unit: str) -> str:
    return "" if value is None else f"{value:.4g} {unit}"


def _wet(value: bool | None) -> str:
    return "" if value is None else "wet" if value else "dry"
