"""The open job, its file and its changes.

Jobs are immutable and share what did not change, so a change keeps the job before and after it without copying
the plan; undoing puts the former one back, exactly.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from lesna.model.files import load_job, save_job
from lesna.model.job import Job
from lesna.model.resolve import Shelf, parts_of

Listener = Callable[[Job, Job], None]


@dataclass(frozen=True)
class Change:
    """One undoable edit, already checked, so that doing and undoing it cannot fail.

    Parameters
    ----------
    label : str
        What the menu calls it.
    before, after : Job
        The job on either side.
    merges : str
        Changes in a row with the same key become one step (a drag, a field); empty never merges.
    """

    label: str
    before: Job
    after: Job
    merges: str = ""

    def joined(self, later: Change) -> Change:
        """This change and a later one as one step."""
        return replace(self, after=later.after)


class Document:
    """The job being edited.

    Parameters
    ----------
    job : Job
        What is open.
    shelf : Shelf
        Library against which every change is checked.
    path : Path, optional
        File it came from.
    """

    def __init__(self, job: Job, shelf: Shelf, path: Path | None = None) -> None:
        check(job, shelf)
        self._job = job
        self._shelf = shelf
        self.path = path
        self._listeners: list[Listener] = []

    @classmethod
    def load(cls, path: Path, shelf: Shelf) -> Document:
        """The job of a file (InputError and FileProblem say what is wrong with it)."""
        return cls(load_job(path), shelf, path)

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self._job

    @property
    def shelf(self) -> Shelf:
        """The library."""
        return self._shelf

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Calls `listener(before, after)` at every change; the returned function ends that."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def change(self, label: str, job: Job, *, merges: str = "") -> Change | None:
        """A checked change to `job`, None where nothing would change.

        Raises
        ------
        InputError
            When the changed job could not be computed; nothing has happened then.
        """
        if job == self._job:
            return None
        check(job, self._shelf, changed_from=self._job)
        return Change(label, self._job, job, merges)

    def do(self, change: Change) -> None:
        """Puts the job after a change in place and tells the listeners."""
        self._put(change.after)

    def undo(self, change: Change) -> None:
        """Puts the job before a change back."""
        self._put(change.before)

    def save(self, path: Path) -> None:
        """Writes the job and remembers its file (FileProblem leaves both as they were)."""
        save_job(self._job, path)
        self.path = path

    def _put(self, job: Job) -> None:
        former, self._job = self._job, job
        for listener in tuple(self._listeners):
            listener(former, job)


def check(job: Job, shelf: Shelf, *, changed_from: Job | None = None) -> None:
    """Makes sure that every cut can be computed; cuts that are the same as before are not looked at again.

    Raises
    ------
    InputError
        With the path of the field.
    """
    same_room = (
        changed_from is not None
        and changed_from.machine == job.machine
        and changed_from.workpiece.material == job.workpiece.material
    )
    former = {id(cut) for cut in changed_from.cuts} if changed_from is not None and same_room else set()
    for index, cut in enumerate(job.cuts):
        if id(cut) not in former:
            parts_of(job, index, shelf)
