"""A spindle curve as people type, paste or export it: one point a line, speed, then power, torque or both."""

from __future__ import annotations

import re
from collections.abc import Sequence

from lesna.model.curves import CurvePoint, Duty
from lesna.model.errors import InputError

#: words of a header line that tell what a column holds
_COLUMNS = {"speed_rpm": ("rpm", "speed", "1/min", "n"), "power_kw": ("kw", "power"), "torque_nm": ("nm", "torque")}
EXAMPLE = "1500 7.5, or 1500 7.5 47.7 (rpm, kW, Nm)"


def text_of(points: Sequence[CurvePoint]) -> str:
    """Points as lines with a header, ready for a spreadsheet."""
    lines = ["rpm\tkW\tNm"]
    for point in points:
        cells = [f"{point.speed_rpm:g}"]
        cells += ["" if value is None else f"{value:g}" for value in (point.power_kw, point.torque_nm)]
        lines.append("\t".join(cells).rstrip())
    return "\n".join(lines)


def points_of(text: str) -> tuple[CurvePoint, ...]:
    """The points of a typed, pasted or exported curve.

    Cells are parted by tabs, semicolons or blanks, or by commas where no comma is a decimal; a header may name the columns.
    """
    order = ["speed_rpm", "power_kw", "torque_nm"]
    points: list[CurvePoint] = []
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), start=1):
        cells = _cells(line)
        if not any(cells):
            continue
        if not points and all(re.search("[A-Za-z]{2}", cell) for cell in cells if cell):
            order = [_column(cell, number) for cell in cells]
            continue
        try:
            values = {key: _number(cell) for key, cell in zip(order, cells, strict=False) if cell}
            if len(cells) > len(order):
                raise InputError("has more numbers than columns")
            points.append(CurvePoint.read(values))
        except InputError as error:
            raise InputError(f"line {number}: {error}; write for example {EXAMPLE}") from None
    return Duty.read({"points": points}).points


def _cells(line: str) -> list[str]:
    for mark in ("\t", ";"):
        if mark in line:
            return [cell.strip().strip('"') for cell in line.split(mark)]
    if re.search(r",\s", line) or len(re.findall(",", line)) > 1:
        return [cell.strip() for cell in line.split(",")]
    return line.split()


def _column(cell: str, number: int) -> str:
    low = cell.lower()
    for key, words in _COLUMNS.items():
        if any(word in re.split(r"[^a-z/0-9]+", low) for word in words):
            return key
    raise InputError(f"line {number}: '{cell}' names no column; speed (rpm), power (kW) and torque (Nm) are known")


def _number(cell: str) -> float:
    try:
        return float(cell.replace(" ", "").replace("\xa0", "").replace(",", "."))
    except ValueError:
        raise InputError(f"'{cell}' is no number") from None
