"""Edge life, its scatter, and the speeds that cost least or take least time (physics.md section 13)."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num

#: shape of the Weibull scatter of edge lives until trials say otherwise
WEIBULL_SHAPE = 3.5


def edge_life(
    vc: Num,
    h_ex: Num,
    *,
    kv: Num,
    vc_ref: float,
    hex_ref: float,
    life_ref: float,
    n: float,
    a: float,
    coolant: float = 1.0,
) -> Num:
    """Median minutes in the cut to the end of life.

    ``T = Tref (vc / (Kv vref))^(-1/n) (hex/hex_ref)^(-a/n) c``, to VB = 0.3 mm uniform or 0.5 mm local
    (ISO 8688-2).

    Parameters
    ----------
    vc : float or array
        Surface speed [m/min].
    h_ex : float or array
        Maximum chip thickness [mm].
    kv : float or array
        Equal-temperature factor of the engagement [-].
    vc_ref : float
        Reference speed at half engagement [m/min].
    hex_ref : float
        Reference chip thickness [mm].
    life_ref : float
        Life at the references [min].
    n, a : float
        Taylor exponents of speed and chip thickness [-].
    coolant : float
        Factor of the cooling medium [-].

    Returns
    -------
    float or array
        Life [min].

    Examples
    --------
    >>> float(edge_life(100.0, 0.05, kv=1.0, vc_ref=100.0, hex_ref=0.05, life_ref=45.0, n=0.25, a=0.28))
    45.0
    """
    return life_ref * (vc / (kv * vc_ref)) ** (-1.0 / n) * (h_ex / hex_ref) ** (-a / n) * coolant


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


def cheapest_life(n: float, change: float, edge_cost: float, rate: float) -> float:
    """Life at which a part costs least: ``(1/n - 1)(t_change + C_edge / rate)``.

    Parameters
    ----------
    n : float
        Taylor exponent of speed [-].
    change : float
        Time to change an edge [min].
    edge_cost : float
        Cost of an edge [-].
    rate : float
        Machine rate a minute, in the same money [-].

    Returns
    -------
    float
        Life [min].

    References
    ----------
    Gilbert, W. W. 1950, Economics of machining, in Machining theory and practice, ASM.
    """
    return (1.0 / n - 1.0) * (change + edge_cost / rate)


def quickest_life(n: float, change: float) -> float:
    """Life at which a part takes least time: ``(1/n - 1) t_change``.

    Parameters
    ----------
    n : float
        Taylor exponent of speed [-].
    change : float
        Time to change an edge [min].

    Returns
    -------
    float
        Life [min].
    """
    return (1.0 / n - 1.0) * change


def speed_for_life(vc: Num, life: Num, wanted: Num, n: float) -> Num:
    """Speed that gives another life, all else unchanged: ``vc (T / T_wanted)^n``.

    Parameters
    ----------
    vc, life : float or array
        A speed [m/min] and the life at it [min].
    wanted : float or array
        Life asked for [min].
    n : float
        Taylor exponent of speed [-].

    Returns
    -------
    float or array
        Surface speed [m/min].
    """
    return vc * (life / wanted) ** n
