"""Listening to a machine from the command line, and logging what it said."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

import click

from lesna.cli.banks import open_bank
from lesna.cli.progress import progress
from lesna.cli.refusal import about, line

if TYPE_CHECKING:
    from lesna.learning.recording import Expected, Recorder
    from lesna.planning.cut.result import Result

#: seconds between two questions
_EVERY = 1.0


@contextmanager
def stand_in(result: Result, expected: Expected) -> Iterator[str]:
    """The address of a simulated machine in a cut."""
    from lesna.devices.machine_stand_in import RunningMachine

    state = result.state
    with RunningMachine(rpm=float(state.n), feed=float(state.vf), load=expected.load, idle=expected.idle) as machine:
        yield machine.url


def listened(url: str, expected: Expected, seconds: float) -> Recorder:
    """Asks a machine once a second for a while; each new trouble is told on standard error, and it is asked again."""
    from lesna.devices.machine_client import MachineClient
    from lesna.devices.machine_data import StreamProblem
    from lesna.learning.recording import Recorder

    with about(Path("--url")):
        client = MachineClient(url)
    recorder, begin, said = Recorder(expected), time.monotonic(), ""
    with progress() as pulse:
        pulse.begin("listening")
        while True:
            try:
                recorder.hear(client.ask())
                said = ""
            except StreamProblem as problem:
                if str(problem) != said:
                    said = str(problem)
                    click.echo(line(f"{url}: {said}; it is asked again"), err=True)
            left = seconds - (time.monotonic() - begin)
            if left <= 0:
                return recorder  # the last question came at the end: nothing is left out
            pulse.tell(round(seconds - left), round(seconds))
            time.sleep(min(_EVERY, left))


def log_recording(
    found: Recorder, result: Result, edge: str, trial: str, job: str, address: str | None, *, simulated: bool
) -> None:
    """Logs what was heard as a look at an edge whose minutes go on from its last one."""
    from lesna.bank.store import Source
    from lesna.learning.settings import columns_of
    from lesna.learning.told_recording import recorded_lines
    from lesna.model.trials import Reading

    with open_bank(address, make=True) as bank, about(Path(bank.label)):
        before = max((one.minutes for one in bank.readings(trial=trial) if one.edge == edge), default=0.0)
        note = "; ".join([*(["simulated machine"] if simulated else []), *recorded_lines(found)])
        told = {
            **columns_of(result), "trial": trial, "edge": edge, "job": job, "taken_on": date.today().isoformat(),
            "minutes": round(before + found.minutes, 3), "load_pct": found.load, "override_pct": found.override, "note": note,
        }  # fmt: skip
        reading = Reading.read({key: value for key, value in told.items() if value not in (None, "")})
        bank.log([reading], Source(job=job, trial=trial))
