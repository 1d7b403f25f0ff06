"""The half section of a cutter that turns, and the rings its edges are looked at in."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lesna.physics import Array
from lesna.physics.edge.envelope import Envelope

#: rings of a flat end, of a corner, of a ball; height of a ring of the flank [mm]
_FLAT, _CORNER, _BALL, _FLANK = 3, 6, 14, 1.0
#: a flat end so much narrower than the cutter is a tip [-]
_TIP = 1e-6


@dataclass(frozen=True)
class Outline:
    """A flat end, a corner, and a flank up to the length of the flutes.

    Attributes
    ----------
    flat, corner : float
        Radius at which the corner begins, and its own [mm].
    slant : float
        Half angle of the flank, 0 for a cylinder [rad].
    flutes : float
        Length that cuts [mm].
    widest : float
        Greatest radius [mm].
    """

    flat: float
    corner: float
    slant: float
    flutes: float
    widest: float

    @cached_property
    def shape(self) -> Array:
        """What the kernels take: flat radius, corner radius, sine and cosine of the slant, length, greatest radius."""
        return np.array((self.flat, self.corner, math.sin(self.slant), math.cos(self.slant), self.flutes, self.widest))

    @property
    def foot(self) -> float:
        """Height at which the flank begins [mm]."""
        return self.corner * (1.0 - math.sin(self.slant))

    def radius_at(self, height: Array) -> Array:
        """Radius at heights over the tip [mm]."""
        below = np.clip(self.corner - height, 0.0, self.corner)
        round_end = self.flat + np.sqrt(np.maximum(self.corner**2 - below**2, 0.0))
        flank = self.flat + self.corner * math.cos(self.slant) + (height - self.foot) * math.tan(self.slant)
        return np.minimum(np.where(height < self.foot, round_end, flank), self.widest)

    def points(self, count: int = 12) -> Array:
        """The section (n, 2: radius, height) from the axis at the tip to the top of the flutes [mm]."""
        kappa = np.linspace(0.0, math.pi / 2 - self.slant, count + 1 if self.corner > 0 else 1)
        r, z = self.flat + self.corner * np.sin(kappa), self.corner * (1.0 - np.cos(kappa))
        rows = [(0.0, 0.0), *zip(r.tolist(), z.tolist(), strict=True)]
        if self.slant > 0:
            wide = self.foot + (self.widest - rows[-1][0]) / math.tan(self.slant)
            if wide < self.flutes:
                rows.append((self.widest, wide))
        rows.append((float(self.radius_at(np.array([self.flutes]))[0]), self.flutes))
        return np.array(rows)


def outline_of(shape: Envelope, flutes: float, slant: float = 0.0, widest: float | None = None) -> Outline:
    """The section of a cutter.

    Parameters
    ----------
    shape : Envelope
        Outline of its edges.
    flutes : float
        Length that cuts [mm].
    slant : float
        Half angle of a tapered ball [rad].
    widest : float or None
        Its greatest radius [mm]; that of DC where left out.
    """
    R = shape.DC / 2
    if shape.form == "cone":
        return Outline(shape.tip_diameter / 2, 0.0, math.pi / 2 - shape.kappa, flutes, R)
    corner = shape.r if shape.form == "round" else 0.0
    return Outline(R - corner, corner, slant, flutes, max(widest or R, R))


@dataclass(frozen=True)
class Rings:
    """Pieces of the edge, from the middle of the end to the top of the flutes.

    Attributes
    ----------
    z, r : array (m,)
        Middle of each [mm].
    kappa : array (m,)
        Lead angle: 0 on a flat end, a right angle on a cylinder [rad].
    edge : array (m,)
        Length along the section [mm].
    low, high : array (m,)
        Heights of its ends [mm].
    linked : array (m,) of bool
        Whether the surface goes on smoothly into the next ring.
    """

    z: Array
    r: Array
    kappa: Array
    edge: Array
    low: Array
    high: Array
    linked: Array

    def __len__(self) -> int:
        return len(self.z)

    def table(self) -> Array:
        """What the walk takes (m, 6): height, radius, sine and cosine of the lead angle, edge length, whether it goes on."""
        return np.column_stack(
            (self.z, self.r, np.sin(self.kappa), np.cos(self.kappa), self.edge, self.linked.astype(float))
        )


def rings_of(outline: Outline) -> Rings:
    """The rings of a cutter."""
    rows: list[tuple[float, float, float, float, float, float, bool]] = []
    if outline.flat > _TIP * outline.widest:
        edges = np.linspace(0.0, outline.flat, _FLAT + 1)
        for a, b in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            rows.append((0.0, 0.5 * (a + b), 0.0, b - a, 0.0, 0.0, outline.corner > 0 or b < outline.flat))
    if outline.corner > 0:
        count = _BALL if outline.flat <= _TIP * outline.widest else _CORNER
        kappas = np.linspace(0.0, math.pi / 2 - outline.slant, count + 1)
        heights = outline.corner * (1.0 - np.cos(kappas))
        for k in range(count):
            if heights[k] >= outline.flutes:
                break
            middle = 0.5 * (kappas[k] + kappas[k + 1])
            rows.append((
                outline.corner * (1.0 - math.cos(middle)), outline.flat + outline.corner * math.sin(middle), middle,
                outline.corner * (kappas[k + 1] - kappas[k]), float(heights[k]), float(heights[k + 1]), True,
            ))  # fmt: skip
    rows += _flank(outline)
    rows[-1] = (*rows[-1][:-1], False)
    z, r, kappa, edge, low, high, linked = (np.array(column) for column in zip(*rows, strict=True))
    return Rings(z, r, kappa, edge, low, high, linked)


def _flank(outline: Outline) -> list[tuple[float, float, float, float, float, float, bool]]:
    """Rings of the flank: on a slant of the same height along the edge, on what stands upright above it of a millimetre."""
    begin, end = outline.foot, outline.flutes
    if end <= begin + 1e-9:
        return []
    turn = end
    if outline.slant > 0:
        r0 = outline.flat + outline.corner * math.cos(outline.slant)
        turn = min(begin + (outline.widest - r0) / math.tan(outline.slant), end)
    rows = []
    for low, high, slant in ((begin, turn, outline.slant), (turn, end, 0.0)):
        if high <= low + 1e-9:
            continue
        along = (high - low) / math.cos(slant)
        heights = np.linspace(low, high, max(math.ceil(along / _FLANK), 1) + 1)
        for a, b in zip(heights[:-1].tolist(), heights[1:].tolist(), strict=True):
            middle = 0.5 * (a + b)
            r = float(outline.radius_at(np.array([middle]))[0])
            rows.append((middle, r, math.pi / 2 - slant, (b - a) / math.cos(slant), a, b, slant == 0.0 or b < high))
    return rows
