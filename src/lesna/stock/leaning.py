"""A cutter that leans along its steps through stock in bricks: which pieces of its edge are engaged from where to where, and what goes."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np
from numpy.typing import NDArray

from lesna.model.work import STEADY, Pulse
from lesna.physics import Array, engine
from lesna.stock.bricks import REACH, SIDE, Bricks
from lesna.stock.outline import Outline, Rings, rings_of
from lesna.stock.poses import Poses

#: samples of a ring at least and at most, at most so many cells apart
_SAMPLES, _MOST_SAMPLES, _APART = 72, 240, 1.5
#: columns of a look, as the kernel has them
_LOOK = 14
#: steps between two looks at whether somebody still wants them, and looks at the stock while a cutter walks
_CHUNK, _LOOKS = 2000, 20
#: spans that a chunk has room for at first, for each step
_SPANS = 12


@dataclass(frozen=True)
class Met:
    """What a cutter meets on each step.

    Attributes
    ----------
    rings : Rings
        Pieces of its edge.
    begins : array (n + 1,) of int
        Number of spans before each step.
    ring : array (m,) of int
        Ring of each span.
    span : array (m, 3)
        Entry and exit from the left of the feed, clockwise [rad], and the share of the ring's edge that is in [-].
    way : array (n, 4)
        Way of the tip forward and along the axis over its length [-], and of the axis forward and left [1/mm].
    frame : array (n, 3, 3)
        Rows forward, left and axis.
    volume : array (n,)
        Removed [mm3].
    touched : array (n, 3)
        How deep shank and holder stand in material, and height over the tip of material over the flutes in their own way [mm].
    """

    rings: Rings
    begins: NDArray[np.int64]
    ring: NDArray[np.int64]
    span: Array
    way: Array
    frame: Array
    volume: Array
    touched: Array

    @classmethod
    def empty(cls, n: int, rings: Rings) -> Met:
        """Steps that meet nothing."""
        return cls(rings, np.zeros(n + 1, np.int64), np.zeros(0, np.int64), np.zeros((0, 3)), np.zeros((n, 4)),
                   np.broadcast_to(np.eye(3), (n, 3, 3)).copy(), np.zeros(n), np.zeros((n, 3)))  # fmt: skip

    @classmethod
    def joined(cls, parts: Sequence[Met], rings: Rings) -> Met:
        """Stretches one after the other; those that were not looked at have no spans."""
        counts = np.concatenate([np.diff(part.begins) for part in parts])
        arrays = {
            name: np.concatenate([getattr(part, name) for part in parts])
            for name in ("ring", "span", "way", "frame", "volume", "touched")
        }
        return cls(rings, np.append(0, np.cumsum(counts)), **arrays)

    @cached_property
    def step(self) -> NDArray[np.int64]:
        """Step of each span (m,)."""
        return np.repeat(np.arange(len(self.volume)), np.diff(self.begins))

    def _most(self, values: Array) -> Array:
        """Greatest value of the spans of each step, 0 where it has none."""
        out = np.zeros(len(self.volume))
        np.maximum.at(out, self.step, values)
        return out

    @cached_property
    def _by_ring(self) -> tuple[Array, NDArray[np.int64], NDArray[np.int64]]:
        """Engaged angle of each ring that is engaged on a step, that step and ring."""
        key = self.step * len(self.rings) + self.ring
        keys, where = np.unique(key, return_inverse=True)
        angle = np.bincount(where, weights=self.span[:, 1] - self.span[:, 0], minlength=len(keys))
        return angle, keys // len(self.rings), keys % len(self.rings)

    @cached_property
    def angle(self) -> Array:
        """Engaged angle [rad]: of the ring that has most; a flat end turns on the spot and counts only alone."""
        out = np.zeros(len(self.volume))
        angle, step, ring = self._by_ring
        side = self.rings.kappa[ring] > 0
        np.maximum.at(out, step[side], angle[side])
        alone = ~side & (out[step] <= 0)
        np.maximum.at(out, step[alone], np.minimum(angle[alone], math.pi))
        return out

    @cached_property
    def depth(self) -> Array:
        """Greatest height above the tip that is engaged [mm]."""
        low, high = self.rings.low[self.ring], self.rings.high[self.ring]
        return self._most(low + np.minimum(self.span[:, 2], 1.5) * (high - low))

    @cached_property
    def widest(self) -> Array:
        """Radius of the widest engaged ring [mm]."""
        return self._most(self.rings.r[self.ring])

    @cached_property
    def stepover(self) -> Array:
        """Stepover beside a parallel pass that engages the widest ring as much [mm]."""
        angle, step, ring = self._by_ring
        out = np.zeros(len(self.volume))
        np.maximum.at(out, step, self.rings.r[ring] * (1 - np.cos(np.minimum(angle, math.pi))))
        return out

    @cached_property
    def area(self) -> Array:
        """Engaged area across the way of the tip [mm2]: what the engaged pieces of the edge sweep over its length."""
        a, b, fill = self.span.T
        tx, tz, ax, ay = self.way[self.step].T
        r, z, kappa = self.rings.r[self.ring], self.rings.z[self.ring], self.rings.kappa[self.ring]
        forward = np.cos(a) - np.cos(b)
        turned = ax * forward + ay * (np.sin(b) - np.sin(a))
        swept = np.sin(kappa) * (tx * forward + z * turned) - np.cos(kappa) * (tz * (b - a) - r * turned)
        values = self.rings.edge[self.ring] * fill * r * np.maximum(swept, 0.0)
        return np.bincount(self.step, weights=values, minlength=len(self.volume))

    @cached_property
    def sines(self) -> tuple[Array, Array]:
        """Sine of the lead angle of the widest engaged ring, and its mean over the engaged edge [-]."""
        sine = np.sin(self.rings.kappa[self.ring])
        edge = self.rings.edge[self.ring] * self.span[:, 2]
        whole = np.bincount(self.step, weights=edge, minlength=len(self.volume))
        mean = np.bincount(self.step, weights=edge * sine, minlength=len(self.volume)) / np.maximum(whole, 1e-12)
        return self._most(sine), mean

    @cached_property
    def end_cuts(self) -> Array:
        """Share of the flat end that is engaged on each step [-]."""
        flat = self.rings.kappa[self.ring] == 0
        area = np.where(
            flat, self.rings.edge[self.ring] * self.rings.r[self.ring] * (self.span[:, 1] - self.span[:, 0]), 0.0
        )
        whole = 2 * math.pi * float((self.rings.edge * self.rings.r)[self.rings.kappa == 0].sum())
        return np.bincount(self.step, weights=area, minlength=len(self.volume)) / max(whole, 1e-12)


def lean_through(
    stock: Bricks, poses: Poses, outline: Outline, body: Array, pulse: Pulse = STEADY, after: Callable[[int], None] | None = None,
    *, looks: bool = True,
) -> Met:  # fmt: skip
    """Cuts the stock along steps; the bricks are changed.

    Parameters
    ----------
    stock : Bricks
        The stock.
    poses : Poses
        The steps.
    outline : Outline
        The cutter.
    body : array (b, 3)
        Height and radius of places that must not touch [mm], and whether they are of the shank (1), of the holder (2), or over the
        flutes where these have to cut (3).
    pulse : Pulse
        Told how far it is.
    after : callable or None
        Told how many steps are done, a few times.
    looks : bool
        Whether it is looked at what the rings meet; else only the stock is cut.
    """
    rings, cell, n = rings_of(outline), stock.cell, len(poses)
    if not n:
        return Met.empty(0, rings)
    table = rings.table()
    table[:, [0, 1, 4]] /= cell
    shape = outline.shape.copy()
    shape[[0, 1, 4, 5]] /= cell
    solid = np.ascontiguousarray(body / np.array([cell, cell, 1.0])) if len(body) else np.zeros((0, 3))
    count = int(np.clip(2 * math.pi * outline.widest / (_APART * cell), _SAMPLES, _MOST_SAMPLES))
    room = _room(outline, cell)
    # a look does not go beyond the feed it belongs to
    borders = np.flatnonzero(~poses.joined | np.append(True, np.diff(poses.way) != 0))
    chunk = max(min(_CHUNK, n // _LOOKS), 1) if after is not None else _CHUNK
    done: list[Met] = []
    for first, last in zip(borders.tolist(), np.append(borders[1:], n).tolist(), strict=True):
        some = poses.part(slice(first, last))
        pulse.tell(first, n)
        hear = None if after is None else partial(_heard, after, first)
        done.append(
            _stretch(stock, some, shape, table, solid, (count, room, chunk), rings, pulse.after(first, n), hear, looks)
        )
    return Met.joined(done, rings)


def _heard(after: Callable[[int], None], base: int, done: int) -> None:
    after(base + done)


def _room(outline: Outline, cell: float) -> int:
    """Bricks that a step of at most a few millimetres may touch for the first time."""
    side, up = (2 * outline.widest + 10.0) / (SIDE * cell) + 3, (outline.flutes + 10.0) / (SIDE * cell) + 3
    return int(2 * side * side * up)


def _stretch(
    stock: Bricks, poses: Poses, shape: Array, table: Array, body: Array, sizes: tuple[int, int, int], rings: Rings, pulse: Pulse,
    after: Callable[[int], None] | None, looks: bool,
) -> Met:  # fmt: skip
    """One feed, or one rapid."""
    run = engine.kernel("brick_walk")
    count, room, chunk = sizes
    n, cell = len(poses), stock.cell
    tips = np.concatenate((poses.start[:1], poses.end)) - stock.origin
    tips = np.ascontiguousarray(tips / cell)
    axes = np.ascontiguousarray(np.concatenate((poses.axis_start[:1], poses.axis_end)))
    gone = np.append(0.0, np.cumsum(poses.length)) / cell
    way = np.where(poses.way == 0, 0, 1 if looks else 2).astype(np.int64)
    begins = np.zeros(n + 1, np.int64)
    which, spans = (
        np.zeros(_SPANS * n + 64 * len(rings), np.int32),
        np.zeros((_SPANS * n + 64 * len(rings), 3), np.float32),
    )
    told, volume, touched = np.zeros((n, _LOOK)), np.zeros(n), np.zeros((n, 3))
    stock.state[2] = at = 0
    told_at = 0
    while at < n:
        stock.make_room(room)
        if len(which) - begins[at] < 8 * len(rings):
            which, spans = np.resize(which, 2 * len(which)), np.resize(spans, (2 * len(spans), 3))
        end = min(at + chunk, n)
        run(stock.index, stock.cells, stock.most, stock.free, stock.state, tips, axes, gone, way, shape, table, body, cell, REACH,
            count, room, end, begins, which, spans, told, volume, touched)  # fmt: skip
        at = int(stock.state[2])
        pulse.tell(at, n)
        if after is not None and (at - told_at >= chunk or at == n):
            after(at)
            told_at = at
    return _as_steps(rings, poses, gone, (begins, which, spans), told, cell, volume, touched)


def _as_steps(
    rings: Rings, poses: Poses, gone: Array, found: tuple[Array, NDArray[np.int32], Array], told: Array, cell: float,
    volume: Array, touched: Array,
) -> Met:  # fmt: skip
    """What was seen ahead belongs to the step in the middle of the look; told where it began, all would be half a look early."""
    begins, which, spans = found
    n = len(poses)
    taken = np.flatnonzero(told[:, 0] > 0)
    if not len(taken):
        return Met(rings, np.zeros(n + 1, np.int64), np.zeros(0, np.int64), np.zeros((0, 3)), np.zeros((n, 4)),
                   told[:, 5:].reshape(n, 3, 3), cell**3 * volume, cell * touched)  # fmt: skip
    middle = np.maximum.accumulate(gone[taken] + 0.5 * told[taken, 0])
    look = taken[np.maximum(np.searchsorted(middle, 0.5 * (gone[:-1] + gone[1:]), side="right") - 1, 0)]
    counts = np.diff(begins)[look]
    own = np.append(0, np.cumsum(counts))
    rows = np.repeat(begins[look] - own[:-1], counts) + np.arange(int(own[-1]))
    way = told[look, 1:5] / np.array([1.0, 1.0, cell, cell])
    frame = told[look, 5:].reshape(n, 3, 3)
    return Met(
        rings,
        own,
        which[rows].astype(np.int64),
        spans[rows].astype(float),
        way,
        frame,
        cell**3 * volume,
        cell * touched,
    )
