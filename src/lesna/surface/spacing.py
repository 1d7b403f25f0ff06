"""How far apart lines and levels may lie: from the cusp that may stay, the curvature of the part and that of the tool.

The cusp is ``h = c^2 (kt + ks) / 8`` with c the distance of contacts; the tips are ``1 + ks/kt`` further apart, so they may lie
``c = sqrt(8 h (kt + ks)) / kt`` from each other along the surface, with kt and ks the curvatures of tool and part across the feed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array
from lesna.surface.drops import Shape
from lesna.surface.faces import Faces

#: a tool whose curvature does not exceed that of a hollow by this share does not fit into it [-]
FITS = 0.02
#: distance of lines of a flat end over its flat radius [-]
FLAT_LINES = 1.2
#: lines are tried each so many degrees
ANGLES = np.arange(0.0, 180.0, 15.0)
#: slopes under this are level to a flat [rad]
_LEVEL = np.radians(0.05)
#: curvature that a mesh of what is flat may show, and the radius under which an edge counts as sharp [1/mm], [mm]
_FLAT, _ROUND = 1e-3, 0.01
#: the smallest share of the area that may lie under a wider spacing than it allows: lines, levels [-]
LINES_LEAVE, LEVELS_LEAVE = 0.003, 0.005


@dataclass(frozen=True)
class Field:
    """What each triangle allows (m,) [mm].

    Attributes
    ----------
    along : array
        Distance of tips along the surface, square to the feed.
    plan : array
        The same seen from above.
    down : array
        Of levels, where the feed runs level.
    """

    along: Array
    plan: Array
    down: Array


def tool_curvature(shape: Shape, uphill: Array, across: Array, slope: Array) -> Array:
    """Curvature of the tool across the feed where it touches a slope [1/mm] (Euler).

    Parameters
    ----------
    shape : Shape
        Its end.
    uphill, across : array (m, 3)
        Unit vectors along the surface: steepest, and square to the feed.
    slope : array (m,)
        Of the surface [rad].
    """
    q = np.clip(np.abs((uphill * across).sum(axis=1)), 0.0, 1.0)
    sine = np.sin(slope)
    round_axis = sine / np.maximum(shape.rm + shape.r * sine, 1e-12) if shape.rm > 0 else 1.0 / shape.r
    along_arc = 1.0 / shape.r if shape.r > 0 else 1e12
    bent = q * q * along_arc + (1.0 - q * q) * round_axis
    # on what is level a flat lies flat, whichever way a mesh of it happens to lean
    return np.asarray(np.where(slope < _LEVEL, 0.0, bent) if shape.rm > 0 else bent)


def field_of(faces: Faces, shape: Shape, cusp: float, angle: float | None) -> Field:
    """What lines at an angle allow on each triangle; None: for feeds that run level.

    Parameters
    ----------
    faces : Faces
        The part with its curvature.
    shape : Shape
        The end of the tool.
    cusp : float
        Height that may stay [mm].
    angle : float or None
        Of the lines to x, seen from above [deg].
    """
    n = faces.mesh.normals
    nz = np.maximum(n[:, 2], 1e-9)
    slope = np.arccos(np.clip(nz, 0.0, 1.0))
    level = np.hypot(n[:, 0], n[:, 1])
    u0 = np.where(
        level[:, None] > 1e-9, np.stack((-n[:, 0], -n[:, 1]), 1) / np.maximum(level, 1e-9)[:, None], (1.0, 0.0)
    )
    uphill = np.column_stack((u0 * nz[:, None], level))
    if angle is None:
        across = uphill
        plan = nz
    else:
        ux, uy = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        feed = np.column_stack((ux * nz, uy * nz, -(n[:, 0] * ux + n[:, 1] * uy)))
        feed /= np.maximum(np.linalg.norm(feed, axis=1), 1e-300)[:, None]
        across = np.cross(n, feed)
        plan = np.sqrt(nz * nz + (n[:, 0] * ux + n[:, 1] * uy) ** 2)
    along = allowed(faces, shape, cusp, uphill, across, slope)
    return Field(along, along * plan, along * level)


def allowed(faces: Faces, shape: Shape, cusp: float, uphill: Array, across: Array, slope: Array) -> Array:
    """Distance of tips along the surface, square to the feed [mm]; 0 where the tool does not fit."""
    kt = tool_curvature(shape, uphill, across, slope)
    ks = np.einsum("mi,mij,mj->m", across, faces.tensor, across)
    both = kt + ks
    with np.errstate(divide="ignore", invalid="ignore"):
        c = np.sqrt(8 * cusp * np.maximum(both, 0.0)) / kt
    if shape.r <= 0:
        # the edge of a flat end: h = c cos s by levels; uphill the round of the cutter leaves the cusp
        c = np.where(kt > 1e6, cusp / np.maximum(np.cos(slope), 1e-3), c)
    if shape.rm > 0:
        c = np.minimum(np.where(kt < 1e-6, np.inf, c), FLAT_LINES * shape.rm)
    lies_flat = (kt < 1e-9) & (ks > -_FLAT)
    return np.asarray(np.where((both <= FITS * kt) & ~lies_flat, 0.0, c))


def fits(faces: Faces, shape: Shape) -> NDArray[np.bool_]:
    """Whether the tool fits where it touches each triangle (m,): its curvature and the part's leave room in every direction."""
    n = faces.mesh.normals
    nz = np.clip(n[:, 2], 0.0, 1.0)
    level = np.hypot(n[:, 0], n[:, 1])
    u0 = np.where(level[:, None] > 1e-9, -n[:, :2] / np.maximum(level, 1e-9)[:, None], (1.0, 0.0))
    uphill = np.column_stack((u0 * nz[:, None], level))
    side = np.cross(n, uphill)
    slope = np.arccos(nz)
    a = tool_curvature(shape, uphill, uphill, slope)
    b = tool_curvature(shape, uphill, side, slope)
    tuu, tuv, tvv = (
        np.einsum("mi,mij,mj->m", p, faces.tensor, q) for p, q in ((uphill, uphill), (uphill, side), (side, side))
    )
    p, q = a + tuu - FITS * np.minimum(a, 1.0 / _ROUND), b + tvv - FITS * b
    room = (p > -_FLAT) & (q > -_FLAT) & (p * q - tuv * tuv >= -_FLAT * (np.abs(p) + np.abs(q)))
    # what is steeper than its flank a taper only touches at the top
    return np.asarray(room & (slope < np.pi / 2 - shape.slant + _LEVEL))


