"""What a level of a feature asks for: a floor to clear, walls that stop the cutter, and sides that are open."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.physics import Array

if TYPE_CHECKING:
    from shapely import Polygon

#: a corner lies on a side of the bounding box when it is this near [mm]
_ON_SIDE = 1e-6
#: the sides of a bounding box: axis, sign
_SIDES = {"x-": (0, -1), "x+": (0, 1), "y-": (1, -1), "y+": (1, 1)}
#: coordinates beyond this are no part [mm]
_FAR = 20_000.0


@dataclass(frozen=True)
class Region:
    """A floor with walls round it, open on some sides.

    Attributes
    ----------
    floor : shapely.Polygon
        Area to be cleared, islands as its holes [mm].
    open_sides : frozenset of str
        Sides of its bounding box beyond which there is air: ``x-``, ``x+``, ``y-``, ``y+``.
    """

    floor: Polygon
    open_sides: frozenset[str] = frozenset()

    @cached_property
    def walls(self) -> Array:
        """Edges that stop the cutter (n, 4): both ends [mm]."""
        return self._edges[~self._is_open]

    @cached_property
    def open_edges(self) -> Array:
        """Edges with air behind them (n, 4): both ends [mm]."""
        return self._edges[self._is_open]

    @property
    def is_closed(self) -> bool:
        """Whether the cutter must be let in from above."""
        return not self._is_open.any()

    def reached(self, beyond: float) -> Polygon:
        """The floor and what lies beyond its open sides, as far out as is asked for [mm].

        Parameters
        ----------
        beyond : float
            How far [mm].
        """
        import shapely

        parts = [self.floor]
        left, low, right, high = self.floor.bounds
        for ax, ay, bx, by in self.open_edges.tolist():
            (axis, sign) = _SIDES[self._side_of(ax, ay, bx, by)]
            shift = np.zeros(2)
            shift[axis] = sign * beyond
            parts.append(
                shapely.Polygon([(ax, ay), (bx, by), (bx + shift[0], by + shift[1]), (ax + shift[0], ay + shift[1])])
            )
        for x, side_x, out in ((left, "x-", -beyond), (right, "x+", beyond)):
            for y, side_y, up in ((low, "y-", -beyond), (high, "y+", beyond)):
                if {side_x, side_y} <= self.open_sides and self.floor.intersects(shapely.Point(x, y)):
                    parts.append(shapely.box(min(x, x + out), min(y, y + up), max(x, x + out), max(y, y + up)))
        whole = shapely.union_all([shapely.set_precision(part, 1e-7) for part in parts])
        return whole if whole.geom_type == "Polygon" else max(whole.geoms, key=lambda part: float(part.area))

    @cached_property
    def _edges(self) -> Array:
        rings = [self.floor.exterior, *self.floor.interiors]
        return np.concatenate([np.hstack((c[:-1], c[1:])) for c in (np.array(ring.coords)[:, :2] for ring in rings)])

    @cached_property
    def _is_open(self) -> Array:
        return np.array([self._side_of(*edge) in self.open_sides for edge in self._edges.tolist()], dtype=bool)

    def _side_of(self, ax: float, ay: float, bx: float, by: float) -> str:
        left, low, right, high = self.floor.bounds
        for name, value, a, b in (
            ("x-", left, ax, bx),
            ("x+", right, ax, bx),
            ("y-", low, ay, by),
            ("y+", high, ay, by),
        ):
            if abs(a - value) < _ON_SIDE and abs(b - value) < _ON_SIDE:
                return name
        return ""


def region_of(feature: Feature) -> Region:
    """The floor of a feature; without an outline it lies with its middle at the work zero.

    Parameters
    ----------
    feature : Feature
        A pocket, slot, shelf, face or through cut.

    Raises
    ------
    InputError
        When it has no size, crosses itself, or an island does not lie in it.
    """
    import shapely

    if feature.profile_mm:
        outline = np.array(feature.profile_mm, dtype=float)
        name = "profile_mm"
    elif feature.length_mm and feature.width_mm:
        x, y = feature.length_mm / 2, feature.width_mm / 2
        outline, name = np.array([(-x, -y), (x, -y), (x, y), (-x, y)]), "length_mm"
        if feature.corner_radius_mm and feature.kind == "pocket":
            r = min(feature.corner_radius_mm, x, y)
            outline = np.array(shapely.box(-x + r, -y + r, x - r, y - r).buffer(r, quad_segs=64).exterior.coords[:-1])
    else:
        raise InputError("needs a length and a width, or an outline", "feature")
    if np.abs(outline).max() > _FAR:
        raise InputError(f"has a coordinate beyond {_FAR:g} mm; move the part to its zero", name)
    floor = shapely.Polygon(outline)
    if not floor.is_valid:
        raise InputError(f"the outline crosses itself ({_reason(floor)})", name)
    for number, corners in enumerate(feature.islands_mm):
        island = shapely.Polygon(corners)
        if not island.is_valid:
            raise InputError(f"the outline crosses itself ({_reason(island)})", f"islands_mm[{number}]")
        if not floor.contains(island):
            x, y = island.centroid.coords[0]
            raise InputError(
                f"island {number + 1} at x {x:.3f}, y {y:.3f} does not lie inside the outline", f"islands_mm[{number}]"
            )
        floor = floor.difference(island)
    if floor.geom_type != "Polygon":
        raise InputError("the islands part the floor; give each part as a feature of its own", "islands_mm")
    return Region(shapely.normalize(floor), _open_sides(feature))


def _open_sides(feature: Feature) -> frozenset[str]:
    if feature.kind == "face":
        return frozenset(_SIDES)
    if feature.kind == "shelf":
        return frozenset(("x+", "y+"))
    if feature.kind == "slot" and not feature.closed:
        return frozenset(("x-", "x+"))
    return frozenset()


def _reason(shape: Polygon) -> str:
    import shapely

    return str(shapely.is_valid_reason(shape)).lower().replace("[", " at ").replace("]", "")
