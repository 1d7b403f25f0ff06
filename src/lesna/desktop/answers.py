"""What is computed behind the window, each answer by the question it belongs to.

A question holds all that its answer depends on, frozen; equal questions have equal answers, and nothing else decides
whether an answer is still right. A request carries the job, its revision, the cut and the question; what comes back
for anything that is not asked any more is dropped.
"""

from __future__ import annotations

import contextlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.runner import JobPulse, Lane, Runner
from lesna.desktop.session import Session
from lesna.model.errors import LesnaError
from lesna.model.resolve import CutParts, Shelf
from lesna.physics import engine
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.search.aims import Aim
from lesna.planning.search.more import Gain

if TYPE_CHECKING:
    from lesna.desktop.programs.ways import Made, Ways

#: answers of one kind that are kept
_KEPT = 12
_PREPARING = "preparing the force sums of this machine, once: "


@dataclass(frozen=True)
class Question:
    """All that an answer depends on: whole parts of a cut, and what is asked about them."""

    parts: CutParts
    about: Hashable = None


@dataclass(frozen=True)
class Address:
    """Where an answer belongs: the job that was open and its revision, the cut, and what was asked."""

    job: int
    revision: int
    cut: str
    question: Question

    @staticmethod
    def of(session: Session, cut: str, question: Question) -> Address:
        """The address of a question about a cut of the job as it stands."""
        return Address(session.job_number, session.revision, cut, question)


@dataclass(frozen=True)
class Kind:
    """A kind of answer.

    Parameters
    ----------
    name : str
        Target of its work.
    lane : str
        Where it runs.
    kernels : tuple of str
        Compiled sums that it needs.
    ask : callable
        The question for the chosen cut as it stands.
    compute : callable
        The answer from question, shelf and pulse alone.
    complaint : str
        How the banner begins when it fails; empty where the refusal stands in place of the answer.
    rough : callable or None
        A first answer from the question alone, for as long as a fresh machine prepares the compiled sums.
    """

    name: str
    lane: Lane
    kernels: tuple[str, ...]
    ask: Callable[[Result], Question]
    compute: Callable[[Question, Shelf, JobPulse], Any]
    complaint: str = ""
    rough: Callable[[Question], Any] | None = None


