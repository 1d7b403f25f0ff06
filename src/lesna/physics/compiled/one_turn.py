"""One turn of the cutter, compiled, and the forces at angles of one's own.

The plain references are `lesna.physics.edge.turn.turn_plain` and `forces_plain`.
"""

from __future__ import annotations

import numpy as np

from lesna.physics import Array
from lesna.physics.compiled.keeping import machine_code
from lesna.physics.edge.cutter import Slices
from lesna.physics.edge.forces import ForceLaw

_TABLE = 2048
_CELLS = 16
#: rounding of an angle that is not yet another angle [rad]
_SLACK = 1e-9
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(4)


@machine_code("i8(f8,f8[:,:,::1],f8[:,:,::1],i8,i8,f8[:,::1])", nogil=True, error_model="numpy")
def _ahead(feed, share, gap, j, s, lines):  # type: ignore[no-untyped-def]
    """How many teeth ahead can have left less standing than those between, and how their chip goes with the sine: slope, rise [mm]."""
    count = 0
    for back in range(share.shape[1]):
        slope, rise = feed * share[j, back, s], gap[j, back, s]
        counts = True
        for k in range(count):
            if lines[0, k] <= slope and lines[1, k] <= rise:
                counts = False
        if counts:
            lines[0, count], lines[1, count] = slope, rise
            count += 1
    return count


_KERNEL = (
    "void(f8[:,::1], f8[:,:,::1], f8[:,:,::1], f8[:,::1], f8[::1], f8[:,::1], f8[::1], f8[:,::1], f8[:,::1], f8[::1], "
    "f8[:,::1], f8[::1], f8[::1])"
)


