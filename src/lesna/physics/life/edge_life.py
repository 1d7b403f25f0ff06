"""Edge life and its scatter (physics.md section 13)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Num

#: shape of the Weibull scatter of edge lives until trials say otherwise
WEIBULL_SHAPE = 3.5


#: a chip thinner than this share of the typical one takes no more load off the edge
_LEAST_RELIEF = 0.5


@dataclass(frozen=True)
class LifeLaw:
    """What the tables know of the life of an edge in a material.

    ``Tt = Tref (vc / (m vref))^(-1/n) (max(hex, hex_ref/2)/hex_ref)^(-a/n) c`` and ``1/T = 1/Tt + 1/(N Tref)``, below the
    least chip times ``(hex / hex_min)^2``; to VB = 0.3 mm uniform or 0.5 mm local (ISO 8688-2).

    Parameters
    ----------
    vc_ref : float
        Reference speed at the row's own engagement and at the hardness of this workpiece [m/min].
    hex_ref : float
        Reference chip thickness [mm].
    hex_min : float
        Chip thickness below which the edge rubs [mm].
    life_ref : float
        Life at the references [min].
    n, a : float
        Taylor exponents of speed and chip thickness [-].
    coolant : float
        Factor of the cooling medium [-].
    ends : float
        N: abrasion and chance end an edge after so many times the reference life, however slowly it runs [-].
    """

    vc_ref: float
    hex_ref: float
    hex_min: float
    life_ref: float
    n: float
    a: float
    coolant: float = 1.0
    ends: float = 20.0

    def by_heat(self, vc: Num, h_ex: Num, m: Num) -> Num:
        """Median minutes that speed and chip alone would leave.

        Examples
        --------
        >>> float(LifeLaw(100.0, 0.05, 0.01, 45.0, 0.25, 0.28).by_heat(100.0, 0.05, 1.0))
        45.0
        """
        relief = self._relief(h_ex)
        return self.life_ref * (vc / (m * self.vc_ref)) ** (-1.0 / self.n) * relief ** (-self.a / self.n) * self.coolant

    def _relief(self, h_ex: Num) -> Num:
        """Chip over the reference, as far as a thinner one takes load off the edge [-]."""
        return np.maximum(h_ex, _LEAST_RELIEF * self.hex_ref) / self.hex_ref

    def median(self, vc: Num, h_ex: Num, m: Num) -> Num:
        """Median minutes in the cut to the end of life."""
        whole = 1.0 / (1.0 / self.by_heat(vc, h_ex, m) + 1.0 / (self.ends * self.life_ref))
        return whole * self._rubbing(h_ex)

    def _rubbing(self, h_ex: Num) -> Num:
        """Share of its life that an edge keeps where the chip is thinner than it can cut [-]."""
        return np.minimum(h_ex / self.hex_min, 1.0) ** 2 if self.hex_min > 0 else np.ones(np.shape(h_ex))

    def speed_for(self, life: float, h_ex: Num, m: Num) -> Num:
        """Surface speed that keeps a median life [m/min]; not a number where none does.

        Examples
        --------
        >>> law = LifeLaw(100.0, 0.05, 0.01, 45.0, 0.25, 0.28)
        >>> float(law.median(law.speed_for(60.0, 0.04, 1.3), 0.04, 1.3).round(6))
        60.0
        >>> float(law.speed_for(900.0, 0.05, 1.0))
        nan
        """
        wanted = life / self._rubbing(h_ex)
        left = 1.0 / wanted - 1.0 / (self.ends * self.life_ref)
        heat = 1.0 / np.where(left > 0, left, np.nan)
        share = heat / (self.life_ref * self.coolant) * self._relief(h_ex) ** (self.a / self.n)
        return m * self.vc_ref * share ** (-self.n)


def safe_life(median: Num, survivors: float = 0.95, shape: float = WEIBULL_SHAPE) -> Num:
    """Minutes that a share of the edges outlives, the median being known.

    ``t = T (ln(1/p) / ln 2)^(1/shape)``

    Parameters
    ----------
    median : float or array
        Median life [min].
    survivors : float
        Share of edges that are still good, 0 to 1 [-].
    shape : float
        Weibull shape [-].

    Returns
    -------
    float or array
        Minutes [min].

    Examples
    --------
    >>> round(float(safe_life(100.0, 0.5)), 6)
    100.0
    """
    return median * (np.log(1.0 / survivors) / np.log(2.0)) ** (1.0 / shape)
