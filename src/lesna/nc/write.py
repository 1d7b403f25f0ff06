"""A program with other feeds: F words changed or put in, blocks parted on the same geometry, every other byte as it was."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lesna.geometry.motion import IN_PLANE, LINE
from lesna.nc.program import Moves, Program
from lesna.nc.words import words_of

_INCH = 25.4
#: figures behind the point for places, by unit: well below the micrometre that parted blocks may differ
_PLACES = {False: 5, True: 6}
_LETTERS = "XYZ"
#: least figures of a feed
_FIGURES = 4
_HEAD = re.compile(r"(?:[ \t]*(?:%[^\n]*|[Oo]\d[^\n]*|\r?)\n)*")
_CENTRES = "IJK"


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


def written(program: Program, pieces: Mapping[int, Sequence[Piece]], header: Sequence[str] = ()) -> bytes:
    """The program with the feeds of some of its moves changed."""
    lines = list(program.lines)
    moves = program.moves
    modal, former = 0.0, 0
    for number in np.flatnonzero(moves.is_feed).tolist():
        given, line = float(moves.feed[number]), int(moves.line[number])
        # what holds at the control: the program's own word where one came since the last feed move, else what was written
        held = given if moves.feed_line[number] > former else modal
        parts = list(pieces.get(number, ())) or [Piece(1.0, given)]
        if len(parts) > 1:
            lines[line - 1] = _parted(program, number, parts)
        elif feed_text(parts[0].feed, moves, number) != feed_text(held, moves, number):
            lines[line - 1] = _with_feed(program.lines[line - 1], line, feed_text(parts[0].feed, moves, number))
        modal, former = parts[-1].feed, line
    return _with_header("".join(lines), header).encode("latin-1")


def feed_text(feed: float, moves: Moves, number: int) -> str:
    """A feed as the words of its move write it."""
    value = feed / (_INCH if moves.inch[number] else 1.0)
    if moves.per_turn[number]:
        value /= moves.rpm[number]
    figures = max((2 if moves.inch[number] else 1), _FIGURES - 1 - math.floor(math.log10(value)))
    return f"{value:.{figures}f}".rstrip("0").rstrip(".")


def _place_text(value: float, figures: int) -> str:
    """A place always has its point: without one, some controls count in their least step."""
    text = f"{value:.{figures}f}".rstrip("0")
    return "0." if text == "-0." else text


def _with_feed(line: str, number: int, wanted: str) -> str:
    words = words_of(line, number)
    own = next((word for word in words if word.letter == "F"), None)
    if own is not None:
        return f"{line[: own.start]}{line[own.start]}{wanted}{line[own.end :]}"
    end = words[-1].end
    letter = "f" if line[words[-1].start].islower() else "F"
    joint = " " if " " in line[words[0].start : end] else ""
    return f"{line[:end]}{joint}{letter}{wanted}{line[end:]}"


def _parted(program: Program, number: int, parts: Sequence[Piece]) -> str:
    """A move as several blocks on the same geometry; words that are not motion stand in the first."""
    moves, at = program.moves, int(program.moves.line[number])
    line = program.lines[at - 1]
    words = words_of(line, at)
    kind = int(moves.kind[number])
    before, tail = line[: words[0].start], line[words[-1].end :]
    end_of_line = tail[len(tail.rstrip("\r\n")) :]
    kept = [(w.letter, line[w.start : w.end]) for w in words if w.letter not in "XYZIJKRF"]
    numbered = "".join(f"{text} " for letter, text in kept if letter == "N")
    modes = "".join(f"{text} " for letter, text in kept if letter == "G" and float(text[1:]) not in (1.0, 2.0, 3.0))
    others = "".join(f" {text}" for letter, text in kept if letter not in "NG")
    blocks = [f"G{kind} {axes} F{feed_text(piece.feed, moves, number)}"
              for axes, piece in zip(_ends(moves, number, parts), parts, strict=True)]  # fmt: skip
    skip = "/" if before.strip().startswith("/") else ""
    blocks = [f"{before}{numbered}{modes}{blocks[0]}{others}{tail.rstrip()}", *(skip + block for block in blocks[1:])]
    return (end_of_line or "\n").join(blocks) + end_of_line


def _ends(moves: Moves, number: int, parts: Sequence[Piece]) -> list[str]:
    """The words for the end of each piece, and for the centre of an arc."""
    inch, is_arc = bool(moves.inch[number]), moves.kind[number] != LINE
    scale, figures = (_INCH if inch else 1.0), _PLACES[inch]
    moved = np.flatnonzero(moves.end[number] != moves.start[number]).tolist()
    axes = sorted({*moved, *(IN_PLANE[moves.plane[number]] if is_arc else ())})
    told, place = [], moves.start[number]
    for k, piece in enumerate(parts):
        target = moves.end[number] if k == len(parts) - 1 else moves.at(np.array([number]), np.array([piece.until]))[0]
        value = (target - place if moves.relative[number] else target) / scale
        text = [f"{_LETTERS[axis]}{_place_text(value[axis], figures)}" for axis in axes]
        if is_arc:
            arm = (moves.centre[number] - place) / scale
            text += [
                f"{_CENTRES[axis]}{_place_text(arm[axis], figures)}" for axis in sorted(IN_PLANE[moves.plane[number]])
            ]
        told.append(" ".join(text))
        # the place that the rounded words lead to, so that rounding does not add up
        place = (place if moves.relative[number] else 0.0) + np.round(value, figures) * scale
    return told


def _with_header(text: str, header: Sequence[str]) -> str:
    if not header:
        return text
    end = "\r\n" if text.partition("\n")[0].endswith("\r") else "\n"
    told = "".join(f"({line.replace('(', '[').replace(')', ']')}){end}" for line in header)
    # the frame mark and the program's number stay first
    head = _HEAD.match(text)
    at = head.end() if head else 0
    return text[:at] + told + text[at:]
