"""How much faster a thin engagement may run at the same edge temperature (physics.md section 12).

An index, not a thermometer: only ratios of temperature rises are used.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from lesna.physics import Num
from lesna.physics.edge.chip import mean_over_greatest
from lesna.physics.edge.engagement import engagement_angle

#: engagement at which the tables' speeds hold
_REFERENCE = 0.5


def heating_share(x: Num) -> Num:
    """Share of the steady temperature rise that the interrupted contact reaches: ``1 - exp(-sqrt(20 phi_s/pi))``."""
    return 1.0 - np.exp(-np.sqrt(20.0 * engagement_angle(x) / np.pi))


def equal_temperature_factor(x: Num, mc: float) -> Num:
    """Factor on the surface speed that keeps the interface temperature of half engagement, at the same hex.

    ``Kv(x) = [u hm^(1/3) g at x = 0.5 / the same at x]^3`` with u = kc(hm), after Cook 1973.

    References
    ----------
    Cook, N. H. 1973, Tool wear and tool life, J. Eng. Ind. 95 (temperature rise of the interface).

    Examples
    --------
    >>> round(float(equal_temperature_factor(0.1, 0.25)), 3)
    1.415
    """

    return (_reference_rise(mc) / _rise(x, mc)) ** 3


def _rise(x: Num, mc: float) -> Num:
    """Rise of the interface temperature at an engagement, in a unit of its own [-]."""
    return mean_over_greatest(x) ** (1.0 / 3.0 - mc) * heating_share(x)


@lru_cache(maxsize=256)
def _reference_rise(mc: float) -> float:
    return float(_rise(_REFERENCE, mc))


@lru_cache(maxsize=256)
def _light_gain(mc: float) -> float:
    return float(equal_temperature_factor(_LIGHT, mc)) - 1.0


#: engagement at which the tables state what a light cut gains, least engagement of which anything is known
_LIGHT, _LEAST = 0.10, 0.03
#: a table that would have thin cuts run slower than this share of half engagement is not followed further [-]
_SLOWEST = 0.1


def speed_multiplier(x: Num, mc: float, light: float, slot: float, thin_share: float = 1.0) -> Num:
    """How much faster than half engagement a cut may run, by practice where it is known and by heat between.

    ``m = 1 + (light - 1)(Kv(x) - 1)/(Kv(0.10) - 1)`` up to half engagement, not below x = 0.03, of what lies over `light`
    only `thin_share`; from 1 at half engagement straight to `slot` at full width.

    Examples
    --------
    >>> [round(float(speed_multiplier(x, 0.25, 1.55, 0.85)), 3) for x in (1.0, 0.5, 0.1, 0.03)]
    [0.85, 1.0, 1.55, 2.332]
    """
    x = np.asarray(x, dtype=float)
    thin = np.clip(x, _LEAST, _REFERENCE)
    gain = np.maximum(1.0 + (light - 1.0) * (equal_temperature_factor(thin, mc) - 1.0) / _light_gain(mc), _SLOWEST)
    gain = np.where(thin < _LIGHT, light + thin_share * (gain - light), gain)
    wide = 1.0 + (slot - 1.0) * (np.clip(x, _REFERENCE, 1.0) - _REFERENCE) / (1.0 - _REFERENCE)
    return np.where(x <= _REFERENCE, gain, wide)


#: chip section over DC2 below which a light pass gains speed, and at which it has gained all it may
_SECTION_FROM, _SECTION_ALL = 0.02, 0.004


def finish_multiplier(section: Num, finish: float) -> Num:
    """How much faster a light pass may run: from 1 at ``ae ap = 0.02 DC2`` straight in its logarithm to `finish` at 0.004.

    Parameters
    ----------
    section : float or array
        ae ap over DC squared [-].
    finish : float
        Gain of the lightest passes [-].

    Examples
    --------
    >>> [round(float(finish_multiplier(s, 1.6)), 3) for s in (0.1, 0.02, 0.009, 0.004, 0.001)]
    [1.0, 1.0, 1.298, 1.6, 1.6]
    """
    thin = np.log(_SECTION_FROM / np.clip(section, _SECTION_ALL, _SECTION_FROM)) / np.log(_SECTION_FROM / _SECTION_ALL)
    return 1.0 + (finish - 1.0) * thin


#: shear angle of a usual chip, by which its heat is shared [deg]
_SHEAR_ANGLE = 25.0
#: temperature at which a cut begins [C]
_ROOM = 20.0


def chip_temperature(kc: Num, vc: Num, h: Num, density: float, heat: float, conductivity: float) -> Num:
    """Temperature at which chips leave the shear zone; a rough estimate, without the rubbing on the rake.

    ``T = 20 + (1 - b) kc / (rho c)`` with the share that the part takes, ``b = 0.5 - 0.35 lg(R tan phi)`` up to
    R tan phi = 10 and ``0.3 - 0.15 lg(R tan phi)`` beyond, of the thermal number ``R = rho c v h / lambda``.

    Parameters
    ----------
    kc : float or array
        Specific cutting force [N/mm2].
    vc : float or array
        Surface speed [m/min].
    h : float or array
        Mean chip thickness [mm].
    density : float
        Of the workpiece [kg/m3].
    heat : float
        Specific heat [J/(kg K)].
    conductivity : float
        Thermal conductivity [W/(m K)].

    Returns
    -------
    float or array
        Temperature [C].

    Notes
    -----
    The share is kept between 0.05 and 0.95. kc holds all of the work, so the estimate lies high where edges rub.

    References
    ----------
    Boothroyd, G. 1963, Temperatures in orthogonal metal cutting, Proc. Inst. Mech. Eng. 177 (share of the workpiece).

    Examples
    --------
    >>> round(float(chip_temperature(2500.0, 120.0, 0.02, 7850.0, 470.0, 42.0)))
    410
    """
    number = density * heat * (np.asarray(vc) / 60.0) * (np.asarray(h) / 1000.0) / conductivity
    place = np.log10(np.maximum(number * np.tan(np.radians(_SHEAR_ANGLE)), 1e-9))
    share = np.clip(np.where(place <= 1.0, 0.5 - 0.35 * place, 0.3 - 0.15 * place), 0.05, 0.95)
    return _ROOM + (1.0 - share) * np.asarray(kc) * 1e6 / (density * heat)
