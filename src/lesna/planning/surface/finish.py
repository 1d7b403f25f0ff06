"""Everything about one surface: what was decided, its path with proof, and how short the tool may be held for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lesna.model.library_records import Holder
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.result import Result
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.holders import Held, Lean, holders_for, leans_of, shank_clear
from lesna.planning.surface.make import Made, proved
from lesna.planning.ways.program import Printing


@dataclass(frozen=True)
class Finished:
    """A surface that was finished on paper.

    Attributes
    ----------
    made : Made
        The path, its program and proof.
    held : tuple of Held
        Holders, shortest stick-out first.
    leans : tuple of Lean
        What leaning the tool buys.
    shank : float or None
        Room beside a shank that is thicker than the tool [mm].
    """

    made: Made
    held: tuple[Held, ...]
    leans: tuple[Lean, ...]
    shank: float | None


def finished(
    decision: Decision, result: Result, printing: Printing, title: str, holders: Mapping[str, Holder], pulse: Pulse = STEADY
) -> Finished:  # fmt: skip
    """The path of a decision with its proof, and the holders of the shop for it (errors as in `make.proved`)."""
    made = proved(decision, result, printing, title, pulse)
    held = holders_for(made.decision, made.path, made.cutting, result, holders, pulse)
    leans = leans_of(made.decision, result, made.cutting, pulse)
    return Finished(made, held, leans, shank_clear(made.decision, made.path, result.setup.parts))
