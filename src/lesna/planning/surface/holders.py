"""How short the tool may be held over a path: for each holder of the shop, and what leaning the tool away from walls buys."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from lesna.geometry.holder import HolderShape, holder_shape, shank_diameter
from lesna.model.library_records import Holder
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.surface.along import Cutting, cut_at
from lesna.planning.surface.decide import Decision
from lesna.surface.drops import Ground
from lesna.surface.joined import SurfacePath
from lesna.surface.lead import axis_of
from lesna.surface.mesh import Mesh
from lesna.surface.stick_out import Reach, Ring, reach_of

#: clearance beside a holder and under its face [mm]
SIDE, OVER = 0.5, 0.5
#: of the shank so much stays in the holder, over its diameter [-]
_GRIPPED = 1.5
#: leans that are tried [deg], and places of the faces that the tool is put on
LEANS, _PLACES = (0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0), 4000
#: a tool put on a wall is this much smaller, so that the wall itself does not block it [mm]
_SHRUNK = 0.001
#: a tool that sinks in deeper than this does not stand there; hollows in chords ask for no less [mm]
_SINKS = 0.02


@dataclass(frozen=True)
class Held:
    """A tool in one holder.

    Attributes
    ----------
    holder : Holder
        Its row.
    reach : Reach
        Shortest stick-out, and what asks for it.
    length : float
        What it would be set to: no shorter than the edges are long [mm].
    deflection : float or None
        Of the tip at that length [um]; None where the tool is too short for it.
    needed : float
        Length of the whole tool that it takes [mm].
    """

    holder: Holder
    reach: Reach
    length: float
    deflection: float | None
    needed: float


@dataclass(frozen=True)
class Lean:
    """A tool that leans away from the walls.

    Attributes
    ----------
    tilt, turn : float
        How far, and whereto [deg].
    length : float
        Shortest stick-out [mm].
    bends : float
        Deflection of the tip over that of the upright tool [-].
    reached : float
        Share of the area on which the tool fits [-].
    tip, wall : float
        Shares of the area under 10 deg of the tip, and over 80 deg [-].
    """

    tilt: float
    turn: float
    length: float
    bends: float
    reached: float
    tip: float
    wall: float


def rings_of(shape: HolderShape) -> tuple[Ring, ...]:
    """A holder as the pieces that the part can meet."""
    return (
        Ring("face and cone of the holder", shape.nose / 2, max(shape.body, shape.nose) / 2, 0.0, shape.projection),
    )


def tips_of(path: SurfacePath) -> Array:
    """Every place of the tip on and beside the surface (n, 3) [mm]."""
    return np.ascontiguousarray(np.concatenate([piece.places for piece in path.pieces]))


def holders_for(
    decision: Decision,
    path: SurfacePath,
    cutting: Cutting,
    result: Result,
    shelf: Mapping[str, Holder],
    pulse: Pulse = STEADY,
) -> tuple[Held, ...]:
    """Every holder of the shop, shortest stick-out first; the cut's own is among them."""
    parts = result.setup.parts
    places = tips_of(path)
    rows = {parts.holder.id: parts.holder, **shelf}
    out: list[Held] = []
    pulse.begin("stick-out")
    known: dict[tuple[float, float, float], Reach] = {}
    for number, holder in enumerate(rows.values()):
        pulse.tell(number, len(rows))
        shape = holder_shape(holder, parts.taper, shank_diameter(parts.tool))
        key = (round(shape.nose, 6), round(shape.body, 6), shape.projection)
        if key not in known:
            known[key] = reach_of(decision.part.ground, places, rings_of(shape), SIDE, OVER)
        reach = known[key]
        length = max(reach.length, parts.tool.APMX)
        needed = length + _GRIPPED * shank_diameter(parts.tool)
        too_short = parts.tool.OAL is not None and needed > parts.tool.OAL + 1e-9
        bent = None if too_short else _bent(cutting, holder, length)
        out.append(Held(holder, reach, length, bent, needed))
    return tuple(sorted(out, key=lambda held: (held.deflection is None, held.length, held.deflection or 0.0)))


def _bent(cutting: Cutting, holder: Holder, length: float) -> float:
    parts = cutting.result.setup.parts
    own = replace(parts.with_cut(stick_out_mm=length), holder=holder)
    return float(result_of(setup_of(own), wait=False).state.deflection)


