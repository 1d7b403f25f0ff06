"""Minutes of a cut before a path is made: the way of its own generator, at the feeds of the cut, on the axes of the machine."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.entry import ABOVE
from lesna.physics import Array, Num
from lesna.physics.motion import Axes, Straight, times_in_runs
from lesna.planning.cut.axes import axes_of
from lesna.planning.cut.levels import count_of, depth_of
from lesna.planning.cut.motion import Motion
from lesna.planning.cut.setup import CutSetup
from lesna.planning.routes.feeds import feeds_of
from lesna.planning.routes.profile import CUT, LINK, SLOT, WALL, Profile, floor_of
from lesna.planning.routes.wish import CLEAR

#: feeds at which a way is timed, read between [mm/min]
_FEEDS = np.geomspace(20.0, 80_000.0, 16)
_LOGS = np.log(_FEEDS)
#: height over the top at which a feed takes over from a rapid [mm]
_OVER = 1.0
#: stepovers nearer than this in their logarithm are eased alike
_EASING = 0.04
#: profiles whose times are kept
_TIMED = 512


def minutes_of(setup: CutSetup, motion: Motion, pulse: Pulse = STEADY, *, wait: bool = True) -> tuple[Num, Num] | None:
    """Minutes with material engaged and minutes of links, lifts and ways over everything, at one or many engagements.

    Parameters
    ----------
    setup : CutSetup
        The cut with its feature.
    motion : Motion
        How it moves (floats or arrays).
    pulse : Pulse
        Told how far the making of ways is.
    wait : bool
        Whether ways that are not known are made; else those that are stand for them, and None is given where there is none.

    Raises
    ------
    InputError
        When no way can be made for this feature.
    """
    floor, depth = floor_of(setup.parts), depth_of(setup.parts.cut.feature)
    if depth is None:
        return None
    ae, ap, vf = (np.asarray(value, dtype=float) for value in np.broadcast_arrays(motion.ae, motion.ap, motion.vf))
    feeds, axes = feeds_of(setup, motion), axes_of(setup.parts.machine)
    levels = count_of(depth, ap)
    told = []
    stepovers, which = np.unique(ae, return_inverse=True)
    which = which.reshape(ae.shape)
    for stepover in stepovers.tolist():
        wide = min(stepover, setup.shape.DC)
        profile = floor.profile(wide, pulse) if wait else floor.known(wide)
        if profile is None:
            return None
        told.append(
            (profile, floor.scale(wide, profile.stepover), _timed(profile, axes, feeds.most, floor.asked(wide)))
        )
    scale, lifts, down, slot, across = np.array(
        [(scale, p.lifts, p.down, p.length_of(SLOT), p.across / max(p.lifts, 1)) for p, scale, _ in told]
    ).T[:, which]
    cut, wall, between = np.exp(_between(np.stack([rows for _, _, rows in told]), which, vf))
    ramps = down * (depth / levels + ABOVE)
    slots = (slot + ramps) / feeds.entry
    # the last of each way down is fed, from above the top to the floor of the level
    mean = depth * (levels + 1) / (2 * levels)
    fed = _moved(mean + _OVER, np.asarray(feeds.link) / 60.0, axes, 2)
    up = _moved(mean + CLEAR, axes.rapid[2], axes, 2) + _moved(CLEAR - _OVER, axes.rapid[2], axes, 2)
    over = _moved(across, float(min(axes.rapid[:2])), axes, 0)
    cutting = levels * (cut * scale + wall + slots)
    linking = levels * (between * scale + lifts * (fed + up + over) / 60.0)
    return (float(cutting), float(linking)) if not ae.shape else (cutting, linking)


def _between(rows: Array, which: NDArray[np.int64], vf: Array) -> Array:
    """Rows (stepovers, 3, feeds) read between their feeds, at the stepover and the feed of each point (3, ...)."""
    at = np.log(np.clip(vf, _FEEDS[0], _FEEDS[-1]))
    k = np.clip(np.searchsorted(_LOGS, at) - 1, 0, len(_LOGS) - 2)
    share = (at - _LOGS[k]) / (_LOGS[k + 1] - _LOGS[k])
    return np.moveaxis(rows[which, :, k], -1, 0) * (1.0 - share) + np.moveaxis(rows[which, :, k + 1], -1, 0) * share


def _moved(way: Num, speed: Num, axes: Axes, axis: int) -> Num:
    """Seconds of a straight move from rest to rest."""
    a = float(axes.acceleration[axis])
    top = np.minimum(speed, np.sqrt(a * np.asarray(way)))
    return np.asarray(way) / np.maximum(top, 1e-9) + top / a + 2 * np.minimum(a / axes.jerk, np.sqrt(top / axes.jerk))


def is_timed(setup: CutSetup, ae: float) -> bool:
    """Whether the way that stands for a cut has been made, or none can be."""
    try:
        return floor_of(setup.parts).is_known(min(ae, setup.shape.DC))
    except InputError:
        return True


def _timed(profile: Profile, axes: Axes, most: float, asked: float) -> Array:
    """Logarithms of the minutes of cut, wall and link at the feeds (3, k), fed slower where more is engaged than is asked for.

    `asked` is the stepover that is asked for over the one that comes out even [-].
    """
    # stepovers a few per cent apart ease bends alike
    step = round(math.log(asked) / _EASING) if profile.engages.any() else 0
    return _timed_on(profile, tuple(axes.acceleration.tolist()), axes.jerk, axes.tolerance, most, step)


@lru_cache(maxsize=_TIMED)
def _timed_on(
    p: Profile, acceleration: tuple[float, ...], jerk: float, tolerance: float, most: float, step: int
) -> Array:
    axes = Axes(np.array(acceleration), jerk, np.zeros(3), math.inf, np.zeros(3), math.inf, tolerance)
    on = p.kind != SLOT
    kind, out = p.kind[on], np.full((3, len(_FEEDS)), math.log(1e-12))
    if not on.any():
        return out
    # where a slot was left out the others do not go on from one another
    eased = p.eased_at(p.stepover * math.exp(step * _EASING))[on]
    joined = p.joined[on] & np.append(True, np.diff(np.flatnonzero(on)) == 1)
    for column, feed in enumerate(_FEEDS):
        link = np.where(p.slow[on], feed, min(3.0 * feed, most))
        wanted = np.where(kind == LINK, link, feed * eased) / 60.0
        every = np.ones(len(kind), dtype=bool)
        ways = Straight(p.enter[on], p.leave[on], joined, p.radius[on], axes)
        found = times_in_runs(every, p.length[on], wanted, ways, axes.jerk).time / 60.0
        for row, which in enumerate((CUT, WALL, LINK)):
            out[row, column] = math.log(max(float(found[kind == which].sum()), 1e-12))
    return out
