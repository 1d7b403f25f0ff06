"""Forces over a grid of engagements, compiled; the plain reference is `lesna.physics.edge.sweep.sweep_plain`.

What makes it fast: a plain flank needs one table of its force over the angle and the running integral of that table,
because a tooth's force down to any depth is a difference of two values of the integral. The rounded foot of the edge
is added slice by slice once for each stepover, every depth above it being a prefix. Both read the chip from one table
along the half turn in which a tooth can cut.
"""

from __future__ import annotations

import numpy as np

from lesna.physics import Array
from lesna.physics.compiled.edge_sums import LANES, OPTIONS, chips_at_nodes
from lesna.physics.compiled.keeping import machine_code
from lesna.physics.compiled.map_flank import flank_sums
from lesna.physics.compiled.map_foot import POINTS, foot_slice
from lesna.physics.edge.cutter import Cutter, slices_of
from lesna.physics.edge.forces import ForceLaw

_TABLE = 1024
#: least angles a turn: for equal teeth, of which one pitch is computed; for teeth that differ; for a ball, whose
#: force changes slowly because its slices enter one after the other
_FOLDED, _ANGLES, _BALL = 352, 160, 128
#: a thin cut has at least so many angles across its window, up to a factor
_LEAST_CELLS, _FINEST = 18, 4
#: feeds in one column that are this close share their tables
_SAME = 1e-6
#: rounding of a depth that is none [mm]
_NO_DEPTH = 1e-12


@machine_code(**OPTIONS)
def _between(W, G, scale, w, ext, shift, S):  # type: ignore[no-untyped-def]
    """Foot plus flank, the flank as the difference of its running integral at both ends."""
    factor, w0, w1 = np.float32(scale), np.float32(1.0 - w), np.float32(w)
    # unsigned places are never counted from the end, so the loop runs many at a time
    top, low, lower = np.uint64(ext), np.uint64(ext - shift), np.uint64(ext - shift - 1)
    for m in range(4):
        for i in range(S.shape[1]):
            k = np.uint64(i)
            S[m, k] = W[m, k] + factor * (G[m, top + k] - w0 * G[m, low + k] - w1 * G[m, lower + k])


@machine_code(**OPTIONS)
def _added(W, more, share, S):  # type: ignore[no-untyped-def]
    """Foot plus a share of one more piece."""
    part = np.float32(share)
    for m in range(4):
        for k in range(S.shape[1]):
            S[m, k] = W[m, k] + part * more[m, k]


@machine_code(**OPTIONS)
def _most(bits):  # type: ignore[no-untyped-def]
    """Largest of non-negative floats, which order like their bits: integers are compared many at a time."""
    most = np.int32(0)
    for k in range(bits.shape[0]):
        most = max(most, bits[k])
    return most


@machine_code(**OPTIONS)
def _least(bits):  # type: ignore[no-untyped-def]
    """Least of non-negative floats, compared like the largest."""
    least = np.int32(2147483647)
    for k in range(bits.shape[0]):
        least = min(least, bits[k])
    return least


@machine_code(**OPTIONS)
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


@machine_code(**OPTIONS)
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


@machine_code(**OPTIONS)
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


