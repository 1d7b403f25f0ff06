"""The engagement map made ready to draw: colours, limit lines, hatched region. Made in a worker."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from contourpy import FillType, LineType, contour_generator

from lesna.desktop.theme import TEMPER
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.setup import CutSetup
from lesna.planning.search.engagement_map import EngagementMap, map_of, rough_map_of

Lines = list[Array]


@dataclass(frozen=True)
class MapPicture:
    """What the map view draws; coordinates are ae and ap in mm.

    Attributes
    ----------
    map : EngagementMap
        The numbers.
    pixels : array (rows, columns, 4) of uint8
        Colours of the removal rate, lowest ap first.
    q_top : float
        Removal rate of the last colour [cm3/min].
    limit_lines : dict of list of array (n, 2)
        Where each limit is just reached.
    outside : list of array (n, 2)
        Regions that some limit forbids; holes are separate rings of the same region.
    """

    map: EngagementMap
    DC: float
    depth_top: float
    pixels: Array
    q_top: float
    limit_lines: dict[str, Lines]
    outside: list[list[Array]]
    _q: Any

    def iso_removal(self, q: float) -> Lines:
        """Lines of equal removal rate."""
        lines: Lines = self._q.lines(q)
        return lines

    def q_at(self, ae: float, ap: float) -> float:
        """Removal rate at a point, interpolated on the grid [cm3/min]."""
        m = self.map
        column = np.array([np.interp(ae, m.ae, row) for row in m.q])
        return float(np.interp(ap, m.ap, column))

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


def picture_of(setup: CutSetup, pulse: Pulse = STEADY) -> MapPicture:
    """Computes a map with all its limits and makes it ready to draw."""
    found = map_of(setup, field=measured_over_stepover(setup, pulse=pulse))
    pulse.check()
    return _drawn(setup, found)


def rough_picture_of(setup: CutSetup) -> MapPicture:
    """A coarse map without best points, ready to draw before the compiled sums of a fresh machine are there."""
    return _drawn(setup, rough_map_of(setup))


def _drawn(setup: CutSetup, found: EngagementMap) -> MapPicture:
    top = float(found.q[found.inside].max()) if found.inside.any() else float(found.q.max())
    lines = {key: _lines(found, use) for key, use in found.uses.items()}
    return MapPicture(
        map=found,
        DC=setup.shape.DC,
        depth_top=setup.depth_top,
        pixels=_pixels(found.q / top),
        q_top=top,
        limit_lines={key: line for key, line in lines.items() if line},
        outside=_outside(found),
        _q=contour_generator(found.ae, found.ap, found.q, line_type=LineType.Separate),
    )


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
