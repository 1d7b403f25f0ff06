"""A program with other feeds: F words changed or put in, blocks parted on the same geometry, every other byte as it was.

What is written is read back and compared (`proof`) before anybody gets it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lesna.geometry.motion import IN_PLANE, LINE
from lesna.nc.control import AT_END
from lesna.nc.program import Moves, Program, TiltedMoves
from lesna.nc.proof import ON_THE_WAY, SAME_PLACE, aside, prove
from lesna.nc.respelled import Piece, header_of, same_share
from lesna.nc.words import COMMENT, Word, words_of
from lesna.nc.write_locations import locations_written

_INCH = 25.4
#: least and greatest figures behind the point of places, by unit
_PLACES = {False: (3, 8), True: (4, 8)}
#: the same of angles
_ANGLES = (3, 8)
#: least figures of a feed
_FIGURES = 4
_HEAD = re.compile(r"(?:[ \t]*(?:%[^\n]*|[Oo]\d[^\n]*|\r?)\n)*")
_PLACE_WORD = re.compile(r"[XYZIJKRxyzijkr][ \t]*[+-]?\d*(\.?)(\d*)")
_ANGLE_WORD = re.compile(r"[ABCabc][ \t]*[+-]?\d*\.?(\d*)")
_FEED_WORD = re.compile(r"[Ff][ \t]*\+?\d*(\.?)")
_AXES, _CENTRES = "XYZ", "IJK"
#: ends of pieces are looked for so far from where they are wanted [mm], or by so large a share of what is beside them
_WINDOW, _SHARE, _TRIED = 2.0, 0.3, 401


@dataclass(frozen=True)
class Spelling:
    """How a program writes its numbers.

    Attributes
    ----------
    figures : dict of bool to int
        Figures behind the point of its places, in millimetres and inches.
    has_points : bool
        Whether places have a point; without one, some controls count in their least step.
    feed_has_point : bool
        Whether whole feeds have one as well.
    angles : int
        Figures behind the point of its angles.
    """

    figures: dict[bool, int]
    has_points: bool
    feed_has_point: bool
    angles: int = _ANGLES[0]

    def place(self, value: float, *, inch: bool, is_angle: bool = False) -> str:
        """A place, a centre or an angle."""
        if not self.has_points:
            return f"{round(value):d}"
        text = f"{value:.{self.angles if is_angle else self.figures[inch]}f}".rstrip("0")
        return "0." if text == "-0." else text

    def rounded(self, values: np.ndarray, *, inch: bool) -> np.ndarray:
        """Places (..., 3 or more) as they would be written; what follows behind the first three are angles."""
        if not self.has_points:
            return np.asarray(np.round(values))
        linear, angles = values[..., :3], values[..., 3:]
        return np.concatenate((np.round(linear, self.figures[inch]), np.round(angles, self.angles)), axis=-1)

    def feed(self, feed: float, moves: Moves, number: int, share: float = 1.0) -> str:
        """A feed [mm/min] of a share of a move as the words of the move write it."""
        if isinstance(moves, TiltedMoves):
            return self.word(same_share(feed, moves, number) / (share if moves.inverse[number] else 1.0))
        inch = bool(moves.inch[number])
        value = feed / (_INCH if inch else 1.0)
        if moves.per_turn[number]:
            value /= moves.rpm[number]
        figures = max((2 if inch else 1), _FIGURES - 1 - math.floor(math.log10(value)))
        if not self.has_points and not self.feed_has_point and value >= 1:
            return f"{math.floor(value + 1e-9):d}"
        return self.word(float(f"{value:.{figures}f}"))

    def word(self, value: float) -> str:
        """An F word's number."""
        text = f"{value:.8f}".rstrip("0")
        return text if self.feed_has_point else text.rstrip(".")


def spelling_of(text: str) -> Spelling:
    """How a program writes its numbers."""
    words = COMMENT.sub("", text)
    places = [(bool(point), len(figures)) for point, figures in _PLACE_WORD.findall(words)]
    feeds = _FEED_WORD.findall(words)
    longest = max((figures for _, figures in places), default=0)
    return Spelling(
        {inch: min(max(longest, least), most) for inch, (least, most) in _PLACES.items()},
        not places or any(point for point, _ in places),
        bool(feeds) and all(feeds),
        min(max(max((len(figures) for figures in _ANGLE_WORD.findall(words)), default=0), _ANGLES[0]), _ANGLES[1]),
    )


