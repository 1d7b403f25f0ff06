"""`lesna sheet`: the set-up sheet of a job."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from lesna.cli.common import mention_problems, not_over, open_job, open_library, write_output
from lesna.cli.refusal import about, fail, tell
from lesna.data.library import Library
from lesna.model.errors import InputError, LesnaError
from lesna.model.job import Job

if TYPE_CHECKING:
    from lesna.planning.cut.result import Result
    from lesna.planning.program.told import OnSheet


@click.command("sheet")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("-o", "out", required=True, type=click.Path(path_type=Path), help="FILE.pdf or FILE.html")
@click.pass_context
def sheet(context: click.Context, job_file: Path, out: Path) -> None:
    """Write the set-up sheet of JOB as PDF or HTML."""
    if out.suffix.lower() not in (".pdf", ".html"):
        fail(f"{out}: the name must end in .pdf or .html")
    from lesna.planning.evaluate import evaluate
    from lesna.report.sheet import sheet_html

    job = open_job(job_file)
    library = open_library()
    with about(job_file):
        results = [evaluate(job, index, library) for index in range(len(job.cuts))]
        if not results:
            raise InputError("the job has no cuts; at least one is needed", "cuts")
    results, told = _by_programs(job, job_file, results, library)
    html = sheet_html(job, results, job.units, told)
    mention_problems(library)
    not_over(out)
    write_output(out, html.encode("utf-8") if out.suffix.lower() == ".html" else context.obj.pdf_of(html))
    tell(f"{out} written")


def _by_programs(
    job: Job, job_file: Path, results: Sequence[Result], library: Library
) -> tuple[list[Result], dict[str, OnSheet]]:
    """The Results with the times of the programs that cuts name, and sentences about these; one that cannot be simulated says why."""
    told: dict[str, OnSheet] = {}
    timed_results = list(results)
    for index, (cut, result) in enumerate(zip(job.cuts, results, strict=True)):
        if cut.program is None:
            continue
        from lesna.planning.evaluate import with_timing
        from lesna.planning.program.of_cut import run_of_cut, timed
        from lesna.planning.program.summary import summary_of
        from lesna.planning.program.told import OnSheet, on_sheet
        from lesna.planning.program.work import others_of

        path = job_file.parent / cut.program.file
        try:
            others = others_of(job, index, library)
            run = run_of_cut(result.setup.parts, cut.program, job_file.parent, others)
            found = summary_of(run)
            told[cut.id] = on_sheet(path.name, run, found, result, job.units)
            timed_results[index] = with_timing(result, timed(found))
        except LesnaError as error:
            told[cut.id] = OnSheet((f"{path.name} cannot be judged: {error}.",))
    return timed_results, told
