"""Peaks and means of the map against turns of 3600 angles and fine slices, and what finer slices change."""

from __future__ import annotations

import numpy as np

from bench.forces import CUTTERS, DEPTHS, LAW, STEPOVERS, feeds_of
from bench.timing import report
from lesna.physics import Array, engine
from lesna.physics.cutter import Cutter, heights, slices_of
from lesna.physics.sweep import sweep
from lesna.physics.turn import windows

_ANGLES = 3600
#: places of the grid that are compared: the shallow and the thin ones, then every ninth
_PLACES = sorted({0, 1, 2, 3, 5, 7, *range(9, 96, 9), 95})


def reference(cutter: Cutter, fz: float, ae: float, ap: float, finer: int) -> tuple[float, float, float]:
    """Peak side force [N], peak torque and mean torque [Nm] of one turn with every slice cut into `finer`."""
    edges = heights(cutter.shape, ap, cutter.profile)
    edges = np.interp(np.arange((len(edges) - 1) * finer + 1) / finer, np.arange(len(edges)), edges)
    slices = slices_of(cutter, edges)
    start, end = windows(slices, ae, "down")
    theta = start[-1] + 2 * np.pi * np.arange(_ANGLES) / _ANGLES
    forces, means, _ = engine.ready().turn(slices, LAW, fz * cutter.teeth, (start, end), theta)
    return float(np.hypot(forces[0], forces[1]).max()), float(forces[3].max()), float(means[3])


def _off(found: Array, true: Array) -> tuple[float, float]:
    off = np.abs(found / true - 1)
    return float(np.median(off)), float(off.max())


def main() -> None:
    """Prints median and worst differences."""
    for name, cutter in CUTTERS:
        feeds = feeds_of(cutter)
        grids = sweep(cutter, LAW, feeds, STEPOVERS, DEPTHS)
        points = [(row, column) for row in _PLACES for column in _PLACES]
        true = np.array([reference(cutter, feeds[r, c], STEPOVERS[c], DEPTHS[r], 4) for r, c in points])
        at = tuple(np.array(points).T)
        figures = {}
        compared = {"force": grids.fxy_peak, "torque": grids.torque_peak, "mean": grids.torque_mean}
        for place, (key, grid) in enumerate(compared.items()):
            figures[f"{key}_median_percent"], figures[f"{key}_worst_percent"] = (
                100 * value for value in _off(np.asarray(grid)[at], true[:, place])
            )
        report(f"map against 3600 angles, {name}", **figures)
        once = np.array([reference(cutter, feeds[r, c], STEPOVERS[c], DEPTHS[r], 1) for r, c in points])
        report(f"slices four times as fine, {name}", **{
            f"{key}_worst_percent": 100 * _off(once[:, place], true[:, place])[1]
            for place, key in enumerate(("force", "torque", "mean"))
        })  # fmt: skip
