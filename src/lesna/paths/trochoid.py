"""Trochoids along a slot: loops whose advance engages the cutter exactly as far as the stepover does, both ends clean."""

from __future__ import annotations

import math

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.paths.connected import connected
from lesna.paths.demand import Demand, Tell
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


def trochoid(region: Region, demand: Demand, tell: Tell | None = None) -> Way:
    """Clears a straight slot in loops; what they leave at its ends is taken with held engagement.

    Parameters
    ----------
    region : Region
        A slot.
    demand : Demand
        Cutter, stepover, heights and the shape of the loops.
    tell : callable or None
        Told (done, total) loops; may raise to stop [-].

    Raises
    ------
    InputError
        When it is no slot, or hardly wider than the cutter.
    """
    slot, R = slot_of(region), demand.radius
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
    last = slot.length + r if slot.opens[1] else slot.length - near
    legs = [] if slot.opens[0] else _opened(slot, demand, first, r)
    count = max(math.ceil((last - first) / float(trochoid_advance(R, r, demand.stepover)) - 1e-9), 0)
    advance = (last - first) / count if count else 0.0
    for number in range(count):
        if tell is not None and number % 16 == 0:
            tell(number, count)
        legs += _loop(slot, demand, first + number * advance, advance, r)
    return held_after(region, demand, connected(legs, demand.clear), tell)


def _loop(slot: Slot, demand: Demand, before: float, advance: float, r: float) -> list[Leg]:
    """From the end of one loop round the next: back to its near wall, a step on, and half a circle through the material."""
    angle = np.linspace(-np.pi / 2, np.pi / 2, _CHORDS + 1)
    front = slot.places(before + advance + r * np.cos(angle), r * np.sin(angle))
    step = slot.places(np.array([before]), np.array([-r]))
    cut = _at(np.vstack((step, front)), demand.floor)
    cut_leg = Leg("cut", cut, np.full(len(cut), demand.stepover))
    if demand.loop == "round":
        back = np.linspace(np.pi / 2, 3 * np.pi / 2, _CHORDS + 1)
        round_ = _at(slot.places(before + r * np.cos(back), r * np.sin(back)), demand.floor)
        return [Leg("link", round_, np.zeros(len(round_)), clear=True), cut_leg]
    rho = _BACK * r
    quarter = np.linspace(0.0, np.pi / 2, _QUARTER + 1)
    s = before - rho * np.concatenate((np.sin(quarter), np.cos(quarter)))
    t = np.concatenate((r - rho + rho * np.cos(quarter), -(r - rho) - rho * np.sin(quarter)))
    # lifted on the first turn and let down on the last, so that nothing stops
    height = np.concatenate((quarter, quarter[::-1])) / (np.pi / 2) * demand.lift
    back_way = np.column_stack((slot.places(s, t), demand.floor + height))
    return [Leg("link", back_way, np.zeros(len(back_way)), clear=True), cut_leg]


def _opened(slot: Slot, demand: Demand, at: float, r: float) -> list[Leg]:
    """The hole that loops begin in: a helix, and a spiral that widens it with the stepover held."""
    R, orbit = demand.radius, min(_ORBIT * demand.radius, r)
    centre = slot.places(np.array([at]), np.array([0.0]))[0]
    way = helix(demand, (float(centre[0]), float(centre[1])), orbit)
    legs = [Leg("entry", way, np.zeros(len(way)))]
    if r > orbit * (1 + 1e-9):
        angle, rho, places = 0.0, orbit, []
        fine = 2 * np.pi / _CHORDS
        while rho < r:
            # inside a hole a step of s takes off s (rho + R - s/2) / rho
            grows = demand.stepover * rho / (rho + R)
            rho, angle = min(rho + grows * fine / (2 * np.pi), r), angle + fine
            places.append((rho * math.cos(angle), rho * math.sin(angle)))
        last = angle + np.linspace(0.0, 2 * np.pi, 2 * _CHORDS + 1)[1:]
        spiral = centre + np.vstack((places, np.stack((r * np.cos(last), r * np.sin(last)), axis=1)))
        points = _at(np.vstack((way[-1:, :2], spiral)), demand.floor)
        legs.append(Leg("cut", points, np.full(len(points), demand.stepover)))
    else:
        angle_now = math.atan2(*(way[-1, :2] - centre)[::-1])
        # round to where the first loop's way back begins
        wanted = math.atan2(*(slot.places(np.array([at]), np.array([r]))[0] - centre)[::-1])
        turn = (wanted - angle_now) % (2 * np.pi)
        angle_on = angle_now + np.linspace(0.0, turn, _CHORDS)
        on = centre + orbit * np.stack((np.cos(angle_on), np.sin(angle_on)), axis=1)
        legs.append(Leg("entry", _at(on, demand.floor), np.zeros(len(on))))
    return legs


def _at(places: Array, z: float) -> Array:
    return np.column_stack((places, np.full(len(places), z)))
