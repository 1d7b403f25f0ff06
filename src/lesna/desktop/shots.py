"""Pictures of the main views from the demo jobs, for the documentation and for machines without a display.

``python -m lesna.desktop.shots FOLDER``
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer, QEventLoop
from PySide6.QtWidgets import QApplication

from lesna.data.places import shipped_folder
from lesna.desktop.app import OpenWindow, application, start
from lesna.desktop.theme import DAY, NIGHT, THEME


def _cut(running: OpenWindow) -> None:
    running.bench.show_step(1)
    running.session.select(1)


def _setup(running: OpenWindow) -> None:
    running.bench.show_step(0)
    running.session.select(1)


def _working(running: OpenWindow) -> None:
    _cut(running)
    running.session.working_asked.emit("fz")


def _cost(running: OpenWindow) -> None:
    _cut(running)
    running.bench.page("cut").faces.show_face(2)


def _stability(running: OpenWindow) -> None:
    _cut(running)
    running.bench.page("cut").charts.show_face(1)


def _listen(running: OpenWindow) -> None:
    from lesna.devices.microphone import SimulatedMicrophone

    _cut(running)
    running.bench.page("cut").charts.show_face(2)
    state, z = running.session.result.state, running.session.result.setup.shape.z
    running.bench.page("cut").listen.hear(lambda: SimulatedMicrophone(state.n, z, chatter=1240.0).record(3.0))


def _more(running: OpenWindow) -> None:
    _cut(running)
    running.bench.page("cut").answers.show_face(1)


def _compare(running: OpenWindow) -> None:
    running.bench.show_step(2)
    running.session.select(1)


def _compare_cheap(running: OpenWindow) -> None:
    _compare(running)
    running.bench.page("compare").aims["cost"].click()


def _tools(running: OpenWindow) -> None:
    _compare(running)
    running.bench.page("compare").faces.show_face(1)


def _night(running: OpenWindow) -> None:
    _cut(running)
    THEME.use(NIGHT)


def _inch(running: OpenWindow) -> None:
    running.bench.open_path(shipped_folder() / "demo" / "gauge-panel.lesna")
    running.bench.show_step(1)


def _titanium(running: OpenWindow) -> None:
    running.bench.open_path(shipped_folder() / "demo" / "sensor-bracket.lesna")
    running.bench.show_step(0)


#: picture -> what to show, and the size of the window
VIEWS: dict[str, tuple[Callable[[OpenWindow], None], tuple[int, int]]] = {
    "cut": (_cut, (1280, 800)),
    "setup": (_setup, (1280, 800)),
    "compare": (_compare, (1280, 800)),
    "tools": (_tools, (1280, 800)),
    "compare-small": (_compare_cheap, (1100, 700)),
    "working": (_working, (1280, 800)),
    "cut-cost": (_cost, (1280, 800)),
    "stability": (_stability, (1280, 800)),
    "listen": (_listen, (1280, 800)),
    "more": (_more, (1280, 800)),
    "cut-night": (_night, (1280, 800)),
    "cut-inch": (_inch, (1280, 800)),
    "setup-titanium": (_titanium, (1100, 700)),
    "cut-small": (_cut, (1100, 700)),
}


#: rounds of events in which layouts of wrapped text come to rest
_ROUNDS = 6


def settle(running: OpenWindow) -> None:
    """Lets the window finish what is under way."""
    deadline = QDeadlineTimer(120_000)
    while not running.runner.is_idle and not deadline.hasExpired():
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 50)
    for _ in range(_ROUNDS):
        QApplication.processEvents()


def take(folder: Path, names: list[str]) -> list[Path]:
    """Writes the pictures of some views and gives their files."""
    folder.mkdir(parents=True, exist_ok=True)
    application()
    written = []
    for name in names:
        show, size = VIEWS[name]
        THEME.use(DAY)
        running = start(recover=False)
        THEME.use(DAY)
        running.window.resize(*size)
        running.window.show()
        show(running)
        settle(running)
        path = folder / f"{name}.png"
        running.window.grab().save(str(path))
        running.window.hide()
        running.close()
        written.append(path)
    return written


def main() -> None:
    """Renders every view (or those named) into a folder."""
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "build")
    names = sys.argv[2:] or list(VIEWS)
    with tempfile.TemporaryDirectory() as scratch:
        for variable in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
            os.environ[variable] = scratch
        for path in take(folder, names):
            print(path)


if __name__ == "__main__":
    main()
