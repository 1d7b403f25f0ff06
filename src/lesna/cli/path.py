"""`lesna path`: the toolpath of a cut, simulated and written as a program."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.progress import progress
from lesna.cli.refusal import about, fail, tell
from lesna.model import units
from lesna.model.files import write_atomic
from lesna.model.resolve import parts_of
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.evaluate import evaluate
from lesna.planning.program.told import clock
from lesna.planning.ways.judge import data_of, judged
from lesna.planning.ways.make import Wish, route_of
from lesna.planning.ways.program import POSTS, Printing, post_text, program_of


@click.command("path")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut whose path is made.")
@click.option("--zigzag", is_flag=True, help="Every other pass may cut up: shorter links.")
@click.option("--lines", is_flag=True, help="Lines only, no arcs.")
@click.option("--walls/--no-walls", default=True, show_default=True, help="A closing pass along the walls.")
@click.option("--inch", is_flag=True, help="The program in inches.")
@click.option("--numbers", is_flag=True, help="Blocks are numbered.")
@click.option("--post", default=POSTS[0], show_default=True, help=f"{', '.join(POSTS)}, or a template file.")
@click.option("--tool", type=click.IntRange(1, 9999), default=1, show_default=True, help="T number of the program.")
@click.option("-o", "--output", required=True, type=click.Path(path_type=Path), help="The program.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
def path_command(job_file: Path, name: str, output: Path, *, as_json: bool, **given: Any) -> None:
    """Make the path of a cut of JOB, simulate it and write it as an NC program."""
    job, library = open_job(job_file), open_library()
    if output.resolve() == job_file.resolve():
        fail(f"{output}: is the job itself; name another file")
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        open_kernels(needed=True)
        parts = parts_of(job, index, library)
        result = evaluate(job, index, library)
    open_kernels(needed=True, names=(*OF_WAYS, *OF_PATHS))
    printing = Printing(given["post"], given["tool"], given["inch"], given["numbers"])
    started = time.perf_counter()
    with about(job_file), progress("path") as say:
        route = route_of(result, Wish(given["zigzag"], not given["lines"], given["walls"]), say)
    seconds = time.perf_counter() - started
    with about(Path(given["post"])):
        content = program_of(route, result, job.title, printing, post_text(given["post"]))
    with about(output), progress("simulating") as say:
        found = judged(route, content, parts, say)
    with about(output):
        write_atomic(output, content)
    mention_problems(library)
    data = data_of(route, found, content.count(b"\n"), seconds, parts)
    if as_json:
        print_json({"lesna": 1, "cut": parts.cut.name, **data, "output": str(output)})
        return
    e = data["engagement"]
    tell(f"{parts.cut.name}: {units.ROUGH_LENGTH.full(data['length_cut_mm'], job.units)} in the cut, "
         f"{units.ROUGH_LENGTH.full(data['length_link_mm'], job.units)} of links, {route.way.passes} passes, {route.levels} levels, "
         f"{clock(data['time_s'])} min:s, {data['q_mean_cm3_min']:.1f} cm³/min on the average")  # fmt: skip
    tell(f"  engaged {e['median_deg']:.1f}° in the middle, {e['p95_deg']:.1f}° for 95 % of the way, {e['max_deg']:.1f}° at most; "
         f"wanted {e['target_deg']:.1f}°")  # fmt: skip
    if data["leftover_mm2"] > 0:
        tell(f"  {data['leftover_mm2']:.2f} mm² of the floor stay covered")
    for sliver in data["slivers"][:5]:
        tell(
            f"  a web of {sliver['thickness_mm']:.2f} mm at x {sliver['x']:.1f}, y {sliver['y']:.1f}, line {sliver['line']}"
        )
    tell(f"  written to {output}; run it first in single block, with reduced feed and rapids")
