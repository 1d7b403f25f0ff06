"""Triangles and lines of a part as pixels: what stands nearest to the eye in each, seen from far away."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: lines lie on what they follow: they are drawn where they stand so far behind it [mm]
_ON = 0.15


@machine_code("void(f8[:,::1],i8[:,::1],f8[:,::1],f8[:,::1],f8[:,::1],i4[:,::1],f4[:,::1],f4[:,::1])", **_OPTIONS)
def run_picture_faces(points, corners, light, value, depth, which, lit, shown):  # type: ignore[no-untyped-def]
    """Raises pixels (rows, columns) to the nearest triangle: its number, its light and its value between its corners'.

    `points` (n, 3) hold column, row and nearness [px, px, mm]; `light` and `value` (m, 3) are those at the corners of each triangle.
    """
    rows, columns = depth.shape
    for t in range(corners.shape[0]):
        ax, ay, az = points[corners[t, 0], 0], points[corners[t, 0], 1], points[corners[t, 0], 2]
        bx, by, bz = points[corners[t, 1], 0], points[corners[t, 1], 1], points[corners[t, 1], 2]
        cx, cy, cz = points[corners[t, 2], 0], points[corners[t, 2], 1], points[corners[t, 2], 2]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        # rows run down: what is turned towards the eye runs clockwise
        if area >= -1e-12:
            continue
        left, right = max(int(np.ceil(min(ax, min(bx, cx)))), 0), min(int(np.floor(max(ax, max(bx, cx)))), columns - 1)
        top, foot = max(int(np.ceil(min(ay, min(by, cy)))), 0), min(int(np.floor(max(ay, max(by, cy)))), rows - 1)
        for r in range(top, foot + 1):
            for c in range(left, right + 1):
                u = ((c - ax) * (cy - ay) - (r - ay) * (cx - ax)) / area
                v = ((bx - ax) * (r - ay) - (by - ay) * (c - ax)) / area
                if u < -1e-9 or v < -1e-9 or u + v > 1.0 + 1e-9:
                    continue
                w = 1.0 - u - v
                z = w * az + u * bz + v * cz
                if z > depth[r, c]:
                    depth[r, c], which[r, c] = z, t
                    lit[r, c] = w * light[t, 0] + u * light[t, 1] + v * light[t, 2]
                    shown[r, c] = w * value[t, 0] + u * value[t, 1] + v * value[t, 2]


@machine_code("void(f8[:,::1],i8[::1],f8[:,::1],f4[:,::1])", **_OPTIONS)
def run_picture_lines(points, begins, depth, ink):  # type: ignore[no-untyped-def]
    """Adds to the ink of pixels (rows, columns) that lines through points (n, 3) pass where nothing stands before them.

    Lines begin at `begins` (k + 1); each pixel gets as much as a line covers of it and its neighbour.
    """
    rows, columns = depth.shape
    for k in range(begins.shape[0] - 1):
        for n in range(begins[k], begins[k + 1] - 1):
            ax, ay, az = points[n, 0], points[n, 1], points[n, 2]
            bx, by, bz = points[n + 1, 0], points[n + 1, 1], points[n + 1, 2]
            steps = int(np.ceil(max(abs(bx - ax), abs(by - ay))))
            if steps > 20_000:
                continue
            for s in range(max(steps, 1)):
                share = (s + 0.5) / max(steps, 1)
                x, y, z = ax + share * (bx - ax), ay + share * (by - ay), az + share * (bz - az)
                c, r = int(np.floor(x)), int(np.floor(y))
                if c < 0 or r < 0 or c >= columns - 1 or r >= rows - 1 or z + _ON < depth[r, c]:
                    continue
                fx, fy = x - c, y - r
                ink[r, c] = max(ink[r, c], np.float32((1.0 - fx) * (1.0 - fy)))
                ink[r, c + 1] = max(ink[r, c + 1], np.float32(fx * (1.0 - fy)))
                ink[r + 1, c] = max(ink[r + 1, c], np.float32((1.0 - fx) * fy))
                ink[r + 1, c + 1] = max(ink[r + 1, c + 1], np.float32(fx * fy))
