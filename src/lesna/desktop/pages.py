"""Pages and tables of a job, written behind the window to a file that somebody has chosen."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from lesna.desktop.runner import Runner
from lesna.desktop.session import Session
from lesna.model.files import write_atomic
from lesna.model.work import Pulse


def page_bytes(html: str, path: Path) -> bytes:
    """A page as HTML or PDF, by the file's ending."""
    if path.suffix.lower() != ".pdf":
        return html.encode()
    from lesna.desktop.pdf import pdf_of

    return pdf_of(html)


def write_behind(session: Session, runner: Runner, what: str, path: Path, make: Callable[[], bytes]) -> None:
    """Has a file made and written behind the window; what came of it stands in the banner. The job itself is never written over."""
    if session.is_job_itself(path):
        return

    def work(pulse: Pulse) -> None:
        write_atomic(path, make())

    runner.run(
        what, work, lambda _: session.say("note", f"{what} written to {path.name}"),
        lambda text: session.say("wrong", f"{path}: {text}"), queue="urgent",
    )  # fmt: skip
