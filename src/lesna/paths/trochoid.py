"""Trochoids along a slot or a narrow floor: loops whose advance engages the cutter exactly as far as the stepover does."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.channel import Channel, channel_of
from lesna.paths.connected import connected
from lesna.paths.demand import Demand
from lesna.paths.entry import helix
from lesna.paths.held import held_after
from lesna.paths.level import SKIN
from lesna.paths.slots import Slot, slot_of
from lesna.paths.way import Leg, Way
from lesna.physics import Array
from lesna.physics.edge.engagement import trochoid_advance

#: loops smaller than this over the cutter's radius are a full slot
_LEAST = 0.02
#: radius of the turns of a way back over the loop's
_BACK = 0.6
#: chords of a half circle, and of a quarter on the way back
_CHORDS, _QUARTER = 64, 10
#: the way in is at most so wide over the cutter's radius, a spiral opens it from there
_ORBIT = 0.6
#: looks at a loop and at the rim when its advance is sought, and halvings of it
_LOOKS, _SAMPLES, _HALVINGS = 25, 91, 14
#: loops of a curved axis advance at least so much over the radius: where a wall turns sharply it may engage more for a moment
_FINEST = 0.01
#: loops are told one by one so often
_TOLD = 16


@dataclass(frozen=True)
class Loop:
    """One loop: a circle of the cutter's middle, of which the half ahead cuts.

    Attributes
    ----------
    centre, along : array (2,)
        Its middle [mm] and where ahead is [-].
    r : float
        Its radius [mm].
    """

    centre: Array
    along: Array
    r: float

    def places(self, s: Array, t: Array) -> Array:
        """Places so far ahead of its middle and so far to the left (n, 2) [mm]."""
        across = np.array((-self.along[1], self.along[0]))
        return np.asarray(self.centre + np.multiply.outer(s, self.along) + np.multiply.outer(t, across))


def trochoid(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Clears a slot or a narrow floor in loops; what they leave at its ends is taken with held engagement."""
    loops, is_open = loops_of(region, demand)
    legs = [] if is_open else _opened(loops[0], demand)
    for number, (before, after) in enumerate(pairwise(loops)):
        if number % _TOLD == 0:
            pulse.tell(number, len(loops))
        legs += _turn(before, after, demand)
    return held_after(region, demand, connected(legs, demand.clear), pulse)


def loops_of(region: Region, demand: Demand) -> tuple[list[Loop], bool]:
    """The loops of a floor, the first of them in the open or in the hole that lets the cutter in; and which of these it is."""
    try:
        slot = slot_of(region)
    except InputError:
        channel = channel_of(region, demand.radius + demand.wall + SKIN, demand.radius)
        return _along(channel, demand), channel.opens[0]
    return _straight(slot, demand), slot.opens[0]


def _straight(slot: Slot, demand: Demand) -> list[Loop]:
    R = demand.radius
    r = slot.width / 2 - R - demand.wall - SKIN
    if r < _LEAST * R:
        widest = slot.width - 2 * (demand.wall + SKIN)
        raise InputError(
            f"the slot leaves no room for loops: {widest:.2f} mm between its walls for a cutter of {2 * R:g} mm; "
            "choose a full slot, or a smaller tool"
        )
    near = R + r + demand.wall + SKIN
    first = -(R + r) if slot.opens[0] else near
    # past an open end the loops' flanks, not their tips, have to leave the material
    last = max(slot.length + r if slot.opens[1] else slot.length - near, first)
    count = math.ceil((last - first) / float(trochoid_advance(R, r, demand.stepover)) - 1e-9)
    return [
        Loop(centre, slot.along, r) for centre in slot.places(np.linspace(first, last, count + 1), np.zeros(count + 1))
    ]


def _along(channel: Channel, demand: Demand) -> list[Loop]:
    """Loops along a curved axis, each as far on as its whole half circle stays within the stepover."""
    near = demand.radius + demand.wall + SKIN
    gone = np.append(0.0, np.cumsum(np.hypot(*np.diff(channel.places, axis=0).T)))

    def at(s: float) -> Loop:
        centre, along = (np.array([np.interp(s, gone, of[:, axis]) for axis in (0, 1)])
                         for of in (channel.places, channel.along))  # fmt: skip
        r = max(float(np.interp(s, gone, channel.room)) - near, _LEAST * demand.radius)
        return Loop(centre, along / np.hypot(*along), r)

    loops, s = [at(0.0)], 0.0
    while s < gone[-1] - 1e-9:
        # nowhere does a loop advance more than one in a slot would
        most = min(s + float(trochoid_advance(demand.radius, loops[-1].r, demand.stepover)), float(gone[-1]))
        low, high = s, most
        if engaged(loops[-1], at(high), demand.radius) > demand.stepover:
            for _ in range(_HALVINGS):
                middle = (low + high) / 2
                low, high = (
                    (low, middle) if engaged(loops[-1], at(middle), demand.radius) > demand.stepover else (middle, high)
                )
            high = max(low, s + _FINEST * demand.radius)
        s = high
        loops.append(at(s))
    return loops


