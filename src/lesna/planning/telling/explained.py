"""How a shown number came about: its formula, what was put in, where that came from, and what would override it.

The figures are taken from the Result itself, so the explanation cannot differ from what is shown.
"""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model import units
from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.result import Result
from lesna.planning.telling.figures import FIGURES
from lesna.planning.telling.working.inputs import Explanation, Input, Where
from lesna.planning.telling.working.limits import limit_explanation


@dataclass(frozen=True)
class Working:
    """The whole explanation of one number, with the number itself."""

    title: str
    value: float | None
    quantity: units.Quantity
    explanation: Explanation
    inputs: tuple[Input, ...]


def explained() -> tuple[str, ...]:
    """Ids of every number that can be explained."""
    return (*(figure.id for figure in FIGURES.values() if figure.how), *BY_ID)


def working_of(result: Result, id: str, where: Where) -> Working:
    """The working of a figure or a limit."""
    if id in BY_ID:
        told = limit_explanation(result, id, where)
        use = next((entry.use for entry in result.limits if entry.rule.id == id), None)
        return Working(BY_ID[id].name, use, units.SHARE, told, _inputs(result, told))
    figure = FIGURES[id]
    assert figure.how is not None, id
    told = figure.how(result, where)
    band = (_band(result),) if figure.is_force else ()
    return Working(figure.label, figure.value(result), figure.quantity, told, _inputs(result, told) + band)


def _inputs(result: Result, told: Explanation) -> tuple[Input, ...]:
    return tuple(given if isinstance(given, Input) else _figure(result, given) for given in told.inputs)


def _figure(result: Result, id: str) -> Input:
    figure = FIGURES[id]
    label = figure.label[0].lower() + figure.label[1:]
    return Input(figure.symbol or label, label, figure.value(result), figure.quantity, f"see {figure.label}", figure.id)


def _band(result: Result) -> Input:
    """How far forces, power and torque may be off."""
    letter = result.setup.parts.material.confidence or "C"
    meaning = f"confidence {letter} of the material, wider for chips under 0.05 mm"
    return Input("±", "how far this may be off", result.force_band, units.SHARE, meaning)
