"""A cylinder walks through a height map with wall distances: what it meets at each step, and what it leaves behind.

Each cell holds its height and two walls: the signed distance to the wall that a cut left beside the cell (positive in the
material) and the floor of that cut. The first wall belongs to the deepest cut near the cell, the second to the latest other
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
#: material nearer to the rim than this was cut before [mm]: two passes along one wall do not quite meet
_GRAZING = 0.002
#: a point this near to an upper wall stands under the lower floor [cells]: the tool runs along that wall
_AT_WALL = 0.1
#: intervals narrower than so many samples beside a wider one are no wall of their own
_CORNER = 2.6
#: an interval that begins nearer to the side than this may reach it [rad]
_TOUCH = 0.06
#: heights over an interval that differ by more part it [mm]
_STEP = 0.05
#: intervals a step can have
MOST = 6
#: a web's far side is looked for so many cells behind the rim
_BEYOND = 1.6
#: and so many cells ahead
_AHEAD = 4.0


@njit("f8(f4[:,::1],f4[:,:,::1],f8,f8,f8,f8)", **_OPTIONS)
def _wall(height, walls, x, y, z, wide):  # type: ignore[no-untyped-def]
    """Distance to the wall at a point in cells, positive in material that stands above z; x, y in cells."""
    i, j = int(x), int(y)
    if i < 0 or j < 0 or i >= height.shape[1] - 1 or j >= height.shape[0] - 1:
        return -wide
    u, w = x - i, y - j
    total = 0.0
    for dj in range(2):
        for di in range(2):
            share = (u if di else 1.0 - u) * (w if dj else 1.0 - w)
            r, c = j + dj, i + di
            value = wide
            if walls[r, c, 1] <= z + TOLERANCE:
                value = min(value, walls[r, c, 0])
            if walls[r, c, 3] <= z + TOLERANCE:
                value = min(value, walls[r, c, 2])
            if height[r, c] > z + TOLERANCE:
                if value <= 0.0:
                    value = wide
            elif value >= 0.0:
                value = -wide
            total += share * value
    return total


@njit("f8(f4[:,::1],f4[:,:,::1],f8,f8,f8,f8)", **_OPTIONS)
def _top(height, walls, x, y, z, wide):  # type: ignore[no-untyped-def]
    """Height of the material over a point that stands above z."""
    i, j = int(x), int(y)
    if i < 0 or j < 0 or i >= height.shape[1] - 1 or j >= height.shape[0] - 1:
        return z
    low, high = 1e9, z
    for dj in range(2):
        for di in range(2):
            h = height[j + dj, i + di]
            if h > z + TOLERANCE:
                low, high = min(low, h), max(high, h)
    if low > 1e8:
        # the nearest cells are cut; the material begins just behind them
        for r in range(max(j - 1, 0), min(j + 3, height.shape[0])):
            for c in range(max(i - 1, 0), min(i + 3, height.shape[1])):
                if height[r, c] > z + TOLERANCE:
                    low, high = min(low, height[r, c]), max(high, height[r, c])
        if low > 1e8:
            return z
    if high - low > _STEP and _wall(height, walls, x, y, low, wide) <= _AT_WALL:
        return low
    return high


@njit("f8(f4[:,::1],f4[:,:,::1],f8,f8,f8,f8,f8,f8,f8,f8,f8,f8,f8)", **_OPTIONS)
def _edge(height, walls, x, y, z, tx, ty, R, a, b, va, vb, graze):  # type: ignore[no-untyped-def]
    """The angle between a and b at which the rim crosses a wall."""
    for turn in range(8):
        share = va / (va - vb)
        share = min(max(share, 0.02), 0.98)
        if turn == 7:
            share = 0.5
        phi = a + share * (b - a)
        cosine, sine = np.cos(phi), np.sin(phi)
        v = _wall(height, walls, x + R * (cosine * -ty + sine * tx), y + R * (cosine * tx + sine * ty), z, BAND) - graze
        if abs(v) < 1e-4:
            return phi
        if (v > 0.0) == (va > 0.0):
            a, va = phi, v
        else:
            b, vb = phi, v
    return a + va / (va - vb) * (b - a)


@njit("i8(f4[:,::1],f4[:,:,::1],f8,f8,f8,f8,f8,f8,i8,f8[:,::1],f8[:,::1])", **_OPTIONS)
def _meet(height, walls, x, y, z, tx, ty, R, samples, room, found):  # type: ignore[no-untyped-def]
    """Engaged intervals on the front half of the rim, from the left of the feed clockwise; x, y, R in cells.

    Fills rows of `found` with entry, exit [rad] and depth [mm]; gives their number.
    """
    wide, graze = BAND, room[2, 0]
    step = np.pi / (samples - 1)
    for odd in range(2):
        for k in range(odd, samples, 2):
            if odd and k < samples - 1:
                # no wall within two cells of both neighbours, and one height: the same between them
                a, b = room[0, k - 1], room[0, k + 1]
                if (
                    a * b > 0.0
                    and min(abs(a), abs(b)) > 0.9 * wide
                    and abs(room[1, k - 1] - room[1, k + 1]) < TOLERANCE
                ):
                    room[0, k], room[1, k] = a, room[1, k - 1]
                    continue
            # phi from the left of the feed, clockwise: left is (-ty, tx)
            cosine, sine = np.cos(k * step), np.sin(k * step)
            px, py = x + R * (cosine * -ty + sine * tx), y + R * (cosine * tx + sine * ty)
            room[0, k] = _wall(height, walls, px, py, z, wide) - graze
            room[1, k] = _top(height, walls, px, py, z, wide) - z if room[0, k] > 0.0 else 0.0
    count, k = 0, 0
    while k < samples and count < MOST:
        if room[0, k] <= 0.0:
            k += 1
            continue
        begin = (
            0.0
            if k == 0
            else _edge(height, walls, x, y, z, tx, ty, R, (k - 1) * step, k * step, room[0, k - 1], room[0, k], graze)
        )
        first = k
        tall = room[1, k]
        while k + 1 < samples and room[0, k + 1] > 0.0 and abs(room[1, k + 1] - tall) <= _STEP:
            k += 1
            tall = max(tall, room[1, k])
        if k == samples - 1:
            end = np.pi
        elif room[0, k + 1] <= 0.0:
            end = _edge(height, walls, x, y, z, tx, ty, R, k * step, (k + 1) * step, room[0, k], room[0, k + 1], graze)
        else:
            end = (k + 0.5) * step
        if first > 0 and room[0, first - 1] > 0.0:
            begin = (first - 0.5) * step
        # a rim that just touches a wall is in the material to the very side
        if first <= 2 and begin < _TOUCH and room[0, 0] > -1.3 * graze and room[0, 0] <= 0.0:
            begin = 0.0
        if end > np.pi - _TOUCH and room[0, samples - 1] > -1.3 * graze and room[0, samples - 1] <= 0.0:
            end = np.pi
        k += 1
        if end > begin and tall > TOLERANCE:
            found[count, 0], found[count, 1], found[count, 2] = begin, end, tall
            count += 1
    # a few samples of another height at the end of a wider interval are the corner of an upper wall that the rim runs along
    n = 0
    for i in range(count):
        if n > 0 and found[i, 0] - found[n - 1, 1] < 1e-9:
            narrow, wide_ = found[i, 1] - found[i, 0], found[n - 1, 1] - found[n - 1, 0]
            if min(narrow, wide_) < _CORNER * step and max(narrow, wide_) > _CORNER * step:
                found[n - 1, 2] = found[i, 2] if narrow > wide_ else found[n - 1, 2]
                found[n - 1, 1] = found[i, 1]
                continue
        found[n, 0], found[n, 1], found[n, 2] = found[i, 0], found[i, 1], found[i, 2]
        n += 1
    return n


@njit("void(f4[:,:,::1],i8,i8,f8,f8)", **_OPTIONS)
def _remember(walls, r, c, d, z):  # type: ignore[no-untyped-def]
    """Keeps the wall of a cut beside a cell."""
    if abs(walls[r, c, 1] - z) <= TOLERANCE:
        walls[r, c, 0] = min(walls[r, c, 0], d)
    elif abs(walls[r, c, 3] - z) <= TOLERANCE:
        walls[r, c, 2] = min(walls[r, c, 2], d)
    elif z < walls[r, c, 1]:
        walls[r, c, 2], walls[r, c, 3] = walls[r, c, 0], walls[r, c, 1]
        walls[r, c, 0], walls[r, c, 1] = d, z
    else:
        walls[r, c, 2], walls[r, c, 3] = d, z


@njit("f8(f4[:,::1],f4[:,:,::1],i8,i8,f8)", **_OPTIONS)
def _part_left(height, walls, r, c, z):  # type: ignore[no-untyped-def]
    """Share of a cell's area in which material stands above z."""
    wall = BAND
    if walls[r, c, 1] <= z + TOLERANCE:
        wall = min(wall, walls[r, c, 0])
    if walls[r, c, 3] <= z + TOLERANCE:
        wall = min(wall, walls[r, c, 2])
    if wall >= BAND:
        return 1.0 if height[r, c] > z + TOLERANCE else 0.0
    return min(max(0.5 + wall, 0.0), 1.0)


