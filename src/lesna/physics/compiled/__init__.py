"""The loops of physics as machine code (numba), each beside a plain reference that tests compare.

Importing this package is cheap; `warm` loads the kernels from the user's cache or compiles them. numba's cache does not
notice when a kernel of another module changes, so it is kept apart by version and by the text of these modules.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from lesna import __version__

_MODULES = ("one_turn", "map_sweep", "floquet")


@cache
def _digest() -> str:
    text = hashlib.sha256()
    for source in sorted(Path(__file__).parent.glob("*.py")):
        text.update(source.read_bytes())
    return text.hexdigest()[:12]


def _folder() -> Path:
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(home) / "lesna" / f"kernels-{__version__}-{_digest()}"


def is_cached() -> bool:
    """Whether the kernels of every module have been compiled before."""
    found = " ".join(path.name for path in _folder().rglob("*.nbi")) if _folder().is_dir() else ""
    return all(f"{name}." in found for name in _MODULES)


def warm(progress: Callable[[int, int], None]) -> None:
    """Loads or compiles every kernel.

    Parameters
    ----------
    progress : callable
        Told (done, total) after each [-].
    """
    import numba

    # a home that cannot be written costs the cache, not the kernels
    numba.config.CACHE_DIR = str(_folder())  # type: ignore[attr-defined]
    for done, name in enumerate(_MODULES):
        progress(done, len(_MODULES))
        import_module(f"{__name__}.{name}")
    progress(len(_MODULES), len(_MODULES))


def __getattr__(name: str) -> Any:
    """The kernels by their short names, once they are warm."""
    places = {"turn": "one_turn", "sweep": "map_sweep", "largest_multiplier": "floquet"}
    if name not in places:
        raise AttributeError(name)
    return getattr(import_module(f"{__name__}.{places[name]}"), f"run_{name}")
