"""Specific force and the mean forces, torque and power that follow from the mean chip thickness.

The coefficients are taken at hm and held over the engaged arc, so that the closed forms for linear
coefficients apply. docs/physics.md section 5 describes the law; peaks need the slice model.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Num

#: the Kienzle curve is followed down to this chip thickness, its tangent below [mm]
TANGENT_BELOW = 0.02


@dataclass(frozen=True)
class ForceLaw:
    """Force per millimetre of edge over the chip thickness, with the ratios of its components.

    Parameters
    ----------
    kc11, mc : float
        Kienzle pair [N/mm2], [-]; unused for the linear law.
    Ktc, Kte : float
        Linear law [N/mm2], [N/mm]; Ktc = 0 selects Kienzle.
    kr, ka : float
        Radial and axial over tangential force at this helix [-].
    factor : float
        Product of the hardness and rake corrections [-].
    """

    kc11: float
    mc: float
    Ktc: float
    Kte: float
    kr: float
    ka: float
    factor: float

    @property
    def is_linear(self) -> bool:
        """Whether the linear law is used."""
        return self.Ktc > 0

    def per_edge(self, h: Num) -> Num:
        """Tangential force per millimetre of edge.

        Parameters
        ----------
        h : float or array
            Chip thickness [mm].

        Returns
        -------
        float or array
            F(h), with the tangent of the Kienzle curve below 0.02 mm [N/mm].
        """
        if self.is_linear:
            return self.factor * (self.Ktc * h + self.Kte)
        h1 = TANGENT_BELOW
        curve = self.kc11 * np.maximum(h, h1) ** (1 - self.mc)
        start = self.kc11 * h1 ** (1 - self.mc)
        tangent = start * (self.mc + (1 - self.mc) * h / h1)
        return self.factor * np.where(h >= h1, curve, tangent)

    def specific(self, h: Num) -> Num:
        """Specific cutting force kc = F(h) / h.

        Parameters
        ----------
        h : float or array
            Chip thickness above 0 [mm].

        Returns
        -------
        float or array
            kc [N/mm2].
        """
        return self.per_edge(h) / h


def hardness_factor(hb: float | None, hb_mid: float | None, exponent: float) -> float:
    """Correction of kc11 for the measured hardness: ``(HB / HB_mid)^exponent``.

    Parameters
    ----------
    hb : float or None
        Measured hardness [HB].
    hb_mid : float or None
        Middle of the tabled range [HB].
    exponent : float
        From the material table [-].

    Returns
    -------
    float
        Factor, 1 where a hardness is unknown [-].
    """
    return (hb / hb_mid) ** exponent if hb and hb_mid else 1.0


def rake_factor(rake: float | None, rake_ref: float) -> float:
    """Correction for rake: 1.5 % less force per degree more, within 20 degrees.

    Parameters
    ----------
    rake : float or None
        Rake of the tool [deg].
    rake_ref : float
        Rake of the coefficients [deg].

    Returns
    -------
    float
        Factor, 1 where the rake is unknown [-].

    Examples
    --------
    >>> round(rake_factor(9.0, 6.0), 3)
    0.955
    """
    if rake is None:
        return 1.0
    return 1.0 - 0.015 * min(max(rake - rake_ref, -20.0), 20.0)


def axial_ratio(ka: float, helix: Num) -> Num:
    """Axial force ratio at a helix: tabled at 30 deg, it grows with ``tan(lam) / tan(30 deg)``.

    Parameters
    ----------
    ka : float
        Ratio at 30 deg helix [-].
    helix : float or array
        Helix angle [rad].

    Returns
    -------
    float or array
        Ratio [-].
    """
    return ka * np.tan(helix) / np.tan(np.radians(30.0))


def cutting_power(kc: Num, q: Num) -> Num:
    """Power at the edge: ``Pc = kc Q / 60000``.

    Parameters
    ----------
    kc : float or array
        Specific cutting force [N/mm2].
    q : float or array
        Removal rate [cm3/min].

    Returns
    -------
    float or array
        Cutting power [kW].

    Examples
    --------
    >>> round(float(cutting_power(3000.0, 60.0)), 9)
    3.0
    """
    return kc * q / 60000.0


def torque_from_power(power: Num, n: Num) -> Num:
    """Torque that carries a power: ``T = 60000 P / (2 pi n)``.

    Parameters
    ----------
    power : float or array
        Power [kW].
    n : float or array
        Spindle speed [1/min].

    Returns
    -------
    float or array
        Torque [Nm].
    """
    return 60000.0 * power / (2 * np.pi * n)


@dataclass(frozen=True)
class MeanForces:
    """Mean forces on the tool, x in feed direction, z towards the spindle [N]."""

    fx: Num
    fy: Num
    fz: Num


def mean_forces(
    kc: Num,
    kr: Num,
    ka: Num,
    *,
    z: Num,
    ap: Num,
    fz: Num,
    phi_st: Num,
    phi_ex: Num,
    kappa: Num,
) -> MeanForces:
    """Mean forces over one tooth period with the coefficient held at kc.

    Closed forms of Altintas 2012, ch. 2, with the signs of physics.md section 5 (forces on the tool) and the
    lead angle of the edge: ``h db = fz sin(phi) dz``.

    Parameters
    ----------
    kc : float or array
        Specific cutting force at hm [N/mm2].
    kr, ka : float or array
        Radial and axial ratios [-].
    z : float or array
        Effective flutes [-].
    ap, fz : float or array
        Axial depth and feed per tooth [mm].
    phi_st, phi_ex : float or array
        Entry and exit angle [rad].
    kappa : float or array
        Lead angle that stands for the whole edge [rad].

    Returns
    -------
    MeanForces
        Mean Fx, Fy, Fz [N].
    """
    lead = z * ap * fz * kc / (2 * np.pi)
    sin2 = 0.5 * ((phi_ex - phi_st) - 0.5 * (np.sin(2 * phi_ex) - np.sin(2 * phi_st)))
    sincos = 0.25 * (np.cos(2 * phi_st) - np.cos(2 * phi_ex))
    sin1 = np.cos(phi_st) - np.cos(phi_ex)
    radial = kr * np.sin(kappa) + ka * np.cos(kappa)
    axial = kr * np.cos(kappa) - ka * np.sin(kappa)
    return MeanForces(
        fx=lead * (-radial * sin2 - sincos),
        fy=lead * (-radial * sincos + sin2),
        fz=lead * axial * sin1,
    )
