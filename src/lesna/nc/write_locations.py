"""Cutter locations with other feeds: numbers of FEDRAT changed, FEDRAT lines put in, points put in where the axis stands still."""

from __future__ import annotations

import bisect
import re
from collections.abc import Mapping, Sequence

import numpy as np

from lesna.nc.locations import Part, Statement, statements
from lesna.nc.program import Moves, Program
from lesna.nc.proof import ON_THE_WAY, aside
from lesna.nc.respelled import Piece, header_of, same_share

_INCH = 25.4
#: least figures behind the point of places, in millimetres and inches
_PLACES = {False: 4, True: 5}
_HEAD = re.compile(r"(?:[ \t]*PARTNO[^\n]*\n)?", re.IGNORECASE)


def locations_written(program: Program, pieces: Mapping[int, Sequence[Piece]], header: Sequence[str]) -> bytes:
    """The program with the feeds of some moves changed (see `write.written`); every other byte stays."""
    moves, lines = program.moves, list(program.lines)
    said = {one.line: one for one in statements(program.lines) if one.word in ("GOTO", "FEDRAT")}
    fedrats = [one for one in said.values() if one.word == "FEDRAT"]
    places = [one.line for one in fedrats]
    before: dict[int, str] = {}
    held, rewritten = "", set()
    for row in np.flatnonzero(moves.is_feed).tolist():
        own = _text(float(moves.word[row]))
        source = fedrats[bisect.bisect_left(places, int(moves.line[row])) - 1]
        parts = pieces.get(row, ())
        told = _pieces(program, said[int(moves.line[row])], row, parts) if parts else [("", own)]
        held = own if moves.is_fresh[row] else held
        first = told[0][1]
        if first != held and moves.is_fresh[row] and source.line not in rewritten:
            _renumbered(lines, source, first)
            held = first
        if moves.is_fresh[row]:
            rewritten.add(source.line)
        put_in = []
        for point, feed in told:
            if feed != held:
                put_in.append(_fedrat(program, source, feed))
                held = feed
            if point:
                put_in.append(point)
        if put_in:
            before[said[int(moves.line[row])].first] = "".join(put_in)
    text = "".join(before.get(number, "") + line for number, line in enumerate(lines, start=1))
    return header_of(text, header, "$$ ", "", _HEAD).encode("latin-1")


def _number(said: Statement) -> Part:
    return next(part for part in said.parts if part.value == part.value)


def _renumbered(lines: list[str], said: Statement, text: str) -> None:
    part = _number(said)
    line = lines[part.line - 1]
    lines[part.line - 1] = line[: part.start] + text + line[part.end :]


def _end_of(program: Program, line: int) -> str:
    text = program.lines[line - 1]
    body = text.rstrip("\r\n")
    return text[len(body) :] or ("\r\n" if "\r\n" in program.text else "\n")


def _fedrat(program: Program, said: Statement, feed: str) -> str:
    """A line with a feed, its words in the order of the program's own."""
    order = [feed if part.value == part.value else part.text for part in said.parts]
    return f"FEDRAT/{','.join(order)}{_end_of(program, said.line)}"


def _text(value: float) -> str:
    text = f"{value:.8f}".rstrip("0")
    return text + "0" if text.endswith(".") else text


def _pieces(program: Program, said: Statement, row: int, parts: Sequence[Piece]) -> list[tuple[str, str]]:
    """Points to put in before a GOTO, empty for the last, which stands as it is, each with the feed on the way to it."""
    moves = program.moves
    out: list[tuple[str, str]] = []
    waiting, former = np.inf, 0.0
    for number, piece in enumerate(parts):
        feed = min(piece.feed, waiting)
        if number == len(parts) - 1:
            out.append(("", _text(same_share(feed, moves, row))))
            continue
        point = _point(program, said, row, piece.until)
        if point is None or piece.until <= former:
            waiting = feed
            continue
        out.append((point, _text(same_share(feed, moves, row))))
        waiting, former = np.inf, piece.until
    return out


def _point(program: Program, said: Statement, row: int, share: float) -> str | None:
    """A GOTO at a share of a move, None where its figures cannot write one on the way."""
    moves: Moves = program.moves
    inch = _is_inch(moves, row, said)
    scale = _INCH if inch else 1.0
    figures = max(_PLACES[inch], *(len(part.text.partition(".")[2]) for part in said.parts[:3]))
    place = np.round((moves.start[row] + share * (moves.end[row] - moves.start[row])) / scale, figures)
    whole = np.concatenate((place * scale, moves.starts[row, 3:]))
    if aside(moves, row, whole[None, :])[0] > 0.9 * ON_THE_WAY:
        return None
    texts = [f"{value:.{figures}f}" for value in place.tolist()]
    axis = [program.lines[part.line - 1][part.start : part.end] for part in said.parts[3:]]
    return f"GOTO/{','.join((*texts, *axis))}{_end_of(program, said.line)}"


def _is_inch(moves: Moves, row: int, said: Statement) -> bool:
    """Whether its places are written in inches: the words lead to its end so."""
    values = np.array([part.value for part in said.parts[:3]])
    return bool(np.abs(values * _INCH - moves.end[row]).max() < np.abs(values - moves.end[row]).max())
