"""What a level of a feature asks for: a floor to clear, walls that stop the cutter, and sides that are open."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from lesna.geometry.raster import within
from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.physics import Array, engine

if TYPE_CHECKING:
    from shapely import Polygon

#: a corner lies on a side of the bounding box when it is this near [mm]
_ON_SIDE = 1e-6
#: the sides of a bounding box
_SIDES = ("x-", "x+", "y-", "y+")
#: coordinates beyond this are no part [mm]
_FAR = 20_000.0
#: chords of the largest corner that is asked whether a cutter reaches into it, each quarter
_QUARTER = 32
#: halvings when the largest cutter that reaches into every corner is sought
_HALVINGS = 8
#: the cutter stays so far from what it keeps out of [mm]
_MARGIN = 1.0
#: walls go on beside open sides so far [mm]
_PROLONGED = 1000.0


@dataclass(frozen=True)
class Region:
    """A floor with walls round it, open on some sides.

    Attributes
    ----------
    floor : shapely.Polygon
        Area to be cleared, islands as its holes [mm].
    open_sides : frozenset of str
        Sides of its bounding box beyond which there is air: ``x-``, ``x+``, ``y-``, ``y+``.
    stock : shapely geometry or None
        Where there is material, also beyond open sides; None where it is everywhere but there [mm].
    keep_out : shapely geometry or None
        Where the cutter never goes, a margin round it included [mm].
    """

    floor: Polygon
    open_sides: frozenset[str] = frozenset()
    stock: Any = None
    keep_out: Any = None

    @cached_property
    def walls(self) -> Array:
        """Edges that stop the cutter (n, 4): both ends [mm]; beside open sides they go on straight, since what stands there is unknown."""
        whole = self.extended(_PROLONGED)
        rings = [ring for part in _parts(whole) for ring in (part.exterior, *part.interiors)]
        edges = np.concatenate([_edges_of(ring) for ring in rings])
        ends = dict(zip(("x-", "y-", "x+", "y+"), whole.bounds, strict=True))
        outer = np.zeros(len(edges), dtype=bool)
        for side in self.open_sides:
            across = edges[:, ::2] if side[0] == "x" else edges[:, 1::2]
            outer |= (np.abs(across - ends[side]) < _ON_SIDE).all(axis=1)
        return edges[~outer]

    @cached_property
    def cleared(self) -> Any:
        """What is to be cleared: the floor, and the stock beyond its open sides [mm]."""
        whole: Any = self.floor
        if self.stock is not None and self.open_sides:
            left, low, right, high = self.stock.bounds
            a, b, c, d = self.floor.bounds
            whole = whole.union(
                self._air(max(a - left, b - low, right - c, high - d, 0.0) + 1.0).intersection(self.stock)
            )
        return whole if self.keep_out is None else whole.difference(self.keep_out)

    @property
    def is_closed(self) -> bool:
        """Whether the cutter must be let in from above."""
        return not self._is_open.any()

    def bounds(self, beyond: float) -> tuple[float, float, float, float]:
        """Left, lower, right and upper end, so much further out than what is cleared on open sides [mm]."""
        left, low, right, high = self.cleared.bounds
        out = [beyond * (side in self.open_sides) for side in ("x-", "y-", "x+", "y+")]
        return left - out[0], low - out[1], right + out[2], high + out[3]

    def extended(self, beyond: float) -> Any:
        """Where the cutter may cut: the floor and the air beyond its open sides, so far beyond what is cleared [mm]."""
        a, b, c, d = self.bounds(beyond)
        left, low, right, high = self.floor.bounds
        whole = self.floor.union(self._air(max(left - a, low - b, c - right, d - high)))
        return whole if self.keep_out is None else whole.difference(self.keep_out)

    def _air(self, reach: float) -> Any:
        """What lies beyond the open sides of the bounding box, so far [mm]."""
        import shapely

        left, low, right, high = self.floor.bounds
        a, b, c, d = (end + way * reach * (side in self.open_sides)
                      for end, way, side in ((left, -1, "x-"), (low, -1, "y-"), (right, 1, "x+"), (high, 1, "y+")))  # fmt: skip
        air = {"x-": (a, b, left, d), "x+": (right, b, c, d), "y-": (a, b, c, low), "y+": (a, high, c, d)}
        return shapely.union_all([shapely.box(*air[side]) for side in sorted(self.open_sides)])

    def outside(self, x: Array, y: Array) -> Array:
        """How far the places of an even grid (rows, columns) lie from the material, negative in it; far in it where it is everywhere [mm].

        Parameters
        ----------
        x, y : array (columns,), (rows,)
            Its lines, at least two of each [mm].
        """
        if self.stock is not None:
            return self._from_stock(x, y)
        left, low, right, high = self.floor.bounds
        over = {"x-": left - x[None, :], "x+": x[None, :] - right, "y-": low - y[:, None], "y+": y[:, None] - high}
        sides = [np.broadcast_to(over[side], (len(y), len(x))) for side in sorted(self.open_sides)]
        if not sides:
            return np.full((len(y), len(x)), -_FAR)
        beyond = np.sqrt(sum(np.maximum(side, 0.0) ** 2 for side in sides))
        return np.where(beyond > 0, beyond, np.max(sides, axis=0))

    def _from_stock(self, x: Array, y: Array) -> Array:
        rings = [ring for part in _parts(self.stock) for ring in (part.exterior, *part.interiors)]
        away = np.full((len(y), len(x)), _FAR, dtype=np.float32)
        edges = np.concatenate([_edges_of(ring) for ring in rings])
        engine.kernel("wall_distance")(edges, float(x[0]), float(y[0]), float(x[1] - x[0]), away)
        return np.where(within(self.stock, x, y), -away, away)

    @cached_property
    def _edges(self) -> Array:
        return np.concatenate([_edges_of(ring) for ring in (self.floor.exterior, *self.floor.interiors)])

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

    def kept(self, radius: float) -> tuple[float, tuple[tuple[float, float], ...]]:
        """What a cutter leaves standing in inner corners: its area [mm2], and where [mm]."""
        whole = self.extended(3 * radius)
        reached = whole.buffer(-radius, quad_segs=_QUARTER).buffer(radius * (1 + 1e-3), quad_segs=_QUARTER)
        corners = [part for part in _parts(self.cleared.difference(reached)) if part.area > 1e-4 * radius**2]
        return sum(part.area for part in corners), tuple(part.centroid.coords[0] for part in corners)

    def reaching(self, radius: float) -> float:
        """The largest radius below a cutter's that leaves nothing in corners; 0 where they are sharp [mm]."""
        low, high = 0.0, radius
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (low, middle) if self.kept(middle)[1] else (middle, high)
        return low if low > radius / 2 ** (_HALVINGS - 1) else 0.0


