"""Chip and force of a piece of edge, compiled: what the sums over a foot and over a flank share.

Compiled calls are given whole arrays and the places to read in them: a view made in an inner loop costs two locked
counts of its owners, which took a quarter of the whole sweep.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

#: rounding of an angle that is not yet another angle [rad]
SLACK = 1e-9
#: angles are computed so many at a time, and a rest one by one
LANES = 32
#: how every kernel of the map is compiled
OPTIONS: Any = {
    "nogil": True, "error_model": "numpy", "fastmath": {"contract", "nsz", "arcp", "reassoc"},
}  # fmt: skip


@machine_code(**OPTIONS)
def chips(feed, share, gap, d, j, rows, sines, chips, count):  # type: ignore[no-untyped-def]
    """Chips of tooth j in slice d for a lead angle of 90 deg: what the teeth ahead have left standing.

    sines, chips: rows of `rows` that are read and filled.
    """
    slope, rise = feed * share[d, j, 0], gap[d, j, 0]
    for k in range(count):
        rows[chips, k] = max(slope * rows[sines, k] + rise, 0.0)
    for back in range(1, share.shape[2]):
        slope, rise = feed * share[d, j, back], gap[d, j, back]
        counts = True  # a tooth further ahead has left no less standing as a rule
        for between in range(back):
            if feed * share[d, j, between] <= slope and gap[d, j, between] <= rise:
                counts = False
        if not counts:
            continue
        for k in range(count):
            rows[chips, k] = min(rows[chips, k], max(slope * rows[sines, k] + rise, 0.0))


@machine_code(**OPTIONS)
def power(curve, per_h, h):  # type: ignore[no-untyped-def]
    """h^(1-mc) with its tangent below, read from its table."""
    place = h * per_h
    n = int(place)
    return curve[n] + (curve[n + 1] - curve[n]) * (place - n)


@machine_code(**OPTIONS)
def forces(bent, h, law, sine, cosine, s_k, c_k):  # type: ignore[no-untyped-def]
    """x, y, z and tangential force of a millimetre of edge."""
    t = law[0, 0] * bent + law[0, 1] * h + law[0, 2]
    r = law[1, 0] * bent + law[1, 1] * h + law[1, 2]
    a = law[2, 0] * bent + law[2, 1] * h + law[2, 2]
    x = -r * sine * s_k - t * cosine - a * sine * c_k
    y = -r * cosine * s_k + t * sine - a * cosine * c_k
    return x, y, r * c_k - a * s_k, t


@machine_code(**OPTIONS)
def gauss(points, begin, width, at):  # type: ignore[no-untyped-def]
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


@machine_code(**OPTIONS)
def integral(curve, per_h, law, feed, share, gap, d, j, at, s_k, c_k):  # type: ignore[no-untyped-def]
    """Integral of the four forces over the window of a tooth, in the last row of at.

    at (6, points): sines, cosines and weights as `gauss` fills them, room for chip and power, and the result.
    """
    sx = sy = sz = st = 0.0
    chips(feed, share, gap, d, j, at, 0, 3, at.shape[1])
    for q in range(at.shape[1]):
        at[3, q] *= s_k
        at[4, q] = power(curve, per_h, at[3, q])
    for q in range(at.shape[1]):
        weight = at[2, q] if at[3, q] > 0.0 else 0.0
        x, y, z, t = forces(at[4, q], at[3, q], law, at[0, q], at[1, q], s_k, c_k)
        sx += x * weight
        sy += y * weight
        sz += z * weight
        st += t * weight
    at[5, 0], at[5, 1], at[5, 2], at[5, 3] = sx, sy, sz, st


@machine_code(**OPTIONS)
def chips_at_nodes(curve, per_h, feed, share, gap, d, j, nodes):  # type: ignore[no-untyped-def]
    """Chip of a tooth and its power at the nodes of the half turn."""
    row = 4 * j
    chips(feed, share, gap, d, j, nodes, row + 2, row, nodes.shape[1])
    for k in range(nodes.shape[1]):
        nodes[row + 1, k] = power(curve, per_h, nodes[row, k])
