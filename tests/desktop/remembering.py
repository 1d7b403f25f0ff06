"""Answers that windows of this process have been given before: equal questions have equal answers, whichever window asks."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any
from unittest import mock

from lesna.desktop.answers import Address, Answers, Kind, Question
from lesna.desktop.kept import Kept, size_of
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse

#: kinds whose answers follow from their questions alone; a tap or a recording is new each time, what trials teach is the bank's
_KINDS = frozenset({
    "map", "chart", "offers", "compare", "changes", "tools", "chatter", "timing by program", "timing", "program", "levelled",
    "own targets", "ways", "surface", "surface path", "surface proof",
})  # fmt: skip
_HELD = Kept(1_500_000_000)


def _remembered(kind: Kind) -> Kind:
    """The kind, computing only what was never asked before."""

    def compute(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
        found = _HELD.get((kind.name, question))
        if found is None:
            found = kind.compute(question, shelf, pulse)
            pulse.check()  # what was stopped half-way is no answer
            _HELD.put((kind.name, question), found, size_of(found))
        return found

    return replace(kind, compute=compute)


@contextlib.contextmanager
def remembering() -> Iterator[None]:
    """Within it windows are given what others were given before."""
    send = Answers.send

    def sent(answers: Answers, kind: Kind, address: Address, *arguments: Callable[[Any], None], **more: Any) -> None:
        send(answers, _remembered(kind) if kind.name in _KINDS else kind, address, *arguments, **more)

    with mock.patch.object(Answers, "send", sent):
        yield
