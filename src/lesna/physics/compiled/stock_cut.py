"""What a cylinder leaves behind in a height map with wall distances, and the volume that it takes off."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.stock_rim import BAND_4, OPTIONS, REACH, TOLERANCE, ZERO_4

#: numbers as the map has them
_TOLERANCE, _HALF, _ONE = np.float32(TOLERANCE), np.float32(0.5), np.float32(1.0)


@machine_code("f8(f4[:,:,::1],i8,i8,f8,f8,f8)", **OPTIONS)
def off_edge(cells, r, c, z, before, rest):  # type: ignore[no-untyped-def]
    """Volume over z of the part of a cell between two shares of its area, in cells times millimetres.

    Within an upper wall only the floor of that cut stands there, outside it what the tallest neighbour has.
    """
    h, floor, wall = cells[r, c, 0], cells[r, c, 2], cells[r, c, 1]
    if floor <= z + TOLERANCE:
        floor, wall = cells[r, c, 4], cells[r, c, 3]
    stands, over_floor = h > z + TOLERANCE, h > floor + TOLERANCE
    if stands and not over_floor and wall > 0.0:
        # the middle is cut, though no wall of that cut is known
        return (before - rest) * (h - z)
    top = h
    if not (stands and over_floor):
        top = z
        for dr in range(max(r - 1, 0), min(r + 2, cells.shape[0])):
            for dc in range(max(c - 1, 0), min(c + 2, cells.shape[1])):
                top = max(top, cells[np.uintp(dr), np.uintp(dc), 0])
    low = h if stands and not over_floor else floor
    outside = before - rest
    if z + TOLERANCE < low < top:
        outside = max(min(before, min(max(0.5 + wall, 0.0), 1.0)) - rest, 0.0)
    return outside * (top - z) + (before - rest - outside) * (low - z)


@machine_code("f4(f4,f4,f4,f4,f4,f4)", **OPTIONS)
def share_of(height, first, first_floor, second, second_floor, over):  # type: ignore[no-untyped-def]
    """Share of a cell's area in which something stands over a height."""
    wall = BAND_4
    if first_floor <= over:
        wall = min(wall, first)
        if second_floor <= over:
            wall = min(wall, second)
    if wall >= BAND_4:
        return _ONE if height > over else ZERO_4
    return min(max(_HALF + wall, ZERO_4), _ONE)


@machine_code("void(f4[:,:,::1],u8,u8,f4,f4)", **OPTIONS)
def keep_wall(cells, r, c, d, z):  # type: ignore[no-untyped-def]
    """Keeps the wall of a cut down to z at a distance beside a cell [cells]."""
    first, second = cells[r, c, 2], cells[r, c, 4]
    if abs(first - z) <= _TOLERANCE:
        cells[r, c, 1] = min(cells[r, c, 1], d)
    elif abs(second - z) <= _TOLERANCE:
        cells[r, c, 3] = min(cells[r, c, 3], d)
    elif z < first:
        cells[r, c, 3], cells[r, c, 4] = cells[r, c, 1], first
        cells[r, c, 1], cells[r, c, 2] = d, z
    else:
        cells[r, c, 3], cells[r, c, 4] = d, z


@machine_code("UniTuple(f8,2)(f8,f8,f8,f8,f8,f8)", **OPTIONS)
def row_ends(py, dx, dy, one_over, across, size):  # type: ignore[no-untyped-def]
    """Where a row of cells meets the stadium of a radius about the origin and d: ends along the row, low above high where it
    does not. one_over: 1 / dy, 0 for a row along d; across: size over the length of d.
    """
    low, high = 1e18, -1e18
    rest = size * size - py * py
    if rest > 0.0:
        high = np.sqrt(rest)
        low = -high
    rest = size * size - (py - dy) ** 2
    if rest > 0.0:
        half = np.sqrt(rest)
        low, high = min(low, dx - half), max(high, dx + half)
    if one_over != 0.0:
        # the straight sides between both discs
        for side in range(-1, 2, 2):
            share = (py - side * across * dx) * one_over
            if 0.0 <= share <= 1.0:
                edge = share * dx - side * across * dy
                low, high = min(low, edge), max(high, edge)
    return low, high


