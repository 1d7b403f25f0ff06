"""Whether there is a display, and one line instead of an abort where Qt finds that it does not answer."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Iterator

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

_WITHOUT = "lesna cut, map and sheet work without one"


def has_display() -> bool:
    """Whether anything names a display."""
    named = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    return sys.platform != "linux" or any(os.environ.get(name) for name in named)


def say_none() -> None:
    """Says that nothing names one."""
    print(f"lesna: there is no display for the window; {_WITHOUT}", file=sys.stderr)


@contextlib.contextmanager
def in_words() -> Iterator[None]:
    """While the application is made: Qt would abort the process where the display does not answer."""
    said: list[str] = []

    def take(kind: QtMsgType, context: QMessageLogContext, text: str) -> None:
        said.append(" ".join(text.split()))
        if kind == QtMsgType.QtFatalMsg:
            # the first thing that Qt said is the reason, what follows are its hints
            print(
                f"lesna: the display does not answer ({said[0].rstrip('.')}); {_WITHOUT}", file=sys.stderr, flush=True
            )
            os._exit(2)

    former = qInstallMessageHandler(take)
    try:
        yield
    finally:
        qInstallMessageHandler(former)
