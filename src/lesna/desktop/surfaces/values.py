"""What the colours of the part tell: slope, stepover, regions, or what is left, at the corners of its triangles."""

from __future__ import annotations

import numpy as np

from lesna.physics import Array
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.proof import Proof
from lesna.surface.tips import sides_of

#: what can be shown, and how it is called
COLOURS = {"slope": "Slope", "stepover": "Stepover allowed", "regions": "Regions", "left": "What is left"}
#: what is told of regions
_SHALLOW, _STEEP = 0.12, 0.72
#: heights up to so many cusps have colours of their own
_CUSPS = 2.0
#: places nearest to a corner that tell what is left there
_NEAREST = 3


def values_of(decision: Decision, colour: str, proof: Proof | None) -> Array:
    """Values at the corners of each triangle (m, 3), 0 to 1; below 0 gives alarm, not a number has no colour."""
    faces = decision.ground_faces
    counts = faces.of >= 0
    if colour == "left" and proof is not None:
        out = left_of(decision, proof)
    elif colour == "stepover":
        allowed = decision.lines_field.plan
        out = np.repeat((1.0 - np.clip(allowed / max(decision.flat, 1e-9), 0.0, 1.0))[:, None], 3, axis=1)
        out[allowed <= 0] = -1.0
    elif colour == "regions":
        steep, _ = sides_of(faces, decision.served_by_levels)
        out = np.repeat(np.where(steep, _STEEP, _SHALLOW)[:, None], 3, axis=1)
    else:
        out = faces.corner_slopes / 90.0
    return np.where(counts[:, None], out, np.nan)


def left_of(decision: Decision, proof: Proof) -> Array:
    """What is left at each corner over two cusps, from the traced places nearest to it."""
    from scipy.spatial import cKDTree

    mesh = decision.part.mesh
    known = ~np.isnan(proof.left)
    if not known.any():
        return np.full((len(mesh), 3), np.nan)
    away, near = cKDTree(proof.places[known]).query(mesh.points, k=_NEAREST)
    weight = 1.0 / np.maximum(away, 1e-3)
    found = (proof.left[known][near] * weight).sum(axis=1) / weight.sum(axis=1)
    share = found / (_CUSPS * proof.cusp)
    share = np.where(found < -0.5 * proof.cusp, -1.0, np.clip(share, 0.0, 1.0))
    return np.asarray(share[mesh.corners])


def ends_of(colour: str) -> tuple[str, str]:
    """What stands at both ends of the scale."""
    return {
        "slope": ("level", "upright"),
        "stepover": ("as on flat ground", "none"),
        "regions": ("lines or rings", "levels"),
        "left": ("nothing left", "two cusps"),
    }[colour]
