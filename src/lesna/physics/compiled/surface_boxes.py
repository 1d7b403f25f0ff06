"""Boxes of triangles under planes, in three sizes, for the exact drop."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
_NOWHERE = -1e30
#: planes steeper than this say nothing about a box
_STEEPEST = 4.0


@machine_code("i8(f8[:,::1],i8,f8,f8,f8,f8,f8[:,::1],f8[:,::1])", **_OPTIONS)
def clipped(tri, t, x0, y0, x1, y1, one, other):  # type: ignore[no-untyped-def]
    """Corners of what of a triangle lies over a rectangle, in `one` (12, 3); how many."""
    count = 3
    for k in range(3):
        for axis in range(3):
            one[k, axis] = tri[t, 3 * k + axis]
    for side in range(4):
        axis = side >> 1
        bound, sign = (x0, 1.0) if side == 0 else (x1, -1.0) if side == 1 else (y0, 1.0) if side == 2 else (y1, -1.0)
        kept = 0
        for k in range(count):
            n = k + 1 if k + 1 < count else 0
            da, db = sign * (one[k, axis] - bound), sign * (one[n, axis] - bound)
            if da >= 0.0:
                for c in range(3):
                    other[kept, c] = one[k, c]
                kept += 1
            if (da > 0.0 and db < 0.0) or (da < 0.0 and db > 0.0):
                share = da / (da - db)
                for c in range(3):
                    other[kept, c] = one[k, c] + share * (one[n, c] - one[k, c])
                kept += 1
        count = kept
        for k in range(count):
            for c in range(3):
                one[k, c] = other[k, c]
        if count == 0:
            return 0
    return count


@machine_code("void(f8[:,::1],i8,f8[::1],i8[::1],i8[::1])", **_OPTIONS)
def spans(tri, t, origin, dims, out):  # type: ignore[no-untyped-def]
    """First and last box of a triangle along x and y."""
    b = origin[2]
    out[0] = max(int((min(tri[t, 0], min(tri[t, 3], tri[t, 6])) - origin[0]) / b), 0)
    out[1] = min(int((max(tri[t, 0], max(tri[t, 3], tri[t, 6])) - origin[0]) / b), dims[0] - 1)
    out[2] = max(int((min(tri[t, 1], min(tri[t, 4], tri[t, 7])) - origin[1]) / b), 0)
    out[3] = min(int((max(tri[t, 1], max(tri[t, 4], tri[t, 7])) - origin[1]) / b), dims[1] - 1)


@machine_code("void(f8[:,::1],f8[:,::1])", **_OPTIONS)
def planes(sums, boxes):  # type: ignore[no-untyped-def]
    """Least squares of summed corners (n, 9: count, x, y, z, xx, xy, yy, xz, yz) as slopes of the boxes' planes."""
    for i in range(sums.shape[0]):
        n = sums[i, 0]
        boxes[i, 0] = boxes[i, 1] = 0.0
        boxes[i, 2] = _NOWHERE
        if n < 3.0:
            continue
        mx, my, mz = sums[i, 1] / n, sums[i, 2] / n, sums[i, 3] / n
        xx, xy, yy = sums[i, 4] - n * mx * mx, sums[i, 5] - n * mx * my, sums[i, 6] - n * my * my
        xz, yz = sums[i, 7] - n * mx * mz, sums[i, 8] - n * my * mz
        whole = xx * yy - xy * xy
        if whole <= 1e-6 * xx * yy or whole <= 0.0:
            continue
        p, q = (xz * yy - yz * xy) / whole, (yz * xx - xz * xy) / whole
        if p * p + q * q <= _STEEPEST * _STEEPEST:
            boxes[i, 0], boxes[i, 1] = p, q


@machine_code("void(f8[:,::1],i8,f8[:,::1],i8)", **_OPTIONS)
def lifted(boxes, i, corners, count):  # type: ignore[no-untyped-def]
    """Lifts the plane of a box over corners and widens the box round them."""
    for k in range(count):
        x, y, z = corners[k, 0], corners[k, 1], corners[k, 2]
        boxes[i, 2] = max(boxes[i, 2], z - boxes[i, 0] * x - boxes[i, 1] * y)
        boxes[i, 3], boxes[i, 4] = min(boxes[i, 3], x), min(boxes[i, 4], y)
        boxes[i, 5], boxes[i, 6] = max(boxes[i, 5], x), max(boxes[i, 6], y)


@machine_code("Tuple((i8[::1],i4[::1],f8[:,::1],f8[:,::1],f8[:,::1]))(f8[:,::1],i8[::1],i8[::1],f8[::1])", **_OPTIONS)
def run_surface_boxes(tri, bits, dims, origin):  # type: ignore[no-untyped-def]
    """Where the triangles of each small box begin, those triangles, and the boxes of three sizes (see `surface_drop.PART`).

    Parameters are the triangles (n, 15), their bits (0: left out), counts of boxes along x and y for the three sizes (6), and the lowest
    x and y with the side of a small box (3) [mm].
    """
    small, middle, large = dims[0] * dims[1], dims[2] * dims[3], dims[4] * dims[5]
    b = origin[2]
    span = np.empty(4, np.int64)
    one, other = np.empty((12, 3)), np.empty((12, 3))
    start = np.zeros(small + 1, np.int64)
    sums1, sums2, sums3 = np.zeros((small, 9)), np.zeros((middle, 9)), np.zeros((large, 9))
    for t in range(tri.shape[0]):
        if bits[t] == 0:
            continue
        spans(tri, t, origin, dims, span)
        for j in range(span[2], span[3] + 1):
            for i in range(span[0], span[1] + 1):
                x0, y0 = origin[0] + i * b, origin[1] + j * b
                count = clipped(tri, t, x0, y0, x0 + b, y0 + b, one, other)
                if count == 0:
                    continue
                box = j * dims[0] + i
                start[box + 1] += 1
                for k in range(count):
                    x, y, z = one[k, 0], one[k, 1], one[k, 2]
                    row = sums1[box]
                    row[0] += 1.0
                    row[1] += x
                    row[2] += y
                    row[3] += z
                    row[4] += x * x
                    row[5] += x * y
                    row[6] += y * y
                    row[7] += x * z
                    row[8] += y * z
    for box in range(small):
        start[box + 1] += start[box]
        i, j = box % dims[0], box // dims[0]
        sums2[(j >> 2) * dims[2] + (i >> 2)] += sums1[box]
        sums3[(j >> 4) * dims[4] + (i >> 4)] += sums1[box]
    b1, b2, b3 = np.empty((small, 7)), np.empty((middle, 7)), np.empty((large, 7))
    planes(sums1, b1)
    planes(sums2, b2)
    planes(sums3, b3)
    for boxes in (b1, b2, b3):
        boxes[:, 3:5] = 1e30
        boxes[:, 5:7] = -1e30
    items = np.empty(start[small], np.int32)
    filled = start[:-1].copy()
    for t in range(tri.shape[0]):
        if bits[t] == 0:
            continue
        spans(tri, t, origin, dims, span)
        for j in range(span[2], span[3] + 1):
            for i in range(span[0], span[1] + 1):
                x0, y0 = origin[0] + i * b, origin[1] + j * b
                count = clipped(tri, t, x0, y0, x0 + b, y0 + b, one, other)
                if count == 0:
                    continue
                box = j * dims[0] + i
                items[filled[box]] = t
                filled[box] += 1
                lifted(b1, box, one, count)
                lifted(b2, (j >> 2) * dims[2] + (i >> 2), one, count)
                lifted(b3, (j >> 4) * dims[4] + (i >> 4), one, count)
    return start, items, b1, b2, b3
