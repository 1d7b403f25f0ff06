"""Levels of a feature: how deep it is, in how many equal levels a depth of cut takes it, and depths that come out even."""

from __future__ import annotations

import math

import numpy as np

from lesna.model.job import Feature
from lesna.physics import Array, Num

#: a depth that was rounded to be typed still divides its feature [-]
_ROUNDING = 1e-4
#: a search tries at most _DEPTHS depths, from the deepest down to _SHALLOWEST of it
_SHALLOWEST, _DEPTHS = 0.03, 24


#: stock that roughing is taken to have left on a surface where nobody says how much [mm]
_SKIN = 0.3


def skin_of(feature: Feature) -> float:
    """Stock that lies on a surface [mm]."""
    return _SKIN if feature.stock_mm is None else feature.stock_mm


def depth_of(feature: Feature | None) -> float | None:
    """Material over the floor that a cut leaves [mm]; None without a feature or a depth, or where nothing is left to cut."""
    if feature is not None and feature.depth_mm is None and feature.stl is not None:
        return skin_of(feature)
    if feature is None or feature.depth_mm is None:
        return None
    depth = feature.depth_mm - (0.0 if feature.kind == "through" else feature.stock_floor_mm)
    return depth if depth > 0 else None


def count_of(depth: float, ap: Num) -> Num:
    """Equal levels that a depth of cut takes, at least 1.

    Examples
    --------
    >>> count_of(30.0, np.array([24.99, 15.0, 4.2857, 40.0])).tolist()
    [2.0, 2.0, 7.0, 1.0]
    """
    return np.maximum(np.ceil(depth / np.asarray(ap) * (1.0 - _ROUNDING)), 1.0)


def even_depth(depth: float | None, most: float) -> float:
    """Deepest cut of at most `most` that divides a depth evenly; `most` itself where the depth is not known [mm].

    Examples
    --------
    >>> even_depth(30.0, 24.99), even_depth(10.0, 24.0), even_depth(None, 24.0)
    (15.0, 10.0, 24.0)
    """
    return most if depth is None else depth / float(count_of(depth, most))


def even_depths(depth: float, most: float) -> Array:
    """Depths to choose from that divide a feature evenly, at most `most`, rising [mm]."""
    first = int(count_of(depth, most))
    counts = np.unique(np.geomspace(first, max(first / _SHALLOWEST, first + 4), _DEPTHS).round().astype(int))
    return np.sort(depth / counts)


def typed_depth(ap: float) -> float:
    """A depth as it is written into a document: never over what it was, so that it keeps to its feature [mm].

    Examples
    --------
    >>> typed_depth(12.34567), typed_depth(4.0)
    (12.3456, 4.0)
    """
    return math.floor(ap * 1e4 + 1e-6) / 1e4
