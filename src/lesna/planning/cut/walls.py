"""How far off the wall stands that a bending tool leaves."""

from __future__ import annotations

import math

import numpy as np

from lesna.physics.edge.turn import Turn
from lesna.planning.cut.setup import CutSetup

#: heights of an edge at which the error of the wall is read
_WALL_HEIGHTS = 25


def wall_error_of(setup: CutSetup, turn: Turn, ap: float, height: float) -> float:
    """Deflection normal to the finished surface when the edge that makes it passes, at its worst height [um].

    Positive leaves material, negative cuts into the part. On a slope the component along the surface's normal counts.
    """
    bar, cut = setup.structure.beam, setup.parts.cut
    at_wall, toward = (math.pi, 1.0) if cut.direction == "down" else (0.0, -1.0)
    z = np.linspace(0.0, ap, _WALL_HEIGHTS)
    fy = turn.at(at_wall + float(setup.cutter.leads[0]) * z)[1]
    error = 1000.0 * toward * fy * bar.compliance(np.minimum(z, bar.length), min(height, bar.length)) * _normal(setup)
    return float(error[int(np.argmax(np.abs(error)))])


def _normal(setup: CutSetup) -> float:
    """Share of a sideways deflection along the normal of the finished surface: all of it on a wall."""
    feature = setup.parts.cut.feature
    if feature is None or feature.kind not in ("surface", "face"):
        return 1.0
    return math.sin(math.radians(feature.slope_deg or 0.0)) if feature.kind == "surface" else 0.0


def is_finishing(setup: CutSetup) -> bool:
    """Whether the wall it leaves is what counts, not how far the tip bends."""
    return setup.parts.cut.finishes_wall
