"""Text to what a control or a machine does with it: lines in the order in which they run, subprograms called, skipped blocks left out."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import NoReturn

import numpy as np

from lesna.geometry.kinematics import Kinematics
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.control import Control
from lesna.nc.locations import is_locations, locations_of
from lesna.nc.program import Program, TiltedMoves, Trace
from lesna.nc.words import COMMENT, Word, hidden_in, lines_of, skip_of, text_of, words_of

#: lines between two words about how far the reading is
_TELL_EVERY = 4096
#: calls within calls, and lines that subprograms may run together
_DEEPEST, MOST_CALLED = 8, 500_000
#: numbers of more figures hold the repeats before the last four
_OWN_FIGURES = 10_000
#: as much of a hidden word as is worth quoting
_QUOTED = 16

#: no block skipped
NONE: frozenset[int] = frozenset()


def read_program(content: bytes, pulse: Pulse = STEADY, kinematics: Kinematics | None = None) -> Program:
    """A program as motion: blocks or cutter locations, as its content tells.

    Parameters
    ----------
    content : bytes
        The file.
    pulse : Pulse
        Told how far it is.
    kinematics : Kinematics or None
        Rotary axes of the machine; a program of three axes is read without them.

    Raises
    ------
    InputError
        With the line, and what cannot be read there or run by this machine.
    """
    text = text_of(content)
    lines = lines_of(text)
    if is_locations(text):
        return locations_of(text, lines, kinematics)
    if kinematics is not None and not _names_an_axis(text):
        kinematics = None
    ran = _Ran(lines, NONE, pulse, kinematics)
    trace, control = ran.control.trace(), ran.control
    moves = trace.moves
    rows = np.flatnonzero(~np.isnan(moves.starts).any(axis=1) & ~np.isnan(moves.ends).any(axis=1))
    if isinstance(moves, TiltedMoves) and kinematics is not None:
        for turned in (moves.turned_end, moves.turned_start):
            kinematics.check(np.nan_to_num(turned), moves.line)
        unknown = np.flatnonzero(moves.is_feed & np.isnan(moves.starts).any(axis=1))
        if len(unknown):
            control.number = int(moves.line[unknown[0]])
            control.remark(
                f"where the axes stand is not known before X Y Z {' '.join(kinematics.letters)} are named; until then nothing is simulated"
            )
    return Program(
        text, lines, trace, rows, moves.part(rows), control.dwell, tuple(control.changes), tuple(control.remarks),
        kinematics=kinematics,
    )  # fmt: skip


def _names_an_axis(text: str) -> bool:
    """Whether a rotary axis moves, or the tip is to be followed, anywhere in a program."""
    return _TILTED_WORD.search(COMMENT.sub("", text)) is not None


_TILTED_WORD = re.compile(r"[ABCabc][ \t]*[+-]?[\d.]|[Gg][ \t]*43\.[45]")


def read_again(program: Program, lines: list[str], skipped: frozenset[int] = NONE) -> Trace:
    """What lines do, read in the language of a program and for its axes (parameters and errors as `trace_of`)."""
    if program.language == "locations":
        return locations_of("".join(lines), lines, program.kinematics).trace
    return trace_of(lines, skipped, program.kinematics)


def trace_of(lines: list[str], skipped: frozenset[int], kinematics: Kinematics | None = None) -> Trace:
    """What the lines do with the blocks of some switches skipped.

    Parameters
    ----------
    lines : list of str
        The program.
    skipped : frozenset of int
        Numbers of the switches that are on; 0 is that without a number.
    kinematics : Kinematics or None
        Rotary axes that the program moves.

    Raises
    ------
    InputError
        With the line.
    """
    return _Ran(lines, skipped, STEADY, kinematics).control.trace()


@dataclass
class _Call:
    """Where a control goes on after a subprogram, and how often that runs yet."""

    back: int
    first: int
    left: int


class _Ran:
    """One run through the lines."""

    def __init__(
        self, lines: list[str], skipped: frozenset[int], pulse: Pulse, kinematics: Kinematics | None = None
    ) -> None:
        self.lines, self.skipped = lines, skipped
        self.control = Control(kinematics)
        self._words: dict[int, list[Word]] = {}
        self._calls: list[_Call] = []
        self._places: dict[tuple[str, int], int] | None = None
        at, ran, called, has_begun = 0, 0, 0, False
        while at < len(lines):
            ran += 1
            if ran % _TELL_EVERY == 0:
                pulse.tell(min(at, len(lines)), len(lines))
            called += bool(self._calls)
            if called > MOST_CALLED:
                raise InputError(
                    f"line {at + 1}: the calls of this program run more than {MOST_CALLED:,} lines; divide it"
                )
            line = lines[at]
            if line.lstrip().startswith("%"):
                if has_begun:
                    break  # what follows the end mark is no program
                at += 1
                continue
            words = self._words_at(at)
            if not words:
                at += 1
                continue
            if has_begun and words[0].letter == "O" and not self._calls:
                break  # another program begins
            has_begun = True
            at = self._run(at, words)
            if self.control.has_ended:
                break
        if self._calls:
            raise InputError(f"line {len(lines)}: a subprogram has no end; close it with M99")

    def _words_at(self, at: int) -> list[Word]:
        found = self._words.get(at)
        if found is None:
            found = words_of(self.lines[at], at + 1)
            if self._places is not None:  # lines run again only where something is called
                self._words[at] = found
        return found

    def _run(self, at: int, words: list[Word]) -> int:
        """Runs a line; the place of the next."""
        control, skip = self.control, skip_of(self.lines[at])
        hidden = hidden_in(self.lines[at])
        if hidden:
            control.number = at + 1
            control.remark(f"'{hidden[:_QUOTED]}' stands behind a semicolon and does not run")
        if skip >= 0:
            control.number = at + 1
            control.remark(
                "blocks with / are run here; with the switch on, what they would cut still stands, and moves beside them keep their feeds"
            )
            if skip in self.skipped:
                control.barrier()
                return at + 1
        control.block(words, at + 1, skip)
        if control.call is not None:
            return self._called(at, *control.call)
        if control.returns is not None:
            return self._returned(at, control.returns)
        return at + 1

    def _called(self, at: int, number: int, repeats: int) -> int:
        places = self._places_of_numbers()
        first = places.get(("O", number), places.get(("N", number)))
        if first is None and number >= _OWN_FIGURES:
            repeats, number = number // _OWN_FIGURES, number % _OWN_FIGURES
            first = places.get(("O", number))
        if first is None:
            self._stop(
                at, f"M98 P{number}: the file holds no subprogram O{number}; put it behind the program, or write it out"
            )
        if not 1 <= repeats <= MOST_CALLED:
            self._stop(at, f"M98 P{number} L{repeats}: a subprogram is called at least once")
        if len(self._calls) >= _DEEPEST:
            self._stop(at, f"M98 P{number}: subprograms call each other more than {_DEEPEST} deep")
        self._calls.append(_Call(at + 1, first, repeats))
        return first

    def _returned(self, at: int, label: float) -> int:
        if not self._calls:
            self._stop(at, "M99 ends the program and begins it again; end it with M30")
        if label:
            self._stop(at, f"M99 P{label:g}: a return to a numbered block is not read; write the program out")
        call = self._calls[-1]
        call.left -= 1
        if call.left:
            return call.first
        self._calls.pop()
        return call.back

    def _places_of_numbers(self) -> dict[tuple[str, int], int]:
        """First lines of what can be called, by letter and number."""
        if self._places is None:
            self._places = {}
            for at, line in enumerate(self.lines):
                if line.lstrip()[:1].upper() in ("O", "N", "/"):
                    for word in words_of(line, at + 1)[:1]:
                        if word.letter in "ON":
                            self._places.setdefault((word.letter, int(word.value)), at)
        return self._places

    def _stop(self, at: int, text: str) -> NoReturn:
        raise InputError(f"line {at + 1}: {text}")
