"""Peaks and means of the forces over many engagements at once, for the engagement map.

`sweep` runs compiled; `sweep_plain` asks `turn` for each point and is what tests compare.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, Num, engine
from lesna.physics.edge.cutter import Cutter, heights, round_height
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.edge.turn import turn_of

#: slices of a small corner, which is a small share of the edge; larger round parts have ROUND_STEPS
_ROUND_SLICES = 14
_CORNER_SLICES = 5
#: least slices below the shallowest depth
_LEAST_SLICES = 4
#: a depth this near to the last slice, as a share of its own place, is read between slices
_NEAR = 0.025
#: relative difference below which two depths are one
_SAME = 1e-9


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

    def scaled(self, factor: Num) -> Sweep:
        """The same loads so many times as large, acting where they did [-]."""
        return Sweep(**{name: value if name == "height" else factor * value for name, value in vars(self).items()})


def sweep(cutter: Cutter, law: ForceLaw, fz: Array, ae: Array, ap: Array, *, direction: str = "down") -> Sweep:
    """Forces over a grid of engagements, compiled; columns of one stepover and one feed, as of many speeds, are summed once."""
    # the sums keep no more digits than these
    keys = np.column_stack((ae, fz.T)).astype(np.float32)
    _, first, place = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    loads = engine.kernel("sweep")(cutter, law, fz[:, first], (ae[first], ap), direction)
    return Sweep(*loads[:, :, place.ravel()])


def sweep_plain(cutter: Cutter, law: ForceLaw, fz: Array, ae: Array, ap: Array, *, direction: str = "down") -> Sweep:
    """The same, one turn after the other."""
    grids = np.empty((9, len(ap), len(ae)))
    for row, depth in enumerate(ap):
        for column, width in enumerate(ae):
            turn = turn_of(cutter, law, float(fz[row, column]), float(width), float(depth), direction=direction)
            fx, fy, fz_mean, torque = turn.means
            grids[:, row, column] = (turn.fxy.max(), fx, fy, fz_mean, turn.fz.max(), turn.fz.min(), torque,
                                     turn.torque.max(), turn.height)  # fmt: skip
    return Sweep(*grids)


def foot(cutter: Cutter, ap: Array) -> Array:
    """Slices of the part of the edge that is not a plain flank.

    A profiled edge, or teeth of unequal helix, have no plain flank: then this is the whole edge. On a round or conical
    part the depths that are asked for are ends of slices wherever they do not lie closer than a slice needs to be.
    """
    shape = cutter.shape
    if not cutter.has_plain_flank:
        return heights(shape, float(ap[-1]), cutter.profile)
    low = round_height(shape)
    edges = [0.0]
    # equal steps of the lead angle on a round part, of the height on a cone
    whole = np.pi / 2 if shape.form == "round" else low
    # a depth within rounding of the last one is that one
    ends = np.append(ap[ap < low * (1 - _SAME)], low)
    places = np.arccos(1 - ends / shape.r) if shape.form == "round" else ends
    coarsest = whole / (_CORNER_SLICES if low < shape.DC / 8 else _ROUND_SLICES)
    for place in places.tolist() if low > 0 else []:
        gap = place - edges[-1]
        if gap < _NEAR * place and place < whole:
            continue
        count = max(1 if len(edges) > 1 else _LEAST_SLICES, math.ceil(gap / coarsest - 1e-9))
        below = edges[-1]
        edges.extend(below + gap * step / count for step in range(1, count + 1))
    found = np.array(edges)
    return shape.r * (1 - np.cos(found)) if shape.form == "round" else found
