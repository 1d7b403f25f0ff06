"""What is open in the window: the document, its undo stack, the chosen cut and the units it is shown in.

Views read from here and ask for edits here; they never talk to each other. What is computed behind the window is
asked for by `answers`.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from lesna.data.library import Library
from lesna.document import edits
from lesna.document.document import Document, Edit
from lesna.document.drawings import Drawings, troubles_of
from lesna.document.measurements import lost_modes
from lesna.document.results import Results
from lesna.document.rows import ShelfState, state_of
from lesna.model import units
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import is_same_file
from lesna.model.job import Cut, Job, ProgramRef
from lesna.model.kept import Rows, over
from lesna.model.resolve import CutParts, Shelf
from lesna.model.shown import visible
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.telling.explained import Working, working_of

#: steps that undo remembers
UNDO_DEPTH = 500


class _UndoStep(QUndoCommand):
    """An edit of the document on Qt's stack."""

    def __init__(self, document: Document, edit: Edit) -> None:
        super().__init__(edit.label)
        self.document = document
        self.edit = edit

    def id(self) -> int:
        return hash(self.edit.merges) & 0x3FFFFFFF if self.edit.merges else -1

    def mergeWith(self, other: QUndoCommand) -> bool:
        if not isinstance(other, _UndoStep) or other.edit.merges != self.edit.merges:
            return False
        self.edit = self.edit.joined(other.edit)
        # a drag that came back to where it began leaves no step behind
        self.setObsolete(self.edit.is_nothing)
        return True

    def redo(self) -> None:
        self.document.do(self.edit)

    def undo(self) -> None:
        self.document.undo(self.edit)


