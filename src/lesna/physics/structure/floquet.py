"""Sure stability of a milling cut: the largest multiplier of one period of the delayed motion.

The structure moves exactly between steps, the cutting force is held linearly over each step, and the directional
coefficients are averaged over it: a semi-discretisation after Insperger and Stepan 2004 with a first-order hold. Any
immersion, unequal pitch (one delay for each) and helix are covered. `largest` runs plain or compiled.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from lesna.physics import Array, engine
from lesna.physics.structure.beam import Mode
from lesna.physics.structure.stability import Dynamics, Edge

#: steps for one swing of the fastest mode, least and most steps between two teeth
_PER_SWING, _LEAST, _MOST = 24, 36, 600
#: a mode damped beyond this no longer swings but creeps, and asks for fewer steps by this share
_HELD, _CREEPING = 0.4, 0.25
#: vectors carried along to catch the largest multiplier, and periods they are carried over
_CARRIED, _PERIODS = 8, 8
#: depths looked at in each round of narrowing the boundary
_DEPTHS = (8, 5)
#: shallowest depth of the search, as a share of the deepest
_SHALLOWEST = 1.0 / 400


def largest(dynamics: Dynamics, n: float, depths: Array, strengths: Array | None = None) -> Array:
    """The multiplier of greatest modulus at some depths; below 1 the cut is stable.

    References
    ----------
    Insperger, T. and Stepan, G. 2004, Updated semi-discretization method for periodic delay-differential equations
    with discrete delay, Int. J. Numer. Methods Eng. 61.
    """
    run = engine.kernel_if_loaded("largest_multiplier") or largest_plain
    depths = np.asarray(depths, dtype=float)
    return np.asarray(run(dynamics, n, depths, depths if strengths is None else np.asarray(strengths, dtype=float)))


def period_of(dynamics: Dynamics, n: float) -> float:
    """Time after which the cut repeats: a tooth, or a turn of unequal teeth."""
    return 60.0 / n / (dynamics.teeth if dynamics.is_even else 1)


def steps_of(dynamics: Dynamics, n: float) -> int:
    """Steps of one period, fine enough for the fastest mode and for short contacts."""
    tooth = 60.0 / n / dynamics.teeth
    fastest = max(m.frequency * (1.0 if m.zeta < _HELD else _CREEPING) for m in (*dynamics.x, *dynamics.y))
    for_one = int(min(max(_PER_SWING * fastest * tooth, _LEAST), _MOST))
    return for_one if dynamics.is_even else for_one * dynamics.teeth


def propagators(dynamics: Dynamics, n: float, steps: int) -> tuple[Array, Array, Array]:
    """How every mode moves over a step: free motion, and what a force held linearly adds.

    Velocities are scaled by the natural frequency, so that both states of a mode are lengths.
    """
    step = period_of(dynamics, n) / steps
    axis = np.array([0] * len(dynamics.x) + [1] * len(dynamics.y))
    free, push = (np.empty((len(axis), 2, 2)) for _ in range(2))
    for place, mode in enumerate((*dynamics.x, *dynamics.y)):
        free[place], push[place] = _swing(mode, step)
    return free, push, axis


def _swing(mode: Mode, step: float) -> tuple[Array, Array]:
    w = 2 * np.pi * mode.frequency
    A = np.array([[0.0, w], [-w, -2 * mode.zeta * w]])
    wd = w * np.sqrt(1 - mode.zeta**2)
    decay, angle = np.exp(-mode.zeta * w * step), wd * step
    free = decay * (np.cos(angle) * np.eye(2) + np.sin(angle) / wd * (A + mode.zeta * w * np.eye(2)))
    b = np.array([0.0, w / (1000.0 * mode.stiffness)])
    inverse = np.linalg.inv(A)
    whole = inverse @ (free - np.eye(2)) @ b
    rising = inverse @ inverse @ (free - np.eye(2) - A * step) @ b / step
    return free, np.column_stack((whole - rising, rising))


def _twice(phi: Array, window: tuple[float, float], Kt: float, Kr: float) -> Array:
    """Second integral of a windowed tooth's H, from the beginning of the window (4, ...)."""
    start, end = window

    def inside(at: Array) -> Array:
        ss, cc, sc = at**2 / 4 + np.cos(2 * at) / 8, at**2 / 4 - np.cos(2 * at) / 8, -np.sin(2 * at) / 8
        return np.stack((Kt * sc + Kr * ss, Kt * cc + Kr * sc, Kr * sc - Kt * ss, Kr * cc - Kt * sc))

    def once(at: Array) -> Array:
        ss, cc, sc = at / 2 - np.sin(2 * at) / 4, at / 2 + np.sin(2 * at) / 4, -np.cos(2 * at) / 4
        return np.stack((Kt * sc + Kr * ss, Kt * cc + Kr * sc, Kr * sc - Kt * ss, Kr * cc - Kt * sc))

    held = np.clip(phi, start, end)
    first, last = np.array(start), np.array(end)
    shape = (4,) + (1,) * np.ndim(phi)
    slope = once(first).reshape(shape)
    value = inside(held) - inside(first).reshape(shape) - slope * (held - start)
    return value + (once(last).reshape(shape) - slope) * np.maximum(phi - end, 0.0)


