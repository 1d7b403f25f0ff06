"""The engagement map made ready to draw: colours, limit lines, hatched region. Made in a worker."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from contourpy import FillType, LineType, contour_generator

from lesna.desktop.theme import TEMPER
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.cut.features import volume
from lesna.planning.cut.life import law_of
from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.setup import CutSetup
from lesna.planning.search.engagement_map import EngagementMap, map_of, rough_map_of

Lines = list[Array]
#: a life is coloured up to so many times the reference, the heat up to so many times the tables' own
_LIFE_TOP, _HEAT_TOP = 4.0, 1.5
#: where no feature says how much a part has, cost is that of so much [cm3]
PLAIN_VOLUME = 100.0


@dataclass(frozen=True)
class Layer:
    """One thing that the colours of a map may tell.

    Attributes
    ----------
    values : array (rows, columns)
        In the unit of its quantity.
    pixels : array (rows, columns, 4) of uint8
        Its colours, lowest ap first.
    ends : tuple of float
        Values of the first and of the last colour.
    lines : callable
        Value -> lines on which it is the same.
    """

    values: Array
    pixels: Array
    ends: tuple[float, float]
    lines: Callable[[float], Lines]


@dataclass(frozen=True)
class MapPicture:
    """What the map view draws; coordinates are ae and ap in mm.

    Attributes
    ----------
    map : EngagementMap
        The numbers.
    layers : dict of Layer
        What its colours may tell, by id: ``removal``, and where it is known ``life``, ``cost``, ``heat``.
    limit_lines : dict of list of array (n, 2)
        Where each limit is just reached.
    outside : list of array (n, 2)
        Regions that some limit forbids; holes are separate rings of the same region.
    """

    map: EngagementMap
    DC: float
    depth_top: float
    layers: dict[str, Layer]
    limit_lines: dict[str, Lines]
    outside: list[list[Array]]

    def value_at(self, layer: str, ae: float, ap: float) -> float:
        """What a layer tells at a point, interpolated on the grid."""
        m, values = self.map, self.layers[layer].values
        (i, u), (k, v) = _between(m.ae, ae), _between(m.ap, ap)
        low, high = values[k, i : i + 2], values[k + 1, i : i + 2]
        return float((1 - v) * (low[0] + u * (low[1] - low[0])) + v * (high[0] + u * (high[1] - high[0])))

    def depth_for(self, ae: float, q: float) -> float | None:
        """Depth that keeps a removal rate at another stepover [mm]; None where the tool is too short."""
        column = np.array([np.interp(ae, self.map.ae, row) for row in self.map.q])
        if q > column[-1]:
            return None
        return float(np.interp(q, column, self.map.ap)) if q >= column[0] else float(self.map.ap[0])

    def holding_back(self, ae: float, ap: float) -> tuple[str, float]:
        """Name and use of the limit that is used most at a point."""
        column = int(np.argmin(abs(self.map.ae - ae)))
        row = int(np.argmin(abs(self.map.ap - ap)))
        uses = {key: float(use[row, column]) for key, use in self.map.uses.items()}
        top = max(uses, key=lambda key: uses[key])
        return BY_ID[top].name, uses[top]


def _between(marks: Array, value: float) -> tuple[int, float]:
    """The mark before a value and how far it is to the next [-]; 0 to 1 beyond the ends too."""
    before = int(np.clip(np.searchsorted(marks, value) - 1, 0, len(marks) - 2))
    return before, float(np.clip((value - marks[before]) / (marks[before + 1] - marks[before]), 0.0, 1.0))


def picture_of(setup: CutSetup, pulse: Pulse = STEADY) -> MapPicture:
    """Computes a map with all its limits and makes it ready to draw."""
    found = map_of(setup, field=measured_over_stepover(setup, pulse=pulse))
    pulse.check()
    return _drawn(setup, found)


def rough_picture_of(setup: CutSetup) -> MapPicture:
    """A coarse map without best points, ready to draw before the compiled sums of a fresh machine are there."""
    return _drawn(setup, rough_map_of(setup))


def _drawn(setup: CutSetup, found: EngagementMap) -> MapPicture:
    lines = {key: _lines(found, use) for key, use in found.uses.items()}
    return MapPicture(
        map=found,
        DC=setup.shape.DC,
        depth_top=setup.depth_top,
        layers=dict(_layers(setup, found)),
        limit_lines={key: line for key, line in lines.items() if line},
        outside=_outside(found),
    )


def _layers(setup: CutSetup, found: EngagementMap) -> Iterator[tuple[str, Layer]]:
    """What the colours may tell; the last colour is the best or the most of what may be used."""
    inside = found.inside if found.inside.any() else np.ones_like(found.inside)
    top = float(found.q[inside].max())
    yield "removal", _layer(found, found.q, found.q / top, (0.0, top))
    law = law_of(setup)
    if law is not None and found.life is not None and found.heat is not None:
        most = min(float(found.life[inside].max()), _LIFE_TOP * law.life_ref)
        yield "life", _layer(found, found.life, found.life / most, (0.0, most))
        yield "heat", _layer(found, found.heat, found.heat / _HEAT_TOP, (0.0, _HEAT_TOP))
    if found.cost is not None:
        cost = found.cost * (volume(setup.parts.cut.feature) or PLAIN_VOLUME)
        least = float(cost[inside].min())
        # dear is pale and cheap is deep: twice the least stands in the middle
        yield "cost", _layer(found, cost, least / cost, (math.inf, least))


def _layer(found: EngagementMap, values: Array, share: Array, ends: tuple[float, float]) -> Layer:
    generator: Any = contour_generator(found.ae, found.ap, values, line_type=LineType.Separate)
    return Layer(values, _pixels(share), ends, generator.lines)


def _lines(found: EngagementMap, use: Array) -> Lines:
    if not (use.min() < 1.0 < use.max()):
        return []
    finite = np.minimum(use, 1e6)
    generator: Any = contour_generator(found.ae, found.ap, finite, line_type=LineType.Separate)
    lines: Lines = generator.lines(1.0)
    return lines


def _outside(found: EngagementMap) -> list[list[Array]]:
    worst = np.maximum.reduce([np.minimum(use, 1e6) for key, use in found.uses.items() if not BY_ID[key].is_capped])
    generator: Any = contour_generator(found.ae, found.ap, worst, fill_type=FillType.OuterOffset)
    polygons, offsets = generator.filled(1.0 + 1e-9, 1e9)
    for points in polygons:  # the grid begins one step off the axes; the region does not
        points[points[:, 0] <= found.ae[0], 0] = 0.0
        points[points[:, 1] <= found.ap[0], 1] = 0.0
    return [
        [points[a:b] for a, b in zip(marks[:-1], marks[1:], strict=True)]
        for points, marks in zip(polygons, offsets, strict=True)
    ]


def _pixels(share: Array) -> Array:
    """Temper colours of the shares 0 to 1; a root spreads the low end, where most of the map lives."""
    scale = np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in TEMPER], dtype=float)
    place = np.clip(share, 0, 1) * (len(TEMPER) - 1)
    out = np.empty((*share.shape, 4), dtype=np.uint8)
    for channel in range(3):
        out[..., channel] = np.interp(place, np.arange(len(TEMPER)), scale[:, channel])
    out[..., 3] = 255
    return out
