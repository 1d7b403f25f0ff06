"""A closed surface of triangles as distances in bricks: near the surface exactly, elsewhere whether a place lies inside."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.brick_cells import OPTIONS
from lesna.physics.compiled.keeping import BORROWS, machine_code

#: half the diagonal of a brick between the middles of its outermost cells, and how far distances reach [cells]
_HALF_DIAGONAL, _REACH = 1.5 * np.sqrt(3.0), 2.5


@machine_code("f8(f8[:,::1],f8,f8,f8)", inline="always", **BORROWS)
def _squared(t, x, y, z):  # type: ignore[no-untyped-def]
    """Square of the distance of a place from a triangle (Ericson 2005, closest point by regions)."""
    abx, aby, abz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
    acx, acy, acz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
    apx, apy, apz = x - t[0, 0], y - t[0, 1], z - t[0, 2]
    d1, d2 = abx * apx + aby * apy + abz * apz, acx * apx + acy * apy + acz * apz
    bpx, bpy, bpz = x - t[1, 0], y - t[1, 1], z - t[1, 2]
    d3, d4 = abx * bpx + aby * bpy + abz * bpz, acx * bpx + acy * bpy + acz * bpz
    cpx, cpy, cpz = x - t[2, 0], y - t[2, 1], z - t[2, 2]
    d5, d6 = abx * cpx + aby * cpy + abz * cpz, acx * cpx + acy * cpy + acz * cpz
    vc, vb, va = d1 * d4 - d3 * d2, d5 * d2 - d1 * d6, d3 * d6 - d5 * d4
    v = w = 0.0
    if d1 <= 0.0 and d2 <= 0.0:
        v = w = 0.0
    elif d3 >= 0.0 and d4 <= d3:
        v, w = 1.0, 0.0
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        v, w = d1 / max(d1 - d3, 1e-300), 0.0
    elif d6 >= 0.0 and d5 <= d6:
        v, w = 0.0, 1.0
    elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        v, w = 0.0, d2 / max(d2 - d6, 1e-300)
    elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        w = (d4 - d3) / max((d4 - d3) + (d5 - d6), 1e-300)
        v = 1.0 - w
    else:
        whole = max(va + vb + vc, 1e-300)
        v, w = vb / whole, vc / whole
    dx, dy, dz = apx - v * abx - w * acx, apy - v * aby - w * acy, apz - v * abz - w * acz
    return dx * dx + dy * dy + dz * dz


@machine_code("void(f8[:,:,::1],i4[:,:,::1],f4[:,::1],i8)", **OPTIONS)
def run_mesh_near(triangles, index, away, fills):  # type: ignore[no-untyped-def]
    """Marks bricks near triangles (n, 3, 3) [cells] with 0 in the index; with `fills` lowers distances (rows, 64) [cells] to them."""
    for n in range(triangles.shape[0]):
        t = triangles[n]
        low, high = np.empty(3, np.int64), np.empty(3, np.int64)
        for c in range(3):
            least, most = min(t[0, c], min(t[1, c], t[2, c])), max(t[0, c], max(t[1, c], t[2, c]))
            low[c] = max(int(np.floor((least - _REACH) / 4.0)), 0)
            high[c] = min(int(np.floor((most + _REACH) / 4.0)), index.shape[c] - 1)
        for a in range(low[0], high[0] + 1):
            for b in range(low[1], high[1] + 1):
                for c in range(low[2], high[2] + 1):
                    far = _squared(t, 4.0 * a + 1.5, 4.0 * b + 1.5, 4.0 * c + 1.5)
                    if far > (_HALF_DIAGONAL + _REACH) ** 2:
                        continue
                    if fills == 0:
                        index[a, b, c] = 0
                        continue
                    row = index[a, b, c]
                    for m in range(64):
                        d = _squared(t, 4.0 * a + (m >> 4), 4.0 * b + ((m >> 2) & 3), 4.0 * c + (m & 3))
                        away[row, m] = min(away[row, m], np.float32(d))


@machine_code("void(f8[:,:,::1],i8[:,::1],f8[::1],f8,f8,i8)", **BORROWS)
def run_mesh_columns(triangles, begins, heights, shift_x, shift_y, fills):  # type: ignore[no-untyped-def]
    """Heights at which upright lines through the middles of cells (x, y) pass the surface.

    Without `fills` the number of each column (x, y + 1) is added up in begins; with it heights are put in from there on. The lines stand
    a little beside the middles, so that none passes a corner.
    """
    for n in range(triangles.shape[0]):
        t = triangles[n]
        ax, ay, bx, by, cx, cy = t[0, 0], t[0, 1], t[1, 0], t[1, 1], t[2, 0], t[2, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0:
            continue
        left, right = int(np.ceil(min(ax, min(bx, cx)) - shift_x)), int(np.floor(max(ax, max(bx, cx)) - shift_x))
        low, high = int(np.ceil(min(ay, min(by, cy)) - shift_y)), int(np.floor(max(ay, max(by, cy)) - shift_y))
        for i in range(max(left, 0), min(right, begins.shape[0] - 1) + 1):
            x = i + shift_x
            for j in range(max(low, 0), min(high, begins.shape[1] - 1) + 1):
                y = j + shift_y
                u = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area
                v = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area
                if u < 0.0 or v < 0.0 or u + v > 1.0:
                    continue
                if fills == 1:
                    heights[begins[i, j]] = t[0, 2] + u * (t[1, 2] - t[0, 2]) + v * (t[2, 2] - t[0, 2])
                begins[i, j] += 1


@machine_code("void(i8[:,::1],i8[:,::1],f8[::1],i4[:,:,::1],f4[:,::1])", **BORROWS)
def run_mesh_signs(begins, ends, heights, index, away):  # type: ignore[no-untyped-def]
    """Gives distances (rows, 64) their sign, positive inside, and bricks far from the surface air (-1) or full (-2).

    begins, ends (x, y): of the heights of each column, which are sorted here.
    """
    for i in range(begins.shape[0]):
        for j in range(begins.shape[1]):
            for k in range(begins[i, j] + 1, ends[i, j]):  # a few each: put in their order one by one
                value = heights[k]
                m = k - 1
                while m >= begins[i, j] and heights[m] > value:
                    heights[m + 1] = heights[m]
                    m -= 1
                heights[m + 1] = value
    for a in range(index.shape[0]):
        for b in range(index.shape[1]):
            for c in range(index.shape[2]):
                row = index[a, b, c]
                for m in range(64):
                    if row < 0 and m > 0:
                        break
                    i, j, z = 4 * a + (m >> 4), 4 * b + ((m >> 2) & 3), 4.0 * c + (m & 3)
                    above = 0
                    for k in range(begins[i, j], ends[i, j]):
                        if heights[k] > z:
                            above += 1
                    inside = above % 2 == 1
                    if row < 0:
                        index[a, b, c] = -2 if inside else -1
                    elif not inside:
                        away[row, m] = -away[row, m]
