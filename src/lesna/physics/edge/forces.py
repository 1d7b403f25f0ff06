"""Force per millimetre of edge over the chip thickness, and its corrections for hardness, rake and wear.

docs/physics.md section 5 describes the two laws. What a whole cutter feels stands in `turn` and `force_map`.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from lesna.physics import Array, Num

#: edge radii down to which the Kienzle curve is followed, its tangent below: a sharper edge ploughs less
_EDGE_RADII = 2.0
#: the same for an edge of 10 um [mm]
TANGENT_BELOW = 0.02


def tangent_below(edge_radius_um: float) -> float:
    """Chip thickness below which an edge ploughs: twice its radius.

    Examples
    --------
    >>> tangent_below(10.0)
    0.02
    """
    return max(_EDGE_RADII * edge_radius_um, 1.0) / 1000.0


#: speed at which the coefficients hold, and the power laws below and above it
_SPEED_BELOW, _SPEED_ABOVE, _SPEED_REF = (2.023, -0.153), (1.380, -0.07), 100.0


def speed_factor(vc: Num) -> Num:
    """Correction of the force for the surface speed: ``2.023 vc^-0.153`` below 100 m/min, ``1.380 vc^-0.07`` above.

    Parameters
    ----------
    vc : float or array
        Surface speed [m/min].

    Returns
    -------
    float or array
        Factor, 1 at 100 m/min [-].

    Examples
    --------
    >>> [round(float(speed_factor(v)), 3) for v in (30.0, 100.0, 300.0)]
    [1.202, 1.0, 0.926]
    """
    vc = np.maximum(vc, 1.0)
    below, above = (scale * vc**power for scale, power in (_SPEED_BELOW, _SPEED_ABOVE))
    return np.where(vc < _SPEED_REF, below, above)


def _zeros() -> Array:
    return np.zeros((3, 2))


@dataclass(frozen=True)
class ForceLaw:
    """Force per millimetre of edge over the chip thickness: tangential, radial, axial.

    ``F_i(h) = kienzle_i K(h) + linear_i0 h + linear_i1`` with K(h) = h^(1-mc), below h1 its tangent; one of
    the two laws, never a mixture.

    Parameters
    ----------
    mc : float
        Exponent of the chip thickness in kc [-].
    kienzle : array (3,)
        kc11 of each direction, corrections included [N/mm2].
    linear : array (3, 2)
        Cutting [N/mm2] and edge [N/mm] coefficient of each direction, corrections included.
    h1 : float
        Chip thickness below which the tangent is followed [mm].
    """

    mc: float
    kienzle: Array
    linear: Array = field(default_factory=_zeros)
    h1: float = TANGENT_BELOW

    @property
    def is_linear(self) -> bool:
        """Whether the linear law is used."""
        return not self.kienzle.any()

    def directions(self, h: Num) -> Num:
        """Tangential, radial and axial force per millimetre of edge."""
        h = np.asarray(h, dtype=float)
        tail = (np.newaxis,) * h.ndim
        straight = self.linear[(slice(None), 0, *tail)] * h + self.linear[(slice(None), 1, *tail)]
        if self.is_linear:
            return straight
        h1 = self.h1
        curve = np.maximum(h, h1) ** (1 - self.mc)
        tangent = h1 ** (1 - self.mc) * (self.mc + (1 - self.mc) * h / h1)
        return self.kienzle[(slice(None), *tail)] * np.where(h >= h1, curve, tangent) + straight

    def per_edge(self, h: Num) -> Num:
        """Tangential force per millimetre of edge."""
        return self.directions(h)[0]

    def specific(self, h: Num) -> Num:
        """Specific cutting force kc = F(h) / h."""
        return self.per_edge(h) / h

    def slopes(self, h: Num) -> Num:
        """Growth of the three forces with the chip thickness, for stability."""
        h = np.maximum(np.asarray(h, dtype=float), self.h1)
        tail = (np.newaxis,) * h.ndim
        bent = self.kienzle[(slice(None), *tail)] * (1 - self.mc) * h ** (-self.mc)
        return bent + self.linear[(slice(None), 0, *tail)] * np.ones_like(h)


#: at a wear land of 0.3 mm the tangential force has grown by the first, the radial by the second share
_WEAR_LAND, _WEAR_TANGENTIAL, _WEAR_RADIAL = 0.3, 0.30, 0.75


def wear_factors(vb: float) -> Array:
    """Growth of the tangential, radial and axial force with the flank wear, in proportion to it.

    Examples
    --------
    >>> [round(float(f), 3) for f in wear_factors(0.3)]
    [1.3, 1.75, 1.3]
    """
    share = vb / _WEAR_LAND
    return 1.0 + share * np.array([_WEAR_TANGENTIAL, _WEAR_RADIAL, _WEAR_TANGENTIAL])


def hardness_factor(hb: float | None, hb_mid: float | None, exponent: float) -> float:
    """Correction of kc11 for the measured hardness: ``(HB / HB_mid)^exponent``."""
    return (hb / hb_mid) ** exponent if hb and hb_mid else 1.0


def rake_factor(rake: float | None, rake_ref: float) -> float:
    """Correction for rake: 1.5 % less force per degree more, within 20 degrees.

    Examples
    --------
    >>> round(rake_factor(9.0, 6.0), 3)
    0.955
    """
    if rake is None:
        return 1.0
    return 1.0 - 0.015 * min(max(rake - rake_ref, -20.0), 20.0)


def axial_ratio(ka: float, helix: Num) -> Num:
    """Axial force ratio at a helix: tabled at 30 deg, it grows with ``tan(lam) / tan(30 deg)``."""
    return ka * np.tan(helix) / np.tan(np.radians(30.0))


def torque_from_power(power: Num, n: Num) -> Num:
    """Torque that carries a power: ``T = 60000 P / (2 pi n)``."""
    return 60000.0 * power / (2 * np.pi * n)
