"""What is computed of a cut's program behind the window: its simulation, and its levelled forms."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import Any

from lesna.desktop.answers import Answer, Answers, Kind, Question
from lesna.desktop.kept import MOST_BYTES as MOST_BYTES_KEPT
from lesna.desktop.kept import Kept
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import read_bytes
from lesna.model.job import ProgramRef
from lesna.model.resolve import Shelf
from lesna.model.work import Pulse
from lesna.nc.words import MOST_BYTES
from lesna.physics import engine
from lesna.physics.compiled import OF_BRICKS, OF_PATHS
from lesna.planning.cut.result import Result
from lesna.planning.program.extremes import Extreme, extremes_of
from lesna.planning.program.geometry import SeveralTools
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.level import AIMS, Levelled, Leveller, Targets
from lesna.planning.program.of_cut import run_of_cut, timed
from lesna.planning.program.preceding import Preceding, preceding_of
from lesna.planning.program.run import Run
from lesna.planning.program.stock import stamp_of
from lesna.planning.program.summary import Summary, summary_of
from lesna.planning.program.work import others_of
from lesna.stock.body import Body


@dataclass(frozen=True)
class OnDisk:
    """A program's file as it is now, or why it cannot be read."""

    path: Path
    digest: str
    content: bytes = field(compare=False, repr=False, default=b"")
    trouble: str = ""


@dataclass(frozen=True)
class Asked:
    """All that a simulation depends on besides the cut."""

    disk: OnDisk
    ref: ProgramRef
    others: tuple[tuple[int, Body], ...]
    folder: Path | None
    stock: tuple[tuple[int, int] | None, ...] = ()
    before: Preceding | None = None


@dataclass(frozen=True)
class Simulated:
    """A program's simulation and its numbers."""

    run: Run
    summary: Summary

    @cached_property
    def extremes(self) -> list[Extreme]:
        """Places of it to look at, sought once."""
        return extremes_of(self.run)

    def looked_through(self) -> Simulated:
        """Itself, with everything found that the window shows of it: behind the window, which does not wait for that."""
        assert self.extremes is not None
        if isinstance(self.run.geometry, Leaning):
            assert self.run.push is not None
        return self


@dataclass(frozen=True)
class Undecided:
    """A program whose tools are known, but not which one the cut stands for."""

    tools: tuple[int, ...]


#: the form that keeps to somebody's own targets
OWN = "own"


@dataclass(frozen=True)
class Variant:
    """One levelled form, or why there is none."""

    aim: str
    made: Levelled | None
    summary: Summary | None
    trouble: str = ""


