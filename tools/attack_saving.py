"""A process that saves again and again, killed at any moment: what it had saved must be there, whole, and nothing newer than it wrote.

``python -m tools.attack_saving --tries 600 --first 0``; works in a temporary folder and prints what was lost with its seed.
"""

from __future__ import annotations

import itertools
import json
import os
import random
import signal
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.data.shop import Shop
from lesna.model.files import job_from_text, load_job, read_text, save_job, write_atomic
from tools.attack import Found, attacked

_JOB = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna")
_TOOL = Library().tools["sq-d12-z4"]
#: longest that a process saves before it is killed [s]
_LONGEST = 0.05


def _save_job(folder: Path, number: int) -> None:
    save_job(_JOB.with_values(title=str(number)), folder / "job.lesna")


def _job_number(folder: Path) -> int:
    former = folder / "job.lesna~"
    if former.exists():
        load_job(former)
    return int(load_job(folder / "job.lesna").title)


def _keep_row(folder: Path, number: int) -> None:
    Shop(folder).keep("tools", _TOOL.with_values(id="own", name=str(number)))


def _row_number(folder: Path) -> int:
    library = Library(folder)
    found = library.tools["own"].name
    assert not library.problems
    return int(found)


def _recover(folder: Path, number: int) -> None:
    text = json.dumps({"path": None, "job": json.dumps(_JOB.with_values(title=str(number)).to_data())})
    write_atomic(folder / "1.json", text.encode(), private=True)


def _recovered_number(folder: Path) -> int:
    assert (folder / "1.json").stat().st_mode & 0o777 == 0o600
    return int(job_from_text(json.loads(read_text(folder / "1.json"))["job"]).title)


#: what is saved -> how, and how its number is read back
KINDS: dict[str, tuple[Callable[[Path, int], None], Callable[[Path], int]]] = {
    "job": (_save_job, _job_number), "row of the shop": (_keep_row, _row_number), "unsaved job": (_recover, _recovered_number),
}  # fmt: skip


def once(seed: int) -> tuple[str, str]:
    """What was saved, and what is wrong with what is there after the kill; empty where nothing is."""
    chance = random.Random(seed)
    kind = chance.choice(sorted(KINDS))
    save, number_of = KINDS[kind]
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        save(folder, 0)
        told, tells = os.pipe()
        child = os.fork()
        if child == 0:
            for number in itertools.count(1):
                save(folder, number)
                os.write(tells, b"%d\n" % number)
        os.close(tells)
        time.sleep(chance.uniform(0.0, _LONGEST))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        with open(told, "rb") as handle:
            said = int((handle.read().split() or [b"0"])[-1])
        try:
            found = number_of(folder)
        except Exception as error:
            return kind, f"{type(error).__name__}: {error}"
        # the last one may have been written and not yet told
        trouble = "" if found in (said, said + 1) else f"{said} was saved and {found} is there"
        save(folder, said + 2)
        return kind, trouble or ("" if number_of(folder) == said + 2 else "nothing can be saved any more")


def tried(seeds: Sequence[int]) -> Found:
    """How often each kind was killed, and what was lost."""
    found = Found()
    for seed in seeds:
        found.tell(seed, *once(seed))
    return found


if __name__ == "__main__":
    sys.exit(attacked(str(__doc__), 600, tried))
