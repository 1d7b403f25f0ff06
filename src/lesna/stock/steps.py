"""A motion in steps short enough to see what changes along it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import LINE, RAPID, Motion, Whole
from lesna.physics import Array, engine

#: chords of a path that bend by less than this are one smooth curve [rad]
_SMOOTH = np.radians(20.0)
#: steps of one straight run are looked at together as far as all of it turns by less, some micrometres beside it [rad] ...
_STRAIGHT = np.radians(0.05)
#: ... and it is no longer than this [mm]
_RUN = 24.0
#: longest step of a rapid [mm]
RAPID_STEP = 8.0
#: an arc's step turns by no more [rad]
_TURN = np.radians(12.0)


@dataclass(frozen=True)
class Steps:
    """Places along a motion.

    Attributes
    ----------
    move : array (n,) of int
        Number of the move that each step belongs to.
    start, end : array (n, 3)
        Both ends of each step [mm].
    heading : array (n, 2)
        Direction across the table at its end, zero where the tool goes straight up or down.
    length : array (n,)
        Its length [mm].
    way : array (n,) of int
        0 for a rapid, 1 for a feed, 2 for one more step of the straight run before it.
    joined : array (n,) of bool
        Whether it begins where the step before ends.
    """

    move: Whole
    start: Array
    end: Array
    heading: Array
    length: Array
    way: Whole
    joined: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.move)

    def part(self, some: slice) -> Self:
        """A stretch of them."""
        return type(self)(*(getattr(self, name)[some] for name in self.__dataclass_fields__))


def steps_of(motion: Motion, longest: float) -> Steps:
    """The steps of a motion."""
    size = np.where(motion.kind == RAPID, RAPID_STEP, longest)
    count = np.maximum(np.ceil(motion.length / size), 1)
    count = np.maximum(count, np.ceil(np.abs(motion.sweep) / _TURN)).astype(np.int64)
    move = np.repeat(np.arange(len(motion)), count)
    within = np.arange(len(move)) - np.repeat(np.cumsum(count) - count, count)
    share = (within + 1) / count[move]
    end = motion.at(move, share)
    last = within == count[move] - 1
    end[last] = motion.end[move[last]]
    start = np.empty_like(end)
    start[1:] = end[:-1]
    first = within == 0
    start[first] = motion.start[move[first]]
    joined = np.ones(len(move), dtype=bool)
    if len(move):
        joined[0] = False
        joined[1:] = np.abs(start[1:] - end[:-1]).max(axis=1) < 1e-9
    heading, length = _headings(motion, move, share, last, end - start, joined)
    way = _ways(motion, move, heading, length, end - start, joined)
    return Steps(move, start, end, heading, length, way, joined)


def _headings(
    motion: Motion, move: Whole, share: Array, last: Array, chord: Array, joined: Array
) -> tuple[Array, Array]:
    flat = motion.direction(move, share)[:, :2]
    length = motion.length[move] * 0.0 + np.linalg.norm(chord, axis=1)
    arcs = motion.kind[move] > LINE
    counts = np.bincount(move, minlength=len(motion))
    length[arcs] = (motion.length / np.maximum(counts, 1))[move[arcs]]
    # where short blocks follow a curve, its direction at their joint is the mean of both
    at = np.flatnonzero(last[:-1] & joined[1:] & (motion.kind[move[:-1]] != RAPID) & (motion.kind[move[1:]] != RAPID))
    begin = motion.direction(move[at + 1], np.zeros(len(at)))[:, :2]
    both = flat[at] + begin
    size = np.linalg.norm(flat[at], axis=1) * np.linalg.norm(begin, axis=1)
    smooth = (size > 1e-9) & ((flat[at] * begin).sum(axis=1) > np.cos(_SMOOTH) * size)
    flat[at[smooth]] = both[smooth]
    norm = np.linalg.norm(flat, axis=1)
    steep = norm < 1e-6
    flat = flat / np.where(steep, 1.0, norm)[:, None]
    flat[steep] = 0.0
    return flat, length


def _ways(motion: Motion, move: Whole, heading: Array, length: Array, chord: Array, joined: Array) -> Whole:
    is_rapid = motion.kind[move] == RAPID
    way = np.where(is_rapid, 0, 1).astype(np.int64)
    if len(move) < 2:
        return way
    flat = np.abs(chord[:, 2]) < 1e-9
    straight = chord[:, :2] / np.maximum(np.linalg.norm(chord[:, :2], axis=1), 1e-12)[:, None]
    alike = _turn(straight[1:], straight[:-1]) < _STRAIGHT
    alike &= _turn(heading[1:], straight[1:]) < _STRAIGHT
    follows = joined[1:] & flat[1:] & flat[:-1] & alike & (is_rapid[1:] == is_rapid[:-1]) & ~is_rapid[1:]
    engine.kernel("straight_runs")(np.flatnonzero(follows) + 1, length, straight, _RUN, _STRAIGHT, way)
    return way


def _turn(a: Array, b: Array) -> Array:
    """Angle between headings that point roughly alike [rad], far for those that do not."""
    across = np.abs(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])
    return np.asarray(np.where((a * b).sum(axis=-1) > 0, across, np.pi))
