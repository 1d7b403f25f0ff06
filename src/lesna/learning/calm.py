"""The factor on the estimated depth of chatter that calm and chattering cuts say (docs/physics.md sections 11 and 14)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

#: spread of ln of the factor: the estimate's band is a factor of 1.6 either way in nine of ten
_PRIOR = np.log(1.6) / 1.645
#: how sharply a cut tells, and the share of ears that are wrong
_SHARP, _WRONG = 0.10, 0.05
_GRID = np.linspace(-2.0, 2.0, 401)


@dataclass(frozen=True)
class DepthScale:
    """Factor on the estimated depth: median and the band that holds it in nine of ten [-], and the cuts that said so."""

    median: float
    low: float
    high: float
    looks: int


def depth_scale(heard: Sequence[tuple[float, bool]]) -> DepthScale:
    """The factor on the depth of chatter.

    Parameters
    ----------
    heard : sequence of (float, bool)
        Depth over the estimate's [-], and whether it chattered.

    Examples
    --------
    >>> found = depth_scale([(1.4, False)])
    >>> found.median > 1.2, depth_scale([(0.6, True)]).median < 0.8
    (True, True)
    """
    log = -0.5 * (_GRID / _PRIOR) ** 2
    for used, chattered in heard:
        over = ndtr((np.log(used) - _GRID) / _SHARP)
        log = log + np.log(_WRONG / 2 + (1 - _WRONG) * (over if chattered else 1 - over))
    share = np.cumsum(np.exp(log - log.max()))
    low, median, high = np.exp(np.interp(np.array([0.05, 0.5, 0.95]) * share[-1], share, _GRID))
    return DepthScale(1.0 if not heard else float(median), float(low), float(high), len(heard))
