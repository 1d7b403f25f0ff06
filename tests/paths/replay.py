"""A way taken through its stock on a fine grid: what its cutting passes take, told apart from what the generator believed."""

from __future__ import annotations

import numpy as np
import shapely

from bench.paths import replayed
from lesna.geometry.region import Region
from lesna.paths.demand import Demand
from lesna.paths.way import Way
from lesna.physics import Array

_CUTTING = ("entry", "cut", "wall")


def taken(region: Region, way: Way, demand: Demand) -> tuple[Array, Array]:
    """Stepover over the wanted one and length of each step of cutting passes that take anything."""
    values, lengths, _ = replayed(region, way, demand.stepover)
    on = values > 0.05
    return values[on], lengths[on]


def swept(way: Way, radius: float):  # type: ignore[no-untyped-def]
    """What the cutter covers on its floor."""
    floor = min(float(leg.points[:, 2].min()) for leg in way.legs)
    lines = []
    for leg in way.legs:
        low = leg.points[leg.points[:, 2] < floor + 1e-6, :2]
        if leg.intent in _CUTTING and len(low) > 1 and np.ptp(low, axis=0).max() > 0:
            lines.append(shapely.LineString(low).buffer(radius, quad_segs=64))
    return shapely.union_all(lines)


def left_and_gouged(region: Region, way: Way, radius: float) -> tuple[float, float]:
    """Area that stays though the cutter reaches it, a border aside; and how far beyond walls it goes [mm2, mm]."""
    whole, covered = region.extended(10 * radius), swept(way, radius)
    reached = whole.buffer(-radius, quad_segs=64).buffer(radius - 0.05, quad_segs=64).intersection(region.cleared)
    beyond = shapely.get_coordinates(covered.difference(whole))
    gouge = float(shapely.distance(whole, shapely.points(beyond)).max()) if len(beyond) else 0.0
    return float(reached.difference(covered).area), gouge