@machine_code(_KERNEL, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "arcp", "reassoc"})
def _turn(trail, share, gap, edge, kienzle, linear, scalars, start, end, theta, out, means, chips):  # type: ignore[no-untyped-def] # fmt: skip
    """Adds every tooth and slice; one body because all that it holds would have to be handed on at each step."""
    feed, mc, h1 = scalars[0], scalars[1], scalars[2]
    teeth, reach, count = share.shape
    n = theta.shape[0]
    step = 2.0 * np.pi / n
    turn_c, turn_s = np.cos(step), np.sin(step)
    bent = kienzle[0] != 0.0
    most = 1e-12
    for j in range(teeth):
        for s in range(count):
            most = max(most, feed * share[j, 0, s] + abs(gap[j, 0, s]))
    table = np.empty(_TABLE + 2)
    low = h1 ** (1.0 - mc)
    for i in range(_TABLE + 2):
        h = most * i / _TABLE
        table[i] = h ** (1.0 - mc) if h >= h1 else low * (mc + (1.0 - mc) * h / h1)
    scale = _TABLE / most
    lines = np.empty((2, reach))
    k0, k1, k2 = kienzle[0], kienzle[1], kienzle[2]
    l0, l1, l2 = linear[0, 0], linear[1, 0], linear[2, 0]
    e0, e1, e2 = linear[0, 1], linear[1, 1], linear[2, 1]
    for j in range(teeth):
        for s in range(count):
            s_k, c_k, db, arm, smear = edge[0, s], edge[1, s], edge[2, s], edge[3, s] / 1000.0, edge[5, s]
            ahead = _ahead(feed, share, gap, j, s, lines)
            # a slice enters and leaves bit by bit, as its ends lag and see windows of their own
            lower, upper = start[0, s] - 0.5 * smear, start[2, s] + 0.5 * smear
            entry, entering = min(lower, upper) - _SLACK, 1.0 / max(abs(upper - lower), 0.5 * _SLACK)
            lower, upper = end[0, s] - 0.5 * smear, end[2, s] + 0.5 * smear
            left, leaving = max(lower, upper) + _SLACK, 1.0 / max(abs(upper - lower), 0.5 * _SLACK)
            begin, finish = min(start[0, s], start[2, s]), max(end[0, s], end[2, s])
            first = int(np.ceil((entry + trail[j, s] - theta[0]) / step))
            last = int(np.floor((left + trail[j, s] - theta[0]) / step))
            phi = theta[0] + first * step - trail[j, s]
            turn_sine, turn_cosine = np.sin(phi), np.cos(phi)
            i = first % n
            for _ in range(last - first + 1):
                sine, cosine = turn_sine, turn_cosine
                # only the part of the slice that is in the cut
                weight = db * max(0.0, min(1.0, min((phi - entry) * entering, (left - phi) * leaving)))
                turn_sine, turn_cosine = (
                    turn_sine * turn_c + turn_cosine * turn_s,
                    turn_cosine * turn_c - turn_sine * turn_s,
                )
                if phi < begin:
                    sine, cosine = np.sin(begin), np.cos(begin)
                elif phi > finish:
                    sine, cosine = np.sin(finish), np.cos(finish)
                chip = lines[0, 0] * sine + lines[1, 0]
                for k in range(1, ahead):
                    chip = min(chip, lines[0, k] * sine + lines[1, k])
                if chip > 0.0:
                    chip *= s_k
                    place = chip * scale
                    whole = int(place)
                    curve = table[whole] + (table[whole + 1] - table[whole]) * (place - whole)
                    t = (k0 * curve + l0 * chip + e0) * weight
                    r = (k1 * curve + l1 * chip + e1) * weight
                    a = (k2 * curve + l2 * chip + e2) * weight
                    out[0, i] += -r * sine * s_k - t * cosine - a * sine * c_k
                    out[1, i] += -r * cosine * s_k + t * sine - a * cosine * c_k
                    out[2, i] += r * c_k - a * s_k
                    out[3, i] += t * arm
                phi += step
                i += 1
                if i == n:
                    i = 0
    sums = np.zeros(4)
    for j in range(teeth):
        chips[j] = 0.0
        for s in range(count):
            s_k, c_k, db, arm, z = edge[0, s], edge[1, s], edge[2, s], edge[3, s], edge[4, s]
            fresh = s == 0 or start[1, s] != start[1, s - 1] or end[1, s] != end[1, s - 1] or s_k != edge[0, s - 1]
            if not fresh:
                for back in range(reach):
                    if share[j, back, s] != share[j, back, s - 1] or gap[j, back, s] != gap[j, back, s - 1]:
                        fresh = True
            if fresh:  # slices of a plain flank are all alike
                ahead = _ahead(feed, share, gap, j, s, lines)
                sums[:] = 0.0
                cell = (end[1, s] - start[1, s]) / _CELLS
                for c in range(_CELLS):
                    for q in range(4):
                        phi = start[1, s] + cell * (c + 0.5 * (1.0 + _NODES[q]))
                        sine, cosine = np.sin(phi), np.cos(phi)
                        chip = np.inf
                        for k in range(ahead):
                            chip = min(chip, lines[0, k] * sine + lines[1, k])
                        if chip > 0.0:
                            chip *= s_k
                            curve = 0.0
                            if bent:
                                curve = chip ** (1.0 - mc) if chip >= h1 else low * (mc + (1.0 - mc) * chip / h1)
                            w = 0.5 * _WEIGHTS[q] * cell / (2.0 * np.pi)
                            t = (kienzle[0] * curve + linear[0, 0] * chip + linear[0, 1]) * w
                            r = (kienzle[1] * curve + linear[1, 0] * chip + linear[1, 1]) * w
                            a = (kienzle[2] * curve + linear[2, 0] * chip + linear[2, 1]) * w
                            sums[0] += -r * sine * s_k - t * cosine - a * sine * c_k
                            sums[1] += -r * cosine * s_k + t * sine - a * cosine * c_k
                            sums[2] += r * c_k - a * s_k
                            sums[3] += t
            for c in range(3):
                means[c] += sums[c] * db
            means[3] += sums[3] * db * arm / 1000.0
            means[4] += sums[3] * db * z
            means[5] += sums[3] * db
            rim = np.pi / 2
            if start[1, s] > rim:
                rim = start[1, s]
            elif end[1, s] < rim:
                rim = end[1, s]
            chip = np.inf
            for k in range(ahead):
                chip = min(chip, lines[0, k] * np.sin(rim) + lines[1, k])
            chips[j] = max(chips[j], chip * s_k)


