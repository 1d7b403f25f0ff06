"""`lesna surface`: how a freeform surface is finished, the path for it, and the proof of anybody's program."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json, write_output
from lesna.cli.progress import progress
from lesna.cli.refusal import LIMIT_EXCEEDED, about, fail, tell
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.files import read_bytes
from lesna.model.job import Job
from lesna.model.kept import over
from lesna.model.work import Pulse
from lesna.nc.words import MOST_BYTES
from lesna.physics.compiled import OF_SURFACES
from lesna.planning.cut.result import Result
from lesna.planning.evaluate import evaluate
from lesna.planning.surface.decide import Decision, Wanted, decide
from lesna.planning.surface.finish import Finished, finished
from lesna.planning.surface.make import judged
from lesna.planning.surface.part import part_of
from lesna.planning.surface.rows import rows_of
from lesna.planning.surface.told import (
    classes_told,
    cutting_data,
    decision_data,
    held_by,
    lean_told,
    leans_data,
    path_data,
    proof_data,
    proof_told,
    stick_out_data,
    time_told,
)
from lesna.planning.ways.program import POSTS, Printing, post_text

_WAYS = ("auto", "lines", "rings", "contours")


class _Angle(click.ParamType):
    """A number of degrees, or the word auto."""

    name = "DEG|auto"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        if value is None or isinstance(value, float):
            return value
        if value.lower() == "auto":
            return None
        try:
            return float(value)
        except ValueError:
            self.fail(f"'{value}' is neither a number of degrees nor auto")


class _CheckOrJob(click.Group):
    """`lesna surface JOB` decides; `lesna surface check JOB FILE.nc` proves."""

    def resolve_command(self, ctx: click.Context, args: list[str]) -> Any:
        if args and args[0] not in self.commands:
            return "decide", self.commands["decide"], args
        return super().resolve_command(ctx, args)


@click.group("surface", cls=_CheckOrJob)
def surface() -> None:
    """Decide how the surface of a cut of JOB is finished, write the path with -o, and prove it; `surface check` proves any program."""


_options = (
    click.option("--cut", "name", required=True, help="The cut whose feature is the surface."),
    click.option("--cusp", type=float, help="Height of cusps that may stay [um]; the feature's own where left out."),
    click.option("--threshold", type=_Angle(), help="Slope from which levels serve, or auto."),
    click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output."),
    click.option("--strict", is_flag=True, help="Exit 1 where the proof fails."),
)


def _shared(command: Any) -> Any:
    for option in reversed(_options):
        command = option(command)
    return command


@surface.command("decide", hidden=True)
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@_shared
@click.option("--lines", type=_Angle(), help="Angle of the lines to x, or auto.")
@click.option("--overlap", type=float, help="How far both regions reach into each other [mm].")
@click.option("--way", type=click.Choice(_WAYS), default="auto", show_default=True, help="How it is gone over.")
@click.option("--inch", is_flag=True, help="The program in inches.")
@click.option("--numbers", is_flag=True, help="Blocks are numbered.")
@click.option("--post", default=POSTS[0], show_default=True, help=f"{', '.join(POSTS)}, or a template file.")
@click.option("--tool", type=click.IntRange(1, 9999), default=1, show_default=True, help="T number of the program.")
@click.option("-o", "--output", type=click.Path(path_type=Path), help="The program.")
def decide_command(
    job_file: Path, name: str, output: Path | None, *, as_json: bool, strict: bool, **given: Any
) -> None:  # fmt: skip
    """Decide how a surface is finished."""
    with about(Path(given["post"])):
        post_text(given["post"])
    wanted = Wanted(given["threshold"], given["lines"], _um(given["cusp"]), given["overlap"], given["way"])
    job, index, library, result = _opened(job_file, name)
    printing = Printing(given["post"], given["tool"], given["inch"], given["numbers"])
    with about(job_file), progress() as pulse:
        decision = _decided(job_file, job, index, result, wanted, pulse)
        done = finished(decision, result, printing, job.title, over(job.rows, library).holders, pulse)
    made, shank = done.made, done.shank
    if output is not None:
        write_output(output, made.content)
    mention_problems(library)
    if as_json:
        print_json({
            "lesna": 1, "cut": job.cuts[index].name, **decision_data(made.decision), **cutting_data(made.cutting),
            "stick_out": stick_out_data(done.held), "shank_clear_mm": None if shank is None else round(shank, 3),
            "leans": leans_data(done.leans),
            "path": path_data(made), "proof": proof_data(made.proof), "output": None if output is None else str(output),
        })  # fmt: skip
    else:
        _say(job, job.cuts[index].name, done)
        if output is not None:
            tell(f"  written to {output}; run it first in single block, with reduced feed and rapids")
    if strict and not made.proof.passes:
        raise SystemExit(LIMIT_EXCEEDED)


@surface.command("check")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.argument("program", metavar="FILE.nc", type=click.Path(path_type=Path))
@_shared
def check_command(
    job_file: Path,
    program: Path,
    name: str,
    *,
    as_json: bool,
    strict: bool,
    cusp: float | None,
    threshold: float | None,
) -> None:
    """Prove what a program leaves of the surface of a cut of JOB, and where it cuts in."""
    job, index, library, result = _opened(job_file, name)
    with about(program):
        content = read_bytes(program, largest=MOST_BYTES)
    with about(job_file), progress() as pulse:
        decision = _decided(job_file, job, index, result, Wanted(threshold, cusp=_um(cusp)), pulse)
    with about(program), progress() as pulse:
        found = judged(content, decision, result, pulse)
    mention_problems(library)
    proof, timed, marks = found.proof, found.timed, found.marks
    if as_json:
        print_json({"lesna": 1, "cut": job.cuts[index].name, "proof": proof_data(proof),
                    "path": {"length_mm": round(marks.length, 2), "time_s": round(timed.seconds, 2), "lifts": marks.lifts,
                             "turns": marks.turns, "links": marks.links}})  # fmt: skip
    else:
        tell(f"{job.cuts[index].name}: {program.name}")
        for text in [*proof_told(proof), *classes_told(proof), time_told(timed)]:
            tell(f"  {units.said(text, job.units)}")
    if strict and not proof.passes:
        raise SystemExit(LIMIT_EXCEEDED)


def _um(value: float | None) -> float | None:
    return None if value is None else value / 1000.0


def _opened(job_file: Path, name: str) -> tuple[Job, int, Any, Result]:
    job, library = open_job(job_file), open_library()
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        feature = job.cuts[index].feature
        if feature is None or feature.kind != "surface" or feature.stl is None:
            fail(f"{job_file}: cuts[{index}].feature.stl: is missing; name the part's STL file, relative to the job")
        open_kernels(needed=True)
        result = evaluate(job, index, library, wait=False)
    open_kernels(needed=True, names=OF_SURFACES)
    return job, index, library, result


def _decided(job_file: Path, job: Job, index: int, result: Result, wanted: Wanted, pulse: Pulse) -> Decision:
    parts = result.setup.parts
    assert parts.cut.feature is not None  # looked at before
    try:
        part = part_of(parts.cut.feature, job_file.parent, parts.machine, pulse)
        return decide(parts, part, wanted, pulse)
    except InputError as error:
        raise (
            error if error.field in ("threshold", "lines", "cusp", "overlap", "way") else error.inside(f"cuts[{index}]")
        ) from None


def _say(job: Job, name: str, done: Finished) -> None:
    tell(name)
    for row in rows_of(done.made.decision, done):
        tell(f"  {row.title}: {units.said(f'{row.figure}; {row.reason}', job.units)}")
    for text in [*proof_told(done.made.proof)[1:], *classes_told(done.made.proof)]:
        tell(f"  {units.said(text, job.units)}")
    for held in done.held:
        told = f"{held.holder.id}: stick-out {units.LENGTH.mark(held.reach.length)}: {held_by(held)}"
        tell(f"  {units.said(told, job.units)}")
    for lean in done.leans:
        tell(f"  leaning {units.said(lean_told(lean), job.units)}")
