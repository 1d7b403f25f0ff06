"""What a program was written for against the cut whose limits are told of it: speed, feed and depth that differ."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model import units
from lesna.planning.cut.result import Result
from lesna.planning.program.summary import Summary

#: more than this apart is another cut
_APART = 0.05


@dataclass(frozen=True)
class Unlike:
    """A number that a program has otherwise than its cut.

    Attributes
    ----------
    label : str
        What it is called.
    quantity : Quantity
        Its unit.
    programmed, wanted : float
        In the program, and in the cut.
    """

    label: str
    quantity: units.Quantity
    programmed: float
    wanted: float


def unlike(found: Summary, result: Result) -> tuple[Unlike, ...]:
    """Speed, feed and depth of a program that are more than 5 % off those of its cut.

    All three are those of most of the way in contact; the depth of the cut is that of its levels.
    """
    state = result.state
    pairs = (
        Unlike("S", units.SPINDLE_SPEED, found.speed, float(state.n)),
        Unlike("F", units.FEED, found.feed, float(state.vf)),
        Unlike("depth", units.LENGTH, found.level, float(result.level_height)),
    )
    return tuple(pair for pair in pairs if pair.programmed > 0 and abs(pair.programmed / pair.wanted - 1) > _APART)


def unlike_line(found: Summary, result: Result) -> str:
    """The same as a sentence, empty where the program is this cut; numbers are marked for `units.said`."""
    told = []
    for pair in unlike(found, result):
        programmed, wanted = pair.quantity.pair(pair.programmed, pair.wanted)
        told.append(f"{pair.label} {programmed}, the cut {wanted}")
    return f"The program is not this cut: {'; '.join(told)}." if told else ""
