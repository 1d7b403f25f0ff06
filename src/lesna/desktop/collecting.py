"""Garbage is looked for in quiet moments: Python's full collection takes a tenth of a second, whenever it happens to come."""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

from lesna.desktop.runner import Runner
from lesna.desktop.session import Session

#: seconds between two looks; collections of the middle generation after which it is worth one, and after which it is done anyhow
_LOOK, _WORTH, _ANYHOW = 5.0, 4, 150
#: collections of the middle generation before Python does it by itself
_NEVER = 1_000_000


class Collector(QObject):
    """Does the full collections of a window.

    Parameters
    ----------
    session, runner : Session, Runner
        Nothing is dragged and nothing is under way in a quiet moment.
    """

    def __init__(self, session: Session, runner: Runner) -> None:
        super().__init__()
        self._session, self._runner = session, runner
        self._former = gc.get_threshold()
        gc.set_threshold(*self._former[:2], _NEVER)
        self._timer = QTimer(self)
        self._timer.setInterval(round(1000 * _LOOK))
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def look(self) -> bool:
        """Collects where it is worth it and nobody waits; says whether it did."""
        due = gc.get_count()[2]
        is_quiet = self._runner.is_idle and not self._session.is_dragging
        if not ((due >= _WORTH and is_quiet) or due >= _ANYHOW):
            return False
        gc.collect()
        return True

    def close(self) -> None:
        """Python does it by itself again."""
        self._timer.stop()
        gc.set_threshold(*self._former)
