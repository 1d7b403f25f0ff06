"""The loops of physics as machine code (numba), each beside a plain reference that tests compare.

Importing this package is cheap; `load` takes a kernel from the user's cache or compiles it. numba's cache does not
notice when a kernel of another module changes, so it is kept apart by version and by the text of these modules.
"""

from __future__ import annotations

import hashlib
import os
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from lesna import __version__

#: kernel -> module that holds it, under ``run_`` and its name
KERNELS = {"turn": "one_turn", "sweep": "map_sweep", "sweep_points": "map_sweep", "largest_multiplier": "floquet",
           "stock_walk": "stock_walk", "stock_strikes": "stock_walk", "stock_surface": "stock_surface",
           "path_loads": "path_loads", "motion_times": "motion_times",
           "march": "marching", "wall_distance": "grids", "nearest": "grids"}  # fmt: skip
#: what a single cut and its map ask for
OF_CUTS = ("turn", "sweep", "sweep_points", "largest_multiplier")
#: what a program or a path asks for
OF_PATHS = ("stock_walk", "stock_strikes", "stock_surface", "path_loads", "motion_times")
#: what the making of a path asks for beside them
OF_WAYS = ("march", "wall_distance", "nearest")
MODULES = tuple(dict.fromkeys(KERNELS.values()))
#: as counted once; only what is told of the progress depends on it
_FUNCTIONS = {"one_turn": 9, "map_sweep": 103, "floquet": 59, "stock_walk": 18, "stock_surface": 1,
              "path_loads": 6, "motion_times": 5, "marching": 6, "grids": 4}  # fmt: skip


@cache
def _digest() -> str:
    text = hashlib.sha256()
    for source in sorted(Path(__file__).parent.glob("*.py")):
        text.update(source.read_bytes())
    return text.hexdigest()[:12]


def folder() -> Path:
    """Where compiled kernels of this version are kept."""
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(home) / "lesna" / f"kernels-{__version__}-{_digest()}"


def is_cached(*modules: str) -> bool:
    """Whether the kernels of some modules have been compiled before.

    Parameters
    ----------
    modules : str
        Of `MODULES`.
    """
    found = " ".join(path.name for path in folder().rglob("*.nbi")) if folder().is_dir() else ""
    return all(f"{name}." in found for name in modules)


def functions_of(module: str) -> int:
    """About how many functions are compiled for a module, numba's own among them: a measure of how far it is [-].

    Parameters
    ----------
    module : str
        One of `MODULES`.
    """
    return _FUNCTIONS[module]


def load_module(name: str) -> Any:
    """A module of kernels, compiled or from the cache.

    Parameters
    ----------
    name : str
        One of `MODULES`.
    """
    import numba

    # a home that cannot be written costs the cache, not the kernels
    numba.config.CACHE_DIR = str(folder())  # type: ignore[attr-defined]
    return import_module(f"{__name__}.{name}")


def load(kernel: str) -> Any:
    """A kernel, compiled or from the cache.

    Parameters
    ----------
    kernel : str
        One of `KERNELS`.
    """
    return getattr(load_module(KERNELS[kernel]), f"run_{kernel}")
