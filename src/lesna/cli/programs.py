"""The programs that the cuts of a job name, simulated for what is printed of them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import click

from lesna.cli.refusal import line
from lesna.data.library import Library
from lesna.model.errors import LesnaError
from lesna.model.job import Job

if TYPE_CHECKING:
    from lesna.planning.cut.result import Result
    from lesna.planning.program.told import OnSheet


def evaluated(job: Job, places: Iterable[int], library: Library, job_file: Path) -> list[Result]:
    """The Results of some cuts, each timed by its own program where it has one that can be read (errors as `evaluate`)."""
    from lesna.planning.evaluate import evaluate

    return [by_program(evaluate(job, place, library), job, place, library, job_file) for place in places]


def by_program(result: Result, job: Job, index: int, library: Library, job_file: Path) -> Result:
    """The Result with the time of the cut's own program, where it has one that can be read."""
    ref = job.cuts[index].program
    if ref is None:
        return result
    from lesna.planning.evaluate import with_timing
    from lesna.planning.program.kept_time import program_time
    from lesna.planning.program.preceding import preceding_of
    from lesna.planning.program.work import others_of

    try:
        before = preceding_of(job, library, job_file.parent, ref.stock, (job.cuts[index].name,))
        timing = program_time(result.setup.parts, ref, job_file.parent, others_of(job, index, library), before=before)
    except LesnaError as error:
        click.echo(line(f"{job_file}: cuts[{index}].program: {ref.file}: {error}; its time is estimated"), err=True)
        return result
    return with_timing(result, timing)


def by_programs(
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
        from lesna.planning.program.preceding import preceding_of
        from lesna.planning.program.summary import summary_of
        from lesna.planning.program.told import OnSheet, on_sheet
        from lesna.planning.program.work import others_of

        path = job_file.parent / cut.program.file
        try:
            others = others_of(job, index, library)
            before = preceding_of(job, library, job_file.parent, cut.program.stock, (cut.name,))
            run = run_of_cut(result.setup.parts, cut.program, job_file.parent, others, before=before)
            found = summary_of(run)
            told[cut.id] = on_sheet(path.name, run, found, result, job.units)
            timed_results[index] = with_timing(result, timed(run.geometry, run.times))
        except LesnaError as error:
            told[cut.id] = OnSheet((f"{path.name} cannot be judged: {error}.",))
    return timed_results, told
