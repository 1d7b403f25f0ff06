"""Largest multiplier of a milling cut, compiled; the plain reference is `lesna.physics.floquet.largest_plain`."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from lesna.physics import Array
from lesna.physics.stability import Dynamics

#: size of the Krylov space in which the largest multiplier is sought
_KRYLOV = 24

#: stands for a multiplier beyond all numbers
_BEYOND = 1e12

_options: Any = {"cache": True, "nogil": True, "error_model": "numpy"}


@njit("void(f8, f8, f8, f8, f8, f8[::1])", **_options)
def _twice(phi, start, end, Kt, Kr, out):  # type: ignore[no-untyped-def]
    """Second integral of a windowed tooth's H, from the beginning of the window."""
    if phi <= start:
        out[:] = 0.0
        return
    at = min(phi, end)
    s0, c0, s1, c1 = np.sin(2 * start), np.cos(2 * start), np.sin(2 * at), np.cos(2 * at)
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


@njit("void(f8[::1], f8[::1], f8, f8, f8[:,:,::1])", **_options)
def _coefficients(places, cut, wide, lag, H):  # type: ignore[no-untyped-def]
    """Averages over step and depth; cut: start, end, Kt, Kr. H (steps, delays, 4)."""
    steps, groups = H.shape[0], H.shape[1]
    part = np.zeros(4)
    H[:] = 0.0
    lag = max(lag, 1e-3)
    images = 2 + int(lag / (2 * np.pi))
    for step in range(steps):
        for tooth in range(places.shape[0]):
            phi = (wide * (step + 1) - places[tooth]) % (2 * np.pi)
            group = tooth if groups > 1 else 0
            for image in range(-1, images):
                at = phi + 2 * np.pi * image
                if at + wide < cut[0] or at - lag - wide > cut[1]:
                    continue
                for corner in range(4):
                    shift = wide / 2 if corner % 2 == 0 else -wide / 2
                    if corner >= 2:
                        shift -= lag
                    sign = 1.0 if corner == 0 or corner == 3 else -1.0
                    _twice(at + shift, cut[0], cut[1], cut[2], cut[3], part)
                    for m in range(4):
                        H[step, group, m] += sign * part[m] / (wide * lag)


@njit("void(f8[:,:,::1], f8[:,:,::1], f8[:,:,::1], i8[::1], f8[::1], f8, f8, f8[::1], f8[::1], f8[:,::1])", **_options)
def _carry(H, free, push, axis, late, depth, unit, state, out, past):  # type: ignore[no-untyped-def]
    """Carries one state over a period; past (length + steps, 2) is scratch."""
    steps, groups = H.shape[0], H.shape[1]
    modes = axis.shape[0]
    length = past.shape[0] - steps
    fx, fy = unit * state[2 * modes], unit * state[2 * modes + 1]
    for k in range(length):
        past[length - 1 - k, 0] = state[2 * modes + 2 + 2 * k]
        past[length - 1 - k, 1] = state[2 * modes + 3 + 2 * k]
    for i in range(2 * modes):
        out[i] = state[i]
    gx = gy = 0.0
    for i in range(modes):
        if axis[i] == 0:
            gx += push[i, 0, 1]
        else:
            gy += push[i, 0, 1]
    for step in range(steps):
        ux = uy = 0.0
        for i in range(modes):
            f = fx if axis[i] == 0 else fy
            q, v = out[2 * i], out[2 * i + 1]
            out[2 * i] = free[i, 0, 0] * q + free[i, 0, 1] * v + push[i, 0, 0] * f
            out[2 * i + 1] = free[i, 1, 0] * q + free[i, 1, 1] * v + push[i, 1, 0] * f
            if axis[i] == 0:
                ux += out[2 * i]
            else:
                uy += out[2 * i]
        hxx = hxy = hyx = hyy = 0.0
        rx = ry = 0.0
        new = length + step
        for d in range(groups):
            a, b, c, e = H[step, d, 0], H[step, d, 1], H[step, d, 2], H[step, d, 3]
            if a == 0.0 and b == 0.0 and e == 0.0:
                continue
            whole = int(late[d])
            w = late[d] - whole
            ago = new - whole
            x, y = past[ago, 0], past[ago, 1]
            if w > 0.0:
                x += w * (past[ago - 1, 0] - x)
                y += w * (past[ago - 1, 1] - y)
            hxx, hxy, hyx, hyy = hxx + a, hxy + b, hyx + c, hyy + e
            rx += a * (ux - x) + b * (uy - y)
            ry += c * (ux - x) + e * (uy - y)
        sxx, sxy = 1.0 + depth * hxx * gx, depth * hxy * gy
        syx, syy = depth * hyx * gx, 1.0 + depth * hyy * gy
        det = sxx * syy - sxy * syx
        fx = -depth * (rx * syy - ry * sxy) / det
        fy = -depth * (ry * sxx - rx * syx) / det
        for i in range(modes):
            f = fx if axis[i] == 0 else fy
            out[2 * i] += push[i, 0, 1] * f
            out[2 * i + 1] += push[i, 1, 1] * f
        past[new, 0] = ux + gx * fx
        past[new, 1] = uy + gy * fy
    out[2 * modes], out[2 * modes + 1] = fx / unit, fy / unit
    for k in range(length):
        out[2 * modes + 2 + 2 * k] = past[length + steps - 1 - k, 0]
        out[2 * modes + 3 + 2 * k] = past[length + steps - 1 - k, 1]


