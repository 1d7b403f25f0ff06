"""`lesna trial`: test cuts planned, looked at, learned from."""

from __future__ import annotations

import os
from contextlib import nullcontext
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from lesna.cli.banks import bank_option, end_with, open_bank, take_file
from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, print_json
from lesna.cli.recording import listened, log_recording, stand_in
from lesna.cli.refusal import about, fail, tell
from lesna.data.library import Library
from lesna.data.places import bank_address, may_be_there, shop_folder
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import CutParts, parts_of

if TYPE_CHECKING:
    from lesna.bank.store import Bank
    from lesna.learning.fit import Fit
    from lesna.planning.cut.result import Result

_JOB = click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
_CUT = click.option("--cut", "name", required=True, help="The cut of this name.")
#: environment variable with the address of the machine, where neither the command nor the machine's row says it
_MACHINE_VARIABLE = "LESNA_MACHINE"
_JSON = click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")


@click.group("trial")
def trial() -> None:
    """Plan test cuts, log what was seen, and learn from it."""


def _taught(job: Job, index: int, address: str | None) -> tuple[Library, CutParts, Fit, Bank | None]:
    """The library with lessons, the parts of a cut, and what trials say of it."""
    from lesna.bank.lessons import Lessons
    from lesna.bank.own_rows import stored_rows
    from lesna.learning.fit import fit_of
    from lesna.learning.settings import Settings

    library = Library(shop_folder())
    bank = open_bank(address) if address or may_be_there(bank_address()) else None
    if bank is None:
        parts = parts_of(job, index, library)
        return library, parts, fit_of(parts, (), Settings(library)), None
    library.take_stored(stored_rows(bank))
    lessons = Lessons(bank, library)
    library.lessons = lessons.of
    parts = parts_of(job, index, library)
    return library, parts, lessons.fit(parts), bank


def _result(job: Job, index: int, library: Library, job_file: Path) -> Result:
    """The cut as it is computed, timed by its program where it has one."""
    from lesna.cli.programs import by_program
    from lesna.planning.evaluate import evaluate

    return by_program(evaluate(job, index, library, wait=False), job, index, library, job_file)


@trial.command("plan")
@_JOB
@_CUT
@click.option(
    "--step", "what", type=click.Choice(["feed", "depth", "speed", "stepover"]), default="feed", help="What is stepped."
)
@click.option("--steps", type=int, default=5, help="Test cuts, the first as the cut stands.")
@click.option("--size", type=float, help="Step in %; 10 of feed and speed, 20 of depth and stepover.")
@click.option("--minutes", type=float, help="In the cut until each look; by what is known, 4 to 15, where left out.")
@click.option("--real", is_flag=True, help="On a real part: less is risked.")
@click.option("--keep", "trial_name", help="Keep the plan in the bank under this name.")
@bank_option
@_JSON
def plan(
    job_file: Path, name: str, what: Any, steps: int, size: float | None, minutes: float | None, real: bool, trial_name: str | None,
    address: str | None, as_json: bool,
) -> None:  # fmt: skip
    """Plan a ladder of test cuts from a cut of JOB."""
    from lesna.bank.plans import keep_plan
    from lesna.learning.ladder import plan_ladder
    from lesna.learning.told import ladder_data, ladder_lines

    job = open_job(job_file)
    open_kernels(needed=False)
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        library, _, fit, bank = _taught(job, index, address)
        result = _result(job, index, library, job_file)
        found = plan_ladder(
            result,
            fit,
            what,
            steps=steps,
            size=None if size is None else size / 100.0,
            minutes=minutes,
            on_scrap=not real,
        )
    mention_problems(library)
    data = {"lesna": 1, "cut": name, **ladder_data(found)}
    if trial_name is not None:
        bank = bank or open_bank(address, make=True)
        with about(Path(bank_address(address))):
            keep_plan(bank, trial_name, job, name, ladder_data(found))
    if as_json:
        print_json(data)
    else:
        tell("\n".join(ladder_lines(found, job.units)))


