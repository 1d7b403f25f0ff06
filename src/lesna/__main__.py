"""Where command line and desktop meet; neither knows the other."""

from __future__ import annotations

import sys
from pathlib import Path

from lesna.cli.main import Front, run


def _open_window(job_file: Path | None, demo: bool) -> int:
    from lesna.desktop.app import open_window

    return open_window(job_file, demo=demo)


def _pdf_of(html: str) -> bytes:
    from lesna.desktop.pdf import pdf_of

    return pdf_of(html)


def main() -> None:
    """The `lesna` command."""
    sys.exit(run(Front(_open_window, _pdf_of)))


if __name__ == "__main__":
    main()
