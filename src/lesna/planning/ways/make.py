"""The path of a cut, level by level."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from lesna.geometry.region import Region, region_of
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.post import Stretch
from lesna.paths.connected import over_everything
from lesna.paths.demand import Demand, Standing
from lesna.paths.finish import RUN_OUT
from lesna.paths.generators import Generator
from lesna.paths.walls import along_walls
from lesna.paths.way import Intent, Leg, Way
from lesna.planning.cut.levels import count_of, depth_of
from lesna.planning.cut.result import Result
from lesna.planning.routes.wish import CLEAR, PATHLESS, Wish, demand_for, generator_for
from lesna.planning.ways.feeds import stretches_of
from lesna.planning.ways.remedies import contained, parted
from lesna.stock.field import HeightMap, away_from

#: what stands higher over a floor than this is cut by a rest path [mm]
_STANDS = 0.03
#: a closing pass of a rest cut goes so far beside its passes, and how finely that is told, over the radius
_REACH, _FINE = 1.0, 0.02
#: corners that keep more than this share of the cutter's section are told [-]
_CORNER_TOLD = 1e-3


@dataclass(frozen=True)
class Before:
    """What an earlier cut has left.

    Attributes
    ----------
    stock : HeightMap
        The stock after it.
    told : str
        What it was.
    """

    stock: HeightMap
    told: str


@dataclass(frozen=True)
class Route:
    """A path with its feeds.

    Attributes
    ----------
    region : Region
        The floor it clears.
    generator : Generator
        What made it.
    way : Way
        Its stretches.
    stretches : tuple of Stretch
        The same as moves.
    demand : Demand
        Cutter, stepover and heights of the last level.
    levels : int
        How many there are.
    floor : float
        Height of the last one [mm].
    before : Before or None
        The stock that it begins with; None for the block round the feature.
    remarks : tuple of str
        What it leaves or assumes, with marked numbers.
    """

    region: Region
    generator: Generator
    way: Way
    stretches: tuple[Stretch, ...]
    demand: Demand
    levels: int
    floor: float
    before: Before | None = None
    remarks: tuple[str, ...] = ()

    @property
    def stepover(self) -> float:
        """Whose engagement is wanted [mm]."""
        return self.demand.stepover


#: what path is made elsewhere, and what to choose for one here
_MADE_ELSEWHERE = {"surface": "the step Surface makes it, and `lesna surface`, where the part is named as an STL file"}
_CHOOSE = "choose a pocket, slot, shelf, face, through cut or profile"


def route_of(result: Result, wish: Wish | None = None, pulse: Pulse = STEADY, before: Before | None = None) -> Route:
    """Makes the path of a cut."""
    wish = wish or Wish()
    parts = result.setup.parts
    cut, feature = parts.cut, parts.cut.feature
    if feature is None or not feature.depth_mm:
        raise InputError("a path needs a feature with a depth; give the cut one", "feature")
    if feature.kind in PATHLESS:
        raise InputError(
            f"no path is made for {PATHLESS[feature.kind]} here; {_MADE_ELSEWHERE.get(feature.kind, _CHOOSE)}",
            "feature.kind",
        )
    depth = depth_of(feature)
    if depth is None:
        raise InputError("must be below the depth, or nothing is left to cut", "feature.stock_floor_mm")
    region = region_of(feature)
    R = parts.tool.DC / 2
    generator = generator_for(cut, region, wish, R)
    demand = demand_for(parts, wish)
    heights = _heights(depth, cut.ap_mm, only_last=generator.only_floor)
    legs: list[Leg] = []
    one: Way | None = None
    make = _maker(generator, wish)
    for top, floor in heights:
        level = replace(demand, top=top, floor=floor)
        if before is not None:
            made = make(region, replace(level, standing=_standing(before.stock, floor)), pulse)
            legs += made.legs
        else:
            made = one = one or make(region, replace(level, top=0.0, floor=floor - top), pulse)
            legs += [_lowered(leg, -top) for leg in one.legs]
        if wish.walls and generator.closes:
            near = None if before is None else _about(made, R)
            legs += along_walls(region, R, feature.stock_wall_mm, floor, RUN_OUT * R, spring=wish.spring, near=near)
    way = over_everything(legs, CLEAR, region.keep_out, R)
    if not way.legs:
        raise InputError(f"{before.told if before else 'what goes before'} leaves nothing to cut here", "feature")
    walls: tuple[Intent, ...] = ("wall", "cut") if generator.id == "walls" else ("wall",)
    return Route(region, generator, way, stretches_of(way, result, wish, walls), replace(demand, top=heights[-1][0], floor=-depth),
                 len(heights), -depth, before, _remarks(region, demand))  # fmt: skip


def again(route: Route, way: Way, result: Result, wish: Wish, left: tuple[str, ...]) -> Route:
    """The route with other stretches, joined and fed anew."""
    whole = over_everything(way.legs, CLEAR, route.region.keep_out, route.demand.radius)
    walls: tuple[Intent, ...] = ("wall", "cut") if route.generator.id == "walls" else ("wall",)
    told = (*route.remarks, *(remark for remark in left if remark not in route.remarks))
    return replace(route, way=whole, stretches=stretches_of(whole, result, wish, walls), remarks=told)


def _maker(generator: Generator, wish: Wish) -> Callable[[Region, Demand, Pulse], Way]:
    if wish.remedy == "contain":
        return contained
    return parted if wish.remedy == "split" else generator.make


def _heights(depth: float, ap: float, *, only_last: bool) -> list[tuple[float, float]]:
    """Top and floor of each level [mm]."""
    if only_last:
        return [(min(-depth + ap, 0.0), -depth)]
    count = int(count_of(depth, ap))
    edges = np.linspace(0.0, -depth, count + 1).tolist()
    return list(zip(edges[:-1], edges[1:], strict=True))


def _standing(stock: HeightMap, floor: float) -> Standing:
    return Standing(away_from(stock, floor + _STANDS), (float(stock.origin[0]), float(stock.origin[1])), stock.cell)


def _about(way: Way, radius: float) -> Any:
    """Where the cutter was as it cut: there a closing pass has something to do."""
    import shapely

    cuts = [
        shapely.LineString(leg.points[:, :2]) for leg in way.legs if leg.intent in ("entry", "cut") and leg.length > 0
    ]
    return shapely.union_all([cut.simplify(_FINE * radius).buffer(_REACH * radius) for cut in cuts])


def _lowered(leg: Leg, by: float) -> Leg:
    return replace(leg, points=leg.points - (0.0, 0.0, by))


def _remarks(region: Region, demand: Demand) -> tuple[str, ...]:
    """What the cutter leaves because of its size."""
    radius = demand.radius + demand.wall
    left, places = region.kept(radius)
    if left < _CORNER_TOLD * math.pi * demand.radius**2:
        return ()
    corners = "one corner stays" if len(places) == 1 else f"{len(places)} corners stay"
    return (f"{corners} uncut, {units.AREA.mark(left)} in all, the first at {units.place(places[0])}: they are sharper than "
            f"the radius of {units.LENGTH.mark(demand.radius)}; {_what_reaches(region, radius, demand.wall)}",)  # fmt: skip


def _what_reaches(region: Region, radius: float, wall: float) -> str:
    fits = 2 * (region.reaching(radius) - wall)
    return (
        f"a tool of up to {units.LENGTH.mark(fits)} reaches them"
        if fits > 0
        else "no mill reaches all the way into a sharp corner"
    )
