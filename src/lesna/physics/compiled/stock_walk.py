"""A cutter walks through a height map with wall distances: what it meets at each step, and what it leaves behind."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.stock_cut import sweep
from lesna.physics.compiled.stock_rim import COSINE, OPTIONS, SINE, air_beside, meet, turn_rim, wall_at
from lesna.physics.compiled.stock_tip import meet_tip, sweep_tip


@machine_code(
    "i8(f4[:,:,::1],f8[:,::1],f8[:,::1],i8[::1],f8,f8,f8,f8[::1],f8[::1],f8[::1],f8,i8,i8[::1],f8[:,:,::1],f8[::1],f8[:,::1])",
    **OPTIONS,
)
def run_stock_walk(cells, points, heading, way, x0, y0, cell, shape, edges, scales, top, samples, counts, found, volume, beyond):  # type: ignore[no-untyped-def] # fmt: skip
    """Takes a cutter along points and fills what it meets on the way to each.

    points (n + 1, 3): the first is where it stands; heading (n, 2): unit vector at each further point, zero where it goes
    straight up or down; way (n,): 0 for a rapid, 1 for a feed, 2 for a feed of the same straight run as the step before;
    shape: radius, flat radius, corner radius [mm], rise [-] and foot [mm], at which the cylinder begins; edges, scales, top: as
    `meet_tip` has them, of no meaning where the foot is 0. counts (n,), found (n, most, 4), volume (n,) [mm3] and beyond (n, 2)
    are filled: intervals of a tip's levels first, then of the cylinder; beyond as `air_beside` has it.
    """
    n = points.shape[0] - 1
    R, per, foot = shape[0] / cell, 1.0 / cell, shape[4]
    samples = max(samples, 2) | 1
    rim = np.empty((8, samples))
    for k in range(samples):
        rim[SINE, k], rim[COSINE, k] = np.sin(k * np.pi / (samples - 1)), np.cos(k * np.pi / (samples - 1))
    tx = ty = 0.0
    k = 0
    while k < n:
        last = k
        while last + 1 < n and way[last + 1] == 2:
            last += 1
        for s in range(k, last + 1):
            x, y, z = (points[s + 1, 0] - x0) * per, (points[s + 1, 1] - y0) * per, points[s + 1, 2]
            counts[s] = 0
            if heading[s, 0] == 0.0 and heading[s, 1] == 0.0:
                continue
            if heading[s, 0] != tx or heading[s, 1] != ty:
                tx, ty = heading[s, 0], heading[s, 1]
                turn_rim(rim, samples, tx, ty, R)
            low = 0
            if foot > 0.0:
                low = meet_tip(cells, x, y, z, cell, shape[2], edges, scales, top, samples, rim, found, s)
            high = 0
            if foot == 0.0 or z + foot < top:
                high = meet(cells, x, y, z + foot, samples, rim, cell, found, s, low)
                for i in range(low, low + high):
                    found[s, i, 2] += foot
                    found[s, i, 3] = foot
                air_beside(cells, x, y, z + foot, tx, ty, R, found, s, low, high, beyond)
            counts[s] = low + high
        ax, ay, az = (points[k, 0] - x0) * per, (points[k, 1] - y0) * per, points[k, 2]
        bx, by, bz = (points[last + 1, 0] - x0) * per, (points[last + 1, 1] - y0) * per, points[last + 1, 2]
        if foot > 0.0:
            whole = sweep_tip(cells, ax, ay, az, bx, by, bz, R, cell, shape[1], shape[2], shape[3], foot)
        else:
            whole = sweep(cells, ax, ay, bx, by, min(az, bz), R, 1 if k > 0 and az == bz else 0)
        for s in range(k, last + 1):
            volume[s] = whole * cell * cell / (last + 1 - k)
        k = last + 1
    return n


@machine_code("i8(f4[:,:,::1],f8[:,::1],f8,f8,f8,f8,f8[:,::1])", **OPTIONS)
def run_stock_strikes(cells, points, x0, y0, cell, radius, out):  # type: ignore[no-untyped-def]
    """Highest material within a radius of each point above its z, into out (n, 1): what a disc would touch."""
    R = radius / cell
    for k in range(points.shape[0]):
        x, y = (points[k, 0] - x0) / cell, (points[k, 1] - y0) / cell
        most = 0.0
        for r in range(max(int(np.ceil(y - R)), 0), min(int(y + R), cells.shape[0] - 1) + 1):
            half = np.sqrt(max(R * R - (r - y) ** 2, 0.0))
            for c in range(max(int(np.ceil(x - half)), 0), min(int(x + half), cells.shape[1] - 1) + 1):
                most = max(most, cells[r, c, 0] - points[k, 2])
        out[k, 0] = most
    return points.shape[0]


@machine_code("i8(f4[:,:,::1],f8[:,::1],f8,f8,f8,f8[:,::1])", **OPTIONS)
def run_stock_depths(cells, points, x0, y0, cell, out):  # type: ignore[no-untyped-def]
    """How far points lie in the material at their height, negative in the air, at most the reach of a wall; into out (n, 1)."""
    for k in range(points.shape[0]):
        out[k, 0] = cell * wall_at(cells, (points[k, 0] - x0) / cell, (points[k, 1] - y0) / cell, points[k, 2])
    return points.shape[0]


@machine_code("void(i8[::1],f8[::1],f8[:,::1],f8,f8,i8[::1])", **OPTIONS)
def run_straight_runs(follows, length, heading, longest, turn, way):  # type: ignore[no-untyped-def]
    """Marks steps of a straight run with 2 in `way`.

    follows (m,): steps that go on as the step before, rising; length (n,) [mm]; heading (n, 2): unit vectors; longest: of a run [mm];
    turn: by which all of it turns at the most [rad].
    """
    run, x, y = 0.0, 1.0, 0.0
    for k in follows:
        if way[k - 1] != 2:
            run, x, y = length[k - 1], heading[k - 1, 0], heading[k - 1, 1]
        # a wide curve turns little from step to step, and yet far from where the run began
        a, b = heading[k, 0], heading[k, 1]
        if run + length[k] <= longest and a * x + b * y > 0.0 and abs(a * y - b * x) < turn:
            way[k] = 2
            run += length[k]
