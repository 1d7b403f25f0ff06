"""Measured frequency responses: modes fitted to them, and what a tap test makes of its hits."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array
from lesna.physics.structure.beam import Mode

#: share of the force range that a clean hit stays below, and of its peak that a second hit may reach
_CLIPPED, _SECOND_HIT = 0.985, 0.12
#: part of the record after the hit in which a second one is sought, and shares that make a hit too weak or unsteady
_QUIET_AFTER, _WEAK = 0.004, 0.05
#: peaks that stand less than this over the largest are left to noise
_LEAST_PEAK = 0.04
#: share of the residual that one mode more must not leave
_BETTER = 0.85
#: logarithm beyond which no step of a fit is followed
_FURTHEST = 60.0
#: damping ratios that a tool can have
_DAMPING = (1e-3, 0.9)
#: frequencies a fit needs, and how many it takes at most
LEAST_LINES, _MOST_LINES = 24, 4000


@dataclass(frozen=True)
class Fit:
    """Modes and how well they stand for the measurement.

    Attributes
    ----------
    modes : tuple of Mode
        Rising in frequency.
    residual : float
        Norm of what the modes leave over that of the measurement, 0 to 1 [-].
    """

    modes: tuple[Mode, ...]
    residual: float


def fit_modes(f: Array, H: Array, most: int = 3) -> Fit:
    """Modes of a measured receptance: peaks of its imaginary part, then least squares over real and imaginary part."""
    from scipy.optimize import least_squares

    if len(f) < LEAST_LINES:
        raise ValueError(f"needs at least {LEAST_LINES} frequencies, got {len(f)}")
    f, H = _averaged(f, H)
    starts = _starts(f, H, most)
    if not starts:
        raise ValueError(
            "shows no peak in its imaginary part; a driving-point receptance has a downward one at each mode"
        )
    values = np.empty(0)
    residual = 1.0
    for count in range(1, len(starts) + 1):
        rows = [[np.log(m.frequency), np.log(m.stiffness), np.log(m.zeta)] for m in starts[:count]]
        tried = least_squares(left_over, np.array(rows).ravel(), slopes_of, args=(f, H), max_nfev=200, method="lm").x
        left = float(np.linalg.norm(_sum(f, tried) - H) / np.linalg.norm(H))
        if left > _BETTER * residual:
            break  # one more mode tells hardly more: it would stand for noise
        values, residual = tried, left
    if not len(values):
        raise ValueError("is not that of modes")
    rows_found = np.exp(values.reshape(-1, 3))
    modes = sorted((Mode(*(float(v) for v in row)) for row in rows_found), key=lambda m: m.frequency)
    # what a fit spends on noise is no mode: outside the band, hardly damped or overdamped, or too low to be seen
    inside = [m for m in modes if f[0] < m.frequency < f[-1] and _DAMPING[0] < m.zeta < _DAMPING[1]]
    heights = [1 / (2 * m.zeta * m.stiffness) for m in inside]
    real = [m for m, height in zip(inside, heights, strict=True) if height > _LEAST_PEAK * max(heights)]
    return Fit(tuple(real), residual)


def _averaged(f: Array, H: Array) -> tuple[Array, Array]:
    """Neighbouring lines as one, where there are more than a fit needs: it takes its time with each of them."""
    share = -(-len(f) // _MOST_LINES)
    whole = len(f) // share * share
    return f[:whole].reshape(-1, share).mean(axis=1), H[:whole].reshape(-1, share).mean(axis=1)


def left_over(values: Array, f: Array, H: Array) -> Array:
    """What modes, given by the logarithms of their frequency, stiffness and damping, leave over the highest line (2 lines,) [-]."""
    rest = _sum(f, values) - H
    return np.concatenate((rest.real, rest.imag)) / np.abs(H).max()


def slopes_of(values: Array, f: Array, H: Array) -> Array:
    """How what is left changes with each logarithm (2 lines, 3 modes)."""
    columns = []
    for logs in values.reshape(-1, 3):
        mode, ratio, damped = _one(f, logs)
        below = 1 - ratio**2 + damped
        for log, slope in zip(logs, ((damped - 2 * ratio**2) / below, -1.0, -damped / below), strict=True):
            columns.append((abs(log) < _FURTHEST) * mode * slope)
    found = np.stack(columns, axis=1)
    return np.concatenate((found.real, found.imag)) / np.abs(H).max()


def _sum(f: Array, values: Array) -> Array:
    return np.asarray(sum((_one(f, logs)[0] for logs in values.reshape(-1, 3)), np.zeros(len(f), dtype=complex)))


def _one(f: Array, logs: Array) -> tuple[Array, Array, Array]:
    """Receptance of a mode by the logarithms of its frequency, stiffness and damping; f over its frequency, and what damping adds."""
    frequency, stiffness, zeta = np.exp(np.clip(logs, -_FURTHEST, _FURTHEST))
    ratio = f / frequency
    damped = 2j * zeta * ratio
    return 1.0 / stiffness / (1 - ratio**2 + damped), ratio, damped


def _starts(f: Array, H: Array, most: int) -> list[Mode]:
    """Local minima of the imaginary part, the deepest first, with the damping of their half width."""
    depth = -H.imag
    inner = np.flatnonzero((depth[1:-1] > depth[:-2]) & (depth[1:-1] >= depth[2:])) + 1
    peaks = sorted((int(i) for i in inner if depth[i] > _LEAST_PEAK * depth.max() > 0), key=lambda i: -depth[i])
    chosen: list[int] = []
    for i in peaks:
        if all(abs(f[i] / f[j] - 1) > 0.06 for j in chosen):
            chosen.append(i)
    modes = []
    for i in chosen[:most]:
        low, high = i, i
        while low > 0 and depth[low] > depth[i] / 2:
            low -= 1
        while high < len(f) - 1 and depth[high] > depth[i] / 2:
            high += 1
        zeta = min(max(float((f[high] - f[low]) / (2 * f[i])), 2e-3), 0.3)
        modes.append(Mode(float(f[i]), float(1 / (2 * zeta * depth[i])), zeta))
    return modes


def hit_problem(force: Array, response: Array, rate: float, span: float) -> str:
    """Why a hit cannot be used; empty for a good one."""
    peak, at = float(force.max()), int(np.argmax(force))
    if peak >= _CLIPPED * span:
        return f"clipped at {span:.0f} N: hit softer"
    if peak < _WEAK * span:
        return f"too weak, {peak:.0f} N: hit harder"
    later = force[at + int(_QUIET_AFTER * rate) :]
    if len(later) and float(later.max()) > _SECOND_HIT * peak:
        return "double hit: let the hammer bounce back"
    tail = response[-len(response) // 10 :]
    if float(np.abs(tail).max()) > 0.2 * float(np.abs(response).max()):
        return "the response has not died down when the record ends"
    return ""


def receptance_of(forces: Array, responses: Array, rate: float) -> tuple[Array, Array, Array]:
    """Averaged receptance of good hits and its coherence.

    ``H = S_fx / S_ff`` and ``gamma^2 = |S_fx|^2 / (S_ff S_xx)``, so noise in the response averages out.
    """
    F, X = np.fft.rfft(forces, axis=1), np.fft.rfft(responses, axis=1)
    s_ff, s_xx = (np.abs(F) ** 2).sum(axis=0), (np.abs(X) ** 2).sum(axis=0)
    s_fx = (np.conj(F) * X).sum(axis=0)
    f = np.fft.rfftfreq(forces.shape[1], 1.0 / rate)
    tiny = 1e-30
    return f, s_fx / (s_ff + tiny), np.abs(s_fx) ** 2 / (s_ff * s_xx + tiny)
