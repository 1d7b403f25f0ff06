"""How far long work is, on a terminal."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

import click

from lesna.model.work import STEADY, Pulse

#: seconds between two looks
_LOOK = 0.1
_WIDTH = 30


class _Bar(Pulse):
    """A bar that fills, stage by stage."""

    def __init__(self) -> None:
        self._stage, self._shown = "", 0.0

    def begin(self, stage: str) -> None:
        self.clear()
        self._stage = stage

    def tell(self, done: int, total: int) -> None:
        if time.monotonic() - self._shown >= _LOOK:
            self._shown = time.monotonic()
            filled = _WIDTH * done // max(total, 1)
            bar = "#" * filled + "." * (_WIDTH - filled)
            click.echo(f"\r{self._stage:<11} [{bar}] {done}/{total}  ", err=True, nl=False)

    def clear(self) -> None:
        """Leaves the line as it was."""
        if self._shown:
            click.echo("\r" + " " * 72 + "\r", err=True, nl=False)
            self._shown = 0.0


@contextmanager
def progress() -> Iterator[Pulse]:
    """Shows how far long work is on a terminal; tells nobody where nobody sees it."""
    if not sys.stderr.isatty():
        yield STEADY
        return
    bar = _Bar()
    try:
        yield bar
    finally:
        bar.clear()
