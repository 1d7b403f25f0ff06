"""How far a tool has to stick out so that its holder clears the part on a whole path: exact, in one pass."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, engine
from lesna.surface.drops import Ground, frustum


@dataclass(frozen=True)
class Ring:
    """A piece of a holder: a cone between two heights over its face.

    Attributes
    ----------
    name : str
        What it is called.
    low, high : float
        Radius at its lower and upper end [mm].
    begins, ends : float
        Heights over the face [mm].
    """

    name: str
    low: float
    high: float
    begins: float
    ends: float


@dataclass(frozen=True)
class Reach:
    """What a path asks of a holder.

    Attributes
    ----------
    length : float
        Shortest stick-out [mm].
    piece : str
        The piece of the holder that asks for it; empty where nothing does.
    place : tuple of float
        Tip at which it does (x, y, z) [mm].
    """

    length: float
    piece: str
    place: tuple[float, float, float]


def reach_of(ground: Ground, tips: Array, rings: tuple[Ring, ...], side: float, over: float) -> Reach:
    """The shortest stick-out of a holder over a path.

    Parameters
    ----------
    ground : Ground
        The part.
    tips : array (n, 3)
        Where the tip goes [mm].
    rings : tuple of Ring
        The holder.
    side, over : float
        Clearance beside it, and under its face [mm].
    """
    most, piece, place = 0.0, "", (0.0, 0.0, 0.0)
    tips = np.ascontiguousarray(tips)
    for ring in rings:
        shape = frustum(ring.low + side, ring.high + side, ring.ends - ring.begins)
        found, at = engine.kernel("surface_reach")(*ground.under(shape), tips, ring.begins, most)
        if at >= 0:
            most, piece = float(found), ring.name
            x, y, z = tips[at].tolist()
            place = (x, y, z)
    return Reach(most + over if piece else 0.0, piece, place)
