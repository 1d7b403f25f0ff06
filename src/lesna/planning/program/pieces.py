"""Feeds of steps to feeds that a program can write: joined to pieces that a control can run, rounded, alike wherever a block runs again."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d

from lesna.nc.program import Moves
from lesna.nc.respelled import Piece
from lesna.physics import Array

#: feeds of one piece differ by no more than this share
ALIKE = 0.05
#: a feed so near to the programmed one stays as it was written
_AS_GIVEN = 0.002
#: feeds that several calls of one block ask for are one where they differ less
_AGREED = 0.05


def disagreed(pieces: dict[int, list[Piece]], moves: Moves) -> list[int]:
    """Moves of blocks that run several times and would each time be fed otherwise; where they agree all take the lowest feeds."""
    by_line: dict[int, list[int]] = {}
    counts = np.bincount(moves.line[moves.is_feed]) if len(moves) else np.zeros(1)
    for number in pieces:
        if counts[moves.line[number]] > 1:
            by_line.setdefault(int(moves.line[number]), []).append(number)
    out: list[int] = []
    for line, numbers in by_line.items():
        made = [pieces[number] for number in numbers]
        feeds = (
            np.array([[piece.feed for piece in parts] for parts in made])
            if len({len(parts) for parts in made}) == 1
            else None
        )
        if (
            len(numbers) < counts[line]
            or feeds is None
            or (feeds.max(axis=0) > (1 + _AGREED) * feeds.min(axis=0)).any()
        ):
            out += np.flatnonzero((moves.line == line) & moves.is_feed).tolist()
            continue
        for number in numbers:
            pieces[number] = [
                Piece(piece.until, low) for piece, low in zip(made[0], feeds.min(axis=0).tolist(), strict=True)
            ]
    return out


def resolution(numbers: NDArray[np.int64], moves: Moves) -> Array:
    """Least step of the written feeds of moves [mm/min]."""
    return np.where(moves.inch[numbers], 0.254, 0.1)


def rounded(feeds: Array, numbers: NDArray[np.int64], moves: Moves) -> Array:
    """Feeds of moves as they can be written, never faster by rounding [mm/min]."""
    least, given = resolution(numbers, moves), moves.feed[numbers]
    written_feed = np.where(moves.per_turn[numbers], feeds, np.maximum(np.floor(feeds / least + 1e-6) * least, least))
    return np.where(np.abs(feeds / given - 1) < _AS_GIVEN, given, written_feed)


def joined(lengths: Array, values: Array, block_time: float) -> list[tuple[int, float]]:
    """Steps joined to pieces of about one feed, none shorter than a control can run: how many steps each, and its feed."""
    # a slow place lasts at least a block: it takes its time from what is faster beside it, not the other way round
    steps = int(np.ceil(block_time * float(np.median(values)) / 60.0 / max(float(lengths.mean()), 1e-9)))
    if steps > 1:
        values = minimum_filter1d(values, steps + 1 - steps % 2)
    parts: list[list[float]] = []  # steps, length, least and greatest feed
    for length, value in zip(lengths.tolist(), values.tolist(), strict=True):
        last = parts[-1] if parts else None
        if last is not None and max(last[3], value) <= (1 + ALIKE) * min(last[2], value):
            last[0], last[1], last[2], last[3] = last[0] + 1, last[1] + length, min(last[2], value), max(last[3], value)
        else:
            parts.append([1, length, value, value])
    k = 0
    while len(parts) > 1 and k < len(parts):
        if parts[k][1] >= block_time * parts[k][2] / 60.0:
            k += 1
            continue
        # a piece too short for the control goes to the neighbour whose feed is nearer
        gaps = {
            other: abs(np.log(parts[other][2] / parts[k][2])) for other in (k - 1, k + 1) if 0 <= other < len(parts)
        }
        other = min(gaps, key=lambda place: gaps[place])
        short, into = parts[k], parts[other]
        parts[other] = [into[0] + short[0], into[1] + short[1], min(into[2], short[2]), max(into[3], short[3])]
        del parts[k]
        k = max(k - 1, 0)
    return [(int(count), least) for count, _, least, _ in parts]
