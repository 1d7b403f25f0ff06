"""The kinds of answers about a cut itself: its map, where it chatters, what would buy more, the schools and the tools."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from lesna.desktop.answers import Answers, Kind, Question
from lesna.desktop.each_cut import OfEachCut
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.desktop.shop_bank import ShopBank
from lesna.desktop.timing import Timings
from lesna.model.job import SPEEDS
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import Pulse
from lesna.planning.cut.life import law_of
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.search.aims import Aim
from lesna.planning.search.more import Gain

_TURN, _SWEEP, _FLOQUET = "turn", "sweep", "largest_multiplier"


class CutAnswers(Answers):
    """Every answer about the chosen cut, and the choices that questions hold besides it."""

    def __init__(self, session: Session, runner: Runner, bank: ShopBank | None = None) -> None:
        super().__init__(session, runner)
        self.bank = bank or ShopBank(session, runner)
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
        self.changes = self.of(Kind("changes", "long", every, self._every_cut, _changes))
        self.ranking = self.of(Kind("tools", "long", every, aimed, _ranking))
        # cuts with measured modes wait for it
        self.chatter = OfEachCut(
            self,
            Kind("chatter", "urgent", (_FLOQUET,), _cut, _chatter, "chatter", has_plain_sums=True),
            lambda cut, result: result.is_waiting,
            lambda address, chatter: session.take_chatter(_parts(address.question), chatter),
        )
        self.timing = Timings(self)

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

    def _every_cut(self, result: Result) -> Question:
        session = self.session
        # setting the machine up takes as long whatever way is cut
        batch = session.job.batch.with_values(setup_min=None)
        every = tuple(replace(found.setup.parts, batch=batch) for found in session.results)
        return Question(None, every, session.shelf_state)

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


def _changes(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.quote import changes_of

    return changes_of(question.about, shelf, pulse)  # type: ignore[arg-type]


def _ranking(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.schools.ranking import rank_tools

    return rank_tools(_parts(question), shelf, question.about, pulse=pulse)  # type: ignore[arg-type]
