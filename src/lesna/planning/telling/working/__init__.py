"""How a number came about: its formula, what was put in, where that came from, and what would override it.

One entry for each readout and each limit, found by its id. The figures are taken from the Result itself, so the
explanation cannot differ from what is shown.
"""

from __future__ import annotations

from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.result import Result
from lesna.planning.telling.figures import FIGURES
from lesna.planning.telling.working import loads, money, motion  # noqa: F401  they fill the entries
from lesna.planning.telling.working.entries import ENTRIES, Where, Working
from lesna.planning.telling.working.limits import limit_working

__all__ = ["Where", "Working", "explained", "working_of"]


def explained() -> tuple[str, ...]:
    """Ids of every number that can be explained."""
    return (*ENTRIES, *BY_ID)


def working_of(result: Result, id: str, where: Where) -> Working:
    """The working of a readout or a limit."""
    if id in BY_ID:
        return limit_working(result, id, where)
    figure = FIGURES[id]
    return Working(figure.label, figure.value(result), figure.quantity, ENTRIES[id](result, where))