def hollows(faces: Faces) -> tuple[float, int]:
    """The smallest hollow radius of the part [mm] (infinite where it has none) and its triangle."""
    up = np.flatnonzero(faces.of >= 0)
    least = faces.bends[up, 0]
    where = int(np.argmin(least))
    return (1.0 / -float(least[where]) if least[where] < -1e-9 else np.inf), int(up[where])


def least_of(values: Array, areas: Array, share: float) -> float:
    """The value that all but a share of the area allows; one triangle counts for no more than a hundredth."""
    if not len(values):
        return float("inf")
    weight = np.minimum(areas, 0.01 * areas.sum())
    order = np.argsort(values)
    gone = np.cumsum(weight[order])
    return float(values[order][min(int(np.searchsorted(gone, share * gone[-1])), len(order) - 1)])


def allowed_any(faces: Faces, shape: Shape, cusp: float) -> Array:
    """Distance of tips along the surface that each triangle allows whichever way the feed runs (m,) [mm]."""
    n = faces.mesh.normals
    slope = np.arccos(np.clip(n[:, 2], 0.0, 1.0))
    sine = np.sin(slope)
    ks = faces.bends[:, 0]
    arc = 1.0 / shape.r if shape.r > 0 else 1e12
    side = sine / np.maximum(shape.rm + shape.r * sine, 1e-12) if shape.rm > 0 else np.full(len(n), arc)
    out = np.full(len(n), np.inf)
    # kt lies between that across the arc and that round the axis; c falls as kt grows where the part is hollow or level
    for kt in (np.full(len(n), arc), side):
        both = kt + ks
        with np.errstate(divide="ignore", invalid="ignore"):
            c = np.where(kt < 1e-6, np.inf, np.sqrt(8 * cusp * np.maximum(both, 0.0)) / np.maximum(kt, 1e-12))
        out = np.minimum(out, np.where(both <= FITS * kt, 0.0, c))
    if shape.rm > 0:
        # on what is level the arc leaves nothing that the flat beside it does not take away
        level = slope < _LEVEL
        out = np.where(level, FLAT_LINES * shape.rm, np.minimum(out, FLAT_LINES * shape.rm))
    return np.asarray(out)
