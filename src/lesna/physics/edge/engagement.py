"""How far round the cutter touches: straight sides, curved paths, trochoid loops, teeth in contact."""

from __future__ import annotations

from typing import Literal

import numpy as np

from lesna.physics import Num

#: positions along a sharp former corner that are searched for the widest engagement
_CORNER_STEPS = 181


def engagement_angle(x: Num) -> Num:
    """Engagement angle of a straight side cut: ``phi_s = acos(1 - 2 x)``.

    Parameters
    ----------
    x : float or array
        Radial engagement over diameter, 0 to 1 [-].

    Returns
    -------
    float or array
        Engagement angle [rad].

    References
    ----------
    Altintas 2012, Manufacturing Automation, 2nd ed., ch. 2.

    Examples
    --------
    >>> round(float(np.degrees(engagement_angle(0.1))), 2)
    36.87
    """
    return np.arccos(np.clip(1 - 2 * x, -1, 1))


def entry_exit(phi_s: Num, direction: Literal["down", "up"]) -> tuple[Num, Num]:
    """Entry and exit angle, from the +y normal, turning with the tool, feed in +x.

    Parameters
    ----------
    phi_s : float or array
        Engagement angle [rad].
    direction : {'down', 'up'}
        Down (climb) leaves at pi, up enters at 0.

    Returns
    -------
    tuple of float or array
        phi_st and phi_ex [rad].
    """
    return (np.pi - phi_s, np.pi + 0.0 * phi_s) if direction == "down" else (0.0 * phi_s, phi_s)


def concave_angle(R: Num, ae: Num, rho: Num) -> Num:
    """Engagement angle inside a bore or corner, the tool centre running on radius rho.

    For rho >= ae the law of cosines: ``cos(phi_s) = ((rho + R - ae)^2 - rho^2 - R^2) / (2 rho R)``.
    For a smaller rho the former wall had a sharp corner, and the widest engagement on the way round it is
    searched; rho = 0 gives the straight angle plus 90 deg.

    Parameters
    ----------
    R : float or array
        Cutter radius [mm].
    ae : float or array
        Radial engagement along the straight wall [mm].
    rho : float or array
        Radius of the tool centre's path, 0 or more [mm].

    Returns
    -------
    float or array
        Engagement angle, at most pi [rad].

    Examples
    --------
    >>> round(float(np.degrees(concave_angle(6.0, 1.2, 0.0))), 2)
    126.87
    """
    R, ae, rho = np.broadcast_arrays(*(np.asarray(v, dtype=float) for v in (R, ae, rho)))
    safe = np.where(rho > 0, rho, 1.0)
    cosine = ((rho + R - ae) ** 2 - rho**2 - R**2) / (2 * safe * R)
    smooth = np.arccos(np.clip(cosine, -1, 1))
    return np.minimum(np.where(rho >= ae, smooth, _sharp_corner_angle(R, ae, rho)), np.pi)


def _sharp_corner_angle(R: Num, ae: Num, rho: Num) -> Num:
    """Widest engagement while the centre turns on rho inside a sharp right-angled former corner."""
    turned = np.linspace(0.0, np.pi / 2, _CORNER_STEPS).reshape((-1,) + (1,) * np.ndim(R))
    reach = np.clip((R + rho - ae - rho * np.sin(turned)) / R, -1, 1)
    return np.max(np.pi / 2 - turned + np.arccos(reach), axis=0)


def straight_equivalent(R: Num, phi_s: Num) -> Num:
    """Stepover of the straight cut with this engagement angle: ``ae_eq = R (1 - cos phi_s)``.

    Parameters
    ----------
    R : float or array
        Cutter radius [mm].
    phi_s : float or array
        Engagement angle [rad].

    Returns
    -------
    float or array
        Equivalent radial engagement [mm].
    """
    return R * (1 - np.cos(phi_s))


def contacts(z: Num, phi_s: Num, ap: Num, helix: Num, DC: Num) -> Num:
    """Mean number of teeth in contact: ``Nc = z (phi_s + 2 ap tan(lam)/DC) / (2 pi)``."""
    return z * (phi_s + 2 * ap * np.tan(helix) / DC) / (2 * np.pi)


def axial_pitch(DC: Num, z: Num, helix: Num) -> Num:
    """Axial pitch, the depth at which force ripple vanishes: ``p_ax = pi DC / (z tan(lam))``."""
    with np.errstate(divide="ignore"):
        return np.pi * DC / (z * np.tan(helix))


def trochoid_advance(R: Num, r: Num, ae: Num) -> Num:
    """Advance from loop to loop that engages the cutter like a straight stepover ae, at most the loop's radius.

    From ``cos phi = 1 - ae/R`` and the consecutive loop circles,
    ``p = r + R - sqrt(r^2 + R^2 + 2 r R cos phi)``; reached before mid-arc of consecutive loops.

    Parameters
    ----------
    R, r : float or array
        Cutter and loop radius [mm].
    ae : float or array
        Stepover of the straight cut [mm].

    Returns
    -------
    float or array
        Advance [mm].

    Examples
    --------
    >>> round(float(trochoid_advance(6.0, 4.0, 6.0 * (1 - np.cos(np.radians(52.8308))))), 2)
    1.0
    """
    return np.minimum(r + R - np.sqrt(r**2 + R**2 + 2 * r * R * (1 - ae / R)), r)