def engaged(before: Loop, after: Loop, R: float) -> float:
    """The greatest stepover that the half ahead of a loop takes after the one before it [mm].

    The area a millimetre of way takes off: ``R * integral(n.u)`` over the front of the rim outside what is cleared.
    """
    psi = np.linspace(-np.pi / 2, np.pi / 2, _LOOKS)
    middle = after.places(after.r * np.cos(psi), after.r * np.sin(psi))
    heading = np.arctan2(after.along[1], after.along[0]) + psi + np.pi / 2
    phi = np.linspace(-np.pi / 2, np.pi / 2, _SAMPLES)
    rim = heading[:, None] + phi[None, :]
    x, y = middle[:, :1] + R * np.cos(rim), middle[:, 1:] + R * np.sin(rim)
    # what the loop before has cleared: its disc; behind it the floor is open as well
    ahead = (x - before.centre[0]) * before.along[0] + (y - before.centre[1]) * before.along[1]
    stands = (np.hypot(x - before.centre[0], y - before.centre[1]) > before.r + R) & (ahead > 0)
    return float((R * np.trapezoid(stands * np.cos(phi), phi, axis=1)).max())


def _turn(before: Loop, after: Loop, demand: Demand) -> list[Leg]:
    """From the end of one loop round the next: back to its near wall, on to the next, and half a circle through the material."""
    angle, r = np.linspace(-np.pi / 2, np.pi / 2, _CHORDS + 1), before.r
    front = after.places(after.r * np.cos(angle), after.r * np.sin(angle))
    cut = _at(np.vstack((before.places(np.zeros(1), np.array([-r])), front)), demand.floor)
    cut_leg = Leg("cut", cut, np.full(len(cut), demand.stepover))
    if demand.loop == "round":
        back = np.linspace(np.pi / 2, 3 * np.pi / 2, _CHORDS + 1)
        whole = _at(before.places(r * np.cos(back), r * np.sin(back)), demand.floor)
        return [Leg("link", whole, np.zeros(len(whole)), clear=True), cut_leg]
    rho = _BACK * r
    quarter = np.linspace(0.0, np.pi / 2, _QUARTER + 1)
    s = -rho * np.concatenate((np.sin(quarter), np.cos(quarter)))
    t = np.concatenate((r - rho + rho * np.cos(quarter), -(r - rho) - rho * np.sin(quarter)))
    # lifted on the first turn and let down on the last, so that nothing stops
    height = np.concatenate((quarter, quarter[::-1])) / (np.pi / 2) * demand.lift
    back_way = np.column_stack((before.places(s, t), demand.floor + height))
    return [Leg("link", back_way, np.zeros(len(back_way)), clear=True), cut_leg]


def _opened(loop: Loop, demand: Demand) -> list[Leg]:
    """The hole that loops begin in: a helix, and a spiral that widens it with the stepover held, to where the first way back begins."""
    R, r, orbit = demand.radius, loop.r, min(_ORBIT * demand.radius, loop.r)
    way = helix(demand, (float(loop.centre[0]), float(loop.centre[1])), orbit)
    legs = [Leg("entry", way, np.zeros(len(way)))]
    left = math.atan2(loop.along[1], loop.along[0]) + np.pi / 2
    angle, rho, radii, angles = math.atan2(*(way[-1, :2] - loop.centre)[::-1]), orbit, [orbit], []
    angles.append(angle)
    fine = 2 * np.pi / _CHORDS
    while rho < r * (1 - 1e-9):
        # inside a hole a step of s takes off s (rho + R - s/2) / rho
        rho, angle = min(rho + demand.stepover * rho / (rho + R) * fine / (2 * np.pi), r), angle + fine
        radii.append(rho)
        angles.append(angle)
    widened = len(radii) > 1
    # a whole turn at full width where there was a spiral, then on to the left of the axis
    on = (left - angle) % (2 * np.pi) + 2 * np.pi * widened
    last = angle + np.linspace(0.0, on, max(int(on / fine) + 2, 2))[1:]
    rho_all, angle_all = np.append(radii, np.full(len(last), r if widened else orbit)), np.append(angles, last)
    places = loop.centre + rho_all[:, None] * np.stack((np.cos(angle_all), np.sin(angle_all)), axis=1)
    points = _at(places, demand.floor)
    legs.append(Leg("cut" if widened else "entry", points, np.full(len(points), demand.stepover * widened)))
    return legs


def _at(places: Array, z: float) -> Array:
    return np.column_stack((places, np.full(len(places), z)))
