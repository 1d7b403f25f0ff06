"""Answers about every cut of a job, where the others ask about the chosen one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject

from lesna.desktop.answers import Address, Answer, Answers, Kind
from lesna.model.job import Cut
from lesna.planning.cut.result import Result


class OfEachCut(QObject):
    """An answer for each cut that needs it, for as long as it does; while something is dragged nothing is asked.

    Parameters
    ----------
    answers : Answers
        What sends the work.
    kind : Kind
        Of the answers.
    needs : callable
        Whether a cut needs the answer, as its Result stands.
    take : callable
        Called with an answer that has come, and where it belongs.
    """

    def __init__(
        self, answers: Answers, kind: Kind, needs: Callable[[Cut, Result], bool], take: Callable[[Address, Any], None]
    ) -> None:
        super().__init__()
        self._answers, self._kind, self._needs, self._take = answers, kind, needs, take
        self._of: dict[str, Answer] = {}
        answers.session.result_changed.connect(self.follow)

    def value(self, cut: str) -> Any:
        """The answer about a cut, None where there is none."""
        return self._of[cut].value if cut in self._of else None

    def follow(self) -> None:
        """Asks for what is needed, and ends what is not any more."""
        session = self._answers.session
        if session.is_dragging:
            return
        cuts = {cut.id for cut in session.job.cuts}
        for gone in [cut for cut in self._of if cut not in cuts]:
            self._of.pop(gone).end()
        for cut, result in zip(session.job.cuts, session.results, strict=True):
            is_needed = self._needs(cut, result)
            if is_needed and cut.id not in self._of:
                self._of[cut.id] = Answer(self._answers, self._kind, cut.id)
                self._of[cut.id].changed.connect(lambda id=cut.id: self._on_changed(id))
            if cut.id in self._of:
                self._of[cut.id].watch(self, is_needed)

    def _on_changed(self, cut: str) -> None:
        answer = self._of.get(cut)
        if answer is not None and answer.value is not None and answer.former is not None:
            self._take(*answer.former)
