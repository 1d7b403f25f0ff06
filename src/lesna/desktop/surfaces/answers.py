"""What is asked about a surface behind the window: its decisions, its path with proof, and what somebody's program leaves."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.answers import Answer, Answers, Kind, Question
from lesna.model.errors import LesnaError
from lesna.model.files import read_bytes
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import Pulse
from lesna.nc.words import MOST_BYTES
from lesna.physics.compiled import OF_PICTURES, OF_SURFACES
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.surface.decide import Decision, Wanted, decide
from lesna.planning.surface.finish import Finished, finished
from lesna.planning.surface.make import Judged, Made, judged
from lesna.planning.surface.part import kept_part, stamp_of
from lesna.planning.ways.program import Printing


@dataclass(frozen=True)
class _Asked:
    """What a surface's answer depends on beside the cut."""

    folder: Path | None
    #: of the part on the disk; empty where none is named
    stamp: tuple[Any, ...]
    wanted: Wanted
    title: str = ""
    #: a program that is to be proved, and when it was written
    program: tuple[Path, int] | None = None


@dataclass(frozen=True)
class Checked:
    """Somebody's program over the part."""

    name: str
    decision: Decision
    judged: Judged


class Surfaces(QObject):
    """What is wished for each surface of the open job, and the answers about the chosen one."""

    #: a wish changed
    changed = Signal()

    def __init__(self, answers: Answers) -> None:
        super().__init__()
        self._session = answers.session
        self._wanted: dict[str, Wanted] = {}
        self._makes: set[str] = set()
        self._programs: dict[str, Path] = {}
        #: the ways of one surface that were made, by their names, and of what
        self.made: dict[str, Made] = {}
        self._made_of: tuple[Any, ...] = ()
        kernels = (*OF_SURFACES, *OF_PICTURES)
        self.decision = answers.of(Kind("surface", "long", kernels, self._ask, _decided))
        self.finished = answers.of(Kind("surface path", "long", kernels, self._ask_path, _finished))
        self.checked = answers.of(Kind("surface proof", "long", kernels, self._ask_check, _checked))
        self._session.opened.connect(self._forget)
        self.finished.changed.connect(self._keep)
        self.finished.changed.connect(self._tell_time)

    @property
    def all(self) -> tuple[Answer, ...]:
        """The answers about the chosen surface."""
        return self.decision, self.finished, self.checked

    def _forget(self) -> None:
        self._wanted.clear()
        self._makes.clear()
        self._programs.clear()

    @property
    def wanted(self) -> Wanted:
        """What is wished for the chosen surface."""
        return self._wanted.get(self._session.cut.id, Wanted())

    @property
    def makes(self) -> bool:
        """Whether the path of the chosen surface is wanted."""
        return self._session.cut.id in self._makes

    def want(self, **values: Any) -> None:
        """Changes what is wished; what was made is made anew."""
        self._wanted[self._session.cut.id] = replace(self.wanted, **values)
        self._follow()

    def make(self) -> None:
        """Has the path made."""
        self._makes.add(self._session.cut.id)
        self._follow()

    def check(self, path: Path | None) -> None:
        """Has a program proved, or forgets it."""
        if path is None:
            self._programs.pop(self._session.cut.id, None)
        else:
            self._programs[self._session.cut.id] = path
        self._follow()

    def _follow(self) -> None:
        for answer in self.all:
            answer.follow()
        self.changed.emit()

    def _asked(self) -> _Asked:
        session = self._session
        feature = session.result.setup.parts.cut.feature
        stamp: tuple[Any, ...] = ()
        if feature is not None and feature.stl is not None:
            try:
                stamp = stamp_of(feature, session.folder)
            except LesnaError as error:
                stamp = (str(error),)
        return _Asked(session.folder, stamp, self.wanted)

    def _ask(self, result: Result) -> Question:
        return Question(result.setup.parts, self._asked())

    def _ask_path(self, result: Result) -> Question:
        asked = self._asked() if self.makes else None
        return Question(
            result.setup.parts,
            None if asked is None else replace(asked, title=self._session.job.title),
            self._session.shelf_state,
        )

    def _ask_check(self, result: Result) -> Question:
        path = self._programs.get(self._session.cut.id)
        if path is None:
            return Question(result.setup.parts, None)
        try:
            written = path.stat().st_mtime_ns
        except OSError:
            written = -1
        return Question(result.setup.parts, replace(self._asked(), program=(path, written)))

    def _keep(self) -> None:
        """Ways of the same cut, part and cusp stay beside each other."""
        former, found = self.finished.former, self.finished.value
        if not isinstance(found, Finished) or former is None:
            return
        question = former[0].question
        asked = question.about
        assert isinstance(asked, _Asked)  # asked so below
        made_of = (question.parts, asked.stamp, asked.wanted.cusp)
        if made_of != self._made_of:
            self.made.clear()
            self._made_of = made_of
        self.made[found.made.decision.chosen.id] = found.made

    def _tell_time(self) -> None:
        """The path that is made tells the time of a cut that has no program."""
        former, found = self.finished.former, self.finished.value
        if not isinstance(found, Finished) or former is None or self._session.cut.program is not None:
            return
        timed = found.made.timed
        timing = Timing("path", timed.cut_seconds / 60.0, (timed.seconds - timed.cut_seconds) / 60.0, timed.held)
        parts = former[0].question.parts
        if parts == self._session.result.setup.parts and self._session.result.timing != timing:
            self._session.take_timing(parts, timing)


def _parts(question: Question) -> CutParts:
    assert question.parts is not None  # asked with them above
    return question.parts


def _decide(question: Question, pulse: Pulse) -> Decision:
    parts, asked = _parts(question), question.about
    assert isinstance(asked, _Asked) and parts.cut.feature is not None  # asked so above
    part = kept_part(parts.cut.feature, asked.folder, parts.machine, pulse)
    return decide(parts, part, asked.wanted, pulse)


def _decided(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    asked = question.about
    assert isinstance(asked, _Asked)  # asked so above
    return _decide(question, pulse) if asked.stamp else ()


def _finished(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    asked = question.about
    if asked is None:
        return ()
    assert isinstance(asked, _Asked)  # asked so above
    decision = _decide(question, pulse)
    result = result_of(setup_of(_parts(question)), wait=False)
    return finished(decision, result, Printing(), asked.title, shelf.holders, pulse)


def _checked(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    asked = question.about
    if asked is None:
        return ()
    assert isinstance(asked, _Asked) and asked.program is not None  # asked so above
    path, _ = asked.program
    try:
        content = read_bytes(path, largest=MOST_BYTES)
        decision = _decide(question, pulse)
        result = result_of(setup_of(_parts(question)), wait=False)
        return Checked(path.name, decision, judged(content, decision, result, pulse))
    except LesnaError as error:
        raise LesnaError(f"{path.name}: {error}") from None
