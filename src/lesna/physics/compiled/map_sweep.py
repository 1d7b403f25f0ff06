"""Forces over a grid of engagements, compiled; the plain reference is `lesna.physics.sweep.sweep_plain`.

What makes it fast: a plain flank needs one table of its force over the angle and the running integral of that table,
because a tooth's force down to any depth is a difference of two values of the integral. The rounded foot of the edge
is added slice by slice once for each stepover, every depth above it being a prefix.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from lesna.physics import Array
from lesna.physics.cutter import Cutter, round_height, slices_of
from lesna.physics.forces import ForceLaw

_TABLE = 4096
#: angles a turn for teeth that differ; a cutter of equal teeth needs one pitch of them
_ANGLES = 180
_BALL_ANGLES = 120
_FINE = 360
_GAUSS, _GAUSS_W = np.polynomial.legendre.leggauss(12)
#: feeds in one column that are this close share their tables
_SAME = 1e-6

_FAST = {"contract", "nsz", "arcp", "reassoc"}
_options: Any = {"cache": True, "nogil": True, "error_model": "numpy", "fastmath": _FAST}


@njit("f8(f8, f8, f8, f8[:,::1], f8[:,::1], i8, i8)", **_options)
def _chip(feed, sine, floor, share, gap, tooth, reach):  # type: ignore[no-untyped-def]
    """Chip of a tooth for a lead angle of 90 deg: what the teeth ahead have left standing."""
    chip = feed * share[0, tooth] * sine + gap[0, tooth]
    for back in range(1, reach):
        chip = min(chip, feed * share[back, tooth] * sine + gap[back, tooth])
    return max(chip, floor)


@njit("UniTuple(f8, 4)(f8[::1], f8, f8, f8[:,::1], f8, f8, f8, f8)", **_options)
def _forces(curve, per_h, chip, law, sine, cosine, s_k, c_k):  # type: ignore[no-untyped-def]
    """x, y, z and tangential force of a millimetre of edge."""
    h = chip * s_k
    place = h * per_h
    n = int(place)
    bent = curve[n] + (curve[n + 1] - curve[n]) * (place - n)
    t = law[0, 0] * bent + law[0, 1] * h + law[0, 2]
    r = law[1, 0] * bent + law[1, 1] * h + law[1, 2]
    a = law[2, 0] * bent + law[2, 1] * h + law[2, 2]
    x = -r * sine * s_k - t * cosine - a * sine * c_k
    y = -r * cosine * s_k + t * sine - a * cosine * c_k
    return x, y, r * c_k - a * s_k, t


@njit("void(f8, f8, f8[:,::1])", **_options)
def _gauss(begin, width, at):  # type: ignore[no-untyped-def]
    """Sines, cosines and weights of the Gauss points of a window."""
    for q in range(at.shape[1]):
        phi = begin + width * 0.5 * (1.0 + _GAUSS[q])
        at[0, q], at[1, q], at[2, q] = np.sin(phi), np.cos(phi), 0.5 * _GAUSS_W[q] * width


@njit("void(f8[::1], f8, f8[:,::1], f8, f8[:,::1], f8[:,::1], f8[:,::1], f8[::1], f8[::1])", **_options)
def _integral(curve, per_h, law, feed, share, gap, at, who, sums):  # type: ignore[no-untyped-def]
    """Integral of the four forces over the window of a tooth; who: tooth, reach, sin kappa, cos kappa."""
    tooth, reach = int(who[0]), int(who[1])
    sx = sy = sz = st = 0.0
    for q in range(at.shape[1]):
        chip = _chip(feed, at[0, q], 0.0, share, gap, tooth, reach)
        if chip > 0.0:
            x, y, z, t = _forces(curve, per_h, chip, law, at[0, q], at[1, q], who[2], who[3])
            sx += x * at[2, q]
            sy += y * at[2, q]
            sz += z * at[2, q]
            st += t * at[2, q]
    sums[0], sums[1], sums[2], sums[3] = sx, sy, sz, st


@njit(
    "void(f8[::1], f8, f8, f8[:,::1], f8[::1], f8[:,::1], f8[:,::1], f8[:,::1], f8[::1], i8[::1], f4[:,::1])",
    **_options,
)
def _deposit(curve, per_h, feed, law, chips, share, gap, angles, piece, spans, P):  # type: ignore[no-untyped-def]
    """Adds one tooth of one slice to the forces over the angle.

    chips: of this tooth along a plain edge. angles rows: sine and cosine of phi at the first angle, of a step.
    piece: sin kappa, cos kappa, edge length, arm, place of the first angle among the chips. spans: first and last
    angle, last chip, tooth, reach, whether the edge is plain.
    """
    first, final, last, tooth, reach, plain = spans[0], spans[1], spans[2], spans[3], spans[4], spans[5]
    sine, cosine, turn_s, turn_c = angles[0, 0], angles[0, 1], angles[1, 0], angles[1, 1]
    s_k, c_k, db, arm = piece[0], piece[1], piece[2], piece[3]
    K = P.shape[1]
    k = first % K
    n = int(np.floor(piece[4]))
    w = piece[4] - n
    for _ in range(final - first + 1):
        if plain and 0 <= n <= last:
            chip = chips[n] + (chips[n + 1] - chips[n]) * w
        else:
            chip = _chip(feed, sine, 0.0, share, gap, tooth, reach)
        if chip > 0.0:
            x, y, z, t = _forces(curve, per_h, chip, law, sine, cosine, s_k, c_k)
            P[0, k] += np.float32(x * db)
            P[1, k] += np.float32(y * db)
            P[2, k] += np.float32(z * db)
            P[3, k] += np.float32(t * db * arm)
        n += 1
        k += 1
        if k == K:
            k = 0
        sine, cosine = sine * turn_c + cosine * turn_s, cosine * turn_c - sine * turn_s


@njit("void(f4[:,::1], f4[:,::1], f8[::1], i8, i8, f4[:,::1])", **_options)
def _between(W, G, weights, ext, shift, S):  # type: ignore[no-untyped-def]
    """Foot plus flank, the flank as the difference of its running integral at both ends."""
    scale, w0, w1 = np.float32(weights[0]), np.float32(weights[1]), np.float32(weights[2])
    # unsigned places are never counted from the end, so the loop runs many at a time
    top, low, lower = np.uint64(ext), np.uint64(ext - shift), np.uint64(ext - shift - 1)
    for m in range(4):
        for i in range(S.shape[1]):
            k = np.uint64(i)
            S[m, k] = W[m, k] + scale * (G[m, top + k] - w0 * G[m, low + k] - w1 * G[m, lower + k])


@njit("void(f4[:,::1], f4[:,::1], f8, f4[:,::1])", **_options)
def _added(W, more, share, S):  # type: ignore[no-untyped-def]
    """Foot plus a share of one more piece."""
    part = np.float32(share)
    for m in range(4):
        for k in range(S.shape[1]):
            S[m, k] = W[m, k] + part * more[m, k]


@njit("void(f4[:,::1], f4[::1], f8[::1])", **_options)
def _peaks(S, up, res):  # type: ignore[no-untyped-def]
    """Peak side force, torque, and the range of the axial force.

    Non-negative floats order like their bits, and integer maxima run many at a time.
    """
    zero = np.float32(0.0)
    bits = up.view(np.int32)
    found = np.zeros(6, dtype=np.int32)
    for k in range(up.shape[0]):
        up[k] = S[0, k] * S[0, k] + S[1, k] * S[1, k]
    best = np.int32(0)
    for k in range(up.shape[0]):
        best = max(best, bits[k])
    found[0] = best
    for k in range(up.shape[0]):
        up[k] = max(S[3, k], zero)
    best = np.int32(0)
    for k in range(up.shape[0]):
        best = max(best, bits[k])
    found[1] = best
    for k in range(up.shape[0]):
        up[k] = max(S[2, k], zero)
    best = np.int32(0)
    least = np.int32(2147483647)
    for k in range(up.shape[0]):
        best = max(best, bits[k])
        least = min(least, bits[k])
    found[2] = best
    found[5] = least
    for k in range(up.shape[0]):
        up[k] = max(-S[2, k], zero)
    best = np.int32(0)
    least = np.int32(2147483647)
    for k in range(up.shape[0]):
        best = max(best, bits[k])
        least = min(least, bits[k])
    found[3] = best
    found[4] = least
    values = found.view(np.float32)
    res[0] = np.sqrt(values[0])
    res[7] = values[1]
    # a one-sided axial force has its other end on the same side
    res[4] = values[2] if values[2] > zero else -values[4]
    res[5] = -values[3] if values[3] > zero else values[5]


_KERNEL = (
    "void(f8[::1], f8[::1], f8[:,::1], f8[:,::1], f8[:,:,::1], f8[:,:,::1], f8[:,::1], f8[::1], f8[:,::1], "
    "f8[:,::1], f8[:,::1], f8[:,::1], f8[::1], f8[::1], i8[::1], f8[:,:,::1])"
)


@njit(_KERNEL, **_options)
def _sweep(curve, scale, law, trail, share, gap, edge, ae, ap, fz, f_share, f_gap, places, flank, sizes, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Column by column; one body because the buffers of a column serve every row of it.

    curve: h^(1-mc) over the chip; scale: nodes of it per mm, exponent of the feed; law rows: t, r, a.
    trail, share, gap, edge: slices of the foot, as in `Slices`; edge rows: sin kappa, cos kappa, db, arm, z, r and
    the length of edge below its upper end. ap rows: depth, and length of the foot's edge below it.
    f_share, f_gap (ahead, teeth), places: teeth of the flank; flank: sin kappa, cos kappa, R, lead, foot height.
    sizes: teeth, reach, angles, is_down, folds, foot_is_plain.
    """
    teeth, reach, K, down, folds, plain = sizes[0], sizes[1], sizes[2], sizes[3], sizes[4], sizes[5]
    per_h, power = scale[0], scale[1]
    sk, ck, R, lead, foot = flank[0], flank[1], flank[2], flank[3], flank[4]
    rows, columns, count = ap.shape[1], ae.shape[0], trail.shape[1]
    whole = K * folds
    step = 2.0 * np.pi / whole
    shown = 1 if folds > 1 else teeth
    alike = teeth / shown
    turn_c, turn_s = np.cos(step), np.sin(step)
    ext = int(max(0.0, ap[0, rows - 1] - foot) * lead / step) + 3
    G = np.zeros((4, K + ext), dtype=np.float32)
    run = np.zeros((4, K + ext))
    D = np.zeros((4, K), dtype=np.float32)
    W = np.zeros((4, K), dtype=np.float32)
    P = np.zeros((4, K), dtype=np.float32)
    S = np.zeros((4, K), dtype=np.float32)
    up = np.zeros(K, dtype=np.float32)
    half = whole // 2 + 4
    chips = np.zeros((teeth, half))
    C = np.zeros((4, half))
    F = np.zeros((4, half))
    total = np.zeros(4)
    one = np.zeros(4)
    angles, piece, spans = np.zeros((2, 2)), np.zeros(5), np.zeros(6, dtype=np.int64)
    at = np.zeros((3, 12))
    nodes = np.zeros(3)
    results = np.zeros((3, rows, 9))
    mean_w = np.zeros(6)
    mean_p = np.zeros(6)
    mean_f = np.zeros(4)
    who = np.zeros(4)
    weights = np.zeros(3)
    needed = np.zeros((3, rows), dtype=np.bool_)
    for c in range(columns):
        # ---- feeds of this column: one, or two between which the rows are read
        least, most = fz[0, c], fz[0, c]
        for i in range(rows):
            least, most = min(least, fz[i, c]), max(most, fz[i, c])
        levels = 1
        nodes[0] = least
        if most > least * (1.0 + _SAME):
            levels = 2
            nodes[1] = most
        needed[:] = False
        for i in range(rows):
            for v in range(levels):
                if levels == 1 or abs(fz[i, c] / nodes[v] - 1.0) <= _SAME:
                    needed[:, i] = False
                    needed[v, i] = True
                    break
                if v + 1 < levels and nodes[v] < fz[i, c] < nodes[v + 1]:
                    needed[v, i] = True
                    needed[v + 1, i] = True
        width = np.arccos(min(1.0, max(-1.0, 1.0 - ae[c] / R)))
        begin = np.pi - width if down else 0.0
        aligned = begin if down else begin + width
        cells = width / step
        last = int(np.ceil(cells - 1e-9))
        # nodes run from the aligned end, so that the thickest chip has a node of its own
        origin = begin if down else begin + width - last * step
        for v in range(levels):
            feed = nodes[v] * teeth
            W[:] = 0.0
            mean_w[:] = 0.0
            done, partial = 0, -1
            flank_ready = False
            chips_ready = False
            for i in range(rows):
                if not needed[v, i]:
                    continue
                depth, length = ap[0, i], ap[1, i]
                above = depth - foot
                if not chips_ready:
                    chips_ready = True
                    for j in range(shown):
                        sine, cosine = np.sin(origin), np.cos(origin)
                        for k in range(last + 2):
                            chips[j, k] = _chip(feed, sine, 0.0, f_share, f_gap, j, reach)
                            sine, cosine = sine * turn_c + cosine * turn_s, cosine * turn_c - sine * turn_s
                # ---- slices of the foot that lie below this depth, and the one that is cut through
                while done < count:
                    low = edge[6, done - 1] if done > 0 else 0.0
                    if length <= low:
                        break
                    if partial != done:
                        P[:] = 0.0
                        mean_p[:] = 0.0
                        partial = done
                        s = done
                        p_sk, p_ck, db, arm, z, r = (
                            edge[0, s],
                            edge[1, s],
                            edge[2, s],
                            edge[3, s],
                            edge[4, s],
                            edge[5, s],
                        )
                        wide = np.arccos(min(1.0, max(-1.0, 1.0 - ae[c] / max(r, 1e-12))))
                        p_begin = np.pi - wide if down else 0.0
                        _gauss(p_begin, wide, at)
                        for j in range(shown):
                            first = int(np.ceil((p_begin + trail[j, s] - aligned - 1e-9) / step))
                            final = int(np.floor((p_begin + wide + trail[j, s] - aligned + 1e-9) / step))
                            phi = aligned + first * step - trail[j, s]
                            angles[0, 0], angles[0, 1], angles[1, 0], angles[1, 1] = (
                                np.sin(phi),
                                np.cos(phi),
                                turn_s,
                                turn_c,
                            )
                            piece[0], piece[1], piece[2], piece[3] = p_sk, p_ck, db, arm
                            piece[4] = (phi - origin) / step
                            spans[0], spans[1], spans[2], spans[3], spans[4], spans[5] = (
                                first,
                                final,
                                last,
                                j,
                                reach,
                                plain,
                            )
                            if plain:
                                _deposit(curve, per_h, feed, law, chips[j], f_share, f_gap, angles, piece, spans, P)
                            else:
                                _deposit(curve, per_h, feed, law, chips[j], share[s], gap[s], angles, piece, spans, P)
                            who[0], who[1], who[2], who[3] = j, reach, p_sk, p_ck
                            if plain:
                                _integral(curve, per_h, law, feed, f_share, f_gap, at, who, one)
                            else:
                                _integral(curve, per_h, law, feed, share[s], gap[s], at, who, one)
                            part = db * alike / (2.0 * np.pi)
                            for m in range(3):
                                mean_p[m] += one[m] * part
                            mean_p[3] += one[3] * part * arm
                            mean_p[4] += one[3] * part * z
                            mean_p[5] += one[3] * part
                    if length < edge[6, done] * (1.0 - 1e-12):
                        break
                    for m in range(4):
                        for k in range(K):
                            W[m, k] += P[m, k]
                    for m in range(6):
                        mean_w[m] += mean_p[m]
                    done += 1
                # ---- the plain flank: force over the angle and its running integral, once for each feed
                if above > 1e-12 and not flank_ready:
                    flank_ready = True
                    mean_f[:] = 0.0
                    run[:] = 0.0
                    _gauss(begin, width, at)
                    D[:] = 0.0
                    for j in range(shown):
                        sine, cosine = np.sin(origin), np.cos(origin)
                        for k in range(last + 1):
                            within = begin - 1e-9 <= origin + k * step <= begin + width + 1e-9
                            if within and chips[j, k] > 0.0:
                                x, y, z, t = _forces(curve, per_h, chips[j, k], law, sine, cosine, sk, ck)
                                F[0, k], F[1, k], F[2, k], F[3, k] = x / sk, y / sk, z / sk, t * R / sk
                            else:
                                F[:, k] = 0.0
                            sine, cosine = sine * turn_c + cosine * turn_s, cosine * turn_c - sine * turn_s
                        who[0], who[1], who[2], who[3] = j, reach, sk, ck
                        _integral(curve, per_h, law, feed, f_share, f_gap, at, who, total)
                        total[3] *= R
                        odd = last if down else 1  # the cell that the far end of the window cuts short
                        for m in range(4):
                            total[m] /= sk
                            mean_f[m] += total[m] / (2.0 * np.pi) * alike
                            C[m, 0] = 0.0
                            for k in range(1, last + 1):
                                cell = step * (cells - (last - 1)) if k == odd else step
                                C[m, k] = C[m, k - 1] + 0.5 * (F[m, k - 1] + F[m, k]) * cell
                        for tooth in range(teeth if shown == 1 else 1):
                            # place of this tooth at the first node, in nodes from its own window's first
                            lag = places[j + tooth] + lead * foot
                            place = (aligned - lag - origin) / step - ext
                            turns = np.floor(place / whole + 1e-12)
                            rest = max(place - turns * whole, 0.0)
                            n = int(rest + 1e-9)
                            w = rest - n
                            if w < 1e-9:
                                w = 0.0
                            k = 0
                            while k < K + ext:
                                if n < last:
                                    until = min(last - n, K + ext - k)
                                    for m in range(4):
                                        base = turns * C[m, last]
                                        into, low_c, high_c = run[m, k : k + until], C[m, n:], C[m, n + 1 :]
                                        for q in range(until):
                                            into[q] += base + low_c[q] + (high_c[q] - low_c[q]) * w
                                else:
                                    until = min(whole - n, K + ext - k)
                                    for m in range(4):
                                        base = (turns + 1.0) * C[m, last]
                                        into = run[m, k : k + until]
                                        for q in range(until):
                                            into[q] += base
                                for q in range(until):
                                    if k + q >= ext and n + q <= last and n + q + w <= cells + 1e-9:
                                        for m in range(4):
                                            other = F[m, n + q + 1] if n + q < last else 0.0
                                            D[m, k + q - ext] += F[m, n + q] + (other - F[m, n + q]) * w
                                k += until
                                n += until
                                if n >= whole:
                                    n -= whole
                                    turns += 1.0
                    for m in range(4):
                        for k in range(K + ext):
                            G[m, k] = run[m, k] - run[m, 0]
                # ---- this depth
                frac = 0.0
                if done < count:
                    low = edge[6, done - 1] if done > 0 else 0.0
                    if length > low:
                        frac = (length - low) / (edge[6, done] - low)
                cut = max(above, 0.0)
                shift = cut * lead / step
                if cut == 0.0:
                    _added(W, P, frac, S)
                elif shift < 1.0:
                    _added(W, D, cut, S)
                else:
                    n = int(shift)
                    weights[0], weights[1], weights[2] = 1.0 / lead, 1.0 - (shift - n), shift - n
                    _between(W, G, weights, ext, n, S)
                res = results[v, i]
                _peaks(S, up, res)
                for m in range(3):
                    res[1 + m] = mean_w[m] + frac * mean_p[m] + cut * mean_f[m]
                res[6] = mean_w[3] + frac * mean_p[3] + cut * mean_f[3]
                force = mean_w[5] + frac * mean_p[5] + cut * mean_f[3] / R
                moment = mean_w[4] + frac * mean_p[4] + cut * mean_f[3] / R * (foot + cut / 2.0)
                res[8] = moment / force if force > 0.0 else depth / 2.0
        for i in range(rows):
            lower, higher = -1, -1
            for v in range(levels):
                if needed[v, i]:
                    if lower < 0:
                        lower = v
                    higher = v
            w = 0.0
            if higher > lower:
                a0, a1 = nodes[lower] ** power, nodes[higher] ** power
                w = (fz[i, c] ** power - a0) / (a1 - a0)
            for m in range(9):
                out[m, i, c] = results[lower, i, m] + (results[higher, i, m] - results[lower, i, m]) * w


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
    slices, tops = foot(cutter, float(ap[-1]))
    low = round_height(cutter.shape) if cutter.has_plain_flank else float(tops[-1])
    edge = np.stack((np.sin(slices.kappa), np.cos(slices.kappa), slices.db, slices.arm, slices.z, slices.r,
                     np.cumsum(slices.db)))  # fmt: skip
    lengths = np.interp(ap, np.concatenate(([0.0], tops)), np.concatenate(([0.0], edge[6])))
    if len(tops) and cutter.shape.form == "round":
        # between two heights of a round edge its length follows the lead angle
        r = cutter.shape.r
        lengths = np.where(ap < r, r * np.arccos(np.clip(1 - ap / r, -1, 1)), lengths)
    plain = cutter.has_plain_flank
    flank = slices_of(cutter, np.array([low, low + 1.0])) if plain else slices
    f_share, f_gap = (np.ascontiguousarray(part[:, :, 0].T) for part in (flank.share, flank.gap))
    folds = cutter.teeth if cutter.is_even else 1
    fine = _FINE // 2 if cutter.shape.is_ball else _FINE
    angles = max(24, round(fine / cutter.teeth)) if folds > 1 else (_BALL_ANGLES if cutter.shape.is_ball else _ANGLES)
    most = 1.001 * float(fz.max()) * cutter.teeth * float(max(f_share.max(), slices.share.max(initial=0.0)))
    most += 2.5 * cutter.eccentricity + 4 * cutter.profile.depth
    h = most * np.arange(_TABLE + 2) / _TABLE
    unit = ForceLaw(law.mc, np.array([1.0, 0.0, 0.0]))
    kappa = cutter.shape.kappa if cutter.shape.form == "straight" else np.pi / 2
    out = np.empty((9, len(ap), len(ae)))
    _sweep(
        unit.per_edge(h), np.array([_TABLE / most, 1.0 if law.is_linear else 1.0 - law.mc]),
        np.column_stack((law.kienzle, law.linear)), np.ascontiguousarray(slices.trail),
        np.ascontiguousarray(slices.share.transpose(2, 1, 0)), np.ascontiguousarray(slices.gap.transpose(2, 1, 0)),
        edge, ae, np.stack((ap, lengths)), np.ascontiguousarray(fz, dtype=float), f_share, f_gap, cutter.places,
        np.array([np.sin(kappa), np.cos(kappa), cutter.shape.DC / 2, float(cutter.leads[0]), low]),
        np.array([cutter.teeth, f_share.shape[0], angles, direction == "down", folds, plain]), out,
    )  # fmt: skip
    out[6:8] /= 1000.0
    return out
