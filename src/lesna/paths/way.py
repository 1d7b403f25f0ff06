"""A path with intent: places in a plane, each reached by cutting, linking, entering or along a wall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from lesna.physics import Array

#: why the tool goes somewhere: lets itself into the material, cuts, follows a wall last of all, goes to the next place with a
#: small lift, or over everything
Intent = Literal["entry", "cut", "wall", "link", "retract"]


@dataclass(frozen=True)
class Leg:
    """One stretch of one intent.

    Attributes
    ----------
    intent : str
        What it is for.
    points : array (n, 3)
        Where the tip goes, beginning where the leg before ends [mm].
    taken : array (n,)
        Stepover that the generator believes it takes to each point, 0 where it does not cut [mm]. What is told of a path comes from
        its simulation instead.
    clear : bool
        Whether nothing stands beside a link, not even at its ends.
    """

    intent: Intent
    points: Array
    taken: Array
    clear: bool = False

    @cached_property
    def length(self) -> float:
        """Along its chords [mm]."""
        return float(np.linalg.norm(np.diff(self.points, axis=0), axis=1).sum())


@dataclass(frozen=True)
class Way:
    """A whole path.

    Attributes
    ----------
    legs : tuple of Leg
        Its stretches in order, each beginning where the one before ends.
    """

    legs: tuple[Leg, ...]

    @property
    def passes(self) -> int:
        """Cutting legs."""
        return sum(leg.intent == "cut" for leg in self.legs)

    def length_of(self, *intents: Intent) -> float:
        """Length of all legs of some intents [mm]."""
        return sum(leg.length for leg in self.legs if leg.intent in intents)


def joined(ways: Sequence[Way]) -> Way:
    """Levels one after the other."""
    return Way(tuple(leg for way in ways for leg in way.legs))
