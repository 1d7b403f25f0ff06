"""The tool in its holder against the part, seen from the side, to scale.

Screen and sheet draw the same outlines. Origin at the tool tip, x to the right, y up [mm].
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from lesna.geometry.holder import HolderShape, holder_shape, shank_diameter
from lesna.model.library_records import Tool
from lesna.model.resolve import CutParts

Point = tuple[float, float]
Outline = tuple[Point, ...]

#: a cut's drawing shows so much of the holder, over its nose and over the stick-out
_SHOWN_OVER_NOSE, _SHOWN_OVER_STICK_OUT = 1.1, 0.45


@dataclass(frozen=True)
class Elevation:
    """Outlines to draw, and the heights that are dimensioned."""

    flutes: Outline
    body: Outline
    holder: Outline
    part: Outline
    flute_length: float
    stick_out: float
    ap: float
    ae: float
    helix_lines: tuple[tuple[Point, Point], ...]

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of everything."""
        points = (*self.flutes, *self.body, *self.holder, *self.part)
        xs, ys = [x for x, _ in points], [y for _, y in points]
        return min(xs), min(ys), max(xs), max(ys)


def elevation_of(parts: CutParts) -> Elevation:
    """The elevation of one cut.

    Parameters
    ----------
    parts : CutParts
        The cut with its whole records.
    """
    cut, tool = parts.cut, parts.tool
    return Elevation(
        flutes=_flutes(tool),
        body=_body(tool, cut.stick_out_mm),
        holder=_holder(parts),
        part=_part(parts),
        flute_length=tool.APMX,
        stick_out=cut.stick_out_mm,
        ap=cut.ap_mm,
        ae=cut.ae_mm,
        helix_lines=_helix_lines(tool),
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
    arc = [(R - r + r * math.sin(a), r - r * math.cos(a)) for a in (math.pi / 2 * i / 12 for i in range(13))]
    return ((0.0, 0.0), *arc, (R, max(top, r)))


def _mirrored(half: list[Point]) -> Outline:
    return tuple(half) + tuple((-x, y) for x, y in reversed(half))


def _flutes(tool: Tool) -> Outline:
    return _mirrored(list(half_profile(tool)))


def _body(tool: Tool, stick_out: float) -> Outline:
    """Neck, transition and shank from the flutes to the holder face."""
    shank = shank_diameter(tool) / 2
    neck = (tool.DN if tool.DN is not None else min(tool.DC, 2 * shank)) / 2
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


@dataclass(frozen=True)
class ToolOutline:
    """A tool alone, from the tip up."""

    flutes: Outline
    body: Outline
    helix_lines: tuple[tuple[Point, Point], ...]
    length: float


def tool_alone(tool: Tool) -> ToolOutline:
    """The outline of a tool without holder and part, as long as it is; where nobody knows, a shank of two diameters more."""
    length = tool.OAL if tool.OAL is not None else max(tool.usable_length, tool.APMX) + 2 * tool.DC
    length = max(length, tool.APMX * 1.05)
    return ToolOutline(_flutes(tool), _body(tool, length), _helix_lines(tool), length)
