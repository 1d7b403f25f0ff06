"""The ways that a path could be made for the chosen cut: each made and proved behind the window, anew when the cut changes."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.answers import Answers, Kind, Question
from lesna.desktop.programs.answers import Simulated
from lesna.model.errors import LesnaError
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.program.of_cut import timed
from lesna.planning.program.preceding import Preceding
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import Proved, proved
from lesna.planning.ways.rest import before_of, earlier_in

#: ways that are compared at once
MOST = 5


@dataclass(frozen=True)
class Made:
    """One way, or why there is none."""

    wish: Wish
    proved: Proved | None
    simulated: Simulated | None = None
    trouble: str = ""


@dataclass(frozen=True)
class _Wanted:
    title: str
    wishes: tuple[Wish, ...]
    earlier: Preceding | None
    trouble: str
    #: ways of the same cut that are there already
    known: tuple[Made, ...] = field(compare=False, default=())


class Ways(QObject):
    """What is wished for each cut of the open job, and the answer about the chosen one."""

    #: wishes were added or dropped
    changed = Signal()

    def __init__(self, answers: Answers) -> None:
        super().__init__()
        self._session = answers.session
        self._wishes: dict[str, tuple[Wish, ...]] = {}
        self.answer = answers.of(Kind("ways", "long", (*OF_WAYS, *OF_PATHS), self._ask, _made))
        self._session.opened.connect(self._wishes.clear)
        self.answer.changed.connect(self._tell_time)

    def _tell_time(self) -> None:
        """The path that is made where nothing else is wished tells the time of a cut that has no program."""
        plain = next((made for made in self.made if made.wish == Wish() and made.proved is not None), None)
        former, result = self.answer.former, self._session.result
        if plain is None or plain.proved is None or former is None or result.setup.parts.cut.program is not None:
            return
        run, parts = plain.proved.judged.run, former[0].question.parts
        timing = timed(run.geometry, run.times, "path")
        if parts == result.setup.parts and result.timing != timing:
            self._session.take_timing(parts, timing)

    @property
    def wishes(self) -> tuple[Wish, ...]:
        """What is wished for the chosen cut."""
        return self._wishes.get(self._session.cut.id, ())

    @property
    def made(self) -> tuple[Made, ...]:
        """The ways of the chosen cut that are there."""
        return self.answer.value if isinstance(self.answer.value, tuple) else ()

    def want(self, wish: Wish) -> None:
        """Adds a way; the oldest goes where there are too many, and one that stands already is made again if it failed."""
        self._set((*(known for known in self.wishes if known != wish), wish)[-MOST:])

    def drop(self, wish: Wish) -> None:
        """Forgets a way."""
        self._set(tuple(known for known in self.wishes if known != wish))

    def _set(self, wishes: tuple[Wish, ...]) -> None:
        self._wishes[self._session.cut.id] = wishes
        self.answer.follow()
        self.changed.emit()

    def _ask(self, result: Result) -> Question:
        session, wishes = self._session, self.wishes
        earlier, trouble = None, ""
        if wishes:
            try:
                earlier = earlier_in(session.job, session.index, session.shelf, session.folder)
            except LesnaError as error:
                trouble = str(error)
        parts, known = result.setup.parts, ()
        if self.answer.former is not None and self.answer.former[0].question.parts == parts:
            former = self.answer.former[0].question.about
            is_same = isinstance(former, _Wanted) and former.earlier == earlier
            known = self.answer.former[1] if is_same else ()
        return Question(parts, _Wanted(session.job.title, wishes, earlier, trouble, known))


def _made(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    wanted = question.about
    assert isinstance(wanted, _Wanted)  # asked so above
    if not wanted.wishes:
        return ()
    if wanted.trouble:
        return tuple(Made(wish, None, trouble=wanted.trouble) for wish in wanted.wishes)

    assert question.parts is not None  # asked with them above
    result = result_of(setup_of(question.parts), wait=False)
    there = {made.wish: made for made in wanted.known if made.proved is not None}
    needs = wanted.earlier is not None and any(wish not in there for wish in wanted.wishes)
    before = before_of(wanted.earlier, pulse) if needs and wanted.earlier is not None else None
    found = []
    for number, wish in enumerate(wanted.wishes, start=1):
        if wish in there:
            found.append(there[wish])
            continue
        try:
            made = proved(result, wish, Printing(), wanted.title, before=before,
                          pulse=pulse.within(f"way {number} of {len(wanted.wishes)}"))  # fmt: skip
            made.route.way.length_of(
                "cut", "wall", "link", "retract"
            )  # summed here, where the window does not wait for it
            found.append(Made(wish, made, Simulated(made.judged.run, made.summary).looked_through()))
        except LesnaError as error:
            found.append(Made(wish, None, trouble=str(error)))
    return tuple(found)
