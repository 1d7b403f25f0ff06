"""Straight passes of cutters that lean, and what their rings must meet by plain geometry: the oracle of the bricks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import map_coordinates

from lesna.physics import Array
from lesna.physics.edge.envelope import Envelope
from lesna.stock.bricks import Bricks, bricks_of, of_block
from lesna.stock.leaning import Met, lean_through
from lesna.stock.outline import Outline, outline_of, rings_of
from lesna.stock.poses import Poses

LOW, HIGH = (-16.0, -14.0, -16.0), (16.0, 14.0, 0.0)
SQUARE = outline_of(Envelope("straight", 10.0, 0.0, np.pi / 2, 10.0, 0.0, 4, 2), 14.0)
CORNER = outline_of(Envelope("round", 12.0, 2.0, np.pi / 2, 12.0, 0.0, 4, 2), 14.0)
BALL = outline_of(Envelope("round", 10.0, 5.0, np.pi / 2, 10.0, 0.0, 4, 2), 14.0)
LEAD = outline_of(Envelope("cone", 10.0, 0.0, np.radians(20.0), 6.0, 0.0, 3, 2), 14.0)
TAPER = outline_of(Envelope("round", 4.0, 2.0, np.pi / 2, 4.0, 0.0, 4, 2), 16.0, np.radians(5.0), 5.0)


def leaning(lead: float, tilt: float = 0.0) -> Array:
    """Axis of a tool that goes along x: leaning into its way, then to its left [deg]."""
    a, b = np.radians(lead), np.radians(tilt)
    return np.array((np.sin(a), np.cos(a) * np.sin(b), np.cos(a) * np.cos(b)))


def straight(
    start: tuple[float, float, float], end: tuple[float, float, float], axis: Array, step: float = 0.4
) -> Poses:
    """A feed from one place to another, the axis still."""
    a, b = np.array(start, float), np.array(end, float)
    n = int(np.ceil(np.linalg.norm(b - a) / step))
    points = a + np.linspace(0.0, 1.0, n + 1)[:, None] * (b - a)
    axes, still = np.broadcast_to(axis, (n, 3)).copy(), np.zeros((n, 2))
    joined = np.arange(n) > 0
    length = np.linalg.norm(np.diff(points, axis=0), axis=1)
    return Poses(np.zeros(n, dtype=np.int64), points[:-1], points[1:], np.tile((1.0, 0.0), (n, 1)), length, np.ones(n, dtype=np.int64),
                 joined, axes, axes, still, still, points[:-1], points[1:])  # fmt: skip


@dataclass(frozen=True)
class Case:
    """A pass along x through a block, with or without one before it."""

    name: str
    outline: Outline
    axis: Array
    y: float = 0.3
    z: float = -4.0
    before: float | None = None

    def walked(self, cell: float, turn: float = 0.0) -> tuple[Met, Poses, Bricks]:
        """What it meets in cells that lie turned to it by an angle about z [deg]."""
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        R = np.array(((c, -s, 0.0), (s, c, 0.0), (0.0, 0.0, 1.0)))
        block = of_block(LOW, HIGH)
        wide = 24.0 if turn else 16.0
        stock = bricks_of((-wide, -wide, LOW[2]), (wide, wide, HIGH[2]), cell, lambda places: block(places @ R))
        for y in (self.before, self.y):
            if y is not None:
                poses = straight((-24.0, y, self.z), (3.0, y, self.z), self.axis)
                turned = Poses(
                    poses.move, poses.start @ R.T, poses.end @ R.T, poses.heading, poses.length, poses.way, poses.joined,
                    poses.axis_start @ R.T, poses.axis_end @ R.T, poses.turned_start, poses.turned_end, poses.linear_start,
                    poses.linear_end,
                )  # fmt: skip
                met = lean_through(stock, turned, self.outline, np.zeros((0, 3)))
        return met, poses, stock

    def engaged(self, tip: Array, count: int = 1800) -> Array:
        """Engaged angle of each ring by plain geometry [rad]: in the block, going into it, not cut by the pass before."""
        rings = rings_of(self.outline)
        phi = 2 * np.pi * (np.arange(count) + 0.5) / count
        a = self.axis
        forward = np.array((1.0, 0.0, 0.0)) - a[0] * a
        forward /= np.linalg.norm(forward)
        left = np.cross(a, forward)
        u = np.sin(phi)[:, None] * forward + np.cos(phi)[:, None] * left
        out = np.zeros(len(rings))
        for k in range(len(rings)):
            places = tip + rings.r[k] * u + rings.z[k] * a
            normal = np.sin(rings.kappa[k]) * u - np.cos(rings.kappa[k]) * a
            cuts = (normal[:, 0] > 1e-6) & ((places > np.array(LOW)) & (places < np.array(HIGH))).all(axis=1)
            if self.before is not None:
                cuts[cuts] = ~self._cut_before(places[cuts])
            out[k] = cuts.sum() * 2 * np.pi / count
        return out

    def _cut_before(self, places: Array) -> Array:
        """Whether the pass before went over places: the least over its way of how far they stand outside the cutter."""
        assert self.before is not None  # asked only with one
        inside = np.zeros(len(places), dtype=bool)
        for x in np.linspace(-24.0, 3.0, 700):
            off = places - np.array((x, self.before, self.z))
            z = off @ self.axis
            r = np.linalg.norm(off - z[:, None] * self.axis, axis=1)
            inside |= (z > 0) & (z < self.outline.flutes) & (r < self.outline.radius_at(z))
        return inside


CASES = (
    Case("slot, square, upright", SQUARE, leaning(0.0)), Case("slot, square, lead 15", SQUARE, leaning(15.0)),
    Case("slot, square, heel cutting", SQUARE, leaning(-15.0)), Case("slot, square, lead and tilt", SQUARE, leaning(10.0, 12.0)),
    Case("half space, ball", BALL, leaning(20.0, 30.0), z=-2.0), Case("half space, corner", CORNER, leaning(10.0, 5.0), z=-3.0),
    Case("half space, tapered ball", TAPER, leaning(15.0, 40.0), z=-3.0), Case("half space, lead angle", LEAD, leaning(0.0), z=-1.0),
    Case("ball beside a pass", BALL, leaning(15.0, 15.0), y=1.5, z=-2.5, before=0.0),
    Case("square beside a pass", SQUARE, leaning(0.0), y=3.0, before=0.0),
)  # fmt: skip


def ring_errors(case: Case, cell: float, turn: float = 0.0) -> Array:
    """Errors of the engaged angle of each ring in the middle of a pass [deg]."""
    met, poses, _ = case.walked(cell, turn)
    k = int(np.flatnonzero(poses.end[:, 0] > -5.0)[0])
    spans = slice(*met.begins[k : k + 2])
    found = np.bincount(met.ring[spans], weights=met.span[spans, 1] - met.span[spans, 0], minlength=len(met.rings))
    middle = 0.5 * (poses.start[k] + poses.end[k])
    exact = case.engaged(middle)
    # rings that the free face only just touches count by their middle alone
    return np.asarray(np.degrees(np.abs(found - exact)))


class Dense:
    """The plain reference of the bricks: every cell of a box holds its distance, cut and read with NumPy alone."""

    def __init__(self, stock: Bricks, distance: Callable[[Array], Array]) -> None:
        self.cell, self.origin = stock.cell, stock.origin
        self.shape = tuple(4 * size for size in stock.index.shape)
        i, j, k = np.indices(self.shape)
        self.places = np.stack((i, j, k), axis=-1) * self.cell + self.origin
        self.away = np.clip(distance(self.places.reshape(-1, 3)).reshape(self.shape) / self.cell, -2.5, 2.5)

    def cut(self, poses: Poses, outline: Outline, k: int) -> float:
        """Takes off what a cutter passes on a step; the volume that goes [mm3]."""
        reach = outline.flutes + 2 * outline.widest
        low = np.minimum(poses.start[k], poses.end[k]) - reach
        high = np.maximum(poses.start[k], poses.end[k]) + reach
        first = np.maximum(np.floor((low - self.origin) / self.cell).astype(int), 0)
        last = np.minimum(np.ceil((high - self.origin) / self.cell).astype(int) + 1, self.shape)
        box = tuple(slice(a, b) for a, b in zip(first, last, strict=True))
        nearest = [
            outside(
                outline, self.places[box] - (poses.start[k] + t * (poses.end[k] - poses.start[k])), poses.axis_end[k]
            )
            / self.cell
            for t in (0.0, 0.5, 1.0)
        ]
        d0, d1, d2 = nearest
        c = 2 * (d0 + d2 - 2 * d1)
        b = d2 - d0 - c
        t = np.clip(-0.5 * b / np.maximum(c, 1e-7), 0.0, 1.0)
        least = np.minimum(np.minimum(d0, d2), np.minimum(d1, np.where(c > 1e-7, d0 + t * (b + c * t), d1)))
        old = self.away[box].copy()
        new = np.minimum(old, np.clip(least, -2.5, 2.5))
        self.away[box] = new
        return float((np.clip(old, -0.5, 0.5) - np.clip(new, -0.5, 0.5)).sum()) * self.cell**3

    def values(self, places: Array) -> Array:
        """Distances at places (n, 3), straight between cells [mm]."""
        at = ((places - self.origin) / self.cell).T
        return np.asarray(map_coordinates(self.away, at, order=1, mode="constant", cval=-2.5)) * self.cell

    def looked(self, poses: Poses, outline: Outline, k: int, ahead: Array, count: int = 720) -> Array:
        """Engaged angle of each ring on the way to a place ahead, by samples alone [rad]."""
        rings, a = rings_of(outline), poses.axis_end[k]
        way = ahead - poses.start[k]
        forward = way - (way @ a) * a
        forward /= np.linalg.norm(forward)
        phi = 2 * np.pi * np.arange(count) / count
        u = np.sin(phi)[:, None] * forward + np.cos(phi)[:, None] * np.cross(a, forward)
        out = np.zeros(len(rings))
        for n in range(len(rings)):
            vn = (np.sin(rings.kappa[n]) * u - np.cos(rings.kappa[n]) * a) @ way
            there = poses.start[k] + way + rings.r[n] * u + rings.z[n] * a
            bites = np.minimum(self.values(there) - 0.01 * vn, vn)
            out[n] = (bites > 0).sum() * 2 * np.pi / count
        return out


def outside(outline: Outline, off: Array, axis: Array) -> Array:
    """Distance of places from a cutter that stands at the origin, negative in it [mm]."""
    z = off @ axis
    r = np.sqrt(np.maximum((off**2).sum(axis=-1) - z**2, 0.0))
    dr, dz, s, c = r - outline.flat, z - outline.corner, np.sin(outline.slant), np.cos(outline.slant)
    corner = (dr >= 0) & (dr * s + dz * c <= 0)
    d = np.where(corner, np.hypot(dr, dz), np.maximum(dr * c - dz * s, -dz)) - outline.corner
    return np.asarray(np.maximum(d, np.maximum(z - outline.flutes, r - outline.widest)))
