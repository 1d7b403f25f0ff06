"""A feature seen from above as SVG: floor and islands, open sides dashed, dimensioned in the units of the job."""

from __future__ import annotations

from html import escape

from lesna.geometry.region import Region, region_of
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import Feature

_INK, _GREEN, _FLOOR, _PART = "#1F2B36", "#0E6E74", "#FFFFFF", "#D9D2C2"
#: room for the dimensions left of the floor and below it, on its other sides, and for the part round it [px]
_LEFT, _BELOW, _FREE, _AROUND = 92.0, 44.0, 14.0, 9.0
_TEXT = 14


def plan_svg(feature: Feature | None, system: units.System, *, width: float = 230, height: float = 170) -> str:
    """An SVG of a feature; empty where it has no outline of its own."""
    if feature is None or feature.kind in ("surface", "chamfer"):
        return ""
    try:
        region = region_of(feature)
    except InputError:
        return ""
    left, low, right, high = region.floor.bounds
    wide, tall = width - _LEFT - _FREE, height - _BELOW - _FREE
    scale = min(wide / (right - left), tall / (high - low))
    x0, y0 = _LEFT + wide / 2 - scale * (left + right) / 2, _FREE + tall / 2 + scale * (low + high) / 2

    def place(x: float, y: float) -> tuple[float, float]:
        return x0 + scale * x, y0 - scale * y

    def outline(ring: object) -> str:
        points = [place(x, y) for x, y in ring.coords]  # type: ignore[attr-defined]
        return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points) + "Z"

    (px, py), (qx, qy) = place(left, high), place(right, low)
    inner = "".join(outline(ring) for ring in region.floor.interiors)
    parts = [
        f'<rect x="{px - _AROUND:.2f}" y="{py - _AROUND:.2f}" width="{qx - px + 2 * _AROUND:.2f}" '
        f'height="{qy - py + 2 * _AROUND:.2f}" fill="{_PART}"/>',
        f'<path d="{outline(region.floor.exterior)}{inner}" fill="{_FLOOR}" fill-rule="evenodd" stroke="{_INK}" stroke-width="1.2"/>',
        *_open_sides(region, (px, py, qx, qy)),
        _dimension((px, qy + _AROUND + 6), (qx, qy + _AROUND + 6), units.DIMENSION.full(right - left, system)),
        _dimension((px - _AROUND - 6, qy), (px - _AROUND - 6, py), units.DIMENSION.full(high - low, system)),
    ]
    corner = feature.corner_radius_mm
    if corner:
        parts.append(_text(qx - 5, py + 17, f"R {units.DIMENSION.full(corner, system)}", "end"))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" '
        f'viewBox="0 0 {width:g} {height:g}">{"".join(parts)}</svg>'
    )


def _open_sides(region: Region, box: tuple[float, float, float, float]) -> list[str]:
    """Air instead of material beside a side without a wall, and its edge dashed."""
    px, py, qx, qy = box
    ends = {"x-": (px, py, px, qy), "x+": (qx, py, qx, qy), "y+": (px, py, qx, py), "y-": (px, qy, qx, qy)}
    out = {"x-": (-_AROUND, 0.0), "x+": (_AROUND, 0.0), "y+": (0.0, -_AROUND), "y-": (0.0, _AROUND)}
    drawn = []
    for side in sorted(region.open_sides):
        ax, ay, bx, by = ends[side]
        dx, dy = out[side]
        drawn.append(
            f'<path d="M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}L{bx + dx:.2f} {by + dy:.2f}L{ax + dx:.2f} {ay + dy:.2f}Z" fill="#FFFFFF"/>'
            f'<path d="M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}" stroke="#FFFFFF" stroke-width="2"/>'
            f'<path d="M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}" stroke="{_INK}" stroke-width="1" stroke-dasharray="4 3"/>'
        )
    return drawn


def _dimension(a: tuple[float, float], b: tuple[float, float], text: str) -> str:
    (ax, ay), (bx, by) = a, b
    level = abs(by - ay) < abs(bx - ax)
    ticks = (
        f"M{ax:.2f} {ay - 4:.2f}v8M{bx:.2f} {by - 4:.2f}v8"
        if level
        else f"M{ax - 4:.2f} {ay:.2f}h8M{bx - 4:.2f} {by:.2f}h8"
    )
    line = f'<path d="{ticks}M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}" stroke="{_GREEN}" stroke-width="1" fill="none"/>'
    if level:
        return line + _text((ax + bx) / 2, ay + 18, text, "middle")
    return line + _text(ax - 7, (ay + by) / 2 + 5, text, "end")


def _text(x: float, y: float, text: str, anchor: str) -> str:
    return (
        f'<text x="{x:.2f}" y="{y:.2f}" font-size="{_TEXT}" font-family="B612, sans-serif" text-anchor="{anchor}" '
        f'fill="{_GREEN}">{escape(text)}</text>'
    )