def shank_clear(decision: Decision, path: SurfacePath, parts: CutParts) -> float | None:
    """Room between the part and a shank that is thicker than the tool [mm], negative where they meet; None without such a shank."""
    shank, long = shank_diameter(parts.tool), parts.tool.usable_length
    if shank <= parts.tool.diameter_at(long) + 1e-6:
        return None
    ring = Ring("shank", shank / 2, shank / 2, long, long + 1.0)
    found = reach_of(decision.part.ground, tips_of(path), (ring,), SIDE, 0.0)
    return -found.length if found.piece else long


def leans_of(decision: Decision, result: Result, cutting: Cutting, pulse: Pulse = STEADY) -> tuple[Lean, ...]:
    """What leaning the tool away from the walls buys: stick-out and bending for each lean."""
    part, parts = decision.part, result.setup.parts
    mesh, up = part.mesh, decision.ground_faces.of >= 0
    normals, areas = mesh.normals, mesh.areas
    steep = up & (mesh.slopes > np.radians(60.0))
    toward = (areas[steep][:, None] * normals[steep, :2]).sum(axis=0) if steep.any() else np.array((1.0, 0.0))
    turn = float(np.degrees(np.arctan2(toward[1], toward[0]))) if np.linalg.norm(toward) > 1e-6 else 0.0
    samples, facing = _samples(mesh, up)
    shape = holder_shape(parts.holder, parts.taper, shank_diameter(parts.tool))
    own = decision.shape
    small = replace(own, r=max(own.r - _SHRUNK, 0.0), R=own.R - _SHRUNK)
    out: list[Lean] = []
    first = 0.0
    pulse.begin("leaning the tool")
    for number, tilt in enumerate(LEANS):
        pulse.tell(number, len(LEANS))
        axis = axis_of(tilt, turn)
        frame = _upright(axis)
        ground = part.ground if tilt == 0 else Ground(_turned(mesh, frame))
        p, n = samples @ frame.T, facing @ frame.T
        looks = n[:, 2] > 1e-6
        level = n[:, :2] / np.maximum(np.linalg.norm(n[:, :2], axis=1), 1e-9)[:, None]
        tip = p + small.r * n - (0.0, 0.0, small.r)
        tip[:, :2] += small.rm * np.where(np.linalg.norm(n[:, :2], axis=1)[:, None] > 1e-6, level, 0.0)
        found = ground.drop(small, tip[:, :2])
        stands = looks & (found.z <= tip[:, 2] + _SINKS)
        if not stands.any():
            continue
        reach = reach_of(ground, np.ascontiguousarray(tip[stands]), rings_of(shape), SIDE, OVER)
        length = max(reach.length, parts.tool.APMX)
        bent = float(cut_at(result, decision, cutting.rpm, cutting.slope, stick_out_mm=length).state.deflection)
        first = first or bent
        cosine = facing @ axis
        out.append(Lean(tilt, turn, length, bent / max(first, 1e-12), float(stands.mean()),
                        float((cosine > np.cos(np.radians(10.0))).mean()), float((cosine < np.cos(np.radians(80.0))).mean())))  # fmt: skip
    return tuple(out)


def _samples(mesh: Mesh, up: Array) -> tuple[Array, Array]:
    """Places on the faces (n, 3) evenly by area, and their normals."""
    which = np.flatnonzero(up)
    gone = np.cumsum(mesh.areas[which])
    of = which[np.minimum(np.searchsorted(gone, (np.arange(_PLACES) + 0.5) / _PLACES * gone[-1]), len(which) - 1)]
    u = (0.5 + 0.7548776662466927 * np.arange(_PLACES)) % 1.0
    v = (0.5 + 0.5698402909980532 * np.arange(_PLACES)) % 1.0
    over = u + v > 1.0
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    t = mesh.triangles[of]
    return t[:, 0] + u[:, None] * (t[:, 1] - t[:, 0]) + v[:, None] * (t[:, 2] - t[:, 0]), mesh.normals[of]


def _upright(axis: Array) -> Array:
    """Rotation (3, 3) that brings an axis upright."""
    x = np.array((1.0, 0.0, 0.0)) - axis[0] * axis
    x /= np.linalg.norm(x)
    return np.stack((x, np.cross(axis, x), axis))


def _turned(mesh: Mesh, frame: Array) -> Mesh:
    return Mesh(mesh.points @ frame.T, mesh.corners, mesh.neighbours)
