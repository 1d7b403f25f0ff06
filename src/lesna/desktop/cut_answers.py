"""The kinds of answers about a cut itself: its map, where it chatters, what would buy more, the schools and the tools."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject

from lesna.desktop.answers import Answer, Answers, Kind, Question
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.model.errors import LesnaError
from lesna.model.job import SPEEDS, Cut, ProgramRef
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import Pulse
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.cut.features import volume
from lesna.planning.cut.life import law_of
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import solve_one
from lesna.planning.program.stock import stamp_of
from lesna.planning.program.work import others_of
from lesna.planning.routes.estimate import is_timed
from lesna.planning.search.aims import Aim
from lesna.planning.search.more import Gain
from lesna.stock.body import Body

_TURN, _SWEEP, _FLOQUET = "turn", "sweep", "largest_multiplier"


class CutAnswers(Answers):
    """Every answer about the chosen cut, and the choices that questions hold besides it."""

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__(session, runner)
        self.gain: Gain = "removal"
        self.aim: Aim = "cost"
        self.colour = "removal"
        every = (_TURN, _SWEEP, _FLOQUET)

        def gained(result: Result) -> Question:
            return Question(result.setup.parts, self.gain, session.shelf_state)

        def aimed(result: Result) -> Question:
            return Question(result.setup.parts, self.aim, session.shelf_state)

        self.map = self.of(Kind("map", "urgent", (_TURN, _SWEEP), self._over_engagement, _map, "the map", _rough_map))
        self.chart = self.of(Kind("chart", "urgent", (_FLOQUET,), _cut, _chart, "the stability chart"))
        self.offers = self.of(Kind("offers", "long", every, gained, _offers, "what would buy more"))
        self.comparison = self.of(Kind("compare", "long", every, aimed, _comparison))
        self.ranking = self.of(Kind("tools", "long", every, aimed, _ranking))
        self.chatter = ChatterAnswers(self)
        self.timing = TimingAnswers(self)

    def colour_map(self, colour: str) -> None:
        """What the colours of the map tell."""
        self.colour = colour
        self.map.follow()

    def _over_engagement(self, result: Result) -> Question:
        parts, law = result.setup.parts.over_engagement(), law_of(result.setup)
        if self.colour == "equal" and law is not None and parts.cut.life_min_wanted is None:
            # where no life is typed it is the tables' own
            parts = parts.with_cut(**{**dict.fromkeys(SPEEDS), "life_min_wanted": law.life_ref})
        return Question(parts)

    def choose_gain(self, gain: Gain) -> None:
        """What the list of changes is to gain."""
        self.gain = gain
        self.offers.follow()

    def choose_aim(self, aim: Aim) -> None:
        """What strategies and tools are compared by."""
        self.aim = aim
        self.comparison.follow()
        self.ranking.follow()


class OfEachCut(QObject):
    """Answers about every cut of the job, each for as long as it is needed."""

    def __init__(self, answers: Answers, kind: Kind) -> None:
        super().__init__()
        self._answers, self._session, self._kind = answers, answers.session, kind
        self._of: dict[str, Answer] = {}
        self._session.result_changed.connect(self.follow)

    def needs(self, cut: Cut, result: Result) -> bool:
        """Whether the answer about a cut is needed."""
        raise NotImplementedError

    def take(self, cut: str, answer: Answer) -> None:
        """An answer has come, or has been asked for."""
        raise NotImplementedError

    def follow(self) -> None:
        """Asks for what is needed, and ends what is not any more."""
        session = self._session
        cuts = {cut.id for cut in session.job.cuts}
        for gone in [cut for cut in self._of if cut not in cuts]:
            self._of.pop(gone).end()
        for cut, result in zip(session.job.cuts, session.results, strict=True):
            is_needed = self.needs(cut, result)
            if is_needed and cut.id not in self._of:
                self._of[cut.id] = Answer(self._answers, self._kind, cut.id)
                self._of[cut.id].changed.connect(lambda id=cut.id: self._on_changed(id))
            if cut.id in self._of:
                self._of[cut.id].watch(self, is_needed)

    def _on_changed(self, cut: str) -> None:
        answer = self._of.get(cut)
        if answer is not None and answer.value is not None and answer.former is not None:
            self.take(cut, answer)


class ChatterAnswers(OfEachCut):
    """Where cuts with measured modes chatter: an answer for each whose Result waits for it."""

    def __init__(self, answers: Answers) -> None:
        super().__init__(
            answers, Kind("chatter", "urgent", (_FLOQUET,), _cut, _chatter, "chatter", has_plain_sums=True)
        )

    def needs(self, cut: Cut, result: Result) -> bool:
        """Cuts whose chatter is not known."""
        return result.is_waiting

    def take(self, cut: str, answer: Answer) -> None:
        """The Result takes it in."""
        assert answer.former is not None  # it is there
        parts = answer.former[0].question.parts
        assert parts is not None  # asked for with them
        self._session.take_chatter(parts, answer.value)


@dataclass(frozen=True)
class _ByProgram:
    """What the time of a cut's program depends on besides the cut: the states of its files too."""

    ref: ProgramRef
    folder: Path | None
    others: tuple[tuple[int, Body], ...]
    file: tuple[int, int] | None
    stock: tuple[tuple[int, int] | None, ...]


