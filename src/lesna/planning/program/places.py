"""What along a program should not be touched: each with its line and place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import RAPID
from lesna.nc.program import Program
from lesna.physics import Array
from lesna.planning.program.work import Work
from lesna.stock.steps import Steps
from lesna.stock.walk import Engagement

Kind = Literal["rapid_in_stock", "plunge", "too_deep", "holder", "sliver"]

#: material that a rapid may brush, as cells do not show an edge exactly [mm3]
_BRUSHED = 0.05
#: how far a straight feed into material goes before it is a plunge [mm]
_PLUNGED = 0.05
#: what a holder may overlap with cells at a wall [mm]
_OVERLAP = 0.05
#: places of one kind that belong together lie nearer than this many steps
_TOGETHER = 4
#: thinner webs, over DC, are what two passes leave between them by rounding
_THINNEST = 0.006
#: a web is at least so many times as tall as thick; what is lower is a ridge
_TALL = 2.0
#: cosine of the turn up to which a way goes straight on
_STRAIGHT = 0.9998
#: a web is told where it lasts so long, over DC
_LASTS = 0.15


@dataclass(frozen=True)
class Finding:
    """One place.

    Attributes
    ----------
    kind : str
        What is wrong.
    line : int
        Line of the program.
    place : tuple of float
        Where the tip is, or a web (x, y, z) [mm].
    value : float
        Volume [mm3], depth or thickness [mm], as the kind has it.
    step : int
        Number of the step.
    """

    kind: Kind
    line: int
    place: tuple[float, float, float]
    value: float
    step: int


def findings_of(program: Program, work: Work, steps: Steps, met: Engagement, holder: Array) -> list[Finding]:
    """The places of one tool's steps."""
    tool, moves = work.parts.tool, program.moves
    rapid = moves.kind[steps.move] == RAPID
    chord = steps.end - steps.start
    straight_down = (np.hypot(chord[:, 0], chord[:, 1]) < 1e-9) & (chord[:, 2] < -1e-9)
    deepest = met.depth
    found: list[Finding] = []

    def add(
        kind: Kind, where: NDArray[np.bool_], values: Array, *, together: bool = True, at: Array | None = None
    ) -> None:
        rows = np.flatnonzero(where)
        groups = np.split(rows, np.flatnonzero(np.diff(rows) > _TOGETHER) + 1) if len(rows) and together else [rows[:0]]
        for group in groups:
            if len(group):
                worst = int(group[values[group].argmax()])
                x, y, z = (steps.end if at is None else at)[worst].tolist()
                found.append(
                    Finding(kind, int(moves.line[steps.move[group[0]]]), (x, y, z), float(values[worst]), worst)
                )

    struck = np.zeros(len(steps))
    per_move = np.bincount(steps.move, weights=np.where(rapid, met.volume, 0.0))
    struck[rapid] = per_move[steps.move[rapid]]
    add("rapid_in_stock", rapid & (struck > _BRUSHED) & (met.volume > 0), struck)
    if not tool.centre_cutting:
        add("plunge", ~rapid & straight_down & (met.volume > _PLUNGED * np.pi * work.radius**2 / 4), -chord[:, 2])
    reach = min(tool.usable_length, tool.OAL or np.inf)
    add("too_deep", ~rapid & (deepest > min(tool.APMX, reach) + 0.01), deepest)
    add("holder", holder > _OVERLAP, holder)
    (web, beside), limit = _webs(steps, met, work.radius), work.look.sliver * tool.DC
    flat = ~rapid & (np.abs(chord[:, 2]) < 1e-9)
    thin = flat & (web > _THINNEST * tool.DC) & (web < limit) & (deepest > _TALL * web)
    ahead = _webs_ahead(steps, met, work.radius, flat)
    met_ahead = (ahead > _THINNEST * tool.DC) & (ahead < limit) & (deepest > _TALL * ahead)
    # until it is all past, what is left of such a web at both sides is no web along the feed
    travelled = np.cumsum(steps.length)
    latest = np.maximum.accumulate(np.where(met_ahead, travelled, -np.inf))
    thin = lasting(thin & (travelled - latest > 2 * work.radius), steps.length, _LASTS * tool.DC)
    # where the web is, not where the middle of the cutter is that meets it
    at = _on_rim(steps, work.radius, np.where(met_ahead, np.pi / 2, beside))
    add("sliver", thin | met_ahead, limit - np.where(met_ahead, ahead, web), at=at)
    return [
        Finding(f.kind, f.line, f.place, limit - f.value if f.kind == "sliver" else f.value, f.step)
        for f in sorted(found, key=lambda f: f.step)
    ]


