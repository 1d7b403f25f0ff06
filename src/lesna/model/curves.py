"""Torque and power curves of spindles, and how they go together with the figures of a machine's row."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import Any, Literal

from pydantic import Field, field_validator, model_validator

from lesna.model.base import Record, number
from lesna.model.errors import InputError

#: a figure of a data sheet may be rounded by so much
ROUNDED = 0.98
#: torque over power at one turn a minute [Nm/kW]
_RPM_KW = 9549.3
#: a typed figure that is off its curve by less than this is the curve's own, rounded
_SAME = 0.005
#: duty class -> fields of a machine's row that say how high its curve goes
_RATED = {"S1": ("power_s1_kw", "torque_s1_max_nm"), "S6-40": ("power_s6_40_kw", "torque_s6_40_max_nm")}
#: the same fields in a row
FIGURES = tuple(field for fields in _RATED.values() for field in fields)


class CurvePoint(Record):
    """One point of a spindle curve; power or torque may be left out."""

    speed_rpm: float = number("1/min", "spindle speed", ge=0)
    power_kw: float | None = number("kW", "power at this speed", None, ge=0)
    torque_nm: float | None = number("Nm", "torque at this speed", None, ge=0)

    @property
    def power(self) -> float:
        """Power at this point [kW], from the torque where only that is given."""
        if self.power_kw is not None:
            return self.power_kw
        return (self.torque_nm or 0.0) * self.speed_rpm / _RPM_KW

    @property
    def torque(self) -> float:
        """Torque at this point [Nm], from the power where only that is given; 0 at standstill."""
        if self.torque_nm is not None:
            return self.torque_nm
        return (self.power_kw or 0.0) * _RPM_KW / self.speed_rpm if self.speed_rpm else 0.0

    @model_validator(mode="after")
    def _something(self) -> CurvePoint:
        if self.power_kw is None and self.torque_nm is None:
            raise InputError("needs power_kw or torque_nm")
        return self


class Duty(Record):
    """A duty class of the spindle: its points in order of speed."""

    description: str = ""
    points: tuple[CurvePoint, ...] = Field(max_length=2000)

    def power_at(self, speed: float) -> float | None:
        """Power at a speed between the points [kW]; None beyond them, and where a gear changes."""
        points = self.points
        if sum(point.speed_rpm == speed for point in points) > 1:
            return None
        for low, high in pairwise(points):
            if low.speed_rpm <= speed <= high.speed_rpm and high.speed_rpm > low.speed_rpm:
                share = (speed - low.speed_rpm) / (high.speed_rpm - low.speed_rpm)
                return low.power + share * (high.power - low.power)
        return None

    @property
    def greatest_power(self) -> float:
        """Highest power of its points [kW]."""
        return max(point.power for point in self.points)

    @property
    def greatest_torque(self) -> float:
        """Highest torque of its points [Nm]."""
        return max(point.torque for point in self.points)

    def scaled(self, ratio: float) -> Duty:
        """The same shape, so many times as strong [-]."""
        return self.with_values(
            points=tuple(
                point.with_values(
                    **{
                        key: getattr(point, key) * ratio
                        for key in ("power_kw", "torque_nm")
                        if getattr(point, key) is not None
                    }
                )
                for point in self.points
            )
        )

    def over(self, lasting: Duty) -> Duty:
        """The same where it gives more than another does all day, and as much as that elsewhere."""

        def raised(point: CurvePoint) -> CurvePoint:
            least = lasting.power_at(point.speed_rpm)
            if least is None or point.power >= least:
                return point
            torque = {} if point.torque_nm is None else {"torque_nm": least * _RPM_KW / point.speed_rpm}
            return point.with_values(power_kw=least, **torque)

        return self.with_values(points=tuple(raised(point) for point in self.points))

    @field_validator("points")
    @classmethod
    def _in_order(cls, points: tuple[CurvePoint, ...]) -> tuple[CurvePoint, ...]:
        if not points:
            raise InputError("needs at least one point")
        speeds = [point.speed_rpm for point in points]
        if speeds != sorted(speeds):
            raise InputError("must run in rising speed_rpm (the same speed twice marks a gear change)")
        return points


class IdlePower(Record):
    """Power drawn at idle over the speed."""

    description: str = ""
    points: tuple[CurvePoint, ...] = Field((), max_length=2000)


class Curve(Record):
    """Torque and power curve of a spindle, by duty class (S1, S6-40)."""

    schema_: str = Field("", alias="schema")
    machine_id: str = ""
    speed_mode: Literal["continuous", "gear-steps"] = "continuous"
    interpolation: str = ""
    reference: str = ""
    drive_efficiency: float | None = number("1", "drive efficiency", None, gt=0, le=1)
    duty: dict[str, Duty]
    idle: IdlePower | None = None

    @field_validator("duty")
    @classmethod
    def _has_s1(cls, duty: dict[str, Duty]) -> dict[str, Duty]:
        if "S1" not in duty:
            raise InputError("needs the duty class 'S1'")
        if not any(point.power > 0 for point in duty["S1"].points):
            raise InputError("gives no power at any speed", "S1")
        for name, other in duty.items():
            for point in other.points if name.startswith("S6") else ():
                lasting = duty["S1"].power_at(point.speed_rpm)
                if lasting is not None and point.power < lasting * ROUNDED:
                    raise InputError(
                        f"must be at least what S1 gives all day, {lasting:.3g} kW at {point.speed_rpm:g} rpm, got {point.power:.3g}",
                        name,
                    )
        return duty


def rated(curve: Curve) -> dict[str, float]:
    """Figures of a machine's row as a curve has them, by field."""
    found: dict[str, float] = {}
    for name, (power, torque) in _RATED.items():
        if name in curve.duty:
            found |= {
                power: _rounded(curve.duty[name].greatest_power),
                torque: _rounded(curve.duty[name].greatest_torque),
            }
    return found


