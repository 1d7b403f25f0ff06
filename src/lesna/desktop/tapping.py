"""Tap tests and measured responses on their way into the cut they were made for, and into no other."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from lesna.desktop.answers import Answers, Kind, Question
from lesna.document import edits
from lesna.document.measurements import set_up_of
from lesna.model.errors import InputError
from lesna.model.files import table_text
from lesna.planning.cut.result import Result


def _of_set_up(result: Result) -> Question:
    """What modes depend on: the tool in its holder, and the machine."""
    return Question(None, (set_up_of(result.setup.parts.cut), result.setup.parts.machine))


def _counted(modes: int) -> str:
    return "one mode" if modes == 1 else f"{modes} modes"


class Tapping:
    """Measures the chosen cut's set-up; what is found becomes the modes of that cut, if it still is what was measured."""

    def __init__(self, answers: Answers) -> None:
        self._answers, self._session = answers, answers.session

    def tap(self) -> None:
        """The simulated hammer hits this set-up's own tool."""
        setup = self._session.result.setup

        def measure() -> Any:
            from lesna.devices.tap_test import SimulatedHammer
            from lesna.planning.chatter.measuring import tap_test
            from lesna.planning.chatter.standing_in import stand_in_mode

            return tap_test(SimulatedHammer((stand_in_mode(setup),)))

        self._measure("tap test", measure)

    def load(self, path: Path) -> None:
        """A measured response from a file."""

        def measure() -> Any:
            from lesna.planning.chatter.measuring import read_frf

            try:
                return read_frf(table_text(path))
            except InputError as error:
                raise InputError(f"{path.name}: {error}") from None

        self._measure("response", measure)

    def keep(self) -> None:
        """Simulated modes become a limit of this cut, because somebody wants it so."""
        session = self._session
        kept = tuple(mode.model_copy(update={"kept": True}) for mode in session.cut.tap_modes)
        session.attempt(lambda: session.edit_cut("Keep the simulated modes", tap_modes=kept))

    def forget(self) -> None:
        """Back to the estimate."""
        session = self._session
        session.attempt(lambda: session.edit_cut("Back to the estimate", tap_modes=()))

    def _measure(self, what: str, measure: Callable[[], Any]) -> None:
        session, cut, job = self._session, self._session.cut, self._session.job_number
        kind = Kind("tap", "urgent", (), _of_set_up, lambda question, shelf, pulse: measure())
        address = self._answers.address(kind, cut.id)
        assert address is not None  # of the chosen cut

        def lose(measured: Any) -> None:
            is_there = job == session.job_number and session.job.place_of(cut.id) is not None
            why = "its set-up has changed meanwhile" if is_there else "that cut is not open any more"
            session.say("note", f"what was measured on '{cut.name}' is dropped: {why}")

        self._answers.send(
            kind, address, lambda measured: self._take(cut.id, measured), lambda text: session.say("wrong", f"{what}: {text}"),
            lose=lose, target=f"tap {cut.id}",
        )  # fmt: skip

    def _take(self, cut: str, measured: Any) -> None:
        session, place = self._session, self._session.job.place_of(cut)
        assert place is not None  # it belongs there
        bad = [reason for reason in measured.hits if reason]
        left_out = f", {len(bad)} left out ({bad[0]})" if bad else ""
        hits = f"{len(measured.hits) - len(bad)} hits averaged{left_out}; " if measured.hits else ""
        edit = edits.with_cut(session.job, place, tap_modes=measured.as_modes())
        if session.attempt(lambda: session.edit("Measured modes", edit)):
            coherence = "" if measured.coherence is None else f", coherence {float(measured.coherence.mean()):.2f}"
            # only the simulated hammer strikes; a file holds a response alone
            unreal = (
                ". Simulated: it shows how a tap test is read; the estimate stays the limit" if measured.hits else ""
            )
            session.say(
                "note",
                f"{session.job.cuts[place].name}: {hits}{_counted(len(measured.fit.modes))}, "
                f"{measured.fit.residual:.0%} left over{coherence}{unreal}",
            )
