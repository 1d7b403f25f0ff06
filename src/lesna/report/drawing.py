"""The elevation of tool, holder and part as SVG, dimensioned in the units of the job."""

from __future__ import annotations

from html import escape

from lesna.geometry.elevation import Elevation, Outline
from lesna.model import units

_INK, _GREEN, _STEEL, _EDGE, _STOCK = "#1F2B36", "#0E6E74", "#E3DED2", "#E9CF7B", "#D9D2C2"


def elevation_svg(view: Elevation, system: units.System, *, width: float = 230, height: float = 300) -> str:
    """An SVG of an elevation."""
    left, bottom, right, top = view.bounds
    margin_x, margin_y = 66.0, 14.0
    scale = min((width - 2 * margin_x) / (right - left), (height - 2 * margin_y) / (top - bottom))
    x0 = width / 2 - scale * (left + right) / 2
    y0 = height / 2 + scale * (bottom + top) / 2

    def place(x: float, y: float) -> tuple[float, float]:
        return x0 + scale * x, y0 - scale * y

    def polygon(outline: Outline, fill: str) -> str:
        points = " ".join(f"{px:.2f},{py:.2f}" for px, py in (place(x, y) for x, y in outline))
        return f'<polygon points="{points}" fill="{fill}" stroke="{_INK}" stroke-width="1"/>'

    def dimension(x: float, low: float, high: float, text: str, side: int) -> str:
        (px, p_low), (_, p_high) = place(x, low), place(x, high)
        px += side * 12
        anchor = "end" if side < 0 else "start"
        return (
            f'<path d="M{px - 4:.2f} {p_low:.2f}h8M{px - 4:.2f} {p_high:.2f}h8M{px:.2f} {p_low:.2f}V{p_high:.2f}" '
            f'stroke="{_GREEN}" stroke-width="1" fill="none"/>'
            f'<text x="{px + side * 6:.2f}" y="{(p_low + p_high) / 2 + 4:.2f}" font-size="11" font-family="B612, sans-serif" '
            f'text-anchor="{anchor}" fill="{_GREEN}">{escape(text)}</text>'
        )

    lines = "".join(
        f'<path d="M{ax:.2f} {ay:.2f}L{bx:.2f} {by:.2f}" stroke="{_INK}" stroke-width="0.6"/>'
        for (ax, ay), (bx, by) in ((place(*a), place(*b)) for a, b in view.helix_lines)
    )
    parts = [
        polygon(view.part, _STOCK),
        polygon(view.holder, _STEEL),
        polygon(view.body, "#FFFFFF"),
        polygon(view.flutes, _EDGE),
        lines,
        dimension(left, 0.0, view.stick_out, units.DIMENSION.full(view.stick_out, system), -1),
        dimension(right, 0.0, view.ap, units.LENGTH.full(view.ap, system), 1),
    ]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" '
        f'viewBox="0 0 {width:g} {height:g}">{"".join(parts)}</svg>'
    )
