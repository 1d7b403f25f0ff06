"""A program as motion: one row a move, with the line it stands on. Words and their order stay in the text."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import Motion, Whole

Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Moves(Motion):
    """Motion in millimetres and program coordinates, and how it is written.

    Attributes
    ----------
    line : array (n,) of int
        Line of the file that asks for it, from 1.
    feed_line : array (n,) of int
        Line that gave the feed.
    tool : array (n,) of int
        T number in the spindle, 0 where none was called.
    per_turn : array (n,) of bool
        Whether the feed is written per turn (G95).
    inch : array (n,) of bool
        Whether the words are in inches (G20).
    relative : array (n,) of bool
        Whether its ends are written as steps (G91).
    is_cycle : array (n,) of bool
        Whether it belongs to a canned cycle: its feed is not levelled.
    """

    line: Whole
    feed_line: Whole
    tool: Whole
    per_turn: Flags
    inch: Flags
    relative: Flags
    is_cycle: Flags


@dataclass(frozen=True)
class Program:
    """A program that was read.

    Attributes
    ----------
    text : str
        Every byte as one character.
    lines : list of str
        Its lines with their ends.
    moves : Moves
        What it asks for.
    dwell : float
        Minutes it waits.
    changes : tuple of (int, int)
        Line and T number of each tool change.
    remarks : tuple of str
        What was kept without being understood as motion, worth telling.
    """

    text: str
    lines: list[str]
    moves: Moves
    dwell: float
    changes: tuple[tuple[int, int], ...]
    remarks: tuple[str, ...]

    @property
    def tools(self) -> tuple[int, ...]:
        """T numbers that move at a feed, in rising order."""
        return tuple(int(t) for t in np.unique(self.moves.tool[self.moves.is_feed]))
