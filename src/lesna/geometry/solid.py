"""A surface of triangles read from an STL file, text or binary."""

from __future__ import annotations

import io
import logging

import numpy as np

from lesna.model.errors import InputError
from lesna.physics import Array

#: triangles that are read; a casting has a few hundred thousand
MOST_TRIANGLES = 2_000_000
#: bytes of a file with so many
MOST_BYTES = 84 + 50 * MOST_TRIANGLES
#: coordinates beyond this are no part [mm]
_FAR = 1e5


def read_stl(content: bytes) -> Array:
    """The triangles of an STL file in millimetres, as the format has no unit."""
    from stl import Mode, mesh

    if len(content) < 15:
        raise InputError("is no STL file: it is empty")
    is_text = content.lstrip()[:5].lower() == b"solid" and b"facet" in content[:4096]
    logging.getLogger("stl").setLevel(logging.CRITICAL)  # what is wrong is said below
    try:
        with np.errstate(all="ignore"):
            found = mesh.Mesh.from_file("", fh=io.BytesIO(content), mode=Mode.ASCII if is_text else Mode.BINARY,
                                        calculate_normals=False)  # fmt: skip
    except Exception as error:  # the library lets errors of every kind out of a broken file
        first = (str(error).splitlines() or [type(error).__name__])[0]
        raise InputError(f"is no STL file that can be read: {first[:120]}") from None
    triangles = np.asarray(found.vectors, dtype=float)
    if not len(triangles):
        raise InputError("holds no triangle; write the part as STL again")
    wrong = ~np.isfinite(triangles).all(axis=(1, 2)) | (np.abs(triangles) > _FAR).any(axis=(1, 2))
    if wrong.any():
        raise InputError(
            f"triangle {int(np.flatnonzero(wrong)[0]) + 1} has a coordinate that is no number or beyond {_FAR:g} mm"
        )
    return triangles
