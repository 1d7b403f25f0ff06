"""What the commands share: finding jobs and cuts, JSON on standard output."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from lesna.cli.banks import taught_library
from lesna.cli.refusal import LIMIT_EXCEEDED, about, fail, line
from lesna.data.library import Library
from lesna.document.drawings import Drawings, troubles_of
from lesna.document.named_files import found_beside
from lesna.model.errors import InputError
from lesna.model.files import load_job, was_read, write_atomic
from lesna.model.job import Job
from lesna.model.shown import escaped
from lesna.physics import engine

if TYPE_CHECKING:
    from lesna.planning.program.summary import Summary


def open_library() -> Library:
    """Shipped tables with the shop's own over them, and what its trials taught."""
    return taught_library(None)


def mention_problems(library: Library) -> None:
    """Names rows of the shop's library that were left out."""
    for problem in library.problems:
        click.echo(line(problem), err=True)


def open_job(path: Path) -> Job:
    """The job of a file with its drawings; ends the command where one of them cannot be read."""
    with about(path):
        job, told = found_beside(load_job(path), path.parent)
        for sentence in told:
            click.echo(line(f"{path}: {sentence}, which is read"), err=True)
        job = Drawings().of(job, path.parent)
        for index, trouble in troubles_of(job):
            raise InputError(trouble, f"cuts[{index}].feature.dxf")
        return job


def open_kernels(*, needed: bool, names: Sequence[str] = ()) -> None:
    """Loads the compiled sums: always where a command cannot do without, else only where they lie ready.

    Compiling takes half a minute on a fresh machine and is said on standard error.
    """
    if not needed and not engine.is_cached(names):
        return

    def say(done: int, total: int) -> None:
        if not cached:
            click.echo(f"lesna: preparing the force sums of this machine, once: {done} of {total}", err=True)

    cached = engine.is_cached(names)
    try:
        engine.ready(say, names)
    except engine.NoKernel as error:
        if needed:
            fail(str(error))


def chosen(job: Job, path: Path, name: str | None) -> list[int]:
    """Positions of the cuts a command is about."""
    if name is None:
        return list(range(len(job.cuts)))
    with about(path):
        return [job.cut_named(name)]


def not_over(output: Path) -> None:
    """Ends the command where its output would replace anything that it has read."""
    if was_read(output):
        fail(f"{output}: is what is read itself; name another file, so that the original stays")


def judge(found: Summary, *, strict: bool, is_written: bool = True) -> None:
    """Says on standard error what a written program breaks as it is; where that is asked for the command ends with 1."""
    from lesna.planning.program.told import broken_rules

    broken = broken_rules(found)
    if broken and is_written:
        click.echo(line(f"look before it runs: {'; '.join(broken)}"), err=True)
    if strict and (found.findings or any(use > 1 + 1e-9 for use in found.uses.values())):
        raise SystemExit(LIMIT_EXCEEDED)


def write_output(output: Path, content: bytes) -> None:
    """Writes what a command makes, never over what it was made from."""
    not_over(output)
    with about(output):
        write_atomic(output, content)


def print_json(data: Any) -> None:
    """One JSON object on standard output; nothing is written where it cannot be."""
    click.echo("".join(map(escaped, _json(data))))


def _json(data: Any, depth: int = 2) -> Iterator[str]:
    """The text of an object, made field by field: a map's grids at once would keep Ctrl-C waiting."""
    if not isinstance(data, dict) or depth == 0:
        yield json.dumps(data, ensure_ascii=False, allow_nan=False)
        return
    joint = "{"
    for key, value in data.items():
        yield f"{joint}{json.dumps(key, ensure_ascii=False)}: "
        yield from _json(value, depth - 1)
        joint = ", "
    yield "}" if data else "{}"
