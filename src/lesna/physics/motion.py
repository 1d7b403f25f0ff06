"""How long a path takes on a machine that looks ahead: acceleration, jerk, path tolerance at corners, blocks a second.

A corner is rounded within the path tolerance: turning by an angle g it is run on a radius of ``d cos(g/2) / (1 - cos(g/2))``,
at the speed at which the acceleration holds that radius. A change of speed takes ``dv/a + a/j``, or ``2 sqrt(dv/j)`` where the
full acceleration is not reached (trapezoids of acceleration), over the mean of both speeds.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, Num, engine

Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Axes:
    """What the axes of a machine can do.

    Attributes
    ----------
    acceleration : array (3,)
        By axis [mm/s2].
    jerk : float
        Along the path [mm/s3].
    rapid : array (3,)
        Rapid speed by axis [mm/s].
    feed_max : float
        Greatest feed along the path [mm/s].
    feed_by_axis : array (3,)
        Greatest feed of each axis [mm/s].
    blocks : float
        Blocks a second that the control takes [1/s].
    tolerance : float
        How far corners may be rounded [mm].
    """

    acceleration: Array
    jerk: float
    rapid: Array
    feed_max: float
    feed_by_axis: Array
    blocks: float
    tolerance: float


@dataclass(frozen=True)
class Times:
    """How a path runs.

    Attributes
    ----------
    time : array (n,)
        Of each segment [s].
    peak : array (n,)
        Fastest speed on it [mm/s].
    speed : array (n + 1,)
        Speed at the joints [mm/s].
    """

    time: Array
    peak: Array
    speed: Array


def corner_speed(turn: Num, acceleration: Num, tolerance: float) -> Num:
    """Speed at which a corner is run within the path tolerance."""
    c = np.cos(np.asarray(turn) / 2)
    radius = tolerance * c / np.maximum(1 - c, 1e-12)
    return np.sqrt(np.maximum(acceleration * radius, 0.0))


def along_axes(limits: Array, direction: Array) -> Array:
    """What several axes allow along a direction: the least of each axis over its share."""
    return np.asarray((limits / np.maximum(np.abs(direction), 1e-9)).min(axis=1))


class Ways(Protocol):
    """How segments are gone, as far as acceleration and joints ask: of runs of them by their first and last."""

    def acceleration(self, first: Whole) -> Array:
        """Along the path [mm/s2]."""

    def limited(self, wanted: Array, first: Whole) -> Array:
        """Speeds that are asked for as far as the curve of each allows them [mm/s]."""

    def joints(self, first: Whole, last: Whole) -> tuple[Array, NDArray[np.bool_]]:
        """Fastest speeds between each and the next (n - 1,) [mm/s], and which of the joints bend little."""


@dataclass(frozen=True)
class Straight:
    """Segments of lines and arcs in three axes.

    Attributes
    ----------
    enter, leave : array (n, 3)
        Directions at both their ends [-].
    joined : array (n,) of bool
        Whether each begins where the one before ends.
    radius : array (n,)
        Of its curve [mm].
    axes : Axes
        Of the machine.
    """

    enter: Array
    leave: Array
    joined: NDArray[np.bool_]
    radius: Array
    axes: Axes

    def acceleration(self, first: Whole) -> Array:
        return along_axes(self.axes.acceleration, self.enter[first])

    def limited(self, wanted: Array, first: Whole) -> Array:
        return np.minimum(wanted, np.sqrt(self.acceleration(first) * np.minimum(self.radius[first], 1e9)))

    def joints(self, first: Whole, last: Whole) -> tuple[Array, NDArray[np.bool_]]:
        a = self.acceleration(first)
        turn = np.arccos(np.clip((self.leave[last[:-1]] * self.enter[first[1:]]).sum(axis=1), -1.0, 1.0))
        allowed = corner_speed(turn, np.minimum(a[:-1], a[1:]), self.axes.tolerance)
        joined = self.joined[first[1:]]
        return np.where(joined, allowed, 0.0), joined & (turn <= _SMOOTH)


#: how far a rotary axis may be rounded at a joint [deg]
_ROUNDED = 0.02
#: share of the acceleration that is left along the path where axes swing: the rest bends their way
_LEFT_ALONG = 0.7
#: axes that move by less over the way stand [1/mm]
_STANDS = 1e-9


@dataclass(frozen=True)
class Swinging:
    """Segments in any number of axes, the first three linear and the others rotary, of which all go evenly.

    Attributes
    ----------
    slope : array (n, k)
        Way of each axis over that of the tip [-], [deg/mm].
    length : array (n,)
        Way of the tip [mm].
    joined : array (n,) of bool
        Whether each begins where the one before ends.
    whole : array (n,) of int
        Number of the block that each belongs to.
    top, acceleration_of : array (k,)
        Speeds [mm/s], [deg/s] and accelerations [mm/s2], [deg/s2] of the axes.
    tolerance : float
        How far corners may be rounded [mm].
    """

    slope: Array
    length: Array
    joined: NDArray[np.bool_]
    whole: Whole
    top: Array
    acceleration_of: Array
    tolerance: float

    @cached_property
    def fastest(self) -> Array:
        """Speed of the tip at which the first axis reaches its own on each segment [mm/s]."""
        return np.asarray((self.top / np.maximum(np.abs(self.slope), _STANDS)).min(axis=1))

    @cached_property
    def _bent(self) -> Array:
        """Speed at which the axes still follow the bend of their way inside a block [mm/s]."""
        out = np.full(len(self.length), np.inf)
        inside = self.joined[1:] & (self.whole[1:] == self.whole[:-1])
        bend = (
            np.abs(np.diff(self.slope, axis=0)) / np.maximum(0.5 * (self.length[1:] + self.length[:-1]), 1e-9)[:, None]
        )
        held = np.sqrt((self.acceleration_of / np.maximum(bend, 1e-12)).min(axis=1))
        out[1:] = np.where(inside, held, np.inf)
        out[:-1] = np.minimum(out[:-1], np.where(inside, held, np.inf))
        return out

    def acceleration(self, first: Whole) -> Array:
        slope = np.abs(self.slope[first])
        swings = (slope[:, 3:] > _STANDS).any(axis=1)
        return np.asarray(
            np.where(swings, _LEFT_ALONG, 1.0) * (self.acceleration_of / np.maximum(slope, _STANDS)).min(axis=1)
        )

    def limited(self, wanted: Array, first: Whole) -> Array:
        return np.minimum(np.minimum(wanted, self.fastest[first]), self._bent[first])

    def joints(self, first: Whole, last: Whole) -> tuple[Array, NDArray[np.bool_]]:
        a = self.acceleration(first)
        change = self.slope[first[1:]] - self.slope[last[:-1]]
        turn = 2.0 * np.arcsin(np.minimum(0.5 * np.linalg.norm(change[:, :3], axis=1), 1.0))
        allowed = corner_speed(turn, np.minimum(a[:-1], a[1:]), self.tolerance)
        rounded = np.sqrt(8.0 * _ROUNDED * self.acceleration_of[3:]) / np.maximum(np.abs(change[:, 3:]), _STANDS)
        allowed = np.minimum(allowed, rounded.min(axis=1, initial=np.inf))
        inside = self.whole[first[1:]] == self.whole[last[:-1]]
        joined = self.joined[first[1:]]
        allowed = np.where(inside, np.inf, allowed)
        return np.where(joined, allowed, 0.0), joined & (turn <= _SMOOTH)


def _timed(length: Array, wanted: Array, ways: Ways, ends: tuple[Whole, Whole], jerk: float) -> Times:
    """Speeds and times of runs of segments, each from its first to its last."""
    first, last = ends
    joint = np.zeros(len(length) + 1)
    if len(length) > 1:
        joint[1:-1] = ways.joints(first, last)[0]
    speed, peak, time = np.zeros(len(joint)), np.zeros(len(length)), np.zeros(len(length))
    engine.kernel("motion_times")(
        np.ascontiguousarray(length),
        np.ascontiguousarray(wanted),
        joint,
        ways.acceleration(first),
        jerk,
        speed,
        peak,
        time,
    )
    return Times(time, peak, speed)


def times(length: Array, wanted: Array, ways: Ways, jerk: float) -> Times:
    """Speeds and times of segments, each run for itself (parameters as `times_in_runs`)."""
    every = np.arange(len(length))
    return _timed(length, ways.limited(wanted, every), ways, (every, every), jerk)


#: turn up to which a joint is one of a curve in chords, not a corner [rad], and share of the speed that it must allow
_SMOOTH, _ALLOWED = math.radians(30.0), 0.4
#: moves that are to run at one speed, and of which the joints leave about as much, are run as one
_SAME, _ALIKE = 1e-4, 1.25


def _chains(
    length: Array, wanted: Array, ways: Ways, ends: tuple[Whole, Whole], jerk: float
) -> tuple[NDArray[np.bool_], Array]:
    """Which moves go on from the one before without a change of speed, and the speed that each reaches between smooth joints [mm/s].

    A control that looks ahead carries its acceleration over the joints of a curve in short chords. Were each of them sped up for
    itself, a program would take the longer the shorter its chords are.
    """
    most = ways.limited(wanted, ends[0])
    allowed, bends_little = ways.joints(*ends)
    slower = np.minimum(most[:-1], most[1:])
    smooth = bends_little & (allowed >= _ALLOWED * slower)
    joint = np.full(len(length) + 1, np.inf)
    joint[1:-1][smooth] = allowed[smooth]
    between = np.maximum(np.minimum(np.minimum(joint[:-1], joint[1:]), most), 1e-9)
    # up and down again by the jerk alone: half of the way takes 2 sqrt(dv/j) at about the speed of the joints
    top = np.minimum(most, between + jerk * (length / (4.0 * between)) ** 2)
    reached = np.maximum(0.5 * (between + top), 1e-9)
    alike = np.maximum(reached[:-1], reached[1:]) <= _ALIKE * np.minimum(reached[:-1], reached[1:])
    # what a program asks for is kept on each move
    alike &= np.abs(np.diff(wanted)) <= _SAME * np.minimum(wanted[:-1], wanted[1:])
    return np.append(False, smooth & alike), reached


def times_in_runs(begins: Array, length: Array, wanted: Array, ways: Ways, jerk: float) -> Times:
    """Speeds and times of segments that are looked at more finely than they are run: a move, and a curve in short chords, is one
    change of speed.

    Parameters
    ----------
    begins : array (n,) of bool
        Where a run begins; the segments of one go on smoothly at one speed and one radius.
    length, wanted : array (n,)
        Of each segment [mm], and the speed asked for on it [mm/s].
    ways : Ways
        How the segments are gone.
    jerk : float
        Along the path [mm/s3].

    Returns
    -------
    Times
        Of the segments; the time of a run lies on its segments as its speed passes over them.
    """
    if not len(length):
        return Times(np.zeros(0), np.zeros(0), np.zeros(1))
    first = np.flatnonzero(begins)
    last = np.append(first[1:], len(length)) - 1
    whole = np.add.reduceat(length, first)
    goes_on, reached = _chains(whole, wanted[first], ways, (first, last), jerk)
    # several moves that go on smoothly are run as one
    first = first[~goes_on]
    last = np.append(first[1:], len(length)) - 1
    chain = np.flatnonzero(~goes_on)
    time_alone = np.add.reduceat(whole / reached, chain)
    whole = np.add.reduceat(whole, chain)
    found = _timed(whole, whole / time_alone, ways, (first, last), jerk)
    run = np.searchsorted(first, np.arange(len(length)), side="right") - 1
    gone = np.cumsum(length)
    start = gone - length - (gone[first] - length[first])[run]
    a = ways.acceleration(first)[run]

    def at(way: Array) -> Array:
        """Speed at a way from the beginning of the run: up, level and down at the acceleration."""
        up = found.speed[:-1][run] ** 2 + 2 * a * way
        down = found.speed[1:][run] ** 2 + 2 * a * np.maximum(whole[run] - way, 0.0)
        return np.minimum(np.sqrt(np.minimum(up, down)), found.peak[run])

    middle, end = at(start + 0.5 * length), at(start + length)
    share = length / np.maximum(middle, 1e-6)
    time = found.time[run] * share / np.maximum(np.add.reduceat(share, first)[run], 1e-300)
    speed = np.append(found.speed[:1], end)
    speed[first], speed[-1] = found.speed[:-1], found.speed[-1]
    return Times(time, np.maximum(middle, np.maximum(speed[:-1], speed[1:])), speed)
