"""A cylinder walks through a height map with wall distances: what it meets at each step, and what it leaves behind.

Each cell holds its height and two walls: the signed distance to the wall that a cut left beside the cell (positive in the
material) and the floor of that cut. The first wall belongs to the deepest cut near the cell, the second to the latest higher
one. A wall counts for a tool that runs at its floor or above. That places walls far below the size of a cell.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

_OPTIONS: Any = {"cache": True, "nogil": True, "error_model": "numpy", "boundscheck": False}
#: two heights within this are one floor [mm]
TOLERANCE = 0.004
#: walls reach so many cells to either side
BAND = 2.0
#: the same and others as the map has its numbers
_BAND, _ZERO, _HALF, _ONE = np.float32(BAND), np.float32(0.0), np.float32(0.5), np.float32(1.0)
_TOLERANCE = np.float32(TOLERANCE)
#: cuts leave their walls in cells so near [cells]
REACH = 1.5
#: a sample so far from every wall has none between it and one of the two beside it that is as far [cells]
_FAR = 1.8
#: material nearer to the rim than this was cut before [mm]: two passes along one wall do not quite meet
GRAZING = 0.002
#: an edge is found where the wall is so near [cells]
_EXACT = 1e-3
#: a point this near to an upper wall stands under the lower floor [cells]: the tool runs along that wall
_AT_WALL = 0.1
#: intervals narrower than so many samples beside a wider one are no wall of their own
_CORNER = 2.6
#: an interval that begins nearer to the side than this may reach it [rad]
_TOUCH = 0.06
#: heights that differ by more are two floors [mm]; over an interval so much more as a slope of 45 degrees makes between samples
STEP = 0.05
#: intervals a step can have
MOST = 6
#: a web's far side is looked for so many cells behind the rim
_BEYOND = 1.6
#: and so many cells ahead
_AHEAD = 4.0
#: rows of what a rim needs: sine and cosine of its samples, their places about the middle; of those that are read, the number,
#: the angle, the distance to the wall and the height of the material
SINE, COSINE, ACROSS, UP, PLACE, AT, WALL, TALL = range(8)


@njit("f4(f4,f4,f4,f4,f4,f4)", **_OPTIONS)
def _signed(height, first, first_floor, second, second_floor, over):  # type: ignore[no-untyped-def]
    """Distance to the wall at a cell's middle in cells, positive in material that stands over a height.

    Takes numbers, not the map: what runs for every cell must not pass arrays on.
    """
    value = _BAND
    if first_floor <= over:
        value = min(value, first)
        if second_floor <= over:
            value = min(value, second)
    if height > over:
        return value if value > _ZERO else _BAND
    return value if value <= _ZERO else -_BAND


@njit("f8(f4[:,:,::1],f8,f8,f8)", **_OPTIONS)
def wall_at(cells, x, y, z):  # type: ignore[no-untyped-def]
    """Distance to the wall at a point, between the middles of four cells; x, y in cells."""
    i, j = int(x), int(y)
    if i < 0 or j < 0 or i >= cells.shape[1] - 1 or j >= cells.shape[0] - 1:
        return -BAND
    u, w, over = x - i, y - j, np.float32(z + TOLERANCE)
    total = 0.0
    for k in range(4):
        c, r = np.uintp(i + (k & 1)), np.uintp(j + (k >> 1))
        share = (u if k & 1 else 1.0 - u) * (w if k >> 1 else 1.0 - w)
        total += share * _signed(cells[r, c, 0], cells[r, c, 1], cells[r, c, 2], cells[r, c, 3], cells[r, c, 4], over)
    return total


@njit("f8(f4[:,:,::1],f8,f8,f8)", **_OPTIONS)
def _top(cells, x, y, z):  # type: ignore[no-untyped-def]
    """Height of the material over a point that stands above z."""
    i, j = int(x), int(y)
    if i < 0 or j < 0 or i >= cells.shape[1] - 1 or j >= cells.shape[0] - 1:
        return z
    low, high = 1e9, z
    for r in range(j, j + 2):
        for c in range(i, i + 2):
            h = cells[np.uintp(r), np.uintp(c), 0]
            if h > z + TOLERANCE:
                low, high = min(low, h), max(high, h)
    if low > 1e8:
        # the nearest cells are cut; the material begins just behind them
        for r in range(max(j - 1, 0), min(j + 3, cells.shape[0])):
            for c in range(max(i - 1, 0), min(i + 3, cells.shape[1])):
                h = cells[np.uintp(r), np.uintp(c), 0]
                if h > z + TOLERANCE:
                    low, high = min(low, h), max(high, h)
        if low > 1e8:
            return z
    if high - low > STEP and wall_at(cells, x, y, low) <= _AT_WALL:
        return low
    return high


@njit("f8(f4[:,:,::1],f8,f8,f8,f8[:,::1],i8,f8)", **_OPTIONS)
def _edge(cells, x, y, z, rim, k, graze):  # type: ignore[no-untyped-def]
    """The angle between the samples k and k + 1 that are read at which the rim crosses a wall."""
    begin = rim[AT, k]
    a, b, va, vb = 0.0, rim[AT, k + 1] - begin, rim[WALL, k], rim[WALL, k + 1]
    px, py = rim[ACROSS, int(rim[PLACE, k])], rim[UP, int(rim[PLACE, k])]
    kept = 0
    for turn in range(8):
        share = min(max(va / (va - vb), 0.02), 0.98) if turn < 7 else 0.5
        phi = a + share * (b - a)
        # the first sample turned on by a small angle
        square = phi * phi
        cosine, sine = 1.0 - square / 2.0 * (1.0 - square / 12.0), phi * (1.0 - square / 6.0 * (1.0 - square / 20.0))
        v = wall_at(cells, x + cosine * px + sine * py, y + cosine * py - sine * px, z) - graze
        if abs(v) < _EXACT:
            return begin + phi
        # false position that halves the value of an end which stays
        if (v > 0.0) == (va > 0.0):
            a, va, vb = phi, v, vb * (0.5 if kept > 0 else 1.0)
            kept = 1
        else:
            b, vb, va = phi, v, va * (0.5 if kept < 0 else 1.0)
            kept = -1
    return begin + a + va / (va - vb) * (b - a)


@njit("i8(f4[:,:,::1],f8,f8,f8,f8,i8,f8[:,::1])", **_OPTIONS)
def _look(cells, x, y, z, graze, samples, rim):  # type: ignore[no-untyped-def]
    """Fills angle, distance to the wall and height of the material at as many samples of the rim as tell of all; their number.

    One cell tells of a sample that is far from every wall; only the others are read between cells. Where no wall is near two
    samples, and one height over both, it is the same between them, and the sample there is left out.
    """
    width, depth = cells.shape[1] - 1.0, cells.shape[0] - 1.0
    over, one = np.float32(z + TOLERANCE), np.uintp(1)
    step = np.pi / (samples - 1)
    count = np.uintp(0)
    sign, height = 0.0, -1.0
    even_wall = even_tall = even_sign = 0.0
    for n in range(0, samples, 2):
        for odd in range(2):
            k = np.uintp(n - odd)
            px, py = x + rim[ACROSS, k], y + rim[UP, k]
            wall, tall, far = -BAND, 0.0, -1.0
            if 0.0 <= px < width and 0.0 <= py < depth:
                j, i = np.uintp(int(py + 0.5)), np.uintp(int(px + 0.5))
                wall = _signed(cells[j, i, 0], cells[j, i, 1], cells[j, i, 2], cells[j, i, 3], cells[j, i, 4], over)
                if abs(wall) < REACH:
                    wall = wall_at(cells, px, py, z) - graze
                    if wall > 0.0:
                        tall = _top(cells, px, py, z) - z
                elif wall > 0.0:
                    j, i = np.uintp(int(py)), np.uintp(int(px))
                    low, high = cells[j, i, 0], cells[j, i, 0]
                    for corner in range(1, 4):
                        h = cells[j + np.uintp(corner >> 1), i + np.uintp(corner & 1), 0]
                        low, high = min(low, h), max(high, h)
                    tall = high - z
                    if high - low > STEP or low <= over:
                        tall = _top(cells, px, py, z) - z
                far = 0.0 if abs(wall) < _FAR else 1.0 if wall > 0.0 else -1.0
            if odd:
                rim[PLACE, count], rim[AT, count], rim[WALL, count], rim[TALL, count] = (
                    n - 1,
                    (n - 1) * step,
                    wall,
                    tall,
                )
                count += one
            else:
                even_wall, even_tall, even_sign = wall, tall, far
                if n == 0 or (far * sign > 0.0 and abs(tall - height) < TOLERANCE):
                    break
        rim[PLACE, count], rim[AT, count] = n, n * step
        rim[WALL, count], rim[TALL, count] = even_wall, even_tall
        sign, height = even_sign, even_tall
        count += one
    return count


@njit("i8(f4[:,:,::1],f8,f8,f8,i8,f8[:,::1],f8,f8,f8[:,:,::1],i8,i8)", **_OPTIONS)
def meet(cells, x, y, z, samples, rim, graze, jump, found, s, begins):  # type: ignore[no-untyped-def]
    """Engaged intervals on the front half of the rim, from the left of the feed clockwise; x and y in cells.

    jump: heights of neighbouring samples that differ by more part an interval [mm]. Fills rows of `found` (steps, intervals, 4)
    at step s with entry, exit [rad], and how high it stands above z [mm], from row `begins` on; gives their number.
    """
    step = np.pi / (samples - 1)
    last = _look(cells, x, y, z, graze, samples, rim) - 1
    count, k = 0, 0
    while k <= last and count < MOST:
        if rim[WALL, k] <= 0.0:
            k += 1
            continue
        begin = 0.0
        if k > 0:
            begin = 0.5 * (rim[AT, k - 1] + rim[AT, k])
            if rim[WALL, k - 1] <= 0.0:
                begin = _edge(cells, x, y, z, rim, k - 1, graze)
        # a rim that just touches a wall is in the material to the very side
        if begin < _TOUCH and -1.3 * graze < rim[WALL, 0] <= 0.0:
            begin = 0.0
        # heights may slope over an interval; only where they jump it is parted
        first, tall = k, rim[TALL, k]
        while k < last and rim[WALL, k + 1] > 0.0 and abs(rim[TALL, k + 1] - rim[TALL, k]) <= jump:
            k += 1
            tall += rim[TALL, k]
        tall /= k - first + 1
        end = np.pi
        if k < last:
            end = 0.5 * (rim[AT, k] + rim[AT, k + 1])
            if rim[WALL, k + 1] <= 0.0:
                end = _edge(cells, x, y, z, rim, k, graze)
        if end > np.pi - _TOUCH and -1.3 * graze < rim[WALL, last] <= 0.0:
            end = np.pi
        k += 1
        if end > begin and tall > TOLERANCE:
            row = begins + count
            found[s, row, 0], found[s, row, 1], found[s, row, 2], found[s, row, 3] = begin, end, tall, 0.0
            count += 1
    # a few samples of another height at the end of a wider interval are the corner of an upper wall that the rim runs along
    n = begins
    for i in range(begins, begins + count):
        if n > begins and found[s, i, 0] - found[s, n - 1, 1] < 1e-9:
            narrow, wide = found[s, i, 1] - found[s, i, 0], found[s, n - 1, 1] - found[s, n - 1, 0]
            if min(narrow, wide) < _CORNER * step and max(narrow, wide) > _CORNER * step:
                found[s, n - 1, 2] = found[s, i, 2] if narrow > wide else found[s, n - 1, 2]
                found[s, n - 1, 1] = found[s, i, 1]
                continue
        for column in range(4):
            found[s, n, column] = found[s, i, column]
        n += 1
    return n - begins


@njit("void(f4[:,:,::1],f8,f8,f8,f8,f8,f8,f8[:,:,::1],i8,i8,i8,f8[:,::1])", **_OPTIONS)
def air_beside(cells, x, y, z, tx, ty, R, found, s, begins, count, beyond):  # type: ignore[no-untyped-def]
    """Adds up 2 to the power of each interval with air outside its left end, and of those also outside its right end."""
    beyond[s, 0] = beyond[s, 1] = 0.0
    for side in range(2):
        # outside an interval's end and a little ahead: air there is a cut beside, not an edge that is run over
        if side == 1 and beyond[s, 0] == 0.0:
            break
        off = _BEYOND if side == 0 else -_BEYOND
        for i in range(begins, begins + count):
            cosine, sine = np.cos(found[s, i, side]), np.sin(found[s, i, side])
            px = x + R * (cosine * -ty + sine * tx) - off * ty + _AHEAD * tx
            py = y + R * (cosine * tx + sine * ty) + off * tx + _AHEAD * ty
            if wall_at(cells, px, py, z) <= 0.0:
                beyond[s, side] += 2.0**i


@njit("void(f8[:,::1],i8,f8,f8,f8)", **_OPTIONS)
def turn_rim(rim, samples, tx, ty, R):  # type: ignore[no-untyped-def]
    """Places of the samples about the middle, from the left of the feed (-ty, tx) clockwise."""
    for k in range(np.uintp(samples)):
        rim[ACROSS, k] = R * (rim[COSINE, k] * -ty + rim[SINE, k] * tx)
        rim[UP, k] = R * (rim[COSINE, k] * tx + rim[SINE, k] * ty)


@njit("f8(f4[:,:,::1],i8,i8,f8,f8,f8)", **_OPTIONS)
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


@njit("f4(f4,f4,f4,f4,f4,f4)", **_OPTIONS)
def share_of(height, first, first_floor, second, second_floor, over):  # type: ignore[no-untyped-def]
    """Share of a cell's area in which something stands over a height."""
    wall = _BAND
    if first_floor <= over:
        wall = min(wall, first)
        if second_floor <= over:
            wall = min(wall, second)
    if wall >= _BAND:
        return _ONE if height > over else _ZERO
    return min(max(_HALF + wall, _ZERO), _ONE)


