"""Short chords become lines and arcs within a tolerance, tangent where they meet: pairs of arcs between places with known headings."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, engine

#: radii beyond this are straight [mm]
_STRAIGHT = 5_000.0
#: a piece turns by no more than this [rad]
_MOST_TURN = math.radians(160.0)
#: chords that bend by more are a corner that stays one [rad]
_CORNER = math.radians(40.0)
#: first run of chords that is tried as one piece
_FIRST = 4

#: x and y of a place [mm], or of a heading of length 1
Place = tuple[float, float]


@dataclass(frozen=True)
class Segment:
    """A line or an arc.

    Attributes
    ----------
    end : tuple of float
        Where it ends (x, y) [mm].
    centre : tuple of float or None
        Of the arc (x, y), None for a line [mm].
    sweep : float
        Angle of the arc, positive to the left [rad].
    """

    end: Place
    centre: Place | None = None
    sweep: float = 0.0


def fitted(points: Array, tolerance: float) -> list[Segment]:
    """Lines and arcs through chords; the first point is where they begin."""
    points = np.ascontiguousarray(points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 1e-9)], dtype=float)
    if len(points) < 2:
        return []
    run = _Run(points, tolerance)
    out: list[Segment] = []
    begin = 0
    while begin < len(points) - 1:
        begin, pieces = run.longest(begin)
        out += pieces
    return out


class _Run:
    """Chords with the heading in which the way arrives at each point and leaves it: two at a corner."""

    def __init__(self, points: Array, tolerance: float) -> None:
        self._points, self._tolerance = points, tolerance
        chords = np.diff(points, axis=0)
        chords /= np.hypot(*chords.T)[:, None]
        tangents = np.vstack((chords[:1], chords[:-1] + chords[1:], chords[-1:]))
        across = chords[:-1, 0] * chords[1:, 1] - chords[:-1, 1] * chords[1:, 0]
        bend = np.abs(np.arctan2(across, (chords[:-1] * chords[1:]).sum(axis=1)))
        corners = np.flatnonzero(bend > _CORNER) + 1
        if len(points) > 3:
            # a curve's end points on along it, not along its last chord
            tangents[0] = _onward(tangents[1], chords[0])
            tangents[-1] = _onward(tangents[-2], chords[-1])
        tangents /= np.maximum(np.hypot(*tangents.T), 1e-12)[:, None]
        arriving, leaving = tangents, tangents.copy()
        arriving[corners], leaving[corners] = chords[corners - 1], chords[corners]
        self._stops = np.append(corners, len(points) - 1)
        # plain floats: arcs are laid through them thousands of times
        self._at: list[Place] = [(x, y) for x, y in points.tolist()]
        self._arriving: list[Place] = [(x, y) for x, y in arriving.tolist()]
        self._leaving: list[Place] = [(x, y) for x, y in leaving.tolist()]

    def longest(self, begin: int) -> tuple[int, list[Segment]]:
        """The longest run of chords that one pair of arcs, or a line, stands for: where it ends, and what it is."""
        stop = int(self._stops[np.searchsorted(self._stops, begin, side="right")])
        good, best = begin + 1, [Segment(self._at[begin + 1])]
        step, bad = _FIRST, None
        while good < stop:
            tried = min(good + step, stop) if bad is None else (good + bad) // 2
            if tried <= good:
                break
            pieces = _pair(self._at[begin], self._leaving[begin], self._at[tried], self._arriving[tried])
            if pieces is not None and _fits(self._points[begin : tried + 1], pieces, self._tolerance):
                good, best = tried, pieces
                step *= 2
            else:
                bad = tried
            if bad is not None and bad - good <= 1:
                break
        return good, best


def _onward(inner: Array, chord: Array) -> Array:
    inner = inner / max(float(np.hypot(*inner)), 1e-12)
    return np.asarray(2 * float(inner @ chord) * chord - inner)


def _pair(p: Place, t: Place, q: Place, u: Place) -> list[Segment] | None:
    """Two arcs from p with heading t to q with heading u that meet with one heading; None where they would turn too far."""
    (px, py), (tx, ty), (qx, qy), (ux, uy) = p, t, q, u
    vx, vy = qx - px, qy - py
    size, onto = vx * vx + vy * vy, vx * ux + vy * uy
    a, along = 2 * (1 - (tx * ux + ty * uy)), vx * (tx + ux) + vy * (ty + uy)
    if a > 1e-9:
        d = (-along + math.sqrt(along * along + a * size)) / a
    elif abs(onto) > 1e-12:
        d = size / (4 * onto)
    else:
        return None
    if not 0 < d < 1e6:
        return None
    middle = (px + qx + d * (tx - ux)) / 2, (py + qy + d * (ty - uy)) / 2
    first = _arc(p, t, middle)
    last = _arc(q, (-ux, -uy), middle)
    if first is None or last is None:
        return None
    return [first, Segment(q, last.centre, -last.sweep)]


def _arc(p: Place, t: Place, q: Place) -> Segment | None:
    """The arc that leaves p with heading t and reaches q."""
    (tx, ty), vx, vy = t, q[0] - p[0], q[1] - p[1]
    across, size = tx * vy - ty * vx, vx * vx + vy * vy
    if abs(across) < size / (2 * _STRAIGHT) or size < 1e-16:
        return Segment(q)
    radius = size / (2 * across)
    sweep = 2 * math.atan2(across, vx * tx + vy * ty)
    if abs(sweep) > _MOST_TURN:
        return None
    return Segment(q, (p[0] - radius * ty, p[1] + radius * tx), sweep)


def _fits(points: Array, pieces: list[Segment], tolerance: float) -> bool:
    """Whether pieces and chords lie within the tolerance of each other (see `physics.compiled.arcs`)."""
    rows, start = [], points[0].tolist()
    for piece in pieces:
        arc = (0.0, 0.0, 0.0, 0.0) if piece.centre is None else (1.0, *piece.centre, piece.sweep)
        rows.append((*start, *piece.end, *arc))
        start = piece.end
    return bool(engine.kernel("arc_fit")(points, np.array(rows), tolerance))
