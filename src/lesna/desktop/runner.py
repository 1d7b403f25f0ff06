"""The one runner of work that must not hold up the window.

Work gets frozen inputs and touches no widget; each ends in exactly one of done, failed or dropped. It runs in one of
four queues with threads of their own: what somebody looks at does not wait for what takes long, a first rough answer to it
waits for neither, as what takes long rests meanwhile, and writing to disk waits for nobody. A newer request for the same
target makes the older one stale; stale work is not begun, and stops at its next pulse.
"""

from __future__ import annotations

import os
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any, Literal

from PySide6.QtCore import QObject, Qt, Signal

from lesna.desktop.troubles import TROUBLES
from lesna.model.errors import Cancelled, LesnaError
from lesna.model.work import Pulse

Queue = Literal["urgent", "first", "long", "disk"]
#: threads of each: one thing that takes minutes does not hold up another
_THREADS: dict[Queue, int] = {"urgent": 1, "first": 1, "long": 2, "disk": 1}
Work = Callable[[Pulse], Any]

#: niceness of long work, and seconds between two looks of work that rests
NICE, _LOOK = 5, 0.05
#: nobody reads how far a job is more often than this [s]
READ = 0.1


@dataclass(frozen=True)
class _Job:
    """One request, with whoever takes its end."""

    target: str
    ticket: int
    work: Work
    done: Callable[[Any], None]
    failed: Callable[[str], None]
    is_wanted: Callable[[], bool]
    may_go: threading.Event


class _JobPulse(Pulse):
    """Pulse of one job: raises Cancelled once it is stale, and says how far it is.

    Parameters
    ----------
    is_stale : callable
        Whether nobody waits any more.
    say : callable
        Takes the words for how far it is.
    may_go : Event
        Set while nothing goes before it.
    """

    def __init__(self, is_stale: Callable[[], bool], say: Callable[[str], None], may_go: threading.Event) -> None:
        self._is_stale, self._say, self._may_go = is_stale, say, may_go
        #: what is being done, before "3 of 14"
        self._stage = ""
        self._said, self._said_at = "", -READ

    def check(self) -> None:
        # two threads that pass the interpreter to and fro take many times as long as one after the other
        while not (is_stale := self._is_stale()) and not self._may_go.wait(_LOOK):
            pass
        if is_stale:
            raise Cancelled

    def begin(self, stage: str) -> None:
        self._stage = f"{stage}: " if stage else ""

    def tell(self, done: int, total: int) -> None:
        self.check()
        words, now = "" if done >= total else f"{self._stage}{done} of {total}", time.monotonic()
        if words != self._said and (not words or now >= self._said_at + READ):
            self._said, self._said_at = words, now
            self._say(words)


def _yielding() -> None:
    """What takes long gives way to the window and to what is looked at; on Linux a thread has a niceness of its own."""
    if sys.platform == "linux":
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)


class Runner(QObject):
    """Runs work in queues and brings the answers to the window's thread.

    Parameters
    ----------
    held : bool
        Whether urgent and long work waits for `begin`.
    """

    _ended = Signal(object, object, object)
    _told = Signal(str, int, str)
    busy_changed = Signal(str, bool)
    progressed = Signal(str, str)

    def __init__(self, parent: QObject | None = None, *, held: bool = False) -> None:
        super().__init__(parent)
        self._begun = threading.Event()
        if not held:
            self._begun.set()
        self._queues = {
            queue: ThreadPoolExecutor(
                count, thread_name_prefix=f"lesna-{queue}", initializer=_yielding if queue == "long" else None
            )
            for queue, count in _THREADS.items()
        }
        self._tickets: dict[str, int] = {}
        self._waiting: dict[str, _Job] = {}
        self._open = True
        self._running: set[int] = set()
        #: requests for what is looked at that are not ended, and whether there are none
        self._urgent: set[int] = set()
        self._is_calm, self._always = threading.Event(), threading.Event()
        self._is_calm.set()
        self._always.set()
        self._ended.connect(self._on_ended, Qt.ConnectionType.QueuedConnection)
        self._told.connect(self._on_told, Qt.ConnectionType.QueuedConnection)

    def begin(self) -> None:
        """Lets work that was held back start: loading it would slow the window's first picture."""
        self._begun.set()

    def run(
        self, target: str, work: Work, done: Callable[[Any], None], failed: Callable[[str], None], *, queue: Queue = "urgent",
        is_wanted: Callable[[], bool] = lambda: True,
    ) -> None:  # fmt: skip
        """Starts `work(pulse)` for a target; `done` or `failed` is called in the window's thread."""
        if not self._open:
            return
        job = _Job(target, self._tickets.get(target, 0) + 1, work, done, failed, is_wanted,
                   self._is_calm if queue == "long" else self._always)  # fmt: skip
        if queue == "urgent":
            self._urgent.add(id(job))
            self._is_calm.clear()
        self._tickets[target] = job.ticket
        self._waiting[target] = job
        self.busy_changed.emit(target, True)
        self._queues[queue].submit(self._work, job, queue)

    def is_busy(self, target: str) -> bool:
        """Whether the newest request for a target is still under way."""
        return target in self._waiting

    @property
    def is_idle(self) -> bool:
        """Whether nothing is under way."""
        return not self._waiting

    def cancel(self, target: str) -> None:
        """Makes the request for a target stale; its work stops at its next pulse."""
        if target in self._waiting:
            self._tickets[target] += 1
            del self._waiting[target]
            self.busy_changed.emit(target, False)

    def close(self, *, wait: bool = True) -> bool:
        """Makes all but disk work stale and waits for the threads, or says whether any still runs."""
        for target in tuple(self._waiting):
            self._tickets[target] += 1
        self._waiting.clear()
        self._open = False
        self._begun.set()
        self._is_calm.set()
        self._queues["disk"].shutdown(wait=True)
        for queue in ("urgent", "first", "long"):
            self._queues[queue].shutdown(wait=wait, cancel_futures=True)
        return bool(self._running)

    def _is_stale(self, job: _Job) -> bool:
        return self._tickets.get(job.target) != job.ticket

    def _work(self, job: _Job, queue: Queue) -> None:
        if queue != "disk":
            self._begun.wait()
        answer: Any = None
        trouble: str | None = ""
        self._running.add(id(job))
        try:
            if queue == "disk" or not self._is_stale(job) and job.is_wanted():
                answer = job.work(
                    _JobPulse(lambda: self._is_stale(job), lambda text: self._tell(job, text), job.may_go)
                )
                trouble = None
        except Cancelled:
            pass
        except LesnaError as error:
            trouble = str(error)
        except Exception as error:  # the runner's net: logged, and a sentence in the window
            TROUBLES.caught(error, f"work for {job.target}")
            trouble = "something inside went wrong; the job is as it was"
        finally:
            self._running.discard(id(job))
            self._urgent.discard(id(job))
            if not self._urgent:
                self._is_calm.set()
        if self._open:
            self._ended.emit(job, answer, trouble)

    def _tell(self, job: _Job, text: str) -> None:
        if self._open:
            self._told.emit(job.target, job.ticket, text)

    def _on_told(self, target: str, ticket: int, text: str) -> None:
        if self._tickets.get(target) == ticket and target in self._waiting:
            self.progressed.emit(target, text)

    def _on_ended(self, job: _Job, answer: Any, trouble: str | None) -> None:
        if self._is_stale(job) or self._waiting.pop(job.target, None) is None:
            return
        self.busy_changed.emit(job.target, False)
        if trouble is None:
            job.done(answer)
        elif trouble:
            job.failed(trouble)