_AT = (
    "void(f8[:,::1], f8[:,:,::1], f8[:,:,::1], f8[:,::1], f8[::1], f8[:,::1], f8[::1], f8[:,::1], f8[:,::1], f8[::1], "
    "f8[:,::1])"
)


@machine_code(_AT, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "arcp", "reassoc"})
def _turn_at(trail, share, gap, edge, kienzle, linear, scalars, start, end, theta, out):  # type: ignore[no-untyped-def]
    """Adds every tooth and slice at few angles, each looked up for itself."""
    feed, mc, h1 = scalars[0], scalars[1], scalars[2]
    teeth, reach, count = share.shape
    low = h1 ** (1.0 - mc)
    for j in range(teeth):
        for s in range(count):
            s_k, c_k, smear = edge[0, s], edge[1, s], edge[5, s]
            lower, upper = start[0, s] - 0.5 * smear, start[2, s] + 0.5 * smear
            entry, entering = min(lower, upper) - _SLACK, 1.0 / max(abs(upper - lower), 0.5 * _SLACK)
            lower, upper = end[0, s] - 0.5 * smear, end[2, s] + 0.5 * smear
            left, leaving = max(lower, upper) + _SLACK, 1.0 / max(abs(upper - lower), 0.5 * _SLACK)
            begin, finish = min(start[0, s], start[2, s]), max(end[0, s], end[2, s])
            for i in range(theta.shape[0]):
                past = theta[i] - trail[j, s] - entry
                past -= 2.0 * np.pi * np.floor(past / (2.0 * np.pi))
                if past > left - entry:
                    continue
                phi = entry + past
                weight = edge[2, s] * max(0.0, min(1.0, min(past * entering, (left - phi) * leaving)))
                phi = min(max(phi, begin), finish)
                sine, cosine = np.sin(phi), np.cos(phi)
                chip = np.inf
                for back in range(reach):
                    chip = min(chip, feed * share[j, back, s] * sine + gap[j, back, s])
                if chip <= 0.0:
                    continue
                chip *= s_k
                curve = chip ** (1.0 - mc) if chip >= h1 else low * (mc + (1.0 - mc) * chip / h1)
                t = (kienzle[0] * curve + linear[0, 0] * chip + linear[0, 1]) * weight
                r = (kienzle[1] * curve + linear[1, 0] * chip + linear[1, 1]) * weight
                a = (kienzle[2] * curve + linear[2, 0] * chip + linear[2, 1]) * weight
                out[0, i] += -r * sine * s_k - t * cosine - a * sine * c_k
                out[1, i] += -r * cosine * s_k + t * sine - a * cosine * c_k
                out[2, i] += r * c_k - a * s_k
                out[3, i] += t * edge[3, s] / 1000.0


def run_turn_at(slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array], theta: Array) -> Array:
    """The forces at some angles (see `lesna.physics.edge.turn.forces_plain` for parameters and results)."""
    out = np.zeros((4, len(theta)))
    _turn_at(*_handed(slices, law, feed, window), np.ascontiguousarray(theta), out)
    return out


def _handed(slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array]) -> tuple[Array, ...]:
    edge = np.stack((np.sin(slices.kappa), np.cos(slices.kappa), slices.db, slices.arm, slices.z, slices.smear))
    return (
        np.ascontiguousarray(slices.trail), slices.share, slices.gap, edge, law.kienzle, law.linear,
        np.array([feed, law.mc, law.h1]), *window,
    )  # fmt: skip


def run_turn(
    slices: Slices, law: ForceLaw, feed: float, window: tuple[Array, Array], theta: Array
) -> tuple[Array, Array, Array]:
    """The sums of one turn (see `lesna.physics.edge.turn.turn_plain` for parameters and results)."""
    out, means, chips = np.zeros((4, len(theta))), np.zeros(6), np.zeros(slices.trail.shape[0])
    _turn(*_handed(slices, law, feed, window), theta, out, means, chips)
    return out, means, chips
