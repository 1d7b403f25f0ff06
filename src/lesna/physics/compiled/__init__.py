"""The loops of physics as machine code (numba), each beside a plain reference that tests compare.

Importing this package is cheap; `load` takes a kernel from the user's cache or compiles it. numba's cache does not
notice when a kernel of another module changes, so it is kept apart by version and by the text of these modules.
"""

from __future__ import annotations

import atexit
import hashlib
import os
import shutil
import sys
import tempfile
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from lesna import __version__
from lesna.physics.compiled.manifest import is_sound

#: kernel -> module that holds it, under ``run_`` and its name
KERNELS = {"turn": "one_turn", "turn_at": "one_turn", "sweep": "map_sweep", "largest_multiplier": "floquet",
           "stock_walk": "stock_walk", "stock_strikes": "stock_walk", "stock_depths": "stock_walk", "straight_runs": "stock_walk",
           "stock_surface": "stock_surface",
           "path_loads": "path_loads", "path_nodes": "path_loads", "motion_times": "motion_times",
           "march": "marching", "wall_distance": "grids", "nearest": "grids", "upstream": "fronts", "taut": "fronts",
           "renewed": "fronts",
           "arc_fit": "arcs", "surface_boxes": "surface_boxes", "surface_drops": "surface_drop", "surface_reach": "surface_drop",
           "surface_crossings": "surface_crossings", "surface_follow": "surface_follow", "surface_contour": "surface_contours",
           "surface_front": "surface_front", "judge_squares": "surface_judge", "judge_depths": "surface_judge",
           "judge_left": "surface_judge", "judge_reach": "surface_judge",
           "brick_walk": "brick_walk", "brick_values": "brick_walk", "ring_loads": "ring_turn",
           "picture_bricks": "brick_picture", "picture_traces": "brick_picture",
           "mesh_near": "brick_mesh", "mesh_columns": "brick_mesh", "mesh_signs": "brick_mesh",
           "picture_faces": "pictures", "picture_lines": "pictures"}  # fmt: skip
#: what a single cut and its map ask for
OF_CUTS = ("turn", "turn_at", "sweep", "largest_multiplier")
#: what a program or a path asks for
OF_PATHS = ("stock_walk", "stock_strikes", "stock_depths", "straight_runs", "stock_surface", "path_loads",
            "path_nodes", "motion_times")  # fmt: skip
#: what a program of five axes asks for
OF_TILTED = ("brick_walk", "brick_values", "ring_loads", "motion_times", "mesh_near", "mesh_columns",
             "mesh_signs")  # fmt: skip
#: what a surface asks for
OF_SURFACES = ("surface_boxes", "surface_drops", "surface_reach", "surface_crossings", "surface_follow", "surface_contour",
               "surface_front", "judge_squares", "judge_depths", "judge_left", "judge_reach")  # fmt: skip
#: what a part is drawn with
OF_PICTURES = ("picture_faces", "picture_lines")
#: what stock in bricks is drawn with
OF_BRICKS = ("picture_bricks", "picture_traces", "picture_faces")
#: what the making of a path asks for beside them
OF_WAYS = ("march", "wall_distance", "nearest", "upstream", "taut", "renewed", "arc_fit")
MODULES = tuple(dict.fromkeys(KERNELS.values()))
#: as counted once; only what is told of the progress depends on it
_FUNCTIONS = {"one_turn": 9, "map_sweep": 103, "floquet": 59, "stock_walk": 19, "stock_surface": 1,
              "path_loads": 7, "motion_times": 5, "marching": 6, "grids": 5, "fronts": 7, "arcs": 3, "surface_boxes": 5,
              "surface_drop": 13, "surface_crossings": 2,
              "surface_follow": 4, "surface_contours": 6, "surface_front": 2, "surface_judge": 14, "pictures": 2,
              "brick_walk": 12, "ring_turn": 3, "brick_mesh": 4, "brick_picture": 4}  # fmt: skip


@cache
def _digest() -> str:
    text = hashlib.sha256()
    for source in sorted(Path(__file__).parent.glob("*.py")):
        text.update(source.read_bytes())
    return text.hexdigest()[:12]


#: modules of this package that hold no kernels
_NO_KERNELS = tuple(f"{__name__}.{name}" for name in ("keeping", "manifest", "__main__"))
#: where a process whose home cannot be written keeps its kernels, and those that it starts theirs
_FOR_ONCE = "LESNA_KERNELS_FOR_ONCE"


def folder() -> Path:
    """Where compiled kernels of this version are kept; for this once where the user's cache cannot be written."""
    home = os.environ.get(_FOR_ONCE) or os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    kept = Path(home) / "lesna" / f"kernels-{__version__}-{_digest()}"
    if _can_write(kept) or _FOR_ONCE in os.environ:
        return kept
    try:
        os.environ[_FOR_ONCE] = tempfile.mkdtemp(prefix="lesna-kernels-")
    except OSError:
        return kept  # nowhere at all: they are compiled and not kept
    atexit.register(shutil.rmtree, os.environ[_FOR_ONCE], ignore_errors=True)
    return folder()


@cache
def _can_write(place: Path) -> bool:
    """Whether a folder is there, or can be made, and takes files."""
    try:
        place.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=place):
            return True
    except OSError:
        return False


def is_cached(*modules: str) -> bool:
    """Whether the kernels of some modules have been compiled before, and are whole."""
    return all(is_sound(folder(), name) for name in modules)


def functions_of(module: str) -> int:
    """About how many functions are compiled for a module, numba's own among them: a measure of how far it is [-]."""
    return _FUNCTIONS[module]


def load_module(name: str) -> Any:
    """A module of kernels, compiled or from the cache.

    Parameters
    ----------
    name : str
        One of `MODULES`.
    """
    import numba

    from lesna.physics.compiled import keeping

    if _can_write(folder()):
        numba.config.CACHE_DIR = str(folder())  # type: ignore[attr-defined]
        keeping.keep_in(folder())
    try:
        found = import_module(f"{__name__}.{name}")
        keeping.seal()
    except (
        OSError,
        RuntimeError,
    ):  # a full disk, or a place that numba cannot use: compiled all the same, and not kept
        keeping.keep_in(None)
        for begun in [key for key in sys.modules if key.startswith(f"{__name__}.") and key not in _NO_KERNELS]:
            del sys.modules[begun]
        found = import_module(f"{__name__}.{name}")
    return found


def load(kernel: str) -> Any:
    """A kernel, compiled or from the cache."""
    return getattr(load_module(KERNELS[kernel]), f"run_{kernel}")
