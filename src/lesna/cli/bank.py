"""`lesna bank`: what the shop keeps."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from lesna.cli.banks import bank_option, end_with, open_bank, take_file, taught_library
from lesna.cli.common import chosen, not_over, open_job, print_json, write_output
from lesna.cli.programs import evaluated
from lesna.cli.refusal import LIMIT_EXCEEDED, about, fail, line, tell
from lesna.data.library import Library
from lesna.data.places import seat_name, shop_folder
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.shown import counted

if TYPE_CHECKING:
    from lesna.planning.cut.result import Result

_JSON = click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
_KINDS = ("recipes", "trials", "tools", "standards", "holders", "machines", "materials", "cutting_data")


@click.group("bank")
def bank() -> None:
    """List, check, import and export what the shop keeps."""


@bank.command("list")
@click.option("--kind", type=click.Choice(_KINDS), help="Only this kind.")
@bank_option
@_JSON
def list_command(kind: str | None, address: str | None, as_json: bool) -> None:
    """What is kept."""
    from lesna.bank.exchange import listed
    from lesna.bank.store import KINDS

    with open_bank(address) as opened, about(Path(opened.label)):
        found = listed(opened, KINDS if kind is None else (kind,))  # type: ignore[arg-type]
    if as_json:
        print_json(found)
        return
    lines = []
    for what, entries in found.items():
        for entry in entries:
            more = (
                f": {counted(entry['edges'], 'edge')}, {counted(len(entry['readings']), 'reading')}"
                if what == "trials"
                else ""
            )
            lines.append(f"{what[:-1]}  {entry['id']}{more}")
    tell("\n".join(lines) or "nothing is kept yet; `lesna trial log FILE.csv` adds readings")


@bank.command("import")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--who", default="", help="Who brings it.")
@bank_option
def import_command(file: Path, who: str, address: str | None) -> None:
    """Take in the readings and records of FILE.csv or FILE.json."""
    from lesna.bank.exchange import told

    done = take_file(file, address, who)
    tell(told(done))
    end_with(done)


@bank.command("move-library")
@click.option("--who", default="", help="Who moves it; the user of this seat where left out.")
@bank_option
def move_library_command(who: str, address: str | None) -> None:
    """Move the shop's own tools, holders, machines and materials from their files into the store."""
    from lesna.bank.own_rows import move_in
    from lesna.bank.store import Source

    folder = shop_folder()
    with open_bank(address, make=True) as opened, about(Path(opened.label)):
        moved = move_in(opened, folder, Source(who=who or seat_name()))
    for sentence in moved.told:
        click.echo(line(sentence), err=True)
    tell(f"{counted(moved.rows, 'row')} of {folder} moved into {opened.label}")
    if moved.told:
        raise SystemExit(LIMIT_EXCEEDED)


@bank.command("export")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--kind", type=click.Choice(_KINDS), help="Only this kind.")
@bank_option
def export_command(file: Path, kind: str | None, address: str | None) -> None:
    """Write everything to FILE.json, or the readings to FILE.csv."""
    from lesna.bank.exchange import csv_of, json_of
    from lesna.bank.store import KINDS

    suffix = file.suffix.lower()
    if suffix not in (".csv", ".json"):
        fail(f"{file}: the name must end in .csv or .json")
    if suffix == ".csv" and kind not in (None, "trials"):
        fail(f"{file}: a CSV holds readings; export {kind} as .json")
    with open_bank(address) as opened, about(Path(opened.label)):
        text = csv_of(opened.readings()) if suffix == ".csv" else json_of(opened, KINDS if kind is None else (kind,))  # type: ignore[arg-type]
    write_output(file, text.encode())
    tell(f"{file} written")


def _results(job_file: Path, address: str | None) -> tuple[Job, list[Result], Library]:
    """The cuts of a job with what trials taught, timed by their programs where they have some."""
    job = open_job(job_file)
    library = taught_library(address)
    with about(job_file):
        results = evaluated(job, range(len(job.cuts)), library, job_file)
        if not results:
            raise InputError("the job has no cuts; at least one is needed", "cuts")
    return job, results, library


@bank.command("like")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut of this name.")
@click.option("--most", type=click.IntRange(1), default=20, help="How many are told.")
@bank_option
@_JSON
def like_command(job_file: Path, name: str, most: int, address: str | None, as_json: bool) -> None:
    """Proven recipes nearest to a cut, with the differences."""
    from lesna.learning.recipes import like_this
    from lesna.learning.told_batch import like_data, like_lines
    from lesna.planning.evaluate import evaluate

    job = open_job(job_file)
    library = taught_library(address)
    with about(job_file):
        result = evaluate(job, chosen(job, job_file, name)[0], library, wait=False)
    with open_bank(address) as opened, about(Path(opened.label)):
        found = like_this(result, [(one.name, one.data) for one in opened.records("recipes")], library, most)
    if as_json:
        print_json({"lesna": 1, "cut": name, "like": like_data(found)})
    else:
        tell("\n".join(like_lines(found)) or "no recipe is kept yet")