@machine_code(_KERNEL, **OPTIONS)
def _sweep(curve, scale, law, trail, share, gap, edge, wide, ae, ap, fz, places, flank, sizes, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Column by column.

    curve: h^(1-mc) over the chip; scale: nodes of it per mm, exponent of the feed, the two coefficients of the tangent,
    a bound of the axial force, and where the tangent begins; law rows: t, r, a. trail (teeth, slices), share, gap
    (slices, teeth, ahead), edge: slices of the foot, as in `Slices`, and one of a plain flank; edge rows and wide as
    in `map_foot.foot_slice`. places: teeth of the flank; flank: sin kappa, cos kappa, R, lead, foot height. sizes: teeth,
    angles, is_down, folds, foot_is_plain.
    """
    angles, down, folds, plain = sizes[1], sizes[2], sizes[3], sizes[4]
    teeth = (1 if folds > 1 else sizes[0], sizes[0] if folds > 1 else 1, plain)
    per_h = scale[0]
    tangent = (scale[2], scale[3], scale[5])
    R, lead, foot = flank[2], flank[3], flank[4]
    rows, count = ap.shape[0], trail.shape[1] - plain
    results = np.zeros((2, rows, 9))
    needed = np.zeros((2, rows), dtype=np.bool_)
    nodes = np.zeros(2)
    mean_w, mean_p, mean_f = np.zeros(6), np.zeros(6), np.zeros(4)
    found, at = np.zeros(4, dtype=np.int32), np.empty((6, POINTS))
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
        along = np.zeros((4 * teeth[0], half + LANES), dtype=np.float32)
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
        fold = np.empty((4, half + LANES), dtype=np.float32)
        for v in range(levels):
            feed = nodes[v] * sizes[0]
            if plain:
                for j in range(teeth[0]):
                    chips_at_nodes(curve, per_h, feed, share, gap, count, j, along)
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
                        foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, done, edge, wide, c, grid,
                                    along, teeth, at, fold, W, mean_w)  # fmt: skip
                    elif partial != done:
                        partial = done
                        P[:] = 0.0
                        mean_p[:] = 0.0
                        foot_slice(curve, per_h, law, tangent, feed, trail, share, gap, done, edge, wide, c, grid,
                                    along, teeth, at, fold, P, mean_p)  # fmt: skip
                    if not whole:
                        break
                    done += 1
                frac = 0.0
                if done < count:
                    frac = max(0.0, (depth - edge[6, done]) / (edge[7, done] - edge[6, done]))
                cut = depth - foot if plain and depth - foot > _NO_DEPTH else 0.0
                if cut > 0.0 and not flank_ready:
                    flank_ready = True
                    mean_f = flank_sums(curve, per_h, law, feed, share, gap, flank, places, (begin, width, offset), grid,
                                    along, teeth, G, D)  # fmt: skip
                shift = cut * lead / step
                if cut == 0.0:
                    _added(W, P, frac, S)
                elif shift < 1.0:
                    _added(W, D, cut, S)
                else:
                    n = int(shift)
                    _between(W, G, 1.0 / lead, shift - n, ext, n, S)
                _peaks(S, up, bits, scale[4], found, values, results, v, i)
                for m in range(3):
                    results[v, i, 1 + m] = mean_w[m] + frac * mean_p[m] + cut * mean_f[m]
                results[v, i, 6] = mean_w[3] + frac * mean_p[3] + cut * mean_f[3]
                force = mean_w[5] + frac * mean_p[5] + cut * mean_f[3] / R
                moment = mean_w[4] + frac * mean_p[4] + cut * mean_f[3] / R * (foot + cut / 2.0)
                results[v, i, 8] = moment / force if force > 0.0 else depth / 2.0
        _blended(results, needed, nodes, scale[1], fz, c, out)


def run_sweep(cutter: Cutter, law: ForceLaw, fz: Array, engagements: tuple[Array, Array], direction: str) -> Array:
    """Forces over a grid of engagements (see `lesna.physics.edge.sweep.sweep`)."""
    from lesna.physics.edge.sweep import foot

    ae, ap = (np.ascontiguousarray(values, dtype=float) for values in engagements)
    out = np.empty((9, len(ap), len(ae)))
    edges = foot(cutter, ap)
    plain = cutter.has_plain_flank
    # a plain flank is one more slice on top, for the chips of its teeth
    slices = slices_of(cutter, np.append(edges, edges[-1] + 1.0) if plain else edges)
    sine = np.sin(slices.kappa)
    edge = np.stack((sine, np.cos(slices.kappa), slices.db, slices.arm, slices.z, sine ** (1.0 - law.mc),
                     slices.z, slices.z, slices.smear))  # fmt: skip
    count, low = len(edges) - 1, float(edges[-1])
    edge[6, :count], edge[7, :count] = edges[:-1], edges[1:]
    # windows at the ends and in the middle of every slice, in the order of their heights
    radii = np.empty(2 * count + 1)
    radii[0:-1:2], radii[1::2], radii[-1] = slices.ends[0, :count], slices.r[:count], slices.ends[1, count - 1]
    wide = np.arccos(np.clip(1 - ae / np.maximum(radii, 1e-12)[:, None], -1, 1))
    folds = cutter.teeth if cutter.is_even else 1
    least = _BALL if cutter.shape.is_ball else _FOLDED if folds > 1 else _ANGLES
    angles = LANES * -(-least // (folds * LANES))
    most = 1.001 * float(fz.max()) * cutter.teeth * float(slices.share.max())
    most += 2.5 * cutter.eccentricity + 4 * cutter.profile.depth
    h = most * np.arange(_TABLE + 2) / _TABLE
    unit = ForceLaw(law.mc, np.array([1.0, 0.0, 0.0]), h1=law.h1)
    kappa = cutter.shape.kappa if cutter.shape.form == "straight" else np.pi / 2
    steep = law.h1 ** (1 - law.mc)
    # every edge at once at the thickest chip: rough, but the axial force never lies beyond it
    edge_length = float(np.sum(slices.db[:count])) + max(0.0, float(ap[-1]) - low) / np.sin(kappa)
    bound = cutter.teeth * edge_length * float(np.abs(law.directions(np.array([most]))).sum())
    _sweep(
        unit.per_edge(h),
        np.array([_TABLE / most, 1.0 if law.is_linear else 1.0 - law.mc, steep * law.mc,
                  steep * (1 - law.mc) / law.h1, bound, law.h1]),
        np.column_stack((law.kienzle, law.linear)), np.ascontiguousarray(slices.trail),
        np.ascontiguousarray(slices.share.transpose(2, 0, 1)), np.ascontiguousarray(slices.gap.transpose(2, 0, 1)),
        edge, wide, ae, ap, np.ascontiguousarray(fz, dtype=float), cutter.places,
        np.array([np.sin(kappa), np.cos(kappa), cutter.shape.DC / 2, float(cutter.leads[0]), low]),
        np.array([cutter.teeth, angles, direction == "down", folds, plain]), out,
    )  # fmt: skip
    out[6:8] /= 1000.0
    return out
