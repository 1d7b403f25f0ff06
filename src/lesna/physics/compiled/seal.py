"""Files of the cache that tell whether they are whole: each ends in the digest of what stands before it."""

from __future__ import annotations

import hashlib
import stat
from functools import lru_cache
from pathlib import Path

#: the largest kernel is a hundredth of it
_LARGEST_BYTES = 50_000_000
_LENGTH = hashlib.sha256().digest_size


def sealed(content: bytes) -> bytes:
    """The content of a file with its digest behind it; pickled data may be followed by anything.

    Parameters
    ----------
    content : bytes
        What the file shall hold.
    """
    return content + hashlib.sha256(content).digest()


def is_sound(path: Path) -> bool:
    """Whether a file is there, readable and as it was written.

    Parameters
    ----------
    path : Path
        A file whose content was `sealed`.
    """
    try:
        found = path.stat()
    except OSError:
        return False
    if not stat.S_ISREG(found.st_mode) or found.st_size > _LARGEST_BYTES:
        return False
    return _is_whole(path, found.st_mtime_ns, found.st_size)


@lru_cache(maxsize=4096)
def _is_whole(path: Path, changed_ns: int, size: int) -> bool:
    """A file that has not changed since is not read again."""
    try:
        content = path.read_bytes()
    except OSError:
        return False
    return sealed(content[:-_LENGTH]) == content
