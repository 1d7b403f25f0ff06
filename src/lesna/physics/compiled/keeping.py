"""How a kernel is compiled and kept: numba's own cache, in a folder of ours and with what is unsound there taken away first."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from numba import njit

from lesna.physics.compiled import manifest

#: options of functions that make no arrays: those they are given are not counted each time they are handed on, which in small
#: functions that run for every place takes most of the time
BORROWS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False, "_nrt": False}

#: where kernels are kept, None where there is no place: then they are compiled and used
_folder: Path | None = None
#: modules whose files were looked at, with what was there then
_looked_at: dict[str, dict[Path, tuple[int, int]]] = {}


def keep_in(folder: Path | None) -> None:
    """Chooses where kernels are kept from now on, None for nowhere."""
    global _folder
    _folder = folder
    _looked_at.clear()


def seal() -> None:
    """Writes down what was compiled since."""
    for module, before in _looked_at.items():
        if _folder is not None and (now := manifest.stamps_of(_folder, module)) != before:
            manifest.seal(_folder, module)
            _looked_at[module] = now


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
        module = plain.__module__.rpartition(".")[2]
        if _folder is not None and module not in _looked_at:
            manifest.clean(_folder, module)
            _looked_at[module] = manifest.stamps_of(_folder, module)
        return njit(signature, cache=_folder is not None, **options)(plain)

    return compiled
