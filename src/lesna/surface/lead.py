"""The least lead of a tilted set-up that keeps the tip out of the cut and the axis off the walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array
from lesna.surface.faces import Faces

#: normals are gathered in cells of so many degrees; axes that are tried: tilts and turns [deg]
_CELL, TILTS, _TURNS = 2.0, np.arange(0.0, 61.0, 1.0), np.arange(0.0, 360.0, 10.0)
#: contacts within this of the tip rub, beyond this the side of the tool runs along the wall [deg]
TIP, WALL = 10.0, 80.0
#: share of the area that may do either [-]
ALLOWED = 0.01


@dataclass(frozen=True)
class Lead:
    """A tilted set-up.

    Attributes
    ----------
    tilt, turn : float
        Lead of the axis from upright, and the direction in which it leans [deg].
    tip, wall : float
        Shares of the area under 10 deg of the tip and over 80 deg [-].
    allowed : bool
        Whether both are within a hundredth.
    upright_tip, upright_wall : float
        The same without any lead.
    """

    tilt: float
    turn: float
    tip: float
    wall: float
    allowed: bool
    upright_tip: float
    upright_wall: float


def axis_of(tilt: float, turn: float) -> Array:
    """The tool's axis from tip to spindle (3,)."""
    a, b = np.radians(tilt), np.radians(turn)
    return np.array((np.sin(a) * np.cos(b), np.sin(a) * np.sin(b), np.cos(a)))


def least_lead(faces: Faces) -> Lead:
    """The smallest lead under which both shares are within a hundredth, with the contacts farthest from the tip among those; where none is,
    that with the smallest larger share."""
    up = faces.of >= 0
    normals, weights = _gathered(faces.mesh.normals[up], faces.mesh.areas[up])
    best: tuple[float, ...] | None = None
    nearest: tuple[float, ...] | None = None
    upright = _shares(normals, weights, np.array((0.0, 0.0, 1.0)))
    for tilt in TILTS.tolist():
        for turn in _TURNS.tolist() if tilt else (0.0,):
            tip, wall, mean = _shares(normals, weights, axis_of(tilt, turn))
            if max(tip, wall) <= ALLOWED and (best is None or mean > best[4]):
                best = (tilt, turn, tip, wall, mean)
            if nearest is None or max(tip, wall) < max(nearest[2], nearest[3]) - 1e-9:
                nearest = (tilt, turn, tip, wall, mean)
        if best is not None:
            break
    assert nearest is not None  # at least the upright axis was tried
    tilt, turn, tip, wall, _ = best or nearest
    return Lead(tilt, turn, tip, wall, best is not None, upright[0], upright[1])


def _gathered(normals: Array, areas: Array) -> tuple[Array, Array]:
    """Normals by cells of the sphere, with the share of the area of each."""
    cells = np.round(normals / np.radians(_CELL)).astype(np.int64)
    _, where = np.unique(cells, axis=0, return_inverse=True)
    where = where.ravel()
    weight = np.bincount(where, areas)
    mean = np.stack([np.bincount(where, areas * normals[:, axis]) for axis in range(3)], axis=1)
    return mean / np.maximum(np.linalg.norm(mean, axis=1), 1e-300)[:, None], weight / weight.sum()


def _shares(normals: Array, weights: Array, axis: Array) -> tuple[float, float, float]:
    cosine = normals @ axis
    near = float(weights[cosine > np.cos(np.radians(TIP))].sum())
    wall = float(weights[cosine < np.cos(np.radians(WALL))].sum())
    return near, wall, float((weights * np.sqrt(np.maximum(1.0 - cosine * cosine, 0.0))).sum())
