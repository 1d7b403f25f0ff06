"""How long a path takes on a machine that looks ahead: acceleration, jerk, path tolerance at corners, blocks a second.

A corner is rounded within the path tolerance: turning by an angle g it is run on a radius of ``d cos(g/2) / (1 - cos(g/2))``,
at the speed at which the acceleration holds that radius. A change of speed takes ``dv/a + a/j``, or ``2 sqrt(dv/j)`` where the
full acceleration is not reached (trapezoids of acceleration), over the mean of both speeds.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, Num, engine


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


def times(length: Array, wanted: Array, enter: Array, leave: Array, joined: Array, radius: Array, axes: Axes) -> Times:
    """Speeds and times of segments."""
    acceleration = along_axes(axes.acceleration, enter)
    wanted = np.minimum(wanted, np.sqrt(acceleration * np.minimum(radius, 1e9)))
    joint = np.zeros(len(length) + 1)
    if len(length) > 1:
        turn = np.arccos(np.clip((leave[:-1] * enter[1:]).sum(axis=1), -1.0, 1.0))
        least = np.minimum(acceleration[:-1], acceleration[1:])
        joint[1:-1] = np.where(joined[1:], corner_speed(turn, least, axes.tolerance), 0.0)
    speed, peak, time = np.zeros(len(joint)), np.zeros(len(length)), np.zeros(len(length))
    engine.kernel("motion_times")(
        np.ascontiguousarray(length), np.ascontiguousarray(wanted), joint, acceleration, axes.jerk, speed, peak, time
    )
    return Times(time, peak, speed)


#: turn up to which a joint is one of a curve in chords, not a corner [rad], and share of the speed that it must allow
_SMOOTH, _ALLOWED = math.radians(30.0), 0.4
#: moves that are to run at one speed, and of which the joints leave about as much, are run as one
_SAME, _ALIKE = 1e-4, 1.25


def _chains(
    length: Array, wanted: Array, enter: Array, leave: Array, joined: Array, radius: Array, axes: Axes
) -> tuple[NDArray[np.bool_], Array]:
    """Which moves go on from the one before without a change of speed, and the speed that each reaches between smooth joints [mm/s].

    A control that looks ahead carries its acceleration over the joints of a curve in short chords. Were each of them sped up for
    itself, a program would take the longer the shorter its chords are.
    """
    a = along_axes(axes.acceleration, enter)
    most = np.minimum(wanted, np.sqrt(a * np.minimum(radius, 1e9)))
    turn = np.arccos(np.clip((leave[:-1] * enter[1:]).sum(axis=1), -1.0, 1.0))
    allowed = corner_speed(turn, np.minimum(a[:-1], a[1:]), axes.tolerance)
    slower = np.minimum(most[:-1], most[1:])
    smooth = joined[1:] & (turn <= _SMOOTH) & (allowed >= _ALLOWED * slower)
    joint = np.full(len(length) + 1, np.inf)
    joint[1:-1][smooth] = allowed[smooth]
    between = np.maximum(np.minimum(np.minimum(joint[:-1], joint[1:]), most), 1e-9)
    # up and down again by the jerk alone: half of the way takes 2 sqrt(dv/j) at about the speed of the joints
    top = np.minimum(most, between + axes.jerk * (length / (4.0 * between)) ** 2)
    reached = np.maximum(0.5 * (between + top), 1e-9)
    alike = np.maximum(reached[:-1], reached[1:]) <= _ALIKE * np.minimum(reached[:-1], reached[1:])
    # what a program asks for is kept on each move
    alike &= np.abs(np.diff(wanted)) <= _SAME * np.minimum(wanted[:-1], wanted[1:])
    return np.append(False, smooth & alike), reached


def times_in_runs(
    begins: Array, length: Array, wanted: Array, enter: Array, leave: Array, joined: Array, radius: Array, axes: Axes
) -> Times:
    """Speeds and times of segments that are looked at more finely than they are run: a move, and a curve in short chords, is one
    change of speed.

    Parameters
    ----------
    begins : array (n,) of bool
        Where a run begins; the segments of one go on smoothly at one speed and one radius.
    length, wanted : array (n,)
        Of each segment [mm], and the speed asked for on it [mm/s].
    enter, leave : array (n, 3)
        Directions at both its ends [-].
    joined : array (n,) of bool
        Whether it begins where the one before ends.
    radius : array (n,)
        Of its curve [mm].
    axes : Axes
        Of the machine.

    Returns
    -------
    Times
        Of the segments; the time of a run lies on its segments as its speed passes over them.
    """
    if not len(length):
        return times(length, wanted, enter, leave, joined, radius, axes)
    first = np.flatnonzero(begins)
    last = np.append(first[1:], len(length)) - 1
    whole = np.add.reduceat(length, first)
    goes_on, reached = _chains(whole, wanted[first], enter[first], leave[last], joined[first], radius[first], axes)
    # several moves that go on smoothly are run as one
    first = first[~goes_on]
    last = np.append(first[1:], len(length)) - 1
    chain = np.flatnonzero(~goes_on)
    time_alone = np.add.reduceat(whole / reached, chain)
    whole = np.add.reduceat(whole, chain)
    found = times(
        whole, whole / time_alone, enter[first], leave[last], joined[first], np.full(len(first), np.inf), axes
    )
    run = np.searchsorted(first, np.arange(len(length)), side="right") - 1
    gone = np.cumsum(length)
    start = gone - length - (gone[first] - length[first])[run]
    a = along_axes(axes.acceleration, enter[first])[run]

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