def written(program: Program, pieces: Mapping[int, Sequence[Piece]], header: Sequence[str] = ()) -> bytes:
    """The program with the feeds of some of its moves changed, proved to be the same but for those.

    Parameters
    ----------
    program : Program
        What was read.
    pieces : mapping of int to sequence of Piece
        New feeds by the move's number; those of moves that do not name it stay.
    header : sequence of str
        Comments at the top.

    Raises
    ------
    InputError
        With the line, where what would be written runs otherwise.
    """
    is_locations = program.language == "locations"
    content = locations_written(program, pieces, header) if is_locations else _spelled(program, pieces, header)
    prove(program, content, {int(program.moves.line[number]) for number in pieces})
    return content


def _spelled(program: Program, pieces: Mapping[int, Sequence[Piece]], header: Sequence[str]) -> bytes:
    moves, lines, spelling = program.trace.moves, list(program.lines), spelling_of(program.text)
    number_of = {int(row): number for number, row in enumerate(program.rows.tolist())}
    held, done = "", set()
    for row in np.flatnonzero(moves.is_feed).tolist():
        line, own = int(moves.line[row]), spelling.word(float(moves.word[row]))
        # what holds at the control: the program's own word where one came since the last feed move, else what was written
        held = own if moves.is_fresh[row] else held
        parts = pieces.get(number_of.get(row, -1), ())
        texts = [spelling.feed(part.feed, moves, row) for part in parts] or [own]
        if line not in done and (len(parts) > 1 or texts[0] != held):
            if len(parts) > 1:
                lines[line - 1], texts = _parted(program, row, parts, spelling)
            else:
                lines[line - 1] = _with_words(program.lines[line - 1], line, {"F": texts[0]})
            done.add(line)
        held = texts[-1]
    return header_of("".join(lines), header, "(", ")", _HEAD).encode("latin-1")


# ---------------------------------------------------------------- one line


def _with_words(line: str, number: int, wanted: Mapping[str, str], dropped: Sequence[Word] = ()) -> str:
    """A line with the numbers of some words changed or put in behind the last place, and some words left out."""
    words = words_of(line, number)
    left, changes = dict(wanted), []
    for word in words:
        if word in dropped:
            changes.append((word, left.pop("", "")))
        elif word.letter in left:
            changes.append((word, line[word.start] + left.pop(word.letter)))
    joint = " " if " " in line[words[0].start : words[-1].end] else ""
    small = line[words[-1].start].islower()
    put_in = "".join(f"{joint}{letter.lower() if small else letter}{text}" for letter, text in left.items() if letter)
    places = [word for word in words if word.letter in "XYZABCIJKRF"] or words
    changes.append((Word("", 0.0, places[-1].end, places[-1].end), put_in))
    for word, text in sorted(changes, key=lambda change: (change[0].start, change[0].end), reverse=True):
        before = line[: word.start]
        line = (before if text else before.rstrip(" ")) + text + line[word.end :]
    return line


def _parted(program: Program, row: int, parts: Sequence[Piece], spelling: Spelling) -> tuple[str, list[str]]:
    """A move as several blocks on the same geometry, and their feeds: the first is the block as it was, with another end."""
    moves, at = program.trace.moves, int(program.trace.moves.line[row])
    line = program.lines[at - 1]
    words = words_of(line, at)
    body = line.rstrip("\r\n")
    end_of_line = line[len(body) :] or ("\r\n" if "\r\n" in program.text else "\n")
    letters = _AXES + "".join(program.kinematics.letters if program.kinematics is not None else ())
    told = _ends(moves, row, parts, spelling, letters)
    feeds = [spelling.feed(feed, moves, row, share) for _, feed, share in told]
    last_words = [word for word in words if word.letter == "M" and word.value in AT_END]
    joint = " " if " " in line[words[0].start : words[-1].end] else ""
    small = line[words[-1].start].islower()
    first, *others = told
    with_radius = [word for word in words if word.letter == "R"]
    changed = {**first[0], "F": feeds[0]}
    if len(told) == 1:
        return _with_words(line, at, {"F": feeds[0]}), feeds
    texts = [_with_words(body, at, changed, (*last_words, *with_radius))]
    mark = line[: words[0].start] if "/" in line[: words[0].start] else ""
    for (axes, _, _), feed in zip(others, feeds[1:], strict=True):
        block = joint.join(f"{letter}{text}" for letter, text in {**axes, "F": feed}.items())
        texts.append(mark + (block.lower() if small else block))
    texts[-1] += "".join(joint + line[word.start : word.end] for word in last_words)
    return end_of_line.join(texts) + line[len(body) :], feeds


