"""Conversion between hardness scales."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num

#: HRC and HB (tungsten carbide ball) of the same steel; ISO 18265:2013 table A.1, rounded, every fifth step
_HRC = np.array([20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 55.0, 60.0, 65.0])
_HB = np.array([226.0, 253.0, 286.0, 327.0, 371.0, 421.0, 481.0, 560.0, 654.0, 739.0])


def brinell_from_rockwell(hrc: Num) -> Num:
    """Brinell hardness of a steel from its Rockwell C hardness, by interpolation.

    Parameters
    ----------
    hrc : float or array
        Rockwell hardness [HRC].

    Returns
    -------
    float or array
        Brinell hardness [HB].

    References
    ----------
    ISO 18265:2013, table A.1 (unalloyed and low-alloy steel), rounded.

    Examples
    --------
    >>> float(brinell_from_rockwell(32.5))
    306.5
    """
    below = _HB[0] + (np.asarray(hrc) - _HRC[0]) * (_HB[1] - _HB[0]) / 5.0
    above = _HB[-1] + (np.asarray(hrc) - _HRC[-1]) * (_HB[-1] - _HB[-2]) / 5.0
    inside = np.interp(hrc, _HRC, _HB)
    return np.where(np.asarray(hrc) < 20, below, np.where(np.asarray(hrc) > 65, above, inside))
