"""Forces over a grid of engagements, compiled; the plain reference is `lesna.physics.sweep.sweep_plain`.

What makes it fast: a plain flank needs one table of its force over the angle and the running integral of that table,
because a tooth's force down to any depth is a difference of two values of the integral. The rounded foot of the edge
is added slice by slice once for each stepover, every depth above it being a prefix. Both read the chip from one table
along the half turn in which a tooth can cut.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from lesna.physics import Array
from lesna.physics.cutter import Cutter, slices_of
from lesna.physics.forces import TANGENT_BELOW, ForceLaw

_TABLE = 1024
#: least angles a turn: for equal teeth, of which one pitch is computed; for teeth that differ; for a ball, whose
#: force changes slowly because its slices enter one after the other
_FOLDED, _ANGLES, _BALL = 352, 160, 128
#: angles are computed so many at a time, and a rest one by one
_LANES = 32
#: a thin cut has at least so many angles across its window, up to a factor
_LEAST_CELLS, _FINEST = 18, 4
#: Gauss points over the window of a flank, and of a slice of the foot
_FLANK_POINTS, _FOOT_POINTS = 12, 8
_FLANK_GAUSS = np.stack(np.polynomial.legendre.leggauss(_FLANK_POINTS))
_FOOT_GAUSS = np.stack(np.polynomial.legendre.leggauss(_FOOT_POINTS))
#: feeds in one column that are this close share their tables
_SAME = 1e-6
#: rounding of a depth that is none [mm]
_NO_DEPTH = 1e-12
#: rounding of an angle that is not yet another angle [rad]
_SLACK = 1e-9

_FAST = {"contract", "nsz", "arcp", "reassoc"}
_options: Any = {"cache": True, "nogil": True, "error_model": "numpy", "fastmath": _FAST}


# Compiled calls below are given whole arrays and the places to read in them: a view made in an inner loop costs two
# locked counts of its owners, which took a quarter of the whole sweep.


@njit(**_options)
def _chips(feed, share, gap, d, j, rows, sines, chips, count):  # type: ignore[no-untyped-def]
    """Chips of tooth j in slice d for a lead angle of 90 deg: what the teeth ahead have left standing.

    sines, chips: rows of `rows` that are read and filled.
    """
    slope, rise = feed * share[d, j, 0], gap[d, j, 0]
    for k in range(count):
        rows[chips, k] = max(slope * rows[sines, k] + rise, 0.0)
    for back in range(1, share.shape[2]):
        slope, rise = feed * share[d, j, back], gap[d, j, back]
        for k in range(count):
            rows[chips, k] = min(rows[chips, k], max(slope * rows[sines, k] + rise, 0.0))


@njit(**_options)
def _power(curve, per_h, h):  # type: ignore[no-untyped-def]
    """h^(1-mc) with its tangent below, read from its table."""
    place = h * per_h
    n = int(place)
    return curve[n] + (curve[n + 1] - curve[n]) * (place - n)


@njit(**_options)
def _forces(bent, h, law, sine, cosine, s_k, c_k):  # type: ignore[no-untyped-def]
    """x, y, z and tangential force of a millimetre of edge."""
    t = law[0, 0] * bent + law[0, 1] * h + law[0, 2]
    r = law[1, 0] * bent + law[1, 1] * h + law[1, 2]
    a = law[2, 0] * bent + law[2, 1] * h + law[2, 2]
    x = -r * sine * s_k - t * cosine - a * sine * c_k
    y = -r * cosine * s_k + t * sine - a * cosine * c_k
    return x, y, r * c_k - a * s_k, t


@njit(**_options)
def _gauss(points, begin, width, at):  # type: ignore[no-untyped-def]
    """Sines, cosines and weights of the Gauss points of a window, which lie evenly about its middle."""
    count = points.shape[1]
    sine, cosine = np.sin(begin + 0.5 * width), np.cos(begin + 0.5 * width)
    for q in range(count // 2):
        off = 0.5 * width * points[0, count - 1 - q]
        s, c = np.sin(off), np.cos(off)
        at[0, q], at[1, q] = sine * c - cosine * s, cosine * c + sine * s
        at[0, count - 1 - q], at[1, count - 1 - q] = sine * c + cosine * s, cosine * c - sine * s
    for q in range(count):
        at[2, q] = 0.5 * points[1, q] * width


@njit(**_options)
def _integral(curve, per_h, law, feed, share, gap, d, j, at, s_k, c_k, sums):  # type: ignore[no-untyped-def]
    """Integral of the four forces over the window of a tooth; at: as filled by `_gauss`, and room for chip and power."""
    sx = sy = sz = st = 0.0
    _chips(feed, share, gap, d, j, at, 0, 3, at.shape[1])
    for q in range(at.shape[1]):
        at[3, q] *= s_k
        at[4, q] = _power(curve, per_h, at[3, q])
    for q in range(at.shape[1]):
        weight = at[2, q] if at[3, q] > 0.0 else 0.0
        x, y, z, t = _forces(at[4, q], at[3, q], law, at[0, q], at[1, q], s_k, c_k)
        sx += x * weight
        sy += y * weight
        sz += z * weight
        st += t * weight
    sums[0], sums[1], sums[2], sums[3] = sx, sy, sz, st


@njit(**_options)
def _along(curve, per_h, feed, share, gap, d, j, nodes):  # type: ignore[no-untyped-def]
    """Chip of a tooth and its power at the nodes of the half turn."""
    row = 4 * j
    _chips(feed, share, gap, d, j, nodes, row + 2, row, nodes.shape[1])
    for k in range(nodes.shape[1]):
        nodes[row + 1, k] = _power(curve, per_h, nodes[row, k])


@njit(**_options)
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
    lanes = _LANES * ((count + _LANES - 1) // _LANES)
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


@njit(**_options)
def _passing(a, b):  # type: ignore[no-untyped-def]
    """First angle and steepness at which a slice comes to pass an edge that its ends pass at a and b."""
    return min(a, b) - _SLACK, 1.0 / max(abs(b - a), 0.5 * _SLACK)


@njit(**_options)
def _foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, d, edge, wide, c, grid, nodes, teeth, at, sums, fold, P, mean):  # type: ignore[no-untyped-def] # fmt: skip
    """Adds forces over the angle, and means, of slice d of the foot with all its teeth.

    edge: sin kappa, cos kappa, db, arm, z, r, lower and upper end, smear. wide: windows of column c in the middle of
    the slices, and at their ends. grid: step, aligned angle, origin of the nodes, whether down. nodes: see `_deposit`.
    teeth: shown, alike, whether plain. at, sums: room for `_integral`.
    """
    step, aligned, origin, down = grid
    shown, alike, plain = teeth
    half_turn = nodes.shape[1] - _LANES
    s_k, c_k, db, arm, z, half = edge[0, d], edge[1, d], edge[2, d], edge[3, d], edge[4, d], 0.5 * edge[8, d]
    width, low, high = wide[2 * d + 1, c], wide[2 * d, c], wide[2 * d + 2, c]
    raised = (s_k ** tangent[0], TANGENT_BELOW, tangent[1], tangent[2])
    _gauss(_FOOT_GAUSS, np.pi - width if down else 0.0, width, at)
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
            _along(curve, per_h, feed, share, gap, d, j, nodes)
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
        _integral(curve, per_h, law, feed, share, gap, d, j, at, s_k, c_k, sums)
        for m in range(3):
            mean[m] += sums[m] * part
        mean[3] += sums[3] * part * arm
        mean[4] += sums[3] * part * z
        mean[5] += sums[3] * part


@njit(**_options)
def _stretch(place, whole):  # type: ignore[no-untyped-def]
    """Turns before a place, node of the turn, part of a step beyond it."""
    turns = np.floor(place / whole + 1e-12)
    rest = max(place - turns * whole, 0.0)
    n = int(rest + 1e-9)
    w = rest - n
    return turns, n, w if w >= 1e-9 else 0.0


@njit(**_options)
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


@njit(**_options)
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


@njit(**_options)
def _flank(curve, per_h, law, feed, share, gap, flank, places, window, grid, nodes, teeth, G, D):  # type: ignore[no-untyped-def] # fmt: skip
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
    at, total, mean = np.empty((5, _FLANK_POINTS)), np.empty(4), np.zeros(4)
    own = share.shape[0] - 1
    _gauss(_FLANK_GAUSS, begin, width, at)
    D[:] = 0.0
    for j in range(shown):
        for k in range(last + 1):
            phi = origin + (offset + k) * step
            h = nodes[4 * j, offset + k] * sk
            if begin - _SLACK <= phi <= begin + width + _SLACK and h > 0.0:
                bent = nodes[4 * j + 1, offset + k] if sk == 1.0 else _power(curve, per_h, h)
                x, y, z, t = _forces(bent, h, law, nodes[4 * j + 2, offset + k], nodes[4 * j + 3, offset + k], sk, ck)
                F[0, k], F[1, k], F[2, k], F[3, k] = x / sk, y / sk, z / sk, t * R / sk
            else:
                F[:, k] = 0.0
        _integral(curve, per_h, law, feed, share, gap, own, j, at, sk, ck, total)
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


@njit(**_options)
def _between(W, G, scale, w, ext, shift, S):  # type: ignore[no-untyped-def]
    """Foot plus flank, the flank as the difference of its running integral at both ends."""
    factor, w0, w1 = np.float32(scale), np.float32(1.0 - w), np.float32(w)
    # unsigned places are never counted from the end, so the loop runs many at a time
    top, low, lower = np.uint64(ext), np.uint64(ext - shift), np.uint64(ext - shift - 1)
    for m in range(4):
        for i in range(S.shape[1]):
            k = np.uint64(i)
            S[m, k] = W[m, k] + factor * (G[m, top + k] - w0 * G[m, low + k] - w1 * G[m, lower + k])


@njit(**_options)
def _added(W, more, share, S):  # type: ignore[no-untyped-def]
    """Foot plus a share of one more piece."""
    part = np.float32(share)
    for m in range(4):
        for k in range(S.shape[1]):
            S[m, k] = W[m, k] + part * more[m, k]


@njit(**_options)
def _most(bits):  # type: ignore[no-untyped-def]
    """Largest of non-negative floats, which order like their bits: integers are compared many at a time."""
    most = np.int32(0)
    for k in range(bits.shape[0]):
        most = max(most, bits[k])
    return most


@njit(**_options)
def _least(bits):  # type: ignore[no-untyped-def]
    """Least of non-negative floats, compared like the largest."""
    least = np.int32(2147483647)
    for k in range(bits.shape[0]):
        least = min(least, bits[k])
    return least


@njit(**_options)
def _peaks(S, up, bits, raised, found, values, results, v, i):  # type: ignore[no-untyped-def]
    """Peak side force and torque, and the range of the axial force; raised: added to it so that it stays above 0.

    bits, values: `up` seen as integers, and `found` as floats.
    """
    zero, lift = np.float32(0.0), np.float32(raised)
    for k in range(up.shape[0]):
        up[k] = S[0, k] * S[0, k] + S[1, k] * S[1, k]
    found[0] = _most(bits)
    for k in range(up.shape[0]):
        up[k] = max(S[3, k], zero)
    found[1] = _most(bits)
    for k in range(up.shape[0]):
        up[k] = S[2, k] + lift
    found[2], found[3] = _most(bits), _least(bits)
    results[v, i, 0] = np.sqrt(values[0])
    results[v, i, 7] = values[1]
    results[v, i, 4], results[v, i, 5] = values[2] - lift, values[3] - lift


@njit(**_options)
def _feeds(fz, column, nodes, needed):  # type: ignore[no-untyped-def]
    """Feeds of a column: one, or two between which its rows are read; and which rows need which."""
    rows = fz.shape[0]
    least, most = fz[0, column], fz[0, column]
    for i in range(rows):
        least, most = min(least, fz[i, column]), max(most, fz[i, column])
    levels = 1
    nodes[0] = least
    if most > least * (1.0 + _SAME):
        levels = 2
        nodes[1] = most
    needed[:] = False
    for i in range(rows):
        if fz[i, column] <= least * (1.0 + _SAME):
            needed[0, i] = True
        else:
            needed[1, i] = True
            needed[0, i] = fz[i, column] < most * (1.0 - _SAME)
    return levels


@njit(**_options)
def _blended(results, needed, nodes, power, fz, column, out):  # type: ignore[no-untyped-def]
    """Every row at its own feed, read between the two that were computed as the force grows with the feed."""
    for i in range(fz.shape[0]):
        low = 0 if needed[0, i] else 1
        w = 0.0
        if needed[0, i] and needed[1, i]:
            a0, a1 = nodes[0] ** power, nodes[1] ** power
            w = (fz[i, column] ** power - a0) / (a1 - a0)
        for m in range(9):
            out[m, i, column] = results[low, i, m] + (results[1, i, m] - results[low, i, m]) * w


_KERNEL = (
    "void(f8[::1], f8[::1], f8[:,::1], f8[:,::1], f8[:,:,::1], f8[:,:,::1], f8[:,::1], f8[:,::1], f8[::1], f8[::1], "
    "f8[:,::1], f8[::1], f8[::1], i8[::1], f8[:,:,::1])"
)


@njit(_KERNEL, **_options)
def _sweep(curve, scale, law, trail, share, gap, edge, wide, ae, ap, fz, places, flank, sizes, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Column by column.

    curve: h^(1-mc) over the chip; scale: nodes of it per mm, exponent of the feed, exponent of the chip, the two
    coefficients of the tangent, and a bound of the axial force; law rows: t, r, a. trail (teeth, slices), share, gap
    (slices, teeth, ahead), edge: slices of the foot, as in `Slices`, and one of a plain flank; edge rows and wide as
    in `_foot_slice`. places: teeth of the flank; flank: sin kappa, cos kappa, R, lead, foot height. sizes: teeth,
    angles, is_down, folds, foot_is_plain.
    """
    angles, down, folds, plain = sizes[1], sizes[2], sizes[3], sizes[4]
    teeth = (1 if folds > 1 else sizes[0], sizes[0] if folds > 1 else 1, plain)
    per_h = scale[0]
    tangent = (scale[2], scale[3], scale[4])
    R, lead, foot = flank[2], flank[3], flank[4]
    rows, count = ap.shape[0], trail.shape[1] - plain
    results = np.zeros((2, rows, 9))
    needed = np.zeros((2, rows), dtype=np.bool_)
    nodes = np.zeros(2)
    mean_w, mean_p, mean_f = np.zeros(6), np.zeros(6), np.zeros(4)
    found, at, sums = np.zeros(4, dtype=np.int32), np.empty((5, _FOOT_POINTS)), np.empty(4)
    values = found.view(np.float32)
    first_above = foot
    for i in range(rows):
        if ap[i] - foot > _NO_DEPTH:
            first_above = ap[i]
            break
    for c in range(ae.shape[0]):
        levels = _feeds(fz, c, nodes, needed)
        width = np.arccos(min(1.0, max(-1.0, 1.0 - ae[c] / R)))
        begin = np.pi - width if down else 0.0
        # ---- angles of this column: one of them where the thickest chip of the rim is
        finer = 1
        while finer < _FINEST and width * angles * folds * finer < 2.0 * np.pi * _LEAST_CELLS:
            finer *= 2
        K = angles * finer
        step = 2.0 * np.pi / (K * folds)
        aligned = begin if down else begin + width
        origin = aligned - np.ceil(aligned / step) * step
        half = int(np.ceil((np.pi - origin) / step)) + 2
        last = int(np.ceil(width / step - 1e-9))
        offset = int(np.round((aligned - origin) / step)) - (0 if down else last)
        grid = (step, aligned, origin, down)
        along = np.zeros((4 * teeth[0], half + _LANES), dtype=np.float32)
        turn_c, turn_s = np.cos(step), np.sin(step)
        s, co = np.sin(origin), np.cos(origin)
        for k in range(half):
            for j in range(teeth[0]):
                along[4 * j + 2, k], along[4 * j + 3, k] = s, co
            s, co = s * turn_c + co * turn_s, co * turn_c - s * turn_s
        ext = int(max(0.0, ap[rows - 1] - foot) * lead / step) + 3
        lagging = (first_above - foot) * lead >= step
        G, D = np.empty((4, K + ext), dtype=np.float32), np.empty((4, 0 if lagging else K), dtype=np.float32)
        W, P = np.empty((4, K), dtype=np.float32), np.zeros((4, K), dtype=np.float32)
        S, up = np.empty((4, K), dtype=np.float32), np.empty(K, dtype=np.float32)
        bits = up.view(np.int32)
        fold = np.empty((4, half + _LANES), dtype=np.float32)
        for v in range(levels):
            feed = nodes[v] * sizes[0]
            if plain:
                for j in range(teeth[0]):
                    _along(curve, per_h, feed, share, gap, count, j, along)
            W[:] = 0.0
            mean_w[:] = 0.0
            done, partial = 0, -1
            flank_ready = False
            for i in range(rows):
                if not needed[v, i]:
                    continue
                depth = ap[i]
                # ---- slices of the foot that lie below this depth, and the one that is cut through
                while done < count and depth > edge[6, done]:
                    whole = depth >= edge[7, done] * (1.0 - 1e-12)
                    if whole and partial == done:
                        _added(W, P, 1.0, W)
                        for m in range(6):
                            mean_w[m] += mean_p[m]
                    elif whole:
                        _foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, done, edge, wide, c, grid,
                                    along, teeth, at, sums, fold, W, mean_w)  # fmt: skip
                    elif partial != done:
                        partial = done
                        P[:] = 0.0
                        mean_p[:] = 0.0
                        _foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, done, edge, wide, c, grid,
                                    along, teeth, at, sums, fold, P, mean_p)  # fmt: skip
                    if not whole:
                        break
                    done += 1
                frac = 0.0
                if done < count:
                    frac = max(0.0, (depth - edge[6, done]) / (edge[7, done] - edge[6, done]))
                cut = depth - foot if plain and depth - foot > _NO_DEPTH else 0.0
                if cut > 0.0 and not flank_ready:
                    flank_ready = True
                    mean_f = _flank(curve, per_h, law, feed, share, gap, flank, places, (begin, width, offset), grid,
                                    along, teeth, G, D)  # fmt: skip
                shift = cut * lead / step
                if cut == 0.0:
                    _added(W, P, frac, S)
                elif shift < 1.0:
                    _added(W, D, cut, S)
                else:
                    n = int(shift)
                    _between(W, G, 1.0 / lead, shift - n, ext, n, S)
                _peaks(S, up, bits, scale[5], found, values, results, v, i)
                for m in range(3):
                    results[v, i, 1 + m] = mean_w[m] + frac * mean_p[m] + cut * mean_f[m]
                results[v, i, 6] = mean_w[3] + frac * mean_p[3] + cut * mean_f[3]
                force = mean_w[5] + frac * mean_p[5] + cut * mean_f[3] / R
                moment = mean_w[4] + frac * mean_p[4] + cut * mean_f[3] / R * (foot + cut / 2.0)
                results[v, i, 8] = moment / force if force > 0.0 else depth / 2.0
        _blended(results, needed, nodes, scale[1], fz, c, out)


