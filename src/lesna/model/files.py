"""Reading and writing files so that nothing is ever half written or lost."""

from __future__ import annotations

import contextlib
import glob
import hashlib
import json
import os
import re
import stat
import tempfile
import time
from pathlib import Path
from typing import Any

from lesna.model.errors import FileProblem, InputError
from lesna.model.job import Job
from lesna.model.shown import shortened

#: no job comes near this; what is larger is some other file
LARGEST_JOB_BYTES = 20_000_000
#: device and number of every file that was read
_READ: set[tuple[int, int]] = set()
#: stands in a table's text for a byte that is none
UNREADABLE = "\ufffd"


def read_bytes(path: Path, *, largest: int) -> bytes:
    """The content of a file.

    Raises
    ------
    FileProblem
        When it is missing, a folder, a pipe or device, unreadable or too large.
    """
    try:
        if path.is_dir():
            raise FileProblem("is a folder; name a file in it")
        # a pipe is opened without waiting for somebody to write into it
        with open(os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC), "rb") as handle:
            if not stat.S_ISREG(os.fstat(handle.fileno()).st_mode):
                raise FileProblem("is a pipe or a device; name a file")
            # one byte more than may be there: files grow, and some say they are empty and never end
            content = handle.read(largest + 1)
            found = os.fstat(handle.fileno())
            _READ.add((found.st_dev, found.st_ino))
        if len(content) > largest:
            raise FileProblem(f"is larger than {largest // 1_000_000} MB; that is no file of this kind")
        return content
    except FileNotFoundError:
        raise FileProblem("does not exist; check the name") from None
    except FileProblem:
        raise
    except OSError as error:
        raise FileProblem(f"cannot be read: {(error.strerror or str(error)).lower()}") from None
    except ValueError:
        raise FileProblem("is no name of a file: it holds a NUL character") from None


def was_read(path: Path) -> bool:
    """Whether this process has read the file, under whatever name: what is made from it must not replace it."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return False
    return (found.st_dev, found.st_ino) in _READ


def read_text(path: Path, *, largest: int = LARGEST_JOB_BYTES) -> str:
    """The text of a UTF-8 file.

    Raises
    ------
    FileProblem
        As `read_bytes`, and when it is not text.
    """
    try:
        return read_bytes(path, largest=largest).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FileProblem("is not a text file (UTF-8 is needed)") from None


def table_text(path: Path) -> str:
    """The text of a table that some other program may have written: UTF-8, UTF-16, else western Windows.

    A byte that belongs to none of them is read as `UNREADABLE`, for it shall cost its own row only.

    Raises
    ------
    FileProblem
        As `read_bytes`.
    """
    raw = read_bytes(path, largest=LARGEST_JOB_BYTES)
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        return raw.decode("utf-16", errors="replace")
    for last, encoding in (
        (1, "utf-16-le"),
        (0, "utf-16-be"),
    ):  # without its mark: every other byte of plain letters is 0
        if raw[last:1000:2].count(0) > len(raw[:1000]) // 3:
            return raw.decode(encoding, errors="replace")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        meant = raw.decode("utf-8-sig", errors="replace")
    # its mark, or one letter beyond ASCII that is right, makes it UTF-8 with a slip, else it was never meant so
    is_meant = raw.startswith(b"\xef\xbb\xbf") or re.search(r"[^\x00-\x7f\ufffd]", meant)
    return meant if is_meant else raw.decode("cp1252", errors="replace")


def write_atomic(
    path: Path, content: bytes, *, keep_former: bool = False, private: bool = False, over_read_only: bool = False
) -> None:
    """Writes beside, syncs, then renames; with `keep_former` the old version stays as ``name~``, a `private` file is its owner's alone.

    A link stays a link: what it points to is written. What a process that was killed left half written beside it goes.

    Raises
    ------
    FileProblem
        When the file or its folder is read-only, the folder is missing, or the disk is full; the old file is then untouched.
    """
    temporary = None
    try:
        path = path.resolve() if path.is_symlink() else path
        if is_read_only(path) and not over_read_only:
            raise FileProblem("is read-only; make it writable first, or choose another name")
        _clear(path)
        with tempfile.NamedTemporaryFile(
            dir=path.parent, prefix=f"{_beginning(path)}{os.getpid()}-", suffix=_UNFINISHED, delete=False
        ) as handle:
            temporary = Path(handle.name)
            made = os.fstat(handle.fileno())
            # a new file may have the number of one that was read and is gone
            _READ.discard((made.st_dev, made.st_ino))
            handle.write(content)
            handle.flush()
            os.fsync(handle.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        os.chmod(temporary, mode & 0o600 if private else mode)
        if keep_former and path.exists():
            _keep(path)
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except FileProblem:
        raise
    except (OSError, ValueError, RuntimeError) as error:  # a name with a NUL, a link that points to itself
        if temporary is not None:
            temporary.unlink(missing_ok=True)
        reason = error.strerror.lower() if isinstance(error, OSError) and error.strerror else str(error)
        raise FileProblem(f"cannot be written ({reason}); what is open is unchanged, save it elsewhere") from None


def is_there(path: Path) -> bool:
    """Whether something has this name: also a link that leads nowhere, and what may not be looked at; reading it says so."""
    try:
        path.lstat()
    except (FileNotFoundError, NotADirectoryError, ValueError):
        return False
    except OSError:
        return True
    return True


def is_read_only(path: Path) -> bool:
    """Whether a file is there and nobody is to write it, whoever asks."""
    try:
        return not path.stat().st_mode & 0o222
    except (OSError, ValueError):
        return False


def is_same_file(one: Path, other: Path) -> bool:
    """Whether two names are of one file, through links and spellings."""
    try:
        return one.exists() and other.exists() and one.samefile(other)
    except (OSError, ValueError):
        return False


#: ends the name of a file that is being written
_UNFINISHED = ".part"
#: a younger one may be of a process on another machine [s]
_ABANDONED = 10.0


def _beginning(path: Path) -> str:
    return f".{path.name[:60]}."


def _clear(path: Path) -> None:
    """Takes away what processes that are gone left unfinished for a file."""
    for left in path.parent.glob(f"{glob.escape(_beginning(path))}*{_UNFINISHED}"):
        pid = left.name.removeprefix(_beginning(path)).partition("-")[0]
        with contextlib.suppress(OSError):
            if pid.isdigit() and not Path(f"/proc/{pid}").exists() and time.time() - left.stat().st_mtime > _ABANDONED:
                left.unlink()


def _keep(path: Path) -> None:
    """The former version beside the new one, also made by a rename so that it is never half there."""
    former = path.with_name(path.name + "~")
    spare = path.with_name(f".{path.name}.former")
    spare.unlink(missing_ok=True)
    try:
        os.link(path, spare)
    except OSError:  # file systems without hard links
        spare.write_bytes(path.read_bytes())
    os.replace(spare, former)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _sync_folder(folder: Path) -> None:
    """Makes the rename last through a loss of power; a file system that cannot has written the file all the same."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


