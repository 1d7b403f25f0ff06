"""A cutter along its steps through the stock: engaged angles, depth, removed volume, and what should not be touched."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, engine
from lesna.stock.field import HeightMap
from lesna.stock.steps import Steps

#: intervals a step can have; as the kernel has it
MOST = 6
#: rim samples a half turn, at most so many cells apart
_SAMPLES, _APART = 75, 1.6
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
    found : array (n, MOST, 3)
        Entry and exit from the left of the feed, clockwise [rad], and how high material stands above the tip [mm].
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
        return cls(np.zeros(n, dtype=np.int64), np.zeros((n, MOST, 3)), np.zeros(n), np.zeros((n, 2)))

    @classmethod
    def joined(cls, parts: Sequence[Engagement]) -> Engagement:
        """Stretches one after the other."""
        names = ("counts", "found", "volume", "beyond")
        return cls(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))

    @property
    def angle(self) -> Array:
        """Engaged angle [rad]; every interval counts, whatever its depth."""
        return np.asarray((self._valid * (self.found[:, :, 1] - self.found[:, :, 0])).sum(axis=1))

    @property
    def depth(self) -> Array:
        """Greatest depth [mm]."""
        return np.asarray((self._valid * self.found[:, :, 2]).max(axis=1))

    @property
    def _valid(self) -> Array:
        return np.arange(MOST)[None, :] < self.counts[:, None]

    def swept(self, radius: float, length: Array) -> Array:
        """Volume that the engaged angles take off on each step [mm3]: what is computed with, beside what the cells count.

        Parameters
        ----------
        radius : float
            Of the cutter [mm].
        length : array (n,)
            Length of each step across the table [mm].
        """
        a, b, d = self.found[:, :, 0], self.found[:, :, 1], self.found[:, :, 2]
        return np.asarray(radius * length * (self._valid * (np.cos(a) - np.cos(b)) * d).sum(axis=1))


def walk(
    stock: HeightMap,
    steps: Steps,
    radius: float,
    tell: Callable[[int, int], None] | None = None,
    after: Callable[[int], None] | None = None,
) -> Engagement:
    """Cuts the stock along steps; the map is changed.

    Parameters
    ----------
    stock : HeightMap
        The stock, which is cut.
    steps : Steps
        Where the tip goes.
    radius : float
        Of the cylinder that is cut with [mm].
    tell : callable or None
        Told (done, total) steps; may raise to stop [-].
    after : callable or None
        Called with the number of steps done, now and then, to look at the stock as it is then.

    Returns
    -------
    Engagement
        What is met on each step.
    """
    run = engine.kernel("stock_walk")
    n = len(steps)
    counts, found = np.zeros(n, dtype=np.int64), np.zeros((n, MOST, 3))
    volume, beyond = np.zeros(n), np.zeros((n, 2))
    samples = max(_SAMPLES, int(np.pi * radius / (_APART * stock.cell)) + 2)
    apart = ~steps.joined
    apart[:1] = True  # wherever the steps are taken from
    begins = np.flatnonzero(apart)
    ends = np.append(begins[1:], n)
    chunk = _CHUNK if after is None else max(min(_CHUNK, n // _LOOKS), 1)
    for first, last in zip(begins.tolist(), ends.tolist(), strict=True):
        for begin in range(first, last, chunk):
            if tell is not None:
                tell(begin, n)
            end = min(begin + chunk, last)
            points = np.concatenate((steps.start[begin : begin + 1], steps.end[begin:end]))
            run(stock.cells, points, np.ascontiguousarray(steps.heading[begin:end]), steps.way[begin:end],
                *stock.origin, stock.cell, radius, samples, counts[begin:end], found[begin:end], volume[begin:end],
                beyond[begin:end])  # fmt: skip
            if after is not None:
                after(end)
    return Engagement(counts, found, volume, beyond)


def highest_within(stock: HeightMap, places: Array, radius: float) -> Array:
    """How far material stands above places within a radius [mm]: what a holder's face there would touch.

    Parameters
    ----------
    stock : HeightMap
        The stock as it is.
    places : array (n, 3)
        Middle of a disc [mm].
    radius : float
        Of the disc [mm].

    Returns
    -------
    array (n,)
        Above 0 where it touches.
    """
    out = np.zeros((len(places), 1))
    engine.kernel("stock_strikes")(stock.cells, np.ascontiguousarray(places), *stock.origin, stock.cell, radius, out)
    return out[:, 0]
