"""What writing with other feeds shares between blocks and cutter locations: pieces, feeds in proportion, comments at the top."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from lesna.nc.program import Moves

#: figures of a feed that is written in proportion to the one it had
_FIGURES = 4


@dataclass(frozen=True)
class Piece:
    """A part of a move, up to a share of its length, at a feed.

    Attributes
    ----------
    until : float
        Share of the move at its end, 1 for the last [-].
    feed : float
        Feed [mm/min].
    """

    until: float
    feed: float


def same_share(feed: float, moves: Moves, row: int) -> float:
    """The feed word that makes a move as much faster as a feed [mm/min] is over its own, never faster by rounding.

    Whatever unit it is written in, by the minute, by the turn or as one over the time, the word goes in proportion.
    """
    value = float(moves.word[row]) * feed / float(moves.feed[row])
    if abs(feed / float(moves.feed[row]) - 1.0) < 1e-9:
        return float(moves.word[row])
    least = 10.0 ** (math.floor(math.log10(value)) + 1 - _FIGURES)
    return round(math.floor(value / least + 1e-6) * least, 8)


def header_of(text: str, header: Sequence[str], opens: str, closes: str, head: re.Pattern[str]) -> str:
    """A program with comments at its top, behind what has to stay first."""
    if not header:
        return text
    end = "\r\n" if text.partition("\n")[0].endswith("\r") else "\n"
    told = "".join(f"{opens}{line.replace('(', '[').replace(')', ']')}{closes}{end}" for line in header)
    found = head.match(text)
    at = found.end() if found else 0
    return text[:at] + told + text[at:]
