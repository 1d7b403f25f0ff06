"""Where on the tool a finishing pass cuts: from the tip to how far out, by slope and heading, and whether the tip itself does.

A ball cuts over the part of the cap round its contact that is ahead of it and outside the last pass. In the frame of the contact (into the
part, uphill, left of that) the tip of the tool is ``(-sin s, 0, cos s)`` at a slope s; the diameters that cut are ``2 (rm + r sin b)`` by
the angles b from the tip.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array
from lesna.surface.drops import Shape

#: contacts nearer to the tip than this rub [rad]
NEAR_TIP = np.radians(10.0)
#: share of the length that turns no faster at the surface than what the speed is chosen by, and that is called slowest [-]
FASTEST, SLOWEST = 0.98, 0.05


@dataclass(frozen=True)
class Engaged:
    """What cuts on stretches of a path (n,).

    Attributes
    ----------
    least, greatest : array
        Cutting diameters [mm].
    tip : array of bool
        Whether the tip itself cuts.
    near : array of bool
        Whether the contact lies within ten degrees of the tip.
    climb : array
        Rise of the way over its length, from -1 straight down to 1 straight up [-].
    length : array
        Of each stretch [mm].
    """

    least: Array
    greatest: Array
    tip: NDArray[np.bool_]
    near: NDArray[np.bool_]
    climb: Array
    length: Array

    @property
    def share_near(self) -> float:
        """Share of the length with the contact near the tip [-]."""
        return float((self.length * self.near).sum() / max(self.length.sum(), 1e-300))

    @property
    def share_near_down(self) -> float:
        """Share of the length with the contact near the tip and the way going down [-]."""
        return float((self.length * (self.near & (self.climb < -1e-3))).sum() / max(self.length.sum(), 1e-300))

    def diameter(self, share: float) -> float:
        """The greatest cutting diameter that so much of the length stays under [mm]."""
        order = np.argsort(self.greatest)
        gone = np.cumsum(self.length[order])
        return float(self.greatest[order][min(int(np.searchsorted(gone, share * gone[-1])), len(order) - 1)])


def engaged(
    shape: Shape,
    normals: Array,
    headings: Array,
    length: Array,
    skin: float,
    stepover: float,
    uncut: Array | float = 1.0,
) -> Engaged:
    """What cuts where the tool touches a part with these normals on its way.

    Parameters
    ----------
    shape : Shape
        The end of the tool.
    normals, headings : array (n, 3)
        Unit normals out of the part, and unit directions of the way.
    length : array (n,)
        Of each stretch [mm].
    skin : float
        Stock on the surface, along its normal [mm].
    stepover : float
        From pass to pass along the surface [mm].
    uncut : array (n,) or float
        1 where what is not cut yet lies on the left of the way, -1 on the right, 0 on both (a full width).
    """
    r = max(shape.r, 1e-9)
    nz = np.clip(normals[:, 2], -1.0, 1.0)
    s = np.arccos(nz)
    sine = np.sin(s)
    # uphill along the surface; on what is level any direction will do
    up = np.stack((-normals[:, 0] * nz, -normals[:, 1] * nz, 1.0 - nz * nz), axis=1)
    size = np.linalg.norm(up, axis=1)
    up = np.where(size[:, None] > 1e-9, up / np.maximum(size, 1e-9)[:, None], headings)
    left = np.cross(normals, up)
    fx, fy = (headings * up).sum(axis=1), (headings * left).sum(axis=1)
    norm = np.maximum(np.hypot(fx, fy), 1e-12)
    fx, fy = fx / norm, fy / norm
    w = np.full(len(s), np.arccos(np.clip(1.0 - skin / r, 0.0, 1.0)))
    k = np.minimum(stepover / (2.0 * r), np.sin(w))
    side = np.broadcast_to(np.asarray(uncut, float), s.shape)
    tip = np.stack((-sine, np.zeros_like(s), np.cos(s)), axis=1)
    f = np.stack((fx, fy, np.zeros_like(s)), axis=1)
    b = np.stack((-fy, fx, np.zeros_like(s)), axis=1) * np.where(side == 0, 0.0, side)[:, None]
    c = np.tile((0.0, 0.0, 1.0), (len(s), 1))
    low, high = _angles(tip, f, b, c, w, k)
    greatest = 2.0 * (shape.rm + r * np.sin(np.minimum(high, np.pi / 2)))
    greatest = np.where((low < np.pi / 2) & (high > np.pi / 2), 2.0 * (shape.rm + r), greatest)
    least = 2.0 * (shape.rm + r * np.minimum(np.sin(low), np.sin(np.minimum(high, np.pi / 2))))
    return Engaged(least, greatest, low <= 1e-9, s <= NEAR_TIP, headings[:, 2], length)


def _angles(tip: Array, f: Array, b: Array, c: Array, w: Array, k: Array) -> tuple[Array, Array]:
    """Least and greatest angle from the tip over the patch u.c >= cos w, u.f >= 0, u.b >= -k (n,) [rad]."""
    bounded = np.linalg.norm(b, axis=1) > 0.5
    low, high = np.full(len(w), np.inf), np.full(len(w), -np.inf)

    def consider(u: Array, valid: NDArray[np.bool_]) -> None:
        inside = valid & ((u * c).sum(axis=1) >= np.cos(w) - 1e-9) & ((u * f).sum(axis=1) >= -1e-9)
        inside &= ~bounded | ((u * b).sum(axis=1) >= -k - 1e-9)
        angle = np.arccos(np.clip((u * tip).sum(axis=1), -1.0, 1.0))
        np.minimum(low, np.where(inside, angle, np.inf), out=low)
        np.maximum(high, np.where(inside, angle, -np.inf), out=high)

    always = np.ones(len(w), bool)
    consider(tip, always)
    for m, q, valid in ((c, np.cos(w), always), (f, np.zeros_like(w), always), (b, -k, bounded)):
        away = tip - (tip * m).sum(axis=1)[:, None] * m
        size = np.linalg.norm(away, axis=1)
        away = away / np.maximum(size, 1e-12)[:, None]
        span = np.sqrt(np.maximum(1.0 - q * q, 0.0))
        for sign in (1.0, -1.0):
            consider(q[:, None] * m + sign * span[:, None] * away, valid & (size > 1e-9))
    # corners: the cap with each plane, and the planes with each other
    for m, q, valid in ((f, np.zeros_like(w), always), (b, -k, bounded)):
        other = np.cross(c, m)
        rest = np.sin(w) ** 2 - q * q
        span = np.sqrt(np.maximum(rest, 0.0))
        for sign in (1.0, -1.0):
            consider(np.cos(w)[:, None] * c + q[:, None] * m + sign * span[:, None] * other, valid & (rest >= -1e-12))
    consider(-k[:, None] * b + np.sqrt(np.maximum(1.0 - k * k, 0.0))[:, None] * c, bounded)
    return low, high
