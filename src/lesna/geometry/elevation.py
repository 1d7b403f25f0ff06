"""The tool in its holder against the part, the tool alone and the holder alone, seen from the side, to scale.

Screen, sheet and library draw what stands in one list. Origin at the tool tip, x to the right, y up [mm].
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from lesna.geometry.holder import HolderShape, holder_shape, shank_diameter
from lesna.model import units
from lesna.model.library_records import Holder, Tool
from lesna.model.resolve import CutParts

Point = tuple[float, float]
Outline = tuple[Point, ...]
What = Literal["part", "holder", "shank", "flutes"]

#: a cut's drawing shows so much of the holder, over its nose and over the stick-out
_SHOWN_OVER_NOSE, _SHOWN_OVER_STICK_OUT = 1.1, 0.45
#: the shank that a holder alone is drawn around, whose nose its row names [mm], and how far it stands out
_SHANK, _SHANK_SHOWN = 12.0, 18.0


@dataclass(frozen=True)
class Shape:
    """An outline and what it belongs to; whoever draws it chooses its colours by that."""

    what: What
    outline: Outline


@dataclass(frozen=True)
class Height:
    """A height that is dimensioned beside the shapes, left of them (-1) or right (1)."""

    low: float
    high: float
    side: int
    name: str = ""
    quantity: units.Quantity = units.DIMENSION

    def text(self, system: units.System) -> str:
        """What stands at it."""
        return f"{self.name} {self.quantity.full(self.high - self.low, system)}".strip()


@dataclass(frozen=True)
class Diameter:
    """A diameter that is written on the shapes, at a height."""

    y: float
    size: float
    name: str

    def text(self, system: units.System) -> str:
        """What stands at it."""
        return f"{self.name} {units.DIMENSION.full(self.size, system)}"


@dataclass(frozen=True)
class Elevation:
    """What is drawn, in its order; `foot` is dimensioned across under it."""

    shapes: tuple[Shape, ...]
    helix_lines: tuple[tuple[Point, Point], ...] = ()
    heights: tuple[Height, ...] = ()
    foot: Diameter | None = None
    diameters: tuple[Diameter, ...] = ()

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of everything."""
        points = [point for shape in self.shapes for point in shape.outline]
        xs, ys = [x for x, _ in points], [y for _, y in points]
        return min(xs), min(ys), max(xs), max(ys)


def elevation_of(parts: CutParts) -> Elevation:
    """The elevation of one cut: stick-out on its left, depth on its right.

    Parameters
    ----------
    parts : CutParts
        The cut with its whole records.
    """
    cut, tool = parts.cut, parts.tool
    return Elevation(
        shapes=(
            Shape("part", _part(parts)), Shape("holder", _holder(parts)),
            Shape("shank", _body(tool, cut.stick_out_mm)), Shape("flutes", _flutes(tool)),
        ),
        helix_lines=_helix_lines(tool),
        heights=(Height(0.0, cut.stick_out_mm, -1), Height(0.0, cut.ap_mm, 1, quantity=units.LENGTH)),
    )  # fmt: skip


def tool_alone(tool: Tool) -> Elevation:
    """A tool from the tip up, as long as it is; where nobody knows, a shank of two diameters more."""
    length = tool.OAL if tool.OAL is not None else max(tool.usable_length, tool.APMX) + 2 * tool.DC
    length = max(length, tool.APMX * 1.05)
    lengths = (("APMX", tool.APMX, -1), ("LU", tool.LU, 1), ("OAL", tool.OAL, -1))
    return Elevation(
        shapes=(Shape("shank", _body(tool, length)), Shape("flutes", _flutes(tool))),
        helix_lines=_helix_lines(tool),
        heights=tuple(Height(0.0, high, side, name) for name, high, side in lengths if high is not None),
        foot=Diameter(0.0, tool.DC, "DC"),
    )


def holder_alone(holder: Holder) -> Elevation:
    """A holder around a shank of 12 mm, as it is bent and kept clear of the part."""
    shape = holder_shape(holder, None, _SHANK)
    half, top = _SHANK / 2, _SHANK_SHOWN + shape.projection
    shank = ((-half, 0.0), (half, 0.0), (half, _SHANK_SHOWN), (-half, _SHANK_SHOWN))
    beside = 0.12 * shape.projection
    return Elevation(
        shapes=(Shape("flutes", shank), Shape("holder", holder_outline(shape, _SHANK_SHOWN, shape.projection))),
        heights=(Height(_SHANK_SHOWN, top, 1, "to the gauge line"),),
        foot=Diameter(0.0, _SHANK, "shank"),
        diameters=(Diameter(_SHANK_SHOWN + beside, shape.nose, "nose"), Diameter(top - beside, shape.body, "body")),
    )


