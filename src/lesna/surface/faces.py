"""The faces of a part: triangles told apart where the curvature jumps, and their slopes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array
from lesna.surface.curvature import curvature_of, principal, smoothed
from lesna.surface.mesh import SHARP, Ints, Mesh

#: curvatures that differ by less, over the larger of the two, belong to one face [-]
_ALIKE = 0.35
#: a face smaller than this share of the part goes to its neighbour [-]
_SCRAP = 0.002
#: faces steeper than this cannot be reached from above [deg]
STEEPEST = 90.0


@dataclass(frozen=True)
class Faces:
    """The faces of a part that look up.

    Attributes
    ----------
    mesh : Mesh
        The part.
    tensor : array (m, 3, 3)
        Curvature of each triangle [1/mm].
    of : array (m,) of int
        Number of the face of each triangle, largest area first; -1 for what looks down.
    """

    mesh: Mesh
    tensor: Array
    of: Ints

    @property
    def count(self) -> int:
        """How many."""
        return int(self.of.max()) + 1

    @cached_property
    def bends(self) -> Array:
        """Least and greatest curvature of each triangle (m, 2) [1/mm]."""
        return principal(self.tensor)

    @cached_property
    def areas(self) -> Array:
        """Area of each face [mm2]."""
        up = self.of >= 0
        return np.bincount(self.of[up], self.mesh.areas[up], self.count)

    @cached_property
    def corner_slopes(self) -> Array:
        """Slope at each corner of each triangle (m, 3) [deg]."""
        n = self.mesh.corner_normals
        return np.degrees(np.arctan2(np.hypot(n[:, :, 0], n[:, :, 1]), n[:, :, 2]))

    @cached_property
    def by_degree(self) -> Array:
        """Area of each face by whole degrees of slope (faces, 90) [mm2]: a triangle's is spread between its corners' slopes."""
        up = self.of >= 0
        low, high = self.corner_slopes[up].min(axis=1), self.corner_slopes[up].max(axis=1)
        # a plane between two rounds has all its corners leant away from it: there its own slope counts
        own = np.degrees(self.mesh.slopes[up])
        leant = (own < low) | (own > high)
        low, high = np.where(leant, own, low), np.where(leant, own, high)
        low, high = np.clip(low, 0.0, STEEPEST - 1e-6), np.clip(high, 0.0, STEEPEST - 1e-6)
        high = np.maximum(high, low + 1e-6)
        out = np.zeros((self.count, 90))
        face, area = self.of[up], self.mesh.areas[up]
        first, last = low.astype(int), np.minimum(high.astype(int), 89)
        for step in range(int((last - first).max(initial=0)) + 1):
            here = np.flatnonzero(first + step <= last)
            k = first[here] + step
            share = (np.minimum(high[here], k + 1.0) - np.maximum(low[here], k)) / (high[here] - low[here])
            np.add.at(out, (face[here], k), area[here] * share)
        return out

    def slopes(self, face: int) -> tuple[float, float, float]:
        """Least, median and greatest slope of a face, a hundredth of its area left aside at both ends [deg]."""
        gone = np.cumsum(self.by_degree[face])
        edges = np.arange(91.0)
        at = np.append(0.0, gone) / max(gone[-1], 1e-300)
        return tuple(float(np.interp(q, at, edges)) for q in (0.01, 0.5, 0.99))  # type: ignore[return-value]


def faces_of(mesh: Mesh) -> Faces:
    """The faces of a part, told apart at sharp edges and where the curvature jumps."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    tensor = curvature_of(mesh)
    most = smoothed(np.abs(principal(tensor)).max(axis=1), mesh, 2)
    up = mesh.normals[:, 2] > -1e-6
    t, k = np.nonzero(mesh.neighbours > np.arange(len(mesh))[:, None])
    o = mesh.neighbours[t, k]
    a, b = most[t], most[o]
    is_one = np.abs(mesh.bends[t, k]) <= SHARP
    is_one &= np.abs(a - b) <= _ALIKE * np.maximum(np.maximum(a, b), 2.0 / mesh.diagonal)
    is_one &= up[t] & up[o]
    graph = coo_array((np.ones(int(is_one.sum()), bool), (t[is_one], o[is_one])), shape=(len(mesh), len(mesh)))
    label = connected_components(graph, directed=False)[1].astype(np.int64)
    label = _without_scraps(label, mesh, up)
    label[~up] = -1
    return Faces(mesh, tensor, _largest_first(label, mesh.areas))


def only(faces: Faces, which: NDArray[np.bool_]) -> Faces:
    """The faces of some triangles alone."""
    label = np.where(which, faces.of, -1)
    if not (label >= 0).any():
        return faces
    return Faces(faces.mesh, faces.tensor, _largest_first(label, faces.mesh.areas))


def _without_scraps(label: Ints, mesh: Mesh, up: NDArray[np.bool_]) -> Ints:
    """Small faces joined to the neighbour with the longest common border, the smallest first."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    t, k = np.nonzero(mesh.neighbours > np.arange(len(mesh))[:, None])
    o = mesh.neighbours[t, k]
    both = up[t] & up[o]
    t, k, o = t[both], k[both], o[both]
    a, b = mesh.points[mesh.corners[t, k]], mesh.points[mesh.corners[t, (k + 1) % 3]]
    long = np.linalg.norm(b - a, axis=1)
    # over sharp edges only where nothing else borders
    long = np.where(np.abs(mesh.bends[t, k]) <= SHARP, long, 1e-6 * long)
    whole = float(mesh.areas[up].sum())
    for _ in range(12):
        label = np.unique(label, return_inverse=True)[1].astype(np.int64)
        areas = np.bincount(label, mesh.areas)
        p, q = label[t], label[o]
        border = p != q
        if not border.any():
            break
        pairs = np.concatenate((np.stack((p, q), 1)[border], np.stack((q, p), 1)[border]))
        weights = np.concatenate((long[border], long[border]))
        small = areas[pairs[:, 0]] < _SCRAP * whole
        if not small.any():
            break
        pairs, weights = pairs[small], weights[small]
        keys, where = np.unique(pairs, axis=0, return_inverse=True)
        shared = np.bincount(where.ravel(), weights)
        order = np.lexsort((-shared, keys[:, 0]))
        first = order[np.append(True, keys[order][1:, 0] != keys[order][:-1, 0])]
        joined = coo_array((np.ones(len(first), bool), keys[first].T), shape=(len(areas), len(areas)))
        label = connected_components(joined, directed=False)[1][label]
    return label


def _largest_first(label: Ints, areas: Array) -> Ints:
    up = label >= 0
    names, where = np.unique(label[up], return_inverse=True)
    order = np.argsort(-np.bincount(where, areas[up]), kind="stable")
    rank = np.empty(len(names), np.int64)
    rank[order] = np.arange(len(names))
    out = np.full(len(label), -1, np.int64)
    out[up] = rank[where]
    return out
