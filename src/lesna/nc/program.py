"""A program as motion: one row a move, with the line it stands on. Words and their order stay in the text."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

RAPID, LINE, CW, CCW = 0, 1, 2, 3


@dataclass(frozen=True)
class Moves:
    """Motion in millimetres and program coordinates, in order.

    Attributes
    ----------
    line : array (n,) of int
        Line of the file that asks for it, from 1.
    kind : array (n,) of int
        RAPID, LINE, CW or CCW, seen along the axis that is normal to the arc's plane.
    start, end : array (n, 3)
        Both ends [mm].
    centre : array (n, 3)
        Centre of an arc; not a number elsewhere [mm].
    plane : array (n,) of int
        Number of the axis that is normal to an arc's plane: 2 for G17.
    sweep : array (n,)
        Angle of an arc, positive counter-clockwise [rad].
    feed : array (n,)
        Programmed feed; not a number for rapids [mm/min].
    feed_line : array (n,) of int
        Line that gave the feed.
    rpm : array (n,)
        Spindle speed, 0 where it stands [1/min].
    tool : array (n,) of int
        T number in the spindle, 0 where none was called.
    axis : array (n, 3)
        Direction of the tool from tip to spindle.
    per_turn : array (n,) of bool
        Whether the feed is written per turn (G95).
    inch : array (n,) of bool
        Whether the words are in inches (G20).
    relative : array (n,) of bool
        Whether its ends are written as steps (G91).
    is_cycle : array (n,) of bool
        Whether it belongs to a canned cycle: its feed is not levelled.
    """

    line: NDArray[np.int64]
    kind: NDArray[np.int64]
    start: Array
    end: Array
    centre: Array
    plane: NDArray[np.int64]
    sweep: Array
    feed: Array
    feed_line: NDArray[np.int64]
    rpm: Array
    tool: NDArray[np.int64]
    axis: Array
    per_turn: NDArray[np.bool_]
    inch: NDArray[np.bool_]
    relative: NDArray[np.bool_]
    is_cycle: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.line)

    @cached_property
    def is_feed(self) -> NDArray[np.bool_]:
        """Which moves are made at a feed."""
        return self.kind != RAPID

    @cached_property
    def length(self) -> Array:
        """Length along the path [mm]."""
        straight = np.linalg.norm(self.end - self.start, axis=1)
        arc = self.kind >= CW
        if not arc.any():
            return straight
        rows = np.flatnonzero(arc)
        radius = np.linalg.norm(in_plane(self.start[rows] - self.centre[rows], self.plane[rows]), axis=1)
        rise = (self.end - self.start)[rows, self.plane[rows]]
        straight[rows] = np.hypot(radius * self.sweep[rows], rise)
        return straight


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


#: first and second axis of a plane by its normal, so that a positive angle turns counter-clockwise seen along the normal
IN_PLANE = ((1, 2), (2, 0), (0, 1))


def in_plane(vectors: Array, plane: NDArray[np.int64]) -> Array:
    """Both components of vectors (n, 3) in their planes, (n, 2)."""
    pairs = np.asarray(IN_PLANE)[plane]
    rows = np.arange(len(vectors))
    return np.stack((vectors[rows, pairs[:, 0]], vectors[rows, pairs[:, 1]]), axis=1)