@njit("f8(f4[:,::1],i8,i8,f8)", **_OPTIONS)
def _over(height, r, c, z):  # type: ignore[no-untyped-def]
    """Height of what stands in a cell, whose middle may be cut already."""
    if height[r, c] > z + TOLERANCE:
        return height[r, c]
    top = z
    for dr in range(-1, 2):
        for dc in range(-1, 2):
            if 0 <= r + dr < height.shape[0] and 0 <= c + dc < height.shape[1]:
                top = max(top, height[r + dr, c + dc])
    return top


@njit("UniTuple(f8,2)(f8,f8,f8,f8,f8,f8)", **_OPTIONS)
def _row(r, ax, ay, dx, dy, size):  # type: ignore[no-untyped-def]
    """Where a row of cells meets the stadium of a radius about a and a + d: ends along the row, low above high where it does not."""
    low, high = 1e18, -1e18
    for end in range(2):
        rest = size * size - (r - ay - end * dy) ** 2
        if rest > 0.0:
            half = np.sqrt(rest)
            low, high = min(low, ax + end * dx - half), max(high, ax + end * dx + half)
    if abs(dy) > 1e-12:
        # the straight sides between both discs
        wide = size / np.sqrt(dx * dx + dy * dy)
        for side in range(-1, 2, 2):
            share = (r - (ay + side * wide * dx)) / dy
            if 0.0 <= share <= 1.0:
                edge = ax - side * wide * dy + share * dx
                low, high = min(low, edge), max(high, edge)
    return low, high


