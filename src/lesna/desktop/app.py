"""Starting and ending the window."""

from __future__ import annotations

import gc
import os
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from lesna.data.places import shipped_folder, shop_folder
from lesna.desktop.display import has_display, in_words, say_none
from lesna.desktop.memory import Memory
from lesna.desktop.scale import follow_desktop
from lesna.desktop.theme import load_fonts
from lesna.desktop.troubles import TROUBLES
from lesna.desktop.window import MainWindow

if TYPE_CHECKING:
    from lesna.data.library import Library
    from lesna.desktop.collecting import Collector
    from lesna.desktop.cut_answers import CutAnswers
    from lesna.desktop.recovery import Autosave, Recovery
    from lesna.desktop.runner import Runner
    from lesna.desktop.session import Session
    from lesna.desktop.workbench import Workbench

DEMO = "sluice-hinge-block.lesna"


def demo_job() -> Path:
    """The shipped demo job; opened as a copy without a file."""
    return shipped_folder() / "demo" / DEMO


@dataclass
class OpenWindow:
    """A window and what lives with it."""

    window: MainWindow
    bench: Workbench
    session: Session
    answers: CutAnswers
    runner: Runner
    autosave: Autosave
    collector: Collector

    def close(self, *, wait: bool = True) -> bool:
        """Ends the threads, or says whether one still runs; unsaved work that was given up is forgotten."""
        from lesna.physics import engine

        self.session.close()
        self.autosave.forget()
        self.answers.bank.close()
        self.collector.close()
        engine.end_apart()
        return self.runner.close(wait=wait)


#: seconds after which a thread that computes lets another one go on
_LET_GO = 0.001


def application() -> QApplication:
    """The one application object, with the shipped fonts and the icon."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    if sys.platform == "linux" and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with in_words():
        app = QApplication(sys.argv[:1])
    app.setApplicationName("lesna")
    app.setApplicationDisplayName("Lesna")
    app.setDesktopFileName("lesna")
    app.setStyle("Fusion")
    # the window waits no longer than this for work behind it to let go of the interpreter
    sys.setswitchinterval(_LET_GO)
    load_fonts()
    return app


def _begin_work(runner: Runner) -> None:
    """What waited for the first picture: compiling what is not compiled yet, and all other work."""
    from lesna.desktop.ahead import load_ahead
    from lesna.physics import engine

    engine.prepare_apart()
    runner.begin()
    QTimer.singleShot(_THEN, runner, partial(load_ahead, runner))


#: by then the window has drawn itself once, and what is looked at has been asked for [ms]
_FIRST_PICTURE, _THEN = 30, 1000


def furnish(
    window: MainWindow, job_file: Path | None = None, *, recover: bool = True, sample: bool = False
) -> OpenWindow:
    """Puts the workbench with a job into a window; `sample` for a copy of the sample bank in place of the shop's own."""
    from lesna.data.library import Library
    from lesna.desktop.collecting import Collector
    from lesna.desktop.cut_answers import CutAnswers
    from lesna.desktop.recovery import Autosave, find_recovered, recovery_folder
    from lesna.desktop.runner import Runner
    from lesna.desktop.session import Session
    from lesna.desktop.shop_bank import ShopBank
    from lesna.desktop.workbench import Workbench
    from lesna.model.files import load_job

    runner = Runner(held=True)
    QTimer.singleShot(_FIRST_PICTURE, partial(_begin_work, runner))
    library = Library(shop_folder())
    session = Session(library)
    answers = CutAnswers(session, runner, ShopBank(session, runner, sample=sample))
    bench = Workbench(session, answers, window.memory)
    autosave = Autosave(session, runner, recovery_folder())
    window.furnish(bench)
    session.open(load_job(demo_job()), None, folder=demo_job().parent)
    if job_file is not None:
        bench.open_path(job_file)
    QTimer.singleShot(_FIRST_PICTURE, bench, partial(_tell_rows, bench, library))
    lost = find_recovered(recovery_folder()) if recover else None
    if lost is not None:
        _offer(bench, lost)
    answers.bank.begin()
    gc.freeze()  # what is loaded now stays: collections during a drag need not look at it again
    return OpenWindow(window, bench, session, answers, runner, autosave, Collector(session, runner))


def start(job_file: Path | None = None, *, recover: bool = True, sample: bool = False) -> OpenWindow:
    """A furnished window, not yet shown (parameters as in `furnish`)."""
    application()
    return furnish(MainWindow(Memory()), job_file, recover=recover, sample=sample)


def _tell_rows(bench: Workbench, library: Library) -> None:
    """Says what is wrong with the shop's own tables: the one thing itself, of several their number and where to read them."""
    from lesna.desktop.widgets.sentences import Sentences

    problems = library.read()
    if len(problems) < 2:
        for problem in problems:
            bench.banner.say("wrong", problem)
        return
    title = "The shop's own tables"
    bench.banner.say(
        "wrong", f"{len(problems)} things in the shop's own tables could not be used; all others are in use",
        (("Show them", lambda: Sentences(bench, title, problems).open()),),
    )  # fmt: skip


def _offer(bench: Workbench, lost: Recovery) -> None:
    def take() -> None:
        if bench.session.attempt(lambda: bench.session.open(lost.job, lost.path, unsaved=True)):
            lost.file.unlink(missing_ok=True)

    name = lost.job.title or "a job without a title"
    bench.banner.say(
        "note", f"'{name}' was not saved when Lesna last ended.",
        (("Bring it back", take), ("Forget it", lambda: lost.file.unlink(missing_ok=True))),
    )  # fmt: skip


class _Loader(QObject):
    """Loads the heavy packages in a thread while the window is already up."""

    loaded = Signal()
    failed = Signal(str)

    def begin(self) -> None:
        """Starts loading; `loaded` or `failed` follows."""
        threading.Thread(target=self._load, name="lesna-loader", daemon=True).start()

    def _load(self) -> None:
        try:
            import lesna.data.library
            import lesna.desktop.map_picture
            import lesna.desktop.workbench  # noqa: F401
        except ImportError as error:
            self.failed.emit(f"a part of Lesna cannot be loaded: {error}. Install it anew.")
        else:
            self.loaded.emit()


def open_window(job_file: Path | None, *, demo: bool = False, leave: Callable[[int], NoReturn] | None = None) -> int:
    """Shows the window and runs until it is closed; gives the exit code."""
    if not has_display():
        say_none()
        return 2
    app = application()
    follow_desktop(app)
    TROUBLES.install()
    window = MainWindow(Memory())
    geometry = window.memory.geometry
    if geometry is not None:
        window.restoreGeometry(geometry)
    window.show()
    running: list[OpenWindow] = []

    def on_loaded() -> None:
        app.setWindowIcon(QIcon(str(shipped_folder() / "icons" / "lesna.svg")))
        chosen = None if demo else job_file or next(iter(window.memory.recent()), None)
        running.append(furnish(window, chosen, sample=demo))
        bench = running[0].bench
        is_sample = running[0].session.document.path is None
        if is_sample and not window.memory.tour_seen and not bench.banner.isVisible():
            QTimer.singleShot(300, bench.start_tour)

    loader = _Loader()
    loader.loaded.connect(on_loaded)
    loader.failed.connect(window.say)
    QTimer.singleShot(0, loader.begin)
    code = app.exec()
    busy = [window_with_job.close(wait=leave is None) for window_with_job in running]
    if leave is not None and any(busy):
        leave(code)
    return code