@njit("void(f4[:,:,::1],u8,u8,f4,f4)", **_OPTIONS)
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


@njit("UniTuple(f8,2)(f8,f8,f8,f8,f8,f8)", **_OPTIONS)
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


@njit("f8(f4[:,:,::1],f8,f8,f8,f8,f8,f8,i8)", **_OPTIONS)
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
                    if before > _ZERO:
                        volume += off_edge(cells, r, column, z, before, 0.0)
                    if h > floor:
                        cells[row, c, 0] = floor
                    if under <= z1 <= over:
                        cells[row, c, 1] = -_BAND
                    elif under <= z2 <= over:
                        cells[row, c, 3] = -_BAND
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
                    before, rest = share_of(h, d1, z1, d2, z2, over), max(_HALF + d, _ZERO)
                    if rest < before:
                        if h > over and (z1 if z1 > over else z2) > h and (d1 if z1 > over else d2) > _ZERO:
                            volume += (before - rest) * (h - floor)  # no upper wall here, as nearly everywhere
                        else:
                            volume += off_edge(cells, r, column, z, before, rest)
                    if d <= _ZERO and h > floor:
                        cells[row, c, 0] = floor
                keep_wall(cells, row, c, d, floor)
    return volume


@njit(
    "i8(f4[:,:,::1],f8[:,::1],f8[:,::1],i8[::1],f8,f8,f8,f8,i8,i8[::1],f8[:,:,::1],f8[::1],f8[:,::1])",
    **_OPTIONS,
)
def run_stock_walk(cells, points, heading, way, x0, y0, cell, radius, samples, counts, found, volume, beyond):  # type: ignore[no-untyped-def] # fmt: skip
    """Takes a cylinder along points and fills what it meets on the way to each.

    points (n + 1, 3): the first is where it stands; heading (n, 2): unit vector at each further point, zero where it goes
    straight up or down; way (n,): 0 for a rapid, 1 for a feed, 2 for a feed of the same straight run as the step before.
    counts (n,), found (n, MOST, 4), volume (n,) [mm3] and beyond (n, 2) are filled; beyond: as `air_beside` has it.
    """
    n = points.shape[0] - 1
    R, per = radius / cell, 1.0 / cell
    samples = max(samples, 2) | 1
    rim = np.empty((8, samples))
    for k in range(samples):
        rim[SINE, k], rim[COSINE, k] = np.sin(k * np.pi / (samples - 1)), np.cos(k * np.pi / (samples - 1))
    # between cells a wall that bends with the cutter reads a little too near
    graze = GRAZING / cell + 1.0 / (8.0 * R)
    jump = max(STEP, radius * np.pi / (samples - 1))
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
            counts[s] = meet(cells, x, y, z, samples, rim, graze, jump, found, s, 0)
            air_beside(cells, x, y, z, tx, ty, R, found, s, 0, counts[s], beyond)
        ax, ay = (points[k, 0] - x0) / cell, (points[k, 1] - y0) / cell
        bx, by = (points[last + 1, 0] - x0) / cell, (points[last + 1, 1] - y0) / cell
        flat = k > 0 and points[k, 2] == points[last + 1, 2]
        low = min(points[k, 2], points[last + 1, 2])
        whole = sweep(cells, ax, ay, bx, by, low, R, 1 if flat else 0) * cell * cell
        for s in range(k, last + 1):
            volume[s] = whole / (last + 1 - k)
        k = last + 1
    return n


@njit("i8(f4[:,:,::1],f8[:,::1],f8,f8,f8,f8,f8[:,::1])", **_OPTIONS)
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