@bank.command("beside")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut of this name.")
@bank_option
@_JSON
def beside_command(job_file: Path, name: str, address: str | None, as_json: bool) -> None:
    """Book, model and bank for a cut, with what they part by and why."""
    from lesna.bank.lessons import Lessons
    from lesna.learning.beside import beside
    from lesna.learning.recipes import like_this
    from lesna.learning.told_beside import beside_data, beside_lines
    from lesna.planning.evaluate import evaluate

    job = open_job(job_file)
    library = taught_library(address)
    with about(job_file):
        result = evaluate(job, chosen(job, job_file, name)[0], library, wait=False)
    with open_bank(address) as opened, about(Path(opened.label)):
        like = like_this(result, [(one.name, one.data) for one in opened.records("recipes")], library)
        try:
            fit = Lessons(opened, library).fit(result.setup.parts)
        except InputError:
            fit = None  # the tables know no life for it
    found = beside(result, fit, like, library)
    if as_json:
        print_json({"lesna": 1, "cut": name, **beside_data(found)})
    else:
        tell("\n".join(beside_lines(found, job.units)))


@bank.command("quote")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--parts", type=click.IntRange(1), help="Parts of the batch; those of the job where left out.")
@bank_option
@_JSON
def quote_command(job_file: Path, parts: int | None, address: str | None, as_json: bool) -> None:
    """Time, edges and cost of a part of JOB, with their spread over the batch."""
    from lesna.learning.batch import batch_spread
    from lesna.learning.told_batch import spread_data, spread_lines
    from lesna.planning.quote import quote_of

    job, results, _ = _results(job_file, address)
    if parts is not None:
        job = job.with_values(batch=job.batch.with_values(parts=parts))
    found = batch_spread(quote_of(job, results), results)
    if as_json:
        print_json({"lesna": 1, **spread_data(found)})
    else:
        tell("\n".join(spread_lines(found)))


@bank.command("plan")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--hours", type=click.FloatRange(0, 1000, min_open=True), default=8.0, help="Without anybody there.")
@click.option(
    "--survival",
    type=click.FloatRange(0.5, 1, min_open=True, max_open=True),
    default=0.95,
    help="Edges still good when changed.",
)
@click.option(
    "--pockets", type=click.IntRange(1), help="Tools that the magazine holds; the machine's own where left out."
)
@click.option(
    "--chip-room", type=click.FloatRange(0, min_open=True), help="Litres of loose chips that the machine takes."
)
@click.option(
    "--coolant-hours", type=click.FloatRange(0, min_open=True), help="How long the coolant lasts without topping up."
)
@click.option("-o", "out", type=click.Path(path_type=Path), help="FILE.html or FILE.pdf to hang beside the machine.")
@bank_option
@_JSON
@click.pass_context
def plan_command(
    context: click.Context, job_file: Path, hours: float, survival: float, pockets: int | None, chip_room: float | None,
    coolant_hours: float | None, out: Path | None, address: str | None, as_json: bool,
) -> None:  # fmt: skip
    """Parts, sister tools and changes of a run that nobody watches."""
    from lesna.learning.run_plan import run_plan, watch_of
    from lesna.learning.told_batch import plan_data, plan_lines
    from lesna.report.run_plan import run_plan_html

    if out is not None and out.suffix.lower() not in (".html", ".pdf"):
        fail(f"{out}: the name must end in .html or .pdf")
    job, results, _ = _results(job_file, address)
    watch = watch_of(
        results[0].setup.parts.machine,
        hours,
        survival,
        pockets=pockets,
        chip_room=chip_room,
        coolant_hours=coolant_hours,
    )
    with about(job_file):
        found = run_plan(results, watch)
    if out is not None:
        not_over(out)
        html = run_plan_html(job, found)
        write_output(out, context.obj.pdf_of(html) if out.suffix.lower() == ".pdf" else html.encode())
    if as_json:
        print_json({"lesna": 1, **plan_data(found)})
    else:
        tell("\n".join(plan_lines(found)))


@bank.command("check")
@bank_option
@_JSON
def check_command(address: str | None, as_json: bool) -> None:
    """Whether the store is whole."""
    with open_bank(address) as opened, about(Path(opened.label)):
        problems, counts = opened.problems(), opened.counts()
        data = {"ok": not problems, **counts, "schema": opened.schema, "problems": problems}
    if as_json:
        print_json(data)
    else:
        held = f"{counted(counts['edges'], 'edge')}, {counted(counts['readings'], 'reading')}, {counted(counts['recipes'], 'recipe')}"
        tell(
            "\n".join([f"{opened.label}: {held}, schema {opened.schema}", *problems]) + ("" if problems else ": sound")
        )
    if problems:
        raise SystemExit(LIMIT_EXCEEDED)
