"""Speeds and times of a drive that looks ahead, limited in acceleration and jerk; one pass back and one forward."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy"}
#: halvings that find a speed
_HALVINGS = 24


@machine_code("f8(f8,f8,f8,f8)", **_OPTIONS)
def _change(v, w, a, j):  # type: ignore[no-untyped-def]
    """Time to go from speed v to w with acceleration a and jerk j."""
    d = abs(w - v)
    if d <= 0.0:
        return 0.0
    if d >= a * a / j:
        return d / a + a / j
    return 2.0 * np.sqrt(d / j)


@machine_code("f8(f8,f8,f8,f8,f8)", **_OPTIONS)
def _reach(v, top, length, a, j):  # type: ignore[no-untyped-def]
    """Fastest speed up to `top` that is reached from v over a length."""
    if top <= v or 0.5 * (v + top) * _change(v, top, a, j) <= length:
        return top
    low, high = v, min(top, np.sqrt(v * v + 2.0 * a * length))
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        if 0.5 * (v + middle) * _change(v, middle, a, j) <= length:
            low = middle
        else:
            high = middle
    return low


@machine_code("void(f8[::1],f8[::1],f8[::1],f8[::1],f8,f8[::1],f8[::1],f8[::1])", **_OPTIONS)
def run_motion_times(length, wanted, joint, acceleration, jerk, speed, peak, time):  # type: ignore[no-untyped-def]
    """Fills speeds at the joints, the fastest speed and the time of each segment.

    length (n,), wanted (n,) speeds that are asked for, joint (n + 1,) fastest speeds at the joints, acceleration (n,), jerk;
    speed (n + 1,), peak (n,), time (n,) are filled. All in mm and s.
    """
    n = length.shape[0]
    speed[n] = joint[n]
    for k in range(n - 1, -1, -1):
        speed[k] = min(joint[k], wanted[k])
        if k > 0:
            speed[k] = min(speed[k], wanted[k - 1])
        after = min(speed[k + 1], wanted[k])
        speed[k] = min(speed[k], _reach(after, max(speed[k], after), length[k], acceleration[k], jerk))
    for k in range(n):
        v = min(speed[k], wanted[k])
        most = _reach(v, max(min(speed[k + 1], wanted[k]), v), length[k], acceleration[k], jerk)
        speed[k + 1] = min(speed[k + 1], most)
        w = min(speed[k + 1], wanted[k])
        top, a = wanted[k], acceleration[k]
        way = 0.5 * (v + top) * _change(v, top, a, jerk) + 0.5 * (top + w) * _change(top, w, a, jerk)
        if way > length[k]:
            low, high = max(v, w), top
            for _ in range(_HALVINGS):
                middle = 0.5 * (low + high)
                way = 0.5 * (v + middle) * _change(v, middle, a, jerk) + 0.5 * (middle + w) * _change(
                    middle, w, a, jerk
                )
                if way <= length[k]:
                    low = middle
                else:
                    high = middle
            top = low
            way = 0.5 * (v + top) * _change(v, top, a, jerk) + 0.5 * (top + w) * _change(top, w, a, jerk)
        peak[k] = top
        rest = max(length[k] - way, 0.0)
        time[k] = _change(v, top, a, jerk) + _change(top, w, a, jerk) + (rest / top if top > 0.0 else 0.0)
        if top <= 0.0 and length[k] > 0.0:
            time[k] = 2.0 * np.sqrt(2.0 * length[k] / a)
