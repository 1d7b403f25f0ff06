"""Motion of a tool as rows: lines and arcs in millimetres, read from a program or made as a path."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Whole = NDArray[np.int64]

RAPID, LINE, CW, CCW = 0, 1, 2, 3
#: first and second axis of a plane by its normal, so that a positive angle turns counter-clockwise seen along the normal
IN_PLANE = ((1, 2), (2, 0), (0, 1))


@dataclass(frozen=True)
class Motion:
    """Moves in order.

    Attributes
    ----------
    kind : array (n,) of int
        RAPID, LINE, CW or CCW, seen along the axis that is normal to the arc's plane.
    start, end : array (n, 3)
        Both ends of the tool's tip [mm].
    centre : array (n, 3)
        Centre of an arc; not a number elsewhere [mm].
    plane : array (n,) of int
        Number of the axis that is normal to an arc's plane: 2 for the plane of X and Y.
    sweep : array (n,)
        Angle of an arc, positive counter-clockwise [rad].
    feed : array (n,)
        Feed; not a number for rapids [mm/min].
    rpm : array (n,)
        Spindle speed, 0 where it stands [1/min].
    axis : array (n, 3)
        Direction of the tool from tip to spindle.
    """

    kind: Whole
    start: Array
    end: Array
    centre: Array
    plane: Whole
    sweep: Array
    feed: Array
    rpm: Array
    axis: Array

    def __len__(self) -> int:
        return len(self.kind)

    @cached_property
    def is_feed(self) -> NDArray[np.bool_]:
        """Which moves are made at a feed."""
        return self.kind != RAPID

    @cached_property
    def length(self) -> Array:
        """Length along the path [mm]."""
        straight = np.linalg.norm(self.end - self.start, axis=1)
        rows = np.flatnonzero(self.kind >= CW)
        if len(rows):
            arms = in_plane(self.start[rows] - self.centre[rows], self.plane[rows])
            rise = (self.end - self.start)[rows, self.plane[rows]]
            straight[rows] = np.hypot(np.linalg.norm(arms, axis=1) * self.sweep[rows], rise)
        return straight

    def at(self, rows: Whole, share: Array) -> Array:
        """Places on moves at shares of their length."""
        start, end = self.start[rows], self.end[rows]
        places = start + share[:, None] * (end - start)
        arcs = np.flatnonzero(self.kind[rows] >= CW)
        if len(arcs):
            row = rows[arcs]
            pairs = np.asarray(IN_PLANE)[self.plane[row]]
            middle = in_plane(self.centre[row], self.plane[row])
            first, last = in_plane(start[arcs], self.plane[row]) - middle, in_plane(end[arcs], self.plane[row]) - middle
            begin, size = np.arctan2(first[:, 1], first[:, 0]), np.linalg.norm(first, axis=1)
            # the radius goes evenly from that at the start to that at the end, which rounding of the words sets apart
            size = size + share[arcs] * (np.linalg.norm(last, axis=1) - size)
            angle = begin + share[arcs] * self.sweep[row]
            places[arcs, pairs[:, 0]] = middle[:, 0] + size * np.cos(angle)
            places[arcs, pairs[:, 1]] = middle[:, 1] + size * np.sin(angle)
        return places

    def direction(self, rows: Whole, share: Array) -> Array:
        """Unit tangents of moves at shares of their length, (m, 3)."""
        along = self.end[rows] - self.start[rows]
        arcs = np.flatnonzero(self.kind[rows] >= CW)
        if len(arcs):
            row = rows[arcs]
            pairs = np.asarray(IN_PLANE)[self.plane[row]]
            arm = in_plane(self.at(row, share[arcs]) - self.centre[row], self.plane[row])
            sweep = self.sweep[row]
            along[arcs, pairs[:, 0]], along[arcs, pairs[:, 1]] = -arm[:, 1] * sweep, arm[:, 0] * sweep
        return np.asarray(along / np.maximum(np.linalg.norm(along, axis=1), 1e-12)[:, None])


class Swung(Protocol):
    """Motion in five axes, as `lesna.nc.program.TiltedMoves` has it: places of the words, angles of two rotary axes."""

    @property
    def kind(self) -> Whole:
        """RAPID or LINE (n,)."""

    @property
    def start(self) -> Array:
        """Places of the words at the start (n, 3) [mm]."""

    @property
    def end(self) -> Array:
        """The same at the end."""

    @property
    def turned_start(self) -> Array:
        """Angles of both rotary axes at the start (n, 2) [deg]."""

    @property
    def turned_end(self) -> Array:
        """The same at the end."""

    @property
    def followed(self) -> NDArray[np.bool_]:
        """Whether the tip is kept on its line (n,)."""

    @property
    def way(self) -> Array:
        """Length of the tip's way (n,) [mm]."""

    def __len__(self) -> int:
        """Number of moves."""


def in_plane(vectors: Array, plane: Whole) -> Array:
    """Both components of vectors (n, 3) in their planes, (n, 2)."""
    pairs = np.asarray(IN_PLANE)[plane]
    rows = np.arange(len(vectors))
    return np.stack((vectors[rows, pairs[:, 0]], vectors[rows, pairs[:, 1]]), axis=1)
