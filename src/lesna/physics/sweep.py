"""Peaks and means of the forces over many engagements at once, for the engagement map.

`sweep` runs compiled; `sweep_plain` asks `turn` for each point and is what tests compare.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, Num, engine
from lesna.physics.cutter import STRAIGHT_SHARE, Cutter, Slices, heights, round_height, slices_of
from lesna.physics.forces import ForceLaw
from lesna.physics.turn import turn_of

#: of the fine slices of a small corner, and of a larger round part, so many are taken as one (divisors of ROUND_STEPS)
_CORNER_STEP, _ROUND_STEP = 6, 1


@dataclass(frozen=True)
class Sweep:
    """Grids over rows of ap and columns of ae, or floats for one engagement.

    Attributes
    ----------
    fxy_peak, fx_mean, fy_mean, fz_mean, fz_max, fz_min : array (rows, columns)
        Side force at its peak, mean forces, range of the axial force [N].
    torque_mean, torque_peak : array (rows, columns)
        Torque [Nm].
    height : array (rows, columns)
        Height above the tip at which the tangential force acts [mm].
    """

    fxy_peak: Num
    fx_mean: Num
    fy_mean: Num
    fz_mean: Num
    fz_max: Num
    fz_min: Num
    torque_mean: Num
    torque_peak: Num
    height: Num


def sweep(cutter: Cutter, law: ForceLaw, fz: Array, ae: Array, ap: Array, *, direction: str = "down") -> Sweep:
    """Forces over a grid of engagements, compiled.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    law : ForceLaw
        Force per millimetre of edge.
    fz : array (rows, columns)
        Mean feed per tooth at each point [mm].
    ae, ap : array (columns,), (rows,)
        Radial engagements and axial depths, both rising [mm].
    direction : str
        ``down`` or ``up``.

    Returns
    -------
    Sweep
        Peaks and means at each point.
    """
    return Sweep(*engine.ready().sweep(cutter, law, fz, (ae, ap), direction))


def sweep_plain(cutter: Cutter, law: ForceLaw, fz: Array, ae: Array, ap: Array, *, direction: str = "down") -> Sweep:
    """The same, one turn after the other.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    law : ForceLaw
        Force per millimetre of edge.
    fz : array (rows, columns)
        Mean feed per tooth at each point [mm].
    ae, ap : array (columns,), (rows,)
        Radial engagements and axial depths [mm].
    direction : str
        ``down`` or ``up``.

    Returns
    -------
    Sweep
        Peaks and means at each point.
    """
    grids = np.empty((9, len(ap), len(ae)))
    for row, depth in enumerate(ap):
        for column, width in enumerate(ae):
            turn = turn_of(cutter, law, float(fz[row, column]), float(width), float(depth), direction=direction)
            fx, fy, fz_mean, torque = turn.means
            grids[:, row, column] = (turn.fxy.max(), fx, fy, fz_mean, turn.fz.max(), turn.fz.min(), torque,
                                     turn.torque.max(), turn.height)  # fmt: skip
    return Sweep(*grids)


def foot(cutter: Cutter, top: float) -> tuple[Slices, Array]:
    """Slices of the part of the edge that is not a plain flank, and their upper heights.

    A profiled edge, or teeth of unequal helix, have no plain flank: then this is the whole edge up to `top`.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    top : float
        Largest depth that is asked for [mm].

    Returns
    -------
    slices : Slices
        From the tip upwards; none for a plain straight edge.
    tops : array (m,)
        Upper height of each [mm].
    """
    shape = cutter.shape
    if not cutter.has_plain_flank:
        edges = heights(shape, top, cutter.profile)
    elif round_height(shape) > 0:
        edges = heights(shape, min(round_height(shape), max(top, STRAIGHT_SHARE * shape.DC)))
        # coarser than for one cut: a small corner is a small share of the edge, and a ball has many slices still
        step = _CORNER_STEP if round_height(shape) < shape.DC / 8 else _ROUND_STEP
        edges = edges[::step]
    else:
        edges = np.zeros(1)
    return slices_of(cutter, edges), edges[1:]
