"""A machine that is not there: serves its data on the loopback, as a real one would, with whatever goes wrong at it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from types import TracebackType
from typing import Any
from urllib.parse import parse_qs, urlsplit

from lesna.devices.machine_data import Key, Observation, refusal_text, stream_text

#: observations that it holds
_BUFFER = 131_072


class StandInMachine:
    """Holds what it was told and answers questions; a test may also ask it without HTTP.

    Parameters
    ----------
    clock : callable
        Its time [s since 1970].
    buffer : int
        Observations that it holds.
    """

    def __init__(self, clock: Callable[[], float] = time.time, buffer: int = _BUFFER) -> None:
        self.clock, self._size = clock, buffer
        self._lock = threading.Lock()
        self._starts = 0
        self.restart()

    def restart(self) -> None:
        """Its service begins anew: numbers from one, nothing held."""
        with self._lock:
            self._starts += 1
            self._held: list[Observation] = []
            self._next = 1
            self._now: dict[Key, Observation] = {}

    def tell(self, at: float | None = None, **values: float | str | None) -> None:
        """It changes: rpm, load, feed, override, program, execution."""
        with self._lock:
            for key, value in values.items():
                one = Observation(self._next, self.clock() if at is None else at, key, value)  # type: ignore[arg-type]
                self._next += 1
                self._held.append(one)
                self._now[one.key] = one
            del self._held[: -self._size]

    def answer(self, path: str) -> bytes:
        """What it says to a question."""
        parts = urlsplit(path)
        with self._lock:
            first = self._held[0].sequence if self._held else self._next
            name = parts.path.strip("/")
            if name == "current":
                return self._text(first, self._next, list(self._now.values()))
            if name != "sample":
                return refusal_text("UNSUPPORTED", f"{parts.path} is not served").encode()
            asked = {key: int(values[0]) for key, values in parse_qs(parts.query).items() if values[0].isdigit()}
            begin, count = asked.get("from", first), asked.get("count", 100)
            if not first <= begin <= self._next:
                return refusal_text("OUT_OF_RANGE", f"from must be {first} to {self._next}").encode()
            found = self._held[begin - first : begin - first + count]  # numbers have no holes
            return self._text(first, found[-1].sequence + 1 if found else begin, found)

    def _text(self, first: int, next_: int, observations: list[Observation]) -> bytes:
        return stream_text(f"{self._starts}", self.clock(), first, next_, observations).encode()


class StandInServer:
    """A stand-in machine on the loopback.

    Parameters
    ----------
    machine : StandInMachine
        What it serves.
    """

    def __init__(self, machine: StandInMachine) -> None:
        self.machine = machine
        #: whether it lets every question drop
        self.is_away = False
        server = self

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                if server.is_away:
                    self.close_connection = True
                    return
                content = machine.answer(self.path)
                self.send_response(200)
                self.send_header("Content-Type", "application/xml")
                self.send_header("Content-Length", str(len(content)))
                self.end_headers()
                self.wfile.write(content)

            def log_message(self, format: str, *args: Any) -> None:
                """Nobody reads a log of the stand-in."""

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self._server.daemon_threads = True
        self._thread = threading.Thread(
            target=self._server.serve_forever, args=(0.05,), name="stand-in machine", daemon=True
        )
        self._thread.start()

    @property
    def url(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self._server.server_address[1]}"

    def close(self) -> None:
        """Ends it."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()

    def __enter__(self) -> StandInServer:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


def cutting_cycle(second: float, *, rpm: float, feed: float, load: float, idle: float) -> dict[str, float | str]:
    """What a simulated machine says at a second of its run: 40 s of cuts with links between them, then 5 s for the part's change.

    The load swings about the one it has in the cut, as bends and links ask more or less of it.
    """
    within = second % 45.0
    if within >= 40.0:
        return {"rpm": 0.0, "feed": 0.0, "load": 0.0, "execution": "READY"}
    is_cutting = within % 8.0 < 6.5
    swing = 1.0 + 0.08 * ((int(second * 7) % 11) - 5) / 5.0
    shown = idle + (load - idle) * swing if is_cutting else idle
    return {"rpm": rpm, "feed": feed if is_cutting else 4.0 * feed, "load": round(shown, 1), "execution": "ACTIVE"}


class RunningMachine(StandInServer):
    """A stand-in that runs: once a second it says what a machine in such a cut would.

    Parameters
    ----------
    rpm, feed : float
        Of the cut [1/min], [mm/min].
    load, idle : float
        Of the spindle in the cut and in air [% of S1].
    """

    def __init__(self, *, rpm: float, feed: float, load: float, idle: float) -> None:
        super().__init__(StandInMachine())
        self._said = {"rpm": rpm, "feed": feed, "load": load, "idle": idle}
        self._ends = threading.Event()
        self._feeder = threading.Thread(target=self._run, name="stand-in spindle", daemon=True)
        self._feeder.start()

    def _run(self) -> None:
        begin = time.monotonic()
        while not self._ends.is_set():
            said = {**cutting_cycle(time.monotonic() - begin, **self._said), "program": "SIMULATED", "override": 100.0}
            self.machine.tell(None, **said)
            self._ends.wait(1.0)

    def close(self) -> None:
        """Ends it; it may be ended twice."""
        if self._ends.is_set():
            return
        self._ends.set()
        self._feeder.join()
        super().close()
