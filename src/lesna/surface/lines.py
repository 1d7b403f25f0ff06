"""Parallel lines over what is shallow: each broken where levels take over, an overlap further on."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.model.work import Pulse
from lesna.physics import Array, engine
from lesna.surface.tips import Mask, Tips

#: lines are looked at each so many millimetres for where they begin and end
_STEP = 0.2
#: a gap shorter than this is gone over, and a stretch shorter than this left out, over the stepover
_GAP, _SHORT = 1.0, 0.5
#: guides that are followed at once, so that the work can be stopped between
_AT_ONCE = 8


def followed(tips: Tips, guides: list[Array], pulse: Pulse) -> list[Array]:
    """The tip over guides (n, 2 each): places (m, 4: x, y, z, triangle), broken where nothing holds it."""
    kernel = engine.kernel("surface_follow")
    pulse.begin("following the surface")
    under = tips.ground.under(tips.shape)

    def follow(some: list[Array]) -> list[Array]:
        begins = np.cumsum([0, *(len(guide) for guide in some)]).astype(np.int64)
        rows, begins = kernel(*under, np.ascontiguousarray(np.concatenate(some)), begins, -1e9)
        return [run for a, b in zip(begins[:-1], begins[1:], strict=True) for run in unbroken(rows[a:b])]

    groups = [guides[first : first + _AT_ONCE] for first in range(0, len(guides), _AT_ONCE)]
    return [run for found in engine.shared(follow, groups, lambda done: pulse.tell(done, len(groups))) for run in found]


def unbroken(rows: Array) -> list[Array]:
    """Runs of rows that something holds up."""
    lies = rows[:, 3] >= 0
    edges = np.flatnonzero(np.diff(np.concatenate(([False], lies, [False])).astype(int)))
    return [rows[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 1]


def lines(tips: Tips, angle: float, stepover: float, keep: Mask, pulse: Pulse) -> list[Array]:
    """Lines at an angle to x, a stepover apart, where nodes are kept: places (n, 4) of each stretch, to and fro.

    Parameters
    ----------
    tips : Tips
        The tool over the part.
    angle : float
        Of the lines [deg].
    stepover : float
        Greatest distance from line to line, seen from above [mm].
    keep : array of bool
        Nodes over which lines go.
    pulse : Pulse
        Told how far it is.
    """
    guides: list[Array] = []
    for number, whole in enumerate(_across(tips.area, angle, stepover)):
        stretches = [part for piece in whole for part in _kept(tips, piece, keep, stepover)]
        if number % 2:
            stretches = [part[::-1] for part in reversed(stretches)]
        guides += stretches
    return followed(tips, guides, pulse)


def _across(area: Any, angle: float, stepover: float) -> list[list[Array]]:
    """Straight lines over an area, each as its pieces (2, 2) inside, evenly spread."""
    import shapely

    u = np.array((np.cos(np.radians(angle)), np.sin(np.radians(angle))))
    v = np.array((-u[1], u[0]))
    corners = shapely.get_coordinates(area)
    along, beside = corners @ u, corners @ v
    low, high = beside.min(), beside.max()
    count = max(int(np.ceil((high - low) / stepover - 1e-9)), 1)
    width = (high - low) / count
    out = []
    for n in range(count):
        at = low + (n + 0.5) * width
        line = shapely.LineString((u * (along.min() - 1) + v * at, u * (along.max() + 1) + v * at))
        inside = shapely.intersection(line, area)
        pieces = [
            np.array(part.coords) for part in getattr(inside, "geoms", [inside]) if part.geom_type == "LineString"
        ]
        pieces = [piece if (piece[-1] - piece[0]) @ u > 0 else piece[::-1] for piece in pieces if len(piece) > 1]
        out.append(sorted(pieces, key=lambda piece: float(piece[0] @ u)))
    return out


def _kept(tips: Tips, piece: Array, keep: Mask, stepover: float) -> list[Array]:
    """Stretches (2, 2) of a straight piece over nodes that are kept."""
    length = float(np.linalg.norm(piece[-1] - piece[0]))
    count = max(int(np.ceil(length / _STEP)), 1)
    share = np.linspace(0.0, 1.0, count + 1)
    places = piece[0] + share[:, None] * (piece[-1] - piece[0])
    on = tips.at(keep, places)
    runs = np.flatnonzero(np.diff(np.concatenate(([False], on, [False])).astype(int))).reshape(-1, 2)
    joined: list[list[int]] = []
    held = tips.at(tips.inside, places)
    for a, b in runs.tolist():
        gap = (a - joined[-1][1]) * length / count if joined else np.inf
        if joined and gap < _GAP * stepover and held[joined[-1][1] : a].all():
            joined[-1][1] = b
        else:
            joined.append([a, b])
    return [
        places[[a, b - 1]]
        for a, b in joined
        if b - 1 > a and (b - 1 - a) * length / count >= min(_SHORT * stepover, length)
    ]