def half_profile(tool: Tool) -> Outline:
    """Right half of the cutting envelope from the axis at the tip to APMX."""
    R, top = tool.DC / 2, tool.APMX
    if tool.kind in ("high_feed", "chamfer"):
        tip = tool.tip_diameter / 2
        rise = (R - tip) * math.tan(math.radians(tool.KAPR if tool.kind == "high_feed" else 90 - tool.half_angle))
        return ((0.0, 0.0), (tip, 0.0), (R, min(rise, top)), (R, top))
    r = min(tool.corner, R)
    if r <= 0:
        return ((0.0, 0.0), (R, 0.0), (R, top))
    # an arc up to where the flank goes on: upright, or on its taper
    whole = math.pi / 2 - math.radians(tool.taper_deg or 0.0)
    arc = [(R - r + r * math.sin(a), r - r * math.cos(a)) for a in (whole * i / 12 for i in range(13))]
    high = max(top, r)
    if tool.taper_deg is None:
        return ((0.0, 0.0), *arc, (R, high))
    full = arc[-1][1] + (tool.widest / 2 - arc[-1][0]) / math.tan(math.radians(tool.taper_deg))
    shoulder = ((tool.widest / 2, full),) if arc[-1][1] < full < high else ()
    return ((0.0, 0.0), *arc, *shoulder, (tool.diameter_at(high) / 2, high))


def _mirrored(half: list[Point]) -> Outline:
    return tuple(half) + tuple((-x, y) for x, y in reversed(half))


def _flutes(tool: Tool) -> Outline:
    return _mirrored(list(half_profile(tool)))


def _body(tool: Tool, stick_out: float) -> Outline:
    """Neck, transition and shank from the flutes to the holder face."""
    shank = shank_diameter(tool) / 2
    neck = (tool.DN if tool.DN is not None else min(tool.diameter_at(tool.APMX), 2 * shank)) / 2
    start, end = tool.APMX, max(stick_out, tool.APMX)
    reach = min(max(tool.usable_length, start), end)
    slope = min(abs(shank - neck), end - reach)
    return _mirrored([(neck, start), (neck, reach), (shank, reach + slope), (shank, end)])


def _holder(parts: CutParts) -> Outline:
    face = parts.cut.stick_out_mm
    shape = holder_shape(parts.holder, parts.taper, shank_diameter(parts.tool))
    shown = max(_SHOWN_OVER_NOSE * shape.nose, _SHOWN_OVER_STICK_OUT * face)
    return holder_outline(shape, face, min(shown, shape.projection))


def holder_outline(shape: HolderShape, face: float, height: float) -> Outline:
    """A holder from its face up, the face at a height above the tip."""
    return _mirrored([(shape.nose / 2, face), (shape.diameter_at(height) / 2, face + height)])


def _part(parts: CutParts) -> Outline:
    """The stock to the right of the wall that the tool has reached, and the floor under it."""
    cut, tool = parts.cut, parts.tool
    wall = tool.DC / 2 - cut.ae_mm
    width, floor = max(tool.DC, 10.0), max(0.25 * tool.DC, 4.0)
    left, right = -tool.DC / 2 - 0.35 * width, tool.DC / 2 + 0.6 * width
    return ((left, 0.0), (wall, 0.0), (wall, cut.ap_mm), (right, cut.ap_mm), (right, -floor), (left, -floor))


def _helix_lines(tool: Tool) -> tuple[tuple[Point, Point], ...]:
    """Flute lines across the cutting length, as a drawing hints at them."""
    if tool.FHA <= 0 or tool.kind in ("high_feed", "face", "chamfer") or tool.APMX < 0.3 * tool.DC:
        return ()
    R, top = tool.DC / 2, tool.APMX
    rise = tool.DC / math.tan(math.radians(tool.FHA))
    pitch = max(rise / 2, top / 8)
    start, lines = -rise, []
    while start < top:
        low, high = max(start, tool.corner), min(start + rise, top)
        if high > low:
            x = [-R + (y - start) / rise * tool.DC for y in (low, high)]
            lines.append(((x[0], low), (x[1], high)))
        start += pitch
    return tuple(lines)
