"""`lesna path`: the toolpath of a cut, simulated and written as a program."""

from __future__ import annotations

from pathlib import Path
from typing import Any, get_args

import click

from lesna.cli.common import (
    chosen,
    judge,
    mention_problems,
    open_job,
    open_kernels,
    open_library,
    print_json,
    write_output,
)
from lesna.cli.progress import progress
from lesna.cli.refusal import about, tell
from lesna.model.errors import InputError
from lesna.model.job import Cut
from lesna.paths.demand import LoopShape
from lesna.paths.generators import GENERATORS
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.evaluate import evaluate
from lesna.planning.routes.wish import Remedy, Wish
from lesna.planning.ways.program import POSTS, Printing, post_text
from lesna.planning.ways.prove import proved
from lesna.planning.ways.rest import before_of, earlier_in
from lesna.planning.ways.told import data_of, lines_of

_WAYS = ", ".join(f"{key} ({generator.title})" for key, generator in GENERATORS.items())


@click.command("path")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut whose path is made.")
@click.option(
    "--way", type=click.Choice(tuple(GENERATORS)), help=f"How: {_WAYS}. The one that suits the cut where left out."
)
@click.option("--zigzag", is_flag=True, help="Every other pass may cut up: shorter links.")
@click.option(
    "--loop",
    type=click.Choice(get_args(LoopShape)),
    default="half",
    show_default=True,
    help="Shape of a trochoid's loops.",
)
@click.option("--spring", is_flag=True, help="Passes along walls go round once more.")
@click.option(
    "--remedy",
    type=click.Choice(get_args(Remedy)),
    default="none",
    show_default=True,
    help="What is done about thin webs.",
)
@click.option(
    "--after", default="", help="The cut whose rest a rest cut takes; the nearest of the same feature where left out."
)
@click.option("--lines", is_flag=True, help="Lines only, no arcs.")
@click.option("--walls/--no-walls", default=True, show_default=True, help="A closing pass along the walls.")
@click.option(
    "--eased/--not-eased", default=True, show_default=True, help="Less feed where more is engaged than wanted."
)
@click.option(
    "--edge-feed/--middle-feed", default=True, show_default=True, help="Whose feed counts on arcs along walls."
)
@click.option("--inch", is_flag=True, help="The program in inches.")
@click.option("--numbers", is_flag=True, help="Blocks are numbered.")
@click.option("--post", default=POSTS[0], show_default=True, help=f"{', '.join(POSTS)}, or a template file.")
@click.option("--tool", type=click.IntRange(1, 9999), default=1, show_default=True, help="T number of the program.")
@click.option("--strict", is_flag=True, help="Exit 1 where the path breaks a limit or something is touched.")
@click.option("-o", "--output", required=True, type=click.Path(path_type=Path), help="The program.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
def path_command(job_file: Path, name: str, output: Path, *, as_json: bool, strict: bool, **given: Any) -> None:
    """Make the path of a cut of JOB, simulate it and write it as an NC program."""
    job, library = open_job(job_file), open_library()
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        open_kernels(needed=True)
        result = evaluate(job, index, library, wait=False)
    with about(Path(given["post"])):
        post_text(given["post"])
    open_kernels(needed=True, names=(*OF_WAYS, *OF_PATHS))
    wish = Wish(
        given["way"] or "", given["zigzag"], not given["lines"], given["walls"], given["spring"], given["loop"], given["remedy"],
        given["eased"], given["edge_feed"],
    )  # fmt: skip
    printing = Printing(given["post"], given["tool"], given["inch"], given["numbers"])
    cut = job.cuts[index]
    with about(job_file), progress() as pulse:
        earlier = earlier_in(job, index, library, job_file.parent, given["after"])
        before = None if earlier is None else before_of(earlier, pulse)
        try:
            made = proved(result, wish, printing, job.title, before=before, pulse=pulse)
        except InputError as error:
            is_of_cut = error.field.partition(".")[0] in Cut.model_fields
            raise (error.inside(f"cuts[{index}]") if is_of_cut else error) from None
    write_output(output, made.content)
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "cut": cut.name, **data_of(made), "output": str(output)})
        judge(made.summary, strict=strict)
        return
    for line in lines_of(made, cut.name, job.units):
        tell(line)
    tell(f"  written to {output}; run it first in single block, with reduced feed and rapids")
    judge(made.summary, strict=strict)
