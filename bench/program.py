"""Engagement along a path and the whole way to levelled feeds, over NumPy's minimum of 60 x 60 windows; one thread.

Workload: a zig-zag pocket with arcs and ramps, DC 12 mm, cells of 0.2 mm, steps of 0.5 mm, 100 000 of them.
"""

from __future__ import annotations

import resource
import time

import numpy as np

from bench.timing import report
from lesna.geometry.motion import CCW, CW, LINE, RAPID, Motion
from lesna.physics import Array, engine
from lesna.physics.compiled import OF_PATHS
from lesna.physics.edge.along import along
from lesna.physics.edge.cutter import Cutter
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.motion import Axes, Straight, times
from lesna.stock.body import Body
from lesna.stock.field import block
from lesna.stock.steps import Steps, steps_of
from lesna.stock.walk import Engagement, walk

_STEPS = 100_000
_ROUNDS = 9
R, STEP, CELL = 6.0, 0.5, 0.2
BODY = Body(R)


def pocket(reach: float = 70.0, depth: float = 4.0, ramp: float = 3.0) -> Motion:
    """Rows joined by half circles in both directions, ramped down from level to level, as long as 100 000 steps."""
    rows: list[tuple[int, float, float, float, float, float]] = []
    x, y, z = -reach, 0.0, 0.0

    def go(kind: int, u: float, v: float, w: float, a: float = np.nan, b: float = np.nan) -> None:
        rows.append((kind, u, v, w, a, b))

    length, level = 0.0, 0
    while length < _STEPS * STEP * 1.02:
        level += 1
        go(RAPID, -reach, 0.0, -depth * (level - 1))
        side, y = 1, 0.0
        go(LINE, -reach + depth / np.tan(np.radians(ramp)), 0.0, -depth * level)  # down a ramp
        go(LINE, -reach, 0.0, -depth * level)
        length += 2 * depth / np.tan(np.radians(ramp))
        for row in range(16):
            go(LINE, reach * side, y, -depth * level)
            length += 2 * reach
            if row < 15:
                stepover = 6.0 if row % 3 else 3.6
                go(CCW if side > 0 else CW, reach * side, y + stepover, -depth * level, reach * side, y + stepover / 2)
                y, side = y + stepover, -side
                length += np.pi * stepover / 2
        go(RAPID, reach * side, y, 5.0)
        go(RAPID, -reach, 0.0, 5.0)
    data = np.array(rows)
    ends = data[:, 1:4]
    starts = np.vstack(((x, 0.0, z), ends[:-1]))
    kind = data[:, 0].astype(np.int64)
    centre = np.column_stack((data[:, 4:6], starts[:, 2]))
    sweep = np.where(kind == CCW, np.pi, np.where(kind == CW, -np.pi, 0.0))
    feed = np.where(kind == RAPID, np.nan, 1200.0)
    n = len(kind)
    return Motion(
        kind, starts, ends, centre, np.full(n, 2), sweep, feed, np.full(n, 4000.0), np.tile([0.0, 0.0, 1.0], (n, 1))
    )


def windows_per_second() -> float:
    """Minimum of a window and a tool, again and again."""
    whole, tool = np.zeros((900, 900), dtype=np.float32), np.zeros((60, 60), dtype=np.float32)
    places = np.random.default_rng(1).integers(0, 840, (20_000, 2))
    start = time.perf_counter()
    for i, j in places.tolist():
        window = whole[i : i + 60, j : j + 60]
        np.minimum(window, tool, out=window)
    return len(places) / (time.perf_counter() - start)


def _levelled(steps: Steps, met: Engagement, cutter: Cutter, law: ForceLaw) -> Array:
    """Forces at three feeds, the feed at which each step has the peak of the 99.5th percentile, and the time."""
    tables = along(cutter, law, float(met.depth.max()), (0.03, 0.3))
    feeds = tables.nodes[[4, 7, 10]]
    peaks = np.stack([tables.loads(met.counts, met.found, np.full(len(steps), fz)).fxy_peak for fz in feeds])
    target = np.percentile(peaks[1][met.counts > 0], 99.5)
    power = 0.75
    slope = (peaks[1:] - peaks[:-1]) / np.diff(feeds**power)[:, None]
    part = np.where(peaks[1] < target, 1, 0)
    rows = np.arange(len(steps))
    found = feeds[part] ** power + (target - peaks[part, rows]) / np.maximum(slope[part, rows], 1e-9)
    fz = np.where(met.counts > 0, np.clip(found, feeds[0] ** power, feeds[-1] ** power) ** (1 / power), feeds[-1])
    chord = steps.end - steps.start
    way = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-12)[:, None]
    axes = Axes(np.full(3, 4000.0), 50_000.0, np.full(3, 400.0), 300.0, np.full(3, 300.0), 1000.0, 0.01)
    ways = Straight(way, way, steps.joined, np.full(len(steps), np.inf), axes)
    return times(steps.length, fz * 4 * 4000 / 60.0, ways, axes.jerk).time


def main() -> None:
    """Prints the ratios."""
    engine.ready(names=OF_PATHS)
    steps = steps_of(pocket(), STEP).part(slice(0, _STEPS))
    cutter = Cutter(
        Envelope("straight", 12.0, 0.0, np.pi / 2, 12.0, 0.0, 4, 4),
        np.arange(4) * np.pi / 2,
        np.full(4, np.radians(40.0)),
    )
    law = ForceLaw(mc=0.25, kienzle=np.array([1800.0, 720.0, 480.0]))
    engage, whole, windows, share = [], [], [], 0.0
    for _ in range(_ROUNDS):
        windows.append(windows_per_second())
        stock = block((-85.0, -15.0, -60.0), (85.0, 95.0, 0.0), CELL)
        start = time.perf_counter()
        met = walk(stock, steps, BODY)
        middle = time.perf_counter()
        _levelled(steps, met, cutter, law)
        end = time.perf_counter()
        engage.append(_STEPS / (middle - start))
        whole.append(_STEPS / (end - start))
        flat = np.linalg.norm(steps.heading, axis=1) > 0
        level = flat & (np.abs(steps.end[:, 2] - steps.start[:, 2]) < 1e-9)
        share = float(met.swept(BODY, steps.length)[level].sum() / met.volume[level].sum())
    # the least disturbed round of each: rounds take turns, and anything else that runs only slows them
    quick, all_of_it, windowed = max(engage), max(whole), max(windows)
    report(
        "program", steps=_STEPS, seconds_engagement=_STEPS / quick, seconds_whole=_STEPS / all_of_it,
        engagement_over_windows=quick / windowed, whole_over_windows=all_of_it / windowed, flux_over_cells=share,
    )  # fmt: skip
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    wide = block((-300.0, -200.0, -50.0), (300.0, 200.0, 0.0), CELL)
    report("program, 600 x 400 mm", cells_million=wide.height.size / 1e6,
           gigabytes=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6, before_gigabytes=before / 1e6)  # fmt: skip


if __name__ == "__main__":
    main()
