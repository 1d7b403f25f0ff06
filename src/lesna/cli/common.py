"""What the commands share: finding jobs and cuts, one-line errors, JSON on standard output."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NoReturn

import click

from lesna.data.library import Library, shop_folder
from lesna.model.errors import LesnaError
from lesna.model.files import load_job
from lesna.model.job import Job

BAD_INPUT = 2
LIMIT_EXCEEDED = 1


def fail(text: str) -> NoReturn:
    """Ends the command with one line on standard error and exit code 2."""
    click.echo(f"lesna: {' '.join(text.split())}", err=True)
    raise SystemExit(BAD_INPUT)


@contextlib.contextmanager
def about(path: Path) -> Iterator[None]:
    """Turns what goes wrong with a file into one line that names it."""
    try:
        yield
    except LesnaError as error:
        fail(f"{path}: {error}")


def open_library() -> Library:
    """Shipped tables with the shop's own over them."""
    return Library(shop_folder())


def mention_problems(library: Library) -> None:
    """Names rows of the shop's library that were left out."""
    for problem in library.problems:
        click.echo(f"lesna: {problem}", err=True)


def open_job(path: Path) -> Job:
    """The job of a file; ends the command where it cannot be read."""
    with about(path):
        return load_job(path)


def chosen(job: Job, path: Path, name: str | None) -> list[int]:
    """Positions of the cuts a command is about."""
    if name is None:
        return list(range(len(job.cuts)))
    with about(path):
        return [job.cut_named(name)]


def print_json(data: Any) -> None:
    """One JSON object on standard output."""
    click.echo(json.dumps(data, ensure_ascii=False, allow_nan=False))
