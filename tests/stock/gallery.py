"""Motions to try the stock with, and the exact engagement of a disc among earlier passes: the oracle of the height map."""

from __future__ import annotations

import numpy as np

from lesna.geometry.motion import CCW, CW, LINE, RAPID, Motion
from lesna.physics import Array
from lesna.stock.steps import Steps


def motion(moves: list[tuple[int, tuple[float, float, float], tuple[float, float] | None]], start: tuple[float, float, float],
           feed: float = 1000.0) -> Motion:  # fmt: skip
    """Moves from a start: kind, end, and the centre of an arc."""
    n = len(moves)
    ends = np.array([end for _, end, _ in moves], dtype=float)
    starts = np.vstack((start, ends[:-1]))
    kind = np.array([k for k, _, _ in moves])
    centre, sweep = np.full((n, 3), np.nan), np.zeros(n)
    for k, (what, _, middle) in enumerate(moves):
        if middle is not None:
            centre[k] = (*middle, starts[k, 2])
            a = complex(*(starts[k, :2] - middle))
            b = complex(*(ends[k, :2] - middle))
            turn = float(np.angle(b / a))
            sweep[k] = turn % (2 * np.pi) or 2 * np.pi if what == CCW else -((-turn) % (2 * np.pi) or 2 * np.pi)
    return Motion(
        kind, starts, ends, centre, np.full(n, 2), sweep, np.where(kind == RAPID, np.nan, feed), np.full(n, 5000.0),
        np.tile([0.0, 0.0, 1.0], (n, 1)),
    )  # fmt: skip


def turned(points: Array, degrees: float) -> Array:
    """Points (n, 3) turned about the origin."""
    t = np.radians(degrees)
    out = np.array(points, dtype=float)
    out[:, :2] = out[:, :2] @ np.array([[np.cos(t), np.sin(t)], [-np.sin(t), np.cos(t)]])
    return out


def passes(stepover: float, degrees: float = 0.0, count: int = 3, reach: float = 20.0, z: float = 0.0) -> Motion:
    """Parallel passes in one direction, lifted between: the last of them meets a straight wall."""
    points = [(-reach, 0.0, z + 9.0)]
    kinds = []
    for k in range(count):
        y = -10 + k * stepover
        points += [(-reach, y, z + 9.0), (-reach, y, z), (reach, y, z), (reach, y, z + 9.0)]
        kinds += [RAPID, LINE, LINE, RAPID]
    at = turned(np.array(points), degrees)
    return motion([(k, tuple(p), None) for k, p in zip(kinds, at[1:].tolist(), strict=True)], tuple(at[0]))


def zigzag(stepover: float, rows: int, levels: int, depth: float, reach: float = 25.0) -> Motion:
    """A pocket in rows joined by half circles, level under level."""
    moves: list[tuple[int, tuple[float, float, float], tuple[float, float] | None]] = []
    for level in range(levels):
        z, y, side = -depth * (level + 1), 0.0, 1
        moves += [(RAPID, (-reach, 0.0, 5.0), None), (LINE, (-reach, 0.0, z), None)]
        for row in range(rows):
            moves.append((LINE, (reach * side, y, z), None))
            if row < rows - 1:
                moves.append(
                    (CCW if side > 0 else CW, (reach * side, y + stepover, z), (reach * side, y + stepover / 2))
                )
                y, side = y + stepover, -side
        moves.append((RAPID, (moves[-1][1][0], y, 5.0), None))
    return motion(moves, (-reach, 0.0, 6.0))


def trochoid(radius: float, pitch: float, loops: int) -> Motion:
    """Circles that go on by a pitch, each of two half circles."""
    moves: list[tuple[int, tuple[float, float, float], tuple[float, float] | None]] = []
    for k in range(loops):
        x = k * pitch
        moves += [(CCW, (x + radius, 0.0, 0.0), (x, 0.0)), (CCW, (x - radius + pitch, 0.0, 0.0), (x + pitch / 2, 0.0))]
    return motion(moves, (-radius, 0.0, 0.0))


def exact_angle(steps: Steps, number: int, radius: float, low: Array, high: Array, samples: int = 3600) -> float:
    """Engaged angle at the end of a step [deg], by what every earlier step at this height or below has covered."""
    place, (tx, ty) = steps.end[number], steps.heading[number]
    phi = (np.arange(samples) + 0.5) * np.pi / samples
    rim = place[:2] + radius * np.stack(
        (-np.cos(phi) * ty + np.sin(phi) * tx, np.cos(phi) * tx + np.sin(phi) * ty), axis=1
    )
    stands = rim[((rim >= low) & (rim <= high)).all(axis=1)]
    before = np.flatnonzero(np.maximum(steps.start[:number, 2], steps.end[:number, 2]) <= place[2] + 1e-6)
    near = np.hypot(*(steps.end[before, :2] - place[:2]).T) < 2 * radius + 3
    # the latest first: they have covered most of what the rim could meet
    for k in before[near][::-1]:
        a, b = steps.start[k, :2], steps.end[k, :2]
        along = b - a
        length = float(along @ along)
        share = np.clip((stands - a) @ along / length, 0, 1) if length > 0 else np.zeros(len(stands))
        stands = stands[np.hypot(*(stands - a - share[:, None] * along).T) >= radius + 2e-3]
    return len(stands) * 180.0 / samples
