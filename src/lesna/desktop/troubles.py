"""Where errors go that nobody expected: a log file in the state directory, and one quiet notice in the window."""

from __future__ import annotations

import logging
import logging.handlers
import sys
import threading
import traceback
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QObject, Qt, Signal

_LOG = logging.getLogger("lesna")
#: size at which the log is put aside, and how many of those are kept
_LARGEST, _KEPT = 500_000, 2


def log_file() -> Path:
    """``$XDG_STATE_HOME/lesna/lesna.log``."""
    import platformdirs

    return Path(platformdirs.user_state_dir("lesna")) / "lesna.log"


class Troubles(QObject):
    """Takes what went wrong from whichever thread; `happened` tells the window, in its own thread."""

    happened = Signal(str)
    _caught = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._caught.connect(self.happened, Qt.ConnectionType.QueuedConnection)

    def caught(self, error: BaseException, where: str) -> None:
        """Logs an error with its traceback and has it told once."""
        details = "".join(traceback.format_exception(error))
        _LOG.error("%s\n%s", where, details)
        self._caught.emit(details)

    def install(self) -> None:
        """Opens the log and takes over what would end on standard error."""
        if not _LOG.handlers:
            _LOG.addHandler(_handler())
            _LOG.setLevel(logging.INFO)
            _LOG.propagate = False
        sys.excepthook = self._on_error
        threading.excepthook = lambda args: self._on_error(
            args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
        )

    def _on_error(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.exit(130)
        self.caught(error.with_traceback(trace), "in the window")


def _handler() -> logging.Handler:
    path = log_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = logging.handlers.RotatingFileHandler(
            path, maxBytes=_LARGEST, backupCount=_KEPT, encoding="utf-8", delay=True
        )
    except OSError:  # a state directory that cannot be written costs the file, not the program
        handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    return handler


TROUBLES = Troubles()
