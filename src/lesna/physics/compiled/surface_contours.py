"""Contours of one height of the tip over a part: where it just comes down so far, to half a micrometre at any slope."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.surface_drop import UNDER, drop
from lesna.physics.compiled.surface_follow import with_room

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a crossing is known to so much; chords may lie so much inside and outside of what is free [mm]
_CLOSE, _INTO, _OFF = 0.0005, 0.0005, 0.0015
#: chords are not parted once they are so short, and are looked at where longer than this [mm]
_SHORTEST, _LONGEST = 0.01, 0.3
#: places between two others are left out where the chord stays so near, inside and outside [mm]
_KEPT_INTO, _KEPT_OFF = 0.0004, 0.0008
_DEEPEST, _TRIES = 96, 60
#: chords of what is written are no longer, so that they can be parted where levels end [mm]
_WRITTEN = 3.0


@machine_code(f"Tuple((f8,f8,i8))({UNDER},f8,f8,f8,f8,f8,i8)", **_OPTIONS)
def crossing(tri, bits, start, items, boxes, dims, frame, fx, fy, bx, by, z0, near):  # type: ignore[no-untyped-def]
    """The place between a free and a blocked one where the tip just comes down to z0: the free end, and what blocks beyond it."""
    t = near
    for _ in range(_TRIES):
        if np.hypot(bx - fx, by - fy) <= _CLOSE:
            break
        mx, my = 0.5 * (fx + bx), 0.5 * (fy + by)
        z, held, _ = drop(tri, bits, start, items, boxes, dims, frame, mx, my, z0, t)
        if held >= 0:
            bx, by, t = mx, my, held
        else:
            fx, fy = mx, my
    return fx, fy, t


@machine_code("b1(f8[:,::1],i8,i8)", **_OPTIONS)
def stays(fine, a, b):  # type: ignore[no-untyped-def]
    """Whether rows between two stay beside their chord."""
    dx, dy = fine[b, 0] - fine[a, 0], fine[b, 1] - fine[a, 1]
    far = np.hypot(dx, dy)
    if far < 1e-9 or far > _WRITTEN:
        return False
    for n in range(a + 1, b):
        vx, vy = fine[n, 0] - fine[a, 0], fine[n, 1] - fine[a, 1]
        left, along = (dx * vy - dy * vx) / far, (dx * vx + dy * vy) / far
        # a row on the left stands nearer to what is blocked than the chord: the chord stands off
        if left > _KEPT_OFF or left < -_KEPT_INTO or along < 0.0 or along > far:
            return False
    return True


@machine_code("i8(f8[:,::1],i8,i8,f8[:,::1],i8)", **_OPTIONS)
def thinned_level(fine, first, last, out, count):  # type: ignore[no-untyped-def]
    """Rows (x, y, z, triangle) of a level chain from first to last without those that chords stay beside, free on the right."""
    a = first
    out[count] = fine[a]
    count += 1
    while a < last:
        # the farthest row whose chord keeps all between beside it; looked for by doubling
        b = a + 1
        step = 1
        while b + step <= last and step <= 64:
            if stays(fine, a, b + step):
                b += step
                step *= 2
            elif step > 1:
                step //= 2
            else:
                break
        out[count] = fine[b]
        count += 1
        a = b
    return count


@machine_code("Tuple((i8[::1],i8[::1]))(f8[:,::1],f8)", **_OPTIONS)
def chained(z, z0):  # type: ignore[no-untyped-def]
    """Edges of a grid (rows, columns) that its contour crosses, what is blocked on the left, and where each chain of them begins.

    Edges along x come first, then those along y; a closed chain ends with the edge it begins with.
    """
    ny, nx = z.shape
    across = ny * (nx - 1)
    total = across + (ny - 1) * nx
    after, has_before = np.full(total, -1, np.int64), np.zeros(total, np.bool_)
    ends = np.empty((4, 2), np.int64)
    for j in range(ny - 1):
        for i in range(nx - 1):
            a, b, c, d = z[j, i] > z0, z[j, i + 1] > z0, z[j + 1, i + 1] > z0, z[j + 1, i] > z0
            if a == b and b == c and c == d:
                continue
            low, high = j * (nx - 1) + i, (j + 1) * (nx - 1) + i
            left, right = across + j * nx + i, across + j * nx + i + 1
            # round the cell against the clock: a piece comes in where blocked ends (1) and leaves where it begins (-1)
            ends[0, 0], ends[1, 0], ends[2, 0], ends[3, 0] = low, right, high, left
            ends[0, 1], ends[1, 1] = (0 if a == b else 1 if a else -1), (0 if b == c else 1 if b else -1)
            ends[2, 1], ends[3, 1] = (0 if c == d else 1 if c else -1), (0 if d == a else 1 if d else -1)
            for k in range(4):
                if ends[k, 1] != -1:
                    continue
                # so what is blocked lies on its left
                for s in range(1, 4):
                    n = (k + s) % 4
                    if ends[n, 1] == 1:
                        after[ends[n, 0]] = ends[k, 0]
                        has_before[ends[k, 0]] = True
                        break
    edges, count = np.empty(2 * total, np.int64), 0
    begins, chains = np.empty(total + 1, np.int64), 0
    used = np.zeros(total, np.bool_)
    for turn in range(2):
        for e in range(total):
            if after[e] < 0 or used[e] or (turn == 0 and has_before[e]):
                continue
            begins[chains] = count
            chains += 1
            k = e
            while k >= 0 and not used[k]:
                edges[count] = k
                used[k] = True
                count += 1
                k = after[k]
            if k == e:
                edges[count] = e
                count += 1
    begins[chains] = count
    return edges[:count].copy(), begins[: chains + 1].copy()


@machine_code(f"Tuple((f8[:,::1],i8[::1],b1[::1]))({UNDER},f8[:,::1],b1[:,::1],f8,f8,f8,f8)", **_OPTIONS)
def run_surface_contour(tri, bits, start, items, boxes, dims, frame, grid, wanted, x0, y0, pitch, z0):  # type: ignore[no-untyped-def]
    """Chains (n, 4: x, y, z, what blocks beside it) of one height with what is blocked on their left, where each begins, which are closed.

    `grid` (rows, columns) holds tips over nodes from x0, y0; only chains that pass a wanted node are followed [mm].
    """
    ny, nx = grid.shape
    across = ny * (nx - 1)
    edges, begins = chained(grid, z0)
    out, count = np.empty((1024, 4)), 0
    fine = np.empty((1024, 4))
    firsts, closed, chains = np.empty(begins.shape[0] + 1, np.int64), np.empty(begins.shape[0] + 1, np.bool_), 0
    stack = np.empty((_DEEPEST, 4))
    near = -1
    for c in range(begins.shape[0] - 1):
        passes = False
        for n in range(begins[c], begins[c + 1]):
            e = edges[n]
            if e < across:
                j, i = e // (nx - 1), e % (nx - 1)
                passes = passes or wanted[j, i] or wanted[j, i + 1]
            else:
                j, i = (e - across) // nx, (e - across) % nx
                passes = passes or wanted[j, i] or wanted[j + 1, i]
        if not passes or begins[c + 1] - begins[c] < 2:
            continue
        rows = 0
        for n in range(begins[c], begins[c + 1]):
            e = edges[n]
            if e < across:
                j, i = e // (nx - 1), e % (nx - 1)
                ax, ay, bx, by = x0 + i * pitch, y0 + j * pitch, x0 + (i + 1) * pitch, y0 + j * pitch
                a_blocked = grid[j, i] > z0
            else:
                j, i = (e - across) // nx, (e - across) % nx
                ax, ay, bx, by = x0 + i * pitch, y0 + j * pitch, x0 + i * pitch, y0 + (j + 1) * pitch
                a_blocked = grid[j, i] > z0
            if a_blocked:
                ax, ay, bx, by = bx, by, ax, ay
            qx, qy, t = crossing(tri, bits, start, items, boxes, dims, frame, ax, ay, bx, by, z0, near)
            near = t if t >= 0 else near
            if rows == 0:
                fine[0, 0], fine[0, 1], fine[0, 2], fine[0, 3] = qx, qy, z0, t
                rows = 1
                continue
            stack[0, 0], stack[0, 1], stack[0, 2], stack[0, 3] = qx, qy, z0, t
            height = 1
            while height > 0:
                top = height - 1
                lx, ly = fine[rows - 1, 0], fine[rows - 1, 1]
                dx, dy = stack[top, 0] - lx, stack[top, 1] - ly
                far = np.hypot(dx, dy)
                found = False
                if far > _SHORTEST and height < _DEEPEST:
                    # free is on the right of the way; the middle is looked at, and the quarters of what is long
                    rx, ry = dy / far, -dx / far
                    looks = 3 if far > _LONGEST else 1
                    for k in range(looks):
                        share = 0.5 if k == 0 else 0.25 if k == 1 else 0.75
                        mx, my = lx + share * dx, ly + share * dy
                        z, held, _ = drop(
                            tri, bits, start, items, boxes, dims, frame, mx + _INTO * rx, my + _INTO * ry, z0, near
                        )
                        if held >= 0:
                            # the chord runs into what is blocked: a free place is looked for farther out
                            px, py, near = mx + _INTO * rx, my + _INTO * ry, held
                            reach = max(far / 8.0, 0.004)
                            for _ in range(12):
                                ox, oy = mx + reach * rx, my + reach * ry
                                z, held, _ = drop(tri, bits, start, items, boxes, dims, frame, ox, oy, z0, near)
                                if held < 0:
                                    qx, qy, t = crossing(
                                        tri, bits, start, items, boxes, dims, frame, ox, oy, px, py, z0, near
                                    )
                                    found = True
                                    break
                                px, py, near = ox, oy, held
                                reach *= 2.0
                        elif k == 0:
                            z, held, _ = drop(
                                tri, bits, start, items, boxes, dims, frame, mx - _OFF * rx, my - _OFF * ry, z0, near
                            )
                            if held < 0:
                                # the chord stands off: what blocks is looked for farther in
                                px, py = mx - _OFF * rx, my - _OFF * ry
                                reach = max(far / 8.0, 0.004)
                                for _ in range(12):
                                    ox, oy = mx - reach * rx, my - reach * ry
                                    z, held, _ = drop(tri, bits, start, items, boxes, dims, frame, ox, oy, z0, near)
                                    if held >= 0:
                                        qx, qy, t = crossing(
                                            tri, bits, start, items, boxes, dims, frame, px, py, ox, oy, z0, held
                                        )
                                        found = True
                                        break
                                    px, py = ox, oy
                                    reach *= 2.0
                                    if reach > 2.0 * far:
                                        break
                        if found:
                            break
                    if found and (
                        np.hypot(qx - lx, qy - ly) < 0.25 * _SHORTEST
                        or np.hypot(qx - stack[top, 0], qy - stack[top, 1]) < 0.25 * _SHORTEST
                    ):
                        found = False
                if found:
                    stack[height, 0], stack[height, 1], stack[height, 2], stack[height, 3] = qx, qy, z0, t
                    height += 1
                else:
                    fine = with_room(fine, rows)
                    fine[rows] = stack[top]
                    rows += 1
                    height -= 1
        while out.shape[0] < count + rows + 1:
            out = with_room(out, out.shape[0])
        firsts[chains], closed[chains] = count, edges[begins[c]] == edges[begins[c + 1] - 1]
        count = thinned_level(fine, 0, rows - 1, out, count)
        chains += 1
    firsts[chains] = count
    return out[:count].copy(), firsts[: chains + 1].copy(), closed[:chains].copy()
