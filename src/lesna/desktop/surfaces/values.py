"""What the colours of the part tell: slope, stepover, regions, or what is left, at the corners of its triangles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.proof import Proof
from lesna.surface.tips import sides_of

#: what can be shown, and how it is called
COLOURS = {
    "slope": "Slope", "plan": "Stepover, plan", "along": "Stepover, along", "down": "Step-down", "regions": "Regions",
    "left": "What is left",
}  # fmt: skip
#: those that tell a spacing
SPACINGS = ("plan", "along", "down")
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
    elif colour in SPACINGS:
        allowed = spacing_of(decision, colour)
        out = np.repeat((1.0 - np.clip(allowed / max(decision.flat, 1e-9), 0.0, 1.0))[:, None], 3, axis=1)
        out[allowed <= 0] = -1.0
    elif colour == "regions":
        steep, _ = sides_of(faces, decision.served_by_levels)
        out = np.repeat(np.where(steep, _STEEP, _SHALLOW)[:, None], 3, axis=1)
    else:
        out = faces.corner_slopes / 90.0
    return np.where(counts[:, None], out, np.nan)


def spacing_of(decision: Decision, colour: str) -> Array:
    """What each triangle allows (m,) [mm]."""
    if colour == "down":
        return decision.levels_field.down
    return decision.lines_field.plan if colour == "plan" else decision.lines_field.along


def groups_of(decision: Decision) -> NDArray[np.int64]:
    """Faces (m,), each parted where levels take over: between them edges are drawn."""
    steep, _ = sides_of(decision.ground_faces, decision.served_by_levels)
    return 2 * decision.part.faces.of + steep


def heights_of(decision: Decision, proof: Proof) -> Array:
    """What is left on each triangle (m,) [mm], from the traced places nearest to it; not a number where none was traced."""
    found = _at_points(decision, proof)
    return np.asarray(found[decision.part.mesh.corners].mean(axis=1))


def left_of(decision: Decision, proof: Proof) -> Array:
    """What is left at each corner over two cusps."""
    found = _at_points(decision, proof)
    share = np.where(found < -0.5 * proof.cusp, -1.0, np.clip(found / (_CUSPS * proof.cusp), 0.0, 1.0))
    return np.asarray(np.where(np.isnan(found), np.nan, share)[decision.part.mesh.corners])


def _at_points(decision: Decision, proof: Proof) -> Array:
    """What is left at each point of the part (n,) [mm]."""
    from scipy.spatial import cKDTree

    mesh = decision.part.mesh
    known = ~np.isnan(proof.left)
    if not known.any():
        return np.full(len(mesh.points), np.nan)
    away, near = cKDTree(proof.places[known]).query(mesh.points, k=min(_NEAREST, int(known.sum())))
    away, near = away.reshape(len(mesh.points), -1), near.reshape(len(mesh.points), -1)
    weight = 1.0 / np.maximum(away, 1e-3)
    return np.asarray((proof.left[known][near] * weight).sum(axis=1) / weight.sum(axis=1))


def ends_of(colour: str) -> tuple[str, str]:
    """What stands at both ends of the scale."""
    return {
        "slope": ("level", "upright"),
        "plan": ("as on flat ground", "none"),
        "along": ("as on flat ground", "none"),
        "down": ("as on flat ground", "none"),
        "regions": ("lines or rings", "levels"),
        "left": ("nothing left", "two cusps"),
    }[colour]
