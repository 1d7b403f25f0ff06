"""Rotary axes of a machine: one record an axis, and the line of text it is typed as."""

from __future__ import annotations

import math
import re
from typing import Literal

from pydantic import field_validator, model_validator

from lesna.model.base import Number, Record, number, several
from lesna.model.errors import InputError

#: axes of which the directions differ by less are one [-]
_APART = 1e-3
_NUMBERS = r"[-+\d.,eE ]+?"
_LINE = re.compile(
    rf"^\s*(?P<letter>[A-Ca-c])\s+(?P<on>table|head)\s+along\s+(?P<direction>{_NUMBERS})(?:\s+through\s+(?P<pivot>{_NUMBERS}))?"
    r"\s+(?P<speed>[\d.]+)\s*deg/s\s+(?P<accel>[\d.]+)\s*deg/s2(?:\s+(?P<low>[-+\d.]+)\s+to\s+(?P<high>[-+\d.]+))?\s*$"
)
#: how one is typed
FORM = "A table along 1 0 0 through 0 0 0 90 deg/s 300 deg/s2 -120 to 30"


class RotaryAxis(Record):
    """One rotary axis: it turns the table with the part, or the head with the tool."""

    letter: Literal["A", "B", "C"]
    on: Literal["table", "head"]
    direction: tuple[Number, Number, Number] = several(
        "1", "direction that it turns about by the right hand", ..., most=3
    )
    pivot_mm: tuple[Number, Number, Number] = several(
        "mm", "a place on it: of a table in program coordinates, of a head from the point reach_mm above the tip", (0.0, 0.0, 0.0), most=3
    )  # fmt: skip
    speed_deg_s: float = number("deg/s", "greatest speed", gt=0)
    accel_deg_s2: float = number("deg/s2", "acceleration", gt=0)
    travel_deg: tuple[Number, Number] | None = several(
        "deg", "least and greatest angle; without end where left out", None, most=2
    )

    @field_validator("direction", mode="after")
    @classmethod
    def _unit(cls, value: tuple[float, float, float]) -> tuple[float, float, float]:
        size = math.hypot(*value)
        if size < _APART:
            raise InputError("has no length; name the direction, such as 1, 0, 0")
        x, y, z = (part / size for part in value)
        return x, y, z

    @model_validator(mode="after")
    def _goes_somewhere(self) -> RotaryAxis:
        if self.travel_deg is not None and self.travel_deg[0] >= self.travel_deg[1]:
            raise InputError(
                f"must go from a lesser to a greater angle, got {self.travel_deg[0]:g} to {self.travel_deg[1]:g}",
                "travel_deg",
            )
        return self

    def line(self) -> str:
        """The axis as it is typed."""
        numbers = (" ".join(f"{part:.6g}" for part in group) for group in (self.direction, self.pivot_mm))
        direction, pivot = numbers
        travel = "" if self.travel_deg is None else f" {self.travel_deg[0]:g} to {self.travel_deg[1]:g}"
        return f"{self.letter} {self.on} along {direction} through {pivot} {self.speed_deg_s:g} deg/s {self.accel_deg_s2:g} deg/s2{travel}"


def rotary_of(line: str) -> RotaryAxis:
    """An axis as it is typed (InputError names the right form)."""
    found = _LINE.match(line)
    if found is None:
        raise InputError(
            f"needs letter, table or head, direction, place, speed and acceleration, such as '{FORM}', got '{line.strip()}'"
        )

    def triple(text: str | None) -> tuple[float, ...]:
        try:
            parts = tuple(float(part) for part in re.split(r"[,\s]+", text.strip())) if text else (0.0, 0.0, 0.0)
        except ValueError:
            parts = ()
        if len(parts) != 3:
            raise InputError(f"needs three numbers for a direction or a place, such as '{FORM}', got '{line.strip()}'")
        return parts

    try:
        travel = None if found["low"] is None else (float(found["low"]), float(found["high"]))
        speed, accel = float(found["speed"]), float(found["accel"])
    except ValueError:
        raise InputError(f"needs numbers, such as '{FORM}', got '{line.strip()}'") from None
    return RotaryAxis.read({
        "letter": found["letter"].upper(), "on": found["on"], "direction": triple(found["direction"]), "pivot_mm": triple(found["pivot"]),
        "speed_deg_s": speed, "accel_deg_s2": accel, "travel_deg": travel,
    })  # fmt: skip


def checked(axes: tuple[RotaryAxis, ...], reach: float | None) -> None:
    """Refuses axes that make no five-axis machine: there are two, of different letters, that do not turn about one direction."""
    if not axes:
        return
    if len(axes) != 2:
        raise InputError(f"must be two axes, or none, got {len(axes)}", "rotary")
    first, second = axes
    if first.letter == second.letter:
        raise InputError(f"must be two letters, got {first.letter} twice", "rotary")
    if math.hypot(*_cross(first.direction, second.direction)) < _APART:
        raise InputError("must turn about two directions; both axes turn about one", "rotary")
    if reach is None and any(axis.on == "head" for axis in axes):
        raise InputError("is missing; a head needs how far its pivot stands above the tip", "reach_mm")


def _cross(a: tuple[float, ...], b: tuple[float, ...]) -> tuple[float, float, float]:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]
