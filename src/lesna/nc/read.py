"""Text to what a control does with it: lines in the order in which they run, subprograms called, skipped blocks left out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NoReturn

import numpy as np

from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.control import Control
from lesna.nc.program import Program, Trace
from lesna.nc.words import Word, hidden_in, lines_of, skip_of, text_of, words_of

#: lines between two words about how far the reading is
_TELL_EVERY = 4096
#: calls within calls, and lines that subprograms may run together
_DEEPEST, _MOST_CALLED = 8, 500_000
#: numbers of more figures hold the repeats before the last four
_OWN_FIGURES = 10_000
#: as much of a hidden word as is worth quoting
_QUOTED = 16

#: no block skipped
NONE: frozenset[int] = frozenset()


def read_program(content: bytes, pulse: Pulse = STEADY) -> Program:
    """A program as motion."""
    text = text_of(content)
    lines = lines_of(text)
    ran = _Ran(lines, NONE, pulse)
    trace = ran.control.trace()
    moves = trace.moves
    rows = np.flatnonzero(~np.isnan(moves.start).any(axis=1) & ~np.isnan(moves.end).any(axis=1))
    control = ran.control
    return Program(
        text, lines, trace, rows, moves.part(rows), control.dwell, tuple(control.changes), tuple(control.remarks)
    )


def trace_of(lines: list[str], skipped: frozenset[int]) -> Trace:
    """What the lines do with the blocks of some switches skipped.

    Parameters
    ----------
    lines : list of str
        The program.
    skipped : frozenset of int
        Numbers of the switches that are on; 0 is that without a number.

    Raises
    ------
    InputError
        With the line.
    """
    return _Ran(lines, skipped, STEADY).control.trace()


@dataclass
class _Call:
    """Where a control goes on after a subprogram, and how often that runs yet."""

    back: int
    first: int
    left: int


class _Ran:
    """One run through the lines."""

    def __init__(self, lines: list[str], skipped: frozenset[int], pulse: Pulse) -> None:
        self.lines, self.skipped = lines, skipped
        self.control = Control()
        self._words: dict[int, list[Word]] = {}
        self._calls: list[_Call] = []
        self._places: dict[tuple[str, int], int] | None = None
        at, ran, called, has_begun = 0, 0, 0, False
        while at < len(lines):
            ran += 1
            if ran % _TELL_EVERY == 0:
                pulse.tell(min(at, len(lines)), len(lines))
            called += bool(self._calls)
            if called > _MOST_CALLED:
                raise InputError(
                    f"line {at + 1}: the calls of this program run more than {_MOST_CALLED:,} lines; divide it"
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
        if not 1 <= repeats <= _MOST_CALLED:
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
