"""Ways and times that were measured, kept in the user's cache by all that they depend on, so that the next start need not make them again.

What is there and cannot be read is as good as nothing: the way is made.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import zipfile
import zlib
from dataclasses import fields
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

import lesna
from lesna.data.places import cache_folder
from lesna.geometry.region import Region
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_bytes, write_atomic
from lesna.paths.demand import Demand

#: code that decides how a way is made and measured: a change in it leaves everything kept before aside
_DECIDING = ("paths", "geometry", "physics/edge", "physics/compiled", "planning/routes")
#: what was kept last is kept: so many ways, of which so many go at once
_MOST, _AT_ONCE = 2000, 400
_LARGEST = 20_000_000


def key_of(region: Region, generator: str, demand: Demand) -> str:
    """What tells a way on a floor from every other: floor, walls, stock and clamps, what makes it, and how it is to be cut."""
    import shapely

    told = hashlib.sha256(code_digest(_DECIDING).encode())
    for shape in (region.floor, region.stock, region.keep_out):
        told.update(b"none" if shape is None else shapely.to_wkb(shape))
    told.update(
        repr(
            (sorted(region.open_sides), generator, [(f.name, getattr(demand, f.name)) for f in fields(demand)])
        ).encode()
    )
    return told.hexdigest()


@lru_cache(maxsize=4)
def code_digest(rooms: tuple[str, ...]) -> str:
    """Digest of the code in some rooms: what it decided before it was changed is not kept any longer."""
    told, root = hashlib.sha256(lesna.__version__.encode()), Path(lesna.__file__).parent
    for room in rooms:
        for path in sorted((root / room).rglob("*.py")):
            told.update(path.read_bytes())
    return told.hexdigest()


def _folder() -> Path:
    return cache_folder() / "ways"


def kept(key: str) -> dict[str, Any] | InputError | None:
    """The fields of a measured way, or why none can be made; None where it is not kept."""
    try:
        with np.load(io.BytesIO(read_bytes(_folder() / f"{key}.npz", largest=_LARGEST)), allow_pickle=False) as found:
            values = {name: found[name] for name in found.files}
    except (FileProblem, OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile, zlib.error):
        return None
    if "refused" in values:
        return InputError(str(values["refused"]), str(values["field"]))
    return values


def keep(key: str, values: dict[str, Any] | InputError) -> None:
    """Keeps a measured way; where the cache cannot be written nothing is kept."""
    out = io.BytesIO()
    if isinstance(values, InputError):
        values = {"refused": np.array(values.message), "field": np.array(values.field)}
    np.savez(out, **values)
    with contextlib.suppress(FileProblem, OSError):
        _folder().mkdir(parents=True, exist_ok=True)
        write_atomic(_folder() / f"{key}.npz", out.getvalue(), private=True)
        _thin_out()


def _thin_out() -> None:
    """Takes the oldest ways away where there are too many."""
    there = list(_folder().glob("*.npz"))
    if len(there) > _MOST:
        for path in sorted(there, key=lambda path: path.stat().st_mtime)[:_AT_ONCE]:
            path.unlink(missing_ok=True)
