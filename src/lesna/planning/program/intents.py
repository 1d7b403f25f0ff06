"""What each move of a program is for, where its comments say so: those of our own paths do."""

from __future__ import annotations

import re
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from lesna.nc.program import Program

#: words that a comment begins with, and what no comment tells
INTENTS = ("", "entry", "cut", "wall", "link", "lift", "retract")
_COMMENT = re.compile(r"\s*(?:N\d+\s*)?\((\w+)")


#: of each program, as long as it is there
_known: WeakKeyDictionary[Program, NDArray[np.int8]] = WeakKeyDictionary()


def _of_lines(lines: list[str]) -> NDArray[np.int8]:
    out, inside = np.zeros(len(lines), dtype=np.int8), 0
    for number, line in enumerate(lines):
        found = _COMMENT.match(line)
        # a remark behind a move says nothing of what follows
        if found:
            word = found.group(1).lower()
            inside = INTENTS.index(word) if word in INTENTS else 0
        out[number] = inside
    return out


def intents_of(program: Program) -> NDArray[np.int8]:
    """The place in `INTENTS` of what each move is for, 0 where no comment before it tells.

    Parameters
    ----------
    program : Program
        What was read.
    """
    found = _known.get(program)
    if found is None:
        found = _known[program] = _of_lines(program.lines)
    return np.asarray(found[np.maximum(program.moves.line - 1, 0)])
