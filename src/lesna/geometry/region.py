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
#: the sides of a bounding box
_SIDES = ("x-", "x+", "y-", "y+")
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

    @property
    def is_closed(self) -> bool:
        """Whether the cutter must be let in from above."""
        return not self._is_open.any()

    def bounds(self, beyond: float) -> tuple[float, float, float, float]:
        """Left, lower, right and upper end, so much further out on open sides [mm].

        Parameters
        ----------
        beyond : float
            How far [mm].
        """
        left, low, right, high = self.floor.bounds
        out = [beyond * (side in self.open_sides) for side in ("x-", "y-", "x+", "y+")]
        return left - out[0], low - out[1], right + out[2], high + out[3]

    def extended(self, beyond: float) -> Polygon:
        """The floor and the air beyond its open sides [mm].

        Parameters
        ----------
        beyond : float
            How far out [mm].
        """
        import shapely

        left, low, right, high = self.floor.bounds
        a, b, c, d = self.bounds(beyond)
        air = {"x-": (a, b, left, d), "x+": (right, b, c, d), "y-": (a, b, c, low), "y+": (a, high, c, d)}
        return shapely.union_all([self.floor, *(shapely.box(*air[side]) for side in sorted(self.open_sides))])

    def outside(self, x: Array, y: Array) -> Array:
        """How far places lie beyond the open sides, negative before them; far before them where none is open [mm].

        Parameters
        ----------
        x, y : array
            Places; they are broadcast [mm].
        """
        left, low, right, high = self.floor.bounds
        over = {"x-": left - x, "x+": x - right, "y-": low - y, "y+": y - high}
        sides = [over[side] for side in sorted(self.open_sides)]
        if not sides:
            return np.full(np.broadcast_shapes(np.shape(x), np.shape(y)), -_FAR)
        sides = [np.broadcast_to(side, np.broadcast_shapes(np.shape(x), np.shape(y))) for side in sides]
        beyond = np.sqrt(sum(np.maximum(side, 0.0) ** 2 for side in sides))
        return np.where(beyond > 0, beyond, np.max(sides, axis=0))

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
