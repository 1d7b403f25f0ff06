"""Tap tests and measured responses on their way into the cut they were made for, and into no other."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from lesna.desktop.answers import Address, Question
from lesna.desktop.runner import JobPulse, Runner
from lesna.desktop.session import Session
from lesna.document import edits
from lesna.document.measurements import is_same_set_up
from lesna.model.errors import InputError
from lesna.model.files import table_text


class Tapping:
    """Measures the chosen cut's set-up; what is found becomes the modes of that cut, if it still is what was measured."""

    def __init__(self, session: Session, runner: Runner) -> None:
        self._session, self._runner = session, runner

    def tap(self) -> None:
        """The simulated hammer hits this set-up's own tool."""
        structure = self._session.result.setup.structure

        def measure() -> Any:
            from lesna.devices.tap_test import SimulatedHammer
            from lesna.physics.structure.beam import bending_modes
            from lesna.planning.chatter.measuring import tap_test

            return tap_test(SimulatedHammer(bending_modes(structure.beam, structure.damping)))

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

    def forget(self) -> None:
        """Back to the modes of the computed beam."""
        session = self._session
        session.attempt(lambda: session.edit_cut("Back to estimated modes", tap_modes=()))

    def _measure(self, what: str, measure: Any) -> None:
        session = self._session
        address = Address.of(session, session.cut.id, Question(session.result.setup.parts))

        def work(pulse: JobPulse) -> Any:
            return measure()

        self._runner.run(
            f"tap {address.cut}", work, lambda measured: self._take(address, measured),
            lambda text: session.say("wrong", f"{what}: {text}"),
        )  # fmt: skip

    def _take(self, address: Address, measured: Any) -> None:
        session, before = self._session, address.question.parts.cut
        place = session.job.place_of(address.cut)
        if address.job != session.job_number or place is None:
            session.say("note", f"what was measured on '{before.name}' is dropped: that cut is not open any more")
            return
        cut = session.job.cuts[place]
        if not is_same_set_up(before, cut):
            session.say("note", f"what was measured on '{cut.name}' is dropped: its set-up has changed meanwhile")
            return
        bad = [reason for reason in measured.hits if reason]
        left_out = f", {len(bad)} left out ({bad[0]})" if bad else ""
        hits = f"{len(measured.hits) - len(bad)} hits averaged{left_out}; " if measured.hits else ""
        edit = edits.with_cut(session.job, place, tap_modes=measured.as_modes())
        if session.attempt(lambda: session.edit("Measured modes", edit)):
            coherence = "" if measured.coherence is None else f", coherence {float(measured.coherence.mean()):.2f}"
            # only the simulated hammer strikes; a file holds a response alone
            unreal = ". Simulated: it shows how a tap test is read, not what this machine does" if measured.hits else ""
            session.say(
                "note",
                f"{cut.name}: {hits}{len(measured.fit.modes)} modes, {measured.fit.residual:.0%} left over{coherence}{unreal}",
            )
