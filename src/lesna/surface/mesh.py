"""Triangles welded to a surface: neighbours, normals, and what is wrong with it, told with its place."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.model.errors import InputError
from lesna.physics import Array, engine

Ints = NDArray[np.int64]

#: corners nearer than this are one [mm]
WELD = 1e-5
#: edges sharper than this are edges of the part, not of a curved face in chords [rad]
SHARP = np.radians(15.0)
#: triangles thinner than this have no normal worth having [mm]
_THIN = 1e-6
#: places of one kind of trouble that are told
_TOLD = 3


@dataclass(frozen=True, eq=False)
class Mesh:
    """A surface of triangles whose normals look out of the material.

    Attributes
    ----------
    points : array (n, 3)
        Corners [mm].
    corners : array (m, 3) of int
        The corners of each triangle, counter-clockwise seen from outside.
    neighbours : array (m, 3) of int
        The triangle beyond each edge (from corner k to the next), -1 where there is none.
    troubles : tuple of str
        What is wrong with it, with places.
    """

    points: Array
    corners: Ints
    neighbours: Ints
    troubles: tuple[str, ...] = ()

    def __len__(self) -> int:
        return len(self.corners)

    @cached_property
    def triangles(self) -> Array:
        """Corners of each triangle (m, 3, 3) [mm]."""
        return self.points[self.corners]

    @cached_property
    def _cross(self) -> Array:
        t = self.triangles
        return np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])

    @cached_property
    def areas(self) -> Array:
        """Area of each triangle (m,) [mm2]."""
        return 0.5 * np.linalg.norm(self._cross, axis=1)

    @cached_property
    def normals(self) -> Array:
        """Unit normal of each triangle (m, 3), out of the material."""
        return self._cross / np.maximum(2 * self.areas, 1e-300)[:, None]

    @cached_property
    def slopes(self) -> Array:
        """Slope of each triangle against the level (m,) [rad]; above 90 deg it looks down."""
        return np.asarray(np.arccos(np.clip(self.normals[:, 2], -1.0, 1.0)))

    @cached_property
    def bends(self) -> Array:
        """Angle between each triangle and the one beyond each edge (m, 3), convex positive [rad]; nan at borders."""
        other = np.maximum(self.neighbours, 0)
        n, o = self.normals[:, None, :], self.normals[other]
        t = self.triangles
        along = np.roll(t, -1, axis=1) - t
        along /= np.maximum(np.linalg.norm(along, axis=2), 1e-300)[:, :, None]
        sine = (np.cross(n, o) * along).sum(axis=2)
        angle = np.arctan2(sine, (n * o).sum(axis=2))
        return np.where(self.neighbours < 0, np.nan, angle)

    @cached_property
    def corner_normals(self) -> Array:
        """Normal at each corner of each triangle (m, 3, 3), averaged by angle over what is smooth there."""
        t = self.triangles
        a, b = np.roll(t, -1, axis=1) - t, np.roll(t, 1, axis=1) - t
        cosine = (a * b).sum(axis=2) / np.maximum(np.linalg.norm(a, axis=2) * np.linalg.norm(b, axis=2), 1e-300)
        weight = np.arccos(np.clip(cosine, -1.0, 1.0))
        group = self._smooth_corners
        summed = np.stack(
            [np.bincount(group, (weight * self.normals[:, None, axis]).ravel()) for axis in range(3)], axis=1
        )[group].reshape(-1, 3, 3)
        return np.asarray(summed / np.maximum(np.linalg.norm(summed, axis=2), 1e-300)[:, :, None])

    @cached_property
    def _smooth_corners(self) -> Ints:
        """A number for each corner of each triangle (3 m,): the same for those round a point that are joined by smooth edges."""
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        m = len(self)
        t, k = np.nonzero((self.neighbours >= 0) & (np.abs(np.nan_to_num(self.bends, nan=9.0)) <= SHARP))
        o = self.neighbours[t, k]
        rows, columns = [], []
        for end in (k, (k + 1) % 3):
            point = self.corners[t, end]
            place = np.argmax(self.corners[o] == point[:, None], axis=1)
            rows.append(3 * t + end)
            columns.append(3 * o + place)
        i, j = np.concatenate(rows), np.concatenate(columns)
        return np.asarray(
            connected_components(coo_array((np.ones(len(i), bool), (i, j)), shape=(3 * m, 3 * m)), directed=False)[1]
        )

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """Lowest and highest coordinates (3,) of each [mm]."""
        used = self.points[np.unique(self.corners)]
        return used.min(axis=0), used.max(axis=0)

    @property
    def diagonal(self) -> float:
        """Of the box round it [mm]."""
        low, high = self.box
        return float(np.linalg.norm(high - low))


def welded(triangles: Array) -> Mesh:
    """A surface of triangles whose corners are joined and which all look out.

    Parameters
    ----------
    triangles : array (n, 3, 3)
        Corners [mm].

    Raises
    ------
    InputError
        When no triangle has an area.
    """
    points, corners = _joined(triangles)
    troubles: list[str] = []
    flat = (corners[:, 0] == corners[:, 1]) | (corners[:, 1] == corners[:, 2]) | (corners[:, 0] == corners[:, 2])
    corners = corners[~flat]
    if len(corners):
        t = points[corners]
        height = np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1)
        longest = np.linalg.norm(np.roll(t, -1, axis=1) - t, axis=2).max(axis=1)
        corners = corners[height > _THIN * longest]
    if not len(corners):
        raise InputError("holds no triangle with an area; write the part as STL again")
    _, first = np.unique(np.sort(corners, axis=1), axis=0, return_index=True)
    if len(first) < len(corners):
        twice = np.ones(len(corners), bool)
        twice[first] = False
        troubles.append(_told("triangles that lie twice on each other", points[corners[twice]].mean(axis=1)))
        corners = corners[np.sort(first)]
    neighbours, shared = _beyond(corners)
    if len(shared):
        troubles.append(_told("edges of more than two triangles", points[shared].mean(axis=1)))
    corners, turned, is_closed = _looking_out(points, corners, neighbours)
    if turned.any() and not turned.all():
        troubles.append(
            _told("triangles that look into the material, turned over", points[corners[turned]].mean(axis=1))
        )
    elif turned.all():
        troubles.append("all triangles looked into the material and were turned over")
    neighbours, _ = _beyond(corners)
    if not is_closed:
        t, k = np.nonzero(neighbours < 0)
        edges = np.stack((corners[t, k], corners[t, (k + 1) % 3]), axis=1)
        troubles.append(_told("open edges", points[edges].mean(axis=1)))
    mesh = Mesh(points, corners, neighbours, tuple(troubles))
    crossing = _crossing(mesh)
    if len(crossing):
        mesh = Mesh(points, corners, neighbours, (*troubles, _told("triangles that pass through each other", crossing)))
    return mesh


def _joined(triangles: Array) -> tuple[Array, Ints]:
    """Corners that are one within the weld, and which of them each triangle has."""
    flat = triangles.reshape(-1, 3)
    keys = np.round(flat / WELD).astype(np.int64)
    order = np.lexsort(keys.T)
    ordered = keys[order]
    begins = np.append(True, (ordered[1:] != ordered[:-1]).any(axis=1))
    number = np.empty(len(flat), np.int64)
    number[order] = np.cumsum(begins) - 1
    return flat[order[begins]], number.reshape(-1, 3)


def _beyond(corners: Ints) -> tuple[Ints, Ints]:
    """The triangle beyond each edge (m, 3), -1 where there is none; edges (k, 2) that more than two share."""
    m = len(corners)
    a, b = corners.ravel(), np.roll(corners, -1, axis=1).ravel()
    key = np.minimum(a, b) * (int(corners.max()) + 1) + np.maximum(a, b)
    order = np.argsort(key, kind="stable")
    ordered = key[order]
    begins = np.flatnonzero(np.append(True, ordered[1:] != ordered[:-1]))
    counts = np.diff(np.append(begins, len(order)))
    out = np.full(3 * m, -1, np.int64)
    pair = begins[counts == 2]
    one, other = order[pair], order[pair + 1]
    out[one], out[other] = other // 3, one // 3
    many = order[begins[counts > 2]]
    return out.reshape(m, 3), np.stack((a[many], b[many]), axis=1)


def _looking_out(points: Array, corners: Ints, neighbours: Ints) -> tuple[Ints, NDArray[np.bool_], bool]:
    """The triangles turned so that joined ones agree and all look out; which were turned; whether the surface is closed."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    m = len(corners)
    t, k = np.nonzero(neighbours >= 0)
    o = neighbours[t, k]
    a, b = corners[t, k], corners[t, (k + 1) % 3]
    same_way = (corners[o] == a[:, None]) & (np.roll(corners[o], -1, axis=1) == b[:, None])
    disagrees = same_way.any(axis=1)
    # two copies of each triangle, as it is and turned: joined ones agree within a copy
    i, j = np.concatenate((t, t + m)), np.concatenate((o + m * disagrees, o + m * ~disagrees))
    count, label = connected_components(
        coo_array((np.ones(len(i), bool), (i, j)), shape=(2 * m, 2 * m)), directed=False
    )
    is_turned = label[:m] > label[m:]
    out = np.where(is_turned[:, None], corners[:, ::-1], corners)
    shell = np.minimum(label[:m], label[m:])
    p = points[out]
    cross = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    open_shell = np.zeros(count, bool)
    open_shell[shell[(neighbours < 0).any(axis=1)]] = True
    # a closed shell holds its volume; an open one is seen from above
    volume = np.bincount(shell, ((p[:, 0] - points.mean(axis=0)) * cross).sum(axis=1), count)
    facing = np.where(open_shell, np.bincount(shell, cross[:, 2], count), volume)
    inside = (facing < 0)[shell]
    out = np.where(inside[:, None], out[:, ::-1], out)
    return out, is_turned ^ inside, not bool((neighbours < 0).any())


def _told(what: str, places: Array) -> str:
    count = len(places)
    at = "; ".join(f"x {x:.2f}, y {y:.2f}, z {z:.2f}" for x, y, z in places[:_TOLD].tolist())
    return f"{count:,} {what}, {'at' if count <= _TOLD else 'the first at'} {at} mm"


def _crossing(mesh: Mesh) -> Array:
    """Places (k, 3) at which triangles pass through each other [mm]."""
    low = mesh.box[0]
    # about one triangle a cell: a cell as large as their middle size
    size = max(float(np.sqrt(np.median(mesh.areas) * 4)), mesh.diagonal / 400.0)
    return np.asarray(
        engine.kernel("surface_crossings")(
            np.ascontiguousarray(mesh.triangles), np.ascontiguousarray(mesh.corners), low, size
        )
    )
