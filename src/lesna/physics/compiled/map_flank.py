"""The plain flank of an edge from running integrals of its force over the angle, compiled."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.edge_sums import OPTIONS, SLACK, forces, gauss, integral, power
from lesna.physics.compiled.keeping import machine_code

#: Gauss points over the window
_POINTS = 12
_GAUSS = np.stack(np.polynomial.legendre.leggauss(_POINTS))


@machine_code(**OPTIONS)
def _stretch(place, whole):  # type: ignore[no-untyped-def]
    """Turns before a place, node of the turn, part of a step beyond it."""
    turns = np.floor(place / whole + 1e-12)
    rest = max(place - turns * whole, 0.0)
    n = int(rest + 1e-9)
    w = rest - n
    return turns, n, w if w >= 1e-9 else 0.0


@machine_code(**OPTIONS)
def _running(C, place, whole, run):  # type: ignore[no-untyped-def]
    """Adds a tooth to the running integral of the flank's force.

    C: integral of its force over its window, from the window's first node. place: of the tooth at the first angle, in
    those nodes.
    """
    last, length = C.shape[1] - 1, run.shape[1]
    turns, n, w = _stretch(place, whole)
    k = 0
    while k < length:
        until = min((last if n < last else whole) - n, length - k)
        to, low, high = np.uint64(k), np.uint64(n), np.uint64(n + 1)
        for m in range(4):
            if n < last:
                base = turns * C[m, last]
                for i in range(until):
                    q = np.uint64(i)
                    run[m, to + q] += base + C[m, low + q] + (C[m, high + q] - C[m, low + q]) * w
            else:
                base = (turns + 1.0) * C[m, last]
                for i in range(until):
                    run[m, to + np.uint64(i)] += base
        k += until
        n += until
        if n >= whole:
            n -= whole
            turns += 1.0


@machine_code(**OPTIONS)
def _standing(F, place, whole, D):  # type: ignore[no-untyped-def]
    """Adds the force of a tooth itself, for depths that lag less than a step."""
    last = F.shape[1] - 1
    _, n, w = _stretch(place, whole)
    for k in range(D.shape[1]):
        if n < last:
            for m in range(4):
                D[m, k] += F[m, n] + (F[m, n + 1] - F[m, n]) * w
        elif n == last and w == 0.0:
            for m in range(4):
                D[m, k] += F[m, n]
        n += 1
        if n >= whole:
            n -= whole


@machine_code(**OPTIONS)
def flank_sums(curve, per_h, law, feed, share, gap, flank, places, window, grid, nodes, teeth, G, D):  # type: ignore[no-untyped-def] # fmt: skip
    """The plain flank: means of a millimetre of it, its force over the angle and the running integral of that.

    flank: sin kappa, cos kappa, R, lead, foot height. window: begin, width, node of its first angle. D has no columns
    where no depth needs it.
    """
    step, aligned, origin, down = grid
    shown, alike, _ = teeth
    sk, ck, R, lead, foot = flank[0], flank[1], flank[2], flank[3], flank[4]
    begin, width, offset = window
    cells = width / step
    last = int(np.ceil(cells - 1e-9))
    whole = int(np.round(2.0 * np.pi / step))
    ext = G.shape[1] - whole // alike
    run = np.zeros(G.shape)
    F, C = np.zeros((4, last + 1)), np.zeros((4, last + 1))
    at, total, mean = np.empty((6, _POINTS)), np.empty(4), np.zeros(4)
    own = share.shape[0] - 1
    gauss(_GAUSS, begin, width, at)
    D[:] = 0.0
    for j in range(shown):
        for k in range(last + 1):
            phi = origin + (offset + k) * step
            h = nodes[4 * j, offset + k] * sk
            if begin - SLACK <= phi <= begin + width + SLACK and h > 0.0:
                bent = nodes[4 * j + 1, offset + k] if sk == 1.0 else power(curve, per_h, h)
                x, y, z, t = forces(bent, h, law, nodes[4 * j + 2, offset + k], nodes[4 * j + 3, offset + k], sk, ck)
                F[0, k], F[1, k], F[2, k], F[3, k] = x / sk, y / sk, z / sk, t * R / sk
            else:
                F[:, k] = 0.0
        integral(curve, per_h, law, feed, share, gap, own, j, at, sk, ck)
        total[:] = at[5, :4]
        total[3] *= R
        odd = last if down else 1  # the cell that the far end of the window cuts short
        for m in range(4):
            mean[m] += total[m] / sk / (2.0 * np.pi) * alike
            for k in range(1, last + 1):
                cell = step * (cells - (last - 1)) if k == odd else step
                C[m, k] = C[m, k - 1] + 0.5 * (F[m, k - 1] + F[m, k]) * cell
        for tooth in range(alike):
            place = (aligned - places[j + tooth] - lead * foot - origin) / step - offset
            _running(C, place - ext, whole, run)
            _standing(F, place, whole, D)
    for m in range(4):
        for k in range(G.shape[1]):
            G[m, k] = run[m, k] - run[m, 0]
    return mean