#: a lag below this is no lag, and a force is averaged over no less than this angle [rad]
_NO_LAG = 1e-3


def coefficients(dynamics: Dynamics, depths: Array, steps: int) -> Array:
    """Directional coefficients at every step, averaged over the step and over the depth."""
    turn = 2 * np.pi / (dynamics.teeth if dynamics.is_even else 1)
    wide = turn / steps
    places = 2 * np.pi * np.concatenate(([0.0], np.cumsum(dynamics.shares[1:])))
    theta = turn * np.arange(1, steps + 1) / steps
    phi = (theta[:, None] - places[None, :]) % (2 * np.pi)
    lag = np.maximum(dynamics.lead * depths, _NO_LAG)[:, None, None]
    total = np.zeros((4, len(depths), steps, dynamics.teeth))
    for image in range(-1, 2 + int(lag.max() // (2 * np.pi))):  # half a step may lie in the next turn
        at = phi[None] + 2 * np.pi * image
        for sign, shift in ((1, wide / 2), (-1, -wide / 2), (-1, wide / 2 - lag), (1, -wide / 2 - lag)):
            total += sign * _twice(at + shift, dynamics.window, dynamics.Kt, dynamics.Kr)
    total /= wide * lag
    if dynamics.is_even:
        total = total.sum(axis=3, keepdims=True)
    return np.moveaxis(total, 0, -1)


def delays(dynamics: Dynamics, steps: int) -> Array:
    """Delay of each group of teeth."""
    return np.array([float(steps)]) if dynamics.is_even else dynamics.shares * steps


def largest_plain(dynamics: Dynamics, n: float, depths: Array, strengths: Array) -> Array:
    """The same in plain NumPy: a block of vectors carried over some periods, then its Ritz values."""
    steps = steps_of(dynamics, n)
    modes = len(dynamics.x) + len(dynamics.y)
    late = delays(dynamics, steps)
    length = int(np.ceil(late.max())) + 1
    H = coefficients(dynamics, depths, steps)
    size = 2 * modes + 2 + 2 * length
    start = np.random.default_rng(7).standard_normal((size, _CARRIED))
    block = np.broadcast_to(np.linalg.qr(start)[0], (len(depths), size, _CARRIED))
    moved = block
    for _ in range(_PERIODS):
        block = np.linalg.qr(moved)[0]
        moved = one_period(dynamics, n, strengths, H, block)
    small = np.swapaxes(block, 1, 2) @ moved
    small = np.where(np.isfinite(small), small, 1e12)  # grew past all numbers within a period
    values = np.linalg.eigvals(small)
    pick = np.argmax(np.abs(values), axis=1)
    return np.asarray(values[np.arange(len(depths)), pick], dtype=complex)


def one_period(dynamics: Dynamics, n: float, depths: Array, H: Array, block: Array) -> Array:
    """Carries states over one period.

    A state holds both states of every mode, the force of the last step (in units of the first mode's stiffness), and
    the tip's displacements from the newest back.
    """
    steps = H.shape[1]
    free, push, axis = propagators(dynamics, n, steps)
    late = delays(dynamics, steps)
    modes = len(axis)
    length = (block.shape[1] - 2 * modes - 2) // 2
    unit = 1000.0 * (*dynamics.x, *dynamics.y)[0].stiffness
    q, v = block[:, 0 : 2 * modes : 2].copy(), block[:, 1 : 2 * modes : 2].copy()
    force = unit * block[:, 2 * modes : 2 * modes + 2]
    past = np.empty((length + steps, *block.shape[:1], 2, block.shape[2]))
    past[:length] = np.moveaxis(block[:, 2 * modes + 2 :].reshape(block.shape[0], length, 2, -1)[:, ::-1], 1, 0)
    own = [np.flatnonzero(axis == side) for side in (0, 1)]
    give = np.array([push[o, 0, 1].sum() for o in own])
    whole = np.floor(late).astype(int)
    part = late - whole
    a = depths[:, None, None]
    for step in range(steps):
        pushed = force[:, axis]
        q1 = free[:, 0, 0, None] * q + free[:, 0, 1, None] * v + push[:, 0, 0, None] * pushed
        v1 = free[:, 1, 0, None] * q + free[:, 1, 1, None] * v + push[:, 1, 0, None] * pushed
        u = np.stack([q1[:, o].sum(axis=1) for o in own], axis=1)
        new = length + step
        h = H[:, step].reshape(len(depths), -1, 2, 2)
        rhs = h.sum(axis=1) @ u
        for d in range(len(late)):
            ago = new - whole[d]
            then = past[ago] if part[d] == 0 else (1 - part[d]) * past[ago] + part[d] * past[ago - 1]
            rhs = rhs - h[:, d] @ then
        sides = np.eye(2) + a * h.sum(axis=1) * give[None, None, :]
        force = np.linalg.solve(sides, -a * rhs)
        pushed = force[:, axis]
        q, v = q1 + push[:, 0, 1, None] * pushed, v1 + push[:, 1, 1, None] * pushed
        past[new] = u + give[None, :, None] * force
    out = np.empty_like(block)
    out[:, 0 : 2 * modes : 2], out[:, 1 : 2 * modes : 2] = q, v
    out[:, 2 * modes : 2 * modes + 2] = force / unit
    newest = past[steps:][::-1]
    out[:, 2 * modes + 2 :] = np.moveaxis(newest, 0, 1).reshape(block.shape[0], 2 * length, -1)
    return out


def sure(dynamics: Dynamics, n: Array, deepest: float, progress: Callable[[int, int], None] | None = None) -> Edge:
    """Boundary at some speeds, traced at each by narrowing the depth at which the largest multiplier reaches 1."""
    ap, frequency = np.full(len(n), np.inf), np.zeros(len(n))
    for place, speed in enumerate(n):
        low, high = deepest * _SHALLOWEST, deepest
        mu = None
        for count in _DEPTHS:
            depths = np.geomspace(low, high, count)
            found = largest(dynamics, float(speed), depths)
            over = np.flatnonzero(np.abs(found) >= 1.0)
            if len(over) == 0:
                break
            first = int(over[0])
            mu = found[first]
            if first == 0:
                low, high = depths[0] / 4, depths[0]
                ap[place] = depths[0]
                continue
            low, high = float(depths[first - 1]), float(depths[first])
            before, after = np.log(np.abs(found[first - 1])), np.log(np.abs(found[first]))
            ap[place] = low + (high - low) * float(-before / (after - before))
        if mu is not None:
            frequency[place] = chatter_frequency(dynamics, float(speed), complex(mu))
        if progress is not None:
            progress(place + 1, len(n))
    return Edge(np.asarray(n, dtype=float), ap, frequency)


def chatter_frequency(dynamics: Dynamics, n: float, mu: complex) -> float:
    """Frequency of the growing motion, of all its aliases the one nearest above a mode."""
    base = 1.0 / period_of(dynamics, n)
    angle = abs(np.angle(mu)) / (2 * np.pi)
    modes = sorted((mode.stiffness * mode.zeta, mode.frequency) for mode in (*dynamics.x, *dynamics.y))
    weakest = modes[0][1]
    aliases = np.concatenate([base * (np.arange(0, int(3 * weakest / base) + 3) + s * angle) for s in (1, -1)])
    return float(aliases[np.argmin(np.abs(aliases - 1.02 * weakest))])
