"""The tool over a grid of places: how low it comes, what it touches, which rule each place falls under, and where it may go."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.model.errors import InputError
from lesna.physics import Array
from lesna.surface.drops import NOTHING, Drops, Ground, Shape
from lesna.surface.faces import Faces
from lesna.surface.mesh import Ints

#: distance of the nodes [mm], and most of them: larger parts take a wider grid
PITCH, _MOST = 0.4, 4_000_000
#: a contact belongs to a triangle where the tool's normal is that of the triangle within this [rad]
_AGREES = np.radians(12.0)
#: a face counts as cut in two where both its sides hold more than this share of it [-]
_BOTH = 0.05

Mask = NDArray[np.bool_]


def tool_normals(shape: Shape, places: Array, drops: Drops) -> Array:
    """Normal of the tool where it touches (n, 3), out of the part."""
    out = places - drops.contact[:, :2]
    d = np.linalg.norm(out, axis=1)
    w = (d - shape.rm) / shape.r if shape.r > 0 else (d > shape.rm * (1 - 1e-9)).astype(float)
    w = np.clip(w, 0.0, np.cos(shape.slant))
    level = np.where(d[:, None] > 1e-9, out / np.maximum(d, 1e-9)[:, None], 0.0)
    return np.column_stack((level * w[:, None], np.sqrt(1.0 - w * w)))


def sides_of(faces: Faces, threshold: float | None) -> tuple[Mask, Ints]:
    """Which triangles are steep, and the faces that the angle cuts in two; whole faces go to the side that holds more of them."""
    if threshold is None:
        return np.zeros(len(faces.mesh), bool), np.zeros(0, np.int64)
    up = faces.of >= 0
    own = np.degrees(faces.mesh.slopes) > threshold
    areas = faces.mesh.areas
    steep = np.bincount(faces.of[up], areas[up] * own[up], faces.count)
    share = steep / np.maximum(faces.areas, 1e-300)
    is_cut = np.minimum(share, 1 - share) > _BOTH
    whole = share > 0.5
    face = np.maximum(faces.of, 0)
    return np.where(is_cut[face], own, whole[face]), np.flatnonzero(is_cut)


def within(faces: Faces, shape: Shape, area: Any) -> Mask:
    """Triangles (m,) that the tool touches with its axis inside an area: outer walls of a part are not among them."""
    import shapely

    mesh = faces.mesh
    n = mesh.normals
    level = np.hypot(n[:, 0], n[:, 1])
    out = np.where(level[:, None] > 1e-3, n[:, :2] / np.maximum(level, 1e-9)[:, None], 0.0)
    near = area.buffer(1e-6)
    shapely.prepare(near)
    inside = np.zeros(len(mesh), bool)
    # a large triangle is in where a part of it is
    t = mesh.triangles[:, :, :2]
    for place in (t.mean(axis=1), *((t[:, k] + 0.02 * (t.mean(axis=1) - t[:, k])) for k in range(3))):
        axis = place + shape.r * n[:, :2] + shape.rm * out
        inside |= shapely.intersects_xy(near, axis[:, 0], axis[:, 1])
    return inside


@dataclass(frozen=True)
class Tips:
    """Tips of a tool over nodes of a grid (rows along y, columns along x).

    Attributes
    ----------
    ground, shape : Ground, Shape
        The part, and the end of the tool.
    faces : Faces
        The faces of the part.
    x, y : array
        Coordinates of columns and rows [mm].
    pitch : float
        Between them [mm].
    z : array (rows, columns)
        Heights; `NOTHING` where the tool may not go or nothing holds it [mm].
    held : array (rows, columns) of int
        What holds it, -1: nothing.
    area : shapely geometry
        Where the axis may go.
    steep : array (m,) of bool
        Triangles that levels serve.
    is_steep : array (rows, columns) of bool
        Nodes that levels serve.
    """

    ground: Ground
    shape: Shape
    faces: Faces
    x: Array
    y: Array
    pitch: float
    z: Array
    held: Ints
    area: Any
    steep: Mask
    is_steep: Mask

    @property
    def inside(self) -> Mask:
        """Nodes at which the tool rests on the part."""
        return self.held >= 0

    @cached_property
    def from_steep(self) -> Array:
        """Distance of each node to the nearest one that levels serve, negative inside [mm]."""
        return _signed(self.is_steep & self.inside, self.pitch)

    @cached_property
    def from_shallow(self) -> Array:
        """Distance of each node to the nearest one that lines serve, negative inside [mm]."""
        return _signed(~self.is_steep & self.inside, self.pitch)

    def at(self, mask: Mask, places: Array) -> Mask:
        """What a mask says of the nodes nearest to places (n, 2)."""
        i = np.clip(np.rint((places[:, 0] - self.x[0]) / self.pitch).astype(int), 0, len(self.x) - 1)
        j = np.clip(np.rint((places[:, 1] - self.y[0]) / self.pitch).astype(int), 0, len(self.y) - 1)
        return np.asarray(mask[j, i])


def _signed(mask: Mask, pitch: float) -> Array:
    from scipy.ndimage import distance_transform_edt

    if not mask.any():
        return np.full(mask.shape, np.inf)
    if mask.all():
        return np.full(mask.shape, -np.inf)
    away = distance_transform_edt(~mask) * pitch
    within = distance_transform_edt(mask) * pitch
    return np.where(mask, 0.5 * pitch - within, away - 0.5 * pitch)


def tips_over(ground: Ground, faces: Faces, shape: Shape, area: Any, threshold: float | None) -> Tips:
    """The tool over a grid.

    Parameters
    ----------
    ground, faces : Ground, Faces
        The part.
    shape : Shape
        The end of the tool.
    area : shapely geometry
        Where its axis may go [mm].
    threshold : float or None
        Slope from which levels serve; None: nowhere [deg].
    """
    import shapely

    left, low, right, high = area.bounds
    pitch = max(PITCH, float(np.sqrt((right - left) * (high - low) / _MOST)))
    nx, ny = (max(int(np.ceil(size / pitch - 1e-9)), 2) for size in (right - left, high - low))
    # nodes on both borders, however wide: the pitch is the same both ways
    x = 0.5 * (left + right) + pitch * (np.arange(nx + 1) - nx / 2)
    y = 0.5 * (low + high) + pitch * (np.arange(ny + 1) - ny / 2)
    gx, gy = np.meshgrid(x, y)
    # there and back, so that each place lies beside the one before
    gx[1::2] = gx[1::2, ::-1]
    places = np.stack((gx.ravel(), gy.ravel()), axis=1)
    found = ground.drop_on_cores(shape, places)
    normals = tool_normals(shape, places, found)
    steep, _ = sides_of(faces, threshold)
    held = found.held
    t = np.maximum(held, 0)
    agrees = (normals * faces.mesh.normals[t]).sum(axis=1) > np.cos(_AGREES)
    if shape.r <= 0:
        # the rim of a flat end has no normal of its own
        agrees = np.ones(len(held), bool)
    own = np.degrees(np.arccos(np.clip(normals[:, 2], -1, 1))) > (91.0 if threshold is None else threshold)
    is_steep = np.where(agrees, steep[t], own) & (held >= 0)
    z, held, is_steep = (_unwound(values.reshape(len(y), len(x))) for values in (found.z, held, is_steep))
    if threshold is not None:
        is_steep |= _jumps(
            z, np.where(held >= 0, faces.of[np.maximum(held, 0)], -1), pitch * np.tan(np.radians(threshold))
        )
    shapely.prepare(area)
    gx = np.broadcast_to(x, z.shape)
    allowed = shapely.intersects_xy(area, gx.ravel(), np.repeat(y, len(x))).reshape(z.shape)
    allowed |= _beside(allowed)
    held = np.where(allowed, held, -1)
    if not (held >= 0).any():
        raise InputError("the area lies nowhere over the part; move it, or leave it out", "feature.box_mm")
    return Tips(
        ground, shape, faces, x, y, pitch, np.where(held >= 0, z, NOTHING), held, area, steep, is_steep & (held >= 0)
    )


def _jumps(z: Array, face: Ints, most: float) -> Mask:
    """Nodes on both sides of a step from one face to another: a flat rests beside a wall before it and after it, and never on it."""
    out = np.zeros(z.shape, bool)
    for axis in range(2):
        a, b = [slice(None)] * 2, [slice(None)] * 2
        a[axis], b[axis] = slice(None, -1), slice(1, None)
        first, second = tuple(a), tuple(b)
        steps = (
            (np.abs(z[first] - z[second]) > most)
            & (face[first] != face[second])
            & (face[first] >= 0)
            & (face[second] >= 0)
        )
        out[first] |= steps
        out[second] |= steps
    return out


def _unwound(values: Any) -> Any:
    values = values.copy()
    values[1::2] = values[1::2, ::-1]
    return values


def _beside(mask: Mask) -> Mask:
    """Nodes just outside, so that what is kept between nodes reaches the border."""
    from scipy.ndimage import binary_dilation

    return np.asarray(binary_dilation(mask, iterations=1))
