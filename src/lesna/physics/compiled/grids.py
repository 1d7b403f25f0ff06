"""Distances on grids: to walls exactly, ways round material from place to place, and the nearest front."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a way close to material costs so many times as much
_NEAR = 6.0


@machine_code("void(f8[:,::1],f8,f8,f8,f8,f4[:,::1])", **_OPTIONS)
def run_wall_distance(pieces, x0, y0, cell, most, out):  # type: ignore[no-untyped-def]
    """Distance of each middle to the nearest piece (n, 4) up to `most` [mm]; out must hold `most` before."""
    for k in range(pieces.shape[0]):
        ax, ay, bx, by = pieces[k, 0], pieces[k, 1], pieces[k, 2], pieces[k, 3]
        dx, dy = bx - ax, by - ay
        length2 = dx * dx + dy * dy
        for r in range(
            max(int((min(ay, by) - most - y0) / cell), 0), min(int((max(ay, by) + most - y0) / cell) + 2, out.shape[0])
        ):
            for c in range(
                max(int((min(ax, bx) - most - x0) / cell), 0),
                min(int((max(ax, bx) + most - x0) / cell) + 2, out.shape[1]),
            ):
                px, py = x0 + c * cell - ax, y0 + r * cell - ay
                share = 0.0
                if length2 > 0.0:
                    share = min(max((px * dx + py * dy) / length2, 0.0), 1.0)
                px -= share * dx
                py -= share * dy
                d2 = px * px + py * py
                if d2 < out[r, c] * out[r, c]:
                    out[r, c] = np.sqrt(d2)


@machine_code("void(f8[::1],i8[::1],i8,f8,i8)", **_OPTIONS)
def _push(keys, items, count, key, item):  # type: ignore[no-untyped-def]
    k = count
    while k > 0:
        parent = (k - 1) // 2
        if keys[parent] <= key:
            break
        keys[k], items[k] = keys[parent], items[parent]
        k = parent
    keys[k], items[k] = key, item


@machine_code("void(f8[::1],i8[::1],i8)", **_OPTIONS)
def _pop(keys, items, count):  # type: ignore[no-untyped-def]
    """Removes the first of a heap of count; the last takes its place."""
    last = count - 1
    key, item = keys[last], items[last]
    k = 0
    while True:
        child = 2 * k + 1
        if child >= last:
            break
        if child + 1 < last and keys[child + 1] < keys[child]:
            child += 1
        if keys[child] >= key:
            break
        keys[k], items[k] = keys[child], items[child]
        k = child
    keys[k], items[k] = key, item


@machine_code("i8(u1[:,::1],i8,u1[:,::1],f8[:,::1],i8[:,::1],f8[::1],i8[::1])", **_OPTIONS)
def run_nearest(ground, start, wanted, cost, parent, keys, items):  # type: ignore[no-untyped-def]
    """The nearest wanted cell by way of free ground, and its way back in `parent`; -1 where there is none.

    ground: 0 where nothing may go, 1 free, 2 close to material, which costs more; start: number of a cell, row by row.
    """
    rows, columns = ground.shape
    for r in range(rows):
        for c in range(columns):
            cost[r, c] = 1e18
            parent[r, c] = -1
    cost[start // columns, start % columns] = 0.0
    _push(keys, items, 0, 0.0, start)
    count = 1
    while count > 0:
        key, item = keys[0], items[0]
        _pop(keys, items, count)
        count -= 1
        r, c = item // columns, item % columns
        if key > cost[r, c]:
            continue
        if wanted[r, c]:
            return item
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                nr, nc = r + dr, c + dc
                if (dr == 0 and dc == 0) or nr < 0 or nc < 0 or nr >= rows or nc >= columns or ground[nr, nc] == 0:
                    continue
                way = (1.4142135623730951 if dr != 0 and dc != 0 else 1.0) * (_NEAR if ground[nr, nc] == 2 else 1.0)
                if key + way < cost[nr, nc] and count < keys.shape[0] - 1:
                    cost[nr, nc] = key + way
                    parent[nr, nc] = item
                    _push(keys, items, count, key + way, nr * columns + nc)
                    count += 1
    return -1