class Answer(QObject):
    """The answer of one kind for the chosen cut, computed while somebody looks at it.

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
    """

    changed = Signal()

    def __init__(self, session: Session, runner: Runner, kind: Kind) -> None:
        super().__init__()
        self.kind, self._session, self._runner = kind, session, runner
        self.value: Any = None
        self.former: tuple[Address, Any] | None = None
        self.trouble = ""
        self.progress = ""
        #: whether the value is a first, rough one
        self.is_rough = False
        self._question: Question | None = None
        self._rests = False
        self._known: OrderedDict[Question, Any] = OrderedDict()
        self._watchers: set[object] = set()
        self._then: Callable[[], None] | None = None
        session.result_changed.connect(self.follow)
        session.opened.connect(self._on_opened)
        session.library_changed.connect(self.forget)
        runner.progressed.connect(self._on_progress)

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
            self._runner.cancel(self.kind.name)
            self._question = None

    # ------------------------------------------------------------ asking

    @property
    def is_asked(self) -> bool:
        """Whether it is under way."""
        return self._runner.is_busy(self.kind.name)

    def follow(self) -> None:
        """Takes up the question as it stands; asks if somebody looks and the answer is not known."""
        session = self._session
        if not (self._watchers or self._then) or not session.results:
            return
        question = self.kind.ask(session.result)
        if question == self._question:
            return
        self.value, self.is_rough = self._known.get(question), False
        self.trouble = self.progress = ""
        if self.value is not None:
            self._question = question
            self._runner.cancel(self.kind.name)
            self.changed.emit()
            return
        if session.is_dragging:
            if self._question is None and self.trouble == "" and self._rests:
                return
            self._rests = True
            # it would be stale before it is there; asked when the hand lets go
            self._question = None
            self._runner.cancel(self.kind.name)
        else:
            self._rests = False
            self._question = question
            self._ask(question)
        self.changed.emit()

    def _ask(self, question: Question) -> None:
        kind, shelf = self.kind, self._session.shelf
        address = Address.of(self._session, self._session.cut.id, question)

        def work(pulse: JobPulse) -> Any:
            pulse.stage = _PREPARING
            try:
                for name in kind.kernels:
                    engine.kernel(name, pulse.tell)
            except engine.NoKernel as error:
                raise LesnaError(str(error)) from None
            pulse.stage = ""
            return kind.compute(question, shelf, pulse)

        self._runner.run(
            kind.name, work, lambda answer: self._take(address, answer), lambda text: self._refuse(address, text),
            lane=kind.lane,
        )  # fmt: skip
        if self.kind.rough is not None and not engine.is_cached():
            self._ask_roughly(address, self.kind.rough)

    def forget(self) -> None:
        """What is known may not hold any more: it is asked anew where somebody looks."""
        self._known.clear()
        self.value, self.former = None, None
        self.again()
        self.changed.emit()

    def _ask_roughly(self, address: Address, compute: Callable[[Question], Any]) -> None:
        """Has a first answer computed beside the real one, which takes half a minute on a fresh machine."""

        def work(pulse: JobPulse) -> Any:
            with contextlib.suppress(engine.NoKernel):
                engine.kernel("turn", lambda done, total: pulse.check())
            return compute(address.question)

        self._runner.run(
            f"rough {self.kind.name}", work, lambda answer: self._take_rough(address, answer), lambda text: None,
            lane="long",
        )  # fmt: skip

    def _take_rough(self, address: Address, answer: Any) -> None:
        if self._belongs(address) and self.value is None:
            self.value, self.is_rough = answer, True
            self.changed.emit()

    def stop(self) -> None:
        """Gives up the work under way; asking again starts it anew."""
        if self.is_asked:
            self._runner.cancel(self.kind.name)
            self.trouble = "stopped"
            self.changed.emit()

    def again(self) -> None:
        """Asks once more, after a stop or a refusal."""
        self._question = None
        self.follow()

    # ------------------------------------------------------------ delivery

    def _belongs(self, address: Address) -> bool:
        session = self._session
        return (
            address.job == session.job_number and address.cut == session.cut.id and address.question == self._question
        )

    def _take(self, address: Address, answer: Any) -> None:
        if not self._belongs(address):
            return
        self._known[address.question] = answer
        while len(self._known) > _KEPT:
            self._known.popitem(last=False)
        self.value, self.former, self.progress, self.is_rough = answer, (address, answer), "", False
        self.changed.emit()
        self._do_then()

    def _refuse(self, address: Address, sentence: str) -> None:
        if not self._belongs(address):
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
        if target == self.kind.name and (self.value is None or self.is_rough):
            self.progress = text
            self.changed.emit()

    def _on_opened(self) -> None:
        self._known.clear()
        self.value, self.former, self._question, self._then = None, None, None, None
        self._runner.cancel(self.kind.name)


class Answers:
    """Every kind of answer, and the choices that questions hold besides the cut."""

    def __init__(self, session: Session, runner: Runner) -> None:
        self.gain: Gain = "removal"
        self.aim: Aim = "time"
        self.runner, self._session = runner, session
        sweep, turn, floquet = "sweep", "turn", "largest_multiplier"

        def of(kind: Kind) -> Answer:
            return Answer(session, runner, kind)

        self.map = of(Kind("map", "urgent", (turn, sweep), _over_engagement, _map, "the map", _rough_map))
        self.chart = of(Kind("chart", "urgent", (floquet,), _cut, _chart, "the stability chart"))
        every = (turn, sweep, floquet)
        self.offers = of(Kind("offers", "long", every, lambda r: Question(r.setup.parts, self.gain), _offers,
                              "what would buy more"))  # fmt: skip
        self.comparison = of(Kind("compare", "long", every, lambda r: Question(r.setup.parts, self.aim), _comparison))
        self.ranking = of(Kind("tools", "long", every, lambda r: Question(r.setup.parts, self.aim), _ranking))
        self.chatter = ChatterAnswers(session, runner)

    @cached_property
    def ways(self) -> Ways:
        """Ways of making the chosen cut's path; what makes them is loaded when it is first asked for."""
        from lesna.desktop.programs.ways import Ways

        return Ways(self._session, self.runner)

    @property
    def ways_made(self) -> tuple[Made, ...]:
        """The ways of the chosen cut that are there, none where nobody asked for any."""
        return self.ways.made if "ways" in self.__dict__ else ()

    def choose_gain(self, gain: Gain) -> None:
        """What the list of changes is to gain."""
        self.gain = gain
        self.offers.follow()

    def choose_aim(self, aim: Aim) -> None:
        """What strategies and tools are compared by."""
        self.aim = aim
        self.comparison.follow()
        self.ranking.follow()


