"""Machine code and the user's cache of it: what is damaged there is compiled anew, what cannot be kept is used all the same."""

from __future__ import annotations

import contextlib
import io
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from numba import njit
from numba.core.caching import FunctionCache, IndexDataCacheFile

from lesna.physics.compiled.seal import is_sound, sealed


class _SealedFiles(IndexDataCacheFile):
    """Index and data of one function; what is not sound is not there."""

    def _load_index(self) -> Any:
        return super()._load_index() if is_sound(Path(self._index_path)) else {}

    def _load_data(self, name: str) -> Any:
        if not is_sound(Path(self._data_path(name))):
            raise FileNotFoundError(name)  # numba compiles what is not there, and writes over it
        return super()._load_data(name)

    @contextlib.contextmanager
    def _open_for_write(self, filepath: str) -> Iterator[io.BytesIO]:
        content = io.BytesIO()
        yield content
        with super()._open_for_write(filepath) as handle:
            handle.write(sealed(content.getvalue()))


class _Cache(FunctionCache):
    """The compiled forms of one function on disk."""

    def __init__(self, plain: Callable[..., Any]) -> None:
        super().__init__(plain)
        self._cache_file = _SealedFiles(
            self._cache_path, self._impl.filename_base, self._impl.locator.get_source_stamp()
        )

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        try:
            return super().load_overload(sig, target_context)
        except Exception:  # whatever an odd file brings forth, compiling does without it
            return None

    def save_overload(self, sig: Any, data: Any) -> None:
        with contextlib.suppress(OSError):  # a full or a read-only disk: used this time, compiled again next time
            super().save_overload(sig, data)


def machine_code(signature: str | None = None, **options: Any) -> Callable[[Callable[..., Any]], Any]:
    """Decorator: a function compiled by numba, taken from the user's cache where it is there and sound.

    Parameters
    ----------
    signature : str or None
        Compiled for it at once and for nothing else; None: for whatever its callers need.
    options : dict
        As ``numba.njit`` has them.
    """

    def compiled(plain: Callable[..., Any]) -> Any:
        made = njit(**options)(plain)
        with contextlib.suppress(Exception):  # no place that can be written, or a numba whose cache is another one
            made._cache = _Cache(plain)
        if signature is not None:
            made.compile(signature)
            made.disable_compile()
        return made

    return compiled
