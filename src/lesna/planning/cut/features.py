"""What a feature asks for: material to remove, room for the cutter, reach, walls."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.planning.cut.levels import depth_of


@dataclass(frozen=True)
class Solid:
    """The material of a feature once stock to leave is taken off (lengths in mm, area in mm2).

    Attributes
    ----------
    kind : str
        Kind of the feature.
    length, width, depth : float
        Of the box around what is removed.
    area : float
        Seen from above.
    wall : float
        Length of the walls that are cut.
    largest_cutter : float
        Diameter of the largest disc that fits; infinite where the feature is open.
    smallest_radius : float
        Smallest inner radius; 0 where none is named.
    is_closed : bool
        Whether the cutter has to enter from above.
    """

    kind: str
    length: float
    width: float
    depth: float
    area: float
    wall: float
    largest_cutter: float
    smallest_radius: float
    is_closed: bool

    @cached_property
    def volume(self) -> float:
        """Material to remove [cm3]."""
        return self.area * self.depth / 1000.0


def volume(feature: Feature | None) -> float | None:
    """Material to remove [cm3], None where a dimension is missing."""
    solid = solid_of(feature)
    return None if solid is None else solid.volume


#: height of cusps where a surface names none [mm]
_CUSP = 0.02


def cusp_kept(feature: Feature) -> float:
    """Height of the cusps that a surface may keep [mm]."""
    return _CUSP if feature.cusp_um is None else feature.cusp_um / 1000.0


def solid_of(feature: Feature | None) -> Solid | None:
    """The solid of a feature, None where a dimension is missing.

    Pockets lose what their inner corners leave standing: ``(4 - pi) r^2`` over the depth.

    Parameters
    ----------
    feature : Feature or None
        As the document describes it.

    Raises
    ------
    InputError
        When stock or corners leave nothing to cut, an outline crosses itself, or an island lies outside.
    """
    # a part of triangles is as deep as the skin that lies on it
    if feature is None or (feature.depth_mm is None and feature.stl is None):
        return None
    depth = depth_of(feature)
    if depth is None:
        raise InputError(
            f"must be below the depth of {units.LENGTH.mark(feature.depth_mm or 0.0)}, or nothing is left to cut",
            "feature.stock_floor_mm",
        )
    if feature.outline or feature.islands:
        return _of_outlines(feature, depth)
    length, width = feature.length_mm, feature.width_mm
    if feature.kind == "chamfer" and width is None:
        width = depth  # of 45 deg
    if length is None or width is None:
        return None
    stock, corner = feature.stock_wall_mm, feature.corner_radius_mm or 0.0
    if feature.is_enclosed and feature.kind != "slot":
        length, width = length - 2 * stock, width - 2 * stock
        if corner - stock > min(length, width) / 2 > 0:
            most = units.LENGTH.mark(min(length, width) / 2 + stock)
            raise InputError(
                f"must be at most half of the narrower side, {most}, got {units.LENGTH.mark(corner)}",
                "feature.corner_radius_mm",
            )
        inner = max(corner - stock, 0.0)
        area, wall = length * width - (4 - math.pi) * inner**2, 2 * (length + width) - (8 - 2 * math.pi) * inner
        room, radius, is_closed = min(length, width), inner, True
    elif feature.kind == "slot":
        width -= 2 * stock
        area, wall, room, radius, is_closed = length * width, 2 * length, width, width / 2, bool(feature.closed)
    elif feature.kind == "chamfer":
        # a prism of three sides
        area, wall, room, radius, is_closed = length * width / 2, length, math.inf, 0.0, False
    else:
        width -= stock if feature.kind == "shelf" else 0.0
        area, wall, room, radius, is_closed = length * width, length, math.inf, corner, False
    if length <= 0 or width <= 0:
        raise InputError("leaves nothing to cut between the walls", "feature.stock_wall_mm")
    return Solid(feature.kind, length, width, depth, area, wall, room, radius, is_closed)


def _of_outlines(feature: Feature, depth: float) -> Solid | None:
    from shapely import maximum_inscribed_circle
    from shapely.geometry import MultiPolygon, Polygon, box

    if feature.outline:
        outline: Any = Polygon(feature.outline)
    elif feature.length_mm is not None and feature.width_mm is not None:
        x, y = feature.length_mm / 2, feature.width_mm / 2
        outline = box(-x, -y, x, y)
    else:
        return None
    if not outline.is_valid:
        raise InputError("crosses itself; the corners must run round the outline in order", "feature.profile_mm")
    left = outline
    for number, corners in enumerate(feature.islands):
        island = Polygon(corners)
        if not island.is_valid or not outline.contains(island):
            at_x, at_y = (units.LENGTH.mark(value) for value in island.centroid.coords[0])
            where = "feature.dxf" if feature.drawn is not None else f"feature.islands_mm[{number}]"
            raise InputError(
                f"island {number + 1} at x {at_x}, y {at_y} must lie inside the outline and not cross itself", where
            )
        left = left.difference(island)
    corner = max((feature.corner_radius_mm or 0.0) - feature.stock_wall_mm, 0.0)
    # inset for the stock, then rounded inside as a cutter of the corner radius leaves it
    left = left.buffer(-feature.stock_wall_mm - corner).buffer(corner)
    if left.is_empty:
        raise InputError("leaves nothing to cut between the walls", "feature.stock_wall_mm")
    parts = left.geoms if isinstance(left, MultiPolygon) else (left,)
    room = max(2.0 * float(maximum_inscribed_circle(part).length) for part in parts)
    low_x, low_y, high_x, high_y = left.bounds
    sides = sorted((high_x - low_x, high_y - low_y))
    is_closed = feature.is_enclosed
    return Solid(feature.kind, sides[1], sides[0], depth, float(left.area), float(left.length),
                 room if is_closed else math.inf, corner, is_closed)  # fmt: skip