@trial.command("log")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--who", default="", help="Who looked, where the rows do not say.")
@bank_option
@_JSON
def log(file: Path, who: str, address: str | None, as_json: bool) -> None:
    """Add the readings of FILE.csv, FILE.json or a filled-in form to the bank."""
    from lesna.bank.exchange import told

    done = take_file(file, address, who)
    if as_json:
        print_json({"lesna": 1, "added": done.readings.added, "known": done.readings.known, "refused": list(done.refused),
                    "records": done.records, "pictures": done.pictures})  # fmt: skip
    else:
        tell(told(done))
    end_with(done)


@trial.command("fit")
@click.option(
    "--like",
    "job_file",
    metavar="JOB",
    required=True,
    type=click.Path(path_type=Path),
    help="Job of the cut.",
)
@_CUT
@bank_option
@_JSON
def fit_command(job_file: Path, name: str, address: str | None, as_json: bool) -> None:
    """Life and force of a cut's set-up after what the bank knows."""
    from lesna.learning.told import fit_data, fit_lines

    job = open_job(job_file)
    open_kernels(needed=False)
    with about(job_file):
        library, _, fit, _ = _taught(job, chosen(job, job_file, name)[0], address)
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "cut": name, **fit_data(fit)})
    else:
        tell("\n".join(fit_lines(fit)))


@trial.command("next")
@_JOB
@_CUT
@click.option("--real", is_flag=True, help="On a real part: less is risked.")
@bank_option
@_JSON
def next_command(job_file: Path, name: str, real: bool, address: str | None, as_json: bool) -> None:
    """The one change that the last readings of a cut's set-up ask for."""
    from lesna.learning.coach import coach
    from lesna.learning.rules import shipped_rules
    from lesna.learning.told import advice_data, advice_lines

    job = open_job(job_file)
    open_kernels(needed=False)
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        library, _, fit, _ = _taught(job, index, address)
        result = _result(job, index, library, job_file)
        try:
            found = coach(result, fit, shipped_rules(), on_scrap=not real)
        except InputError as error:
            raise error.inside(f"cuts[{index}]") from None
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "cut": name, **advice_data(found)})
    else:
        tell("\n".join(advice_lines(found)))


@trial.command("record")
@_JOB
@_CUT
@click.option(
    "--url", help=f"Where the machine serves its data; its row in the library or ${_MACHINE_VARIABLE} where left out."
)
@click.option("--simulated", is_flag=True, help="Listen to a simulated machine in such a cut.")
@click.option("--for", "minutes", type=click.FloatRange(0, min_open=True), required=True, help="Minutes to listen for.")
@click.option("--program", default="", help="Only while this program runs; any where left out.")
@click.option("--edge", help="Log what was heard as a look at this edge.")
@click.option("--trial", "trial_name", help="Of this trial; one of the cut's name where left out.")
@bank_option
@_JSON
def record(
    job_file: Path, name: str, url: str | None, simulated: bool, minutes: float, program: str, edge: str | None,
    trial_name: str | None, address: str | None, as_json: bool,
) -> None:  # fmt: skip
    """Minutes in the cut and load, as the machine itself says them."""
    from lesna.learning.recording import expected_of
    from lesna.learning.told_recording import recorded_lines, recorded_words, recording_data

    job = open_job(job_file)
    open_kernels(needed=False)
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        library, parts, _, _ = _taught(job, index, address)
        result = _result(job, index, library, job_file)
        expected = expected_of(result, program)
    where = url or parts.machine.data_url or os.environ.get(_MACHINE_VARIABLE, "")
    if not simulated and not where:
        fail(f"--url: the machine {parts.machine.id} has no address; http://machine:5000 is the right form")
    with stand_in(result, expected) if simulated else nullcontext(where) as told:
        found = listened(told, expected, 60.0 * minutes)
    if edge is not None:
        log_recording(found, result, edge, trial_name or name, job.title, address, simulated=simulated)
    if as_json:
        print_json({"lesna": 1, "cut": name, "simulated": simulated, **recording_data(found)})
    else:
        tell("\n".join([recorded_words(found) + (" (simulated)" if simulated else ""), *recorded_lines(found)]))
