"""Speed, feed and removal rate (physics.md section 2), also on machines that have only steps."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num


def spindle_speed(vc: Num, d_eff: Num) -> Num:
    """Spindle speed that gives a surface speed: ``n = 1000 vc / (pi Deff)``.

    References
    ----------
    ISO 3002-3, clause on cutting speed.

    Examples
    --------
    >>> round(float(spindle_speed(190.0, 12.0)), 1)
    5039.9
    """
    return 1000.0 * vc / (np.pi * d_eff)


def surface_speed(n: Num, d_eff: Num) -> Num:
    """Surface speed at a spindle speed: ``vc = pi Deff n / 1000``.

    Parameters
    ----------
    n : float or array
        Spindle speed [1/min].
    d_eff : float or array
        Largest diameter that touches material [mm].

    Returns
    -------
    float or array
        Surface speed [m/min].
    """
    return np.pi * d_eff * n / 1000.0


def feed_speed(n: Num, z: Num, fz: Num) -> Num:
    """Feed speed of the tool centre: ``vf = n z fz``."""
    return n * z * fz


def removal_rate(ae: Num, ap: Num, vf: Num) -> Num:
    """Removal rate of a straight full-profile cut: ``Q = ae ap vf / 1000``."""
    return ae * ap * vf / 1000.0


def step_at_most(wanted: Num, steps: tuple[float, ...]) -> Num:
    """Nearest step of a stepped machine that does not exceed what is wanted, at least the lowest.

    Examples
    --------
    >>> float(step_at_most(1000.0, (560.0, 900.0, 1400.0)))
    900.0
    """
    if not steps:
        return wanted
    table = np.asarray(steps, dtype=float)
    place = np.searchsorted(table, np.asarray(wanted) * (1 + 1e-9), side="right") - 1
    return table[np.maximum(place, 0)]


def stopwatch_difference(distance: Num, seconds: Num, vf: Num) -> Num:
    """How far a timed feed is from the programmed one, as a share of it.

    Examples
    --------
    >>> round(float(stopwatch_difference(100.0, 6.0, 950.0)), 4)
    0.0526
    """
    return distance / seconds * 60.0 / vf - 1.0
