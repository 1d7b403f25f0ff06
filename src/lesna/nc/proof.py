"""The proof of a written program: read back as a control runs it, it does what the original does, and only feeds differ.

Both are run with no block skipped, with all of them, and with each switch alone. Every motion goes through the same places in the same
way, and all else that a control does comes in the same order between the same motions.
"""

from __future__ import annotations

import numpy as np

from lesna.geometry.motion import IN_PLANE, LINE, Array
from lesna.model.errors import InputError
from lesna.nc.locks import switches_of
from lesna.nc.program import Moves, Program, TiltedMoves, Trace
from lesna.nc.read import NONE, read_again
from lesna.nc.words import lines_of

#: how far a parted move may lie beside the original [mm]
ON_THE_WAY = 1e-3
#: the same of its angles [deg]
_ANGLE_ON_THE_WAY = 1e-4
#: how far its centre may lie, which is rounded to the program's figures [mm]
_CENTRE = 5e-3
#: feeds that differ less are the same
_SAME_FEED = 1e-9
#: ends that differ less are one place [mm]
SAME_PLACE = 1e-6


def prove(program: Program, content: bytes, freed: set[int]) -> None:
    """Compares what was written with the original.

    Parameters
    ----------
    program : Program
        The original.
    content : bytes
        What was written.
    freed : set of int
        Lines of the original whose feeds may differ.

    Raises
    ------
    InputError
        With the line of the original at which both part; then nothing may be written.
    """
    lines = lines_of(content.decode("latin-1"))
    for skipped in (NONE, *switches_of(program)):
        try:
            before = program.trace if not skipped else read_again(program, program.lines, skipped)
        except InputError:
            continue  # with these blocks skipped the program itself does not run
        try:
            _same(before, read_again(program, lines, skipped), freed)
        except InputError as error:
            told = (
                ""
                if not skipped
                else " with " + ", ".join(f"/{number or ''}" for number in sorted(skipped)) + " skipped"
            )
            raise InputError(
                f"nothing is written: what was to be written would not run as the program does{told}; {error}"
            ) from None


def _same(before: Trace, after: Trace, freed: set[int]) -> None:
    a, b = before.moves, after.moves
    firsts = aligned(a, b)
    counts = np.diff(np.append(firsts, len(b)))
    _alike(a, b, np.repeat(np.arange(len(a)), counts), freed)
    for row in np.flatnonzero(counts > 1).tolist():
        _on_the_way(a, row, b, int(firsts[row]), int(counts[row]))
    single = counts == 1
    ones = firsts[single]
    for name in ("starts", "ends", "centre"):
        off = np.nan_to_num(np.abs(getattr(a, name)[single] - getattr(b, name)[ones]), nan=0.0).max(axis=1, initial=0.0)
        unknown = (np.isnan(getattr(a, name)[single]) != np.isnan(getattr(b, name)[ones])).any(axis=1)
        _refuse(a.line[single], (off > (SAME_PLACE if name == "ends" else ON_THE_WAY)) | unknown, "it goes elsewhere")
    turned = np.abs(a.sweep[single] - b.sweep[ones]) > 1e-4 + ON_THE_WAY / np.maximum(a.length[single], ON_THE_WAY)
    _refuse(a.line[single], turned, "it turns otherwise")
    _same_events(before, after, np.append(firsts, len(b)))


def aligned(a: Moves, b: Moves) -> np.ndarray:
    """Number of the first written move of each original one, (n,): a move lasts until its end is reached.

    Parameters
    ----------
    a, b : Moves
        The original, and what was written.

    Raises
    ------
    InputError
        With the line of the original, where the other does not come to its end or goes on behind the last.
    """
    firsts, at = np.zeros(len(a), dtype=np.int64), 0
    ends_a, ends_b = a.ends.tolist(), b.ends.tolist()
    lines_b = b.line.tolist()
    for row, end in enumerate(ends_a):
        firsts[row] = at
        while at < len(ends_b) and not _near(end, ends_b[at]):
            at += 1
        # a full circle in pieces comes to its end once only: pieces are blocks of their own
        if at >= len(ends_b):
            raise InputError(f"line {int(a.line[row])}: its end is not reached")
        at += 1
    if at != len(ends_b):
        raise InputError(
            f"line {int(a.line[-1]) if len(a) else 1}: moves follow that the program has not (line {lines_b[at]})"
        )
    return firsts


def _near(one: list[float], other: list[float]) -> bool:
    return all(abs(p - q) <= SAME_PLACE or (p != p and q != q) for p, q in zip(one, other, strict=True))


