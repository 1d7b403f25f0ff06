"""A program as motion: one row a move, with the line it stands on. Words and their order stay in the text."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.kinematics import Kinematics
from lesna.geometry.motion import Array, Motion, Whole

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
    offset : array (n,)
        G word of the work offset: places of two offsets lie in two coordinate systems.
    skip : array (n,) of int
        Number of the switch that leaves it out, -1 where none does.
    word : array (n,)
        The F word that holds, as it is written; not a number for rapids.
    is_fresh : array (n,) of bool
        Whether an F word was read since the feed move before.
    is_doubtful : array (n,) of bool
        Whether controls differ in the feed that they make of its F word.
    """

    line: Whole
    feed_line: Whole
    tool: Whole
    per_turn: Flags
    inch: Flags
    relative: Flags
    is_cycle: Flags
    offset: Array
    skip: Whole
    word: Array
    is_fresh: Flags
    is_doubtful: Flags

    def part(self, rows: Whole | Flags) -> Self:
        """Some of them."""
        return type(self)(**{name: getattr(self, name)[rows] for name in self.__dataclass_fields__})

    @property
    def starts(self) -> Array:
        """Where they start, in every axis that the program names (n, 3 or more)."""
        return self.start

    @property
    def ends(self) -> Array:
        """Where they end, in every axis that the program names (n, 3 or more)."""
        return self.end


@dataclass(frozen=True)
class TiltedMoves(Moves):
    """Motion in five axes. Places are those of the words: of the tip where it is followed, of the linear axes where it is not.

    Attributes
    ----------
    turned_start, turned_end : array (n, 2)
        Both rotary axes, in order from the base [deg].
    followed : array (n,) of bool
        Whether the control keeps the tip on its line while the axes turn.
    inverse : array (n,) of bool
        Whether the feed is written as one over the time of the move (G93).
    way : array (n,)
        Length of the tip's way, what the feed counts along; where it stands, degrees of the axis that turns most [mm].
    """

    turned_start: Array
    turned_end: Array
    followed: Flags
    inverse: Flags
    way: Array

    @cached_property
    def length(self) -> Array:
        """Length of the tip's way [mm]; where it stands a degree counts as a millimetre."""
        return self.way

    @property
    def starts(self) -> Array:
        return np.hstack((self.start, self.turned_start))

    @property
    def ends(self) -> Array:
        return np.hstack((self.end, self.turned_end))


class Event(NamedTuple):
    """What a control does beside motion: a switch, a stop, a wait, another tool or zero."""

    #: motions before it
    at: int
    line: int
    text: str


@dataclass(frozen=True)
class Trace:
    """A program as a control runs it.

    Attributes
    ----------
    moves : Moves
        Every motion; a start or an end that is not known is not a number.
    events : tuple of Event
        What else is done, in order.
    barriers : tuple of (int, int)
        Motions before, and line of, places at which the F word that holds is read by something that cannot be written anew.
    """

    moves: Moves
    events: tuple[Event, ...]
    barriers: tuple[tuple[int, int], ...]


@dataclass(frozen=True, eq=False)
class Program:
    """A program that was read.

    Attributes
    ----------
    text : str
        Every byte as one character.
    lines : list of str
        Its lines with their ends.
    trace : Trace
        Everything it does, with no block skipped.
    rows : array (n,) of int
        Places in the trace of the moves whose start is known.
    moves : Moves
        Those.
    dwell : float
        Minutes it waits.
    changes : tuple of (int, int)
        Line and T number of each tool change.
    remarks : tuple of str
        What was kept without being understood as motion, worth telling.
    language : str
        ``blocks`` of ISO 6983, or cutter ``locations`` of ISO 4343.
    kinematics : Kinematics or None
        Of the rotary axes it moves; None in three axes.
    """

    text: str
    lines: list[str]
    trace: Trace
    rows: Whole
    moves: Moves
    dwell: float
    changes: tuple[tuple[int, int], ...]
    remarks: tuple[str, ...]
    language: Literal["blocks", "locations"] = "blocks"
    kinematics: Kinematics | None = None

    @property
    def digest(self) -> str:
        """SHA-256 of the file."""
        return hashlib.sha256(self.text.encode("latin-1")).hexdigest()

    def length_offset(self, tool: int) -> str:
        """The H word under which a tool's length lies, as it is written; empty where none is."""
        current = 0
        for event in self.trace.events:
            if event.text.startswith("T") and event.text[1:].isdigit():
                current = int(event.text[1:])
            elif current == tool and event.text.startswith("H"):
                return event.text
        return ""

    @property
    def tools(self) -> tuple[int, ...]:
        """T numbers that move at a feed, in rising order."""
        return tuple(int(t) for t in np.unique(self.moves.tool[self.moves.is_feed]))

    @property
    def offsets(self) -> tuple[float, ...]:
        """G words of the work offsets in which it moves at a feed, in order of their first use."""
        used = self.moves.offset[self.moves.is_feed]
        return tuple(float(used[at]) for at in np.sort(np.unique(used, return_index=True)[1]))
