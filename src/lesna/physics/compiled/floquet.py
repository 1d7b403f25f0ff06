"""Krylov pictures of a milling cut's period, compiled; the plain reference is `lesna.physics.structure.floquet.largest_plain`.

Every depth is carried along at once, because one alone would wait at each step for the force of the step before.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics import Array
from lesna.physics.compiled.keeping import machine_code
from lesna.physics.structure.stability import Dynamics

#: size of the Krylov space in which the largest multiplier is sought
_KRYLOV = 24
#: depths carried along at once: enough to fill the waiting, few enough to stay in the cache
_TOGETHER = 10
#: stands for a multiplier beyond all numbers
_BEYOND = 1e12
#: a force is averaged over no less than this angle [rad]
_NO_LAG = 1e-3

_options: Any = {"nogil": True, "error_model": "numpy", "fastmath": {"contract", "reassoc"}}


@machine_code("void(f8, f8[::1], f8[::1])", **_options)
def _twice(phi, cut, out):  # type: ignore[no-untyped-def]
    """Second integral of a windowed tooth's H, from the beginning of the window; cut: see `_coefficients`."""
    start, end, Kt, Kr, s0, c0 = cut[0], cut[1], cut[2], cut[3], cut[4], cut[5]
    if phi <= start:
        out[:] = 0.0
        return
    at = min(phi, end)
    s1, c1 = np.sin(2 * at), np.cos(2 * at)
    d = at - start
    ss = (at * at - start * start) / 4 + (c1 - c0) / 8 - (start / 2 - s0 / 4) * d
    cc = (at * at - start * start) / 4 - (c1 - c0) / 8 - (start / 2 + s0 / 4) * d
    sc = -(s1 - s0) / 8 + c0 / 4 * d
    if phi > end:
        e = phi - end
        ss += ((end - start) / 2 - (s1 - s0) / 4) * e
        cc += ((end - start) / 2 + (s1 - s0) / 4) * e
        sc += -(c1 - c0) / 4 * e
    out[0], out[1] = Kt * sc + Kr * ss, Kt * cc + Kr * sc
    out[2], out[3] = Kr * sc - Kt * ss, Kr * cc - Kt * sc


@machine_code("void(f8, f8[::1], f8, f8[::1], f8[::1])", **_options)
def _over_depth(phi, cut, lag, upper, out):  # type: ignore[no-untyped-def]
    """The same over a tooth whose upper end lags; upper: room."""
    _twice(phi, cut, out)
    _twice(phi - lag, cut, upper)
    for m in range(4):
        out[m] -= upper[m]


@machine_code("void(f8[::1], f8[::1], f8, f8[::1], f8[:,:,:,::1], b1[:,::1])", **_options)
def _coefficients(places, cut, wide, lags, H, cuts):  # type: ignore[no-untyped-def]
    """Averages over step and depth: H (steps, delays, 4, lags), and which delays cut at which step at any depth.

    cut: start, end, Kt, Kr, sine and cosine of twice the start. A tooth is followed through its window from step to
    step, since the end of one step is the beginning of the next. Equal teeth are one tooth seen in every pitch.
    """
    steps, groups = cuts.shape
    before, after, upper = np.empty(4), np.empty(4), np.empty(4)
    H[:] = 0.0
    cuts[:] = False
    for tooth in range(groups):
        for place in range(lags.shape[0]):
            lag = max(lags[place], _NO_LAG)
            first = int(np.floor((places[tooth] + cut[0]) / wide - 0.5))
            last = int(np.ceil((places[tooth] + cut[1] + lag) / wide + 0.5))
            _over_depth(wide * (first - 0.5) - places[tooth], cut, lag, upper, before)
            for k in range(first, last + 1):
                _over_depth(wide * (k + 0.5) - places[tooth], cut, lag, upper, after)
                step = (k - 1) % steps
                cuts[step, tooth] = True
                for m in range(4):
                    H[step, tooth, m, place] += (after[m] - before[m]) / (wide * lag)
                    before[m] = after[m]


@machine_code(**_options)
def _swing(free, push, axis, state, F, U):  # type: ignore[no-untyped-def]
    """Every mode over a step under the force at its beginning; U: where that brings the tip."""
    U[:] = 0.0
    for i in range(axis.shape[0]):
        side = axis[i]
        a, b, c, d = free[i, 0, 0], free[i, 0, 1], free[i, 1, 0], free[i, 1, 1]
        e, f = push[i, 0, 0], push[i, 1, 0]
        for k in range(U.shape[1]):
            q, v, force = state[2 * i, k], state[2 * i + 1, k], F[side, k]
            moved = a * q + b * v + e * force
            state[2 * i, k] = moved
            state[2 * i + 1, k] = c * q + d * v + f * force
            U[side, k] += moved