@njit("f8(f4[:,::1],f4[:,:,::1],f8,f8,f8,f8,f8,f8,i8)", **_OPTIONS)
def _sweep(height, walls, ax, ay, bx, by, z, R, skip):  # type: ignore[no-untyped-def]
    """Cuts the stadium from a to b down to z, and gives the volume in cells times millimetres; all but z in cells.

    skip: 1 where the disc about a was cut at this z before, so that only what is newly covered is looked at. Cells well inside
    keep the walls they had: none of them can lie beside material any more.
    """
    rows, columns = height.shape
    dx, dy = bx - ax, by - ay
    length2 = dx * dx + dy * dy
    outer, inner = R + 1.5, max(R - 1.5, 0.0)
    volume = 0.0
    for r in range(max(int(np.ceil(min(ay, by) - outer)), 0), min(int(max(ay, by) + outer), rows - 1) + 1):
        low, high = _row(r, ax, ay, dx, dy, outer)
        first, last = _row(r, ax, ay, dx, dy, inner)
        core_first, core_last = 1e18, -1e18
        if skip:
            rest = inner * inner - (r - ay) ** 2
            if rest > 0.0:
                core_first, core_last = ax - np.sqrt(rest), ax + np.sqrt(rest)
            # behind the start everything was cut before
            level = (r - ay) * dy
            if dx > 0.0:
                low = max(low, ax - level / dx)
            elif dx < 0.0:
                high = min(high, ax - level / dx)
            elif level <= 0.0:
                continue
        c, end = max(int(np.ceil(low)), 0), min(int(high), columns - 1)
        while c <= end:
            if core_first <= c <= core_last:
                c = int(core_last) + 1
                continue
            if first < c < last:
                h = height[r, c]
                if walls[r, c, 1] > z + TOLERANCE and walls[r, c, 3] > z + TOLERANCE:
                    if h > z:
                        volume += h - z
                        height[r, c] = z
                else:
                    before = _part_left(height, walls, r, c, z)
                    if before > 0.0:
                        volume += before * (_over(height, r, c, z) - z)
                    if h > z:
                        height[r, c] = z
                    if abs(walls[r, c, 1] - z) <= TOLERANCE:
                        walls[r, c, 0] = -BAND
                    elif abs(walls[r, c, 3] - z) <= TOLERANCE:
                        walls[r, c, 2] = -BAND
                c += 1
                continue
            px, py = c - ax, r - ay
            d2 = px * px + py * py
            along = px * dx + py * dy
            if length2 > 0.0:
                if along >= length2:
                    d2 = (px - dx) ** 2 + (py - dy) ** 2
                elif along > 0.0:
                    d2 -= along * along / length2
            d = np.sqrt(max(d2, 0.0)) - R
            if d <= 1.5:
                before = _part_left(height, walls, r, c, z)
                left = min(before, min(max(0.5 + d, 0.0), 1.0))
                if left < before:
                    volume += (before - left) * (_over(height, r, c, z) - z)
                if d <= 0.0 and height[r, c] > z:
                    height[r, c] = z
                _remember(walls, r, c, d, z)
            c += 1
    return volume


