"""Passes in a given order, each led into from what is cleared, with the shortest safe link between them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import islice
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.model.work import STEADY, Pulse
from lesna.paths.beside import begun_in_long_chords, is_closed
from lesna.paths.connected import connected
from lesna.paths.demand import Demand
from lesna.paths.entry import along
from lesna.paths.leads import led
from lesna.paths.way import Intent, Leg, Way
from lesna.physics import Array

#: a cutter may brush what stands by this [mm]
_BRUSH = 0.03
#: arcs lead in over this much more than a stepover [mm]
_MORE = 0.1
#: chords of a cleared edge, each quarter
_QUARTER = 32
#: what is cleared is kept to within this [mm]
_FINE = 1e-3
#: looks at a pass each radius, so far out to its left over the radius
_LOOKS, _SIDE = 4.0, 0.9
#: a place is asked about as a way so short [mm]
_HAIR = 1e-3
#: with less of it cleared on its left a pass is a slot that opens the floor
_OPENED = 0.6


class Cleared:
    """Where nothing stands on a level as passes go on, and where the middle of the cutter may therefore go."""

    def __init__(self, region: Region, demand: Demand) -> None:
        import shapely

        self.R = demand.radius
        whole = region.extended(10 * self.R)
        self.inside = whole.buffer(-self.R - demand.wall + _BRUSH / 2, quad_segs=_QUARTER)
        self.air = self._round(region, whole)
        for way in demand.cut:
            self.take(way)
        shapely.prepare(self.inside)

    @staticmethod
    def _round(region: Region, whole: Any) -> Any:
        """Air beyond open sides."""
        material = region.cleared if region.stock is None else region.cleared.intersection(region.stock)
        return whole.difference(material)

    def take(self, way: Array) -> None:
        """A pass has been cut."""
        import shapely

        if len(way) > 1:
            swept = shapely.LineString(way).simplify(_FINE).buffer(self.R + _FINE, quad_segs=_QUARTER)
            self.air = self.air.union(swept)
            shapely.prepare(self.air)

    def share_on_left(self, way: Array) -> float:
        """Share of a way that has cleared floor on its left, so that only its right side cuts [-]."""
        import shapely

        length = np.append(0.0, np.cumsum(np.hypot(*np.diff(way, axis=0).T)))
        at = np.linspace(0.0, length[-1], max(int(length[-1] / self.R * _LOOKS), 3))
        places = np.stack([np.interp(at, length, way[:, axis]) for axis in (0, 1)], axis=1)
        along = np.diff(places, axis=0)
        left = np.stack((-along[:, 1], along[:, 0]), axis=1) / np.maximum(np.hypot(*along.T), 1e-12)[:, None]
        return float(shapely.contains_xy(self.air, *((places[:-1] + places[1:]) / 2 + self.R * _SIDE * left).T).mean())

    def keeps_in(self, way: Array) -> bool:
        """Whether the middle of the cutter keeps from the walls on a way."""
        import shapely

        return bool(self.inside.covers(shapely.LineString(way)))

    def may_lead(self, arc: Array) -> bool:
        """Whether an arc that ends away from its pass ends where nothing stands, and keeps from the walls."""
        return self.keeps_in(arc) and self.may_go(np.vstack((arc[-1], arc[-1] + _HAIR)))

    def may_go(self, way: Array) -> bool:
        """Whether the cutter goes a way without meeting what stands, a brush aside."""
        import shapely

        line = shapely.LineString(way)
        if not self.inside.covers(line):
            return False
        return bool(self.air.covers(line.buffer(self.R - _BRUSH, quad_segs=_QUARTER)))


def _led_in(way: Array, radius: float, cleared: Cleared) -> Array:
    """A pass with arcs into it and out of it; a closed one begins in a long chord beside what is cleared, where there is one."""
    out = led(way, radius, cleared.may_lead)
    if len(out) > len(way) or not is_closed(way):
        return out
    for turned in islice(begun_in_long_chords(way), 1, None):
        other = led(turned, radius, cleared.may_lead)
        if len(other) > len(turned):
            return other
    return out


def linked(
    region: Region, demand: Demand, passes: Sequence[tuple[Intent, Array]], pulse: Pulse = STEADY,
    before: Iterable[Leg] = (),
) -> Way:  # fmt: skip
    """A way through passes."""
    legs = list(before)
    cleared = Cleared(region, demand)
    for leg in legs:
        cleared.take(leg.points[:, :2])
    for number, (intent, way) in enumerate(passes):
        pulse.tell(number, len(passes))
        if intent == "cut" and cleared.share_on_left(way) < _OPENED:
            intent = "entry"
        if intent == "cut":
            way = _led_in(way, demand.stepover + _MORE, cleared)
        here = legs[-1].points[-1] if legs else None
        if (
            intent == "entry"
            and here is not None
            and here[2] == demand.floor
            and cleared.keeps_in(np.vstack((here[:2], way[:1])))
        ):
            # it is let in already: a slot leads on from there
            way = np.vstack((here[:2], way))
        points = np.column_stack((way, np.full(len(way), demand.floor)))
        if intent == "entry" and not cleared.may_go(np.vstack((way[0], way[0] + _HAIR))):
            points = along(demand, way)
        if here is not None and points[0, 2] == demand.floor and cleared.may_go(np.vstack((here[:2], way[:1]))):
            lifted = np.vstack((here, here, points[:1], points[:1]))
            lifted[1:3, 2] = demand.floor + demand.lift
            legs.append(Leg("link", lifted, np.zeros(len(lifted))))
        legs.append(Leg(intent, points, np.zeros(len(points))))
        cleared.take(way)
    return connected(legs, demand.clear)
