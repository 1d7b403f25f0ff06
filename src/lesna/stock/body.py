"""What a cutter cuts away as it goes: a cylinder, or a tip that widens up to one."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lesna.physics import Array
from lesna.physics.edge.cutter import round_height
from lesna.physics.edge.envelope import Envelope, effective_diameter

#: a corner radius up to this share of DC changes what stays on the floor, but hardly what the flank meets
_SQUARE = 0.1
#: levels of a ball, of a corner and of a cone; they lie closer towards the tip, where shallow cuts are
_BALL, _CORNER, _CONE, _CLOSER = 18, 8, 8, 1.5


@dataclass(frozen=True)
class Body:
    """Outline of a cutter that turns.

    Attributes
    ----------
    radius : float
        Of the cylinder [mm].
    flat : float
        Radius of the flat end, where the tip begins to rise [mm].
    corner : float
        Radius of a round tip, 0 for a cone [mm].
    rise : float
        Rise of a cone per millimetre of radius [-].
    foot : float
        Height from which the cylinder stands, 0 for a square end [mm].
    """

    radius: float
    flat: float = 0.0
    corner: float = 0.0
    rise: float = 0.0
    foot: float = 0.0

    @cached_property
    def edges(self) -> Array:
        """Heights between which the levels of the tip lie, rising from 0 to `foot` [mm]; none for a square end."""
        if self.foot <= 0:
            return np.zeros(0)
        count = _CONE if self.corner <= 0 else _BALL if self.flat <= 0 else _CORNER
        share = np.linspace(0.0, 1.0, count + 1)
        if self.corner <= 0:
            return self.foot * share
        return self.corner * (1 - np.cos(math.pi / 2 * share**_CLOSER))

    def radius_at(self, height: Array) -> Array:
        """Radius at heights above the tip [mm]."""
        if self.foot <= 0:
            return np.full_like(height, self.radius)
        if self.corner > 0:
            below = np.maximum(self.corner - height, 0.0)
            return self.flat + np.sqrt(np.maximum(self.corner**2 - below**2, 0.0))
        return np.minimum(self.flat + height / self.rise, self.radius)


def body_of(shape: Envelope) -> Body:
    """The body of a cutter that stands upright."""
    foot, R = round_height(shape), shape.DC / 2
    if shape.form == "round" and shape.r > _SQUARE * shape.DC:
        return Body(R, R - shape.r, shape.r, 0.0, foot)
    if shape.form == "cone" and foot > 0:
        return Body(R, float(effective_diameter(shape, 0.0)) / 2, 0.0, math.tan(shape.kappa), foot)
    return Body(R)
