"""What a level of a floor asks of a cutter, measured on the way that its generator makes: lengths, turns, ways down, lifts.

A way is made once for a floor and kept: held passes and their links grow shorter as the stepover grows, loops as their advance does,
and rings or rows are as many as come out even. So one way, or one for each count of rings, tells of every stepover.
"""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass, field, fields, replace
from functools import cached_property, lru_cache

import numpy as np

from lesna.geometry.region import Region, region_of
from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import over_everything
from lesna.paths.demand import Demand, even_passes
from lesna.paths.finish import RUN_OUT
from lesna.paths.generators import GENERATORS, Generator
from lesna.paths.level import SKIN
from lesna.paths.offsets import deepest
from lesna.paths.slots import slot_of
from lesna.paths.walls import along_walls
from lesna.paths.way import Leg
from lesna.physics import Array
from lesna.physics.edge import engagement
from lesna.planning.routes.feeds import AS_ARCS, SLOW
from lesna.planning.routes.kept import keep, kept, key_of
from lesna.planning.routes.wish import CLEAR, PATHLESS, suiting

#: stepovers over the diameter at which held passes are measured, the one next to a cut's own standing for it; in a slot its whole width too
_HELD, _SLOTTED = (0.2, 0.5), (0.2, 0.5, 1.0)
#: stepover over the diameter at which loops are measured
_LOOPED = 0.1
#: counts of rings of which each is measured, and the step from one to the next beyond
_EACH, _STEP = 4, 1.35
#: cells across the radius for held passes; in corners and strips that rings and slots leave, how many passes are made depends on the cell,
#: so it is the path's own as far as the floor is not too large for it. One of more radii squared than this is not measured
_FINE, _LARGEST = 18.0, 3000.0
#: a stretch that falls by more than this goes down [mm]
_FALLS = 1e-6
#: turns between chords up to this are those of a curve, not corners [rad]
_SMOOTH = math.radians(30.0)
#: a stretch with this much more than the wanted stepover in it is fed slower, down to so much of its feed
_EASED_FROM, _EASED_TO = 1.05, 0.25
#: arcs that lead into a ring and out of it are so long over the stepover: they meet little
_LEAD = 1.7
#: shares of the feed that the middle keeps at least, and at most, where the edge along a wall is to keep its own
_SLOWEST, _FASTER = 0.1, 1.5
#: radius from which a curve is straight [mm], and the change in its logarithm up to which it is one curve
_STRAIGHT, _SAME_BEND = 500.0, 0.5
#: kinds of stretches on the floor
CUT, WALL, LINK, SLOT = range(4)


@dataclass(frozen=True, eq=False)
class Profile:
    """A level as one way goes over it: its runs, each of one kind, one curve and one feed, and its ways down and over everything.

    Attributes
    ----------
    stepover : float
        Of that way [mm].
    kind : array (n,) of int
        CUT, WALL, LINK or SLOT of each run on the floor.
    length : array (n,)
        Of each run [mm].
    enter, leave : array (n, 3)
        Directions at both its ends [-].
    radius : array (n,)
        Of its curve [mm].
    joined : array (n,) of bool
        Whether it goes on from the run before without stopping.
    slow : array (n,) of bool
        Runs of links that go at the feed of the cut.
    eased : array (n,)
        Share of the feed that is asked for along walls [-].
    engages : array (n,)
        Stepover of a straight cut that engages as much as an inner bend does [mm], 0 elsewhere.
    down : float
        Way of all ramps for each millimetre that they go down [-].
    lifts : int
        Ways over everything.
    across : float
        Their length [mm].
    """

    stepover: float
    kind: Array
    length: Array
    enter: Array
    leave: Array
    radius: Array
    joined: Array
    slow: Array
    eased: Array
    engages: Array
    down: float
    lifts: int
    across: float

    def eased_at(self, stepover: float) -> Array:
        """Share of the feed that is left where a bend engages more than a stepover, or is asked for along walls (n,) [-]."""
        more = self.engages > _EASED_FROM * stepover
        return self.eased * np.where(more, np.maximum(stepover / np.maximum(self.engages, 1e-9), _EASED_TO), 1.0)

    def length_of(self, kind: int) -> float:
        """Length of all runs of a kind [mm]."""
        return float(self.length[self.kind == kind].sum())


