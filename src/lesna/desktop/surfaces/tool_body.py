"""Tool and holder as a body of revolution, as they stand on a place of the path."""

from __future__ import annotations

import numpy as np

from lesna.desktop.surfaces.scene import turned_body
from lesna.geometry.holder import holder_shape, shank_diameter
from lesna.model.resolve import CutParts
from lesna.physics import Array
from lesna.surface.drops import Shape

#: chords of the round end, and as much of the holder as is drawn [mm]
_CHORDS, _HOLDER = 10, 45.0


def body_at(parts: CutParts, shape: Shape, stick_out: float, tip: Array) -> Array:
    """Triangles (k, 3, 3) of a tool in its holder with its tip at a place [mm]."""
    tool = parts.tool
    angle = np.linspace(0.0, np.pi / 2 - shape.slant, _CHORDS + 1)
    end = np.stack((shape.rm + shape.r * np.sin(angle), shape.r * (1.0 - np.cos(angle))), axis=1)
    shank = shank_diameter(tool) / 2
    holder = holder_shape(parts.holder, parts.taper, 2 * shank)
    neck = min(tool.usable_length, stick_out)
    high = min(holder.projection, _HOLDER)
    outline = [
        (0.0, 0.0), *end.tolist(), (tool.diameter_at(neck) / 2, neck), (shank, neck), (shank, stick_out), (holder.nose / 2, stick_out),
        (holder.diameter_at(high) / 2, stick_out + high), (0.0, stick_out + high),
    ]  # fmt: skip
    return turned_body(np.array(outline), tip)
