"""How a surface of triangles bends: the curvature tensor of each triangle from the normals at its corners.

Least squares over the three edges (Rusinkiewicz, 3DPVT 2004), which works on long thin triangles as well. Convex is positive.
"""

from __future__ import annotations

import numpy as np

from lesna.physics import Array
from lesna.surface.mesh import Mesh


def curvature_of(mesh: Mesh) -> Array:
    """Curvature tensor of each triangle (m, 3, 3) in the part's axes [1/mm]: ``d . T . d`` bends along a unit direction d."""
    t, n = mesh.triangles, mesh.corner_normals
    edges = np.roll(t, -1, axis=1) - t
    turned = np.roll(n, -1, axis=1) - n
    u = edges[:, 0] / np.maximum(np.linalg.norm(edges[:, 0], axis=1), 1e-300)[:, None]
    v = np.cross(mesh.normals, u)
    eu, ev = (edges * u[:, None]).sum(axis=2), (edges * v[:, None]).sum(axis=2)
    nu, nv = (turned * u[:, None]).sum(axis=2), (turned * v[:, None]).sum(axis=2)
    # a, b, c of [[a, b], [b, c]] (eu, ev) = (nu, nv)
    matrix = np.zeros((len(t), 3, 3))
    matrix[:, 0, 0] = (eu * eu).sum(axis=1)
    matrix[:, 0, 1] = matrix[:, 1, 0] = matrix[:, 1, 2] = matrix[:, 2, 1] = (eu * ev).sum(axis=1)
    matrix[:, 1, 1] = matrix[:, 0, 0] + (ev * ev).sum(axis=1)
    matrix[:, 2, 2] = (ev * ev).sum(axis=1)
    right = np.stack(((eu * nu).sum(axis=1), (ev * nu + eu * nv).sum(axis=1), (ev * nv).sum(axis=1)), axis=1)
    # a triangle as thin as a line says nothing across it
    matrix += 1e-9 * np.trace(matrix, axis1=1, axis2=2)[:, None, None] * np.eye(3)
    a, b, c = np.linalg.solve(matrix, right[:, :, None])[:, :, 0].T
    uu, uv, vv = (p[:, :, None] * q[:, None, :] for p, q in ((u, u), (u, v), (v, v)))
    return np.asarray(a[:, None, None] * uu + b[:, None, None] * (uv + uv.transpose(0, 2, 1)) + c[:, None, None] * vv)


def principal(tensor: Array) -> Array:
    """Least and greatest curvature (m, 2) within the surface [1/mm]."""
    trace = np.trace(tensor, axis1=1, axis2=2)
    # of the two that are not along the normal: their sum and the sum of squares
    squares = np.einsum("mij,mji->m", tensor, tensor)
    spread = np.sqrt(np.maximum(2 * squares - trace * trace, 0.0))
    return np.stack(((trace - spread) / 2, (trace + spread) / 2), axis=1)


def smoothed(values: Array, mesh: Mesh, times: int) -> Array:
    """Values of triangles (m,) averaged with their neighbours' over smooth edges, by area."""
    from lesna.surface.mesh import SHARP

    joined = (mesh.neighbours >= 0) & (np.abs(np.nan_to_num(mesh.bends, nan=9.0)) <= SHARP)
    other = np.maximum(mesh.neighbours, 0)
    weights = np.where(joined, mesh.areas[other], 0.0)
    for _ in range(times):
        values = (values * mesh.areas + (values[other] * weights).sum(axis=1)) / np.maximum(
            mesh.areas + weights.sum(axis=1), 1e-300
        )
    return values