#: how half a character is written in a text that is whole itself
_HALF = re.compile(r"\\u[dD][89a-fA-F]")


def parse_json(text: str) -> Any:
    """The data in a JSON text.

    Raises
    ------
    InputError
        With line and column when the text is cut short or not JSON, for keys written twice, and for half characters.
    """
    try:
        data = json.loads(text, object_pairs_hook=_no_twice)
        if _HALF.search(text):
            json.dumps(data, ensure_ascii=False).encode("utf-8")
        return data
    except UnicodeEncodeError:
        raise InputError(
            "the file holds half a character (a \\ud800 to \\udfff that stands alone), which no text can hold"
        ) from None
    except json.JSONDecodeError as error:
        ending = "ends too early" if error.pos >= len(text.rstrip()) else "is not valid JSON"
        raise InputError(f"the file {ending} (line {error.lineno}, column {error.colno}: {error.msg})") from None
    except RecursionError:
        raise InputError("the file is nested too deeply to be read") from None
    except InputError:
        raise
    except ValueError:  # a whole number of thousands of digits
        raise InputError("the file holds a number that is too long to be read") from None


def _no_twice(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in pairs:
        if key in out:
            raise InputError("is given twice; keep one", shortened(key))
        out[key] = value
    return out


def job_from_text(text: str) -> Job:
    """The job in the text of a ``*.lesna`` file."""
    raw = parse_json(text)
    if not isinstance(raw, dict):
        raise InputError('the file holds no job: a JSON object with "lesna": 1 is needed')
    if raw.get("lesna") is None:
        raise InputError('is missing; a job begins with "lesna": 1', "lesna")
    return Job.read(raw)


def load_job(path: Path) -> Job:
    """The job in a file (see `read_text` and `job_from_text` for the errors)."""
    return job_from_text(read_text(path))


def job_text(job: Job) -> str:
    """The text of a job file."""
    return json.dumps(job.to_data(), indent=1, ensure_ascii=False) + "\n"


def fingerprint(path: Path) -> str:
    """What tells whether a file is still the same; empty where there is none or it cannot be read."""
    try:
        return hashlib.sha256(read_bytes(path, largest=LARGEST_JOB_BYTES)).hexdigest()
    except FileProblem:
        return ""


def save_job(job: Job, path: Path, *, over_read_only: bool = False) -> None:
    """Writes a job atomically; the former version stays as ``*.lesna~`` (errors of `write_atomic`)."""
    write_atomic(path, job_text(job).encode("utf-8"), keep_former=True, over_read_only=over_read_only)
