"""A motion in five axes in steps short enough to see what changes along it: the tip, the tool's axis, and where each axis stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.geometry.kinematics import Kinematics
from lesna.geometry.motion import RAPID, Swung
from lesna.physics import Array
from lesna.stock.steps import RAPID_STEP, Steps

#: a rotary axis turns by no more in a step, of a feed and of a rapid [deg]
_TURN, _RAPID_TURN = 1.5, 3.0
#: a tip goes on where it was [mm]
_SAME = 1e-6


@dataclass(frozen=True)
class Poses(Steps):
    """Steps of a tool that leans.

    Attributes
    ----------
    axis_start, axis_end : array (n, 3)
        Direction from tip to spindle at both ends.
    turned_start, turned_end : array (n, 2)
        Rotary axes at both ends [deg].
    linear_start, linear_end : array (n, 3)
        Linear axes at both ends [mm].
    """

    axis_start: Array
    axis_end: Array
    turned_start: Array
    turned_end: Array
    linear_start: Array
    linear_end: Array


def poses_of(moves: Swung, kinematics: Kinematics, longest: float) -> Poses:
    """The steps of a motion in five axes.

    Parameters
    ----------
    moves : Swung
        The motion.
    kinematics : Kinematics
        The machine's rotary axes.
    longest : float
        Longest step of the tip at a feed [mm].
    """
    rapid = moves.kind == RAPID
    turn = np.abs(moves.turned_end - moves.turned_start).max(axis=1, initial=0.0)
    # where the tip stands its way counts degrees
    by_way = np.where(moves.way > turn + _SAME, moves.way, 0.0)
    by_way = np.maximum(by_way, np.linalg.norm(moves.end - moves.start, axis=1))
    count = np.maximum(
        np.ceil(by_way / np.where(rapid, RAPID_STEP, longest)), np.ceil(turn / np.where(rapid, _RAPID_TURN, _TURN))
    )
    count = np.maximum(count, 1).astype(np.int64)
    move = np.repeat(np.arange(len(moves)), count)
    within = np.arange(len(move)) - np.repeat(np.cumsum(count) - count, count)
    start = _placed(moves, kinematics, move, within / count[move])
    end = _placed(moves, kinematics, move, (within + 1) / count[move])
    tip_start, axis_start, turned_start, linear_start = start
    tip_end, axis_end, turned_end, linear_end = end
    chord = tip_end - tip_start
    length = np.linalg.norm(chord, axis=1)
    length = np.where(length > _SAME, length, np.abs(turned_end - turned_start).max(axis=1, initial=0.0))
    flat = np.hypot(chord[:, 0], chord[:, 1])
    heading = np.where(flat[:, None] > _SAME, chord[:, :2] / np.maximum(flat, _SAME)[:, None], 0.0)
    joined = np.zeros(len(move), dtype=bool)
    joined[1:] = np.abs(tip_start[1:] - tip_end[:-1]).max(axis=1, initial=0.0) < _SAME
    joined[1:] &= np.abs(turned_start[1:] - turned_end[:-1]).max(axis=1, initial=0.0) < _SAME
    return Poses(move, tip_start, tip_end, heading, length, np.where(rapid[move], 0, 1), joined, axis_start, axis_end,
                 turned_start, turned_end, linear_start, linear_end)  # fmt: skip


def _placed(moves: Swung, kinematics: Kinematics, move: Array, share: Array) -> tuple[Array, Array, Array, Array]:
    """Tip, axis, rotary and linear axes at shares of moves."""
    s = share[:, None]
    place = moves.start[move] + s * (moves.end[move] - moves.start[move])
    turned = moves.turned_start[move] + s * (moves.turned_end[move] - moves.turned_start[move])
    followed = moves.followed[move]
    linear = np.where(followed[:, None], kinematics.linear(place, turned), place)
    tip, axis = kinematics.forward(linear, turned)
    return np.where(followed[:, None], place, tip), axis, turned, linear
