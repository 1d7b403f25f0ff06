"""Edge life and its scatter (physics.md section 13)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Num

#: shape of the Weibull scatter of edge lives until trials say otherwise
WEIBULL_SHAPE = 3.5


#: a chip thinner than this share of the typical one takes no more load off the edge
_LEAST_RELIEF = 0.5
#: least slope of ln life over ln speed
_LEAST_SLOPE = 0.5
#: shape of a Weibull over the spread of its logarithm
_SHAPE_OVER_SPREAD = np.pi / np.sqrt(6.0)


@dataclass(frozen=True)
class LifeLaw:
    """What the tables know of the life of an edge in a material.

    ``Tt = Tref (vc / (m vref))^(-1/n) (max(hex, hex_ref/2)/hex_ref)^(-a/n) c`` and ``1/T = 1/Tt + 1/(N Tref)``, below the
    least chip times ``(hex / hex_min)^2``; to VB = 0.3 mm uniform or 0.5 mm local (ISO 8688-2). What trials taught moves the
    exponents and the level: ``e^level T``.

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
    level, by_speed, by_chip : float
        ln of life over the table's, and what the exponents of speed and chip are off it, by the shop's own trials [-].
    """

    vc_ref: float
    hex_ref: float
    hex_min: float
    life_ref: float
    n: float
    a: float
    coolant: float = 1.0
    ends: float = 20.0
    level: float = 0.0
    by_speed: float = 0.0
    by_chip: float = 0.0

    @property
    def _of_speed(self) -> float:
        # however little is known, a faster edge never lives longer
        return min(self.by_speed - 1.0 / self.n, -_LEAST_SLOPE)

    @property
    def _of_chip(self) -> float:
        return self.by_chip - self.a / self.n

    def by_heat(self, vc: Num, h_ex: Num, m: Num) -> Num:
        """Median minutes that speed and chip alone would leave.

        Examples
        --------
        >>> float(LifeLaw(100.0, 0.05, 0.01, 45.0, 0.25, 0.28).by_heat(100.0, 0.05, 1.0))
        45.0
        """
        relief = self._relief(h_ex)
        return self.life_ref * (vc / (m * self.vc_ref)) ** self._of_speed * relief**self._of_chip * self.coolant

    def _relief(self, h_ex: Num) -> Num:
        """Chip over the reference, as far as a thinner one takes load off the edge [-]."""
        return np.maximum(h_ex, _LEAST_RELIEF * self.hex_ref) / self.hex_ref

    def median(self, vc: Num, h_ex: Num, m: Num) -> Num:
        """Median minutes in the cut to the end of life."""
        whole = 1.0 / (1.0 / self.by_heat(vc, h_ex, m) + 1.0 / (self.ends * self.life_ref))
        return whole * self._rubbing(h_ex) * np.exp(self.level)

    def settings(self, vc: Num, h_ex: Num, m: Num) -> tuple[Num, Num]:
        """ln of speed and of chip over the references, as far as they still move the life: what trials are told apart by [-].

        Where abrasion and chance end the edge, speed and chip move it by no more than ``T / Tt`` of their exponents.
        """
        share = 1.0 / (1.0 + self.by_heat(vc, h_ex, m) / (self.ends * self.life_ref))
        return share * np.log(vc / (m * self.vc_ref)), share * np.log(self._relief(h_ex))

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
        wanted = life / self._rubbing(h_ex) / np.exp(self.level)
        left = 1.0 / wanted - 1.0 / (self.ends * self.life_ref)
        heat = 1.0 / np.where(left > 0, left, np.nan)
        share = heat / (self.life_ref * self.coolant) * self._relief(h_ex) ** -self._of_chip
        return m * self.vc_ref * share ** (1.0 / self._of_speed)


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


def shape_of(scatter: float) -> float:
    """Weibull shape of edges.

    Parameters
    ----------
    scatter : float
        Spread of ln life between them [-].

    Returns
    -------
    float
        Shape [-].

    Examples
    --------
    >>> round(shape_of(0.37), 2)
    3.47
    """
    return float(_SHAPE_OVER_SPREAD / scatter)


def unbroken_life(safe: float, median: float, survivors: float, shape: float, breaks: float, minutes: float) -> float:
    """Minutes that a share of the edges outlives neither worn nor broken [min].

    ``2^-(t/T)^shape (minutes / (minutes + t))^breaks = survivors``

    Parameters
    ----------
    safe : float
        Minutes that as many outlive wear alone [min].
    median : float
        Median life by wear [min].
    survivors, shape : float
        Share of edges, and Weibull shape [-].
    breaks, minutes : float
        Edges that broke, with half a one for those to come, and the minutes in the cut of all, the table's own among them.

    Examples
    --------
    >>> round(unbroken_life(21.4, 45.0, 0.95, 3.5, 0.5, 450.0), 1)
    18.5
    """
    low, high = 0.0, safe
    for _ in range(40):
        middle = 0.5 * (low + high)
        left = 0.5 ** ((middle / median) ** shape) * (minutes / (minutes + middle)) ** breaks
        low, high = (middle, high) if left > survivors else (low, middle)
    return low