class TimingAnswers(OfEachCut):
    """How long cuts take: an answer for each that has a program, or whose way has not been made yet."""

    def __init__(self, answers: Answers) -> None:
        super().__init__(
            answers, Kind("timing", "long", (*OF_WAYS, *OF_PATHS), self._ask, _timing, has_plain_sums=True)
        )

    def needs(self, cut: Cut, result: Result) -> bool:
        """Cuts that are not timed as well as they could be; parts know nothing of a program, so the cut is asked for it."""
        basis = None if result.timing is None else result.timing.basis
        if basis == "program" and cut.program is None:
            self._session.store.forget_timing(result.setup.parts)
            return True
        if basis is None and is_timed(result.setup, cut.ae_mm):
            # somebody else has made its way meanwhile
            return volume(result.setup.parts.cut.feature) is not None
        return basis != "program" and (cut.program is not None or not is_timed(result.setup, cut.ae_mm))

    def take(self, cut: str, answer: Answer) -> None:
        """The Result takes it in; a program is asked about at no engagement of its own."""
        result = self._session.result_of(cut)
        if result is not None:
            self._session.take_timing(result.setup.parts, answer.value if answer.value.basis == "program" else None)

    def _ask(self, result: Result) -> Question:
        session = self._session
        place = session.job.place_of(result.setup.parts.cut.id)
        ref = None if place is None else session.job.cuts[place].program
        if place is None or ref is None:
            return Question(result.setup.parts)
        others = tuple(sorted(others_of(session.job, place, session.shelf).items(), key=lambda other: other[0]))
        state = None
        with contextlib.suppress(OSError):
            found = ((session.folder or Path()) / ref.file).stat()
            state = found.st_mtime_ns, found.st_size
        cut = result.setup.parts.cut
        return Question(
            # whatever stepover and depth are typed, the program goes its way
            result.setup.parts.over_engagement().with_cut(id=cut.id, name=cut.name),
            _ByProgram(ref, session.folder, others, state, stamp_of(ref.stock, session.folder)),
        )


def _timing(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.evaluate import timing_of

    setup = _setup(question)
    motion = solve_one(setup, setup.parts.cut.ae_mm, setup.parts.cut.ap_mm)[0]
    about = question.about
    if isinstance(about, _ByProgram):
        from lesna.planning.program.clock import timing_of_program

        with contextlib.suppress(LesnaError):  # one that cannot be read is told where it is shown
            return timing_of_program(setup.parts, about.ref, about.folder, dict(about.others), pulse)
    return timing_of(setup, motion)


def _cut(result: Result) -> Question:
    return Question(result.setup.parts)


def _parts(question: Question) -> CutParts:
    assert question.parts is not None  # asked for with them above
    return question.parts


def _setup(question: Question) -> CutSetup:
    return setup_of(_parts(question))


def _map(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.desktop.map_picture import picture_of

    return picture_of(_setup(question), pulse)


def _rough_map(question: Question) -> Any:
    from lesna.desktop.map_picture import rough_picture_of

    return rough_picture_of(_setup(question))


def _chart(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.chatter.stability import advice_of, over_speed

    setup = _setup(question)
    growth = over_speed(setup, pulse=pulse)
    return growth, advice_of(setup, growth)


def _chatter(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.chatter.judge import chatter_of

    return chatter_of(_setup(question))


def _offers(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.search.more import offers_of

    return offers_of(_parts(question), shelf, question.about, pulse=pulse)  # type: ignore[arg-type]


def _comparison(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.schools.compare import compare

    return compare(_parts(question), shelf, question.about, pulse=pulse)  # type: ignore[arg-type]


def _ranking(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.schools.ranking import rank_tools

    return rank_tools(_parts(question), shelf, question.about, pulse=pulse)  # type: ignore[arg-type]
