"""The rounded or conical foot of an edge, slice by slice, compiled."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.edge_sums import LANES, OPTIONS, SLACK, chips_at_nodes, gauss, integral
from lesna.physics.compiled.keeping import machine_code

#: Gauss points over the window of a slice
POINTS = 8
_GAUSS = np.stack(np.polynomial.legendre.leggauss(POINTS))


@machine_code(**OPTIONS)
def _deposit(nodes, j, law, tangent, slice_, window, first, count, n, w, fold, P):  # type: ignore[no-untyped-def]
    """Adds one tooth of one slice to the forces over the angle, in single precision and many angles at a time.

    nodes: four rows for each tooth, its chip, power, sine, cosine. tangent: s_k^(1-mc), chip below which the tangent
    holds, its two coefficients. slice_: sin kappa, cos kappa, edge length, arm. window: shares of the slice that have
    entered and that have not left at the first angle, what they change in a step, the step. first, count: angles of
    the turn. n, w: node just before the first angle, and the part of a step between. fold: room for the angles before
    they are wrapped.
    """
    f4, u8 = np.float32, np.uint64
    zero, one = f4(0.0), f4(1.0)
    s_k, c_k, db, arm = f4(slice_[0]), f4(slice_[1]), f4(slice_[2]), f4(slice_[3])
    raised, below, t0, t1 = f4(tangent[0]), f4(tangent[1]), f4(tangent[2]), f4(tangent[3])
    entered, staying, entering, leaving = f4(window[0]), f4(window[1]), f4(window[2]), f4(window[3])
    # a part of a step is a small angle
    angle = w * window[4]
    turn_s, turn_c, between = f4(angle - angle**3 / 6.0), f4(1.0 - angle**2 / 2.0), f4(w)
    bent_t, bent_r, bent_a = f4(law[0, 0]), f4(law[1, 0]), f4(law[2, 0])
    cut_t, cut_r, cut_a = f4(law[0, 1]), f4(law[1, 1]), f4(law[2, 1])
    edge_t, edge_r, edge_a = f4(law[0, 2]), f4(law[1, 2]), f4(law[2, 2])
    # whole lanes: beyond the window a tooth has left, and adds nothing
    lanes = LANES * ((count + LANES - 1) // LANES)
    chip, bend, sin, cos = u8(4 * j), u8(4 * j + 1), u8(4 * j + 2), u8(4 * j + 3)
    for i in range(lanes):
        # unsigned places are never counted from the end, so the loop runs many at a time
        q = u8(i)
        low, high = u8(n) + q, u8(n + 1) + q
        h = (nodes[chip, low] + (nodes[chip, high] - nodes[chip, low]) * between) * s_k
        power = nodes[bend, low] + (nodes[bend, high] - nodes[bend, low]) * between
        bent = power * raised if h >= below else t0 + t1 * h
        sine = nodes[sin, low] * turn_c + nodes[cos, low] * turn_s
        cosine = nodes[cos, low] * turn_c - nodes[sin, low] * turn_s
        # a slice enters and leaves bit by bit, as its ends lag and see windows of their own; only that part cuts
        passed = f4(np.int32(i))
        part = min(one, min(entered + passed * entering, staying - passed * leaving))
        part = max(zero, part) * db if h > zero else zero
        t = bent_t * bent + cut_t * h + edge_t
        r = bent_r * bent + cut_r * h + edge_r
        a = bent_a * bent + cut_a * h + edge_a
        fold[0, q] = (-r * sine * s_k - t * cosine - a * sine * c_k) * part
        fold[1, q] = (-r * cosine * s_k + t * sine - a * cosine * c_k) * part
        fold[2, q] = (r * c_k - a * s_k) * part
        fold[3, q] = t * part * arm
    K = P.shape[1]
    place, done = first % K, 0
    while done < count:
        until = min(count - done, K - place)
        to, source = u8(place), u8(done)
        for m in range(4):
            for i in range(until):
                P[m, to + u8(i)] += fold[m, source + u8(i)]
        done += until
        place = 0


@machine_code(**OPTIONS)
def _passing(a, b):  # type: ignore[no-untyped-def]
    """First angle and steepness at which a slice comes to pass an edge that its ends pass at a and b."""
    return min(a, b) - SLACK, 1.0 / max(abs(b - a), 0.5 * SLACK)


@machine_code(**OPTIONS)
def foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, d, edge, wide, c, grid, nodes, teeth, at, fold, P, mean):  # type: ignore[no-untyped-def] # fmt: skip
    """Adds forces over the angle, and means, of slice d of the foot with all its teeth.

    edge: sin kappa, cos kappa, db, arm, z, sin kappa^(1-mc), lower and upper end, smear. wide: windows of column c in the middle of
    the slices, and at their ends. grid: step, aligned angle, origin of the nodes, whether down. nodes: see `_deposit`.
    teeth: shown, alike, whether plain. at: room for `integral`.
    """
    step, aligned, origin, down = grid
    shown, alike, plain = teeth
    half_turn = nodes.shape[1] - LANES
    s_k, c_k, db, arm, z, half = edge[0, d], edge[1, d], edge[2, d], edge[3, d], edge[4, d], 0.5 * edge[8, d]
    width, low, high = wide[2 * d + 1, c], wide[2 * d, c], wide[2 * d + 2, c]
    raised = (edge[5, d], tangent[2], tangent[0], tangent[1])
    gauss(_GAUSS, np.pi - width if down else 0.0, width, at)
    lagged = _passing(-half, half)
    if down:
        begin, entering = _passing(np.pi - low - half, np.pi - high + half)
        end, leaving = np.pi - lagged[0], lagged[1]
    else:
        begin, entering = lagged
        end, leaving = _passing(half - low, -half - high)
        end = -end
    part = db * alike / (2.0 * np.pi)
    for j in range(shown):
        if not plain:
            chips_at_nodes(curve, per_h, feed, share, gap, d, j, nodes)
        ahead = trail[j, d] - aligned
        # outside the half turn there is no chip
        first = int(np.ceil((max(begin, origin - 1e-9 * step) + ahead) / step))
        final = int(np.floor((end + ahead) / step))
        phi = first * step - ahead
        place = max(0.0, (phi - origin) / step)
        n = int(place + 1e-9)
        count = min(final - first + 1, half_turn - 1 - n)
        passing = ((phi - begin) * entering, (end - phi) * leaving, step * entering, step * leaving, step)
        _deposit(nodes, j, law, raised, (s_k, c_k, db, arm), passing, first, count, n, max(0.0, place - n), fold, P)
        integral(curve, per_h, law, feed, share, gap, d, j, at, s_k, c_k)
        for m in range(3):
            mean[m] += at[5, m] * part
        mean[3] += at[5, 3] * part * arm
        mean[4] += at[5, 3] * part * z
        mean[5] += at[5, 3] * part
