"""Names of files in a job: from its folder where they lie there, so that it can be moved; found beside it where they do not lead on."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from lesna.model.errors import InputError
from lesna.model.job import Cut, Job
from lesna.planning.program.stock import files_of

Rename = Callable[[str], str]


def placed(job: Job, old: Path | None, new: Path) -> Job:
    """The job with its names as they read from the folder it is saved in.

    What lies in that folder is named from there; programs and stock that stay in the former folder are named in full. Drawings are taken
    along (`Drawings.carry`), so they keep their names.
    """
    new = new.resolve()
    stays = old is None or old.resolve() == new

    def rename(name: str) -> str:
        whole = (old or new) / name
        # another file of the same name in the new folder is not the one that was meant
        if not whole.exists() or (stays and not Path(name).is_absolute()):
            return name
        whole = whole.resolve()
        return str(whole.relative_to(new)) if whole.is_relative_to(new) else str(whole)

    def draw(name: str) -> str:
        return rename(name) if Path(name).is_absolute() else name

    return _renamed(job, rename, draw)


def found_beside(job: Job, folder: Path | None) -> tuple[Job, tuple[str, ...]]:
    """The job with names that do not lead on replaced by files of that name in its folder, and a sentence for each."""
    told: dict[str, str] = {}
    if folder is None:
        return job, ()

    def rename(name: str) -> str:
        beside = Path(name).name
        leads_out = ".." in Path(name).parts  # refused where it is read, wherever it leads
        if leads_out or (folder / name).exists() or beside in ("", name) or not (folder / beside).is_file():
            return name
        told[name] = f"{name} is not there; a file {beside} lies beside the job"
        return beside

    return _renamed(job, rename, rename), tuple(told.values())


def _renamed(job: Job, rename: Rename, draw: Rename) -> Job:
    cuts = tuple(_in_cut(cut, rename, draw) for cut in job.cuts)
    return job if cuts == job.cuts else job.with_values(cuts=cuts)


def _in_cut(cut: Cut, rename: Rename, draw: Rename) -> Cut:
    if cut.program is not None:
        stock = cut.program.stock
        # the longest first: one name may be the end of another
        for name in sorted(set(_named_in(stock)), key=len, reverse=True):
            stock = re.sub(rf"(?<![^;=\s]){re.escape(name)}(?=$|[;:])", lambda found: rename(found[0]), stock)
        program = cut.program.model_copy(update={"file": rename(cut.program.file), "stock": stock})
        cut = cut if program == cut.program else cut.model_copy(update={"program": program})
    feature = cut.feature
    if feature is not None:
        named = {key: draw(name) for key in ("dxf", "stl") if (name := getattr(feature, key)) is not None}
        if any(name != getattr(feature, key) for key, name in named.items()):
            cut = cut.model_copy(update={"feature": feature.with_values(**named)})
    return cut


def _named_in(stock: str) -> list[str]:
    try:
        return files_of(stock)
    except InputError:
        return []  # what stock is meant is told where it is read
