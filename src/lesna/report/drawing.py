"""The elevation of tool, holder and part as SVG, dimensioned in the units of the job."""

from __future__ import annotations

from html import escape

from lesna.geometry.elevation import Elevation, Height, Shape, What
from lesna.model import units

_INK, _GREEN = "#1F2B36", "#0E6E74"
_FILLS: dict[What, str] = {"part": "#D9D2C2", "holder": "#E3DED2", "shank": "#FFFFFF", "flutes": "#E9CF7B"}


def elevation_svg(view: Elevation, system: units.System, *, width: float = 230, height: float = 300) -> str:
    """An SVG of an elevation."""
    left, bottom, right, top = view.bounds
    margin_x, margin_y = 88.0, 14.0
    scale = min((width - 2 * margin_x) / (right - left), (height - 2 * margin_y) / (top - bottom))
    x0 = width / 2 - scale * (left + right) / 2
    y0 = height / 2 + scale * (bottom + top) / 2

    def place(x: float, y: float) -> tuple[float, float]:
        return x0 + scale * x, y0 - scale * y

    def polygon(shape: Shape) -> str:
        points = " ".join(f"{px:.2f},{py:.2f}" for px, py in (place(x, y) for x, y in shape.outline))
        return f'<polygon points="{points}" fill="{_FILLS[shape.what]}" stroke="{_INK}" stroke-width="1"/>'

    def dimension(drawn: Height) -> str:
        side = drawn.side
        (px, p_low), (_, p_high) = place(left if side < 0 else right, drawn.low), place(0.0, drawn.high)
        px += side * 12
        anchor = "end" if side < 0 else "start"
        return (
            f'<path d="M{px - 4:.2f} {p_low:.2f}h8M{px - 4:.2f} {p_high:.2f}h8M{px:.2f} {p_low:.2f}V{p_high:.2f}" '
            f'stroke="{_GREEN}" stroke-width="1" fill="none"/>'
            f'<text x="{px + side * 6:.2f}" y="{(p_low + p_high) / 2 + 4:.2f}" font-size="14" font-family="B612, sans-serif" '
            f'text-anchor="{anchor}" fill="{_GREEN}">{escape(drawn.text(system))}</text>'
        )

    lines = "".join(
        f'<path d="M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}" stroke="{_INK}" stroke-width="0.6"/>'
        for (ax, ay), (bx, by) in ((place(*a), place(*b)) for a, b in view.helix_lines)
    )
    parts = [*map(polygon, view.shapes), lines, *map(dimension, view.heights)]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" '
        f'viewBox="0 0 {width:g} {height:g}">{"".join(parts)}</svg>'
    )
