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
_SKIP = re.compile(r"[ \t]*/\d?")
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
    return content.decode("latin-1")


def lines_of(text: str) -> list[str]:
    """Lines with the ends they have; only a line feed ends one."""
    return text.splitlines(keepends=True) if text.isascii() and not _ODD_END.search(text) else _split(text)


#: characters at which Python parts lines and a control does not
_ODD_END = re.compile("[\v\f\x1c-\x1e]|\r(?!\n)")


def _split(text: str) -> list[str]:
    lines = [line + "\n" for line in text.split("\n")]
    lines[-1] = lines[-1][:-1]
    return lines if lines[-1] else lines[:-1]


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
    skip = _SKIP.match(line)
    place = _after_blanks(line, skip.end() if skip else 0)
    while place < len(line):
        found = _WORD.match(line, place)
        if found is None:
            raise InputError(f"line {number}: {_trouble(line, place)}")
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
    if rest[0] == "(":
        return f"'{quoted}': the comment has no end; close it with ')' on the same line"
    if rest[0].isalpha() and rest[0].isascii():
        after = rest[1:].lstrip()
        if after.startswith(("#", "[")):
            return f"'{quoted}': variables and sums are not read; write the program out with plain numbers"
        return f"'{quoted}': the word {rest[0].upper()} needs a number, such as {rest[0].upper()}12.5"
    return f"'{quoted}' is not understood"