@njit(
    "i8(f4[:,::1],f4[:,:,::1],f8[:,::1],f8[:,::1],i8[::1],f8,f8,f8,f8,i8,i8[::1],f8[:,:,::1],f8[::1],f8[:,::1])",
    **_OPTIONS,
)
def run_stock_walk(height, walls, points, heading, way, x0, y0, cell, radius, samples, counts, found, volume, beyond):  # type: ignore[no-untyped-def] # fmt: skip
    """Takes a cylinder along points and fills what it meets on the way to each.

    points (n + 1, 3): the first is where it stands; heading (n, 2): unit vector at each further point, zero where it goes
    straight up or down; way (n,): 0 for a rapid, 1 for a feed, 2 for a feed of the same straight run as the step before.
    counts (n,), found (n, MOST, 3), volume (n,) [mm3] and beyond (n, 2) are filled; beyond: 2 to the power of each interval
    that has air outside its left and its right end, added up.
    """
    n = points.shape[0] - 1
    R = radius / cell
    room = np.empty((3, max(samples, 2)))
    # between cells a wall that bends with the cutter reads a little too near
    room[2, 0] = _GRAZING / cell + 1.0 / (8.0 * R)
    k = 0
    while k < n:
        last = k
        while last + 1 < n and way[last + 1] == 2:
            last += 1
        for s in range(k, last + 1):
            x, y, z = (points[s + 1, 0] - x0) / cell, (points[s + 1, 1] - y0) / cell, points[s + 1, 2]
            tx, ty = heading[s, 0], heading[s, 1]
            counts[s] = 0
            if tx * tx + ty * ty > 0.0:
                counts[s] = _meet(height, walls, x, y, z, tx, ty, R, samples, room, found[s])
                for side in range(2):
                    # outside an interval's end and a little ahead: air there is a cut beside, not an edge that is run over
                    beyond[s, side] = 0.0
                    off = _BEYOND if side == 0 else -_BEYOND
                    for i in range(counts[s]):
                        cosine, sine = np.cos(found[s, i, side]), np.sin(found[s, i, side])
                        px = x + R * (cosine * -ty + sine * tx) - off * ty + _AHEAD * tx
                        py = y + R * (cosine * tx + sine * ty) + off * tx + _AHEAD * ty
                        if _wall(height, walls, px, py, z, BAND) <= 0.0:
                            beyond[s, side] += 2.0**i
        ax, ay = (points[k, 0] - x0) / cell, (points[k, 1] - y0) / cell
        bx, by = (points[last + 1, 0] - x0) / cell, (points[last + 1, 1] - y0) / cell
        flat = k > 0 and points[k, 2] == points[last + 1, 2]
        low = min(points[k, 2], points[last + 1, 2])
        whole = _sweep(height, walls, ax, ay, bx, by, low, R, 1 if flat else 0) * cell * cell
        for s in range(k, last + 1):
            volume[s] = whole / (last + 1 - k)
        k = last + 1
    return n


@njit("i8(f4[:,::1],f8[:,::1],f8,f8,f8,f8,f8[:,::1])", **_OPTIONS)
def run_stock_strikes(height, points, x0, y0, cell, radius, out):  # type: ignore[no-untyped-def]
    """Highest material within a radius of each point above its z, into out (n, 1): what a disc would touch."""
    R = radius / cell
    for k in range(points.shape[0]):
        x, y = (points[k, 0] - x0) / cell, (points[k, 1] - y0) / cell
        most = 0.0
        for r in range(max(int(np.ceil(y - R)), 0), min(int(y + R), height.shape[0] - 1) + 1):
            half = np.sqrt(max(R * R - (r - y) ** 2, 0.0))
            for c in range(max(int(np.ceil(x - half)), 0), min(int(x + half), height.shape[1] - 1) + 1):
                most = max(most, height[r, c] - points[k, 2])
        out[k, 0] = most
    return points.shape[0]
