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
from lesna.desktop.background import Background, Told
from lesna.desktop.on_demand import OnDemand
from lesna.document import edits
from lesna.document.document import Change, Document
from lesna.model.errors import InputError, LesnaError
from lesna.model.job import Cut, Job
from lesna.model.resolve import parts_of
from lesna.model.units import System
from lesna.physics import engine
from lesna.planning.chatter.stability import Field, advice_of, over_speed, over_stepover
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.telling.working import Working, working_of

#: steps that undo remembers, and chatter fields that are kept
UNDO_DEPTH, _FIELDS_KEPT = 500, 400


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
    waiting_changed = Signal(str, str)
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
        self.gain: Any = "removal"
        self.aim: Any = "time"
        self.chart = self._on_demand("chart", self._chart_work, self._key_of_chart, "the stability chart")
        self.offers = self._on_demand("offers", self._offers_work, self._key_of_offers, "what would buy more")
        self.comparison = self._on_demand("compare", self._comparison_work, self._key_of_aim, "")
        self.ranking = self._on_demand("tools", self._ranking_work, self._key_of_aim, "")
        #: growth of vibrations over the stepover, by everything it depends on
        self._fields: dict[object, tuple[Field | None, Job]] = {}
        background.progressed.connect(self._on_progress)
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
        results = tuple(self._result(job, index) for index in range(len(job.cuts)))
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
        for answer in self._answers:
            answer.forget()
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
            self._want_all()

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
        self.results = tuple(known.get(id(cut)) or self._result(after, index) for index, cut in enumerate(after.cuts))
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
        self._want_all()

    def _result(self, job: Job, index: int) -> Result:
        setup = setup_of(parts_of(job, index, self.library))
        return result_of(setup, self._field(job, index))

    def _field(self, job: Job, index: int) -> Field | None:
        """Where a cut chatters, if that has been computed."""
        return self._fields.get(_field_key(job, index), (None, job))[0]

    # ------------------------------------------------------------ the map and chatter

    def _want_all(self) -> None:
        self._want_map()
        for answer in self._answers:
            answer.want()

    def _want_map(self) -> None:
        field = self._field(self.job, self.index)
        key = (self._key_of_map(), self.index, field is not None)
        if key == self._map_key:
            return
        self._map_key = key
        if field is None:
            self._want_field(self.index)
        setup = self.result.setup
        units_shown = self.system

        def work(cancelled: Callable[[], bool]) -> Any:
            from lesna.desktop.map_picture import picture_of

            engine.ready(lambda done, total: self.background.progressed.emit("kernels", done, total))
            return picture_of(setup, units_shown, cancelled, field)

        self.background.run("map", work, self._on_map, lambda text: self.said.emit("wrong", f"the map: {text}"))

    def _key_of_map(self) -> object:
        """Everything the map depends on: all of the set-up but the engagement itself."""
        held = {"ae_mm", "ap_mm"} & set(self.cut.locks)
        free = {"ae_mm", "ap_mm", "name", "role", "feature"} - held
        cut = tuple((key, value) for key, value in self.cut if key not in free)
        limit = (self.cut.role, self.cut.deflection_limit_um)
        return (cut, limit, self.cut.feature, self.job.machine, self.job.workpiece, self.job.units)

    def _on_map(self, picture: Any) -> None:
        self.map = picture
        self.map_changed.emit()

    def _want_field(self, index: int) -> None:
        """Where a cut chatters, computed behind; its Result takes the limit in when it is there."""
        job = self.job
        setup, key = self.results[index].setup, _field_key(job, index)

        def work(tell: Callable[[int, int], None]) -> Any:
            engine.ready()
            return over_stepover(setup, progress=tell)

        def done(field: Any) -> None:
            if len(self._fields) > _FIELDS_KEPT:
                self._fields.clear()
            self._fields[key] = (field, job)  # with the job, whose records the key tells apart
            self._take_in(key)

        target = f"chatter {index}"
        self.background.run_told(target, work, done, lambda text: self.said.emit("wrong", f"chatter: {text}"))

    def _take_in(self, key: object) -> None:
        """A field has come: the cuts it belongs to get their chatter limit, and the next cut without one is asked."""
        keys = [_field_key(self.job, index) for index in range(len(self.job.cuts))]
        self.results = tuple(
            self._result(self.job, index) if keys[index] == key else result for index, result in enumerate(self.results)
        )
        self.result_changed.emit()
        self._want_map()
        missing = next((i for i, wanted in enumerate(keys) if wanted not in self._fields), None)
        if missing is not None and not self.background.is_busy(f"chatter {missing}"):
            self._want_field(missing)

    # ------------------------------------------------------------ what is computed only while somebody looks at it

    @property
    def _answers(self) -> tuple[OnDemand, ...]:
        return (self.chart, self.offers, self.comparison, self.ranking)

    def _on_demand(self, target: str, work: Callable[[], Told], key: Callable[[], object], what: str) -> OnDemand:
        """An answer of that name; without `what`, a refusal is shown where the answer would stand, not in the banner."""
        said = (lambda text: self.said.emit("wrong", f"{what}: {text}")) if what else lambda text: None
        return OnDemand(self.background, target, lambda: None if self.is_dragging else key(), work, said)

    def choose_gain(self, gain: Any) -> None:
        """What the list of changes is to gain."""
        self.gain = gain
        self.offers.want()

    def choose_aim(self, aim: Any) -> None:
        """What strategies and tools are compared by."""
        self.aim = aim
        self.comparison.want()
        self.ranking.want()

    def _key_of_chart(self) -> object:
        return (self._key_of_map(), self.index, self.cut.ae_mm)

    def _chart_work(self) -> Told:
        setup = self.result.setup

        def work(tell: Callable[[int, int], None]) -> Any:
            field = over_speed(setup, progress=tell)
            return field, advice_of(setup, field)

        return work

    def _key_of_offers(self) -> object:
        return (self.job, self.index, self.gain)

    def _offers_work(self) -> Told:
        job, index, gain, library = self.job, self.index, self.gain, self.library

        def work(tell: Callable[[int, int], None]) -> Any:
            from lesna.planning.search.more import offers_of

            return offers_of(job, index, library, gain, progress=tell)

        return work

    def _key_of_aim(self) -> object:
        return (self.job, self.index, self.aim)

    def _comparison_work(self) -> Told:
        job, index, aim, library = self.job, self.index, self.aim, self.library

        def work(tell: Callable[[int, int], None]) -> Any:
            from lesna.planning.schools.compare import compare

            return compare(job, index, library, aim, progress=tell)

        return work

    def _ranking_work(self) -> Told:
        job, index, aim, library = self.job, self.index, self.aim, self.library

        def work(tell: Callable[[int, int], None]) -> Any:
            from lesna.planning.schools.ranking import rank_tools

            return rank_tools(job, index, library, aim, progress=tell)

        return work

    def _on_progress(self, target: str, done: int, total: int) -> None:
        if target == "kernels":
            text = "" if done >= total else f"preparing the force sums of this machine, once: {done} of {total}"
            self.waiting_changed.emit("map", text)
        else:
            self.waiting_changed.emit(target, "" if done >= total else f"{done} of {total}")


def _field_key(job: Job, index: int) -> object:
    """All that chatter over the stepover depends on."""
    cut = job.cuts[index]
    free = {"ae_mm", "ap_mm", "name", "role", "feature", "locks", "deflection_limit_um", "coolant"}
    # records are told apart by identity: an edit makes new ones of what it changes and keeps the others
    values = tuple(
        (key, value if isinstance(value, (str, float, int)) else id(value)) for key, value in cut if key not in free
    )
    return (values, id(job.machine), id(job.workpiece))
