"""What is open in the window: the document, its undo stack, the chosen cut, its Result and its map.

Views read from here and ask for edits here; they never talk to each other.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from lesna.data.library import Library
from lesna.desktop.background import Background
from lesna.document import edits
from lesna.document.document import Change, Document
from lesna.model.errors import InputError, LesnaError
from lesna.model.job import Cut, Job
from lesna.model.units import System
from lesna.planning.evaluate import evaluate
from lesna.planning.result import Result
from lesna.planning.working import Working, working_of

#: steps that undo remembers
UNDO_DEPTH = 500


class _Step(QUndoCommand):
    """A change of the document on Qt's stack."""

    def __init__(self, document: Document, change: Change) -> None:
        super().__init__(change.label)
        self.document = document
        self.change = change

    def id(self) -> int:
        return hash(self.change.merges) & 0x3FFFFFFF if self.change.merges else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, _Step) or other.change.merges != self.change.merges:
            return False
        self.change = self.change.joined(other.change)
        return True

    def redo(self) -> None:
        self.document.do(self.change)

    def undo(self) -> None:
        self.document.undo(self.change)


class Session(QObject):
    """The open job as the window sees it."""

    opened = Signal()
    job_changed = Signal()
    cut_selected = Signal()
    result_changed = Signal()
    map_changed = Signal()
    working_asked = Signal(str)
    said = Signal(str, str)

    def __init__(self, library: Library, background: Background) -> None:
        super().__init__()
        self.library = library
        self.background = background
        self.stack = QUndoStack(self)
        self.stack.setUndoLimit(UNDO_DEPTH)
        self.document: Document
        self.results: tuple[Result, ...] = ()
        self.index = 0
        self.map: Any = None
        self.is_dragging = False
        self._gesture = 0
        self._map_key: object = None
        self._forget: Callable[[], None] | None = None

    # ------------------------------------------------------------ opening and saving

    def open(self, job: Job, path: Path | None, *, unsaved: bool = False) -> None:
        """Shows a job; the former one is forgotten.

        Raises
        ------
        InputError
            When one of its cuts cannot be computed; the former job then stays.
        """
        document = Document(job, self.library, path)
        results = tuple(evaluate(job, index, self.library) for index in range(len(job.cuts)))
        if not results:
            raise InputError("the job has no cuts; at least one is needed", "cuts")
        if self._forget:
            self._forget()
        self.document, self.results, self.index = document, results, 0
        self._forget = document.listen(self._on_changed)
        self.stack.clear()
        if unsaved:
            self.stack.resetClean()
        self._map_key, self.map = None, None
        self.opened.emit()
        self._announce()

    def save(self, path: Path) -> None:
        """Writes the job (FileProblem leaves everything as it was)."""
        self.document.save(path)
        self.stack.setClean()

    def close(self) -> None:
        """Nobody listens any more: the window goes."""
        if self._forget:
            self._forget()
        self.stack.blockSignals(True)
        self.blockSignals(True)

    @property
    def is_dirty(self) -> bool:
        """Whether there is something to save."""
        return not self.stack.isClean()

    # ------------------------------------------------------------ what views read

    @property
    def job(self) -> Job:
        """The document's job."""
        return self.document.job

    @property
    def cut(self) -> Cut:
        """The chosen cut."""
        return self.job.cuts[self.index]

    @property
    def result(self) -> Result:
        """Result of the chosen cut."""
        return self.results[self.index]

    @property
    def system(self) -> System:
        """Units that numbers are shown in."""
        return self.job.units

    def working(self, id: str) -> Working:
        """How a number of the chosen cut came about."""
        return working_of(self.result, id, self._origin)

    def _origin(self, table: str, key: object) -> str:
        return str(getattr(self.library, table).origin(key))

    # ------------------------------------------------------------ choosing

    def select(self, index: int) -> None:
        """Chooses a cut."""
        if index != self.index and 0 <= index < len(self.job.cuts):
            self.index = index
            self.cut_selected.emit()
            self.result_changed.emit()
            self._want_map()

    def select_beside(self, step: int) -> None:
        """Chooses the next or the former cut."""
        self.select(self.index + step)

    # ------------------------------------------------------------ editing

    def begin_gesture(self) -> None:
        """Starts a drag or a burst of nudges: its changes become one step of undo."""
        self._gesture += 1

    def edit(self, label: str, job: Job, *, gesture: bool = False) -> None:
        """Does an edit as an undoable step.

        Raises
        ------
        InputError
            When the edited job cannot be computed; nothing has changed then.
        """
        change = self.document.change(label, job, merges=f"{label} {self._gesture}" if gesture else "")
        if change is not None:
            self.stack.push(_Step(self.document, change))

    def edit_cut(self, label: str, *, gesture: bool = False, **values: Any) -> None:
        """Changes fields of the chosen cut (errors as in `edit`)."""
        self.edit(label, edits.with_cut(self.job, self.index, **values), gesture=gesture)

    def attempt(self, action: Callable[[], None]) -> bool:
        """Runs an edit whose error belongs to no field: it is said in the banner."""
        try:
            action()
        except LesnaError as error:
            self.said.emit("wrong", str(error))
            return False
        return True

    # ------------------------------------------------------------ following the document

    def _on_changed(self, before: Job, after: Job) -> None:
        self._follow_selection(before, after)
        same = before.machine == after.machine and before.workpiece == after.workpiece and before.units == after.units
        known = {id(r.setup.parts.cut): r for r in self.results} if same else {}
        self.results = tuple(
            known.get(id(cut)) or evaluate(after, index, self.library) for index, cut in enumerate(after.cuts)
        )
        self._announce()

    def _follow_selection(self, before: Job, after: Job) -> None:
        if len(before.cuts) == len(after.cuts):
            moved = [i for i, cut in enumerate(after.cuts) if cut is before.cuts[self.index]]
            changed = [i for i, cut in enumerate(after.cuts) if cut is not before.cuts[i]]
            # an undo that touches another cut shows that cut
            wanted = changed[0] if len(changed) == 1 else moved[0] if moved else self.index
            if wanted != self.index:
                self.index = wanted
                self.cut_selected.emit()
            return
        fresh = [i for i, cut in enumerate(after.cuts) if all(cut is not old for old in before.cuts)]
        self.index = fresh[0] if fresh else min(self.index, len(after.cuts) - 1)
        self.cut_selected.emit()

    def _announce(self) -> None:
        self.job_changed.emit()
        self.result_changed.emit()
        self._want_map()

    # ------------------------------------------------------------ the map

    def _want_map(self) -> None:
        key = self._key_of_map()
        if key == self._map_key:
            return
        self._map_key = key
        setup = self.result.setup
        units_shown = self.system

        def work(cancelled: Callable[[], bool]) -> Any:
            from lesna.desktop.map_picture import picture_of

            return picture_of(setup, units_shown, cancelled)

        self.background.run("map", work, self._on_map, lambda text: self.said.emit("wrong", f"the map: {text}"))

    def _key_of_map(self) -> object:
        """Everything the map depends on: all of the set-up but the engagement itself."""
        held = {"ae_mm", "ap_mm"} & set(self.cut.locks)
        free = {"ae_mm", "ap_mm", "name", "role", "feature"} - held
        cut = tuple((key, value) for key, value in self.cut if key not in free)
        return (cut, self.cut.feature, self.job.machine, self.job.workpiece, self.job.units)

    def _on_map(self, picture: Any) -> None:
        self.map = picture
        self.map_changed.emit()
