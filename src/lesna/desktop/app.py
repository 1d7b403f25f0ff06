"""Starting and ending the window."""

from __future__ import annotations

import os
import sys
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from lesna.data.library import Library, shipped_folder, shop_folder
from lesna.desktop.background import Background
from lesna.desktop.memory import Memory
from lesna.desktop.recovery import Autosave, Recovered, find_recovered, recovery_folder
from lesna.desktop.session import Session
from lesna.desktop.theme import load_fonts
from lesna.desktop.window import MainWindow
from lesna.model.errors import LesnaError
from lesna.model.files import load_job

DEMO = "sluice-hinge-block.lesna"


def demo_job() -> Path:
    """The shipped demo job; opened as a copy without a file."""
    return shipped_folder() / "demo" / DEMO


@dataclass
class Running:
    """A window and what lives with it."""

    window: MainWindow
    session: Session
    background: Background
    autosave: Autosave

    def close(self) -> None:
        """Ends the threads; unsaved work that was given up is forgotten."""
        self.autosave.forget()
        self.background.close()


def application() -> QApplication:
    """The one application object, with the shipped fonts and the icon."""
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        return existing
    if sys.platform == "linux" and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication(sys.argv[:1])
    app.setApplicationName("lesna")
    app.setApplicationDisplayName("Lesna")
    app.setDesktopFileName("lesna")
    app.setWindowIcon(QIcon(str(shipped_folder() / "icons" / "lesna.svg")))
    app.setStyle("Fusion")
    load_fonts()
    return app


def start(job_file: Path | None = None, *, recover: bool = True) -> Running:
    """A window with a job in it, not yet shown.

    Parameters
    ----------
    job_file : Path, optional
        Job to open; the demo where left out, or where it cannot be used (the banner then says why).
    recover : bool
        Whether to offer what a crashed window left behind.
    """
    application()
    background = Background()
    library = Library(shop_folder())
    session = Session(library, background)
    window = MainWindow(session, Memory())
    autosave = Autosave(session, recovery_folder())
    session.open(load_job(demo_job()), None)
    if job_file is not None:
        window.open_path(job_file)
    for problem in library.problems:
        window.banner.say("wrong", problem)
    lost = find_recovered(recovery_folder()) if recover else None
    if lost is not None:
        _offer(window, lost)
    return Running(window, session, background, autosave)


def _offer(window: MainWindow, lost: Recovered) -> None:
    def take() -> None:
        if window.session.attempt(lambda: window.session.open(lost.job, lost.path, unsaved=True)):
            lost.file.unlink(missing_ok=True)

    name = lost.job.title or "a job without a title"
    window.banner.say(
        "note", f"'{name}' was not saved when Lesna last ended.",
        (("Bring it back", take), ("Forget it", lambda: lost.file.unlink(missing_ok=True))),
    )  # fmt: skip


def open_window(job_file: Path | None, *, demo: bool = False) -> int:
    """Shows the window and runs until it is closed; gives the exit code."""
    app = application()
    try:
        running = start(None if demo else job_file)
    except LesnaError as error:
        print(f"lesna: {error}", file=sys.stderr)
        return 2
    window = running.window
    geometry = window.memory.geometry
    if geometry is not None:
        window.restoreGeometry(geometry)
    window.show()
    if not window.memory.tour_seen and not window.banner.isVisible():
        QTimer.singleShot(300, window.start_tour)
    code = app.exec()
    running.close()
    return code