class Session(QObject):
    """The open job as the window sees it."""

    opened = Signal()
    job_changed = Signal()
    cut_selected = Signal()
    result_changed = Signal()
    working_asked = Signal(str)
    said = Signal(str, str)
    #: a sentence, what a button beside it says, and what the button does
    offered = Signal(str, str, object)
    #: a row of the library was kept, dropped or imported
    library_changed = Signal()
    #: a drawing outside the job's folder was chosen
    drawing_chosen = Signal(object)

    def __init__(self, library: Library) -> None:
        super().__init__()
        self.library = library
        self.stack = QUndoStack(self)
        self.stack.setUndoLimit(UNDO_DEPTH)
        self.store = Results(library)
        self.drawings = Drawings()
        self.document: Document
        self.results: tuple[Result, ...] = ()
        self.system: units.System = "metric"
        self.is_dragging = False
        #: counts the jobs that were opened
        self.job_number = 0
        self._chosen, self._place = "", 0
        self._is_saving = False
        self._gesture = 0
        self._before_gesture = 0
        self._forget: Callable[[], None] | None = None
        self._shelf_state: tuple[Rows | None, ShelfState] | None = None

    # ------------------------------------------------------------ opening and saving

    def open(self, job: Job, path: Path | None, *, unsaved: bool = False, folder: Path | None = None) -> None:
        """Shows a job; the former one is forgotten. A job without a file may have its drawings in a folder."""
        if not job.cuts:
            raise InputError("the job has no cuts; at least one is needed", "cuts")
        document = Document(job, self.library, path, results=self.store, drawings=self.drawings, folder=folder)
        if self._forget:
            self._forget()
        self.document, self.results = document, document.results
        self.system, self._chosen, self.is_dragging = job.units, job.cuts[0].id, False
        self._forget = document.listen(self._on_changed)
        self.job_number += 1
        self.stack.clear()
        if unsaved:
            self.stack.resetClean()
        self.opened.emit()
        self._announce()

    def save(self, path: Path, *, over_read_only: bool = False) -> None:
        """Writes the job (FileProblem leaves everything as it was)."""
        self._is_saving = True  # names of files may change with the folder, which is no reason to look at their cuts
        try:
            self.document.save(path, over_read_only=over_read_only)
        finally:
            self._is_saving = False
        self.stack.setClean()

    def is_job_itself(self, path: Path) -> bool:
        """Whether something else is about to be written over the open job, which is then said."""
        own = self.document.path
        if own is None or not is_same_file(path, own):
            return False
        self.say("wrong", f"{path.name} is the job itself; choose another name")
        return True

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
    def shelf(self) -> Shelf:
        """The library as the job sees it: the rows it keeps first."""
        return over(self.job.rows, self.library)

    @property
    def shelf_state(self) -> ShelfState:
        """What `shelf` offers, to be compared."""
        rows, version = self.job.rows, self.library.version
        if self._shelf_state is None or self._shelf_state[0] is not rows or self._shelf_state[1].version != version:
            self._shelf_state = rows, state_of(rows, self.library, version)
        return self._shelf_state[1]

    @property
    def index(self) -> int:
        """Position of the chosen cut."""
        cuts = self.job.cuts
        # views ask some eighty times at each move: it is mostly where it was
        if self._place >= len(cuts) or cuts[self._place].id != self._chosen:
            self._place = self.job.place_of(self._chosen) or 0
        return self._place

    @property
    def cut(self) -> Cut:
        """The chosen cut."""
        return self.job.cuts[self.index]

    @property
    def result(self) -> Result:
        """Result of the chosen cut."""
        return self.results[self.index]

    def result_of(self, cut: str) -> Result | None:
        """Result of the cut with an id, None where it is gone."""
        place = self.job.place_of(cut)
        return None if place is None else self.results[place]

    def working(self, id: str) -> Working:
        """How a number of the chosen cut came about."""
        return working_of(self.result, id, self._origin)

    def _origin(self, table: str, key: object) -> str:
        return str(getattr(self.library, table).origin(key))

    # ------------------------------------------------------------ choosing

    def select(self, index: int) -> None:
        """Chooses a cut."""
        if index != self.index and 0 <= index < len(self.job.cuts):
            self._chosen = self.job.cuts[index].id
            self.cut_selected.emit()
            self.result_changed.emit()

    def select_beside(self, step: int) -> None:
        """Chooses the next or the former cut."""
        self.select(self.index + step)

    def show_in(self, system: units.System) -> None:
        """Shows every number in other units; the document stays as it is."""
        if system != self.system:
            self.system = system
            self.job_changed.emit()
            self.result_changed.emit()

    # ------------------------------------------------------------ editing

    def begin_gesture(self) -> None:
        """Starts a drag or a burst of nudges: its changes become one step of undo."""
        self._gesture += 1
        self._before_gesture = self.stack.index()

    def end_drag(self) -> None:
        """Lets go of what is dragged, where it is; views catch up."""
        if self.is_dragging:
            self.is_dragging = False
            self.result_changed.emit()

    def give_up_drag(self) -> None:
        """Puts what is dragged back where it was taken up."""
        if self.is_dragging:
            if self.stack.index() > self._before_gesture:
                self.stack.undo()
            self.end_drag()

    def edit(self, label: str, job: Job, *, gesture: bool = False) -> None:
        """Does an edit as an undoable step."""
        edit = self.document.change(label, job, merges=f"{label} {self._gesture}" if gesture else "")
        if edit is not None:
            self.stack.push(_UndoStep(self.document, edit))

    def edit_cut(self, label: str, *, gesture: bool = False, **values: Any) -> None:
        """Changes fields of the chosen cut (errors as in `edit`)."""
        self.edit(label, edits.with_cut(self.job, self.index, **values), gesture=gesture)

    def attempt(self, action: Callable[[], None]) -> bool:
        """Runs an edit whose error belongs to no field: it is said in the banner."""
        try:
            action()
        except LesnaError as error:
            self.say("wrong", str(error))
            return False
        return True

    def say(self, kind: str, sentence: str) -> None:
        """Has a sentence shown in the banner, its numbers in the units of the view."""
        self.said.emit(kind, visible(units.said(sentence, self.system)))

    @property
    def folder(self) -> Path | None:
        """Where names of drawings, programs and stock begin, None where the job has no file yet."""
        return self.document.folder

    def name_of(self, path: Path) -> str:
        """A file as the job names it: from its folder where it lies in there."""
        whole, folder = path.resolve(), self.folder
        if folder is not None and whole.is_relative_to(folder.resolve()):
            return str(whole.relative_to(folder.resolve()))
        return str(whole)

    def take_drawing(self, path: Path) -> str:
        """The name of a drawing as the job writes it; one that lies elsewhere may be read from now on."""
        name = self.name_of(path)
        if Path(name).is_absolute():
            self.drawings.chosen.add(Path(name))
            self.drawing_chosen.emit(Path(name))
        return name

    def say_troubles(self) -> None:
        """Has drawings that give no outline named in the banner."""
        for index, trouble in troubles_of(self.job):
            self.say("wrong", f"{self.job.cuts[index].name}: {trouble}; choose the drawing again in Setup")

    def offer(self, sentence: str, label: str, action: Callable[[], object]) -> None:
        """Has something offered in the banner."""
        self.offered.emit(units.said(sentence, self.system), label, action)

    # ------------------------------------------------------------ following

    def _on_changed(self, before: Job, after: Job) -> None:
        self.results = self.document.results
        if not self._is_saving:
            self._follow_choice(before, after)
        lost = lost_modes(before, after)
        if lost:
            self.say("note", f"the measured modes of {', '.join(lost)} are gone; undo brings back what was before")
        self._announce()

    def _follow_choice(self, before: Job, after: Job) -> None:
        """A change to another cut, a new cut and an undo that touches a cut show that cut."""
        former = {cut.id: cut for cut in before.cuts}
        touched = [cut.id for cut in after.cuts if former.get(cut.id) is not cut and former.get(cut.id) != cut]
        place = before.place_of(self._chosen)
        if len(touched) == 1 or (touched and self._chosen not in touched):
            wanted = touched[0]
        elif after.place_of(self._chosen) is not None:
            return
        else:
            wanted = after.cuts[min(place or 0, len(after.cuts) - 1)].id
        if wanted != self._chosen:
            self._chosen = wanted
            self.cut_selected.emit()

    def _announce(self) -> None:
        self.job_changed.emit()
        self.result_changed.emit()

    def take_chatter(self, parts: CutParts, chatter: Chatter) -> None:
        """Where a cut chatters has been computed: its Result takes it in, if it is still the cut's."""
        self.store.take_in(parts, chatter)
        self._show(parts)

    def take_timing(self, parts: CutParts, path: Timing | None = None) -> None:
        """How long a cut takes has been found out: its Result takes it in, if it is still the cut's."""
        self.store.take_timing(parts, path)
        self._show(parts)

    def take_program(self, parts: CutParts, ref: ProgramRef, timing: Timing | None) -> None:
        """How long a cut's program takes has been found out, or that it cannot be read."""
        self.store.take_program(parts, ref, timing)
        self.results = self.document.results
        self.result_changed.emit()

    def look_again(self) -> None:
        """What trials taught is known now: Results that depend on it follow."""
        former = self.results
        self.store.look_again()
        self.results = self.document.results
        if any(was.setup.parts != now.setup.parts for was, now in zip(former, self.results, strict=True)):
            self.result_changed.emit()

    def _show(self, parts: CutParts) -> None:
        if any(result.setup.parts == parts for result in self.results):
            self.results = self.document.results
            self.result_changed.emit()