def run_sweep(cutter: Cutter, law: ForceLaw, fz: Array, engagements: tuple[Array, Array], direction: str) -> Array:
    """Forces over a grid of engagements (see `lesna.physics.sweep.sweep`).

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    law : ForceLaw
        Force per millimetre of edge.
    fz : array (rows, columns)
        Feed per tooth [mm].
    engagements : tuple of array
        ae (columns,) and ap (rows,), rising [mm].
    direction : str
        ``down`` or ``up``.

    Returns
    -------
    array (9, rows, columns)
        The grids of `Sweep` in its order [N], [Nm], [mm].
    """
    from lesna.physics.sweep import foot

    ae, ap = (np.ascontiguousarray(values, dtype=float) for values in engagements)
    edges = foot(cutter, ap)
    plain = cutter.has_plain_flank
    # a plain flank is one more slice on top, for the chips of its teeth
    slices = slices_of(cutter, np.append(edges, edges[-1] + 1.0) if plain else edges)
    edge = np.stack((np.sin(slices.kappa), np.cos(slices.kappa), slices.db, slices.arm, slices.z, slices.r,
                     slices.z, slices.z, slices.smear))  # fmt: skip
    count, low = len(edges) - 1, float(edges[-1])
    edge[6, :count], edge[7, :count] = edges[:-1], edges[1:]
    # windows at the ends and in the middle of every slice, in the order of their heights
    radii = np.empty(2 * count + 1)
    radii[0:-1:2], radii[1::2], radii[-1] = slices.ends[0, :count], slices.r[:count], slices.ends[1, count - 1]
    wide = np.arccos(np.clip(1 - ae / np.maximum(radii, 1e-12)[:, None], -1, 1))
    folds = cutter.teeth if cutter.is_even else 1
    least = _BALL if cutter.shape.is_ball else _FOLDED if folds > 1 else _ANGLES
    angles = _LANES * -(-least // (folds * _LANES))
    most = 1.001 * float(fz.max()) * cutter.teeth * float(slices.share.max())
    most += 2.5 * cutter.eccentricity + 4 * cutter.profile.depth
    h = most * np.arange(_TABLE + 2) / _TABLE
    unit = ForceLaw(law.mc, np.array([1.0, 0.0, 0.0]))
    kappa = cutter.shape.kappa if cutter.shape.form == "straight" else np.pi / 2
    steep = TANGENT_BELOW ** (1 - law.mc)
    # every edge at once at the thickest chip: rough, but the axial force never lies beyond it
    edge_length = float(np.sum(slices.db[:count])) + max(0.0, float(ap[-1]) - low) / np.sin(kappa)
    bound = cutter.teeth * edge_length * float(np.abs(law.directions(np.array([most]))).sum())
    out = np.empty((9, len(ap), len(ae)))
    _sweep(
        unit.per_edge(h),
        np.array([_TABLE / most, 1.0 if law.is_linear else 1.0 - law.mc, 1.0 - law.mc, steep * law.mc,
                  steep * (1 - law.mc) / TANGENT_BELOW, bound]),
        np.column_stack((law.kienzle, law.linear)), np.ascontiguousarray(slices.trail),
        np.ascontiguousarray(slices.share.transpose(2, 0, 1)), np.ascontiguousarray(slices.gap.transpose(2, 0, 1)),
        edge, wide, ae, ap, np.ascontiguousarray(fz, dtype=float), cutter.places,
        np.array([np.sin(kappa), np.cos(kappa), cutter.shape.DC / 2, float(cutter.leads[0]), low]),
        np.array([cutter.teeth, angles, direction == "down", folds, plain]), out,
    )  # fmt: skip
    out[6:8] /= 1000.0
    return out
