"""Peaks and means of the map against turns of 3600 angles and fine slices, and what finer slices change.

The slices and angles of the map were chosen while watching the first four cutters; the others only check the choice.
"""

from __future__ import annotations

import numpy as np

from bench.forces import CUTTERS, DEPTHS, LAW, STEPOVERS, feeds_of, held
from bench.timing import report
from lesna.physics import Array, engine
from lesna.physics.edge.cutter import Cutter, Profile, heights, round_height, slices_of
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.sweep import sweep
from lesna.physics.edge.turn import windows

_ANGLES = 3600
#: places of the grid that are compared: the shallow and the thin ones, then every ninth
_PLACES = sorted({0, 1, 2, 3, 5, 7, *range(9, 96, 9), 95})
_POINTS = [(row, column) for row in _PLACES for column in _PLACES]
_AT = tuple(np.array(_POINTS).T)


def other(form: str, DC: float, r: float, kappa: float, tip: float, teeth: int, helix: float, runout: float = 0.0,
          swing: float = 0.0, profile: Profile | None = None) -> Cutter:  # fmt: skip
    """A cutter of which nothing in the map was chosen; swing: of the pitch [deg]."""
    places = 2 * np.pi * np.arange(teeth) / teeth + np.radians(swing) * np.sin(2.1 * np.arange(teeth))
    shape = Envelope(form, DC, r, np.radians(kappa), tip, 0.0, teeth, 2)
    return Cutter(shape, places, np.full(teeth, np.radians(helix)), runout, profile or Profile())


OTHERS = (
    ("corner 3 mm", other("round", 16.0, 3.0, 90.0, 0.0, 3, 40.0)),
    ("corner 0.5 mm, seven teeth", other("round", 12.0, 0.5, 90.0, 0.0, 7, 42.0)),
    ("ball 20 mm, runout", other("round", 20.0, 10.0, 90.0, 0.0, 2, 30.0, 0.005)),
    ("ball 6 mm", other("round", 6.0, 3.0, 90.0, 0.0, 4, 45.0)),
    ("high feed, straight", other("cone", 20.0, 0.0, 15.0, 12.54, 4, 0.0)),
    ("high feed, helix, runout", other("cone", 12.0, 0.0, 12.0, 6.35, 5, 20.0, 0.004)),
    ("face, 45 deg", other("straight", 50.0, 0.0, 45.0, 50.0, 6, 10.0)),
    ("chamfer", other("cone", 12.0, 0.0, 45.0, 1.0, 4, 0.0)),
    ("unequal pitch, runout", other("straight", 10.0, 0.0, 90.0, 10.0, 4, 38.0, 0.003, 4.0)),
    ("serrated", other("straight", 12.0, 0.0, 90.0, 12.0, 4, 35.0, profile=Profile("wave", 0.15, 1.6))),
)


def reference(
    cutter: Cutter, fz: float, ae: float, ap: float, finer: int, direction: str = "down"
) -> tuple[float, float, float]:
    """Peak side force [N], peak torque and mean torque [Nm] of one turn with every slice cut into `finer`."""
    edges = heights(cutter.shape, ap, cutter.profile)
    edges = np.interp(np.arange((len(edges) - 1) * finer + 1) / finer, np.arange(len(edges)), edges)
    slices = slices_of(cutter, edges)
    start, end = windows(slices, ae, direction)
    theta = (start if direction == "down" else end)[1, -1] + 2 * np.pi * np.arange(_ANGLES) / _ANGLES
    forces, means, _ = engine.kernel("turn")(slices, LAW, fz * cutter.teeth, (start, end), theta)
    return float(np.hypot(forces[0], forces[1]).max()), float(forces[3].max()), float(means[3])


def _off(found: Array, true: Array) -> tuple[float, float, float]:
    """Median and worst difference, and share of the points that are more than 4 % off, all in percent."""
    off = np.abs(found / true - 1)
    return 100 * float(np.median(off)), 100 * float(off.max()), 100 * float(np.mean(off > 0.04))


def compare(name: str, cutter: Cutter, grid: tuple[Array, Array, Array], direction: str = "down") -> None:
    """Prints how far the map is off; grid: feeds, stepovers and depths."""
    feeds, stepovers, depths = grid
    grids = sweep(cutter, LAW, feeds, stepovers, depths, direction=direction)
    true = np.array([reference(cutter, feeds[r, c], stepovers[c], depths[r], 4, direction) for r, c in _POINTS])
    figures = {}
    for place, (key, found) in enumerate(
        {"force": grids.fxy_peak, "torque": grids.torque_peak, "mean": grids.torque_mean}.items()
    ):
        median, worst, beyond = _off(np.asarray(found)[_AT], true[:, place])
        figures.update({f"{key}_median": median, f"{key}_worst": worst, f"{key}_beyond_4": beyond})
    report(f"map against 3600 angles, {name}, {direction}, percent", **figures)


def main() -> None:
    """Prints median and worst differences."""
    for name, cutter in CUTTERS:
        feeds = feeds_of(cutter)
        compare(name, cutter, (feeds, STEPOVERS, DEPTHS))
        true = np.array([reference(cutter, feeds[r, c], STEPOVERS[c], DEPTHS[r], 4) for r, c in _POINTS])
        once = np.array([reference(cutter, feeds[r, c], STEPOVERS[c], DEPTHS[r], 1) for r, c in _POINTS])
        report(f"slices four times as fine, {name}, percent", **{
            f"{key}_worst": _off(once[:, place], true[:, place])[1] for place, key in enumerate(("force", "torque", "mean"))
        })  # fmt: skip
    for name, cutter in OTHERS:
        shape = cutter.shape
        top = round_height(shape) if shape.form == "cone" else 1.5 * shape.DC
        stepovers, depths = shape.DC * np.arange(1, 97) / 96, top * np.arange(1, 97) / 96
        for direction in ("down", "up"):
            compare(name, cutter, (held(cutter, stepovers, depths), stepovers, depths), direction)
