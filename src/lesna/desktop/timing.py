"""How long the cuts of a job take, found out behind the window: by their programs, or by the ways that would be made for them."""

from __future__ import annotations

import contextlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lesna.desktop.answers import Address, Answers, Kind, Question
from lesna.desktop.each_cut import OfEachCut
from lesna.model.errors import LesnaError
from lesna.model.job import Cut, ProgramRef
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.physics.compiled import OF_PATHS, OF_WAYS
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.features import volume
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.cut.solve import solve_one
from lesna.planning.program.preceding import Preceding, preceding_of
from lesna.planning.program.stock import stamp_of
from lesna.planning.program.work import others_of
from lesna.planning.routes.estimate import is_timed
from lesna.stock.body import Body


@dataclass(frozen=True)
class _ByProgram:
    """What the time of a cut's program depends on besides the cut: the states of its files too."""

    ref: ProgramRef
    folder: Path | None
    others: tuple[tuple[int, Body], ...]
    file: tuple[int, int] | None
    stock: tuple[tuple[int, int] | None, ...]
    before: Preceding | None = None


#: stands for the time by a program that cannot be read, which is told where the program is shown
_UNREADABLE = "unreadable"


class Timings:
    """Asks for what is not known and gives the session what comes."""

    def __init__(self, answers: Answers) -> None:
        self._session = answers.session
        by_program = Kind("timing by program", "long", OF_PATHS, self._ask, _by_program, has_plain_sums=True)
        by_way = Kind("timing", "long", OF_WAYS, _cut, _estimated, has_plain_sums=True)
        # asked for as long as there is a program: its file may change
        self._programs = OfEachCut(answers, by_program, lambda cut, result: cut.program is not None, self._take_program)
        self._ways = OfEachCut(answers, by_way, self._is_open, self._take_estimate)

    def _ask(self, result: Result) -> Question:
        session, parts = self._session, result.setup.parts
        place = session.job.place_of(parts.cut.id)
        ref = None if place is None else session.job.cuts[place].program
        if place is None or ref is None:
            return Question(parts)
        others = tuple(sorted(others_of(session.job, place, session.shelf).items(), key=lambda other: other[0]))
        state = None
        with contextlib.suppress(OSError):
            found = ((session.folder or Path()) / ref.file).stat()
            state = found.st_mtime_ns, found.st_size
        return Question(
            parts.on_its_way(),
            _ByProgram(
                ref,
                session.folder,
                others,
                state,
                stamp_of(ref.stock, session.folder),
                preceding_of(session.job, session.shelf, session.folder, ref.stock, (parts.cut.name,)),
            ),  # fmt: skip
        )

    def _is_open(self, cut: Cut, result: Result) -> bool:
        """Whether a cut is timed by a way that has not been made yet."""
        if cut.program is not None and self._programs.value(cut.id) != _UNREADABLE:
            return False
        if result.timing is None:
            return volume(cut.feature) is not None
        return result.timing.basis == "estimate" and not is_timed(result.setup, cut.ae_mm)

    def _take_program(self, address: Address, value: Any) -> None:
        parts, asked = address.question.parts, address.question.about
        if parts is not None and isinstance(asked, _ByProgram):
            self._session.take_program(parts, asked.ref, value if isinstance(value, Timing) else None)

    def _take_estimate(self, address: Address, value: Any) -> None:
        if address.question.parts is not None:
            self._session.take_timing(address.question.parts)


def _cut(result: Result) -> Question:
    return Question(result.setup.parts)


def _by_program(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.program.kept_time import program_time

    asked = question.about
    if question.parts is None or not isinstance(asked, _ByProgram):
        return _UNREADABLE
    try:
        return program_time(question.parts, asked.ref, asked.folder, dict(asked.others), pulse, before=asked.before)
    except LesnaError:
        return _UNREADABLE


def _estimated(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    from lesna.planning.evaluate import timing_of

    assert question.parts is not None  # asked for with them above
    setup = setup_of(question.parts)
    return timing_of(setup, solve_one(setup, setup.parts.cut.ae_mm, setup.parts.cut.ap_mm)[0])
