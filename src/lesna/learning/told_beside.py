"""Book, model and bank beside each other, in words and as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from lesna.learning.beside import APART, ROWS, SOURCES, Column
from lesna.model import units
from lesna.planning.telling.figures import FIGURES


def beside_data(columns: Sequence[Column]) -> dict[str, Any]:
    """The columns as JSON: figures under the keys that they have everywhere."""
    return {
        column.source: {
            "says": column.says, "conversions": list(column.conversions),
            "figures": None if column.result is None else {FIGURES[id].key: FIGURES[id].value(column.result) for id in ROWS},
            "apart": [{"figure": FIGURES[id].key, "times_model": factor, "why": why} for id, factor, why in column.apart],
        } for column in columns
    }  # fmt: skip


def source_lines(columns: Sequence[Column]) -> list[str]:
    """Where each column comes from, what was converted, and why it is off the model."""
    lines = []
    for column in columns:
        lines.append(f"{SOURCES[column.source]}: {column.says}")
        lines += [f"   {turn}" for turn in column.conversions]
        lines += [
            f"   {FIGURES[id].label} is {factor:.2f} times the model's: {why}" for id, factor, why in column.apart
        ]
    if any(column.apart for column in columns):
        lines.append(f"What is more than {APART:.0%} off the model is told; a trial settles which one is right.")
    return lines


def beside_lines(columns: Sequence[Column], system: units.System) -> list[str]:
    """The columns for somebody who reads them on a terminal."""
    lines = [f"{'':24}" + "".join(f"{SOURCES[column.source]:>16}" for column in columns)]
    for id in ROWS:
        shown = [
            "–" if column.result is None else FIGURES[id].full(column.result, system, taught=False)
            for column in columns
        ]
        lines.append(f"{FIGURES[id].label:24}" + "".join(f"{word:>16}" for word in shown))
    return [*lines, *source_lines(columns)]
