"""Stock in bricks as pixels: lines of sight go through air by the distance that stands there, and end where the material begins."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.brick_cells import AIR, FULL, value_at, value_of
from lesna.physics.compiled.keeping import BORROWS, machine_code

#: least step through air beside the surface, and beyond the wall of a brick [cells]
_LEAST, _BEYOND = 0.25, 1e-3
#: half the way over which the slope of the surface is taken [cells]
_ASIDE = 0.7
#: steps after which a line of sight is given up
_MOST = 4000
#: lines lie on what they follow: they are seen where they stand so far behind it [mm]
_ON = 0.4
#: ink of what stands behind something [-]
_BEHIND = 0.18


@machine_code("void(i4[:,:,::1],i2[:,::1],f8[::1],f8[:,::1],f8[::1],f8,f8,i8,i8,f8[:,::1],f4[:,::1])", **BORROWS)
def run_picture_bricks(index, cells, middle, frame, light, per_pixel, everywhere, first, last, depth, lit):  # type: ignore[no-untyped-def]
    """Fills nearness [mm] and light of the pixels (rows, columns) of some rows.

    middle: the place that stands in the middle of the picture, in cells, then the edge of a cell [mm] and the shift of the picture in
    columns and rows [px]; frame (3, 3): right, up and towards the eye; light (3,); per_pixel [cells].
    """
    rows, columns = depth.shape
    cell = middle[3]
    for r in range(first, last):
        for col in range(columns):
            across = (col - 0.5 * columns - middle[4]) * per_pixel
            up = (0.5 * rows + middle[5] - r) * per_pixel
            px = middle[0] + across * frame[0, 0] + up * frame[1, 0]
            py = middle[1] + across * frame[0, 1] + up * frame[1, 1]
            pz = middle[2] + across * frame[0, 2] + up * frame[1, 2]
            # where the line of sight is in the box, from the eye on: p + t towards the eye
            near, far = 1e30, -1e30
            misses = False
            for c in range(3):
                p = px if c == 0 else py if c == 1 else pz
                d, size = frame[2, c], 4.0 * index.shape[c] - 0.5
                if abs(d) < 1e-12:
                    misses = misses or p < -0.5 or p > size
                    continue
                a, b = (-0.5 - p) / d, (size - p) / d
                near, far = min(near, max(a, b)), max(far, min(a, b))
            if misses or near <= far:
                continue
            t = near
            before, at_before = 0.0, t
            for _ in range(_MOST):
                x, y, z = px + t * frame[2, 0], py + t * frame[2, 1], pz + t * frame[2, 2]
                i = min(max(int(np.floor(x)), 0) >> 2, index.shape[0] - 1)
                j = min(max(int(np.floor(y)), 0) >> 2, index.shape[1] - 1)
                k = min(max(int(np.floor(z)), 0) >> 2, index.shape[2] - 1)
                slot = index[i, j, k]
                if slot == AIR:
                    # on to the wall of the brick
                    out = 1e30
                    for c in range(3):
                        d = frame[2, c]
                        if abs(d) < 1e-12:
                            continue
                        p, b = (px, i) if c == 0 else (py, j) if c == 1 else (pz, k)
                        wall = 4.0 * b if d > 0.0 else 4.0 * b + 4.0
                        ahead = t - (wall - p) / d
                        if ahead > 0.0:
                            out = min(out, ahead)
                    t -= out + _BEYOND if out < 1e29 else _LEAST
                    before = -2.5
                    at_before = t
                else:
                    value = 2.5 if slot == FULL else value_at(index, cells, x, y, z)
                    if value > 0.0:
                        share = before / (before - value) if before < 0.0 else 0.0
                        t = at_before + share * (t - at_before)
                        x, y, z = px + t * frame[2, 0], py + t * frame[2, 1], pz + t * frame[2, 2]
                        nx = value_of(index, cells, x - _ASIDE, y, z) - value_of(index, cells, x + _ASIDE, y, z)
                        ny = value_of(index, cells, x, y - _ASIDE, z) - value_of(index, cells, x, y + _ASIDE, z)
                        nz = value_of(index, cells, x, y, z - _ASIDE) - value_of(index, cells, x, y, z + _ASIDE)
                        norm = np.sqrt(nx * nx + ny * ny + nz * nz)
                        bright = (nx * light[0] + ny * light[1] + nz * light[2]) / norm if norm > 1e-9 else 0.5
                        depth[r, col] = t * cell
                        lit[r, col] = everywhere + (1.0 - everywhere) * max(bright, 0.0)
                        break
                    before, at_before = value, t
                    t -= max(-value, _LEAST)
                if t < far:
                    break


@machine_code("void(f8[:,::1],f8[:,::1],f8[::1],i8[::1],f8[:,::1],f4[:,::1],f4[:,::1],i4[:,::1])", **BORROWS)
def run_picture_traces(starts, ends, value, number, depth, ink, shown, which):  # type: ignore[no-untyped-def]
    """Draws lines two pixels wide between places (n, 3) [px, px, mm] with what is told of each: the greatest of those on a pixel.

    What stands behind something is drawn faintly. `which` gets the number of the line.
    """
    rows, columns = depth.shape
    for n in range(starts.shape[0]):
        ax, ay, az, bx, by, bz = starts[n, 0], starts[n, 1], starts[n, 2], ends[n, 0], ends[n, 1], ends[n, 2]
        steps = int(np.ceil(max(abs(bx - ax), abs(by - ay))))
        if steps > 20_000:
            continue
        for s in range(max(steps, 1)):
            share = (s + 0.5) / max(steps, 1)
            x, y, z = ax + share * (bx - ax), ay + share * (by - ay), az + share * (bz - az)
            c, r = int(np.floor(x)), int(np.floor(y))
            if c < 0 or r < 0 or c >= columns - 1 or r >= rows - 1:
                continue
            for m in range(4):
                i, j = r + (m >> 1), c + (m & 1)
                wide = (1.0 - abs(x - j) * 0.6) * (1.0 - abs(y - i) * 0.6)
                mine = wide if z + _ON >= depth[i, j] else _BEHIND * wide
                if mine > ink[i, j] or (ink[i, j] - mine < 0.3 and value[n] > shown[i, j]):
                    shown[i, j] = value[n]
                    which[i, j] = number[n]
                ink[i, j] = max(ink[i, j], np.float32(mine))
