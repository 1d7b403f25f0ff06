"""Pictures of the main views from the demo jobs, for the documentation and for machines without a display.

``python -m lesna.desktop.shots FOLDER``
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QDeadlineTimer
from PySide6.QtWidgets import QApplication, QWidget

from lesna.data.places import shipped_folder
from lesna.desktop.app import OpenWindow, application, start
from lesna.desktop.records.library_window import LibraryWindow
from lesna.desktop.theme import DAY, NIGHT, THEME
from lesna.desktop.widgets.painting import Canvas
from lesna.planning.routes.wish import Wish

#: where the jobs of the pictures lie
DEMO = shipped_folder() / "demo"
#: ways that are compared on the plate
WISHES = (Wish(), Wish(zigzag=True), Wish(way="offsets"))


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


def _compare(running: OpenWindow) -> None:
    running.bench.show_step(2)
    running.session.select(1)


def _tools(running: OpenWindow) -> None:
    _compare(running)
    running.bench.page("compare").faces.show_face(1)


def _quote(running: OpenWindow) -> None:
    _compare(running)
    running.bench.page("compare").faces.show_face(2)


def _path(running: OpenWindow) -> None:
    running.bench.show_step(3)
    running.session.select(1)
    page = running.bench.page("path")
    settle(running)
    page.levelled.table.selectRow(3)
    page.go_to_time(150.0)


def _library(running: OpenWindow) -> LibraryWindow:
    _cut(running)
    running.bench.open_library()
    assert running.bench.library is not None  # just opened
    return running.bench.library


def _machines(running: OpenWindow) -> QWidget:
    library = _library(running)
    library.show_table("machines").choose("vmc40-12k")
    return library


def _trial(running: OpenWindow) -> None:
    running.bench.show_step(4)
    running.session.select(1)


def _bank(running: OpenWindow) -> None:
    running.bench.show_step(5)
    running.session.select(1)
    settle(running)
    running.bench.page("bank").readings.selectRow(3)


def _night(running: OpenWindow) -> None:
    _cut(running)
    THEME.use(NIGHT)


def _surface(running: OpenWindow) -> None:
    running.bench.open_path(DEMO / "hinge-cover.lesna")
    running.bench.show_step(3)
    page = running.bench.page("surface")
    settle(running)
    page.surfaces.make()
    settle(running)


def _drawing(running: OpenWindow) -> None:
    running.bench.open_path(DEMO / "valve-plate.lesna")
    running.bench.show_step(0)
    page = running.bench.page("setup")
    settle(running)
    page.scroll_to(page.drawing)


def _leaning(running: OpenWindow) -> None:
    running.bench.open_path(DEMO / "paddle-runner.lesna")
    running.bench.show_step(3)
    page = running.bench.page("path")
    settle(running)
    page.levelled.table.selectRow(3)
    page.go_to_step(round(0.62 * len(page.run.geometry.steps)))
    settle(running)


def _ways(running: OpenWindow) -> None:
    running.bench.open_path(DEMO / "valve-plate.lesna")
    running.bench.show_step(3)
    page = running.bench.page("path")
    page.make_path()
    for wish in WISHES:
        page.want(wish)
        settle(running)
    page.ways_face.table.selectRow(0)
    page.picture.show_series("angle")
    page.player.colour.show_value("angle")
    page.go_to_time(160.0)


#: picture -> what to show, and the size of the window; what a view gives back is pictured instead of the window
VIEWS: dict[str, tuple[Callable[[OpenWindow], QWidget | None], tuple[int, int]]] = {
    "cut": (_cut, (1280, 800)),
    "setup": (_setup, (1280, 800)),
    "compare": (_compare, (1280, 800)),
    "tools": (_tools, (1280, 800)),
    "quote": (_quote, (1280, 800)),
    "ways": (_ways, (1280, 800)),
    "working": (_working, (1280, 800)),
    "cut-cost": (_cost, (1280, 800)),
    "stability": (_stability, (1280, 800)),
    "listen": (_listen, (1280, 800)),
    "cut-night": (_night, (1280, 800)),
    "surface": (_surface, (1280, 800)),
    "setup-drawing": (_drawing, (1100, 700)),
    "path": (_path, (1280, 800)),
    "path-leaning": (_leaning, (1280, 800)),
    "library": (_library, (1180, 740)),
    "library-machine": (_machines, (1180, 740)),
    "trial": (_trial, (1280, 800)),
    "bank": (_bank, (1280, 800)),
}


#: views that the sample bank is there for; the others show what the tables say alone
_WITH_BANK = frozenset({"trial", "bank"})
#: milliseconds in which layouts of wrapped text come to rest and what widgets have put off is painted
LATE_MS = 150
#: looks in which they do so where the processor is busy with something else
LOOKS = 40
#: between two looks [s]
_PAUSE = 0.002


def settle(running: OpenWindow) -> None:
    """Lets the window finish what is under way."""
    deadline = QDeadlineTimer(120_000)
    while not running.runner.is_idle and not deadline.hasExpired():
        _let_it(_PAUSE)
    # until what widgets have put off is painted, however long another one takes to paint
    painted = QDeadlineTimer(LATE_MS)
    looks = 0
    while looks < LOOKS or not painted.hasExpired() or _is_late(running):
        _let_it(_PAUSE)
        looks += 1


def _is_late(running: OpenWindow) -> bool:
    """Whether something on the screen is still to be painted; cards come and go in between."""
    return any(canvas.is_late for canvas in running.window.findChildren(Canvas) if canvas.isVisible())


def _let_it(pause: float) -> None:
    """What has happened is taken in; then those who work have the processor."""
    QApplication.processEvents()
    time.sleep(pause)


def take(folder: Path, names: list[str]) -> list[Path]:
    """Writes the pictures of some views and gives their files."""
    folder.mkdir(parents=True, exist_ok=True)
    application()
    written = []
    for name in names:
        show, size = VIEWS[name]
        THEME.use(DAY)
        running = start(recover=False, sample=name in _WITH_BANK)
        THEME.use(DAY)
        running.window.resize(*size)
        running.window.show()
        shown = show(running) or running.window
        shown.resize(*size)
        settle(running)
        path = folder / f"{name}.png"
        shown.grab().save(str(path))
        shown.hide()
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