def _alike(a: Moves, b: Moves, of: np.ndarray, freed: set[int]) -> None:
    for name, told in (
        ("kind", "another kind of motion"), ("plane", "another plane"), ("tool", "another tool"), ("offset", "another zero"),
        ("skip", "another skip switch"), ("per_turn", "another kind of feed"), ("inch", "other units"), ("rpm", "another speed"),
        ("is_cycle", "a cycle or none"), ("followed", "a tip that is followed or not"), ("inverse", "another kind of feed"),
    ):  # fmt: skip
        if not hasattr(a, name):
            continue  # of five axes alone
        _refuse(a.line[of], getattr(a, name)[of] != getattr(b, name), told)
    feeds = b.is_feed
    other = np.zeros(len(b), dtype=bool)
    other[feeds] = np.abs(b.word[feeds] / a.word[of][feeds] - 1.0) > _SAME_FEED
    keeps = ~np.isin(a.line[of], np.fromiter(freed, dtype=np.int64, count=len(freed)))
    _refuse(a.line[of], other & keeps, "another feed, where it must stay")


def _refuse(lines: np.ndarray, where: np.ndarray, told: str) -> None:
    if where.any():
        raise InputError(f"line {int(lines[np.flatnonzero(where)[0]])}: {told}")


def aside(moves: Moves, row: int, places: Array) -> Array:
    """How far places lie beside a move (n, 3) [mm]; those of an arc by the radius and the height at their angle."""
    start, end = moves.start[row], moves.end[row]
    if isinstance(moves, TiltedMoves):
        return _aside_in_all(moves, row, places)
    if moves.kind[row] == LINE:
        way = end - start
        share = np.clip((places - start) @ way / (way @ way), 0.0, 1.0)
        return np.asarray(np.linalg.norm(places - start - share[:, None] * way, axis=1))
    first, second = IN_PLANE[moves.plane[row]]
    share = _turned(moves, row, places) / float(moves.sweep[row])
    at = moves.at(np.full(len(places), row), share)
    off = places - at
    return np.asarray(np.hypot(np.hypot(off[:, first], off[:, second]), off[:, moves.plane[row]]))


def _aside_in_all(moves: Moves, row: int, places: Array) -> Array:
    """How far places lie beside a straight move in five axes (n, 5), an angle of 1e-4 deg as a micrometre [mm]."""
    weight = np.array([1.0, 1.0, 1.0, *([ON_THE_WAY / _ANGLE_ON_THE_WAY] * 2)])
    way = (moves.ends[row] - moves.starts[row]) * weight
    off = (places - moves.starts[row]) * weight
    share = np.clip(off @ way / (way @ way), 0.0, 1.0)
    beside = off - share[:, None] * way
    return np.maximum(np.linalg.norm(beside[:, :3], axis=1), np.abs(beside[:, 3:]).max(axis=1))


def _turned(moves: Moves, row: int, places: Array) -> Array:
    """Angle from the start of an arc to places, in the direction in which it turns [rad]."""
    first, second = IN_PLANE[moves.plane[row]]
    middle, sweep = moves.centre[row], float(moves.sweep[row])
    angles = np.arctan2(places[:, second] - middle[second], places[:, first] - middle[first])
    begin = np.arctan2(moves.start[row][second] - middle[second], moves.start[row][first] - middle[first])
    turn = np.mod((angles - begin) * np.sign(sweep), 2 * np.pi)
    return np.asarray(turn * np.sign(sweep))


def _on_the_way(a: Moves, row: int, b: Moves, first: int, count: int) -> None:
    """A parted move lies on the original, goes on all the time and ends where it ends."""
    line, some = int(a.line[row]), slice(first, first + count)
    if not a.is_feed[row] or np.isnan(a.start[row]).any():
        raise InputError(f"line {line}: parted, where it must stay whole")
    inner = b.ends[some][:-1]
    if (aside(a, row, inner) > ON_THE_WAY).any():
        raise InputError(f"line {line}: a piece leaves the way")
    if a.kind[row] == LINE:
        shares = (inner - a.starts[row]) @ (a.ends[row] - a.starts[row])
        goes_on = bool(np.all(np.diff(np.append(0.0, shares)) > 0))
    else:
        whole = float(a.sweep[row])
        goes_on = bool(np.all(np.diff(np.append(0.0, np.abs(_turned(a, row, inner)))) > 0))
        together = abs(float(b.sweep[some].sum()) - whole) <= 1e-3 + count * ON_THE_WAY / max(
            float(a.length[row]) / abs(whole), ON_THE_WAY
        )
        near = np.abs(b.centre[some] - a.centre[row])[:, list(IN_PLANE[a.plane[row]])].max() <= _CENTRE
        goes_on = goes_on and bool(together and near)
    if not goes_on:
        raise InputError(f"line {line}: its pieces do not make it up")


def _same_events(before: Trace, after: Trace, firsts: np.ndarray) -> None:
    for k, event in enumerate(before.events):
        if k >= len(after.events):
            raise InputError(f"line {event.line}: {event.text} is missing")
        other = after.events[k]
        if event.text != other.text or int(firsts[event.at]) != other.at:
            raise InputError(f"line {event.line}: {event.text} comes elsewhere or is another")
    if len(after.events) > len(before.events):
        raise InputError(
            f"line {after.events[len(before.events)].line}: {after.events[len(before.events)].text} is too much"
        )
