"""Stock that the program of an earlier cut of the job leaves: ``after:`` and the cut's name."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from lesna.model.errors import InputError
from lesna.model.job import Job, ProgramRef
from lesna.model.resolve import CutParts, Shelf, parts_of
from lesna.planning.program.stock import AFTER, stamp_of
from lesna.planning.program.work import others_of
from lesna.stock.body import Body

#: cuts that may follow each other in this way
_DEEPEST = 20


@dataclass(frozen=True)
class Preceding:
    """A cut that goes before, with all that what it leaves depends on: its program, or the path that would be made for it.

    Attributes
    ----------
    name : str
        Of the cut.
    parts : CutParts or None
        The cut; None where there is trouble.
    ref : ProgramRef or None
        Its program, None where it names none.
    others : tuple of (int, Body)
        Cutters of other T numbers.
    folder : Path or None
        Where names of files begin.
    stamp : tuple
        State of its program's file and of those of its stock, None for what is not there.
    before : Preceding or None
        What goes before that.
    trouble : str
        Why it cannot be had, as a sentence; empty where it can.
    """

    name: str
    parts: CutParts | None = None
    ref: ProgramRef | None = None
    others: tuple[tuple[int, Body], ...] = ()
    folder: Path | None = None
    stamp: tuple[tuple[int, int] | None, ...] = ()
    before: Preceding | None = None
    trouble: str = ""


def preceding_of(
    job: Job, shelf: Shelf, folder: Path | None, stock: str, seen: tuple[str, ...] = ()
) -> Preceding | None:
    """The cut that a stock names; None where it is stock of another kind.

    Parameters
    ----------
    job : Job
        The document.
    shelf : Shelf
        The library.
    folder : Path or None
        Where names of programs begin.
    stock : str
        As the program's reference has it.
    seen : tuple of str
        Cuts that are on the way already.
    """
    if not stock.strip().startswith(AFTER):
        return None
    name = stock.strip().removeprefix(AFTER).strip()
    if name in seen or len(seen) >= _DEEPEST:
        return Preceding(
            name, trouble=f"the stock goes in a circle: {' after '.join(f'{one!r}' for one in (*seen, name))}"
        )
    try:
        found = going_before(job, job.cut_named(name), shelf, folder, seen)
    except InputError as error:
        return Preceding(name, trouble=error.message)
    if found.ref is None:
        return Preceding(
            name, trouble=f"the cut '{name}' names no program, so what it leaves is not known; give it one in Path"
        )
    if found.stamp[0] is None:
        return Preceding(
            name, trouble=f"the program of '{name}', {found.ref.file}, does not exist; choose it again in Path"
        )
    return found


def going_before(job: Job, index: int, shelf: Shelf, folder: Path | None, seen: tuple[str, ...] = ()) -> Preceding:
    """A cut as what goes before another one (parameters as in `preceding_of`, errors as in `parts_of`)."""
    cut, parts = job.cuts[index], parts_of(job, index, shelf)
    others = tuple(sorted(others_of(job, index, shelf).items(), key=lambda other: other[0]))
    if cut.program is None:
        return Preceding(cut.name, parts, None, others, folder)
    try:
        found = ((folder or Path()) / cut.program.file).stat()
        file = found.st_mtime_ns, found.st_size
    except OSError:
        file = None
    stamp = (file, *stamp_of(cut.program.stock, folder))
    before = preceding_of(job, shelf, folder, cut.program.stock, (*seen, cut.name))
    return Preceding(cut.name, parts, cut.program, others, folder, stamp, before)
