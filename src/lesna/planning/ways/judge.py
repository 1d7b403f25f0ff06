"""A path judged by its program: read back, taken through the stock, and measured against what was wanted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.geometry.motion import RAPID
from lesna.model.resolve import CutParts
from lesna.nc.read import read_program
from lesna.physics import Array
from lesna.planning.program.places import Finding
from lesna.planning.program.run import Run, Tell, geometry_of, run_of
from lesna.planning.program.stock import Stock
from lesna.planning.program.work import Look, Work
from lesna.planning.ways.make import Route

#: material round a floor beyond its closed sides, over the radius
_ROUND = 1.5
#: step along the path over the radius
_STEP = 1.0 / 24.0
#: engagement over the target under which nothing is cut
_NOTHING = 0.05
#: material higher than this above the floor is left [mm]
_LEFT = 0.03
#: cells beside a wall are not looked at so far in [mm]
_BORDER = 0.05


@dataclass(frozen=True)
class Judged:
    """What the simulation says of a path.

    Attributes
    ----------
    run : Run
        The simulation of its program.
    stepovers : array (n,)
        Stepover that each step of a cutting pass takes, over the one wanted [-].
    lengths : array (n,)
        Length of those steps [mm].
    leftover : float
        Area of the floor that the tool could reach and on which something stands [mm2].
    slivers : tuple of Finding
        Thin webs at the time they are cut.
    """

    run: Run
    stepovers: Array
    lengths: Array
    leftover: float
    slivers: tuple[Finding, ...]

    def share(self, quantile: float) -> float:
        """Stepover over the one wanted that so much of the way in the cut stays under [-]."""
        on = self.stepovers > _NOTHING
        if not on.any():
            return 0.0
        order = np.argsort(self.stepovers[on])
        gathered = np.cumsum(self.lengths[on][order])
        place = min(int(np.searchsorted(gathered, quantile * gathered[-1])), len(order) - 1)
        return float(self.stepovers[on][order][place])


def stock_round(route: Route, radius: float) -> Stock:
    """The block that a floor is cut from: material round its walls, air beyond its open sides.

    Parameters
    ----------
    route : Route
        The path.
    radius : float
        Of the cutter [mm].
    """
    left, low, right, high = route.region.floor.bounds
    out = {side: 0.0 if side in route.region.open_sides else _ROUND * radius for side in ("x-", "x+", "y-", "y+")}
    return Stock((left - out["x-"], low - out["y-"], route.floor - radius), (right + out["x+"], high + out["y+"], 0.0),
                 told="the block round the feature")  # fmt: skip


def judged(route: Route, content: bytes, parts: CutParts, tell: Tell | None = None) -> Judged:
    """Reads a path's program back and simulates it.

    Parameters
    ----------
    route : Route
        The path it was written from.
    content : bytes
        The program.
    parts : CutParts
        The cut.
    tell : callable or None
        Told (done, total); may raise to stop [-].
    """
    R = parts.tool.DC / 2
    program = read_program(content)
    work = Work(parts, stock_round(route, R), Look(step=max(_STEP * R, 0.05)))
    run = run_of(geometry_of(program, work, tell))
    g = run.geometry
    cutting = _within(program.lines, "cut")[np.maximum(program.moves.line[g.steps.move] - 1, 0)]
    here = cutting & (program.moves.kind[g.steps.move] != RAPID) & (np.linalg.norm(g.steps.heading, axis=1) > 0)
    a, b = g.engagement.found[here, :, 0], g.engagement.found[here, :, 1]
    low = g.engagement.found[here, :, 3]
    valid = np.arange(a.shape[1])[None, :] < g.engagement.counts[here, None]
    # where levels of a tip are met apart, the cylinder or else the widest of them tells of the stepover
    top = low.max(axis=1, keepdims=True, initial=0.0)
    wide = np.where(valid & (low >= top - 1e-9), np.cos(a) - np.cos(b), 0.0)
    taken = R * wide.sum(axis=1)
    return Judged(
        run, taken / route.stepover, g.steps.length[here], _leftover(route, run, R, parts),
        tuple(finding for finding in g.findings if finding.kind == "sliver"),
    )  # fmt: skip


def _within(lines: Sequence[str], intent: str) -> Array:
    """Whether each line belongs to a stretch of an intent, which a comment before it names."""
    out, inside = np.zeros(len(lines), dtype=bool), False
    for number, line in enumerate(lines):
        if "(" in line and line.strip().lstrip("N0123456789 ").startswith("("):
            inside = line.strip().lstrip("N0123456789 ").startswith(f"({intent}")
        out[number] = inside
    return out


def _leftover(route: Route, run: Run, radius: float, parts: CutParts) -> float:
    import shapely

    feature = parts.cut.feature
    wall = 0.0 if feature is None else feature.stock_wall_mm
    middles = route.region.extended(3 * radius).buffer(-wall - radius)
    reachable = middles.buffer(radius - _BORDER, quad_segs=64).intersection(route.region.floor)
    left = run.geometry.left
    rows, columns = np.nonzero(left.height > route.floor + _LEFT)
    x, y = left.origin[0] + left.cell * columns, left.origin[1] + left.cell * rows
    shapely.prepare(reachable)
    return float(shapely.contains_xy(reachable, x, y).sum()) * left.cell**2


def data_of(route: Route, found: Judged, blocks: int, seconds: float, parts: CutParts) -> dict[str, Any]:
    """The object of ``lesna path --json``.

    Parameters
    ----------
    route : Route
        The path.
    found : Judged
        Its simulation.
    blocks : int
        Of the program.
    seconds : float
        That making it took [s].
    parts : CutParts
        The cut.
    """
    R = parts.tool.DC / 2

    def degrees(share: float) -> float:
        return float(np.degrees(np.arccos(np.clip(1 - share * route.stepover / R, -1.0, 1.0))))

    g = found.run.geometry
    removed = float(g.engagement.volume[g.judged].sum()) / 1000.0
    time = float(found.run.times.time.sum())
    cutting = route.way.length_of("cut", "wall")
    return {
        "length_cut_mm": cutting, "length_link_mm": route.way.length_of("link", "retract"), "time_s": time,
        "q_mean_cm3_min": removed / time * 60.0 if time > 0 else 0.0,
        "engagement": {"target_deg": degrees(1.0), "median_deg": degrees(found.share(0.5)), "p95_deg": degrees(found.share(0.95)),
                       "max_deg": degrees(float(found.stepovers.max(initial=0.0))), "p95_over_target": found.share(0.95),
                       "max_over_target": float(found.stepovers.max(initial=0.0))},
        "leftover_mm2": found.leftover,
        "slivers": [{"x": f.place[0], "y": f.place[1], "z": f.place[2], "thickness_mm": f.value, "line": f.line} for f in found.slivers],
        "points": blocks, "passes": route.way.passes, "levels": route.levels, "compute_s": seconds,
    }  # fmt: skip
