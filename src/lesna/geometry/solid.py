"""A surface of triangles read from an STL file, text or binary."""

from __future__ import annotations

import re

import numpy as np

from lesna.model.errors import InputError
from lesna.physics import Array

#: triangles that are read; a casting has a few hundred thousand
MOST_TRIANGLES = 2_000_000
#: bytes of a file with so many
MOST_BYTES = 84 + 50 * MOST_TRIANGLES
#: coordinates beyond this are no part [mm]
_FAR = 1e5
#: bytes before the first triangle of a binary file, and of each
_HEAD, _EACH = 84, 50
#: figures of millimetres to which corners are one
_SAME = 5
_FACET = re.compile(rb"\bfacet\s+normal\b", re.IGNORECASE)
_VERTEX = re.compile(rb"\bvertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)


def read_stl(content: bytes) -> Array:
    """The triangles of an STL file in millimetres, as the format has no unit; of all its solids."""
    if len(content) < 15:
        raise InputError("is no STL file: it is empty")
    is_text = content.lstrip()[:5].lower() == b"solid" and b"facet" in content[:4096].lower()
    triangles = _of_text(content) if is_text else _of_bytes(content)
    if not len(triangles):
        raise InputError("holds no triangle; write the part as STL again")
    wrong = ~np.isfinite(triangles).all(axis=(1, 2)) | (np.abs(triangles) > _FAR).any(axis=(1, 2))
    if wrong.any():
        raise InputError(
            f"triangle {int(np.flatnonzero(wrong)[0]) + 1} has a coordinate that is no number or beyond {_FAR:g} mm"
        )
    return triangles


def _of_text(content: bytes) -> Array:
    found = _FACET.split(content)[1:]
    if len(found) > MOST_TRIANGLES:
        raise InputError(f"holds {len(found):,} triangles; up to {MOST_TRIANGLES:,} are read")
    corners = [_VERTEX.findall(facet) for facet in found]
    odd = next((number for number, facet in enumerate(corners, start=1) if len(facet) != 3), None)
    if odd is not None:
        raise InputError(f"is no STL file that can be read: triangle {odd} has {len(corners[odd - 1])} corners")
    try:
        return np.array(corners, dtype=float).reshape(-1, 3, 3)
    except ValueError:
        raise InputError("is no STL file that can be read: a corner is no number") from None


def _of_bytes(content: bytes) -> Array:
    held = max(len(content) - _HEAD, 0) // _EACH
    stated = int.from_bytes(content[_HEAD - 4 : _HEAD], "little") if len(content) >= _HEAD else 0
    if stated != held:
        raise InputError(
            f"is no STL file that can be read: it states {stated:,} triangles and holds {held:,}; write it again"
        )
    if not held:
        raise InputError("is no STL file that can be read: it holds no triangle")
    rows = np.frombuffer(content, dtype=np.uint8, offset=_HEAD, count=held * _EACH).reshape(held, _EACH)
    return rows[:, 12:48].copy().view("<f4").astype(float).reshape(-1, 3, 3)


def open_at(triangles: Array) -> tuple[float, float, float] | None:
    """A place at which a surface has an edge of one triangle alone (x, y, z) [mm]; None where it is closed."""
    corners = np.round(triangles.reshape(-1, 3), _SAME)
    _, where = np.unique(corners, axis=0, return_inverse=True)
    index = where.reshape(-1, 3)
    edges = np.concatenate((index[:, [0, 1]], index[:, [1, 2]], index[:, [2, 0]]))
    edges = edges[edges[:, 0] != edges[:, 1]]
    _, first, counts = np.unique(np.sort(edges, axis=1), axis=0, return_index=True, return_counts=True)
    alone = first[counts % 2 == 1]
    if not len(alone):
        return None
    a = int(edges[alone[0], 0])
    x, y, z = corners[int(np.flatnonzero(where.ravel() == a)[0])].tolist()
    return x, y, z
