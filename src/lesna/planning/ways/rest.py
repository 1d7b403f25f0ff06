"""What an earlier cut of the same feature has left, for the path of a rest cut."""

from __future__ import annotations

from pathlib import Path

from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.finishing import is_same_floor
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.program.of_cut import run_before
from lesna.planning.program.preceding import Preceding, going_before
from lesna.planning.program.run import Run
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.make import Before
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import proved
from lesna.stock.field import HeightMap


def earlier_of(job: Job, index: int, name: str = "") -> int:
    """Position of the cut whose rest a cut takes: the one named, else the nearest roughing cut of the same floor before it."""
    if name:
        found = job.cut_named(name)
        if found == index:
            raise InputError("cannot follow itself; name an earlier cut", "after")
        return found
    mine = job.cuts[index].feature
    for k in reversed(range(index)):
        other = job.cuts[k]
        if (
            other.role == "rough"
            and mine is not None
            and other.feature is not None
            and is_same_floor(other.feature, mine)
        ):
            return k
    raise InputError(
        "a rest cut needs an earlier roughing cut of the same feature in the job; name one, or choose another role",
        "role",
    )


def earlier_in(job: Job, index: int, shelf: Shelf, folder: Path | None, name: str = "") -> Preceding | None:
    """The cut whose rest a cut takes; None where it takes nobody's (errors as in `earlier_of`).

    Parameters
    ----------
    job : Job
        The document.
    index : int
        Position of the cut.
    shelf : Shelf
        The library.
    folder : Path or None
        Where names of programs begin.
    name : str
        Of the earlier cut; empty where it is to be found.
    """
    if job.cuts[index].role != "rest" and not name:
        return None
    return going_before(job, earlier_of(job, index, name), shelf, folder)


def before_of(earlier: Preceding, pulse: Pulse = STEADY) -> Before:
    """The stock that an earlier cut leaves, from the simulation of its program, or of its own path where it names none.

    Parameters
    ----------
    earlier : Preceding
        The cut.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When its program is not understood, or its own path cannot be made.
    """
    left = run_before(earlier, pulse, _own_path).geometry.left
    if not isinstance(left, HeightMap):
        raise InputError(
            f"'{earlier.name}' goes before in five axes; a path of three axes cannot be made for what it leaves"
        )
    return Before(left, f"'{earlier.name}'")


def _own_path(parts: CutParts, pulse: Pulse) -> Run:
    """The path that would be made for a cut."""
    made = proved(result_of(setup_of(parts), wait=False), Wish(eased=False), Printing(), "", pulse=pulse)
    return made.judged.run
