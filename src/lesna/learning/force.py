"""The factor on the force that the spindle's load says, the idling spindle told apart from the cut (docs/physics.md section 14)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from lesna.physics import Array

#: spread of ln of the factor by how well the material is known, and of the idling spindle's load
PRIOR, _IDLE = {"A": 0.15, "B": 0.25, "C": 0.40}, 0.20
#: spread of ln of the factor between set-ups, share and spread of those that are wild
_SETUP, _WILD_SHARE, _WILD = 0.10, 0.05, 0.7
#: reading error in points of load and over it, share of stray readings and the points over which they lie
_POINTS, _SHARE, _STRAY, _STRAY_SPAN = 1.0, 0.05, 0.03, 200.0
_STEP = 0.04
_GRID, _IDLES = np.arange(-2.0, 2.0 + _STEP / 2, _STEP), np.linspace(-2.4, 2.4, 13)
_MEANS = np.arange(-1.6, 1.6 + _STEP / 2, _STEP)
#: forces grow by their own for each millimetre of land
_PER_LAND = 1.0


@dataclass(frozen=True)
class Load:
    """One reading of the spindle [%]: as shown, of the model's cut, of idling, and the land [mm]; the set-up's number."""

    shown: float
    cut: float
    idle: float
    land: float
    setup: int


@dataclass(frozen=True)
class ForceScale:
    """Factor on the model's force: median and the band that holds it in nine of ten [-], set-ups that said so, and which are wild."""

    median: float
    low: float
    high: float
    setups: int
    wild: tuple[int, ...] = ()


def force_scale(loads: Sequence[Load], spread: float) -> ForceScale:
    """The factor on the force by what spindles showed.

    Parameters
    ----------
    loads : sequence of Load
        Readings.
    spread : float
        Of ln of the factor before any reading, see `PRIOR` [-].

    Examples
    --------
    >>> round(force_scale([], 0.25).high, 2)
    1.51
    """
    prior = -0.5 * (_MEANS / spread) ** 2
    log = prior[:, None] - 0.5 * _IDLES**2
    setups = sorted({load.setup for load in loads})
    single = []
    for setup in setups:
        own = [load for load in loads if load.setup == setup]
        whole = _log_likelihood(own)
        part = np.exp(whole - whole.max())
        usual, wild = (share * (_masses(s) @ part) for share, s in ((1 - _WILD_SHARE, _SETUP), (_WILD_SHARE, _WILD)))
        single.append((usual, wild))
        log = log + np.log(np.maximum(usual + wild, 1e-300)) + whole.max()
    weight = np.exp(log - log.max())
    wild_ones = tuple(setup for setup, (usual, wild) in zip(setups, single, strict=True)
                      if _mean(weight, wild / np.maximum(usual + wild, 1e-300)) > 0.5)  # fmt: skip
    share = np.cumsum(weight.sum(axis=1))
    found = np.exp(np.interp(np.array([0.05, 0.5, 0.95]) * share[-1], share - 0.5 * weight.sum(axis=1), _MEANS))
    median = 1.0 if not loads else float(found[1])
    return ForceScale(median, float(found[0]), float(found[2]), len(setups), wild_ones)


def _mean(weight: Array, value: Array) -> float:
    return float((weight * value).sum() / weight.sum())


def _masses(spread: float) -> Array:
    """Mass of each bin of a set-up's own factor for each mean (means, bins)."""
    borders = np.concatenate(([-np.inf], _GRID[:-1] + _STEP / 2, [np.inf]))
    return np.asarray(np.diff(ndtr((borders[None, :] - _MEANS[:, None]) / spread), axis=1))


def _log_likelihood(loads: Sequence[Load]) -> Array:
    """ln likelihood over the set-up's own factor and the idling spindle's (bins, idles)."""
    shown, cut, idle, land = (
        np.array([getattr(load, name) for load in loads])[:, None, None] for name in ("shown", "cut", "idle", "land")
    )
    expected = np.exp(_IDLE * _IDLES)[None, None, :] * idle + np.exp(_GRID)[None, :, None] * cut * (
        1.0 + _PER_LAND * land
    )
    error = np.hypot(_POINTS, _SHARE * expected)
    density = np.exp(-0.5 * ((shown - expected) / error) ** 2) / (error * np.sqrt(2 * np.pi))
    return np.asarray(np.log((1 - _STRAY) * density + _STRAY / _STRAY_SPAN).sum(axis=0))