def lasting(where: NDArray[np.bool_], length: Array, least: float) -> NDArray[np.bool_]:
    """Those of marked steps that follow each other over at least a way [mm]; shorter stretches pass as a tool comes and goes."""
    out = np.zeros_like(where)
    rows = np.flatnonzero(where)
    for group in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else ():
        if length[group].sum() >= least:
            out[group] = True
    return out


def _on_rim(steps: Steps, radius: float, phi: Array) -> Array:
    """Places on the rim at angles that count from the left of the feed to its right, at the height of the tip (n, 3) [mm]."""
    ux, uy = steps.heading.T
    out = steps.end.copy()
    out[:, 0] += radius * (np.sin(phi) * ux - np.cos(phi) * uy)
    out[:, 1] += radius * (np.sin(phi) * uy + np.cos(phi) * ux)
    return out


def _webs(steps: Steps, met: Engagement, radius: float) -> tuple[Array, Array]:
    """Thickness across the feed of material that has air on both sides [mm], 0 where there is none; and where it is on the rim [rad]."""
    out, at = np.zeros(len(steps)), np.full(len(steps), np.pi / 2)
    for i in range(met.found.shape[1]):
        a, b = met.found[:, i, 0], met.found[:, i, 1]
        here = met.counts > i
        # from the left of the feed (phi 0) to its right (phi pi), across the feed
        left, right = radius * np.cos(a), radius * np.cos(b)
        web = here & ((met.beyond.astype(np.int64) >> i) & 1).all(axis=1)
        wider = web & (left - right > out)
        out, at = np.where(wider, left - right, out), np.where(wider, (a + b) / 2, at)
    return out, at


def _webs_ahead(steps: Steps, met: Engagement, radius: float, flat: NDArray[np.bool_]) -> Array:
    """Thickness along the feed of material that the middle of the rim runs into and out of again [mm], on each step that is in it.

    The rim has passed a face by as much as its middle lies beyond the chord that the face makes in it.
    """
    a, b = met.found[:, :, 0], met.found[:, :, 1]
    valid = np.arange(a.shape[1])[None, :] < met.counts[:, None]
    middle = valid & (a < np.pi / 2) & (b > np.pi / 2)
    inside = flat & middle.any(axis=1)
    # only where the way goes straight on does the middle of the rim keep to one line
    turned = np.zeros(len(steps), dtype=bool)
    turned[1:] = (steps.heading[1:] * steps.heading[:-1]).sum(axis=1) < _STRAIGHT
    out = np.zeros(len(steps))
    rows = np.flatnonzero(inside)
    for group in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else ():
        first, last = int(group[0]), int(group[-1])
        before, after = first - 1, last + 1
        if (
            before < 0
            or after >= len(steps)
            or not steps.joined[first : after + 1].all()
            or turned[first : after + 1].any()
        ):
            continue
        if not (flat[before] and flat[after]):
            continue
        k = int(np.flatnonzero(middle[first])[0])
        half = 0.5 * float(b[first, k] - a[first, k])
        entered = min(radius * (1 - np.cos(half)), float(steps.length[first]))
        # it came out somewhere within the step after the last
        out[group] = entered + float(steps.length[first + 1 : after].sum()) + 0.5 * float(steps.length[after])
    return out
