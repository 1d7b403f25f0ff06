"""What was compiled of a module and kept, by its digests: numba trusts its files, so they are looked at before it reads them.

A file that is not as it was written is taken away, and what it held is compiled anew.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
import stat
from pathlib import Path

#: the largest kernel is a hundredth of it
_LARGEST_BYTES = 50_000_000


def files_of(folder: Path, module: str) -> list[Path]:
    """The kept files of a module of kernels, whatever stands under their names."""
    return sorted(folder.rglob(f"{module}.*.nb[ic]"))


def stamps_of(folder: Path, module: str) -> dict[Path, tuple[int, int]]:
    """When each of them was written, and its size [B]: they tell whether something was compiled since."""
    found = {}
    for path in files_of(folder, module):
        with contextlib.suppress(OSError):
            found[path] = (path.stat().st_mtime_ns, path.stat().st_size)
    return found


def seal(folder: Path, module: str) -> None:
    """Writes down what is kept of a module; where that cannot be, it counts as not kept."""
    digests = {path.name: digest for path in files_of(folder, module) if (digest := _digest(path))}
    place = _place(folder, module)
    beside = place.with_suffix(f".{os.getpid()}")
    with contextlib.suppress(OSError):
        beside.write_text(json.dumps(digests))
        os.replace(beside, place)


def is_sound(folder: Path, module: str) -> bool:
    """Whether something is kept of a module, and each file is as it was written."""
    return bool(files_of(folder, module)) and not _unsound(folder, module)


def clean(folder: Path, module: str) -> None:
    """Takes away what numba must not read."""
    for path in _unsound(folder, module):
        with contextlib.suppress(OSError):
            if path.is_dir() and not path.is_symlink():
                shutil.rmtree(path)
            else:
                path.unlink()


def _unsound(folder: Path, module: str) -> list[Path]:
    """Files that are not as the manifest says; all of them where one that it names is gone, since an index leads to it."""
    files = files_of(folder, module)
    try:
        digests = json.loads(_place(folder, module).read_text())
    except (OSError, ValueError):
        return files
    if not isinstance(digests, dict) or set(digests) - {path.name for path in files}:
        return files
    return [path for path in files if _digest(path) != digests.get(path.name)]


def _place(folder: Path, module: str) -> Path:
    return folder / f"{module}.digests"


def _digest(path: Path) -> str:
    """Digest of a regular file, empty where there is none to be read."""
    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode) or found.st_size > _LARGEST_BYTES:
            return ""
        return hashlib.sha256(path.read_bytes()).hexdigest()
    except OSError:
        return ""
