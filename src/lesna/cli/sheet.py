"""`lesna sheet`: the set-up sheet of a job."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.banks import kept_plans
from lesna.cli.common import mention_problems, not_over, open_job, open_library, write_output
from lesna.cli.programs import by_programs
from lesna.cli.refusal import about, fail, tell
from lesna.model.errors import InputError


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
    results, told = by_programs(job, job_file, results, library)
    is_page = out.suffix.lower() == ".html"
    html = sheet_html(job, results, job.units, told, plans=kept_plans(job), has_form=is_page)
    mention_problems(library)
    not_over(out)
    write_output(out, html.encode("utf-8") if is_page else context.obj.pdf_of(html))
    tell(f"{out} written")
