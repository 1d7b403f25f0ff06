"""Distances on grids: to walls exactly, ways round material from place to place, and the nearest front."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a way close to material costs so many times as much
_NEAR = 6.0
#: cells of a block's side, over which the nearest walls are sought together
_BLOCK = 16


@machine_code("f8(f8[:,::1],i8,f8,f8)", **_OPTIONS)
def _off(pieces, k, x, y):  # type: ignore[no-untyped-def]
    """Distance of a place from a piece [mm]."""
    px, py = x - pieces[k, 0], y - pieces[k, 1]
    dx, dy = pieces[k, 2] - pieces[k, 0], pieces[k, 3] - pieces[k, 1]
    length2 = dx * dx + dy * dy
    share = min(max((px * dx + py * dy) / length2, 0.0), 1.0) if length2 > 0.0 else 0.0
    px -= share * dx
    py -= share * dy
    return np.sqrt(px * px + py * py)


@machine_code("void(f8[:,::1],f8,f8,f8,f4[:,::1])", **_OPTIONS)
def run_wall_distance(pieces, x0, y0, cell, out):  # type: ignore[no-untyped-def]
    """Distance of each middle to the nearest piece (n, 4), where that is less than what out holds before [mm].

    Of all pieces only those are looked at, block by block, that can be the nearest of any of its cells.
    """
    rows, columns = out.shape
    near = np.empty(pieces.shape[0], dtype=np.int64)
    off = np.empty(pieces.shape[0])
    for block_row in range(0, rows, _BLOCK):
        last_row = min(block_row + _BLOCK, rows) - 1
        for block_column in range(0, columns, _BLOCK):
            last_column = min(block_column + _BLOCK, columns) - 1
            x, y = x0 + cell * 0.5 * (block_column + last_column), y0 + cell * 0.5 * (block_row + last_row)
            half = 0.5 * cell * np.hypot(last_row - block_row, last_column - block_column)
            nearest = np.inf
            for k in range(pieces.shape[0]):
                off[k] = _off(pieces, k, x, y)
                nearest = min(nearest, off[k])
            count = 0
            for k in range(pieces.shape[0]):
                if off[k] <= nearest + 2.0 * half + 1e-9:
                    near[count] = k
                    count += 1
            for r in range(block_row, last_row + 1):
                for c in range(block_column, last_column + 1):
                    least = out[r, c]
                    for k in range(count):
                        least = min(least, _off(pieces, near[k], x0 + c * cell, y0 + r * cell))
                    out[r, c] = least


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


@machine_code("i8(u1[:,::1],i8,u1[:,::1],f8,f8[:,::1],i8[:,::1],f8[::1],i8[::1],i8[::1],i8[::1])", **_OPTIONS)
def run_nearest(ground, start, wanted, most, cost, parent, keys, items, seen, so_far):  # type: ignore[no-untyped-def]
    """The nearest wanted cell by way of free ground, and its way back in `parent`; -1 where there is none.

    ground: 0 where nothing may go, 1 free, 2 close to material, which costs more; start: number of a cell, row by row, or -1 to go on
    from where the search before ended; most: cost from which nothing is sought any further; cost and parent hold 1e18 and -1 before the
    first search; so_far (2,): numbers of cells in the heap and in `seen`, which are set back when the next search begins.
    """
    rows, columns = ground.shape
    if start >= 0:
        for k in range(so_far[1]):
            cost[seen[k] // columns, seen[k] % columns] = 1e18
            parent[seen[k] // columns, seen[k] % columns] = -1
        cost[start // columns, start % columns] = 0.0
        seen[0] = start
        so_far[0], so_far[1] = 1, 1
        _push(keys, items, 0, 0.0, start)
    count = so_far[0]
    found = -1
    while count > 0:
        key, item = keys[0], items[0]
        r, c = item // columns, item % columns
        if key <= cost[r, c]:
            if wanted[r, c]:
                found = item
                break
            if key > most:
                break
        _pop(keys, items, count)
        count -= 1
        if key > cost[r, c]:
            continue
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                nr, nc = r + dr, c + dc
                if (dr == 0 and dc == 0) or nr < 0 or nc < 0 or nr >= rows or nc >= columns or ground[nr, nc] == 0:
                    continue
                way = (1.4142135623730951 if dr != 0 and dc != 0 else 1.0) * (_NEAR if ground[nr, nc] == 2 else 1.0)
                if key + way < cost[nr, nc] and count < keys.shape[0] - 1:
                    if cost[nr, nc] >= 1e18:
                        seen[so_far[1]] = nr * columns + nc
                        so_far[1] += 1
                    cost[nr, nc] = key + way
                    parent[nr, nc] = item
                    _push(keys, items, count, key + way, nr * columns + nc)
                    count += 1
    so_far[0] = count
    return found
