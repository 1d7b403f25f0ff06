"""How high a surface of triangles stands over the middles of cells."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a middle on the edge between two triangles belongs to both
_ON_EDGE = 1e-9


@machine_code("void(f8[:,:,::1],f8,f8,f8,f8[:,::1])", **_OPTIONS)
def run_stock_surface(triangles, x0, y0, cell, height):  # type: ignore[no-untyped-def]
    """Raises height (rows, columns) to the highest of the triangles (n, 3, 3) over each middle; x0, y0: of the first [mm]."""
    for t in range(triangles.shape[0]):
        ax, ay, az = triangles[t, 0, 0], triangles[t, 0, 1], triangles[t, 0, 2]
        bx, by, bz = triangles[t, 1, 0] - ax, triangles[t, 1, 1] - ay, triangles[t, 1, 2] - az
        cx, cy, cz = triangles[t, 2, 0] - ax, triangles[t, 2, 1] - ay, triangles[t, 2, 2] - az
        area = bx * cy - by * cx
        if abs(area) < 1e-12:
            continue
        left, right = ax + min(0.0, min(bx, cx)), ax + max(0.0, max(bx, cx))
        low, high = ay + min(0.0, min(by, cy)), ay + max(0.0, max(by, cy))
        for r in range(max(int(np.ceil((low - y0) / cell)), 0), min(int((high - y0) / cell), height.shape[0] - 1) + 1):
            for c in range(
                max(int(np.ceil((left - x0) / cell)), 0), min(int((right - x0) / cell), height.shape[1] - 1) + 1
            ):
                px, py = x0 + c * cell - ax, y0 + r * cell - ay
                # how far towards b and towards c the middle lies from a
                u, v = (px * cy - py * cx) / area, (bx * py - by * px) / area
                if u >= -_ON_EDGE and v >= -_ON_EDGE and u + v <= 1.0 + _ON_EDGE:
                    height[r, c] = max(height[r, c], az + u * bz + v * cz)
