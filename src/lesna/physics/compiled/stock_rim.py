"""What a rim meets in a height map with wall distances.

Each cell holds its height and two walls: the signed distance to the wall that a cut left beside the cell (positive in the
material) and the floor of that cut. The first wall belongs to the deepest cut near the cell, the second to the latest higher
one. A wall counts for a tool that runs at its floor or above. That places walls far below the size of a cell.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: two heights within this are one floor [mm]
TOLERANCE = 0.004
#: walls reach so many cells to either side
BAND = 2.0
#: the same and others as the map has its numbers
BAND_4, ZERO_4 = np.float32(BAND), np.float32(0.0)
#: cuts leave their walls in cells so near [cells]
REACH = 1.5
#: a sample so far from every wall has none between it and one of the two beside it that is as far [cells]
_FAR = 1.8
#: material nearer to the rim than this was cut before [mm]: two passes along one wall do not quite meet
_GRAZING = 0.002
#: an edge is found where the wall is so near [cells]
_EXACT = 1e-3
#: a point this near to an upper wall stands under the lower floor [cells]: the tool runs along that wall
_AT_WALL = 0.1
#: intervals narrower than so many samples beside a wider one are no wall of their own
_CORNER = 2.6
#: an interval that begins nearer to the side than this may reach it [rad]
_TOUCH = 0.06
#: heights that differ by more are two floors [mm]; over an interval so much more as a slope of 45 degrees makes between samples
_STEP = 0.05
#: intervals a rim can have
MOST = 6
#: a web's far side is looked for so many cells behind the rim
_BEYOND = 1.6
#: and so many cells ahead
_AHEAD = 4.0
#: rows of what a rim needs: sine and cosine of its samples, their places about the middle; of those that are read, the number,
#: the angle, the distance to the wall and the height of the material
SINE, COSINE, ACROSS, UP, PLACE, AT, WALL, TALL = range(8)


@machine_code("f4(f4,f4,f4,f4,f4,f4)", **OPTIONS)
def _signed(height, first, first_floor, second, second_floor, over):  # type: ignore[no-untyped-def]
    """Distance to the wall at a cell's middle in cells, positive in material that stands over a height.

    Takes numbers, not the map: what runs for every cell must not pass arrays on.
    """
    value = BAND_4
    if first_floor <= over:
        value = min(value, first)
        if second_floor <= over:
            value = min(value, second)
    if height > over:
        return value if value > ZERO_4 else BAND_4
    return value if value <= ZERO_4 else -BAND_4


@machine_code("f8(f4[:,:,::1],f8,f8,f8)", **OPTIONS)
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


@machine_code("f8(f4[:,:,::1],f8,f8,f8)", **OPTIONS)
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
    if high - low > _STEP and wall_at(cells, x, y, low) <= _AT_WALL:
        return low
    return high


@machine_code("f8(f4[:,:,::1],f8,f8,f8,f8[:,::1],i8,f8)", **OPTIONS)
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


@machine_code("i8(f4[:,:,::1],f8,f8,f8,f8,i8,f8[:,::1])", **OPTIONS)
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
                    if high - low > _STEP or low <= over:
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


@machine_code("i8(f4[:,:,::1],f8,f8,f8,i8,f8[:,::1],f8,f8[:,:,::1],i8,i8)", **OPTIONS)
def meet(cells, x, y, z, samples, rim, cell, found, s, begins):  # type: ignore[no-untyped-def]
    """Engaged intervals on the front half of the rim, from the left of the feed clockwise; x and y in cells.

    cell: its edge [mm]. Fills rows of `found` (steps, intervals, 4) at step s with entry, exit [rad], and how high it stands above
    z [mm], from row `begins` on; gives their number.
    """
    step, R = np.pi / (samples - 1), np.sqrt(rim[ACROSS, 0] ** 2 + rim[UP, 0] ** 2)
    # between cells a wall that bends with the cutter reads a little too near
    graze = _GRAZING / cell + 1.0 / (8.0 * R)
    jump = max(_STEP, R * cell * step)
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


@machine_code("void(f4[:,:,::1],f8,f8,f8,f8,f8,f8,f8[:,:,::1],i8,i8,i8,f8[:,::1])", **OPTIONS)
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


@machine_code("void(f8[:,::1],i8,f8,f8,f8)", **OPTIONS)
def turn_rim(rim, samples, tx, ty, R):  # type: ignore[no-untyped-def]
    """Places of the samples about the middle, from the left of the feed (-ty, tx) clockwise."""
    for k in range(np.uintp(samples)):
        rim[ACROSS, k] = R * (rim[COSINE, k] * -ty + rim[SINE, k] * tx)
        rim[UP, k] = R * (rim[COSINE, k] * tx + rim[SINE, k] * ty)