@njit(
    "void(f8[::1], f8[::1], f8[:,:,::1], f8[:,:,::1], i8[::1], f8[::1], f8[::1], f8, i8, i8, f8, f8, f8[::1], c16[::1])",
    **_options,
)
def _largest(places, cut, free, push, axis, late, depths, unit, steps, groups, wide, lead, seed, found):  # type: ignore[no-untyped-def] # fmt: skip
    """Arnoldi iteration at every depth: the Ritz value of greatest modulus."""
    size = seed.shape[0]
    order = min(_KRYLOV, size - 1)
    V = np.zeros((order + 1, size))
    past = np.zeros(((size - 2 * axis.shape[0] - 2) // 2 + steps, 2))
    H = np.zeros((steps, groups, 4))
    _coefficients(places, cut, wide, 0.0, H)
    for place in range(depths.shape[0]):
        depth = depths[place]
        if lead > 0.0:
            _coefficients(places, cut, wide, lead * depth, H)
        T = np.zeros((order + 1, order))
        V[0] = seed
        reached = order
        for k in range(order):
            _carry(H, free, push, axis, late, depth, unit, V[k], V[k + 1], past)
            for _again in range(2):
                for i in range(k + 1):
                    dot = 0.0
                    for m in range(size):
                        dot += V[i, m] * V[k + 1, m]
                    T[i, k] += dot
                    for m in range(size):
                        V[k + 1, m] -= dot * V[i, m]
            norm = 0.0
            for m in range(size):
                norm += V[k + 1, m] * V[k + 1, m]
            norm = np.sqrt(norm)
            if not np.isfinite(norm):
                reached = 0  # grew past all numbers within a period
                break
            T[k + 1, k] = norm
            if norm < 1e-13:
                reached = k + 1
                break
            for m in range(size):
                V[k + 1, m] /= norm
        if reached == 0:
            found[place] = _BEYOND
            continue
        values = np.linalg.eigvals(T[:reached, :reached].astype(np.complex128))
        best = values[0]
        for value in values:
            if abs(value) > abs(best):
                best = value
        found[place] = best


def run_largest_multiplier(dynamics: Dynamics, n: float, depths: Array) -> Array:
    """The multiplier of greatest modulus at some depths (see `lesna.physics.floquet.largest`).

    Parameters
    ----------
    dynamics : Dynamics
        The cut.
    n : float
        Spindle speed [1/min].
    depths : array (k,)
        Axial depths [mm].

    Returns
    -------
    array (k,)
        Complex multipliers [-].
    """
    from lesna.physics import floquet

    steps = floquet.steps_of(dynamics, n)
    free, push, axis = floquet.propagators(dynamics, n, steps)
    late = floquet.delays(dynamics, steps)
    length = int(np.ceil(late.max())) + 1
    turn = 2 * np.pi / (dynamics.teeth if dynamics.is_even else 1)
    seed = np.random.default_rng(7).standard_normal(2 * len(axis) + 2 + 2 * length)
    found = np.empty(len(depths), dtype=complex)
    places = 2 * np.pi * np.concatenate(([0.0], np.cumsum(dynamics.shares[1:])))
    cut = np.array([*dynamics.window, dynamics.Kt, dynamics.Kr])
    unit = 1000.0 * (*dynamics.x, *dynamics.y)[0].stiffness
    _largest(
        places, cut, free, push, axis, late, np.ascontiguousarray(depths), unit, steps, len(late), turn / steps,
        dynamics.lead, seed / np.linalg.norm(seed), found,
    )  # fmt: skip
    return found
