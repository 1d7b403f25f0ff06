"""How far places of a region lie from its border over a surface, each piece of the way in units of what is allowed there."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
_FAR = 1e30


@machine_code("f8[:,::1](f8[:,::1],f8[:,::1],b1[:,::1],f8[:,::1],f8)", **_OPTIONS)
def run_surface_front(z, pace, inside, begin, pitch):  # type: ignore[no-untyped-def]
    """Distances (rows, columns) in units of pace [mm] over heights z; `begin` holds those that are known, far elsewhere.

    The front passes triangles between a node and two of its eight neighbours (Kimmel and Sethian, PNAS 1998), in a queue of
    nodes whose distance became less.
    """
    ny, nx = z.shape
    u = begin.copy()
    total = ny * nx
    queue, waits = np.empty(total + 1, np.int64), np.zeros(total, np.bool_)
    head, tail, held = 0, 0, 0
    for n in range(total):
        if u[n // nx, n % nx] < _FAR:
            queue[tail] = n
            tail += 1
            held += 1
            waits[n] = True
    # round a node, neighbours that follow one another stand beside each other
    di, dj = np.array((1, 1, 0, -1, -1, -1, 0, 1)), np.array((0, 1, 1, 1, 0, -1, -1, -1))
    while held > 0:
        n = queue[head]
        head = head + 1 if head < total else 0
        held -= 1
        waits[n] = False
        j, i = n // nx, n % nx
        for s in range(8):
            vi, vj = i + di[s], j + dj[s]
            if vi < 0 or vj < 0 or vi >= nx or vj >= ny or not inside[vj, vi]:
                continue
            c = 0.5 * (pace[j, i] + pace[vj, vi])
            px, py, pz = -di[s] * pitch, -dj[s] * pitch, z[j, i] - z[vj, vi]
            best = u[j, i] + np.sqrt(px * px + py * py + pz * pz) / c
            for side in range(-1, 2, 2):
                # the companion: a neighbour of both
                k = (s + 4 + side) % 8
                ki, kj = vi + di[k], vj + dj[k]
                if ki < 0 or kj < 0 or ki >= nx or kj >= ny or not inside[kj, ki] or u[kj, ki] >= _FAR:
                    continue
                ex, ey, ez = (ki - i) * pitch, (kj - j) * pitch, z[kj, ki] - z[j, i]
                e = np.sqrt(ex * ex + ey * ey + ez * ez)
                dot = px * ex + py * ey + pz * ez
                h = np.sqrt(max(px * px + py * py + pz * pz - (dot / e) ** 2, 0.0))
                t = (u[kj, ki] - u[j, i]) * c / e
                if abs(t) >= 1.0:
                    continue
                w = (-dot / e - t * h / np.sqrt(1.0 - t * t)) / e
                if w <= 0.0 or w >= 1.0:
                    continue
                qx, qy, qz = px + w * ex, py + w * ey, pz + w * ez
                best = min(best, (1.0 - w) * u[j, i] + w * u[kj, ki] + np.sqrt(qx * qx + qy * qy + qz * qz) / c)
            if best < u[vj, vi] - 1e-6:
                u[vj, vi] = best
                m = vj * nx + vi
                if not waits[m]:
                    waits[m] = True
                    queue[tail] = m
                    tail = tail + 1 if tail < total else 0
                    held += 1
    return u
