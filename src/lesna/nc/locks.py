"""Which moves of a program may run at another feed, and which may be parted: as every way of running it allows.

A move keeps its feed where its start is not known, where a cycle or a skipped block makes it, where controls differ in its F word, and
where it is not the same for every setting of the skip switches. So does the last feed move before something that reads the F word and
cannot be written anew: a skipped block, a subprogram, a change of units. Behind it the control then holds what it held before.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from lesna.model.errors import InputError
from lesna.nc.control import AT_END
from lesna.nc.program import Flags, Moves, Program
from lesna.nc.read import read_again
from lesna.nc.words import Word, skip_of, words_of

#: G words that hold on, so that the first of several pieces may carry them
_HOLDING = frozenset(
    {0.0, 1.0, 2.0, 3.0, 17.0, 18.0, 19.0, 20.0, 21.0, 40.0, 61.0, 64.0, 70.0, 71.0, 80.0, 90.0, 91.0, 93.0, 94.0, 95.0}
)
#: M words that act as a block begins
_AT_START = frozenset({3.0, 4.0, 7.0, 8.0})
#: letters that a parted block may have
_PARTED = frozenset("NGMXYZABCIJKRFST")


@dataclass(frozen=True)
class Freedom:
    """What may be done to the moves of a program.

    Attributes
    ----------
    feed : array (n,) of bool
        Whether a move may run at another feed.
    parted : array (n,) of bool
        Whether its block may be parted.
    """

    feed: Flags
    parted: Flags


def freedom_of(program: Program) -> Freedom:
    """What may be done to the moves of a program whose start is known."""
    trace = program.trace
    moves = trace.moves
    free = moves.is_feed & ~moves.is_cycle & (moves.skip < 0) & ~moves.is_doubtful
    feeds = np.flatnonzero(moves.is_feed)
    for at, _ in trace.barriers:
        before = int(np.searchsorted(feeds, at)) - 1
        if before >= 0:
            free[feeds[before]] = False
    _same_each_time(moves, free)
    for setting in switches_of(program):
        _same_with(program, setting, free)
    # a line that runs several times is written once
    free &= ~np.isin(moves.line, moves.line[~free & moves.is_feed])
    free = free[program.rows]
    parted = free.copy()
    if program.language == "locations":
        parted &= (program.moves.starts[:, 3:] == program.moves.ends[:, 3:]).all(axis=1)
        return Freedom(free, parted)
    for row in np.flatnonzero(free).tolist():
        line = int(program.moves.line[row])
        parted[row] = _holds_in_pieces(words_of(program.lines[line - 1], line))
    return Freedom(free, parted)


def switches_of(program: Program) -> list[frozenset[int]]:
    """The settings of the skip switches under which a program is to be right: all on, and each alone."""
    numbers = sorted({skip_of(line) for line in program.lines if "/" in line} - {-1})
    return [frozenset(numbers), *(frozenset({number}) for number in numbers if len(numbers) > 1)] if numbers else []


def _holds_in_pieces(words: list[Word]) -> bool:
    return all(
        word.letter in _PARTED
        and (word.letter != "G" or word.value in _HOLDING)
        and (word.letter != "M" or word.value in _AT_START | AT_END)
        for word in words
    )


def _same_each_time(moves: Moves, free: Flags) -> None:
    """A line that several calls run keeps its feed where they hand it different ones."""
    rows = np.flatnonzero(moves.is_feed)
    lines, where = np.unique(moves.line[rows], return_inverse=True)
    for values in (moves.word[rows], moves.rpm[rows], moves.kind[rows].astype(float)):
        least, most = np.full(len(lines), np.inf), np.full(len(lines), -np.inf)
        np.minimum.at(least, where, values)
        np.maximum.at(most, where, values)
        free[rows[(least != most)[where]]] = False


def _same_with(program: Program, setting: frozenset[int], free: Flags) -> None:
    """With blocks skipped a move keeps its feed where it would not be the same move."""
    moves = program.trace.moves
    try:
        other = read_again(program, program.lines, setting).moves
    except InputError:
        first = np.flatnonzero(moves.skip >= 0)
        free[int(first[0]) if len(first) else 0 :] = False
        return
    theirs = defaultdict(list)
    for line, told in zip(other.line.tolist(), _told(other), strict=True):
        theirs[line].append(told)
    ours = defaultdict(list)
    for row, (line, told) in enumerate(zip(moves.line.tolist(), _told(moves), strict=True)):
        ours[line].append((row, told))
    for line, rows in ours.items():
        if [told for _, told in rows] != theirs[line]:
            free[[row for row, _ in rows]] = False


def _told(moves: Moves) -> list[bytes]:
    """Each move in bytes that are alike for moves that are."""
    table = np.column_stack((
        moves.kind, moves.starts, moves.ends, moves.centre, moves.sweep, moves.word, moves.rpm, moves.tool, moves.per_turn, moves.offset,
        moves.relative, moves.inch,
    ))  # fmt: skip
    return [row.tobytes() for row in np.ascontiguousarray(table, dtype=float)]
