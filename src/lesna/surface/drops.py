"""The part as a tool meets it from above: the exact drop of a cutter, a holder or a shank onto triangles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, engine
from lesna.surface.mesh import Ints, Mesh

#: what nothing holds up stands here [mm]
NOTHING = -1e9
#: slopes less than this are level, and faces steeper than this upright [-]
_LEVEL, _UPRIGHT = 1e-6, 1e6
#: the corner beyond an edge has to lie so much above a face for the edge to be hollow [mm]
_HOLLOW = 1e-7
#: sides of a small box [mm], and how many triangles should lie in it
_SIDES, _IN_A_BOX = (0.15, 0.75), 1.5
#: boxes at most; larger ones are taken for larger parts
_MOST_BOXES = 4_000_000
_FACE = 8
#: places that one core takes at a time
_AT_ONCE = 20_000


@dataclass(frozen=True)
class Shape:
    """A turned shape by its underside: flat to rm, then an arc of radius r until it rises by k, then a cone that goes on so, out to R.

    Attributes
    ----------
    rm, r : float
        Radius of the flat, and of the arc beyond it [mm]; a ball has rm 0, a flat end r 0.
    k : float
        Rise of the cone over its width [-]; 0 where the arc goes on to R.
    R : float
        Greatest radius [mm].
    """

    rm: float
    r: float
    k: float
    R: float

    @property
    def end(self) -> float:
        """Radius at which the arc ends [mm]."""
        return self.rm + (self.r * self.k / float(np.hypot(1.0, self.k)) if self.k > 0 else self.r)

    @property
    def slant(self) -> float:
        """Angle of the cone to the axis [rad], 0 without one."""
        return float(np.arctan2(1.0, self.k)) if self.k > 0 else 0.0

    def lifts(self, slope: Array) -> Array:
        """How much higher the tip stands than a plane at the axis, by the slope of the plane [mm]."""
        # r sin s m - r (1 - cos s) is r (sec s - 1)
        on_arc = slope * self.rm + self.r * (np.sqrt(1.0 + slope * slope) - 1.0)
        if self.k <= 0:
            return on_arc
        top = self.r * (1.0 - 1.0 / float(np.hypot(1.0, self.k))) + (self.R - self.end) * self.k
        return np.where(slope <= self.k, on_arc, slope * self.R - top)

    def offsets(self, slope: Array) -> Array:
        """How far uphill of its axis it touches a plane, by the slope of that [mm]; 0 on level ones, which it touches all over."""
        far = self.rm + self.r * slope / np.sqrt(1.0 + slope * slope)
        if self.k > 0:
            far = np.where(slope <= self.k, far, self.R)
        return np.where(slope > 0, far, 0.0)


def rounded(diameter: float, corner: float) -> Shape:
    """A square, corner-radius or ball end [mm]."""
    R = diameter / 2
    return Shape(max(R - corner, 0.0), min(corner, R), 0.0, R)


def tapered(diameter: float, half_angle: float, widest: float) -> Shape:
    """A ball that goes over into a cone, as wide as its shank [mm], [deg]."""
    return Shape(0.0, diameter / 2, float(1.0 / np.tan(np.radians(half_angle))), max(widest, diameter) / 2)


def frustum(low: float, high: float, height: float) -> Shape:
    """A cone from one radius to a larger one over a height; one that narrows, or none, is the disc of its lower end [mm]."""
    if high <= low + 1e-9 or height <= 0:
        return Shape(low, 0.0, 0.0, low)
    return Shape(low, 0.0, height / (high - low), high)


@dataclass(frozen=True)
class Drops:
    """Tips over places.

    Attributes
    ----------
    z : array (n,)
        Lowest tip [mm]; `NOTHING` where nothing holds it.
    held : array (n,) of int
        The triangle that holds it, -1: none.
    contact : array (n, 3)
        Where it touches [mm].
    """

    z: Array
    held: Ints
    contact: Array


class Ground:
    """A part that shapes are dropped on.

    Parameters
    ----------
    mesh : Mesh
        The part.
    """

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        t = mesh.triangles
        up = mesh.normals[:, 2]
        slope = np.hypot(mesh.normals[:, 0], mesh.normals[:, 1]) / np.maximum(up, 1e-300)
        has_face = (up > 0) & (slope < _UPRIGHT)
        bits = _edges(mesh, has_face) | np.where(has_face, _FACE, 0)
        rows = np.zeros((len(t), 15))
        rows[:, :9] = t.reshape(-1, 9)
        with np.errstate(divide="ignore", invalid="ignore"):
            p = np.where(has_face, -mesh.normals[:, 0] / up, 0.0)
            q = np.where(has_face, -mesh.normals[:, 1] / up, 0.0)
        # through the highest corner: steep planes lose least there
        top = np.take_along_axis(t, t[:, :, 2].argmax(axis=1)[:, None, None], axis=1)[:, 0]
        rows[:, 9], rows[:, 10] = p, q
        rows[:, 11] = top[:, 2] - p * top[:, 0] - q * top[:, 1]
        tilted = has_face & (slope > _LEVEL)
        steep = np.where(tilted, slope, 0.0)
        rows[tilted, 12], rows[tilted, 13] = p[tilted] / slope[tilted], q[tilted] / slope[tilted]
        rows[:, 14] = steep
        self._slope = steep
        listed = bits != 0
        low, high = (value[:2] for value in mesh.box)
        flat = mesh.areas * np.maximum(up, 0.0)
        size = float(np.sqrt(_IN_A_BOX * max(flat[listed].sum(), 1e-9) / max(listed.sum(), 1)))
        size = float(np.clip(size, *_SIDES))
        size = max(size, float(np.sqrt(np.prod(np.maximum(high - low, size)) / _MOST_BOXES)))
        nx, ny = (int((high[axis] - low[axis]) / size) + 1 for axis in range(2))
        dims = [nx, ny]
        for step in (4, 16):
            dims += [-(-nx // step), -(-ny // step)]
        self._origin = np.array((low[0], low[1], size))
        start, items, *boxes = engine.kernel("surface_boxes")(rows, bits, np.array(dims, np.int64), self._origin)
        begins = np.cumsum([0, *(len(box) for box in boxes[:-1])])
        self._part = (rows, bits, start, items, np.concatenate(boxes), np.array((*dims, *begins), np.int64))
        self._under: dict[Shape, Any] = {}

    def under(self, shape: Shape) -> Any:
        """The part under a shape as the kernels have it (see `physics.compiled.surface_drop.UNDER`)."""
        if shape not in self._under:
            rows, bits, start, items, boxes, dims = self._part
            lift = np.where(bits & _FACE, shape.lifts(self._slope), 0.0)
            rows = np.column_stack((rows, lift, shape.offsets(self._slope)))
            boxes = np.column_stack((boxes, shape.lifts(np.hypot(boxes[:, 0], boxes[:, 1]))))
            frame = np.array((*self._origin, shape.rm, shape.r, shape.k, shape.R))
            self._under[shape] = (rows, bits, start, items, boxes, dims, frame)
        return self._under[shape]

    def drop(self, shape: Shape, places: Array, floor: Array | float = NOTHING) -> Drops:
        """The lowest tips of a shape.

        Parameters
        ----------
        shape : Shape
            What comes down.
        places : array (n, 2)
            Where its axis stands [mm].
        floor : array (n,) or float
            Tips are not lower than this [mm].
        """
        n = len(places)
        z = np.full(n, floor, dtype=float) if np.isscalar(floor) else np.array(floor, dtype=float)
        held, contact = np.full(n, -1, np.int64), np.zeros((n, 3))
        engine.kernel("surface_drops")(*self.under(shape), np.ascontiguousarray(places), z, held, contact)
        return Drops(z, held, contact)

    def drop_on_cores(self, shape: Shape, places: Array) -> Drops:
        """The same as `drop` for many places, on two cores."""
        self.under(shape)
        parts = [places[first : first + _AT_ONCE] for first in range(0, len(places), _AT_ONCE)]
        found = engine.shared(lambda some: self.drop(shape, some), parts, lambda done: None)
        return Drops(*(np.concatenate([getattr(one, name) for one in found]) for name in ("z", "held", "contact")))


def _edges(mesh: Mesh, has_face: NDArray[np.bool_]) -> Ints:
    """Bits 0 to 2: edges of each triangle that may hold a shape; each is asked of one triangle alone."""
    m = len(mesh)
    other = mesh.neighbours
    beyond = np.maximum(other, 0)
    t = mesh.triangles
    # the corner of the other triangle that is not on the edge, over this one's plane
    a, b = mesh.corners, np.roll(mesh.corners, -1, axis=1)
    theirs = mesh.corners[beyond]
    is_far = (theirs != a[:, :, None]) & (theirs != b[:, :, None])
    far = mesh.points[np.take_along_axis(theirs, is_far.argmax(axis=2)[:, :, None], axis=2)[:, :, 0]]
    height = ((far - t) * mesh.normals[:, None, :]).sum(axis=2)
    holds = (other < 0) | (height < _HOLLOW)
    mine, its = has_face[:, None], has_face[beyond]
    number = np.arange(m)[:, None]
    looks_up = mesh.normals[:, 2] > -1e-6
    is_owner = (other < 0) | (mine & ~its) | ((mine == its) & (number < beyond))
    # between two upright faces only what ends above counts, and that is an edge of a face that looks up
    wanted = holds & is_owner & (mine | (other < 0)) & looks_up[:, None]
    return (wanted * np.array((1, 2, 4))).sum(axis=1).astype(np.int64)