def _ends(
    moves: Moves, row: int, parts: Sequence[Piece], spelling: Spelling, letters: str
) -> list[tuple[dict[str, str], float, float]]:
    """The words for the end of each piece and for the centre of an arc, its feed, and its share of the move.

    A piece whose end has no place on the way that the program's figures can write is run on with the next, at the lower feed.
    """
    inch, is_arc = bool(moves.inch[row]), moves.kind[row] != LINE
    starts, ends = moves.starts[row], moves.ends[row]
    scale = _scale(inch, len(letters))
    moved = np.flatnonzero(ends != starts).tolist()
    axes = sorted({*moved, *(IN_PLANE[moves.plane[row]] if is_arc else ())})
    told: list[tuple[dict[str, str], float, float]] = []
    place, former, carried = starts, 0.0, math.inf
    for k, piece in enumerate(parts):
        feed, is_last = min(piece.feed, carried), k == len(parts) - 1
        beside = 1.0 if is_last else parts[k + 1].until
        target = ends if is_last else _written_place(moves, row, (former, piece.until, beside), spelling)
        # from a place to itself an arc would go all round
        stays = target is not None and any(np.abs(target - other).max() <= SAME_PLACE for other in (place, ends))
        if target is None or (stays and not is_last):
            carried = feed
            continue
        value = (target - place if moves.relative[row] else target) / scale
        text = {letters[axis]: spelling.place(value[axis], inch=inch, is_angle=axis > 2) for axis in axes}
        if is_arc:
            arm = (moves.centre[row] - place) / scale
            text |= {
                _CENTRES[axis]: spelling.place(arm[axis], inch=inch) for axis in sorted(IN_PLANE[moves.plane[row]])
            }
        told.append((text, feed, piece.until - former))
        # the place that the rounded words lead to, so that rounding does not add up; axes that are not named stay
        rounded = (place if moves.relative[row] else 0.0) + spelling.rounded(value, inch=inch) * scale
        place = np.where(np.isin(np.arange(len(letters)), axes), rounded, place)
        former, carried = piece.until, math.inf
    if np.abs(place - ends).max() > SAME_PLACE:  # its end has more figures than the program writes
        return [({}, min(piece.feed for piece in parts), 1.0)]
    return told


def _scale(inch: bool, count: int) -> np.ndarray:
    """Millimetres, or degrees, of one unit of each word (count,)."""
    out = np.ones(count)
    out[:3] = _INCH if inch else 1.0
    return out


def _written_place(moves: Moves, row: int, shares: tuple[float, float, float], spelling: Spelling) -> np.ndarray | None:
    """A place near a share of a move that the program's figures write on the move; None where there is none."""
    before, share, after = shares
    inch = bool(moves.inch[row])
    scale = _scale(inch, moves.starts.shape[1])
    window = min(_WINDOW / float(moves.length[row]), _SHARE * (share - before), _SHARE * (after - share))
    tried = share + np.append(0.0, window * np.linspace(-1.0, 1.0, _TRIED))
    rows = np.full(len(tried), row)
    places = spelling.rounded(_at(moves, rows, tried) / scale, inch=inch) * scale
    off = aside(moves, row, places)
    if moves.kind[row] != LINE:  # the next piece gives its centre from here
        arms = moves.centre[row] - places
        written_arms = spelling.rounded(arms / scale, inch=inch) * scale
        off = np.maximum(off, np.linalg.norm((written_arms - arms)[:, list(IN_PLANE[moves.plane[row]])], axis=1))
    good = np.flatnonzero(off <= 0.9 * ON_THE_WAY)
    if not len(good):
        return None
    return np.asarray(places[good[np.abs(tried[good] - share).argmin()]])


def _at(moves: Moves, rows: np.ndarray, share: np.ndarray) -> np.ndarray:
    """Places on moves at shares of their length, in every axis that is named."""
    if not isinstance(moves, TiltedMoves):
        return moves.at(rows, share)
    starts, ends = moves.starts[rows], moves.ends[rows]
    return np.asarray(starts + share[:, None] * (ends - starts))
