"""The tip led over a part along lines seen from above: places as close as the surface asks for, and no closer."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.surface_drop import UNDER, drop

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a chord may lie so much under the surface of the tips in its middle, and over it [mm]
_INTO, _OFF = 0.0005, 0.001
#: chords are not longer before they are looked at, and not parted once they are shorter in space [mm]
_LONGEST, _SHORTEST = 0.2, 0.003
#: places between two others are left out where the chord stays so near to them, under and over [mm]
_KEPT_INTO, _KEPT_OFF = 0.0004, 0.0007
_DEEPEST = 64


@machine_code("f8[:,::1](f8[:,::1],i8)", **_OPTIONS)
def with_room(rows, count):  # type: ignore[no-untyped-def]
    """The rows, with room for one more."""
    if count < rows.shape[0]:
        return rows
    out = np.empty((2 * rows.shape[0], rows.shape[1]))
    out[:count] = rows[:count]
    return out


@machine_code("i8(f8[:,::1],i8,i8,f8[:,::1],i8)", **_OPTIONS)
def thinned(fine, first, last, out, count):  # type: ignore[no-untyped-def]
    """Rows of a straight stretch (x, y, z, triangle) from first to last without those that their neighbours' chords stay beside."""
    ax, ay, az = fine[first, 0], fine[first, 1], fine[first, 2]
    low, high = -1e30, 1e30
    for n in range(first + 1, last + 1):
        way = np.hypot(fine[n, 0] - ax, fine[n, 1] - ay)
        slope = (fine[n, 2] - az) / max(way, 1e-12)
        if n > first + 1 and (slope < low or slope > high):
            out[count] = fine[n - 1]
            count += 1
            ax, ay, az = fine[n - 1, 0], fine[n - 1, 1], fine[n - 1, 2]
            way = np.hypot(fine[n, 0] - ax, fine[n, 1] - ay)
            low, high = -1e30, 1e30
        rise = (fine[n, 2] - az) / max(way, 1e-12)
        leaning = np.sqrt(1.0 + rise * rise)
        low = max(low, (fine[n, 2] - _KEPT_INTO * leaning - az) / max(way, 1e-12))
        high = min(high, (fine[n, 2] + _KEPT_OFF * leaning - az) / max(way, 1e-12))
    out[count] = fine[last]
    return count + 1


@machine_code(f"Tuple((f8[:,::1],i8[::1]))({UNDER},f8[:,::1],i8[::1],f8)", **_OPTIONS)
def run_surface_follow(tri, bits, start, items, boxes, dims, frame, guide, begins, floor):  # type: ignore[no-untyped-def]
    """Places (n, 4: x, y, z, triangle or -1) along guides (m, 2) that begin at `begins` (k + 1), and where each of theirs begins.

    Chords are parted until the tip over their middle lies on them: never under the floor [mm].
    """
    out, count = np.empty((1024, 4)), 0
    fine = np.empty((1024, 4))
    first_of = np.empty(begins.shape[0], np.int64)
    stack = np.empty((_DEEPEST, 4))
    near = -1
    for g in range(begins.shape[0] - 1):
        first_of[g] = count
        if begins[g + 1] - begins[g] < 1:
            continue
        x, y = guide[begins[g], 0], guide[begins[g], 1]
        z, t, _ = drop(tri, bits, start, items, boxes, dims, frame, x, y, floor, near)
        near = t if t >= 0 else near
        out = with_room(out, count)
        out[count, 0], out[count, 1], out[count, 2], out[count, 3] = x, y, z, t
        count += 1
        for n in range(begins[g] + 1, begins[g + 1]):
            ax, ay = guide[n - 1, 0], guide[n - 1, 1]
            vx, vy = guide[n, 0] - ax, guide[n, 1] - ay
            pieces = max(int(np.ceil(np.hypot(vx, vy) / _LONGEST)), 1)
            fine[0] = out[count - 1]
            rows = 1
            for p in range(1, pieces + 1):
                x, y = (guide[n, 0], guide[n, 1]) if p == pieces else (ax + vx * p / pieces, ay + vy * p / pieces)
                z, t, _ = drop(tri, bits, start, items, boxes, dims, frame, x, y, floor, near)
                near = t if t >= 0 else near
                stack[0, 0], stack[0, 1], stack[0, 2], stack[0, 3] = x, y, z, t
                height = 1
                while height > 0:
                    top = height - 1
                    dx, dy, dz = (
                        stack[top, 0] - fine[rows - 1, 0],
                        stack[top, 1] - fine[rows - 1, 1],
                        stack[top, 2] - fine[rows - 1, 2],
                    )
                    far = np.sqrt(dx * dx + dy * dy + dz * dz)
                    is_fine = far <= _SHORTEST or height >= _DEEPEST
                    if not is_fine:
                        mx, my = fine[rows - 1, 0] + 0.5 * dx, fine[rows - 1, 1] + 0.5 * dy
                        mz, t, _ = drop(tri, bits, start, items, boxes, dims, frame, mx, my, floor, near)
                        near = t if t >= 0 else near
                        # how far off the chord, square to it
                        over = (mz - fine[rows - 1, 2] - 0.5 * dz) * np.sqrt(dx * dx + dy * dy) / far
                        is_fine = -_OFF <= over <= _INTO
                    if is_fine:
                        fine = with_room(fine, rows)
                        fine[rows] = stack[top]
                        rows += 1
                        height -= 1
                    else:
                        stack[height, 0], stack[height, 1], stack[height, 2], stack[height, 3] = mx, my, mz, t
                        height += 1
            while out.shape[0] < count + rows + 1:
                out = with_room(out, out.shape[0])
            if rows > 1:
                count = thinned(fine, 0, rows - 1, out, count)
    first_of[begins.shape[0] - 1] = count
    return out[:count].copy(), first_of
