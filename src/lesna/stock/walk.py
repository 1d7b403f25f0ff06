"""A cutter along its steps through the stock: engaged angles, depth, removed volume, and what should not be touched."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.model.work import STEADY, Pulse
from lesna.physics import Array, engine
from lesna.stock.body import Body
from lesna.stock.field import HeightMap
from lesna.stock.steps import Steps

#: intervals a step can have; as the kernel has it
MOST = 6
#: rim samples a half turn, at most so many cells apart
_SAMPLES, _APART = 75, 1.6
#: intervals a level of a tip can have; as the kernel has it
_PER_LEVEL = 2
#: levels skip samples of the rim by twos, so that a power of two of them makes the half turn
_STRIDES = 8
#: steps between two looks at whether somebody still wants them
_CHUNK = 2000
#: looks at the stock while a cutter walks
_LOOKS = 48


@dataclass(frozen=True)
class Engagement:
    """What a cutter meets on each step.

    Attributes
    ----------
    counts : array (n,) of int
        Engaged intervals.
    found : array (n, most, 4)
        Entry and exit from the left of the feed, clockwise [rad], and from where to where material is engaged so, above the tip:
        upper, then lower end [mm]. Those of a tip's levels come first, then those of the cylinder.
    volume : array (n,)
        Removed, counted in cells [mm3].
    beyond : array (n, 2)
        2 to the power of each interval with air outside its left and its right end, added up.
    """

    counts: NDArray[np.int64]
    found: Array
    volume: Array
    beyond: Array

    @classmethod
    def empty(cls, n: int) -> Engagement:
        """Steps that meet nothing."""
        return cls(np.zeros(n, dtype=np.int64), np.zeros((n, MOST, 4)), np.zeros(n), np.zeros((n, 2)))

    @classmethod
    def joined(cls, parts: Sequence[Engagement]) -> Engagement:
        """Stretches one after the other."""
        most = max((part.found.shape[1] for part in parts), default=MOST)
        wide = [np.pad(part.found, ((0, 0), (0, most - part.found.shape[1]), (0, 0))) for part in parts]
        names = ("counts", "volume", "beyond")
        counts, volume, beyond = (np.concatenate([getattr(part, name) for part in parts]) for name in names)
        return cls(counts, np.concatenate(wide), volume, beyond)

    @cached_property
    def angle(self) -> Array:
        """Engaged angle [rad]: at the level that has most; there every interval counts, whatever its depth."""
        return np.asarray(np.max([span for _, span in self._levels()], axis=0))

    def _levels(self) -> Iterator[tuple[float, Array]]:
        """Lower end of each level [mm], and the angle that it has engaged on every step [rad]."""
        spans, lower = self._valid * (self.found[:, :, 1] - self.found[:, :, 0]), self.found[:, :, 3]
        # intervals of one level have one lower end
        for low in np.unique(lower).tolist() if lower.any() else (0.0,):
            yield low, np.where(lower == low, spans, 0.0).sum(axis=1)

    @cached_property
    def depth(self) -> Array:
        """Greatest depth [mm]."""
        return np.asarray((self._valid * self.found[:, :, 2]).max(axis=1))

    @property
    def _valid(self) -> Array:
        return np.arange(self.found.shape[1])[None, :] < self.counts[:, None]

    def stepover(self, body: Body) -> Array:
        """Stepover beside a parallel pass of the same cutter that engages as much [mm]: of the level that it is greatest on."""
        out = np.zeros(len(self.counts))
        for low, span in self._levels():
            above = body.edges[body.edges > low + 1e-9]
            middle = 0.5 * (low + float(above[0])) if len(above) else low
            radius = float(body.radius_at(np.array([middle]))[0])
            out = np.maximum(out, radius * (1 - np.cos(np.minimum(span, np.pi))))
        return out

    def swept(self, body: Body, length: Array) -> Array:
        """Volume that the engaged angles take off on each step [mm3]: what is computed with, beside what the cells count."""
        a, b, high, low = (self.found[:, :, column] for column in range(4))
        wide = body.radius_at(0.5 * (high + low)) * (np.cos(a) - np.cos(b))
        return np.asarray(length * (self._valid * wide * (high - low)).sum(axis=1))


def walk(
    stock: HeightMap,
    steps: Steps,
    body: Body,
    pulse: Pulse = STEADY,
    after: Callable[[int], None] | None = None,
) -> Engagement:
    """Cuts the stock along steps; the map is changed."""
    run = engine.kernel("stock_walk")
    n, levels = len(steps), max(len(body.edges) - 1, 0)
    counts, found = np.zeros(n, dtype=np.int64), np.zeros((n, _PER_LEVEL * levels + MOST, 4))
    volume, beyond = np.zeros(n), np.zeros((n, 2))
    samples = max(_SAMPLES, int(np.pi * body.radius / (_APART * stock.cell)) + 2)
    if levels:
        samples += (1 - samples) % _STRIDES
    shape = np.array((body.radius, body.flat, body.corner, body.rise, body.foot))
    scales = body.radius_at(body.edges) / body.radius
    top = stock.top if levels else 0.0
    apart = ~steps.joined
    apart[:1] = True  # wherever the steps are taken from
    begins = np.flatnonzero(apart)
    ends = np.append(begins[1:], n)
    chunk = _CHUNK if after is None else max(min(_CHUNK, n // _LOOKS), 1)
    for first, last in zip(begins.tolist(), ends.tolist(), strict=True):
        for begin in range(first, last, chunk):
            pulse.tell(begin, n)
            end = min(begin + chunk, last)
            points = np.concatenate((steps.start[begin : begin + 1], steps.end[begin:end]))
            run(stock.cells, points, np.ascontiguousarray(steps.heading[begin:end]), steps.way[begin:end], *stock.origin,
                stock.cell, shape, body.edges, scales, top, samples, counts[begin:end], found[begin:end], volume[begin:end],
                beyond[begin:end])  # fmt: skip
            if after is not None:
                after(end)
    return Engagement(counts, found, volume, beyond)


def highest_within(stock: HeightMap, places: Array, radius: float) -> Array:
    """How far material stands above places within a radius [mm]: what a holder's face there would touch."""
    out = np.zeros((len(places), 1))
    engine.kernel("stock_strikes")(stock.cells, np.ascontiguousarray(places), *stock.origin, stock.cell, radius, out)
    return out[:, 0]
