"""What the step Trial asks for: the fit of the chosen cut, a ladder from it, and the coach's advice, in one answer."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.answers import Kind, Question
from lesna.desktop.cut_answers import CutAnswers
from lesna.learning.next_step import Quantity
from lesna.model.errors import InputError
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of

if TYPE_CHECKING:
    from lesna.learning.coach import Advice
    from lesna.learning.fit import Fit
    from lesna.learning.ladder import Ladder


@dataclass(frozen=True)
class Wanted:
    """How a ladder is to be; None where what is known decides."""

    what: Quantity = "feed"
    steps: int = 5
    size: float | None = None
    minutes: float | None = None
    on_scrap: bool = True


@dataclass(frozen=True)
class Taught:
    """What is known of a cut by its trials; why there is no ladder or no advice stands in words."""

    fit: Fit
    ladder: Ladder | None
    no_ladder: str
    advice: Advice | None
    no_advice: str


@dataclass(frozen=True)
class _Asked:
    revision: int
    wanted: Wanted
    timing: Timing | None


class TrialAnswers(QObject):
    """The one answer of the step, and the choices that its question holds."""

    wanted_changed = Signal()

    def __init__(self, answers: CutAnswers) -> None:
        super().__init__()
        self.bank, self.wanted = answers.bank, Wanted()
        self.taught = answers.of(Kind("trial", "urgent", ("turn",), self._ask, self._computed, has_plain_sums=True))
        answers.bank.changed.connect(self.taught.follow)

    def want(self, **values: Any) -> None:
        """Another ladder."""
        wanted = replace(self.wanted, **values)
        if wanted != self.wanted:
            self.wanted = wanted
            self.wanted_changed.emit()
            self.taught.follow()

    def _ask(self, result: Result) -> Question:
        return Question(result.setup.parts, _Asked(self.bank.revision, self.wanted, result.timing))

    def _computed(self, question: Question, shelf: Shelf, pulse: Pulse) -> Taught:
        from lesna.learning.coach import coach
        from lesna.learning.ladder import plan_ladder
        from lesna.learning.rules import shipped_rules
        from lesna.planning.evaluate import result_of

        asked = question.about
        assert question.parts is not None and isinstance(asked, _Asked)  # asked for with them above
        result = result_of(setup_of(question.parts), timing=asked.timing, wait=False)
        fit = self.bank.fit(question.parts)
        pulse.check()
        ladder, no_ladder = None, ""
        wanted = asked.wanted
        try:
            ladder = plan_ladder(
                result,
                fit,
                wanted.what,
                steps=wanted.steps,
                size=wanted.size,
                minutes=wanted.minutes,
                on_scrap=wanted.on_scrap,
            )
        except InputError as error:
            no_ladder = str(error)
        pulse.check()
        advice, no_advice = None, ""
        try:
            advice = coach(result, fit, shipped_rules(), on_scrap=wanted.on_scrap)
        except InputError as error:
            no_advice = str(error)
        return Taught(fit, ladder, no_ladder, advice, no_advice)