@dataclass(frozen=True, eq=False)
class Floor:
    """A floor, how it is gone over, and the ways that have been measured on it.

    Attributes
    ----------
    region : Region
        Floor and walls.
    generator : Generator
        What makes the way.
    demand : Demand
        Cutter and stock to leave.
    """

    region: Region
    generator: Generator
    demand: Demand
    _known: dict[float, Profile | InputError] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def node(self, stepover: float) -> float:
        """The stepover of the way that stands for one [mm]."""
        D, way = 2 * self.demand.radius, self.generator.id
        if way in ("held", "slot"):
            shares = _SLOTTED if way == "slot" else _HELD
            return D * min(shares, key=lambda share: abs(math.log(share * D / stepover)))
        if way == "loops":
            return _LOOPED * D
        return D if way == "walls" else self.span / _thinned(even_passes(self.span, stepover))

    def scale(self, stepover: float, measured: float) -> float:
        """How many times as long the passes and links at a stepover are as those of the way that was measured at another [mm]."""
        way = self.generator.id
        if way in ("held", "slot"):
            return measured / stepover
        if way == "loops":
            before, now = (
                engagement.trochoid_advance(self.demand.radius, self._loop, ae) for ae in (measured, stepover)
            )
            return float(before / now)
        return 1.0 if way == "walls" else even_passes(self.span, stepover) / even_passes(self.span, measured)

    def asked(self, stepover: float) -> float:
        """A stepover over the one that rings are apart where they come out even [-], 1 where passes are not rings."""
        return stepover * even_passes(self.span, stepover) / self.span if self.generator.id == "offsets" else 1.0

    @cached_property
    def span(self) -> float:
        """What rings or rows divide evenly [mm]."""
        if self.generator.id == "rows":
            left, low, right, high = self.region.cleared.bounds
            return float(min(right - left, high - low))
        room, _ = deepest(self.region, self.demand.radius + self.demand.wall + SKIN)
        near = self.demand.radius if self.region.is_closed else 0.0
        return float(max(room - near - self.demand.wall - SKIN, 1e-3))

    @cached_property
    def _loop(self) -> float:
        """Radius of the cutter's loops in a slot [mm]."""
        return max((slot_of(self.region).width - 2 * self.demand.wall) / 2 - self.demand.radius, 1e-3)

    def is_known(self, stepover: float) -> bool:
        """Whether the way that stands for a stepover has been measured."""
        return self.node(stepover) in self._known

    def known(self, stepover: float) -> Profile | None:
        """The profile that stands for a stepover if it has been measured; else the next one that has, None without any.

        Raises
        ------
        InputError
            When no way can be made on this floor.
        """
        node, there = self.node(stepover), list(self._known)
        found = self._known[min(there, key=lambda other: abs(math.log(other / node)))] if there else None
        if isinstance(found, InputError):
            raise found
        return found

    def profile(self, stepover: float, pulse: Pulse = STEADY) -> Profile:
        """The profile that stands for a stepover, measured where it is not known (errors as in `known`)."""
        node = self.node(stepover)
        # who needs the same way at the same time waits for it instead of making it again
        with self._lock:
            found = self._known.get(node)
            if found is None:
                try:
                    found = _measured(self, node, pulse)
                except InputError as error:
                    found = error
                self._known[node] = found
        if isinstance(found, InputError):
            raise found
        return found


def _thinned(count: int) -> int:
    """A count of rings that stands for another: each of the first, then in growing steps."""
    chosen = 1
    while chosen < count and not (chosen >= _EACH and count < chosen * _STEP):
        chosen = chosen + 1 if chosen < _EACH else max(chosen + 1, round(chosen * _STEP))
    return chosen


def evenly_divided(parts: CutParts) -> float | None:
    """What the rings or rows of a cut divide evenly [mm]; None where its passes lie otherwise, or no path is made for it."""
    try:
        floor = floor_of(parts)
        return floor.span if floor.generator.id in ("offsets", "rows") else None
    except InputError:
        return None


