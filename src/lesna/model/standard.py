"""The shop's standard: the least removal that a kind of cut in a family of materials is made with, who set it, and why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Standard:
    """Not slower than.

    Attributes
    ----------
    removal : float
        Least removal [cm3/min].
    who, since, why : str
        Who set it, on which day, and why.
    """

    removal: float
    who: str = ""
    since: str = ""
    why: str = ""


def standard_name(family: str, role: str) -> str:
    """Under which a standard is kept: a group of the cutting data and the role of the cut."""
    return f"{family} / {role}"


def standard_from(data: Mapping[str, Any], who: str, at: str) -> Standard | None:
    """A standard as the bank keeps it; None where it names no removal."""
    removal = data.get("q_cm3_min")
    if not isinstance(removal, (int, float)) or isinstance(removal, bool) or not removal > 0:
        return None
    return Standard(float(removal), who, at[:10], str(data.get("why", "")))