@machine_code(**_options)
def _against(H, step, group, past, ago, w, U, S, R):  # type: ignore[no-untyped-def]
    """Adds what one delay asks for: coefficients S and force R against the surface that was left `ago`, w before it."""
    before = ago - 1 if w > 0.0 else ago
    shared = H.shape[3] == 1
    for k in range(U.shape[1]):
        own = 0 if shared else k
        x = U[0, k] - past[ago, 0, k] - w * (past[before, 0, k] - past[ago, 0, k])
        y = U[1, k] - past[ago, 1, k] - w * (past[before, 1, k] - past[ago, 1, k])
        xx, xy = H[step, group, 0, own], H[step, group, 1, own]
        yx, yy = H[step, group, 2, own], H[step, group, 3, own]
        S[0, k] += xx
        S[1, k] += xy
        S[2, k] += yx
        S[3, k] += yy
        R[0, k] += xx * x + xy * y
        R[1, k] += yx * x + yy * y


@machine_code(**_options)
def _force(depths, gx, gy, S, R, F):  # type: ignore[no-untyped-def]
    """Force at the end of the step, which itself bends the tip by gx and gy."""
    for k in range(depths.shape[0]):
        depth = depths[k]
        xx, xy = 1.0 + depth * S[0, k] * gx, depth * S[1, k] * gy
        yx, yy = depth * S[2, k] * gx, 1.0 + depth * S[3, k] * gy
        share = -depth / (xx * yy - xy * yx)
        F[0, k] = share * (R[0, k] * yy - R[1, k] * xy)
        F[1, k] = share * (R[1, k] * xx - R[0, k] * yx)


@machine_code(
    "void(f8[:,:,:,::1], b1[:,::1], f8[:,:,::1], f8[:,:,::1], i8[::1], f8[::1], f8[::1], f8, f8[:,:,::1], i8, "
    "f8[:,::1], f8[:,:,::1])",
    **_options,
)
def _carry(H, cuts, free, push, axis, late, depths, unit, V, vector, room, past):  # type: ignore[no-untyped-def]
    """Carries one vector of every depth over a period and puts the next there.

    V (depths, vectors, size): states, as `lesna.physics.structure.floquet.one_period` holds them. room (2 modes + 10, depths),
    past (length + steps, 2, depths): scratch.
    """
    steps, groups = cuts.shape
    modes, count = axis.shape[0], depths.shape[0]
    length = past.shape[0] - steps
    state, F, U = room[: 2 * modes], room[2 * modes : 2 * modes + 2], room[2 * modes + 2 : 2 * modes + 4]
    S, R = room[2 * modes + 4 : 2 * modes + 8], room[2 * modes + 8 :]
    for k in range(count):
        for i in range(2 * modes):
            state[i, k] = V[k, vector, i]
        for side in range(2):
            F[side, k] = unit * V[k, vector, 2 * modes + side]
            for m in range(length):
                past[length - 1 - m, side, k] = V[k, vector, 2 * modes + 2 + 2 * m + side]
    gx = gy = 0.0
    for i in range(modes):
        if axis[i] == 0:
            gx += push[i, 0, 1]
        else:
            gy += push[i, 0, 1]
    for step in range(steps):
        new = length + step
        _swing(free, push, axis, state, F, U)
        S[:] = 0.0
        R[:] = 0.0
        cutting = False
        for group in range(groups):
            if cuts[step, group]:
                cutting = True
                whole = int(late[group])
                _against(H, step, group, past, new - whole, late[group] - whole, U, S, R)
        if cutting:
            _force(depths, gx, gy, S, R, F)
            for i in range(modes):
                side, a, b = axis[i], push[i, 0, 1], push[i, 1, 1]
                for k in range(count):
                    state[2 * i, k] += a * F[side, k]
                    state[2 * i + 1, k] += b * F[side, k]
        else:
            F[:] = 0.0
        for k in range(count):
            past[new, 0, k] = U[0, k] + gx * F[0, k]
            past[new, 1, k] = U[1, k] + gy * F[1, k]
    for k in range(count):
        for i in range(2 * modes):
            V[k, vector + 1, i] = state[i, k]
        for side in range(2):
            V[k, vector + 1, 2 * modes + side] = F[side, k] / unit
            for m in range(length):
                V[k, vector + 1, 2 * modes + 2 + 2 * m + side] = past[length + steps - 1 - m, side, k]


