"""What is computed behind the window, each answer by the question it belongs to.

A question holds all that its answer depends on, frozen; equal questions have equal answers, and nothing else decides
whether an answer is still right. A request carries the job, the cut and the question; what comes back for anything that
is not asked any more is dropped. Kinds of answers stand where they belong and register themselves with `Answers.of`.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.kept import Kept, size_of
from lesna.desktop.runner import Queue, Runner
from lesna.desktop.session import Session
from lesna.document.rows import ShelfState
from lesna.model.errors import LesnaError
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import Pulse
from lesna.physics import engine
from lesna.planning.cut.result import Result

_PREPARING = "preparing the force sums of this machine, once"


@dataclass(frozen=True)
class Question:
    """All that an answer depends on.

    Attributes
    ----------
    parts : CutParts or None
        Whole parts of the cut; None where something else says what of it counts.
    about : object
        What is asked about them.
    shelf : ShelfState or None
        The library as the job sees it, for answers that look into it.
    """

    parts: CutParts | None
    about: Hashable = None
    shelf: ShelfState | None = None


@dataclass(frozen=True)
class Address:
    """Where an answer belongs: the job that was open, the cut, and what was asked."""

    job: int
    cut: str
    question: Question


@dataclass(frozen=True)
class Kind:
    """A kind of answer.

    Parameters
    ----------
    name : str
        Target of its work.
    queue : str
        Where it runs.
    kernels : tuple of str
        Compiled sums that it needs.
    ask : callable
        The question for a cut as it stands.
    compute : callable
        The answer from question, shelf and pulse alone.
    complaint : str
        How the banner begins when it fails; empty where the refusal stands in place of the answer.
    rough : callable or None
        A first answer from the question alone, for as long as a fresh machine prepares the compiled sums.
    has_plain_sums : bool
        Whether it goes on with plain sums where compiled ones cannot be had.
    """

    name: str
    queue: Queue
    kernels: tuple[str, ...]
    ask: Callable[[Result], Question]
    compute: Callable[[Question, Shelf, Pulse], Any]
    complaint: str = ""
    rough: Callable[[Question], Any] | None = None
    has_plain_sums: bool = False


class Answers:
    """Sends work behind the window and brings what comes of it where it belongs; knows the answers by the names of their kinds."""

    def __init__(self, session: Session, runner: Runner) -> None:
        self.session, self.runner = session, runner
        self.kept = Kept()
        self._known: dict[str, Answer] = {}
        session.opened.connect(self.kept.clear)  # nothing is kept for a job that is closed

    def of(self, kind: Kind) -> Answer:
        """The answer of a kind for the chosen cut, registered under its name."""
        self._known[kind.name] = Answer(self, kind)
        return self._known[kind.name]

    def value(self, name: str) -> Any:
        """An answer that is there, None where nobody has asked for one."""
        return self._known[name].value if name in self._known else None

    def address(self, kind: Kind, cut: str) -> Address | None:
        """Where an answer about a cut as it stands belongs; None where the cut is gone."""
        result = self.session.result_of(cut)
        return None if result is None else Address(self.session.job_number, cut, kind.ask(result))

    def send(
        self, kind: Kind, address: Address, take: Callable[[Any], None], refuse: Callable[[str], None], *,
        lose: Callable[[Any], None] = lambda answer: None, target: str = "", queue: Queue | None = None,
    ) -> None:  # fmt: skip
        """Computes an answer behind the window."""
        shelf = self.session.shelf

        def work(pulse: Pulse) -> Any:
            pulse.begin(_PREPARING)
            try:
                for name in kind.kernels:
                    engine.kernel(name, pulse.tell)
            except engine.NoKernel as error:
                if not kind.has_plain_sums:
                    raise LesnaError(str(error)) from None
            pulse.begin("")
            return kind.compute(address.question, shelf, pulse)

        def arrived(answer: Any) -> None:
            (take if self.address(kind, address.cut) == address else lose)(answer)

        def refused(sentence: str) -> None:
            if self.address(kind, address.cut) == address:
                refuse(sentence)

        self.runner.run(target or kind.name, work, arrived, refused, queue=queue or kind.queue)


def _weighed(kind: Kind) -> Kind:
    """A kind whose answers come with their size: what holds many pieces takes long to weigh, which the window does not wait for."""

    def compute(question: Question, shelf: Shelf, pulse: Pulse) -> tuple[Any, int]:
        answer = kind.compute(question, shelf, pulse)
        return answer, size_of(answer)

    return replace(kind, compute=compute)


class Answer(QObject):
    """The answer of one kind for the chosen cut, or for one cut in particular, computed while somebody looks at it.

    Attributes
    ----------
    value : object
        The answer to the question as it stands; None while there is none.
    former : tuple
        The address and the value that was delivered last, for views that show it until the new one is there.
    trouble : str
        Why there is no answer, where asking for one failed or was stopped.
    progress : str
        How far it is, in words.
    is_rough : bool
        Whether the value is a first, rough one.
    """

    changed = Signal()
    #: work on it got on, and nothing else is new
    progressed = Signal()

    def __init__(self, answers: Answers, kind: Kind, cut: str = "") -> None:
        super().__init__()
        self.kind, self._answers, self._cut = kind, answers, cut
        self._session, self._runner = answers.session, answers.runner
        self._target = f"{kind.name} {cut}".strip()
        self.value: Any = None
        self.former: tuple[Address, Any] | None = None
        self.trouble = ""
        self.progress = ""
        self.is_rough = False
        self._question: Question | None = None
        self._rests = False
        self._watchers: set[object] = set()
        self._then: Callable[[], None] | None = None
        self._follows = [
            self._session.result_changed.connect(self.follow), self._session.library_changed.connect(self.follow),
            self._session.opened.connect(self._on_opened), self._runner.progressed.connect(self._on_progress),
        ]  # fmt: skip

    def end(self) -> None:
        """Its cut is gone: it follows nothing any more."""
        self._runner.cancel(self._target)
        for follows in self._follows:
            QObject.disconnect(follows)

    # ------------------------------------------------------------ who looks

    def watch(self, who: object, watches: bool) -> None:
        """Whether a view shows it; when the last one is hidden its work ends."""
        if watches:
            self._watchers.add(who)
            self.follow()
        else:
            self._watchers.discard(who)
            self._drop_unwatched()

    def is_watched_by(self, who: object) -> bool:
        """Whether a view shows it."""
        return who in self._watchers

    def when_there(self, action: Callable[[], None]) -> None:
        """Does something with the answer to the question as it stands, asking for it if need be."""
        self._then = action
        self.follow()
        if self.value is not None and not self.is_rough:
            self._do_then()

    def _drop_unwatched(self) -> None:
        if not self._watchers and self._then is None and self.is_asked:
            self._runner.cancel(self._target)
            self._question = None
            self.changed.emit()

    # ------------------------------------------------------------ asking

    @property
    def is_asked(self) -> bool:
        """Whether it is under way."""
        return self._runner.is_busy(self._target)

    @property
    def _at(self) -> str:
        """The cut it is about."""
        return self._cut or self._session.cut.id

    def follow(self) -> None:
        """Takes up the question as it stands; asks if somebody looks and the answer is not known."""
        session = self._session
        if not (self._watchers or self._then) or not session.results:
            return
        address = self._answers.address(self.kind, self._at)
        if address is None or address.question == self._question:
            return
        self.value, self.is_rough = self._answers.kept.get((self._target, address.question)), False
        self.trouble = self.progress = ""
        if self.value is not None:
            self._question, self.former = address.question, (address, self.value)
            self._runner.cancel(self._target)
        elif session.is_dragging:
            if self._question is None and self._rests:
                return
            self._rests = True
            # it would be stale before it is there; asked when the hand lets go
            self._question = None
            self._runner.cancel(self._target)
        else:
            self._rests = False
            self._question = address.question
            self._ask(address)
        self.changed.emit()

    def _ask(self, address: Address) -> None:
        # what is looked at goes before the other cuts
        queue = self.kind.queue if address.cut == self._session.cut.id else "long"
        self._answers.send(
            _weighed(self.kind), address, lambda found: self._take(address, *found), lambda text: self._refuse(address, text),
            target=self._target, queue=queue,
        )  # fmt: skip
        if self.kind.rough is not None and not engine.is_cached():
            self._ask_roughly(address, self.kind.rough)

    def _ask_roughly(self, address: Address, compute: Callable[[Question], Any]) -> None:
        """Has a first answer computed beside the real one, which takes half a minute on a fresh machine."""

        def work(pulse: Pulse) -> Any:
            with contextlib.suppress(engine.NoKernel):
                engine.kernel("turn", lambda done, total: pulse.check())
            return compute(address.question)

        def take(answer: Any) -> None:
            if address.question == self._question and self.value is None:
                self.value, self.is_rough = answer, True
                self.changed.emit()

        self._runner.run(f"rough {self._target}", work, take, lambda text: None, queue="first")

    def stop(self) -> None:
        """Gives up the work under way; asking again starts it anew."""
        if self.is_asked:
            self._runner.cancel(self._target)
            self.trouble = "stopped"
            self.changed.emit()

    def again(self) -> None:
        """Asks once more, after a stop or a refusal."""
        self._question = None
        self.follow()

    # ------------------------------------------------------------ delivery

    def _take(self, address: Address, answer: Any, size: int) -> None:
        if address.question != self._question:
            return
        self._answers.kept.put((self._target, address.question), answer, size)
        self.value, self.former, self.progress, self.is_rough = answer, (address, answer), "", False
        self.changed.emit()
        self._do_then()

    def _refuse(self, address: Address, sentence: str) -> None:
        if address.question != self._question:
            return
        self.trouble, self.progress, self._then = sentence, "", None
        if self.kind.complaint:
            self._session.say("wrong", f"{self.kind.complaint}: {sentence}")
        self.changed.emit()

    def _do_then(self) -> None:
        action, self._then = self._then, None
        if action is not None:
            action()
        self._drop_unwatched()

    def _on_progress(self, target: str, text: str) -> None:
        if target == self._target and (self.value is None or self.is_rough):
            self.progress = text
            self.progressed.emit()

    def _on_opened(self) -> None:
        self.value, self.former, self._question, self._then = None, None, None, None
        self._runner.cancel(self._target)
