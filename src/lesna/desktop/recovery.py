"""Autosave: what is unsaved is kept beside the settings, so that a crash loses at most the last seconds."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from lesna.desktop.session import Session
from lesna.model.errors import LesnaError
from lesna.model.files import job_from_text, job_text, parse_json, read_text, write_atomic
from lesna.model.job import Job

#: after the last change, this long [ms]
_DELAY = 2000


@dataclass(frozen=True)
class Recovered:
    """An unsaved job of a window that did not close."""

    job: Job
    path: Path | None
    file: Path


def recovery_folder() -> Path:
    """``$XDG_STATE_HOME/lesna/recovery``."""
    import platformdirs

    return Path(platformdirs.user_state_dir("lesna")) / "recovery"


class Autosave(QObject):
    """Writes the unsaved job two seconds after its last change, in the background; removes it once saved."""

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session, self._folder = session, folder
        self._file = folder / f"{os.getpid()}.json"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_DELAY)
        self._timer.timeout.connect(self.write)
        session.job_changed.connect(self._timer.start)
        session.stack.cleanChanged.connect(lambda clean: self.forget() if clean else None)

    def write(self) -> None:
        """Writes now if there is something unsaved."""
        if not self._session.is_dirty:
            return
        job, path = self._session.job, self._session.document.path
        text = json.dumps({"path": str(path) if path else None, "job": job_text(job)})

        def work(cancelled: Callable[[], bool]) -> None:
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomic(self._file, text.encode("utf-8"))

        self._session.background.run("autosave", work, lambda _: None, self._failed)

    def _failed(self, text: str) -> None:
        self._session.said.emit("wrong", f"autosave: {text}")

    def forget(self) -> None:
        """There is nothing to recover any more."""
        self._timer.stop()
        self._session.background.cancel("autosave")
        self._file.unlink(missing_ok=True)


def find_recovered(folder: Path) -> Recovered | None:
    """The newest unsaved job of a window that is gone; files that cannot be read are left alone."""
    files = sorted(folder.glob("*.json"), key=lambda file: file.stat().st_mtime, reverse=True)
    for file in files:
        if file.stem.isdigit() and not _is_alive(int(file.stem)):
            try:
                data = parse_json(read_text(file))
                job = job_from_text(data["job"])
            except (LesnaError, KeyError, TypeError):
                continue
            return Recovered(job, Path(data["path"]) if data.get("path") else None, file)
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
