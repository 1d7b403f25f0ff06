"""Lines of a program as words: a letter with its number, and where it stands; comments and blanks are passed over."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from lesna.model.errors import InputError

#: largest program that is read [bytes]
MOST_BYTES = 64_000_000
_WORD = re.compile(r"([A-Za-z])[ \t]*([+-]?(?:\d+\.?\d*|\.\d+))")
#: what stands between words: blanks, comments, the skip mark at the start of a block
_BETWEEN = re.compile(r"(?:[ \t\r\n\v\f]+|\([^()\n]*\)|;[^\n]*)*")
#: what a control passes over
COMMENT = re.compile(r"\([^()\n]*\)|;[^\n]*")
_SKIP = re.compile(r"[ \t]*/(\d?)")
#: a number of more figures than this is no place, feed or speed
_LONGEST = 24
#: words behind a semicolon that look as if they were meant to run
_HIDDEN = re.compile(r"[ \t]*[GXYZFSM][ \t]*[+-]?[\d.]", re.IGNORECASE)
#: characters of a line
_MOST_OF_LINE = 10_000
#: as much of what cannot be read as is worth quoting
_QUOTED = 16


class Word(NamedTuple):
    """One word: its letter in upper case, its number, and the span of its text in the line."""

    letter: str
    value: float
    start: int
    end: int


def text_of(content: bytes) -> str:
    """A program as text in which every byte is one character, so that writing gives every byte back."""
    if not content.strip():
        raise InputError("line 1: the program is empty")
    if len(content) > MOST_BYTES:
        raise InputError(
            f"the program has {len(content) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are read, so divide it"
        )
    if b"\0" in content:
        line = content[: content.index(b"\0")].count(b"\n") + 1
        raise InputError(f"line {line}: holds bytes that are no text; an NC program is wanted")
    text = content.decode("latin-1")
    alone = _ALONE.search(text)
    if alone:
        line = text.count("\n", 0, alone.start()) + 1
        raise InputError(
            f"line {line}: a carriage return stands alone, where some controls end a line and others do not; save with LF or CR LF"
        )
    return text


#: the carriage return of a line's end, and one that is none
_ALONE = re.compile(r"\r(?!\r*(?:\n|$))")


def lines_of(text: str) -> list[str]:
    """Lines with the ends they have; only a line feed ends one."""
    return text.splitlines(keepends=True) if text.isascii() and not _ODD_END.search(text) else _split(text)


#: characters at which Python parts lines and a control does not
_ODD_END = re.compile("[\v\f\x1c-\x1e]|\r(?!\n)")


def _split(text: str) -> list[str]:
    lines = [line + "\n" for line in text.split("\n")]
    lines[-1] = lines[-1][:-1]
    return lines if lines[-1] else lines[:-1]


def skip_of(line: str) -> int:
    """Number of the skip switch that leaves out a line: 0 where none stands behind the mark, -1 without a mark."""
    found = _SKIP.match(line) if "/" in line else None
    return -1 if found is None else int(found[1] or 0)


def hidden_in(line: str) -> str:
    """What looks like words but stands behind a semicolon, so that it does not run; empty where there is nothing."""
    at = line.find(";")
    return line[at + 1 :].strip() if at >= 0 and _HIDDEN.match(line, at + 1) else ""


def words_of(line: str, number: int) -> list[Word]:
    """The words of a line.

    Parameters
    ----------
    line : str
        The line, with or without its end.
    number : int
        Its number in the file, from 1.

    Raises
    ------
    InputError
        With the line number and what cannot be read.
    """
    return list(_words(line, number))


def _words(line: str, number: int) -> Iterator[Word]:
    if len(line) > _MOST_OF_LINE:
        raise InputError(f"line {number}: has {len(line):,} characters; no block has more than {_MOST_OF_LINE:,}")
    skip = _SKIP.match(line)
    place = _after_blanks(line, skip.end() if skip else 0)
    while place < len(line):
        found = _WORD.match(line, place)
        if found is None:
            raise InputError(f"line {number}: {_trouble(line, place)}")
        if len(found[2]) > _LONGEST:
            raise InputError(
                f"line {number}: the number of the word {found[1].upper()} has {len(found[2])} figures; no word has so many"
            )
        yield Word(found[1].upper(), float(found[2]), place, found.end())
        place = _after_blanks(line, found.end())


def _after_blanks(line: str, place: int) -> int:
    found = _BETWEEN.match(line, place)
    return found.end() if found else place


def _trouble(line: str, place: int) -> str:
    rest = line[place:].rstrip(" \t\r\n")
    quoted = rest[:_QUOTED] + ("..." if len(rest) > _QUOTED else "")
    if rest[0] in "#[":
        return f"'{quoted}': variables and sums are not read; write the program out with plain numbers"
    if rest[0] == ",":
        return f"'{quoted}': corners rounded or broken by the control are not read; post the arc or the line"
    if rest[0] == "(":
        return f"'{quoted}': the comment has no end; close it with ')' on the same line"
    if rest[0].isalpha() and rest[0].isascii():
        after = rest[1:].lstrip()
        if after.startswith(("#", "[")):
            return f"'{quoted}': variables and sums are not read; write the program out with plain numbers"
        return f"'{quoted}': the word {rest[0].upper()} needs a number, such as {rest[0].upper()}12.5"
    return f"'{quoted}' is not understood"
