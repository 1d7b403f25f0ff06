"""The feeds of a path: of the cut, on the way in, of links, on arcs along walls, and where more is engaged than wanted."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import replace

import numpy as np

from lesna.nc.post import Block, Stretch
from lesna.paths.arcs import Segment, fitted
from lesna.paths.way import Intent, Leg, Way
from lesna.physics import Array
from lesna.planning.cut.result import Result
from lesna.planning.routes.feeds import AS_ARCS, SLOW, feeds_of
from lesna.planning.routes.wish import Wish

#: pieces of a move shorter than this share of it are not parted [-]
_HAIR = 1e-3
#: height over the top at which a feed takes over from a rapid [mm]
_OVER = 1.0
#: chords become arcs within this share of the stepover
_OF_STEPOVER = 0.01
#: links in the open may lie further beside [mm]
_OPEN = 0.01
#: the feed of the middle is raised on outer arcs along walls by no more than this, and cut back on inner ones to no less
_MOST, _LEAST = 1.5, 0.1


def stretches_of(way: Way, result: Result, wish: Wish, along_walls: Collection[Intent]) -> tuple[Stretch, ...]:
    """A way as moves with feeds."""
    parts, of = result.setup.parts, feeds_of(result.setup, result.state)
    most, R = of.most, parts.tool.DC / 2
    feeds = {
        "cut": float(of.cut),
        "wall": float(of.cut),
        "link": float(of.link),
        "entry": float(of.entry),
        "retract": float(of.link),
    }
    tolerance = min(AS_ARCS, _OF_STEPOVER * parts.cut.ae_mm)

    def steps(leg: Leg) -> list[Block]:
        if leg.intent == "link":
            return _clear(leg, feeds["link"], _OPEN) if leg.clear and wish.arcs else _slowed(leg, feeds, SLOW * R)
        made = _steps(leg, feeds[leg.intent], wish.arcs, tolerance)
        if leg.intent == "entry":
            made = _plunged(leg, made, float(of.plunge))
        if wish.edge_feed and leg.intent in along_walls:
            made = [_at_the_edge(step, before, R, most) for step, before in zip(made, _starts(leg, made), strict=True)]
        return made

    return tuple(Stretch(leg.intent, tuple(steps(leg))) for leg in way.legs)


def _plunged(leg: Leg, steps: list[Block], feed: float) -> list[Block]:
    """A way in with the feed of a plunge where it goes straight down."""
    out = []
    for step, before in zip(steps, leg.points[:-1], strict=True):
        down, across = float(before[2]) - step.end[2], math.hypot(step.end[0] - before[0], step.end[1] - before[1])
        out.append(replace(step, feed=min(step.feed, feed)) if down > across else step)
    return out


def _starts(leg: Leg, steps: list[Block]) -> list[tuple[float, float]]:
    """Where each move begins."""
    x, y, _ = leg.points[0].tolist()
    return [(x, y), *(step.end[:2] for step in steps[:-1])]


def _at_the_edge(step: Block, start: tuple[float, float], R: float, most: float) -> Block:
    """An arc's feed for the middle so that the edge at the wall on its right keeps the feed of the straight.

    ``vf rho / (rho + R)`` inside a corner, ``vf rho / (rho - R)`` round one.
    """
    if step.centre is None:
        return step
    rho = math.dist(start, step.centre)
    is_inside = step.kind == 3
    share = rho / (rho + R) if is_inside else rho / max(rho - R, rho / _MOST)
    return replace(step, feed=min(step.feed * min(max(share, _LEAST), _MOST), most))


#: where along a move (from, to) less feed is wanted, and the share of it that is kept [-]
Span = tuple[float, float, float]


def eased(stretches: tuple[Stretch, ...], spans: dict[tuple[int, int], list[Span]]) -> tuple[Stretch, ...]:
    """Moves whose feed is taken back where less is wanted; they are parted there."""
    at, out = (0.0, 0.0, 0.0), []
    for i, stretch in enumerate(stretches):
        steps: list[Block] = []
        for j, step in enumerate(stretch.steps):
            steps += _parted(step, at, spans[i, j]) if (i, j) in spans else [step]
            at = step.end
        out.append(replace(stretch, steps=tuple(steps)))
    return tuple(out)


def _parted(step: Block, start: tuple[float, float, float], spans: list[Span]) -> list[Block]:
    pieces, at = [], 0.0
    for a, b, share in spans:
        if a > at + _HAIR:
            pieces.append((a, 1.0))
        pieces.append((b, share))
        at = b
    if at < 1.0 - _HAIR:
        pieces.append((1.0, 1.0))
    pieces[-1] = (1.0, pieces[-1][1])
    return [
        replace(step, end=step.end if to == 1.0 else _along(step, start, to), feed=step.feed * share)
        for to, share in pieces
    ]


def _along(step: Block, start: tuple[float, float, float], share: float) -> tuple[float, float, float]:
    """The place on a move so far along it."""
    z = start[2] + share * (step.end[2] - start[2])
    if step.centre is None:
        return (start[0] + share * (step.end[0] - start[0]), start[1] + share * (step.end[1] - start[1]), z)
    cx, cy = step.centre
    a, b = (math.atan2(p[1] - cy, p[0] - cx) for p in (start, step.end))
    sweep = (b - a) % (2 * math.pi) if step.kind == 3 else -((a - b) % (2 * math.pi))
    r, angle = math.dist(start[:2], step.centre), a + share * sweep
    return (cx + r * math.cos(angle), cy + r * math.sin(angle), z)


def _steps(leg: Leg, feed: float, arcs: bool, tolerance: float) -> list[Block]:
    if leg.intent == "retract":
        return _over(leg, feed)
    level = np.ptp(leg.points[:, 2]) < 1e-9
    if leg.intent in ("cut", "wall") and arcs and level:
        z = float(leg.points[0, 2])
        return [_step(piece, z, feed) for piece in fitted(leg.points[:, :2], tolerance)]
    return [Block(1, (x, y, z), feed) for x, y, z in leg.points[1:].tolist()]


def _slowed(leg: Leg, feeds: dict[str, float], near: float) -> list[Block]:
    """A link that goes at the feed of the cut where it leaves and reaches the front: there it may brush material."""
    gone = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(leg.points, axis=0), axis=1)))
    whole = float(gone[-1])
    marks = [mark for mark in (near, whole - near) if 0 < mark < whole] if whole > 2 * near else []
    at: Array = np.unique(np.append(gone[1:], marks))
    places = np.stack([np.interp(at, gone, leg.points[:, axis]) for axis in range(3)], axis=1)
    begins = np.append(0.0, at[:-1])
    slow = (begins < near - 1e-9) | (at > whole - near + 1e-9)
    return [
        Block(1, (x, y, z), feeds["cut"] if is_slow else feeds["link"])
        for (x, y, z), is_slow in zip(places.tolist(), slow.tolist(), strict=True)
    ]


def _clear(leg: Leg, feed: float, tolerance: float) -> list[Block]:
    """A link in the open: arcs that rise, stay and fall with the way."""
    z = leg.points[:, 2]
    turns = [0, *(np.flatnonzero(np.sign(np.diff(z))[1:] != np.sign(np.diff(z))[:-1]) + 1).tolist(), len(z) - 1]
    out = []
    for a, b in zip(turns[:-1], turns[1:], strict=True):
        pieces = fitted(leg.points[a : b + 1, :2], tolerance)
        if not pieces:
            out.append(Block(1, (*leg.points[b, :2].tolist(), float(z[b])), feed))
            continue
        gone = np.append(0.0, np.cumsum(np.hypot(*np.diff(leg.points[a : b + 1, :2], axis=0).T)))
        for piece in pieces:
            # a piece ends at one of the places it was fitted to, or between two of them
            k = int(np.argmin(np.hypot(*(leg.points[a : b + 1, :2] - piece.end).T)))
            out.append(_step(piece, float(z[a] + (z[b] - z[a]) * gone[k] / gone[-1]), feed))
        out[-1] = replace(out[-1], end=(*out[-1].end[:2], float(z[b])))
    return out


def _step(piece: Segment, z: float, feed: float) -> Block:
    end = (*piece.end, z)
    return Block(1, end, feed) if piece.centre is None else Block(3 if piece.sweep > 0 else 2, end, feed, piece.centre)


def _over(leg: Leg, feed: float) -> list[Block]:
    """Rapids over the top of the part; the last way down is fed, since a cutter may brush what stands beside it."""
    out = []
    last = len(leg.points) - 2
    for number, (before, (x, y, z)) in enumerate(zip(leg.points[:-1].tolist(), leg.points[1:].tolist(), strict=True)):
        if number == last and z < before[2] - 1e-9:
            out += [Block(0, (x, y, min(max(z, 0.0) + _OVER, before[2]))), Block(1, (x, y, z), feed)]
        else:
            out.append(Block(0, (x, y, z)))
    return out