def agreed(row: Mapping[str, Any]) -> dict[str, Any]:
    """A machine's row in which curve and figures say the same: the curve gives the shape, a figure that is typed the height.

    Power goes before torque; the other figure follows. A row without a curve, or with figures that are no numbers, stays as it is.

    Raises
    ------
    InputError
        When the curves of the duty classes would cross.
    """
    curve = row.get("curve")
    if curve is None:
        return dict(row)
    curve = curve if isinstance(curve, Curve) else Curve.read(curve)
    out, duty = {**row, "curve": curve}, dict(curve.duty)
    for name, fields in _RATED.items():
        if name not in duty:
            continue
        typed = {field: _number(row.get(field)) for field in fields}
        known = dict(zip(fields, (duty[name].greatest_power, duty[name].greatest_torque), strict=True))
        off = [
            field for field, value in typed.items() if value and known[field] and abs(value / known[field] - 1) > _SAME
        ]
        if off:
            ratio = (typed[off[0]] or 0.0) / known[off[0]]
            scaled = duty[name].scaled(ratio)
            duty[name] = scaled if name == "S1" else scaled.over(duty["S1"])
            out |= {
                field: _rounded(known[field] * ratio)
                for field in fields
                if typed[field] is not None and field != off[0]
            }
    if duty != curve.duty and not _is_crossed(out):
        out["curve"] = curve.with_values(duty=duty)
    return out


def _is_crossed(row: Mapping[str, Any]) -> bool:
    """Whether a class gives less for a while than all day by its figures, which is told of them."""
    (power, torque), (power_6, torque_6) = _RATED["S1"], _RATED["S6-40"]
    pairs = (
        (_number(row.get(power)), _number(row.get(power_6))),
        (_number(row.get(torque)), _number(row.get(torque_6))),
    )
    return any(least is not None and most is not None and most < least * ROUNDED for least, most in pairs)


def _number(value: Any) -> float | None:
    try:
        return None if value is None or isinstance(value, bool) else float(value)
    except (TypeError, ValueError):
        return None


def _rounded(value: float) -> float:
    return float(f"{value:.4g}")
