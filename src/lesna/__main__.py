"""Where command line and desktop meet; neither knows the other."""

from __future__ import annotations

import contextlib
import gc
import os
import signal
import sys
from pathlib import Path
from typing import NoReturn


def _open_window(job_file: Path | None, demo: bool) -> int:
    from lesna.desktop.app import open_window

    # Qt waits where Python's own answer to Ctrl-C is not heard; what was not saved is brought back at the next start
    signal.signal(signal.SIGINT, signal.SIG_DFL)

    return open_window(job_file, demo=demo, leave=_leave)


def _leave(code: int) -> NoReturn:
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(OSError):  # nobody reads any more
            stream.flush()
    os._exit(code)


def _pdf_of(html: str) -> bytes:
    from lesna.desktop.pdf import pdf_of

    return pdf_of(html)


def main() -> None:
    """The `lesna` command."""
    gc.set_threshold(50_000)  # starting makes thousands of objects that all stay; looking through them is time lost
    arguments = sys.argv[1:]
    if arguments in ([], ["--demo"]):  # nothing to parse: the window is up sooner without the parser
        sys.exit(_open_window(None, bool(arguments)))
    from lesna.cli.main import Front, run
    from lesna.cli.refusal import ASKED_TO_STOP
    from lesna.cli.stopping import stop_in_time

    stop_in_time()
    code = run(Front(_open_window, _pdf_of), arguments)
    # a Ctrl-C that is heard only now finds everything written and said
    signal.signal(signal.SIGINT, lambda number, frame: None)
    if ASKED_TO_STOP.is_set():
        # where it broke into a text that was being executed, as a dataclass is made, Python would still end by the
        # signal, although it was answered
        _leave(code)
    sys.exit(code)


if __name__ == "__main__":
    main()