@machine_code("f8(f4[:,:,::1],f8,f8,f8,f8,f8,f8,i8)", **OPTIONS)
def sweep(cells, ax, ay, bx, by, z, R, skip):  # type: ignore[no-untyped-def]
    """Cuts the stadium from a to b down to z, and gives the volume in cells times millimetres; all but z in cells.

    skip: 1 where the disc about a was cut at this z before, so that only what is newly covered is looked at.
    """
    dx, dy = bx - ax, by - ay
    length2 = dx * dx + dy * dy
    length = np.sqrt(length2)
    outer, inner = R + REACH, max(R - REACH, 0.0)
    over, width = np.float32(z + TOLERANCE), cells.shape[1] - 1.0
    under, floor, radius = np.float32(z - TOLERANCE), np.float32(z), np.float32(R)
    one = 1.0 / length if length > 0.0 else 0.0
    one_dx, one_dy = 1.0 / dx if abs(dx) > 1e-12 else 0.0, 1.0 / dy if abs(dy) > 1e-12 else 0.0
    lowest, highest = min(ay, by) - outer, max(ay, by) + outer
    if skip:
        # behind the start everything was cut before
        if dy >= 0.0:
            lowest = ay - outer * abs(dx) * one
        if dy <= 0.0:
            highest = ay + outer * abs(dx) * one
    volume = 0.0
    for r in range(max(int(np.ceil(lowest)), 0), min(int(highest), cells.shape[0] - 1) + 1):
        py = r - ay
        low, high = row_ends(py, dx, dy, one_dy, outer * one, outer)
        first, last = row_ends(py, dx, dy, one_dy, inner * one, inner)
        core = -1.0
        if skip:
            rest = inner * inner - py * py
            if rest > 0.0:
                core = np.sqrt(rest)
            behind = -py * dy * one_dx
            if dx > 0.0:
                low = max(low, behind)
            elif dx < 0.0:
                high = min(high, behind)
        if low > high:
            continue
        low, high, first, last = low + ax, high + ax, first + ax, last + ax
        begin, end = int(np.ceil(max(low, 0.0))), int(min(high, width))
        row = np.uintp(r)
        # cells in order: beside the rim, inside, (cut before,) inside, beside
        left, right = (end + 1, end) if first > last else (int(np.floor(first)) + 1, int(np.ceil(last)) - 1)
        gap, beyond = right + 1, right + 1
        if core >= 0.0:
            gap, beyond = int(np.ceil(ax - core)), int(np.floor(ax + core)) + 1
        for part in range(4):
            if part == 0:
                start, stop = begin, min(left - 1, end)
            elif part == 1:
                start, stop = max(left, begin), min(right, gap - 1, end)
            elif part == 2:
                start, stop = max(left, beyond, begin), min(right, end)
            else:
                start, stop = max(right + 1, begin), end
            if part == 1 or part == 2:
                # they keep the walls they had: none of them can lie beside material any more
                for column in range(start, stop + 1):
                    c = np.uintp(column)
                    h, z1 = cells[row, c, 0], cells[row, c, 2]
                    if z1 > over:
                        if h > floor:
                            volume += h - floor
                            cells[row, c, 0] = floor
                        continue
                    z2 = cells[row, c, 4]
                    before = share_of(h, cells[row, c, 1], z1, cells[row, c, 3], z2, over)
                    if before > ZERO_4:
                        volume += off_edge(cells, r, column, z, before, 0.0)
                    if h > floor:
                        cells[row, c, 0] = floor
                    if under <= z1 <= over:
                        cells[row, c, 1] = -BAND_4
                    elif under <= z2 <= over:
                        cells[row, c, 3] = -BAND_4
                continue
            for column in range(start, stop + 1):
                c = np.uintp(column)
                px = column - ax
                along = px * dx + py * dy
                if along >= length2:
                    d = np.sqrt(np.float32((px - dx) ** 2 + (py - dy) ** 2)) - radius
                elif along > 0.0:
                    d = np.float32(abs(px * dy - py * dx) * one) - radius
                else:
                    d = np.sqrt(np.float32(px * px + py * py)) - radius
                if d > REACH:
                    continue
                h, d1, z1, d2, z2 = (
                    cells[row, c, 0],
                    cells[row, c, 1],
                    cells[row, c, 2],
                    cells[row, c, 3],
                    cells[row, c, 4],
                )
                if d < _HALF:
                    before, rest = share_of(h, d1, z1, d2, z2, over), max(_HALF + d, ZERO_4)
                    if rest < before:
                        if h > over and (z1 if z1 > over else z2) > h and (d1 if z1 > over else d2) > ZERO_4:
                            volume += (before - rest) * (h - floor)  # no upper wall here, as nearly everywhere
                        else:
                            volume += off_edge(cells, r, column, z, before, rest)
                    if d <= ZERO_4 and h > floor:
                        cells[row, c, 0] = floor
                keep_wall(cells, row, c, d, floor)
    return volume
