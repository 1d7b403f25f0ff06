"""An answer that is computed only while somebody looks at it, again whenever what it depends on has changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from lesna.desktop.background import Background, Told
from lesna.physics import engine


class OnDemand(QObject):
    """One such answer.

    Parameters
    ----------
    background : Background
        Who computes it.
    target : str
        Its name there.
    key : callable
        Everything it depends on, as it is now; None while nothing is to be asked.
    work : callable
        Gives the work for what is shown now.
    failed : callable
        Takes a sentence.
    """

    changed = Signal()

    def __init__(
        self, background: Background, target: str, key: Callable[[], object], work: Callable[[], Told],
        failed: Callable[[str], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.background, self.target = background, target
        self.answer: Any = None
        #: why there is no answer, where asking for one failed
        self.trouble = ""
        self._key, self._work, self._failed = key, work, failed
        self._known: object = None
        self._watched = False

    def watch(self, watched: bool) -> None:
        """Whether it is on the screen."""
        self._watched = watched
        if watched:
            self.want()

    def want(self) -> None:
        """Asks for the answer if somebody looks at it and what it depends on has changed."""
        key = self._key() if self._watched else None
        if key is None or key == self._known:
            return
        self._known, self.answer, self.trouble = key, None, ""
        work = self._work()

        def begin(tell: Callable[[int, int], None]) -> Any:
            engine.ready()
            return work(tell)

        self.background.run_told(self.target, begin, self._take, self._refuse)
        self.changed.emit()

    def forget(self) -> None:
        """Another job is shown."""
        self._known, self.answer, self.trouble = None, None, ""

    def stop(self) -> None:
        """Gives up the computation under way; asking again starts it anew."""
        if self.background.is_busy(self.target):
            self.background.cancel(self.target)
            self.trouble = "stopped"
            self.changed.emit()

    def again(self) -> None:
        """Asks once more, after a stop or a refusal."""
        self._known = None
        self.want()

    def _take(self, answer: Any) -> None:
        self.answer = answer
        self.changed.emit()

    def _refuse(self, sentence: str) -> None:
        self.trouble = sentence
        self._failed(sentence)
        self.changed.emit()
