"""The tip of a ball, a large corner radius, a chamfer or a lead-angle tool in a height map.

It is met level by level, each a circle against the heights; at each angle the share of a level that is engaged follows from the
circles of its two edges. The cylinder above it is met as `stock_rim` has it.
"""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.stock_cut import keep_wall, off_edge, row_ends, share_of
from lesna.physics.compiled.stock_rim import ACROSS, AT, BAND, OPTIONS, REACH, TALL, TOLERANCE, UP, WALL, wall_at

#: intervals that a level can have
PER_LEVEL = 2
#: rows of the rim that hold a level's lower and upper edge, and the share between them that is engaged
LOW, HIGH, PART = AT, WALL, TALL
#: heights are known to this [mm]
_TOUCHING = 5e-4
#: samples of a level lie so many cells apart
_APART = 1.6


@machine_code("f8(f4[:,:,::1],f8,f8,f8,f8)", **OPTIONS)
def _over(cells, x, y, z, slack):  # type: ignore[no-untyped-def]
    """How far material stands over z at a point, below 0 where it does not reach up to it.

    Elsewhere the height between the middles of four cells tells [mm]; beside a wall the distance to it does [cells].
    """
    i, j = int(x), int(y)
    if x < 0.0 or y < 0.0 or i >= cells.shape[1] - 1 or j >= cells.shape[0] - 1:
        return -1.0
    u, w = x - i, y - j
    between, walled = 0.0, False
    for k in range(4):
        c, r = np.uintp(i + (k & 1)), np.uintp(j + (k >> 1))
        between += (u if k & 1 else 1.0 - u) * (w if k >> 1 else 1.0 - w) * cells[r, c, 0]
        walled = walled or (cells[r, c, 2] <= z + TOLERANCE and abs(cells[r, c, 1]) < BAND)
    return wall_at(cells, x, y, z) if walled else between - z - slack


@machine_code("f8(f8,f8)", **OPTIONS)
def _part(low, high):  # type: ignore[no-untyped-def]
    """Share of a level that is engaged at an angle, from how far material stands over its lower and its upper edge."""
    if low > 0.0 and high > 0.0:
        return 1.0
    if low <= 0.0 and high <= 0.0:
        return 0.0
    return max(low, high) / (max(low, high) - min(low, high))


@machine_code("i8(f8[:,::1],f8,f8,i8,i8,f8[:,:,::1],i8,i8)", **OPTIONS)
def _level(rim, low, high, samples, stride, found, s, count):  # type: ignore[no-untyped-def]
    """Adds the intervals of one level to those of step s; gives their number.

    They end where half of the greatest share is engaged, and reach as high as the shares make in all.
    """
    step = np.pi / (samples - 1) * stride
    first = count
    for n in range(0, samples, stride):
        rim[PART, n] = _part(rim[LOW, n], rim[HIGH, n])
    n = 0
    while n < samples and count - first < PER_LEVEL:
        if rim[PART, n] <= 0.0:
            n += stride
            continue
        begins, peak, area = n, 0.0, 0.0
        while n < samples and rim[PART, n] > 0.0:
            peak = max(peak, rim[PART, n])
            area += rim[PART, n] * step * (0.5 if n == 0 or n == samples - 1 else 1.0)
            n += stride
        a, b = begins, n - stride
        while rim[PART, a] < 0.5 * peak:
            a += stride
        while rim[PART, b] < 0.5 * peak:
            b -= stride
        begin, end = a * step / stride, b * step / stride
        if a > 0:
            before = rim[PART, a - stride]
            begin -= step * (rim[PART, a] - 0.5 * peak) / (rim[PART, a] - before)
        if b < samples - 1:
            after = rim[PART, b + stride]
            end += step * (rim[PART, b] - 0.5 * peak) / (rim[PART, b] - after)
        if end > begin:
            found[s, count, 0], found[s, count, 1] = begin, end
            found[s, count, 2], found[s, count, 3] = low + min(area / (end - begin), 1.0) * (high - low), low
            count += 1
    return count