def floor_of(parts: CutParts) -> Floor:
    """The floor of a cut's feature, and what makes its path where nothing else is asked for.

    Raises
    ------
    InputError
        When no path is made for it.
    """
    cut, feature = parts.cut, parts.cut.feature
    if feature is None or not feature.depth_mm:
        raise InputError("a path needs a feature with a depth; give the cut one", "feature")
    return _floor(feature, cut.role, cut.strategy, parts.tool.DC, parts.tool.centre_cutting)


@lru_cache(maxsize=256)
def _floor(feature: Feature, role: str, strategy: str, DC: float, plunges: bool) -> Floor:
    if feature.kind in PATHLESS:
        raise InputError(f"no path is made for {PATHLESS[feature.kind]}", "feature.kind")
    # seen from above, how deep it is plays no part, nor does the school whose way it is
    shape = feature.model_copy(update={"depth_mm": 1.0, "stock_floor_mm": 0.0})
    return _gone_over(shape, suiting(role, strategy, region_of(shape), DC / 2), DC, plunges)


@lru_cache(maxsize=256)
def _gone_over(shape: Feature, way: str, DC: float, plunges: bool) -> Floor:
    demand = Demand(DC / 2, DC, shape.stock_wall_mm, clear=CLEAR, plunges=plunges)
    return Floor(region_of(shape), GENERATORS[way], demand)


def _measured(floor: Floor, node: float, pulse: Pulse) -> Profile:
    """The profile as it was measured before on such a floor, else as it is measured now (errors as it was, too)."""
    key = key_of(floor.region, floor.generator.id, replace(floor.demand, stepover=node))
    found = kept(key)
    if isinstance(found, InputError):
        raise found
    if found is not None and set(found) == {one.name for one in fields(Profile)}:
        numbers = {name: float(found[name]) for name in ("stepover", "down", "across")}
        return Profile(**{**found, **numbers, "lifts": int(found["lifts"])})
    try:
        made = _made(floor, node, pulse)
    except InputError as error:
        keep(key, error)
        raise
    keep(key, dict(vars(made)))
    return made


def _made(floor: Floor, node: float, pulse: Pulse) -> Profile:
    """Makes one level as deep as the radius, and its closing pass."""
    region, R = floor.region, floor.demand.radius
    left, low, right, high = region.bounds(0.0)
    whole = (right - left) * (high - low) / (R * R)
    if whole > _LARGEST:
        raise InputError("the floor is too large for its way to be measured beforehand", "feature")
    fine = _FINE if floor.generator.id == "held" else min(floor.demand.fine, _FINE * math.sqrt(_LARGEST / whole))
    demand = replace(floor.demand, stepover=min(node, 2 * R), top=0.0, floor=-R, fine=fine)
    legs = list(floor.generator.make(region, demand, pulse).legs)
    if floor.generator.closes:
        legs += along_walls(region, R, demand.wall, demand.floor, RUN_OUT * R)
    way = over_everything(legs, CLEAR, region.keep_out, R)
    rows: list[tuple[Array, ...]] = []
    down, lifts, across, goes_on = 0.0, 0, 0.0, False
    for leg in way.legs:
        if leg.intent == "retract":
            lifts += 1
            across += float(np.hypot(*np.diff(leg.points[:, :2], axis=0).T).sum())
            goes_on = False
            continue
        points = leg.points
        if leg.intent == "entry":
            low = int(np.argmax(points[:, 2] <= demand.floor + _FALLS))
            fallen = float(points[0, 2] - demand.floor)
            if fallen > _FALLS:
                down += float(np.linalg.norm(np.diff(points[: low + 1], axis=0), axis=1).sum()) / fallen
                points, goes_on = points[low:], False
        if len(points) > 1:
            rows.append(_chords(points, leg, demand, floor.generator, goes_on))
            goes_on = True
    if not rows:
        raise InputError("leaves nothing to cut here", "feature")
    runs = _runs(*(np.concatenate(parts) for parts in zip(*rows, strict=True)))
    kind, length, enter, leave, radius, joined, slow, eased, engages = runs
    return Profile(node, kind, length, enter, leave, radius, joined, slow, eased, engages, down, lifts, across)


