"""Ctrl-C: an answer within a second, also in the middle of compiled sums, or of a callback that would lose it."""

from __future__ import annotations

import os
import signal
import sys
import threading
import time

from lesna.cli.refusal import ASKED_TO_STOP, BAD_INPUT

#: seconds that a command has to end by itself; files are written whole or not at all, so that nothing is lost after them
_PATIENCE = 0.6


def stop_in_time() -> None:
    """Has the process end soon after the first Ctrl-C, where the command itself does not end in words before."""
    heard, tells = os.pipe()
    os.set_blocking(tells, False)
    signal.set_wakeup_fd(tells, warn_on_full_buffer=False)
    threading.Thread(target=_watch, args=(heard,), name="lesna-stop", daemon=True).start()


def _watch(heard: int) -> None:
    """Python's own answer waits until the interpreter is asked again; this thread hears of the signal at once."""
    while signal.SIGINT not in os.read(heard, 16):
        pass
    ASKED_TO_STOP.set()
    time.sleep(_PATIENCE)
    sys.stderr.write("lesna: stopped\n")
    sys.stderr.flush()
    os._exit(BAD_INPUT)
