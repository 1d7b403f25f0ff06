"""Ending a command with one line and exit code 2. Imports nothing heavy."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import NoReturn

import click

from lesna.model.errors import LesnaError
from lesna.model.shown import visible

BAD_INPUT = 2
LIMIT_EXCEEDED = 1


class _Asked(threading.Event):
    """Whether somebody has asked to stop, and whether that was said."""

    was_said = False

    def clear(self) -> None:
        super().clear()
        self.was_said = False


#: somebody has pressed Ctrl-C: whatever goes wrong from then on comes of that
ASKED_TO_STOP = _Asked()


def line(text: str) -> str:
    """One line of a refusal, its numbers metric as the document's are."""
    from lesna.model.units import said

    return f"lesna: {visible(' '.join(said(text, 'metric').split()))}"


def tell(text: str) -> None:
    """Writes to standard output what may hold names that somebody chose."""
    click.echo(visible(text))


def say_refused(text: str) -> None:
    """One line on standard error about what ends a command; that it was stopped is said once."""
    if not ASKED_TO_STOP.was_said:
        ASKED_TO_STOP.was_said = ASKED_TO_STOP.is_set()
        click.echo(line("stopped" if ASKED_TO_STOP.is_set() else text), err=True)


def fail(text: str) -> NoReturn:
    """Ends the command with one line on standard error and exit code 2."""
    say_refused(text)
    raise SystemExit(BAD_INPUT)


@contextlib.contextmanager
def about(path: Path) -> Iterator[None]:
    """Turns what goes wrong with a file into one line that names it."""
    try:
        yield
    except LesnaError as error:
        fail(f"{path}: {error}")