def _runs(
    begins: Array, kind: Array, length: Array, direction: Array, radius: Array, joined: Array, slow: Array, eased: Array,
    engages: Array,
) -> tuple[Array, ...]:  # fmt: skip
    """Chords as runs, in the order of a profile's fields; along a run the eased share is the mean by time."""
    first = np.flatnonzero(begins)
    last = np.append(first[1:], len(length)) - 1
    whole = np.add.reduceat(length, first)
    share = whole / np.add.reduceat(length / eased, first)
    engaged = np.add.reduceat(length * engages, first) / whole
    return (
        kind[first],
        whole,
        direction[first],
        direction[last],
        radius[first],
        joined[first],
        slow[first],
        share,
        engaged,
    )


_KIND = {"cut": CUT, "wall": WALL, "link": LINK, "entry": SLOT}


def _chords(points: Array, leg: Leg, demand: Demand, generator: Generator, goes_on: bool) -> tuple[Array, ...]:
    """Its chords: where runs begin, kind, length, direction, radius, joined, slow, eased, engages."""
    slows = leg.intent == "link" and not leg.clear
    if slows:
        points = _marked(points, SLOW * demand.radius)
    chord = np.diff(points, axis=0)
    length = np.linalg.norm(chord, axis=1)
    chord, length = chord[length > 0], length[length > 0]
    unit = chord / length[:, None]
    n = len(length)
    turn = np.zeros(n + 1)
    heading = np.unwrap(np.arctan2(unit[:, 1], unit[:, 0]))
    turn[1:-1] = np.diff(heading)
    # a bend is shared by the chords on both its sides
    bend = np.zeros(n + 1)
    if n > 1:
        bend[1:-1] = np.where(np.abs(turn[1:-1]) <= _SMOOTH, turn[1:-1] / (0.5 * (length[1:] + length[:-1])), 0.0)
    curve = np.where(np.abs(bend[:-1]) > np.abs(bend[1:]), bend[:-1], bend[1:])
    radius = 1.0 / np.maximum(np.abs(curve), 1e-9)
    joined = np.ones(n, dtype=bool)
    joined[:1] = goes_on
    slow = np.zeros(n, dtype=bool)
    if slows:
        gone = np.cumsum(length) - 0.5 * length
        slow = (gone < SLOW * demand.radius) | (gone > length.sum() - SLOW * demand.radius)
    eased, engages = np.ones(n), np.zeros(n)
    if generator.id == "offsets" and leg.intent == "cut" and not leg.taken.any():
        # walls lie on the right: a bend to the left is an inner corner, in which more is engaged
        gone, lead = np.cumsum(length) - 0.5 * length, _LEAD * demand.stepover
        inside = (curve > 1e-6) & (gone > lead) & (gone < length.sum() - lead)
        angle = engagement.concave_angle(demand.radius, demand.stepover, radius[inside])
        engages[inside] = engagement.straight_equivalent(demand.radius, angle)
    if leg.intent == "wall" or generator.id == "walls":
        # the edge keeps its feed: the middle goes slower in inner corners and faster round outer ones
        R = demand.radius
        share = np.where(curve > 0, radius / (radius + R), radius / np.maximum(radius - R, radius / _FASTER))
        # chords that are too long to become an arc keep their feed
        is_arc = (np.abs(curve) > 1e-6) & (length**2 * np.abs(curve) / 8.0 <= AS_ARCS)
        eased = np.where(is_arc, np.clip(share, _SLOWEST, _FASTER), 1.0)
    begins = np.ones(n, dtype=bool)
    curved = np.minimum(radius, _STRAIGHT)
    same = np.abs(np.log(curved[1:] / curved[:-1])) < _SAME_BEND
    begins[1:] = (
        ~same | (np.abs(turn[1:-1]) > _SMOOTH) | (slow[1:] != slow[:-1]) | (np.abs(unit[1:, 2] - unit[:-1, 2]) > 0.1)
        | ((engages[1:] > 0) != (engages[:-1] > 0))
    )  # fmt: skip
    return begins, np.full(n, _KIND[leg.intent]), length, unit, radius, joined, slow, eased, engages


def _marked(points: Array, near: float) -> Array:
    """A way with places so far from both its ends."""
    gone = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    whole = float(gone[-1])
    at = np.unique(np.append(gone, [mark for mark in (near, whole - near) if 0 < mark < whole and whole > 2 * near]))
    return np.stack([np.interp(at, gone, points[:, axis]) for axis in range(3)], axis=1)
