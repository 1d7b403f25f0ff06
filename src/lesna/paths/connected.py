"""What lies between stretches of a path: where one does not begin at the end of the one before, up, across over everything and down."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from lesna.model.errors import InputError
from lesna.paths.way import Leg, Way
from lesna.physics import Array

#: ways over everything go so much nearer to what is kept out than its margin [mm]
_TOUCHING = 0.05
#: places nearer than this are one [mm]
_SAME = 1e-6
#: corners of what is gone round lie so far outside it [mm]
_OUT = 0.05


def connected(legs: Iterable[Leg], clear: float, kept_out: Any = None) -> Way:
    """A way whose stretches begin where the ones before them end.

    Parameters
    ----------
    legs : iterable of Leg
        Stretches in order.
    clear : float
        Height over everything [mm].
    kept_out : shapely geometry or None
        Where the middle of the cutter never goes, at no height [mm].
    """
    out: list[Leg] = []
    for leg in legs:
        if len(leg.points) < 2:
            continue
        before = out[-1].points[-1] if out else None
        comes_from_above = before is None and leg.intent == "retract"
        if not comes_from_above and (before is None or np.abs(before - leg.points[0]).max() > _SAME):
            out.append(_over(before, leg.points[0], clear, kept_out))
        out.append(leg)
    return Way(tuple(out))


def over_everything(legs: Iterable[Leg], clear: float, keep_out: Any, radius: float) -> Way:
    """Stretches joined anew (see `connected`), a cutter's radius away from what is kept out [mm]."""
    # a closing pass beside a clamp runs on the very edge of this: there it has to leave and arrive
    kept_out = None if keep_out is None else keep_out.buffer(radius - _TOUCHING)
    return connected((leg for leg in legs if leg.intent != "retract"), clear, kept_out)


def _over(before: Array | None, to: Array, clear: float, kept_out: Any) -> Leg:
    above = np.array((to[0], to[1], max(clear, float(to[2]))))
    points = [above] if before is None else [before]
    if before is not None:
        across = [before[:2], to[:2]] if kept_out is None else round_about(before[:2], to[:2], kept_out)
        points += [np.array((*place, above[2])) for place in across]
    points += [above, to]
    kept = [points[0], *(b for a, b in zip(points[:-1], points[1:], strict=True) if np.abs(b - a).max() > _SAME)]
    # nobody knows where the tool stands at first: it goes over the place before it goes down
    kept = [above, *kept] if before is None else kept
    return Leg("retract", np.array(kept), np.zeros(len(kept)))


def round_about(a: Array, b: Array, kept_out: Any) -> list[Array]:
    """The shortest way from a to b that stays out of an area, corner by corner; straight where nothing is in the way."""
    import shapely
    from scipy.sparse.csgraph import dijkstra

    if not shapely.LineString((a, b)).intersects(kept_out):
        return [a, b]
    round_it = kept_out.buffer(_OUT, join_style="mitre").simplify(_OUT / 2)
    rings = [part.exterior for part in getattr(round_it, "geoms", [round_it])]
    corners = np.array([a, b, *(corner for ring in rings for corner in ring.coords[:-1])])
    i, j = np.triu_indices(len(corners), 1)
    lines = shapely.linestrings(np.stack((corners[i], corners[j]), axis=1))
    shapely.prepare(kept_out)
    free = ~shapely.intersects(kept_out, lines)
    ways = np.zeros((len(corners), len(corners)))
    ways[i[free], j[free]] = np.maximum(shapely.length(lines[free]), _SAME)
    _, parent = dijkstra(ways, directed=False, indices=0, return_predecessors=True)
    if parent[1] < 0:
        raise InputError(
            f"no way over everything leads from x {a[0]:.2f}, y {a[1]:.2f} to x {b[0]:.2f}, y {b[1]:.2f} round what is kept out; "
            "give the parts as features of their own"
        )
    chain, k = [b], int(parent[1])
    while k > 0:
        chain.append(corners[k])
        k = int(parent[k])
    return [a, *chain[::-1]]
