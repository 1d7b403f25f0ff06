"""What helps against thin webs: containing the passes, parting a rectangle, or a slot first; and where each of them applies."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.controlled import controlled
from lesna.paths.demand import Demand
from lesna.paths.level import SKIN
from lesna.paths.slots import slot_of
from lesna.paths.way import Leg, Way
from lesna.planning.routes.wish import Remedy

#: a floor fills so much of the box round it, if it is a rectangle
_FILLS = 0.97
#: a rectangle so much longer than wide is parted
_LONG = 1.4
#: width of what is kept for a single pass over the cutter's diameter
_KEPT = 0.6
#: a single pass takes so much more than what is kept, over the radius, for the skins that passes round it leave
_SURE = 0.02
#: parts of a rectangle meet so far past where they were parted [mm]
_OVERLAP = 0.05
#: how far a single pass runs past what is kept, over the radius
_PAST = 1.3


@dataclass(frozen=True)
class Offer:
    """Something that helps against webs here.

    Attributes
    ----------
    id : str
        The remedy.
    says : str
        What it does, in a sentence.
    """

    id: Remedy
    says: str


def offers_for(region: Region, demand: Demand) -> tuple[Offer, ...]:
    """The remedies that apply to a floor."""
    out = []
    length, width = _sides(region)
    if (
        _is_box(region)
        and width > 2 * demand.radius * (1 + _KEPT)
        and (not region.is_closed or width > 6 * demand.radius)
    ):
        out.append(Offer("contain", "keep a strip in the middle standing, and face it in one pass at the end"))
    if _is_box(region) and length > _LONG * width:
        out.append(Offer("split", f"part it into {_count(length, width)} nearly square parts, one after the other"))
    try:
        slot = slot_of(region)
    except InputError:
        slot = None
    if slot is not None and slot.width >= 2 * demand.radius:
        out.append(Offer("slot", "a slot along its middle first, then its walls to and fro"))
    return tuple(out)


def contained(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """A strip in the middle stands until the rest is gone; a single pass takes it."""
    import shapely

    length, width = _sides(region)
    R, kept = demand.radius, _KEPT * 2 * demand.radius
    if not _is_box(region) or width <= kept + 2 * R:
        raise InputError(
            "passes are contained only in a rectangle wider than the cutter and a strip beside it", "remedy"
        )
    left, low, right, high = region.floor.bounds
    middle, half = np.array(((left + right) / 2, (low + high) / 2)), max((length - width + kept) / 2, kept / 2)
    along = np.array((1.0, 0.0)) if right - left >= high - low else np.array((0.0, 1.0))
    across = np.array((-along[1], along[0]))
    corners = [middle + s * half * along + t * kept / 2 * across for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    # what stands is a rounded strip: round it passes go on without a corner
    strip = shapely.Polygon(corners).buffer(-kept / 4).buffer(kept / 4, quad_segs=32)
    held = controlled(replace(region, floor=region.floor.difference(strip)), demand, pulse)
    # the cutter stands off the strip's left side so that its right edge passes the other side
    aside = R - kept / 2 - SKIN - _SURE * R
    reach = half + _PAST * R
    ends = np.array([middle + s * reach * along + aside * across for s in (-1.0, 1.0)])
    ends = _within(ends, region, demand)
    last = np.column_stack((ends, np.full(2, demand.floor)))
    return connected((*held.legs, Leg("cut", last, np.full(2, kept))), demand.clear)


def parted(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Nearly square parts, each cut from the one before it."""
    legs: list[Leg] = []
    for part in _parts_of(region):
        legs += [leg for leg in controlled(part, demand, pulse).legs if leg.intent != "retract"]
    return connected(legs, demand.clear)


def _parts_of(region: Region) -> list[Region]:
    import shapely

    length, width = _sides(region)
    if not _is_box(region) or length <= _LONG * width:
        raise InputError("only a rectangle much longer than wide is parted", "remedy")
    left, low, right, high = region.floor.bounds
    count, flat = _count(length, width), right - left >= high - low
    first, last = ("x-", "x+") if flat else ("y-", "y+")
    # from an open end on, where there is one
    backwards = last in region.open_sides and first not in region.open_sides
    out = []
    for number in range(count):
        k = count - 1 - number if backwards else number
        a, b = k / count, (k + 1) / count
        before, after = (b, a) if backwards else (a, b)
        overlap = _OVERLAP / length * (1 if after > before else -1)
        begin, end = before - (overlap if number else 0.0), after
        ends = sorted((begin, end))
        box = (
            shapely.box(left + ends[0] * length, low, left + ends[1] * length, high) if flat
            else shapely.box(left, low + ends[0] * length, right, low + ends[1] * length)
        )  # fmt: skip
        sides = set(region.open_sides) - {first, last}
        if number or (last if backwards else first) in region.open_sides:
            sides.add(last if backwards else first)
        if number == count - 1 and (first if backwards else last) in region.open_sides:
            sides.add(first if backwards else last)
        out.append(Region(_largest(region.floor.intersection(box)), frozenset(sides)))
    return out


def _largest(shape: Any) -> Any:
    return max(getattr(shape, "geoms", [shape]), key=lambda part: part.area)


def _within(ends: Any, region: Region, demand: Demand) -> Any:
    """Ends of a pass, drawn in to where the middle may be."""
    import shapely

    inside = region.extended(4 * demand.radius).buffer(-demand.radius - demand.wall - SKIN)
    kept = shapely.LineString(ends).intersection(inside)
    kept = _longest(kept)
    return np.array(kept.coords)[[0, -1]]


def _longest(line: Any) -> Any:
    return max(getattr(line, "geoms", [line]), key=lambda part: part.length)


def _sides(region: Region) -> tuple[float, float]:
    left, low, right, high = region.floor.bounds
    return max(right - left, high - low), min(right - left, high - low)


def _count(length: float, width: float) -> int:
    return max(math.floor(length / width + 0.5), 2)


def _is_box(region: Region) -> bool:
    length, width = _sides(region)
    plain = region.stock is None and region.keep_out is None and not region.floor.interiors
    return plain and region.floor.area > _FILLS * length * width
