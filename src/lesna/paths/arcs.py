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

    end: tuple[float, float]
    centre: tuple[float, float] | None = None
    sweep: float = 0.0


def fitted(points: Array, tolerance: float) -> list[Segment]:
    """Lines and arcs through chords; the first point is where they begin."""
    points = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 1e-9)]
    if len(points) < 2:
        return []
    tangents, corners = _tangents(points)
    out: list[Segment] = []
    begin = 0
    while begin < len(points) - 1:
        stop = int(corners[np.searchsorted(corners, begin, side="right")])
        end, pieces = _longest(points, tangents, begin, stop, tolerance)
        out += pieces
        begin = end
    return out


def _tangents(points: Array) -> tuple[Array, Array]:
    """Heading at each point, and the numbers of points at which the way has a corner or ends."""
    chords = np.diff(points, axis=0)
    chords /= np.hypot(*chords.T)[:, None]
    tangents = np.vstack((chords[:1], chords[:-1] + chords[1:], chords[-1:]))
    bend = np.abs(
        np.arctan2(
            chords[:-1, 0] * chords[1:, 1] - chords[:-1, 1] * chords[1:, 0], (chords[:-1] * chords[1:]).sum(axis=1)
        )
    )
    corners = np.append(np.flatnonzero(bend > _CORNER) + 1, len(points) - 1)
    if len(points) > 3:
        # a curve's end points on along it, not along its last chord
        tangents[0] = _onward(tangents[1], chords[0])
        tangents[-1] = _onward(tangents[-2], chords[-1])
    return tangents / np.maximum(np.hypot(*tangents.T), 1e-12)[:, None], corners


def _onward(inner: Array, chord: Array) -> Array:
    inner = inner / max(float(np.hypot(*inner)), 1e-12)
    return np.asarray(2 * float(inner @ chord) * chord - inner)


def _longest(points: Array, tangents: Array, begin: int, stop: int, tolerance: float) -> tuple[int, list[Segment]]:
    """The longest run of chords that one pair of arcs, or a line, stands for."""
    good, best = begin + 1, [Segment(tuple(points[begin + 1].tolist()))]
    step, bad = _FIRST, None
    while good < stop:
        tried = min(good + step, stop) if bad is None else (good + bad) // 2
        if tried <= good:
            break
        pieces = _pair(
            points[begin],
            _leaving(points, tangents, begin, stop),
            points[tried],
            _arriving(points, tangents, tried, stop),
        )
        if pieces is not None and _fits(points[begin : tried + 1], pieces, tolerance):
            good, best = tried, pieces
            step *= 2
        else:
            bad = tried
        if bad is not None and bad - good <= 1:
            break
    return good, best


def _leaving(points: Array, tangents: Array, k: int, stop: int) -> Array:
    """Heading with which the way leaves a point; at a corner that of its next chord."""
    return _chord(points, k) if _is_corner(points, k) else tangents[k]


def _arriving(points: Array, tangents: Array, k: int, stop: int) -> Array:
    return _chord(points, k - 1) if k == stop and _is_corner(points, k) else tangents[k]


def _chord(points: Array, k: int) -> Array:
    chord = points[k + 1] - points[k]
    return np.asarray(chord / max(float(np.hypot(*chord)), 1e-12))


def _is_corner(points: Array, k: int) -> bool:
    if k == 0 or k == len(points) - 1:
        return False
    a, b = _chord(points, k - 1), _chord(points, k)
    return abs(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b))) > _CORNER


def _pair(p: Array, t: Array, q: Array, u: Array) -> list[Segment] | None:
    """Two arcs from p with heading t to q with heading u that meet with one heading; None where they would turn too far."""
    v, both = q - p, t + u
    a, along = 2 * (1 - float(t @ u)), float(v @ both)
    if a > 1e-9:
        d = (-along + math.sqrt(along * along + a * float(v @ v))) / a
    elif abs(float(v @ u)) > 1e-12:
        d = float(v @ v) / (4 * float(v @ u))
    else:
        return None
    if not 0 < d < 1e6:
        return None
    middle = (p + q + d * (t - u)) / 2
    first = _arc(p, t, middle)
    last = _arc(q, -u, middle)
    if first is None or last is None:
        return None
    return [first, Segment(tuple(q.tolist()), last.centre, -last.sweep)]


def _arc(p: Array, t: Array, q: Array) -> Segment | None:
    """The arc that leaves p with heading t and reaches q."""
    v = q - p
    across, size = float(t[0] * v[1] - t[1] * v[0]), float(v @ v)
    if abs(across) < size / (2 * _STRAIGHT) or size < 1e-16:
        return Segment(tuple(q.tolist()))
    radius = size / (2 * across)
    centre = p + radius * np.array((-t[1], t[0]))
    sweep = 2 * math.atan2(across, float(v @ t))
    if abs(sweep) > _MOST_TURN:
        return None
    return Segment(tuple(q.tolist()), tuple(centre.tolist()), sweep)


def _fits(points: Array, pieces: list[Segment], tolerance: float) -> bool:
    """Whether pieces and chords lie within the tolerance of each other (see `physics.compiled.arcs`)."""
    rows, (x, y) = np.zeros((len(pieces), 8)), points[0]
    for row, piece in zip(rows, pieces, strict=True):
        row[:4] = x, y, *piece.end
        if piece.centre is not None:
            row[4:] = 1.0, *piece.centre, piece.sweep
        x, y = piece.end
    return bool(engine.kernel("arc_fit")(np.ascontiguousarray(points, dtype=float), rows, tolerance))