@machine_code("b1(f8[:,:,::1], i8, i8, f8[:,:,::1])", **_options)
def _orthogonal(V, k, vector, T):  # type: ignore[no-untyped-def]
    """Takes the former vectors out of a new one, twice for the rounding; false where it grew past all numbers."""
    size = V.shape[2]
    for _again in range(2):
        for i in range(vector + 1):
            dot = 0.0
            for m in range(size):
                dot += V[k, i, m] * V[k, vector + 1, m]
            T[k, i, vector] += dot
            for m in range(size):
                V[k, vector + 1, m] -= dot * V[k, i, m]
    norm = 0.0
    for m in range(size):
        norm += V[k, vector + 1, m] * V[k, vector + 1, m]
    norm = np.sqrt(norm)
    if not np.isfinite(norm):
        return False
    # a space that is used up ends here: what follows stays 0 and adds only multipliers of 0
    scale = 1.0 / norm if norm > 1e-13 else 0.0
    if vector + 1 < T.shape[1]:
        T[k, vector + 1, vector] = norm * (scale > 0.0)
    for m in range(size):
        V[k, vector + 1, m] *= scale
    return True


@machine_code(
    "void(f8[::1], f8[::1], f8[:,:,::1], f8[:,:,::1], i8[::1], f8[::1], f8[::1], f8, i8, f8, f8[::1], f8[::1], "
    "f8[:,:,::1], b1[::1])",
    **_options,
)
def _pictures(places, cut, free, push, axis, late, depths, unit, steps, wide, lags, seed, T, beyond):  # type: ignore[no-untyped-def] # fmt: skip
    """Arnoldi iteration at every depth: T (depths, order, order), and which depths grew past all numbers."""
    size, order, count = seed.shape[0], T.shape[1], depths.shape[0]
    groups = late.shape[0]
    V = np.zeros((count, order + 1, size))
    past = np.zeros(((size - 2 * axis.shape[0] - 2) // 2 + steps, 2, count))
    room = np.zeros((2 * axis.shape[0] + 10, count))
    H, cuts = np.empty((steps, groups, 4, lags.shape[0])), np.empty((steps, groups), dtype=np.bool_)
    _coefficients(places, cut, wide, lags, H, cuts)
    T[:] = 0.0
    beyond[:] = False
    for k in range(count):
        V[k, 0] = seed
    for vector in range(order):
        _carry(H, cuts, free, push, axis, late, depths, unit, V, vector, room, past)
        for k in range(count):
            if beyond[k] or not _orthogonal(V, k, vector, T):
                beyond[k] = True
                V[k, vector + 1] = 0.0


def run_largest_multiplier(dynamics: Dynamics, n: float, depths: Array, strengths: Array) -> Array:
    """The multiplier of greatest modulus at some depths (see `lesna.physics.structure.floquet.largest`)."""
    from lesna.physics.structure import floquet

    steps = floquet.steps_of(dynamics, n)
    free, push, axis = floquet.propagators(dynamics, n, steps)
    late = floquet.delays(dynamics, steps)
    length = int(np.ceil(late.max())) + 1
    turn = 2 * np.pi / (dynamics.teeth if dynamics.is_even else 1)
    seed = np.random.default_rng(7).standard_normal(2 * len(axis) + 2 + 2 * length)
    places = 2 * np.pi * np.concatenate(([0.0], np.cumsum(dynamics.shares[1:])))
    start, end = dynamics.window
    cut = np.array([start, end, dynamics.Kt, dynamics.Kr, np.sin(2 * start), np.cos(2 * start)])
    unit = 1000.0 * (*dynamics.x, *dynamics.y)[0].stiffness
    order = min(_KRYLOV, len(seed) - 1)
    T, beyond = np.empty((len(depths), order, order)), np.empty(len(depths), dtype=bool)
    ap = np.ascontiguousarray(strengths)
    lags = dynamics.lead * np.ascontiguousarray(depths)
    for first in range(0, len(ap), _TOGETHER):
        part = slice(first, first + _TOGETHER)
        _pictures(
            places, cut, free, push, axis, late, ap[part], unit, steps, turn / steps,
            lags[part] if dynamics.lead > 0 else lags[:1], seed / np.linalg.norm(seed), T[part], beyond[part],
        )  # fmt: skip
    T[beyond] = 0.0
    values = np.linalg.eigvals(T)
    found = values[np.arange(len(ap)), np.argmax(np.abs(values), axis=1)].astype(complex)
    found[beyond] = _BEYOND
    return found
