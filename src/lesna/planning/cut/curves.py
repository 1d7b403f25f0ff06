"""What curves make of an engagement: loops of a trochoid, inner corners."""

from __future__ import annotations

from lesna.physics.edge import engagement
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State


def loop_radius(setup: CutSetup) -> float | None:
    """Radius of a trochoid's loops [mm]: what is left beside the tool in its slot; None where nothing is, or no loops run."""
    cut = setup.parts.cut
    feature = cut.feature
    if cut.strategy != "trochoidal" or feature is None or feature.kind != "slot" or feature.width_mm is None:
        return None
    loop = (feature.width_mm - 2 * feature.stock_wall_mm - setup.shape.DC) / 2
    return loop if loop > 0 else None


def loop_advance(setup: CutSetup, ae: float) -> float | None:
    """Advance from loop to loop that engages the tool like a straight stepover [mm]; None where no loops run."""
    loop = loop_radius(setup)
    return None if loop is None else float(engagement.trochoid_advance(setup.shape.DC / 2, loop, ae))


def curve_radius(setup: CutSetup, state: State) -> float | None:
    """Radius of the tool centre's path in an inner corner [mm]; 0 where the tool is as round as the corner.

    None where no corner is known, and in loops, whose advance is chosen for the engagement.
    """
    feature = setup.parts.cut.feature
    if feature is None or feature.corner_radius_mm is None or feature.kind not in ("pocket", "shelf"):
        return None
    return max(0.0, feature.corner_radius_mm - float(state.d_eff) / 2)


def corner_angle(setup: CutSetup, state: State) -> float | None:
    """Widest engagement angle in an inner corner [rad]; None where none is known."""
    rho = curve_radius(setup, state)
    return None if rho is None else float(engagement.concave_angle(float(state.d_eff) / 2, float(state.ae), rho))
