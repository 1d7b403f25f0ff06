"""`lesna cut`: computes the cuts of a job."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.programs import evaluated
from lesna.cli.refusal import LIMIT_EXCEEDED, about, tell
from lesna.model import units
from lesna.planning.cut.result import Result
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.figures import COMMAND, FIGURES, applies, result_data
from lesna.planning.telling.setting import IMPOSSIBLE


@click.command("cut")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="Only the cut of this name.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
@click.option(
    "--strict", is_flag=True, help="Exit code 1 when a limit is exceeded, or a cut cannot be done as it is set."
)
def cut(job_file: Path, name: str | None, as_json: bool, strict: bool) -> None:
    """Compute every cut of JOB, or one."""
    job = open_job(job_file)
    library = open_library()
    places = chosen(job, job_file, name)
    if any(job.cuts[index].is_judged_by_modes for index in places):
        open_kernels(needed=False)  # only a measured boundary takes longer than loading them
    with about(job_file):
        results = evaluated(job, places, library, job_file)
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "title": job.title, "cuts": [result_data(result, job.units) for result in results]})
    else:
        tell("\n\n".join(_text(result, job.units) for result in results) or "the job has no cuts yet")
    if strict and any(map(_is_over, results)):
        raise SystemExit(LIMIT_EXCEEDED)


def _is_over(result: Result) -> bool:
    """Whether a limit is exceeded, or the cut cannot be done as it is set."""
    return any(limit.is_exceeded for limit in result.limits) or any(c.id in IMPOSSIBLE for c in cautions_of(result))


def _text(result: Result, system: units.System) -> str:
    head = f"{result.name}: {result.standing}"
    if result.limited_by:
        head += f", held back by {result.limited_by.rule.name.lower()} ({result.limited_by.use:.0%})"
    rows = [
        [part for id in pair for part in (FIGURES[id].label.lower(), FIGURES[id].full(result, system))]
        for pair in COMMAND
        if any(applies(id, result) for id in pair)
    ]
    lines = [head] + [f"  {a:16}{b:>16}   {c:16}{d:>16}" for a, b, c, d in rows]
    lines += [f"  ! {units.said(c.text, system)}" for c in cautions_of(result) if c.severity != "note"]
    return "\n".join(lines)