class Programs:
    """The answers about programs, and the files they are about."""

    def __init__(self, answers: Answers) -> None:
        self._session = answers.session
        #: texts of programs by their file and its state, no more than a share of what answers may hold
        self._texts = Kept(MOST_BYTES_KEPT // 4)
        self._session.opened.connect(self._texts.clear)
        self.simulation = answers.of(Kind("program", "long", OF_PATHS, self._ask, _simulated))
        self.variants = answers.of(Kind("levelled", "long", OF_PATHS, self._ask_variants, _variants))
        self.own = answers.of(Kind("own targets", "long", OF_PATHS, self._ask_own, _own))
        self._targets: Targets | None = None
        self.simulation.changed.connect(self._tell_time)
        self.simulation.changed.connect(self.variants.follow)
        self.simulation.changed.connect(self.own.follow)

    @property
    def ref(self) -> ProgramRef | None:
        """What the chosen cut says of its program."""
        return self._session.cut.program

    def path_of(self, ref: ProgramRef) -> Path:
        """Where the file lies; relative names count from the job's folder, and lead nowhere where it has none."""
        return (self._session.folder or Path()) / ref.file

    def _tell_time(self) -> None:
        """The time of the program is that of its cut."""
        found, former = self.simulation.value, self.simulation.former
        if not isinstance(found, Simulated) or former is None:
            return
        asked, timing = former[0].question, timed(found.run.geometry, found.run.times)
        if asked.parts is not None and isinstance(asked.about, Asked) and self._session.result.timing != timing:
            self._session.take_program(asked.parts, asked.about.ref, timing)

    def level_to(self, targets: Targets) -> None:
        """Asks for the form that keeps to somebody's own targets."""
        self._targets = targets
        self.own.follow()

    @property
    def all(self) -> tuple[Answer, ...]:
        """Every answer that a look at a program needs."""
        return self.simulation, self.variants, self.own

    def disk(self, ref: ProgramRef) -> OnDisk:
        """The file of a reference as it is now."""
        if self._session.folder is None and not Path(ref.file).is_absolute():
            trouble = f"{ref.file}: the job has no folder yet in which to look for it; choose the program again"
            return OnDisk(Path(ref.file), "", trouble=trouble)
        return self.disk_at(self.path_of(ref))

    def disk_at(self, path: Path) -> OnDisk:
        """A file as it is now; read again only where it changed."""
        try:
            stat = path.stat()
            stamp = stat.st_mtime_ns, stat.st_size
            found: OnDisk | None = self._texts.get((path, stamp))
            if found is None:
                content = read_bytes(path, largest=MOST_BYTES)
                found = OnDisk(path, hashlib.sha256(content).hexdigest(), content)
                self._texts.put((path, stamp), found, len(content))
            return found
        except (OSError, LesnaError) as error:
            reason = str(error) if isinstance(error, LesnaError) else (error.strerror or str(error)).lower()
            return OnDisk(path, "", trouble=f"{path.name}: {reason}; choose the program again")

    def _asked(self) -> Asked | None:
        ref = self.ref
        if ref is None:
            return None
        session = self._session
        others = others_of(session.job, session.index, session.shelf)
        return Asked(self.disk(ref), ref, tuple(sorted(others.items(), key=lambda other: other[0])), session.folder,
                     stamp_of(ref.stock, session.folder),
                     preceding_of(session.job, session.shelf, session.folder, ref.stock, (session.cut.name,)))  # fmt: skip

    def _ask(self, result: Result) -> Question:
        return Question(result.setup.parts, self._asked())

    def _ask_variants(self, result: Result) -> Question:
        return self._levels(result, tuple(Targets(aim=aim) for aim in AIMS))

    def _ask_own(self, result: Result) -> Question:
        return self._levels(result, () if self._targets is None else (self._targets,))

    def _levels(self, result: Result, targets: tuple[Targets, ...]) -> Question:
        found = self.simulation.value
        return Question(
            result.setup.parts, _Levels(self._asked(), targets, found if isinstance(found, Simulated) else None)
        )


@dataclass(frozen=True)
class _Levels:
    asked: Asked | None
    targets: tuple[Targets, ...]
    found: Simulated | None = field(compare=False)
    has_run: bool = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "has_run", self.found is not None)


#: stands for the answer where a cut has no program
NOTHING = "nothing"


def _simulated(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    asked = question.about
    if not isinstance(asked, Asked):
        return NOTHING
    if asked.disk.trouble:
        raise InputError(asked.disk.trouble)
    parts = question.parts
    assert parts is not None  # asked with them above
    try:
        run = run_of_cut(
            parts, asked.ref, asked.folder, dict(asked.others), pulse, asked.disk.content, before=asked.before
        )
    except SeveralTools as error:
        return Undecided(error.tools)
    if isinstance(run.geometry, Leaning):
        engine.ready(names=OF_BRICKS)  # it is drawn with these
    return Simulated(run, summary_of(run)).looked_through()


def _variants(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    levels = question.about
    if not isinstance(levels, _Levels) or levels.found is None:
        return ()
    leveller, found = Leveller(levels.found.run, pulse), []
    for targets in levels.targets:
        try:
            made = leveller.level(targets)
            found.append(Variant(targets.aim, made, summary_of(made.run)))
        except InputError as error:
            found.append(Variant(targets.aim, None, None, str(error)))
    return tuple(found)


def _own(question: Question, shelf: Shelf, pulse: Pulse) -> Any:
    return tuple(replace(variant, aim=OWN) for variant in _variants(question, shelf, pulse))
