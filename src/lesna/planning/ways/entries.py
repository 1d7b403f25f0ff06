"""No way down into what stands but by a ramp: the whole path is looked at through its stock, whichever generator made it.

Where a stretch is reached from above through material, the tool ramps to and fro along that stretch, which it may follow at any height.
Where it is too short for a ramp a tool that cuts at its centre goes straight down at the feed of a plunge; for any other it is left, and
that is told. A link that meets what stands goes over everything instead.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from lesna.geometry.motion import RAPID
from lesna.paths.demand import Demand
from lesna.paths.entry import ABOVE, along
from lesna.paths.way import Leg, Way
from lesna.physics import Array
from lesna.planning.ways.judge import Judged
from lesna.planning.ways.make import Route

#: slope from which a way down is straight down [deg]
STEEP = 45.0
#: material that a way may brush, over the cutter's section and a millimetre of height; links are judged by their length
_BRUSHED, _LINKED = 0.02, 0.02
#: a fall of less height is that of a lifted link, which brushes what stands [mm]
_LOW = 0.1
#: least and most way of a ramp over the radius
_LEAST, _MOST = 1.0, 6.0


@dataclass(frozen=True)
class Struck:
    """Stretches of a route that meet what stands.

    Attributes
    ----------
    down : dict of int to float
        Stretches that are reached straight down through material: height at which that begins [mm].
    links : set of int
        Links that take material away.
    """

    down: dict[int, float]
    links: set[int]

    def __bool__(self) -> bool:
        return bool(self.down or self.links)


def struck_by(route: Route, found: Judged, sources: dict[int, tuple[int, int]]) -> Struck:
    """Which stretches of a route go straight down through material or link through it."""
    g = found.run.geometry
    steps, volume = g.steps, g.engagement.volume
    chord = steps.end - steps.start
    slope = np.degrees(np.arctan2(-chord[:, 2], np.hypot(chord[:, 0], chord[:, 1])))
    area = math.pi * route.demand.radius**2
    fed = g.program.moves.kind[steps.move] != RAPID
    deep = fed & (slope > STEEP) & (volume > _BRUSHED * area * np.abs(chord[:, 2]))
    fall = np.bincount(steps.move, weights=np.maximum(-chord[:, 2], 0.0))[steps.move]
    deep &= fall > _LOW
    line = g.program.moves.line[steps.move]
    down: dict[int, float] = {}
    for step in np.flatnonzero(deep).tolist():
        source = sources.get(int(line[step]))
        # a tool that cuts at its centre may go in so, at the feed of a plunge: nothing is to be mended there
        may = source is not None and route.demand.plunges and route.way.legs[source[0]].intent == "entry"
        if source is not None and not may:
            down[source[0]] = max(down.get(source[0], -math.inf), float(steps.start[step, 2]))
    links = [number for number, leg in enumerate(route.way.legs) if leg.intent == "link"]
    taken = dict.fromkeys(links, 0.0)
    for step in np.flatnonzero(fed & (volume > 0)).tolist():
        source = sources.get(int(line[step]))
        if source is not None and source[0] in taken:
            taken[source[0]] += float(volume[step])
    height = max(route.demand.top - route.demand.floor, 1e-6)
    per_length = _LINKED * height * route.demand.radius
    lengths = {number: max(route.way.legs[number].length, route.demand.radius) for number in links}
    return Struck(down, {number for number in links if taken[number] > per_length * lengths[number]})


def let_down(route: Route, struck: Struck) -> tuple[Way, tuple[str, ...]]:
    """The way with ramps where it went straight down and without links that met material, and what is left uncut.

    Links over everything are missing: whoever joins the stretches puts them in.
    """
    legs, out, left = route.way.legs, [], []
    for number, leg in enumerate(legs):
        if leg.intent == "retract" or number in struck.links or (leg.intent == "link" and number in struck.down):
            continue
        reached = number - 1 if number and legs[number - 1].intent == "retract" else None
        top = struck.down.get(number, None if reached is None else struck.down.get(reached))
        if top is None:
            out.append(leg)
            continue
        made = _ramped(route.demand, leg, top)
        if made is None:
            left.append(leg)
        else:
            out += made
    return Way(tuple(out)), tuple(_told(left))


def _ramped(demand: Demand, leg: Leg, top: float) -> list[Leg] | None:
    """A stretch that is let in along itself; None where that cannot be."""
    floor = float(leg.points[:, 2].min())
    level = replace(demand, top=top, floor=floor)
    flat = leg.points[leg.points[:, 2] <= floor + 1e-6]
    way, rest = _first(flat[:, :2], _MOST * demand.radius)
    long = float(np.hypot(*np.diff(way, axis=0).T).sum()) if len(way) > 1 else 0.0
    if long >= _LEAST * demand.radius:
        entry = along(level, way)
        made = [Leg("entry", entry, np.zeros(len(entry)))]
        if len(rest) > 1:
            points = np.column_stack((rest, np.full(len(rest), floor)))
            made.append(Leg(leg.intent, points, np.zeros(len(points))))
        return made
    if not demand.plunges:
        return None
    x, y = leg.points[0, :2].tolist()
    entry = np.array([(x, y, top + ABOVE), (x, y, floor)])
    return [Leg("entry", entry, np.zeros(2)), leg]


def _first(way: Array, most: float) -> tuple[Array, Array]:
    """The beginning of a way up to a length, and what follows it."""
    gone = np.append(0.0, np.cumsum(np.hypot(*np.diff(way, axis=0).T)))
    if gone[-1] <= 1.5 * most:
        return way, way[-1:]
    k = int(np.searchsorted(gone, most))
    return way[: k + 1], way[k:]


def _told(left: list[Leg]) -> list[str]:
    """Stretches that no way leads down to."""
    if not left:
        return []
    x, y, _ = left[0].points[0].tolist()
    places = "one place stays" if len(left) == 1 else f"{len(left)} places stay"
    return [
        f"{places} uncut, the first at x {x:.2f}, y {y:.2f}: there is no room for a ramp and the tool does not cut at its centre; "
        "drill a hole there first, or take a smaller tool"
    ]
