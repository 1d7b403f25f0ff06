"""A slot as an axis: where it runs, how wide it is, and which of its ends are open."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.physics import Array

#: a floor fills so much of the rectangle round it, if it is a slot
_FILLS = 0.85
#: an end is open if there is floor or air so far beyond it [mm]
_BEYOND = 0.5
#: its walls run so evenly: loops keep off them by twice as much [mm]
_EVEN = 0.01


@dataclass(frozen=True)
class Slot:
    """A straight slot.

    Attributes
    ----------
    start : array (2,)
        Middle of its first end, an open one where there is one [mm].
    along : array (2,)
        Direction to the other end [-].
    length, width : float
        Between its ends and between its walls [mm].
    opens : tuple of bool
        Whether the first and the last end are open.
    """

    start: Array
    along: Array
    length: float
    width: float
    opens: tuple[bool, bool]

    def places(self, s: Array, t: Array) -> Array:
        """Places so far along the axis and so far to its left (n, 2) [mm]."""
        across = np.array((-self.along[1], self.along[0]))
        return np.asarray(self.start + np.multiply.outer(s, self.along) + np.multiply.outer(t, across))


_NO_SLOT = "the floor is no straight slot; loops and a first slot need one, held engagement clears every shape"


def slot_of(region: Region) -> Slot:
    """The axis of a region.

    Parameters
    ----------
    region : Region
        A floor.

    Raises
    ------
    InputError
        When the floor is no straight slot.
    """
    floor = region.floor
    box = floor.minimum_rotated_rectangle
    if floor.interiors or floor.area < _FILLS * box.area:
        raise InputError(_NO_SLOT)
    corners = np.array(box.exterior.coords)[:4]
    if np.hypot(*(corners[1] - corners[0])) > np.hypot(*(corners[2] - corners[1])):
        corners = np.roll(corners, -1, axis=0)
    # the first chord is a short side now
    a, b = (corners[0] + corners[1]) / 2, (corners[2] + corners[3]) / 2
    length, width = float(np.hypot(*(b - a))), float(np.hypot(*(corners[1] - corners[0])))
    along = (b - a) / length
    opens = tuple(_is_open(region, end, way) for end, way in ((a, -along), (b, along)))
    if opens == (False, True):
        a, along, opens = b, -along, (True, False)
    slot = Slot(a, along, length, width, (opens[0], opens[1]))
    if not is_even(slot, floor):
        raise InputError(_NO_SLOT)
    sides = slot.places(np.full(2, length / 2), np.array((1.0, -1.0)) * (width / 2 + _BEYOND))
    if any(_holds(region, side) for side in sides):
        raise InputError("the floor is open along its side; a slot has a wall on either side")
    return slot


def is_even(slot: Slot, floor: Any) -> bool:
    """Whether it is as wide all the way between its ends, which may be round."""
    import shapely

    ends = np.array((min(slot.width, slot.length), max(2 * slot.length - slot.width, slot.length))) / 2
    half = slot.width / 2 - _EVEN
    corners = slot.places(ends[[0, 1, 1, 0]], half * np.array((1.0, 1.0, -1.0, -1.0)))
    return bool(floor.covers(shapely.MultiPoint(corners).convex_hull))


def _is_open(region: Region, end: Array, way: Array) -> bool:
    return _holds(region, end + _BEYOND * way)


def _holds(region: Region, place: Array) -> bool:
    import shapely

    return bool(shapely.contains_xy(region.extended(2 * _BEYOND), *place))
