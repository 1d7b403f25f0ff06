"""Autosave: what is unsaved is kept beside the settings, so that a crash loses at most the last seconds."""

from __future__ import annotations

import contextlib
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
            where = str(path.absolute()) if path else None
            text = json.dumps({"path": where, "born": _born(os.getpid()), "job": job_text(job)})
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            write_atomic(self._file, text.encode("utf-8"), private=True)

        self._runner.run("autosave", work, lambda _: None, self._failed, queue="disk")

    def _failed(self, text: str) -> None:
        self._session.say("wrong", f"autosave: {text}")

    def forget(self) -> None:
        """There is nothing to recover any more; what is still being written goes as well, because the lane keeps its order."""
        self._timer.stop()
        self._runner.run(
            "autosave", lambda pulse: self._file.unlink(missing_ok=True), lambda _: None, self._failed, queue="disk"
        )


def find_recovered(folder: Path) -> Recovery | None:
    """The newest unsaved job of a window that is gone; a record that cannot be read is set aside as ``*.unread``."""
    files = sorted(folder.glob("*.json"), key=_changed, reverse=True)
    for file in files:
        if not file.stem.isdigit():
            continue
        try:
            data = parse_json(read_text(file))
            if _is_alive(int(file.stem), data.get("born")):
                continue
            return Recovery(job_from_text(data["job"]), Path(data["path"]) if data.get("path") else None, file)
        except (LesnaError, KeyError, TypeError, AttributeError):
            with contextlib.suppress(OSError):
                file.rename(file.with_suffix(".unread"))
    return None


def _changed(file: Path) -> float:
    """When a file was written; long ago where it has gone in the meantime."""
    try:
        return file.stat().st_mtime
    except OSError:
        return 0.0


def _born(pid: int) -> str:
    """When a process began, as the system counts: numbers of processes come again. Empty where it is not known."""
    try:
        # the name in brackets may hold anything; what follows it is parted by spaces
        return Path(f"/proc/{pid}/stat").read_text(encoding="latin-1").rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


def _is_alive(pid: int, born: object) -> bool:
    """Whether the window that wrote a record still runs, and not another process with its number."""
    if pid == os.getpid() or (born and born != _born(pid)):
        return False
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
