"""Undeformed chip thickness and the feed that holds it (physics.md section 4).

``x`` is the radial engagement over the effective diameter, ``s_k`` the sine of the lead angle.
"""

from __future__ import annotations

import numpy as np

from lesna.physics import Num
from lesna.physics.edge.engagement import engagement_angle

#: above this multiple of sqrt(ae D) the chip is as thick as the step lets it be
VERY_THIN = 0.1


def thickness_at(phi: Num, fz: Num, R: Num, z: Num) -> Num:
    """Chip thickness at an angle, normal to the flank: circle, or shifted circle where fz > 0.02 R.

    ``[R + fz sin - sqrt(R^2 - fz^2 cos^2)] / (1 + z fz cos / (2 pi R))``, within 0.3 % of the true trochoid
    for fz <= 0.04 R.
    """
    circle = fz * np.sin(phi)
    return np.where(fz > 0.02 * R, shifted_circle(phi, fz, R, z), circle)


def shifted_circle(phi: Num, fz: Num, R: Num, z: Num) -> Num:
    """Chip thickness between two circles one feed apart, with the turn of the tool during the feed."""
    root = np.sqrt(np.maximum(R**2 - (fz * np.cos(phi)) ** 2, 0.0))
    return (R + fz * np.sin(phi) - root) / (1 + z * fz * np.cos(phi) / (2 * np.pi * R))


def _thin_limit(x: Num, D: Num) -> Num:
    """Feed per tooth above which the very-thin-step formulas take over [mm]."""
    return np.where(x < 0.5, VERY_THIN * np.sqrt(x) * D, np.inf)


#: feeds over the limit up to which the exact formula comes in
_BLEND = 1.5
#: steps along chords with which a feed is found where both formulas are mixed: the mixture is nearly straight
_CHORDS = 30


def _thin_share(fz: Num, x: Num, D: Num) -> Num:
    """How much of the exact formula counts at a feed: none up to the limit of thin steps, all from 1.5 times it on [-]."""
    return np.clip((fz / _thin_limit(x, D) - 1.0) / (_BLEND - 1.0), 0.0, 1.0)


def _between(h: Num, x: Num, D: Num, low: Num, high: Num) -> Num:
    """Feed between two at which the chip has a thickness, where plain and exact formula are mixed [mm]."""
    low_h, high_h = (greatest_thickness(end, x, D, 1.0) - h for end in (low, high))
    for _ in range(_CHORDS):
        with np.errstate(divide="ignore", invalid="ignore"):
            at = np.where(high_h > low_h, low - low_h * (high - low) / (high_h - low_h), low)
        here = greatest_thickness(at, x, D, 1.0) - h
        over = here > 0
        # the end that stays counts for half, or the other would creep up on it (Illinois rule)
        low, low_h, high, high_h = (
            np.where(over, low, at), np.where(over, low_h / 2, here), np.where(over, at, high), np.where(over, here, high_h / 2),
        )  # fmt: skip
    return at


def _sine(x: Num) -> Num:
    """sin(min(phi_s, 90 deg)) [-]."""
    return np.where(x < 0.5, 2 * np.sqrt(np.maximum(x * (1 - x), 0.0)), 1.0)


def greatest_thickness(fz: Num, x: Num, D: Num, s_k: Num) -> Num:
    """Maximum undeformed chip thickness hex of a side cut.

    ``fz sin(kappa) sin(min(phi_s, pi/2))``; for very thin steps ``R - sqrt(R^2 - 2 R fz s + fz^2)``, which
    cannot grow past the step itself.

    Parameters
    ----------
    fz : float or array
        Feed per tooth [mm].
    x : float or array
        Radial engagement over D [-].
    D : float or array
        Effective diameter [mm].
    s_k : float or array
        sin(kappa) at the top of the contact [-].

    Returns
    -------
    float or array
        hex [mm].

    Examples
    --------
    >>> round(float(greatest_thickness(0.1, 0.1, 12.0, 1.0)), 4)
    0.06
    """
    R, s = D / 2, _sine(x)
    f = np.minimum(fz, R * s)
    exact = R - np.sqrt(np.maximum(R**2 - 2 * R * f * s + f**2, 0.0))
    return s_k * (fz * s + _thin_share(fz, x, D) * (exact - fz * s))


def mean_thickness(fz: Num, x: Num, s_k: Num) -> Num:
    """Mean undeformed chip thickness: ``hm = fz sin(kappa) 2 x / phi_s``."""
    return fz * s_k * 2 * x / engagement_angle(x)


def feed_for_greatest(h_ex: Num, x: Num, D: Num, s_k: Num) -> tuple[Num, Num]:
    """Feed per tooth of the max-chip school, and whether the chip target can be reached.

    ``fz = hex / (sin(kappa) sin(min(phi_s, pi/2)))``; on very thin steps
    ``R s - sqrt(R^2 s^2 - h (2 R - h))`` with h = hex/sin(kappa). Where h is above the step the target
    cannot be reached: the feed is capped at ``R s``.
    """
    R, s, h = D / 2, _sine(x), h_ex / s_k
    plain = h / s
    thin = plain > _thin_limit(x, D)
    unreachable = thin & (h > x * D)
    exact = R * s - np.sqrt(np.maximum((R * s) ** 2 - h * (2 * R - h), 0.0))
    found = np.where(unreachable, R * s, np.where(thin, exact, plain))
    between = thin & ~unreachable & (plain < _BLEND * _thin_limit(x, D))
    if np.any(between):
        found = np.array(found)
        parts = np.broadcast_arrays(h, x, D, plain, exact)
        found[between] = _between(*(part[between] for part in parts))
    return found, ~unreachable


def feed_for_mean(hm: Num, x: Num, D: Num, s_k: Num) -> tuple[Num, Num]:
    """Feed per tooth of the mean-chip school: ``fz = hm phi_s / (sin(kappa) 2 x)``, at most ``R s``."""
    fz = hm * engagement_angle(x) / (s_k * 2 * x)
    cap = np.where(x < 0.5, D / 2 * _sine(x), np.inf)
    return np.minimum(fz, cap), fz <= cap


def mean_over_greatest(x: Num) -> Num:
    """Ratio hm / hex of a side cut with a square shoulder, circular approximation.

    Parameters
    ----------
    x : float or array
        Radial engagement over diameter [-].

    Returns
    -------
    float or array
        hm / hex [-].

    Examples
    --------
    >>> round(float(mean_over_greatest(0.5)), 4)
    0.6366
    """
    return 2 * x / engagement_angle(x) / _sine(x)


def thinning_factor(x: Num) -> Num:
    """How many times the feed may grow before hex does: ``1 / sin(min(phi_s, pi/2))``."""
    return 1.0 / _sine(x)
