"""A camera on the edge of a tool that is not there: pictures of a worn flank with a known land and a known scale."""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass

import numpy as np

from lesna.physics import Array

#: size of a picture [px]
_WIDE, _HIGH = 640, 440
#: length of the bar that sets the scale [mm], and millimetres of a pixel
SCALE_BAR, MM_PER_PIXEL = 0.5, 0.0025
#: rows of the cutting edge and of the bar, and columns that the bar begins at
_EDGE, _BAR, _LEFT = 120, 400, 40
#: brightness of ground, rake, flank, land and bar
_GROUND, _RAKE, _FLANK, _LAND, _WHITE = 24.0, 70.0, 92.0, 205.0, 245.0


@dataclass(frozen=True)
class EdgePicture:
    """A picture as PNG, its true land [mm], and ends of the scale bar and of the land in pixels (x, y)."""

    content: bytes
    land: float
    bar: tuple[tuple[float, float], tuple[float, float]]
    across: tuple[tuple[float, float], tuple[float, float]]


def simulated_edge(land: float, *, seed: int = 5) -> EdgePicture:
    """A worn flank, bright where it rubbed, with a bar of half a millimetre under it.

    Parameters
    ----------
    land : float
        Width of the wear land VB [mm], at most 0.6.
    seed : int
        Of grinding marks and noise.
    """
    rng = np.random.default_rng(seed)
    rows = np.full((_HIGH, _WIDE), _GROUND)
    rows[40:_EDGE] = _RAKE
    width = int(round(min(max(land, 0.0), 0.6) / MM_PER_PIXEL))
    rows[_EDGE:360] = _FLANK + 8.0 * rng.standard_normal((1, _WIDE))  # grinding marks run down the flank
    if width:
        rows[_EDGE : _EDGE + width] = _LAND
    bar = int(round(SCALE_BAR / MM_PER_PIXEL))
    rows[_BAR - 3 : _BAR + 3, _LEFT : _LEFT + bar] = _WHITE
    seen = np.clip(_blurred(rows) + 4.0 * rng.standard_normal(rows.shape), 0, 255).astype(np.uint8)
    middle = _WIDE / 2
    return EdgePicture(
        _png(seen), width * MM_PER_PIXEL, ((_LEFT, _BAR), (_LEFT + bar, _BAR)), ((middle, _EDGE), (middle, _EDGE + width))
    )  # fmt: skip


def _blurred(rows: Array) -> Array:
    """A lens that is not quite sharp."""
    padded = np.pad(rows, 1, mode="edge")
    return np.asarray((padded[:-2, 1:-1] + 2.0 * padded[1:-1, 1:-1] + padded[2:, 1:-1]) / 4.0)


def _png(grey: Array) -> bytes:
    """A grey picture as PNG (ISO/IEC 15948)."""

    def chunk(kind: bytes, content: bytes) -> bytes:
        return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))

    head = struct.pack(">IIBBBBB", grey.shape[1], grey.shape[0], 8, 0, 0, 0, 0)
    lines = np.pad(grey, ((0, 0), (1, 0)))  # each line begins with its filter, none
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(lines.tobytes()))
        + chunk(b"IEND", b"")
    )