@machine_code("f8(f4[:,:,::1],f8,f8,f8,f8,f8,f8,f8,f8,f8,f8,f8,f8)", **OPTIONS)
def sweep_tip(cells, ax, ay, az, bx, by, bz, R, cell, flat, corner, rise, foot):  # type: ignore[no-untyped-def]
    """Cuts what a tip and its cylinder cover from a to b, and gives the volume in cells times millimetres.

    x, y and R in cells; heights and the shape of the tip in millimetres.
    """
    dx, dy, dz = bx - ax, by - ay, bz - az
    length2 = dx * dx + dy * dy
    length = np.sqrt(length2)
    one = 1.0 / length if length > 0.0 else 0.0
    one_dy = 1.0 / dy if abs(dy) > 1e-12 else 0.0
    outer = R + REACH
    volume = 0.0
    for r in range(max(int(np.ceil(min(ay, by) - outer)), 0), min(int(max(ay, by) + outer), cells.shape[0] - 1) + 1):
        py = r - ay
        low, high = row_ends(py, dx, dy, one_dy, outer * one, outer)
        row = np.uintp(r)
        for column in range(max(int(np.ceil(low + ax)), 0), min(int(high + ax), cells.shape[1] - 1) + 1):
            c = np.uintp(column)
            px = column - ax
            along = px * dx + py * dy
            if length2 == 0.0:
                far, tip = np.sqrt(px * px + py * py), min(az, bz)
            elif along >= length2:
                far, tip = np.sqrt((px - dx) ** 2 + (py - dy) ** 2), bz
            elif along > 0.0:
                far, tip = abs(px * dy - py * dx) * one, az + along / length2 * dz
            else:
                far, tip = np.sqrt(px * px + py * py), az
            d = far - R
            if d > REACH:
                continue
            z = tip + foot
            h = cells[row, c, 0]
            if d <= 0.0:
                beyond = max(far * cell - flat, 0.0)
                lift = beyond * rise
                if corner > 0.0:
                    lift = corner - np.sqrt(max(corner * corner - beyond * beyond, 0.0))
                floor = tip + min(lift, foot)
                under = min(h, z)
                if under > floor:
                    volume += under - floor
            if d < 0.5:
                # the cylinder, by shares of the cell's area
                before = share_of(
                    h, cells[row, c, 1], cells[row, c, 2], cells[row, c, 3], cells[row, c, 4], np.float32(z + TOLERANCE)
                )
                rest = max(0.5 + d, 0.0)
                if rest < before:
                    volume += off_edge(cells, r, column, z, before, rest)
            if d > -REACH and (h > z + TOLERANCE or cells[row, c, 2] <= z + TOLERANCE):
                keep_wall(cells, row, c, np.float32(d), np.float32(z))
            if d <= 0.0 and h > floor:
                cells[row, c, 0] = floor
    return volume


@machine_code("i8(f4[:,:,::1],f8,f8,f8,f8,f8,f8[::1],f8[::1],f8,i8,f8[:,::1],f8[:,:,::1],i8)", **OPTIONS)
def meet_tip(cells, x, y, z, cell, corner, edges, scales, top, samples, rim, found, s):  # type: ignore[no-untyped-def]
    """Fills the rows of `found` (steps, intervals, 4) at step s with what the levels meet, and gives their number.

    edges (m + 1,): heights between the levels [mm]; scales (m + 1,): their radii over that of the rim; top: height over which
    nothing stands [mm].
    """
    # what a cutter has just made does not meet it, though between the middles of cells a round floor reads a little high
    slack = _TOUCHING + (cell * cell / (8.0 * corner) if corner > 0.0 else 0.0)
    radius = np.sqrt(rim[ACROSS, 0] ** 2 + rim[UP, 0] ** 2)
    count, stride = 0, 1
    while 2 * stride * np.pi / (samples - 1) * radius < _APART and (samples - 1) % (2 * stride) == 0:
        stride *= 2
    for level in range(-1, edges.shape[0] - 1):
        if level >= 0 and z + edges[level] >= top:
            break
        # the circle of the level's upper edge; the one before is that of its lower edge
        for at in range(0, samples, stride):
            rim[LOW, at] = rim[HIGH, at]
            px, py = x + scales[level + 1] * rim[ACROSS, at], y + scales[level + 1] * rim[UP, at]
            rim[HIGH, at] = _over(cells, px, py, z + edges[level + 1], slack)
        if level >= 0:
            count = _level(rim, edges[level], edges[level + 1], samples, stride, found, s, count)
    return count
