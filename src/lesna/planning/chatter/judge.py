"""Where a cut chatters: by what was measured, else by the estimate that stands in for it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.chatter.estimate import estimate_of, estimated_depth
from lesna.planning.cut.result import Basis, Chatter
from lesna.planning.cut.setup import CutSetup

if TYPE_CHECKING:
    from lesna.planning.chatter.stability import Growth

#: the flank's damping is known within these factors
DAMPING_SPAN = (0.5, 1.5)


def chatter_of(setup: CutSetup) -> Chatter | None:
    """Where a set-up chatters at its own speed and stepover, judged at its own depth; None where nothing is known.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    """
    if not setup.parts.cut.is_judged_by_modes:
        return estimate_of(setup)
    from lesna.planning.chatter.stability import deepest_of, over_stepover  # most cuts are never measured

    cut = setup.parts.cut
    ae, ap = np.array([cut.ae_mm]), np.array([cut.ap_mm])
    growth = over_stepover(setup, ae)
    depth = float(growth.limits_at(cut.ae_mm, ap)[0])
    ends = [float(over_stepover(setup, ae, flank=share).lowest()[0]) for share in DAMPING_SPAN]
    basis: Basis = "simulated" if cut.is_simulated else "measured"
    return Chatter(
        basis, depth, min(depth, *ends), max(depth, *ends), growth.frequency_at(cut.ae_mm), growth.method_at(cut.ae_mm),
        deepest_of(setup),
    )  # fmt: skip


def measured_over_stepover(setup: CutSetup, ae: Array | None = None, pulse: Pulse = STEADY) -> Growth | None:
    """Growth over the stepover of a measured set-up; None where only the estimate speaks.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    ae : array (k,) or None
        Stepovers, rising; None for those of the map [mm].
    pulse : Pulse
        Told how far it is; may stop it.
    """
    if not setup.parts.cut.is_judged_by_modes:
        return None
    from lesna.planning.chatter.stability import over_stepover

    return over_stepover(setup, ae, pulse=pulse)


def depths_over(setup: CutSetup, ae: Array, ap: Array, growth: Growth | None) -> Array | None:
    """Depth of chatter that every point of a grid is judged by (rows, columns) [mm]; None where nothing is known."""
    if growth is not None:
        return np.column_stack([growth.limits_at(float(place), ap) for place in ae])
    depth = None if setup.parts.cut.is_judged_by_modes else estimated_depth(setup, ae)
    return None if depth is None else np.broadcast_to(depth, (len(ap), len(ae)))
