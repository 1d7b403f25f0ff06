"""A mode for the simulated stand-ins: the bending of the computed beam, made so stiff and calm that chatter begins where the estimate says.

The beam alone chatters 3 to 40 times too early (physics.md section 11). A simulated hammer or microphone that showed it would turn a
cut that shops run every day into one that cannot be run.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lesna.model.job import TapMode
from lesna.physics import Array
from lesna.physics.structure.beam import Mode
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.stability import deepest_of, over_stepover
from lesna.planning.cut.setup import CutSetup

#: damping that a joint can have at most [-]; what is more goes into the stiffness
_MOST_DAMPED = 0.12
#: stiffest tip that is believed [N/um]
_STIFFEST = 2000.0
#: how close the boundary comes to the estimate [-], and after how many tries at the latest
_CLOSE, _TRIES = 0.1, 12
#: share of the depths looked at in which the boundary is sought; deeper ones follow in proportion
_WITHIN = 0.8
#: a step of a try at most, either way
_STEP = 30.0
#: frequency of the beam's first bending, and lower ones as of spindle and machine, which the flank damps less at slow speeds
_LOWER = (1.0, 0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3)


def stand_in_mode(setup: CutSetup) -> Mode:
    """The mode at the tip, alike in both directions, with which this set-up chatters at its speed and stepover where the estimate says.

    The first bending of the computed beam as it is where the tables name no depth.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    """
    bending = setup.structure.modes[0]
    depth = estimated_depth(setup, setup.parts.cut.ae_mm)
    if depth is None:
        return bending
    aim = min(float(depth), _WITHIN * deepest_of(setup))
    tried = []
    for lower in _LOWER:
        mode = replace(bending, frequency=lower * bending.frequency)
        off, factor = _factor_for(setup, mode, aim)
        tried.append((off, _calmer(mode, factor * float(depth) / aim)))
        if off <= _CLOSE:
            break
    return min(tried, key=lambda one: one[0])[1]


def _factor_for(setup: CutSetup, mode: Mode, aim: float) -> tuple[float, float]:
    """How much stiffer and calmer a mode must be for a boundary, and how far off that one is then [-].

    Depths near the boundary may all be calm or none, by the helix and by the damping of the flank, which grows with the depth.
    """
    low, high, factor = 0.0, np.inf, 1.0
    tried = []
    for _ in range(_TRIES):
        found = _boundary(setup, _calmer(mode, factor))
        tried.append((abs(float(np.log(found / aim))), factor))
        if tried[-1][0] <= _CLOSE:
            break
        low, high = (factor, high) if found < aim else (low, factor)
        factor *= float(np.clip(aim / found, 1 / _STEP, _STEP))
        if not low < factor < high:
            factor = float(np.sqrt(low * high))
    return min(tried)


def singing_of(setup: CutSetup) -> float:
    """Frequency of the chatter that the stand-in brings at this speed and stepover [Hz]; 0 where it brings none."""
    return over_stepover(_with(setup, stand_in_mode(setup)), _here(setup)).frequency_at(setup.parts.cut.ae_mm)


def _calmer(mode: Mode, factor: float) -> Mode:
    """A mode whose stiffness times damping is so many times as large, both by the same share as far as they can be."""
    zeta = min(mode.zeta * float(np.sqrt(factor)), max(_MOST_DAMPED, mode.zeta))
    return Mode(mode.frequency, min(mode.stiffness * factor * mode.zeta / zeta, _STIFFEST), zeta)


def _here(setup: CutSetup) -> Array:
    return np.array([setup.parts.cut.ae_mm])


def _boundary(setup: CutSetup, mode: Mode) -> float:
    return float(over_stepover(_with(setup, mode), _here(setup)).lowest()[0])


def _with(setup: CutSetup, mode: Mode) -> CutSetup:
    tapped = tuple(
        TapMode(axis=axis, f_hz=mode.frequency, k_n_um=mode.stiffness, zeta=mode.zeta, simulated=True)
        for axis in ("x", "y")
    )
    cut = setup.parts.cut.model_copy(update={"tap_modes": tapped})
    return replace(setup, parts=replace(setup.parts, cut=cut))
