"""The shop's bank as the window has it: opened behind it, asked and written to behind it, its lessons on every screen."""

from __future__ import annotations

import atexit
import shutil
import tempfile
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from lesna.data.places import bank_address, may_be_there, seat_name, shipped_folder, shop_folder
from lesna.data.stored import Stored
from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.model.errors import FileProblem, LesnaError
from lesna.model.job import Job
from lesna.model.resolve import CutParts
from lesna.model.shown import counted
from lesna.model.standard import Standard
from lesna.model.trials import Reading
from lesna.model.work import Pulse

if TYPE_CHECKING:
    from lesna.bank.known_recipes import KnownRecipes
    from lesna.bank.lessons import Lessons
    from lesna.bank.store import Bank, Source

#: the sample bank, copied for the sample window and never written to
SAMPLE = "kilnbrook-bank.json"


#: seconds after which other seats' changes are looked for, and what that work is called
_OTHERS, _LOOK = 4.0, "bank looked at"


@dataclass(frozen=True)
class Shared:
    """What every seat shares beside trials: the state it was read in, standards, own rows of the library."""

    state: tuple[int, int]
    standards: dict[str, Standard]
    rows: Stored


class ShopBank(QObject):
    """The bank behind the window.

    Parameters
    ----------
    session : Session
        Whose library learns from it.
    runner : Runner
        Where it is opened, read and written.
    address : str
        Database URL or file.
    sample : bool
        Whether a copy of the sample bank is opened in its place.
    """

    #: it was opened, or something in it has changed
    changed = Signal()

    def __init__(self, session: Session, runner: Runner, address: str = "", *, sample: bool = False) -> None:
        super().__init__()
        self.session, self.runner = session, runner
        self.address, self.sample = address or bank_address(), sample
        self.bank: Bank | None = None
        self.lessons: Lessons | None = None
        self.recipes: KnownRecipes | None = None
        #: why it cannot be opened, in words
        self.trouble = ""
        #: whether that is a server that does not answer: it is tried again with the next write
        self.is_away = False
        self._on_opened: list[tuple[Callable[[], None], Callable[[str], None]]] = []
        #: counts its changes, so that answers know of which state they are
        self.revision = 0
        self._written = 0
        #: in which the store was when it was read last
        self._state: tuple[int, int] | None = None
        self._others = QTimer(self)
        self._others.setInterval(round(1000 * _OTHERS))
        self._others.timeout.connect(self.look_for_others)
        session.result_changed.connect(self._teach)

    # ------------------------------------------------------------ opening

    def begin(self) -> None:
        """Opens it behind the window, where there is one."""
        if self.sample or may_be_there(self.address):
            self._open(lambda: None, lambda sentence: None)

    def _open(self, then: Callable[[], None], failed: Callable[[str], None]) -> None:
        self._on_opened.append((then, failed))
        if len(self._on_opened) > 1:
            return  # it is being opened; whoever waits is told when it is
        address, sample = self.address, self.sample

        def work(pulse: Pulse) -> Bank | FileProblem:
            from lesna.bank.opening import Unreachable

            try:
                return _sample_bank() if sample else _opened(address)
            except Unreachable as error:
                return error

        self.runner.run("bank opened", work, self._take, self._refuse, queue="disk")

    def _take(self, bank: Bank | FileProblem) -> None:
        from lesna.bank.known_recipes import KnownRecipes
        from lesna.bank.lessons import Lessons

        self.is_away = isinstance(bank, FileProblem)
        if isinstance(bank, FileProblem):
            self._refuse(str(bank))
            return
        self.bank, self.trouble = bank, ""
        self.lessons = Lessons(bank, self.session.library)
        self.lessons.hurried = threading.get_ident()
        self.recipes = KnownRecipes(bank, self.session.library)
        self.session.library.lessons = self.lessons.of
        if not self.sample:
            self._others.start()
        if bank.read_only:
            self.session.say("note", f"The bank {bank.label} is read only: {bank.read_only}")
        self._changed()
        waiting, self._on_opened = self._on_opened, []
        for then, _ in waiting:
            then()

    def _refuse(self, sentence: str) -> None:
        self.trouble = f"{self.address}: {sentence}"
        self.session.say("wrong", f"The bank cannot be opened. {self.trouble}")
        self.changed.emit()
        waiting, self._on_opened = self._on_opened, []
        for _, failed in waiting:
            failed(self.trouble)

    @property
    def takes_readings(self) -> bool:
        """Whether a reading can be logged now, into the store or into a file that waits for it."""
        return not self.trouble or self.is_away

    @property
    def has_files_to_move(self) -> bool:
        """Whether rows still stand in files of this seat that every seat would see in the bank."""
        from lesna.bank.own_rows import own_files

        return self.bank is not None and not self.sample and not self.bank.read_only and bool(own_files(shop_folder()))

    def move_files(self, say: Callable[[str, str], None]) -> None:
        """Moves the rows of this seat's files into the store; `say` is told what came of it (kind, sentence)."""

        def work(bank: Bank) -> Any:
            from lesna.bank.own_rows import move_in
            from lesna.bank.store import Source

            return move_in(bank, shop_folder(), Source(who=seat_name(), job=self.session.job.title))

        def done(moved: Any) -> None:
            words = f"{counted(moved.rows, 'row')} moved into the bank"
            if moved.told:
                say("wrong", f"{words}; not moved: {'; '.join(moved.told[:3])}")
            else:
                say("note", f"{words}; their files are put aside")

        self.write("move", work, done, lambda sentence: say("wrong", sentence))

    def close(self) -> None:
        """Gives the store back."""
        self._others.stop()
        if self.bank is not None:
            self.bank.close()

    # ------------------------------------------------------------ lessons

    def _changed(self) -> None:
        self.revision += 1
        if self.bank is not None:
            bank = self.bank
            self.runner.run(
                "bank shared", lambda pulse: _shared(bank), self._take_shared, self._left_aside, queue="disk"
            )
        if self.lessons is not None:
            self.lessons.forget()
        self.changed.emit()
        self._teach()

    def _teach(self) -> None:
        """Has the lessons of cuts learned that nobody has asked for yet; their Results take them in."""
        lessons = self.lessons
        if lessons is None or self.session.is_dragging:
            return
        open_ = [result.setup.parts for result in self.session.results if not lessons.is_learned(result.setup.parts)]
        if not open_:
            return

        def work(pulse: Pulse) -> None:
            for parts in open_:
                pulse.check()
                lessons.learn(parts)

        self.runner.run("lessons", work, lambda _: self.session.look_again(), self._left_aside, queue="long")

    def _take_shared(self, shared: Shared) -> None:
        self._state = shared.state
        library = self.session.library
        if shared.standards != library.standards:
            library.standards = shared.standards
            self.session.look_again()
        self.take_rows(shared.rows)

    def take_rows(self, rows: Stored) -> None:
        """The shop's own rows as its store has them now."""
        if self.session.library.take_stored(rows):
            self.session.library_changed.emit()

    def look_for_others(self) -> None:
        """Whether another seat has changed something in between: then all of it is read anew."""
        bank = self.bank
        if bank is None or self.runner.is_busy(_LOOK):
            return

        def seen(state: tuple[int, int]) -> None:
            if self._state is not None and state != self._state:
                self._state = state
                self._changed()

        # a server that does not answer just now is asked again
        self.runner.run(_LOOK, lambda pulse: bank.state(), seen, lambda sentence: None, queue="disk")

    def _left_aside(self, sentence: str) -> None:
        self.session.say("wrong", f"What trials taught is left aside: {sentence}")

    # ------------------------------------------------------------ writing

    def write(
        self, what: str, work: Callable[[Bank], Any], done: Callable[[Any], None], failed: Callable[[str], None]
    ) -> None:
        """Does something with the store behind the window; one that is not there yet is made first.

        Parameters
        ----------
        what : str
            Name of the work; a newer one of the same name takes its place only once it is done.
        work : callable
            Takes the store; what it raises of ours is told to `failed`.
        done, failed : callable
            Take what comes of it, or the sentence.
        """
        if self.bank is None:
            if self.takes_readings:
                self._open(lambda: self.write(what, work, done, failed), failed)
            else:
                failed(self.trouble)
            return
        bank = self.bank

        def arrived(found: Any) -> None:
            self._changed()
            done(found)

        self._written += 1
        self.runner.run(f"bank {what} {self._written}", lambda pulse: work(bank), arrived, failed, queue="disk")

    def log(
        self, readings: Sequence[Reading], source: Source, failed: Callable[[str], None], done: Callable[[], None]
    ) -> None:
        """Adds readings; what a server does not take waits in a file and is sent with the next ones."""

        def work(bank: Bank) -> str:
            from lesna.bank.opening import Unreachable
            from lesna.bank.waiting import folder_beside, send_waiting

            try:
                sent = 0 if self.sample else send_waiting(bank, folder_beside(shop_folder()), source)
                logged = bank.log(readings, source)
            except Unreachable as error:
                return _put_by(readings, str(error))
            if logged.refused:
                raise LesnaError(logged.refused[0][1])
            return f"{counted(sent, 'reading')} that waited were sent" if sent else ""

        def told(sentence: str) -> None:
            if sentence:
                self.session.say("note", sentence)
            done()

        def unwritten(sentence: str) -> None:
            if self.is_away:
                self.runner.run(
                    "readings put by", lambda pulse: _put_by(readings, sentence), told, failed, queue="disk"
                )
            else:
                failed(sentence)

        self.write("log", work, told, unwritten)

    def plans(self, job: Job) -> dict[str, Any]:
        """Ladders that are kept for the cuts of a job (asked behind the window); none without a bank."""
        if self.bank is None:
            return {}
        from lesna.bank.plans import plans_of

        return plans_of(self.bank, job)

    def fit(self, parts: CutParts) -> Any:
        """What trials say of a cut; without a bank, of none."""
        if self.lessons is not None:
            return self.lessons.fit(parts)
        from lesna.learning.fit import fit_of
        from lesna.learning.settings import Settings

        return fit_of(parts, (), Settings(self.session.library))


def _shared(bank: Bank) -> Shared:
    from lesna.bank.lessons import standards_of
    from lesna.bank.own_rows import stored_rows

    state = bank.state()  # first: what comes in between is read once more
    return Shared(state, standards_of(bank), stored_rows(bank))


def _put_by(readings: Sequence[Reading], why: str) -> str:
    """Keeps readings in a file until the server answers; gives what is said of it."""
    from lesna.bank.waiting import folder_beside, keep_waiting

    path = keep_waiting(readings, folder_beside(shop_folder()))
    return f"{why}; the reading waits in {path} and is sent when it answers"


def _opened(address: str) -> Bank:
    from lesna.bank.store import Bank

    return Bank(address)


def _sample_bank() -> Bank:
    """A copy of the sample bank for this window alone; it goes with it."""
    from lesna.bank.exchange import found_in, take_in
    from lesna.bank.store import Bank, Source

    folder = Path(tempfile.mkdtemp(prefix="lesna-sample-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    bank = Bank(folder / "bank.db")
    take_in(bank, found_in(shipped_folder() / "demo" / SAMPLE), Source(who="Kilnbrook Lock Works"))
    return bank
