"""The path of a cut, level by level, and the program that it becomes."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lesna.geometry.region import Region, region_of
from lesna.model.errors import InputError
from lesna.model.resolve import CutParts
from lesna.nc.post import Step, Stretch
from lesna.paths.arcs import Piece, fitted
from lesna.paths.controlled import Demand, controlled
from lesna.paths.walls import along_walls
from lesna.paths.way import Leg, Way, joined
from lesna.planning.cut.result import Result

Tell = Callable[[int, int], None]

#: strategies whose engagement is held
_CONTROLLED = ("light_radial", "trochoidal")
#: height over everything [mm], and over a floor at which a feed takes over from a rapid
CLEAR, _OVER_FLOOR = 5.0, 1.0
#: chords become arcs within this [mm], and within this share of the stepover
_TOLERANCE, _OF_STEPOVER = 0.01, 0.01
#: a helix is fed at this share of the chip of a slot
_ENTRY = 0.7
#: links begin and end at the feed of the cut over so much of the radius
_SLOW = 1.0
#: links run so many times as fast as the cut, as far as the machine feeds
_LINK = 3.0
#: how far passes run out on open sides, over the radius
_RUN_OUT = 1.5


@dataclass(frozen=True)
class Wish:
    """How a path is wanted.

    Attributes
    ----------
    zigzag : bool
        Whether every other pass may cut up.
    arcs : bool
        Whether chords become arcs.
    walls : bool
        Whether a closing pass follows the walls.
    """

    zigzag: bool = False
    arcs: bool = True
    walls: bool = True


@dataclass(frozen=True)
class Route:
    """A path with its feeds.

    Attributes
    ----------
    region : Region
        The floor it clears.
    way : Way
        Its stretches.
    stretches : tuple of Stretch
        The same as moves.
    stepover : float
        Whose engagement is held [mm].
    levels : int
        How many there are.
    floor : float
        Height of the last one [mm].
    """

    region: Region
    way: Way
    stretches: tuple[Stretch, ...]
    stepover: float
    levels: int
    floor: float


def route_of(result: Result, wish: Wish | None = None, tell: Tell | None = None) -> Route:
    """Makes the path of a cut.

    Parameters
    ----------
    result : Result
        The cut, computed.
    wish : Wish or None
        How it is wanted.
    tell : callable or None
        Told (done, total); may raise to stop [-].

    Raises
    ------
    InputError
        When there is no feature, its outline is wrong, the tool does not fit, or the strategy has no path yet.
    """
    wish = wish or Wish()
    parts = result.setup.parts
    cut, feature = parts.cut, parts.cut.feature
    if feature is None or not feature.depth_mm:
        raise InputError("a path needs a feature with a depth; give the cut one", "feature")
    if feature.kind == "surface":
        raise InputError(
            "no path is made for surfaces; choose a pocket, slot, shelf, face or through cut", "feature.kind"
        )
    if cut.strategy not in _CONTROLLED:
        raise InputError("paths are made for light radial and trochoidal cuts; choose one of them", "strategy")
    depth = feature.depth_mm - feature.stock_floor_mm
    region = region_of(feature)
    levels = max(math.ceil(depth / cut.ap_mm - 1e-9), 1)
    each = depth / levels
    R = parts.tool.DC / 2
    demand = Demand(R, min(cut.ae_mm, 2 * R), feature.stock_wall_mm, 0.0, -each, CLEAR, zigzag=wish.zigzag)
    one = controlled(region, demand, tell)
    ways = []
    for level in range(levels):
        legs = [_lowered(leg, level * each) for leg in one.legs]
        if wish.walls:
            legs += along_walls(region, R, feature.stock_wall_mm, -each * (level + 1), CLEAR, _RUN_OUT * R)
        ways.append(Way(tuple(legs)))
    way = joined(ways)
    return Route(region, way, _stretches(way, result, wish), demand.stepover, levels, -depth)


def _lowered(leg: Leg, by: float) -> Leg:
    points = leg.points.copy()
    # what lies over everything stays there
    low = points[:, 2] < CLEAR - 1e-9
    points[low, 2] -= by
    return replace(leg, points=points)


def _stretches(way: Way, result: Result, wish: Wish) -> tuple[Stretch, ...]:
    state, parts = result.state.scalar(), result.setup.parts
    teeth = result.setup.shape.z
    most = parts.machine.feed_max or 1e9
    feeds = {"cut": float(state.vf), "wall": float(state.vf), "link": min(_LINK * float(state.vf), most),
             "entry": min(_ENTRY * float(state.hex) * teeth * float(state.n), float(state.vf))}  # fmt: skip
    feeds["retract"] = feeds["link"]
    tolerance = min(_TOLERANCE, _OF_STEPOVER * parts.cut.ae_mm)
    near = _SLOW * parts.tool.DC / 2

    def steps(leg: Leg) -> list[Step]:
        return (
            _slowed(leg, feeds, near) if leg.intent == "link" else _steps(leg, feeds[leg.intent], wish.arcs, tolerance)
        )

    return tuple(Stretch(leg.intent, tuple(steps(leg))) for leg in way.legs)


def _steps(leg: Leg, feed: float, arcs: bool, tolerance: float) -> list[Step]:
    if leg.intent == "retract":
        return _over(leg, feed)
    level = np.ptp(leg.points[:, 2]) < 1e-9
    if leg.intent in ("cut", "wall") and arcs and level:
        z = float(leg.points[0, 2])
        return [_step(piece, z, feed) for piece in fitted(leg.points[:, :2], tolerance)]
    return [Step(1, (x, y, z), feed) for x, y, z in leg.points[1:].tolist()]


def _slowed(leg: Leg, feeds: dict[str, float], near: float) -> list[Step]:
    """A link that goes at the feed of the cut where it leaves and reaches the front: there it may brush material."""
    gone = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(leg.points, axis=0), axis=1)))
    whole = float(gone[-1])
    marks = [mark for mark in (near, whole - near) if 0 < mark < whole] if whole > 2 * near else []
    at = np.unique(np.append(gone[1:], marks))
    places = np.stack([np.interp(at, gone, leg.points[:, axis]) for axis in range(3)], axis=1)
    begins = np.append(0.0, at[:-1])
    slow = (begins < near - 1e-9) | (at > whole - near + 1e-9)
    return [
        Step(1, (x, y, z), feeds["cut"] if is_slow else feeds["link"])
        for (x, y, z), is_slow in zip(places.tolist(), slow.tolist(), strict=True)
    ]


def _step(piece: Piece, z: float, feed: float) -> Step:
    end = (*piece.end, z)
    return Step(1, end, feed) if piece.centre is None else Step(3 if piece.sweep > 0 else 2, end, feed, piece.centre)


def _over(leg: Leg, feed: float) -> list[Step]:
    """Rapids; the last way down to a floor ends with a feed."""
    out = []
    for before, (x, y, z) in zip(leg.points[:-1].tolist(), leg.points[1:].tolist(), strict=True):
        if z < before[2] - 1e-9 and z < CLEAR - 1e-9:
            out += [Step(0, (x, y, min(z + _OVER_FLOOR, before[2]))), Step(1, (x, y, z), feed)]
        else:
            out.append(Step(0, (x, y, z)))
    return out


def head_of(parts: CutParts, title: str) -> dict[str, str]:
    """Words of a program's head.

    Parameters
    ----------
    parts : CutParts
        The cut.
    title : str
        Of the job.
    """
    tool = parts.tool
    return {
        "job": title or "job", "cut": parts.cut.name, "material": parts.material.name,
        "tool": f"D{tool.DC:g} z{tool.ZEFP} {tool.kind.replace('_', ' ')} {tool.id}",
        "holder": parts.holder.kind.replace("_", " "),
    }  # fmt: skip
