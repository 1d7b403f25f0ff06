"""Stock as a signed distance in bricks of 4 x 4 x 4 cells: what stands at a place, and what a cutter takes off on its way.

A brick is air, full, or a row of 64 distances, positive in the material, in units of 1/12000 cell up to 2.5 cells. Places are counted
in cells from the middle of the first. The distance to a cutter that turns is that to its half section; a cell that the cutter passes
is cut to the least distance on the way, which is convex: a parabola through three places finds it.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import BORROWS, machine_code

OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
_FAST: Any = {**BORROWS, "fastmath": {"contract", "nsz", "arcp", "reassoc", "nnan"}}
#: units of a cell, how far distances reach [cells], and the same in units
UNITS, REACH, CLAMP = 12000.0, 2.5, 30000
_UNITS_4, _REACH_4, _ONE_4, _HALF_4, _ZERO_4 = (np.float32(v) for v in (UNITS, REACH, 1.0, 0.5, 0.0))
_LEAST_4 = np.float32(1e-12)
#: a brick that is air, and one that is full
AIR, FULL = -1, -2
#: half the diagonal of a brick between the middles of its outermost cells [cells]
_DIAGONAL = 1.5 * np.sqrt(3.0)
#: a corner of the parabola so flat is none
_FLAT = np.float32(1e-7)
#: share of a step after which a flank that goes away from a brick has gone on
_SOON = 0.1


@machine_code("f8(i4[:,:,::1],i2[:,::1],f8,f8,f8)", inline="always", **BORROWS)
def value_at(index, cells, x, y, z):  # type: ignore[no-untyped-def]
    """Distance at a place [cells], positive in the material, straight between cells."""
    i, j, k = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    if i < -1 or j < -1 or k < -1:
        return -REACH
    a, b, c = max(i, 0) >> 2, max(j, 0) >> 2, max(k, 0) >> 2
    if a >= index.shape[0] or b >= index.shape[1] or c >= index.shape[2]:
        return -REACH
    u, v, w = x - i, y - j, z - k
    if (i & 3) < 3 and (j & 3) < 3 and (k & 3) < 3 and i >= 0 and j >= 0 and k >= 0:
        slot = index[a, b, c]
        if slot < 0:
            return -REACH if slot == AIR else REACH
        n = ((i & 3) << 4) | ((j & 3) << 2) | (k & 3)
        low = (1 - v) * ((1 - w) * cells[slot, n] + w * cells[slot, n + 1]) + v * (
            (1 - w) * cells[slot, n + 4] + w * cells[slot, n + 5]
        )
        high = (1 - v) * ((1 - w) * cells[slot, n + 16] + w * cells[slot, n + 17]) + v * (
            (1 - w) * cells[slot, n + 20] + w * cells[slot, n + 21]
        )
        return ((1 - u) * low + u * high) / UNITS
    out = 0.0
    for m in range(8):  # its corners lie in several bricks; outside of all there is air
        p, q, s = i + (m >> 2), j + ((m >> 1) & 1), k + (m & 1)
        weight = (u if m & 4 else 1 - u) * (v if m & 2 else 1 - v) * (w if m & 1 else 1 - w)
        here = -REACH
        if p >= 0 and q >= 0 and s >= 0:
            a, b, c = p >> 2, q >> 2, s >> 2
            if a < index.shape[0] and b < index.shape[1] and c < index.shape[2]:
                slot = index[a, b, c]
                if slot == FULL:
                    here = REACH
                elif slot >= 0:
                    here = cells[slot, ((p & 3) << 4) | ((q & 3) << 2) | (s & 3)] / UNITS
        out += weight * here
    return out


@machine_code("f8(i4[:,:,::1],i2[:,::1],f8,f8,f8)", inline="always", **BORROWS)
def value_near(index, cells, x, y, z):  # type: ignore[no-untyped-def]
    """The same where a surface is near; elsewhere as far as distances reach, at one look: its nearest cell is as far from any.

    That cell lies less than 0.87 cells away, so the surface lies more than 1.6: no neighbour within 1.5 is on its other side.
    """
    i, j, k = int(np.floor(x + 0.5)), int(np.floor(y + 0.5)), int(np.floor(z + 0.5))
    if i < 0 or j < 0 or k < 0:
        return -REACH
    a, b, c = i >> 2, j >> 2, k >> 2
    if a >= index.shape[0] or b >= index.shape[1] or c >= index.shape[2]:
        return -REACH
    slot = index[a, b, c]
    if slot < 0:
        return -REACH if slot == AIR else REACH
    here = cells[slot, ((i & 3) << 4) | ((j & 3) << 2) | (k & 3)]
    if here == CLAMP or here == -CLAMP:
        return here / UNITS
    return value_at(index, cells, x, y, z)


@machine_code("f8(i4[:,:,::1],i2[:,::1],f8,f8,f8)", **BORROWS)
def value_of(index, cells, x, y, z):  # type: ignore[no-untyped-def]
    """The same as a call of its own, for where it is not asked often: put in everywhere it takes long to compile."""
    return value_at(index, cells, x, y, z)


@machine_code("f4(f4,f4,f4,f4,f4,f4,f4,f4,f4)", inline="always", **_FAST)
def _away(x, y, z, flat, corner, sine, cosine, flutes, widest):  # type: ignore[no-untyped-def]
    """Distance of a place in the cutter's frame from the cutter, negative in it.

    Flat and corner radius, sine and cosine of the flank's half angle, length of the flutes, greatest radius [cells]; numbers, no array,
    so that a loop over cells keeps them and does several cells at once.
    """
    r = np.sqrt(x * x + y * y)
    dr, dz = r - flat, z - corner
    flank = max(dr * cosine - dz * sine, -dz)
    is_corner = (dr >= _ZERO_4) & (dr * sine + dz * cosine <= _ZERO_4)
    d = (np.sqrt(dr * dr + dz * dz) if is_corner else flank) - corner
    return max(d, max(z - flutes, r - widest))


@machine_code("void(f8[::1],f8[:,::1],f8[::1],f8[:,::1])", **BORROWS)
def carried(a, frame, b, out):  # type: ignore[no-untyped-def]
    """The frame (rows x, y, axis) that belongs to direction b, turned there from that of a without twist."""
    cx, cy, cz = a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]
    k = 1.0 / (1.0 + max(a[0] * b[0] + a[1] * b[1] + a[2] * b[2], -0.999999))
    for row in range(2):
        x, y, z = frame[row, 0], frame[row, 1], frame[row, 2]
        wx, wy, wz = cy * z - cz * y, cz * x - cx * z, cx * y - cy * x
        vx, vy, vz = cy * wz - cz * wy, cz * wx - cx * wz, cx * wy - cy * wx
        out[row, 0], out[row, 1], out[row, 2] = x + wx + k * vx, y + wy + k * vy, z + wz + k * vz
    out[2, 0], out[2, 1], out[2, 2] = b[0], b[1], b[2]


@machine_code("void(f8[::1],f8[:,::1])", **BORROWS)
def framed(a, out):  # type: ignore[no-untyped-def]
    """Any frame (rows x, y, axis) of a direction."""
    if abs(a[2]) < 0.9:
        x, y, z = -a[1], a[0], 0.0
    else:
        x, y, z = 0.0, -a[2], a[1]
    size = np.sqrt(x * x + y * y + z * z)
    x, y, z = x / size, y / size, z / size
    out[0, 0], out[0, 1], out[0, 2] = x, y, z
    out[1, 0], out[1, 1], out[1, 2] = a[1] * z - a[2] * y, a[2] * x - a[0] * z, a[0] * y - a[1] * x
    out[2, 0], out[2, 1], out[2, 2] = a[0], a[1], a[2]


@machine_code("f4(f4[::1],f4[:,::1],f4[:,::1],f4[::1])", **_FAST)
def _least(start, first, second, out):  # type: ignore[no-untyped-def]
    """Fills the least distance of 64 cells on their way through the cutter (64,); start: places of the first cell at both ends and shape.

    first, second (3, 3): what a cell more in x, y and z adds in the frames of both ends.
    """
    ax, ay, az, bx, by, bz = start[0], start[1], start[2], start[3], start[4], start[5]
    flat, corner, sine, cosine, flutes, widest = start[6], start[7], start[8], start[9], start[10], start[11]
    f00, f01, f02, f10, f11, f12 = first[0, 0], first[0, 1], first[0, 2], first[1, 0], first[1, 1], first[1, 2]
    f20, f21, f22, s00, s01, s02 = first[2, 0], first[2, 1], first[2, 2], second[0, 0], second[0, 1], second[0, 2]
    s10, s11, s12, s20, s21, s22 = second[1, 0], second[1, 1], second[1, 2], second[2, 0], second[2, 1], second[2, 2]
    for n in range(64):
        i, j, k = np.float32(n >> 4), np.float32((n >> 2) & 3), np.float32(n & 3)
        x0, y0, z0 = (
            ax + i * f00 + j * f01 + k * f02,
            ay + i * f10 + j * f11 + k * f12,
            az + i * f20 + j * f21 + k * f22,
        )
        x1, y1, z1 = (
            bx + i * s00 + j * s01 + k * s02,
            by + i * s10 + j * s11 + k * s12,
            bz + i * s20 + j * s21 + k * s22,
        )
        d0 = _away(x0, y0, z0, flat, corner, sine, cosine, flutes, widest)
        d2 = _away(x1, y1, z1, flat, corner, sine, cosine, flutes, widest)
        x, y, z = _HALF_4 * (x0 + x1), _HALF_4 * (y0 + y1), _HALF_4 * (z0 + z1)
        d1 = _away(x, y, z, flat, corner, sine, cosine, flutes, widest)
        # d(t) = d0 + b t + c t^2 through the three
        c = np.float32(2.0) * (d0 + d2 - np.float32(2.0) * d1)
        b = d2 - d0 - c
        t = min(max(-_HALF_4 * b / max(c, _FLAT), _ZERO_4), _ONE_4)
        vertex = d0 + t * (b + c * t)
        out[n] = min(min(d0, d2), min(d1, vertex if c > _FLAT else d1))
    return out[0]


@machine_code("f8(i2[::1],f4[::1],i4[::1])", **_FAST)
def _taken(row, least, greatest):  # type: ignore[no-untyped-def]
    """Cuts 64 cells to distances; the volume that goes [cells3], and the greatest that is left."""
    gone, most = _ZERO_4, np.int32(-CLAMP)
    for n in range(64):
        old = np.int32(row[n])
        limited = min(max(least[n] * _UNITS_4, np.float32(-CLAMP)), np.float32(CLAMP))
        new = min(old, np.int32(limited))
        before = min(max(np.float32(old) / _UNITS_4, -_HALF_4), _HALF_4)
        after = min(max(np.float32(new) / _UNITS_4, -_HALF_4), _HALF_4)
        gone += before - after
        row[n] = np.int16(new)
        most = max(most, new)
    greatest[0] = most
    return gone


@machine_code("b1(f4[::1],f4[:,::1],f4[:,::1])", **_FAST)
def _recedes(start, first, second):  # type: ignore[no-untyped-def]
    """Whether the cutter goes away from every corner of a brick whose middle is given at both ends."""
    soon = np.float32(_SOON)
    for n in range(8):
        i = np.float32(1.5 if n & 4 else -1.5)
        j = np.float32(1.5 if n & 2 else -1.5)
        k = np.float32(1.5 if n & 1 else -1.5)
        x0 = start[0] + i * first[0, 0] + j * first[0, 1] + k * first[0, 2]
        y0 = start[1] + i * first[1, 0] + j * first[1, 1] + k * first[1, 2]
        z0 = start[2] + i * first[2, 0] + j * first[2, 1] + k * first[2, 2]
        x1 = start[3] + i * second[0, 0] + j * second[0, 1] + k * second[0, 2]
        y1 = start[4] + i * second[1, 0] + j * second[1, 1] + k * second[1, 2]
        z1 = start[5] + i * second[2, 0] + j * second[2, 1] + k * second[2, 2]
        d0 = _away(x0, y0, z0, start[6], start[7], start[8], start[9], start[10], start[11])
        x, y, z = x0 + soon * (x1 - x0), y0 + soon * (y1 - y0), z0 + soon * (z1 - z0)
        if _away(x, y, z, start[6], start[7], start[8], start[9], start[10], start[11]) < d0:
            return False
    return True


@machine_code(
    "f8(i4[:,:,::1],i2[:,::1],i2[::1],i4[::1],i8[::1],f8[::1],f8[::1],f8[:,::1],f8[:,::1],f8[::1],i8,f4[::1],f4[:,::1],f4[:,::1],f4[::1])",
    **OPTIONS,
)
def cut_step(index, cells, most, free, state, tip0, tip1, frame0, frame1, shape, follows, start, first, second, least):  # type: ignore[no-untyped-def] # fmt: skip
    """Takes off what a cutter passes from one pose to the next; the volume that goes [cells3].

    index, cells, most: the bricks, and the greatest distance of each; free, state: free rows, and how many rows are used and free;
    tips [cells]; frames with rows x, y, axis; follows: whether the first pose was cut before. start, first, second, least: room.
    """
    box_low, box_high = np.empty(3, np.int64), np.empty(3, np.int64)
    for c in range(3):
        a0, a1 = frame0[2, c], frame1[2, c]
        w0, w1 = shape[5] * np.sqrt(max(1.0 - a0 * a0, 0.0)), shape[5] * np.sqrt(max(1.0 - a1 * a1, 0.0))
        low = min(min(tip0[c], tip0[c] + shape[4] * a0) - w0, min(tip1[c], tip1[c] + shape[4] * a1) - w1)
        high = max(max(tip0[c], tip0[c] + shape[4] * a0) + w0, max(tip1[c], tip1[c] + shape[4] * a1) + w1)
        box_low[c] = max(int(np.floor((low - REACH) / 4.0)), 0)
        box_high[c] = min(int(np.floor((high + REACH) / 4.0)), index.shape[c] - 1)
    for c in range(6):
        start[6 + c] = shape[c]
    for r in range(3):
        for c in range(3):
            first[r, c], second[r, c] = frame0[r, c], frame1[r, c]
    gone = 0.0
    greatest = np.empty(1, np.int32)
    for a in range(box_low[0], box_high[0] + 1):
        for b in range(box_low[1], box_high[1] + 1):
            for c in range(box_low[2], box_high[2] + 1):
                slot = index[a, b, c]
                if slot == AIR:
                    continue
                top = REACH if slot == FULL else most[slot] / UNITS
                ux, uy, uz = 4.0 * a + 1.5 - tip0[0], 4.0 * b + 1.5 - tip0[1], 4.0 * c + 1.5 - tip0[2]
                vx, vy, vz = 4.0 * a + 1.5 - tip1[0], 4.0 * b + 1.5 - tip1[1], 4.0 * c + 1.5 - tip1[2]
                for r in range(3):
                    start[r] = frame0[r, 0] * ux + frame0[r, 1] * uy + frame0[r, 2] * uz
                    start[3 + r] = frame1[r, 0] * vx + frame1[r, 1] * vy + frame1[r, 2] * vz
                d0 = _away(start[0], start[1], start[2], start[6], start[7], start[8], start[9], start[10], start[11])
                d1 = _away(start[3], start[4], start[5], start[6], start[7], start[8], start[9], start[10], start[11])
                way = np.sqrt((start[3] - start[0]) ** 2 + (start[4] - start[1]) ** 2 + (start[5] - start[2]) ** 2)
                if min(d0, d1) - 0.5 * way - _DIAGONAL >= top:
                    continue
                if follows == 1 and d1 > d0 and _recedes(start, first, second):
                    continue
                for r in range(3):
                    start[r] -= np.float32(1.5 * (frame0[r, 0] + frame0[r, 1] + frame0[r, 2]))
                    start[3 + r] -= np.float32(1.5 * (frame1[r, 0] + frame1[r, 1] + frame1[r, 2]))
                _least(start, first, second, least)
                if slot == FULL:
                    nearest = least[0]
                    for n in range(1, 64):
                        nearest = min(nearest, least[n])
                    if nearest >= _REACH_4:
                        continue
                    if state[1] > 0:
                        state[1] -= 1
                        slot = free[state[1]]
                    else:
                        slot = state[0]
                        state[0] += 1
                    index[a, b, c] = slot
                    cells[slot, :] = CLAMP
                gone += _taken(cells[slot], least, greatest)
                most[slot] = greatest[0]
                if greatest[0] <= -CLAMP:
                    index[a, b, c] = AIR
                    free[state[1]] = slot
                    state[1] += 1
    return gone
