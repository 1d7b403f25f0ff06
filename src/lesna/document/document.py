"""The open job, its file and its changes.

Jobs are immutable and share what did not change, so a change keeps the job before and after it without copying
the plan; undoing puts the former one back, exactly.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from lesna.document.drawings import Drawings
from lesna.document.measurements import without_stale_modes
from lesna.document.named_files import placed
from lesna.document.results import Results
from lesna.document.rows import with_rows
from lesna.model.files import fingerprint, is_same_file, load_job, save_job
from lesna.model.job import Job
from lesna.model.resolve import Shelf
from lesna.planning.cut.result import Result

Listener = Callable[[Job, Job], None]


@dataclass(frozen=True)
class Edit:
    """One undoable edit, its Results already computed, so that doing and undoing it cannot fail.

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

    def joined(self, later: Edit) -> Edit:
        """This change and a later one as one step."""
        return replace(self, after=later.after)

    @property
    def is_nothing(self) -> bool:
        """Whether it ends where it began, as a drag that returns."""
        return self.before == self.after


class Document:
    """The job being edited.

    Parameters
    ----------
    job : Job
        What is open.
    shelf : Shelf
        Library against which every edit is evaluated.
    results : Results
        Where Results are kept.
    path : Path, optional
        File it came from.
    drawings : Drawings, optional
        What reads the drawings of its features.
    folder : Path, optional
        Where its drawings lie while it has no file: a sample is opened without one.
    """

    def __init__(
        self, job: Job, shelf: Shelf, path: Path | None = None, *, results: Results | None = None,
        drawings: Drawings | None = None, folder: Path | None = None,
    ) -> None:  # fmt: skip
        self._results, self.drawings = results or Results(shelf), drawings or Drawings()
        #: where names of drawings and programs begin, None where the job has no file yet
        self.folder = folder if path is None else path.parent
        job = self.drawings.of(job, self.folder)
        self._results.of(job)
        self._job = with_rows(job, shelf)
        self._shelf = shelf
        self.path = path
        self._seen = fingerprint(path) if path is not None else ""
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

    @property
    def results(self) -> tuple[Result, ...]:
        """Result of every cut of the job as it stands."""
        return self._results.of(self._job)

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Calls `listener(before, after)` at every change; the returned function ends that."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def change(self, label: str, job: Job, *, merges: str = "") -> Edit | None:
        """The edit that leads to `job`, evaluated before it is taken; None where nothing would change.

        Measured modes of a set-up that changes go with it.
        """
        job = self.drawings.of(job, self.folder)
        if job == self._job:
            return None
        job = without_stale_modes(self._job, job)
        self._results.of(job)
        job = with_rows(job, self._shelf, self._job)
        return Edit(label, self._job, job, merges)

    def do(self, edit: Edit) -> None:
        """Puts the job after an edit in place and tells the listeners."""
        self._put(edit.after)

    def undo(self, edit: Edit) -> None:
        """Puts the job before an edit back."""
        self._put(edit.before)

    def save(self, path: Path, *, over_read_only: bool = False) -> None:
        """Writes the job and remembers its file (FileProblem leaves both as they were); its drawings go along to another folder."""
        self.drawings.carry(self._job, self.folder, path.parent)
        job = placed(self._job, self.folder, path.parent)
        save_job(job, path, over_read_only=over_read_only)
        self.path, self.folder, self._seen = path, path.parent, fingerprint(path)
        if job != self._job:
            self._put(self.drawings.of(job, self.folder))

    def is_changed_outside(self, path: Path) -> bool:
        """Whether somebody else has written the file since it was opened or saved here."""
        if self.path is None or not (path == self.path or is_same_file(path, self.path)):
            return False
        return fingerprint(path) not in ("", self._seen)

    def _put(self, job: Job) -> None:
        former, self._job = self._job, job
        for listener in tuple(self._listeners):
            listener(former, job)
