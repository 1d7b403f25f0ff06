"""Where programs may be written: never over what a job reads."""

from __future__ import annotations

from pathlib import Path

from lesna.desktop.session import Session
from lesna.model.errors import LesnaError
from lesna.model.files import is_same_file, write_atomic
from lesna.planning.program.stock import files_of


def is_source(session: Session, path: Path, *, own: bool) -> bool:
    """Says so where a file is read by the job: a drawing, a part, stock, another cut's program, or, as it is wanted, this cut's own."""
    folder = session.folder or Path()
    for cut in session.job.cuts:
        feature = cut.feature
        named = [] if feature is None else [(feature.dxf, "a drawing"), (feature.stl, "a part")]
        names = [(name, what) for name, what in named if name]
        if cut.program is not None:
            names += [(name, "stock") for name in files_of(cut.program.stock)]
            if own or cut.id != session.cut.id:
                is_own = cut.id == session.cut.id
                names.append((cut.program.file, "the program itself" if is_own else f"the program of {cut.name}"))
        for name, what in names:
            if is_same_file(path, folder / name):
                session.say(
                    "wrong",
                    f"{path.name} is {what} of this job; choose another name, so that the original stays"
                    if what in ("a drawing", "a part", "stock")
                    else f"that is {what}; choose another name, so that the original stays",
                )
                return True
    return False


def write_program(session: Session, path: Path, content: bytes) -> bool:
    """Writes a proved program and says so, or says why it is not there."""
    try:
        write_atomic(path, content)
    except LesnaError as error:
        session.say("wrong", f"{path.name}: {error}")
        return False
    session.say("note", f"{path.name} is written; run it first in single block, with reduced feed and rapids")
    return True
