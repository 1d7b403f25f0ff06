"""`lesna nc check` and `lesna nc level`: somebody's NC program against a cut of the job."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from lesna.cli.common import (
    chosen,
    judge,
    mention_problems,
    not_over,
    open_job,
    open_kernels,
    open_library,
    print_json,
    write_output,
)
from lesna.cli.progress import progress
from lesna.cli.refusal import about, fail, tell
from lesna.model.errors import InputError
from lesna.model.files import read_bytes
from lesna.model.job import Job
from lesna.model.resolve import CutParts, parts_of
from lesna.model.shown import counted
from lesna.nc.words import MOST_BYTES
from lesna.physics.compiled import OF_PATHS, OF_TILTED
from lesna.planning.cut.limits import BY_ID
from lesna.planning.program.level import AIMS, Leveller, Targets
from lesna.planning.program.of_cut import stock_after
from lesna.planning.program.preceding import preceding_of
from lesna.planning.program.run import Run
from lesna.planning.program.simulate import simulate
from lesna.planning.program.stock import Stock, stock_for
from lesna.planning.program.summary import Summary, gain_of, summary_of
from lesna.planning.program.told import KINDS, clock, turning_lines
from lesna.planning.program.work import Look, others_of

#: places that are told in words
_TOLD = 12


@click.group("nc")
def nc() -> None:
    """Check NC programs and level their feeds."""


def _shared(command: Any) -> Any:
    for option in (
        click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output."),
        click.option(
            "--sliver", type=float, default=0.15, show_default=True, help="Webs thinner than this share of DC are told."
        ),
        click.option(
            "--tolerance", type=float, default=0.01, show_default=True, help="How far the control rounds corners, mm."
        ),
        click.option("--cell", type=float, default=None, help="Edge of the stock's cells, mm."),
        click.option("--step", type=float, default=None, help="Longest step along the path, mm."),
        click.option("--tool", type=int, default=None, help="T number whose blocks are judged."),
        click.option(
            "--stock",
            "stock_texts",
            multiple=True,
            help="block:X0,Y0,Z0,X1,Y1,Z1 in mm, an STL file, FILE.dxf:LAYER, or what turns round Z: revolved:FILE.dxf:LAYER or "
            "revolved:R,Z;R,Z;..., or after:CUT for what a cut of the job leaves; else the feature's block. "
            "That of another work offset as G55=block:...",
        ),
        click.option("--cut", "name", required=True, help="The cut that the program stands for."),
        click.option("--job", "job_file", required=True, type=click.Path(path_type=Path), help="The job."),
        click.argument("file", type=click.Path(path_type=Path)),
    ):
        command = option(command)
    return command


@nc.command("check")
@_shared
@click.option("--strict", is_flag=True, help="Exit 1 where a limit is exceeded or something is touched.")
def check(file: Path, *, as_json: bool, strict: bool, **given: Any) -> None:
    """Simulate FILE through the stock: engagement, force, power, time, and what should not be touched."""
    run, job = _simulated(file, given)
    found = summary_of(run)
    if as_json:
        print_json({"lesna": 1, "program": file.name, **found.data(), "remarks": list(run.geometry.remarks)})
    else:
        _told(file.name, run, found)
    judge(found, strict=strict, is_written=False)


@nc.command("level")
@_shared
@click.option("--aim", type=click.Choice(["none", *AIMS]), default="even", show_default=True, help="What is aimed at.")
@click.option("--peak", type=float, default=None, help="Side force at its peak, N, instead of the aim's own.")
@click.option("--power", type=float, default=None, help="Power at the cutter that is not exceeded, kW.")
@click.option("--deflection", type=float, default=None, help="Deflection that is not exceeded, um.")
@click.option("--chip", type=float, nargs=2, default=None, help="Least and greatest thickest chip, mm.")
@click.option("--ceiling", type=float, default=2.0, show_default=True, help="Greatest feed over the programmed one.")
@click.option("--least", type=float, default=0.25, show_default=True, help="Least feed over the programmed one.")
@click.option(
    "--entry", type=float, default=1.0, show_default=True, help="Feed at first contact over what is allowed there."
)
@click.option("--by-block", is_flag=True, help="One feed for each block; none is parted.")
@click.option("--block-time", type=float, default=0.03, show_default=True, help="Shortest piece of a parted block, s.")
@click.option("--note/--no-note", default=True, show_default=True, help="A comment at the top tells what was done.")
@click.option(
    "--strict", is_flag=True, help="Exit 1 where the levelled program breaks a limit or something is touched."
)
@click.option("-o", "--output", required=True, type=click.Path(path_type=Path), help="The program with levelled feeds.")
def level(file: Path, *, as_json: bool, output: Path, aim: str, strict: bool, **given: Any) -> None:
    """Write FILE with levelled feeds: the same motions, every byte but the feeds as it was."""
    settings = {key: given.pop(key) for key in ("peak", "power", "deflection", "chip", "ceiling", "least", "entry", "by_block",
                                                "block_time", "note")}  # fmt: skip
    targets = None
    if aim != "none":
        try:
            targets = Targets(aim=aim, **settings)  # type: ignore[arg-type]
        except InputError as error:
            fail(f"--{error.field.replace('_', '-')}: {error.message}")
    run, job = _simulated(file, given, output)
    before = summary_of(run)
    if targets is None:
        content, after, words = run.geometry.program.text.encode("latin-1"), before, {}
    else:
        with about(file), progress() as pulse:
            made = Leveller(run, pulse).level(targets)
        content, after = made.content, summary_of(made.run)
        words = {"force_n": made.force, "changed": made.changed, "unreachable_lines": made.unreachable.tolist()[:200],
                 "rubbing_lines": made.rubbing.tolist()[:200], "kept_lines": made.kept.tolist()[:200]}  # fmt: skip
    write_output(output, content)
    rate = job.batch.machine_rate_per_h
    gain = gain_of(before, after, job.batch.parts, rate)
    if as_json:
        print_json({"lesna": 1, "program": file.name, "aim": aim, **after.data(), "before": before.data(), "after": after.data(),
                    **gain, **words, "output": str(output), "remarks": list(run.geometry.remarks)})  # fmt: skip
        judge(after, strict=strict)
        return
    _told(file.name, run, before)
    tell(f"levelled, {aim}: {clock(after.time)} instead of {clock(before.time)} ({gain['saved_pct']:.1f} % saved), side force up to "
         f"{after.fxy_peak:.0f} N; {gain['per_batch_h']:.2f} h in {counted(job.batch.parts, 'part')}; written to {output}")  # fmt: skip
    for key, text in (("unreachable_lines", "the least feed is run, and still exceeds the target"),
                      ("rubbing_lines", "the chip is thinner than the edge needs"),
                      ("kept_lines", "the feed stays, since the block can be skipped or runs several times")):  # fmt: skip
        lines = words.get(key, [])
        if lines:
            tell(f"  {text}: {len(lines)} lines, from line {lines[0]}")
    for key, use in before.by_use:
        if use > 1:
            name, now = BY_ID[key].name.lower(), after.uses[key]
            tell(f"  {name}: {use:.0%} before at line {before.lines[key]}, {now:.0%} after at line {after.lines[key]}")
    judge(after, strict=strict)


def _simulated(file: Path, given: dict[str, Any], output: Path | None = None) -> tuple[Run, Job]:
    """Reads and simulates; ends the command where that cannot be done or its output would replace what was read."""
    job_file: Path = given["job_file"]
    job, library = open_job(job_file), open_library()
    with about(job_file):
        index = chosen(job, job_file, given["name"])[0]
        parts = parts_of(job, index, library)
        others = others_of(job, index, library)
        before = preceding_of(job, library, job_file.parent, ";".join(given["stock_texts"]), (parts.cut.name,))
    look, stock = _look(given), None if before is not None else _stock(given, parts)
    with about(file):
        content = read_bytes(file, largest=MOST_BYTES)
    if output is not None:
        not_over(output)
    open_kernels(needed=True, names=(*OF_PATHS, *(OF_TILTED if parts.machine.rotary else ())))
    with about(file), progress() as pulse:
        stock = stock if before is None else stock_after(before, pulse)
        run = simulate(content, parts, stock, look, others, tool=given["tool"], pulse=pulse)
    mention_problems(library)
    return run, job


def _look(given: dict[str, Any]) -> Look:
    for key, low, high in (("step", 0.01, 10.0), ("cell", 0.01, 5.0), ("tolerance", 0.0005, 1.0), ("sliver", 0.0, 1.0)):
        value = given[key]
        if value is not None and not low <= value <= high:
            fail(f"--{key}: must lie in the range {low:g} to {high:g}, got {value:g}")
    return Look(given["step"], given["cell"], given["tolerance"], given["sliver"])


def _stock(given: dict[str, Any], parts: CutParts) -> Stock | None:
    try:
        return stock_for(";".join(given["stock_texts"]), parts, None)
    except InputError as error:
        fail(f"--stock: {error}")


def _told(name: str, run: Run, found: Summary) -> None:
    tell(f"{name}: {clock(found.time)} min:s, {clock(found.cut_time)} in the cut, {found.removed:.1f} cm³ removed, "
         f"{found.blocks} blocks")  # fmt: skip
    tell(f"  side force {found.fxy_peak:.0f} N at its peak, 95 % of the way under {found.fxy_p95:.0f} N; "
         f"power {found.power_peak:.2f} kW, torque {found.torque_peak:.1f} Nm")  # fmt: skip
    tell(
        f"  engaged {found.angle_max:.0f}° at most, {found.angle_median:.0f}° in the middle; thickest chip {found.hex:.3f} mm"
    )
    for key, use in found.by_use[:1]:
        tell(f"  nearest limit: {BY_ID[key].name.lower()} at {use:.0%}, line {found.lines[key]}")
    for line in turning_lines(found):
        tell(f"  five axes, cells of {run.geometry.left.cell:g} mm: {line}")
    if found.held is not None:
        tell(
            f"  this geometry holds {found.held:.0f} mm/min; {found.unreached:.0%} of the way is cut slower than programmed"
        )
    for finding in found.findings[:_TOLD]:
        words, quantity = KINDS[finding.kind]
        x, y, z = finding.place
        tell(f"  line {finding.line}: {words}, {quantity.full(finding.value, 'metric')}, at X{x:.2f} Y{y:.2f} Z{z:.2f}")
    if len(found.findings) > _TOLD:
        tell(f"  and {len(found.findings) - _TOLD} places more (--json lists them)")
    for remark in run.geometry.remarks:
        tell(f"  {remark}")
