"""Where triangles of a surface pass through each other."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: places that are told; pairs in one cell and in all that are looked at, so that nothing hangs
_MOST, _MOST_OF_CELL, _MOST_PAIRS = 64, 400, 300_000_000
#: how far inside of a triangle an edge has to pass through it, as a share of it
_INSIDE = 1e-6


@machine_code("b1(f8[:,:,::1],i8,i8,i8,f8[::1])", **_OPTIONS)
def passes(triangles, t, k, o, place):  # type: ignore[no-untyped-def]
    """Whether edge k of triangle t passes through triangle o, and where."""
    n = (k + 1) % 3
    ax, ay, az = triangles[o, 0, 0], triangles[o, 0, 1], triangles[o, 0, 2]
    ux, uy, uz = triangles[o, 1, 0] - ax, triangles[o, 1, 1] - ay, triangles[o, 1, 2] - az
    vx, vy, vz = triangles[o, 2, 0] - ax, triangles[o, 2, 1] - ay, triangles[o, 2, 2] - az
    px, py, pz = triangles[t, k, 0], triangles[t, k, 1], triangles[t, k, 2]
    dx, dy, dz = triangles[t, n, 0] - px, triangles[t, n, 1] - py, triangles[t, n, 2] - pz
    hx, hy, hz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
    whole = ux * hx + uy * hy + uz * hz
    size = np.sqrt((ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz) * (dx * dx + dy * dy + dz * dz))
    if abs(whole) < 1e-9 * size:
        return False
    sx, sy, sz = px - ax, py - ay, pz - az
    u = (sx * hx + sy * hy + sz * hz) / whole
    if u < _INSIDE or u > 1.0 - _INSIDE:
        return False
    qx, qy, qz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
    v = (dx * qx + dy * qy + dz * qz) / whole
    if v < _INSIDE or u + v > 1.0 - _INSIDE:
        return False
    w = (vx * qx + vy * qy + vz * qz) / whole
    if w < _INSIDE or w > 1.0 - _INSIDE:
        return False
    place[0], place[1], place[2] = px + w * dx, py + w * dy, pz + w * dz
    return True


@machine_code("f8[:,::1](f8[:,:,::1],i8[:,::1],f8[::1],f8)", **_OPTIONS)
def run_surface_crossings(triangles, corners, low, size):  # type: ignore[no-untyped-def]
    """Places (k, 3) at which an edge of one triangle passes through another that shares no corner with it [mm].

    Triangles are gathered in cells of a hashed grid; each is listed in the cells of its box, up to a bound for large ones.
    """
    count = triangles.shape[0]
    slots = 1
    while slots < 2 * count:
        slots *= 2
    counts = np.zeros(slots + 1, np.int64)
    first, last = np.empty((count, 3), np.int64), np.empty((count, 3), np.int64)
    for t in range(count):
        cells = 1
        for a in range(3):
            least = min(triangles[t, 0, a], min(triangles[t, 1, a], triangles[t, 2, a]))
            most = max(triangles[t, 0, a], max(triangles[t, 1, a], triangles[t, 2, a]))
            first[t, a], last[t, a] = int((least - low[a]) / size), int((most - low[a]) / size)
            cells *= last[t, a] - first[t, a] + 1
        if cells > 200_000:
            first[t, 0] = last[t, 0] + 1  # spread over the whole part: its neighbours' edges find the others
            continue
        for i in range(first[t, 0], last[t, 0] + 1):
            for j in range(first[t, 1], last[t, 1] + 1):
                for k in range(first[t, 2], last[t, 2] + 1):
                    counts[((i * 73856093) ^ (j * 19349663) ^ (k * 83492791)) & (slots - 1)] += 1
    begin = np.zeros(slots + 1, np.int64)
    for s in range(slots):
        begin[s + 1] = begin[s] + counts[s]
    items, filled = np.empty(begin[slots], np.int32), begin[:-1].copy()
    for t in range(count):
        for i in range(first[t, 0], last[t, 0] + 1):
            for j in range(first[t, 1], last[t, 1] + 1):
                for k in range(first[t, 2], last[t, 2] + 1):
                    s = ((i * 73856093) ^ (j * 19349663) ^ (k * 83492791)) & (slots - 1)
                    items[filled[s]] = t
                    filled[s] += 1
    found, place = np.empty((_MOST, 3)), np.empty(3)
    hits, pairs = 0, 0
    for s in range(slots):
        held = min(begin[s + 1] - begin[s], _MOST_OF_CELL)
        pairs += held * held
        if pairs > _MOST_PAIRS:
            break
        for a in range(begin[s], begin[s] + held):
            t = items[a]
            for b in range(a + 1, begin[s] + held):
                o = items[b]
                if t == o or first[t, 0] > last[o, 0] or first[o, 0] > last[t, 0] or first[t, 1] > last[o, 1]:
                    continue
                if first[o, 1] > last[t, 1] or first[t, 2] > last[o, 2] or first[o, 2] > last[t, 2]:
                    continue
                shares = False
                for i in range(3):
                    for j in range(3):
                        shares = shares or corners[t, i] == corners[o, j]
                if shares:
                    continue
                for k in range(3):
                    if passes(triangles, t, k, o, place) or passes(triangles, o, k, t, place):
                        new = True
                        for h in range(hits):
                            if (
                                abs(found[h, 0] - place[0]) + abs(found[h, 1] - place[1]) + abs(found[h, 2] - place[2])
                                < 1e-6
                            ):
                                new = False
                        if new:
                            found[hits] = place
                            hits += 1
                        if hits == _MOST:
                            return found
    return found[:hits].copy()
