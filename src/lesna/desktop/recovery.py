"""Autosave: what is unsaved is kept beside the settings, so that a crash loses at most the last seconds."""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.model.errors import LesnaError
from lesna.model.files import job_from_text, job_text, parse_json, read_text, write_atomic
from lesna.model.job import Job
from lesna.model.work import Pulse

#: after the last change, this long [ms]
_DELAY = 2000


@dataclass(frozen=True)
class Recovery:
    """An unsaved job of a window that did not close."""

    job: Job
    path: Path | None
    file: Path


def recovery_folder() -> Path:
    """``$XDG_STATE_HOME/lesna/recovery``."""
    import platformdirs

    return Path(platformdirs.user_state_dir("lesna")) / "recovery"


class Autosave(QObject):
    """Writes the unsaved job every two seconds while it changes, in a lane of its own; removes it once saved."""

    def __init__(self, session: Session, runner: Runner, folder: Path) -> None:
        super().__init__()
        self._session, self._runner, self._folder = session, runner, folder
        self._file = folder / f"{os.getpid()}.json"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_DELAY)
        self._timer.timeout.connect(self.write)
        session.job_changed.connect(self._on_changed)
        session.stack.cleanChanged.connect(lambda clean: self.forget() if clean else None)

    def _on_changed(self) -> None:
        # not started anew: somebody who never pauses is saved as well
        if not self._timer.isActive():
            self._timer.start()

    def write(self) -> None:
        """Writes now if there is something unsaved."""
        if not self._session.is_dirty:
            return
        job, path = self._session.job, self._session.document.path

        def work(pulse: Pulse) -> None:
            text = json.dumps({"path": str(path.absolute()) if path else None, "job": job_text(job)})
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomic(self._file, text.encode("utf-8"))

        self._runner.run("autosave", work, lambda _: None, self._failed, lane="disk")

    def _failed(self, text: str) -> None:
        self._session.say("wrong", f"autosave: {text}")

    def forget(self) -> None:
        """There is nothing to recover any more; what is still being written goes as well, because the lane keeps its order."""
        self._timer.stop()
        self._runner.run(
            "autosave", lambda pulse: self._file.unlink(missing_ok=True), lambda _: None, self._failed, lane="disk"
        )


def find_recovered(folder: Path) -> Recovery | None:
    """The newest unsaved job of a window that is gone; files that cannot be read are left alone."""
    files = sorted(folder.glob("*.json"), key=lambda file: file.stat().st_mtime, reverse=True)
    for file in files:
        if file.stem.isdigit() and not _is_alive(int(file.stem)):
            try:
                data = parse_json(read_text(file))
                job = job_from_text(data["job"])
            except (LesnaError, KeyError, TypeError):
                continue
            return Recovery(job, Path(data["path"]) if data.get("path") else None, file)
    return None


def _is_alive(pid: int) -> bool:
    if pid == os.getpid():
        return False
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
