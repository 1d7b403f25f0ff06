"""How far long work is, on a terminal."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import click

#: seconds between two looks
_LOOK = 0.1


@contextmanager
def progress(label: str) -> Iterator[Any]:
    """A bar on a terminal that shows how far long work is; nothing where nobody sees it."""
    if not sys.stderr.isatty():
        yield None
        return
    shown = 0.0

    def say(done: int, total: int) -> None:
        nonlocal shown
        if time.monotonic() - shown >= _LOOK:
            shown = time.monotonic()
            filled = 30 * done // max(total, 1)
            click.echo(f"\r{label:<11} [{'#' * filled}{'.' * (30 - filled)}] {done}/{total}  ", err=True, nl=False)

    yield say
    if shown:
        click.echo("\r" + " " * 72 + "\r", err=True, nl=False)
