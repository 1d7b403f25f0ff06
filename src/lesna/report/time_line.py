"""Unattended hours as a drawing: each tool's edges along the hours, and what ends the run; for the window and for the page."""

from __future__ import annotations

import math
from collections.abc import Mapping
from html import escape

from lesna.learning.run_plan import RunPlan, ToolPlan

#: colours of the printed page; a window brings its own
PAPER: Mapping[str, str] = {
    "ink": "#1F2B36", "faint": "#5B6670", "rule": "#B9C0C6", "bar": "#0E6E74", "other": "#8FBDBF", "alarm": "#B3261E",
}  # fmt: skip
#: height of a tool's row, of what stands above and below the rows, and room for the names [px]
_ROW, _ABOVE, _BELOW, _NAMES = 26.0, 20.0, 24.0, 150.0
_TEXT = 12
#: a letter is about so wide; two edges closer than this are one bar [px]
_LETTER, _NARROW = 6.6, 3.0


def time_line_svg(plan: RunPlan, width: float, colours: Mapping[str, str] = PAPER) -> str:
    """An SVG of a run, as high as its tools need.

    Parameters
    ----------
    plan : RunPlan
        The run.
    width : float
        Of the drawing [px].
    colours : mapping
        Of ink, faint words, rules, bars, every second bar, and what ends the run.
    """
    height = line_height(plan)
    hours = plan.watch.hours
    scale = (width - _NAMES - 16) / hours

    def at(hour: float) -> float:
        return _NAMES + scale * min(max(hour, 0.0), hours)

    foot = height - _BELOW
    parts = [
        *(_tick(at(hour), foot, f"{hour:g}", colours) for hour in _hours(hours)),
        f'<text x="{width:.1f}" y="{foot + 18:.1f}" text-anchor="end" {_style(colours["faint"])}>h</text>',
        *(_tool(tool, _ABOVE + _ROW * row, hours, scale, colours) for row, tool in enumerate(plan.tools)),
    ]
    early = [stop for stop in plan.stops if stop.at < hours]
    for place, stop in enumerate(early[:3]):
        x = at(stop.at)
        words, is_left = escape(stop.what), x > _NAMES + 0.7 * (width - _NAMES)
        parts.append(f'<path d="M{x:.1f} {_ABOVE - 4:.1f}V{foot:.1f}" stroke="{colours["alarm"]}" stroke-width="1.6"/>')
        if not place:
            parts.append(f'<text x="{x + (-4 if is_left else 4):.1f}" y="{_ABOVE - 7:.1f}" '
                         f'text-anchor="{"end" if is_left else "start"}" {_style(colours["alarm"])}>{words}</text>')  # fmt: skip
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" '
        f'viewBox="0 0 {width:g} {height:g}">{"".join(parts)}</svg>'
    )


def line_height(plan: RunPlan) -> float:
    """How high the drawing is [px]."""
    return _ABOVE + _ROW * len(plan.tools) + _BELOW


def _hours(hours: float) -> list[float]:
    """Round hours, at most nine of them."""
    step = next(one for one in (0.25, 0.5, 1, 2, 4, 6, 12, 24, 48, 96, 168) if hours / one <= 8 or one == 168)
    return [step * k for k in range(math.floor(hours / step) + 1)]


def _tick(x: float, foot: float, words: str, colours: Mapping[str, str]) -> str:
    return (
        f'<path d="M{x:.1f} {_ABOVE:.1f}V{foot:.1f}" stroke="{colours["rule"]}" stroke-width="0.8"/>'
        f'<text x="{x:.1f}" y="{foot + 18:.1f}" text-anchor="middle" {_style(colours["faint"])}>{words}</text>'
    )


def _tool(tool: ToolPlan, top: float, hours: float, scale: float, colours: Mapping[str, str]) -> str:
    """The edges of one tool, one bar behind the other."""
    room = int((_NAMES - 10) / _LETTER)
    name = tool.name if len(tool.name) <= room else f"{tool.name[: room - 1]}…"
    out = [f'<text x="0" y="{top + 16:.1f}" {_style(colours["ink"])}>{escape(name)}</text>']
    if tool.parts_per_edge < 1:
        text = escape(tool.why)
        return "".join(out) + f'<text x="{_NAMES + 6:.1f}" y="{top + 16:.1f}" {_style(colours["alarm"])}>{text}</text>'
    ends = (*tool.changes, hours)
    if scale * hours / len(ends) < _NARROW:
        ends = (hours,)
    begin = 0.0
    for place, end in enumerate(ends):
        colour = colours["other" if place % 2 else "bar"]
        out.append(f'<rect x="{_NAMES + scale * begin:.1f}" y="{top + 5:.1f}" width="{max(scale * (end - begin) - 1.0, 0.5):.1f}" '
                   f'height="{_ROW - 12:.1f}" fill="{colour}"/>')  # fmt: skip
        begin = end
    return "".join(out)


def _style(colour: str) -> str:
    return f'font-size="{_TEXT}" font-family="B612" fill="{colour}"'