def _cut(result: Result) -> Question:
    return Question(result.setup.parts)


def _over_engagement(result: Result) -> Question:
    return Question(result.setup.parts.over_engagement())


def _map(question: Question, shelf: Shelf, pulse: JobPulse) -> Any:
    from lesna.desktop.map_picture import picture_of

    return picture_of(setup_of(question.parts), pulse)


def _rough_map(question: Question) -> Any:
    from lesna.desktop.map_picture import rough_picture_of

    return rough_picture_of(setup_of(question.parts))


def _chart(question: Question, shelf: Shelf, pulse: JobPulse) -> Any:
    from lesna.planning.chatter.stability import advice_of, over_speed

    setup = setup_of(question.parts)
    growth = over_speed(setup, pulse=pulse)
    return growth, advice_of(setup, growth)


def _offers(question: Question, shelf: Shelf, pulse: JobPulse) -> Any:
    from lesna.planning.search.more import offers_of

    return offers_of(question.parts, shelf, question.about, pulse=pulse)  # type: ignore[arg-type]


def _comparison(question: Question, shelf: Shelf, pulse: JobPulse) -> Any:
    from lesna.planning.schools.compare import compare

    return compare(question.parts, shelf, question.about, pulse=pulse)  # type: ignore[arg-type]


def _ranking(question: Question, shelf: Shelf, pulse: JobPulse) -> Any:
    from lesna.planning.schools.ranking import rank_tools

    return rank_tools(question.parts, shelf, question.about, pulse=pulse)  # type: ignore[arg-type]


class ChatterAnswers(QObject):
    """Where cuts with measured modes chatter: the chosen one at once, the others behind."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self._session, self._runner = session, runner
        #: what was refused is not asked again
        self._refused: set[Question] = set()
        self._asked: dict[str, Question] = {}
        session.result_changed.connect(self.follow)

    def follow(self) -> None:
        """Asks for every cut whose chatter is not known."""
        session = self._session
        cuts = {cut.id for cut in session.job.cuts}
        for target in [name for name in self._asked if name not in cuts]:
            self._runner.cancel(f"chatter {target}")
            del self._asked[target]
        for cut, result in zip(session.job.cuts, session.results, strict=True):
            question = Question(result.setup.parts)
            if not result.is_waiting:
                self._runner.cancel(f"chatter {cut.id}")
                self._asked.pop(cut.id, None)
            elif question not in self._refused and self._asked.get(cut.id) != question:
                self._asked[cut.id] = question
                self._ask(cut.id, question, "urgent" if cut.id == session.cut.id else "long")

    def _ask(self, cut: str, question: Question, lane: Lane) -> None:
        address = Address.of(self._session, cut, question)

        def work(pulse: JobPulse) -> Any:
            from lesna.planning.chatter.judge import chatter_of

            with contextlib.suppress(engine.NoKernel):  # the plain sums give the same, slower
                engine.kernel("largest_multiplier", pulse.tell)
            return chatter_of(setup_of(question.parts))

        self._runner.run(
            f"chatter {cut}", work, lambda answer: self._take(address, answer), lambda text: self._refuse(address, text),
            lane=lane,
        )  # fmt: skip

    def _belongs(self, address: Address) -> bool:
        result = self._session.result_of(address.cut)
        return (
            address.job == self._session.job_number
            and result is not None
            and result.setup.parts == address.question.parts
        )

    def _take(self, address: Address, answer: Any) -> None:
        self._asked.pop(address.cut, None)
        if self._belongs(address):
            self._session.take_chatter(address.question.parts, answer)

    def _refuse(self, address: Address, sentence: str) -> None:
        self._asked.pop(address.cut, None)
        self._refused.add(address.question)
        self._session.say("wrong", f"chatter: {sentence}")
