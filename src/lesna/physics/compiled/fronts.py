"""Along the front of what stands: to where a pass begins upstream of a place, and ways with fewer corners beside it, in cells.

`away` is how far what stands is, on a grid so many times coarser than that of `psi`, which is how much further the middle may go to a wall.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.marching import at

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a pass is not begun further upstream than after so much of a turn [rad], or once it is back so near to where it began [steps]
_ROUND, _AGAIN = 1.2 * np.pi, 2.0
#: a way is looked at each so many cells; it keeps this share of what is left of it to its nearer end, less half a cell, where that is less
_LOOK, _NEARER = 2.0, 0.12


@machine_code("UniTuple(f8,3)(f4[:,::1],f8,f8,f8)", **_OPTIONS)
def towards(away, coarser, x, y):  # type: ignore[no-untyped-def]
    """Direction from a place to what stands, noughts where there is none, and how far it is [cells]."""
    u, v = x / coarser, y / coarser
    gx = at(away, u + 1.0, v) - at(away, u - 1.0, v)
    gy = at(away, u, v + 1.0) - at(away, u, v - 1.0)
    size, far = np.hypot(gx, gy), at(away, u, v)
    if size > 1e-9:
        return -gx / size, -gy / size, far
    return 0.0, 0.0, far


@machine_code("i8(f4[:,::1],f4[:,::1],f8[::1],f8,f8,f8[:,::1],f8[::1])", **_OPTIONS)
def run_upstream(away, psi, how, x, y, walked, heading):  # type: ignore[no-untyped-def]
    """Walks from a place along the front against the feed, as far as walls and turns let; gives the number of places in walked (n, 2).

    how: cells of `psi` for one of `away`, length of a step, distance to be kept from what stands, least distance, the cutter's radius
    [cells], and 1 with what stands on the right of the feed, -1 on the left; heading (2,): of the feed at the end of the walk.
    """
    coarser, along, hold, least, R, sense = how[0], how[1], how[2], how[3], how[4], how[5]
    mx, my, d = towards(away, coarser, x, y)
    walked[0, 0], walked[0, 1] = x, y
    count, turning, gone, begin_x, begin_y = 1, 0.0, 0.0, x, y
    while count < walked.shape[0] - 1 and (mx != 0.0 or my != 0.0):
        # upstream is against the feed, which has the material on its `sense` side
        px = x + along * sense * my + (d - hold) * mx
        py = y - along * sense * mx + (d - hold) * my
        nx, ny, d = towards(away, coarser, px, py)
        if at(psi, px, py) < 0.0 or d < least:
            break
        turning += np.arctan2(mx * ny - my * nx, mx * nx + my * ny)
        x, y, mx, my = px, py, nx, ny
        gone += along
        walked[count, 0], walked[count, 1] = x, y
        count += 1
        is_round = gone > 4.0 * R and np.hypot(x - begin_x, y - begin_y) < _AGAIN * along
        if abs(turning) > _ROUND or is_round:
            break
    # the start is drawn back from the material, where the walls leave room
    bx, by = x + (d - hold) * mx, y + (d - hold) * my
    if d < hold and at(psi, bx, by) >= 0.0:
        walked[count, 0], walked[count, 1] = bx, by
        count += 1
    heading[0], heading[1] = (1.0, 0.0) if mx == 0.0 and my == 0.0 else (-sense * my, sense * mx)
    return count


@machine_code("b1(f4[:,::1],f4[:,::1],f8[::1],f8,f8,f8,f8)", **_OPTIONS)
def is_clear(away, psi, how, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    """Whether the straight way from a to b keeps off walls and clear of what stands; how as `run_taut` has it."""
    length = np.hypot(bx - ax, by - ay)
    count = max(int(length / _LOOK), 1)
    for k in range(1, count):
        share = k / count
        x, y = ax + share * (bx - ax), ay + share * (by - ay)
        need = how[1] + min(how[2], _NEARER * min(share, 1.0 - share) * length - 0.5)
        if at(psi, x, y) < 0.0 or at(away, x / how[0], y / how[0]) < need:
            return False
    return True


@machine_code("i8(f4[:,::1],f4[:,::1],f8[::1],f8[:,::1],i8[::1])", **_OPTIONS)
def run_taut(away, psi, how, route, kept):  # type: ignore[no-untyped-def]
    """A way (n, 2) with fewer corners: numbers of the places that are kept, and how many.

    how: cells of `psi` for one of `away`, the cutter's radius and the distance to be kept beyond it [cells].
    """
    kept[0] = 0
    count, k, last = 1, 0, route.shape[0] - 1
    while k < last:
        far = last
        while far > k + 1 and not is_clear(away, psi, how, route[k, 0], route[k, 1], route[far, 0], route[far, 1]):
            far = k + 1 + (far - k - 1) // 2
        kept[count] = far
        count += 1
        k = far
    return count


@machine_code("void(i4[:,:,::1],b1,f4[:,::1],i8[::1],f8[::1],b1[:,::1],f4[:,::1],b1[:,::1],u1[:,::1])", **_OPTIONS)
def run_renewed(nearest, stands, phi, box, how, room, away, touch, ground):  # type: ignore[no-untyped-def]
    """Looks anew at coarse cells: how far what stands is, whether a pass can begin there, and what a way over them costs (0: none).

    nearest (2, rows, columns): row and column of the nearest cell that stands, in a window of the coarse grid; stands: whether there is
    any. phi: how far it is to what stands on the fine grid, negative in it. box: first row and column of the window, and of what is
    looked at its first and its last row and column. how: cells of the fine grid for one, distance that is told at the most, least distance
    of a free cell, of one where no pass begins any more, and of one that is not close [cells].
    """
    step, far, least, reach, close = how[0], how[1], how[2], how[3], how[4]
    fine = int(step)
    for i in range(box[2], box[3]):
        for j in range(box[4], box[5]):
            d = far
            if stands:
                row, column = nearest[0, i - box[0], j - box[1]] + box[0], nearest[1, i - box[0], j - box[1]] + box[1]
                # to the nearest coarse cell of material, less what lies between that cell's middle and the material's edge
                d = step * np.sqrt(float((row - i) ** 2 + (column - j) ** 2)) + max(
                    phi[row * fine, column * fine], -2.0 * step
                )
            away[i, j] = min(d, far)
            free = room[i, j] and d >= least
            touch[i, j] = free and d < reach
            ground[i, j] = (2 if d < close else 1) if free else 0
