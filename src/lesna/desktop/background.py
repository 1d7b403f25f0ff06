"""The one runner of work that must not hold up the window.

A job gets frozen inputs and touches no widget; each ends in exactly one of done, failed or dropped. A new request
for the same target makes the older one stale, and a stale answer is dropped.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from lesna.model.errors import Cancelled, LesnaError

Work = Callable[[Callable[[], bool]], Any]
Tell = Callable[[int, int], None]
Told = Callable[[Tell], Any]


class Background(QObject):
    """Runs work in two threads and brings the answers to the window's thread."""

    _ended = Signal(str, int, object, object)
    busy_changed = Signal(str, bool)
    progressed = Signal(str, int, int)

    def __init__(self, parent: QObject | None = None, *, held: bool = False) -> None:
        super().__init__(parent)
        self._begun = threading.Event()
        if not held:
            self._begun.set()
        self._pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="lesna")
        self._tickets: dict[str, int] = {}
        self._handlers: dict[tuple[str, int], tuple[Callable[[Any], None], Callable[[str], None]]] = {}
        self._open = True
        self._running = 0
        self._ended.connect(self._on_ended, Qt.ConnectionType.QueuedConnection)

    def begin(self) -> None:
        """Lets work that was held back start: loading it would slow the window's first picture."""
        self._begun.set()

    def run(self, target: str, work: Work, done: Callable[[Any], None], failed: Callable[[str], None]) -> None:
        """Starts `work(cancelled)` for a target; `done` or `failed` is called in the window's thread."""
        ticket = self._tickets.get(target, 0) + 1
        self._tickets[target] = ticket
        self._handlers[(target, ticket)] = (done, failed)
        self.busy_changed.emit(target, True)
        self._pool.submit(self._work, target, ticket, work)

    def run_told(self, target: str, work: Told, done: Callable[[Any], None], failed: Callable[[str], None]) -> None:
        """Starts `work(tell)`: tell(done, total) shows progress, and stops the work once its answer is stale."""
        ticket = self._tickets.get(target, 0) + 1

        def tell(count: int, total: int) -> None:
            if self._tickets.get(target, 0) != ticket or not self._open:
                raise Cancelled
            self.progressed.emit(target, count, total)

        self.run(target, lambda cancelled: work(tell), done, failed)

    def is_busy(self, target: str) -> bool:
        """Whether the newest request for a target is still under way."""
        return (target, self._tickets.get(target, 0)) in self._handlers

    @property
    def is_idle(self) -> bool:
        """Whether nothing is under way."""
        return not any(self._tickets.get(target) == ticket for target, ticket in self._handlers)

    def cancel(self, target: str) -> None:
        """Makes the running request for a target stale."""
        self._tickets[target] = self._tickets.get(target, 0) + 1
        self.busy_changed.emit(target, False)

    def close(self, *, wait: bool = True) -> bool:
        """Makes everything stale and waits for the threads, or says whether any still runs."""
        self._open = False
        self._begun.set()
        for target in tuple(self._tickets):
            self.cancel(target)
        self._pool.shutdown(wait=wait, cancel_futures=True)
        self._handlers.clear()
        return self._running > 0

    def _work(self, target: str, ticket: int, work: Work) -> None:
        self._begun.wait()
        if not self._open:
            return
        answer: Any = None
        trouble: str | None = None
        self._running += 1
        try:
            answer = work(lambda: self._tickets.get(target) != ticket)
        except Cancelled:
            trouble = ""
        except LesnaError as error:
            trouble = str(error)
        except Exception as error:  # the job runner's net: becomes a sentence in the window
            trouble = f"this should not have happened ({type(error).__name__}: {error})"
        finally:
            self._running -= 1
        if self._open:
            self._ended.emit(target, ticket, answer, trouble)

    def _on_ended(self, target: str, ticket: int, answer: Any, trouble: str | None) -> None:
        handlers = self._handlers.pop((target, ticket), None)
        if handlers is None or self._tickets.get(target) != ticket:
            return
        self.busy_changed.emit(target, False)
        done, failed = handlers
        if trouble is None:
            done(answer)
        elif trouble:
            failed(trouble)
