"""Whether lines and arcs stand for a run of chords within a tolerance, both ways round."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: how far past its ends a place still lies beside an arc, as a share of its sweep
_PAST = 0.02
#: places along a piece that are looked at
_LOOKS = 18


@machine_code("f8(f8,f8,f8[:,::1],i8)", **_OPTIONS)
def from_piece(x, y, pieces, k):  # type: ignore[no-untyped-def]
    """Distance of a place from a line or an arc; far where it does not lie beside the arc."""
    sx, sy, ex, ey = pieces[k, 0], pieces[k, 1], pieces[k, 2], pieces[k, 3]
    if pieces[k, 4] == 0.0:
        vx, vy = ex - sx, ey - sy
        size = vx * vx + vy * vy
        if size < 1e-16:
            return np.inf
        share = min(max(((x - sx) * vx + (y - sy) * vy) / size, 0.0), 1.0)
        return np.hypot(x - sx - share * vx, y - sy - share * vy)
    cx, cy, sweep = pieces[k, 5], pieces[k, 6], pieces[k, 7]
    ax, ay, px, py = sx - cx, sy - cy, x - cx, y - cy
    share = np.arctan2(ax * py - ay * px, px * ax + py * ay) / sweep
    if share <= -_PAST or share >= 1.0 + _PAST:
        return np.inf
    return abs(np.hypot(px, py) - np.hypot(ax, ay))


@machine_code("f8(f8,f8,f8[:,::1])", **_OPTIONS)
def from_chords(x, y, points):  # type: ignore[no-untyped-def]
    """Distance of a place from the nearest of the chords."""
    least = np.inf
    for k in range(points.shape[0] - 1):
        ax, ay = points[k, 0], points[k, 1]
        vx, vy = points[k + 1, 0] - ax, points[k + 1, 1] - ay
        share = min(max(((x - ax) * vx + (y - ay) * vy) / (vx * vx + vy * vy), 0.0), 1.0)
        dx, dy = x - ax - share * vx, y - ay - share * vy
        least = min(least, dx * dx + dy * dy)
    return np.sqrt(least)


@machine_code("b1(f8[:,::1],f8[:,::1],f8)", **_OPTIONS)
def run_arc_fit(points, pieces, tolerance):  # type: ignore[no-untyped-def]
    """Whether pieces (m, 8: start, end, 1 for an arc, its centre, sweep) stand for chords between points (n, 2) [mm].

    Inner corners and middles of the chords lie beside a piece, and places along the pieces beside the chords: between two places far
    apart an arc may bulge unseen.
    """
    count, parts = points.shape[0], pieces.shape[0]
    for k in range(count - 1):
        for half in range(2):
            if half == 0 and k == 0:
                continue
            x, y = points[k, 0], points[k, 1]
            if half:
                x, y = 0.5 * (x + points[k + 1, 0]), 0.5 * (y + points[k + 1, 1])
            least = np.inf
            for j in range(parts):
                least = min(least, from_piece(x, y, pieces, j))
            if not least <= tolerance:
                return False
    for j in range(parts):
        for k in range(1, _LOOKS - 1):
            share = k / (_LOOKS - 1)
            x = pieces[j, 0] + share * (pieces[j, 2] - pieces[j, 0])
            y = pieces[j, 1] + share * (pieces[j, 3] - pieces[j, 1])
            if pieces[j, 4] != 0.0:
                ax, ay, turned = pieces[j, 0] - pieces[j, 5], pieces[j, 1] - pieces[j, 6], share * pieces[j, 7]
                x = pieces[j, 5] + ax * np.cos(turned) - ay * np.sin(turned)
                y = pieces[j, 6] + ax * np.sin(turned) + ay * np.cos(turned)
            if not from_chords(x, y, points) <= tolerance:
                return False
    return True