def _edges_of(ring: Any) -> Array:
    corners = np.array(ring.coords)[:, :2]
    return np.hstack((corners[:-1], corners[1:]))


def _parts(shape: Any) -> list[Any]:
    return [part for part in getattr(shape, "geoms", [shape]) if part.geom_type == "Polygon" and not part.is_empty]


#: an inner corner rounder than this is round [mm]
_SHARP = 1e-6


def region_of(feature: Feature) -> Region:
    """The floor of a feature; without an outline it lies with its middle at the work zero.

    Parameters
    ----------
    feature : Feature
        A pocket, slot, shelf, face, through cut or profile.

    Raises
    ------
    InputError
        When it has no size, crosses itself, or an island does not lie in it.
    """
    import shapely

    if feature.drawn is not None and feature.drawn.trouble:
        raise InputError(feature.drawn.trouble, "feature.dxf")
    if feature.outline:
        outline = np.array(feature.outline, dtype=float)
        name = "feature.dxf" if feature.drawn is not None else "feature.profile_mm"
    elif feature.length_mm and feature.width_mm:
        x, y = feature.length_mm / 2, feature.width_mm / 2
        outline, name = np.array([(-x, -y), (x, -y), (x, y), (-x, y)]), "feature.length_mm"
        r = min(feature.corner_radius_mm or 0.0, x, y)
        if r > _SHARP and feature.kind == "pocket":
            outline = np.array(shapely.box(-x + r, -y + r, x - r, y - r).buffer(r, quad_segs=64).exterior.coords[:-1])
    else:
        raise InputError("needs a length and a width, or an outline", "feature")
    if np.abs(outline).max() > _FAR:
        raise InputError(f"has a coordinate beyond {_FAR:g} mm; move the part to its zero", name)
    floor = shapely.Polygon(outline)
    if not floor.is_valid:
        raise InputError(f"the outline crosses itself ({_reason(floor)})", name)
    for number, corners in enumerate(feature.islands):
        island = shapely.Polygon(corners)
        where = "feature.dxf" if feature.drawn is not None else f"feature.islands_mm[{number}]"
        if not island.is_valid:
            raise InputError(f"the outline crosses itself ({_reason(island)})", where)
        if not floor.contains(island):
            x, y = island.centroid.coords[0]
            raise InputError(f"island {number + 1} at x {x:.3f}, y {y:.3f} does not lie inside the outline", where)
        floor = floor.difference(island)
    if floor.geom_type != "Polygon":
        raise InputError("the islands part the floor; give each part as a feature of its own", where)
    region = Region(shapely.normalize(floor), _open_sides(feature))
    if feature.drawn is not None:
        region = _with_stock(region, feature)
    return region


def _with_stock(region: Region, feature: Feature) -> Region:
    """The region with stock and keep-out of its drawing."""
    import shapely

    drawn = feature.drawn
    assert drawn is not None  # asked only where one was read
    stock = shapely.union_all([shapely.Polygon(corners) for corners in drawn.stock]) if drawn.stock else None
    clamps = [shapely.Polygon(corners).buffer(_MARGIN) for corners in drawn.keep_out]
    keep_out = shapely.union_all(clamps) if clamps else None
    if stock is not None and stock.intersection(region.floor).is_empty:
        x, y = stock.representative_point().coords[0]
        raise InputError(f"the stock at x {x:.3f}, y {y:.3f} does not meet the part's outline", "feature.stock_layer")
    if keep_out is not None and keep_out.contains(region.floor):
        x, y = keep_out.representative_point().coords[0]
        raise InputError(f"the keep-out at x {x:.3f}, y {y:.3f} covers the whole floor", "feature.keep_out_layer")
    missing = sorted(region.open_sides - {region._side_of(*edge) for edge in region._edges.tolist()})
    if missing:
        raise InputError(f"the outline has no edge on the side {missing[0]}; its bounding box is met at a point only",
                         "feature.open_sides")  # fmt: skip
    return replace(region, stock=stock, keep_out=keep_out)


def _open_sides(feature: Feature) -> frozenset[str]:
    if feature.kind == "face":
        return frozenset(_SIDES)
    if feature.kind == "shelf":
        return frozenset(("x+", "y+"))
    if feature.kind == "slot" and not feature.closed:
        return frozenset(("x-", "x+"))
    return frozenset(feature.open_sides)


def _reason(shape: Polygon) -> str:
    import shapely

    return str(shapely.is_valid_reason(shape)).lower().replace("[", " at ").replace("]", "")
