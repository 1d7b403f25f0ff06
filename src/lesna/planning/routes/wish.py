"""How a path is wanted, and which generator makes it where nothing is said."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.model.job import Cut
from lesna.model.resolve import CutParts
from lesna.paths.channel import NARROW, channel_of
from lesna.paths.demand import Demand, LoopShape
from lesna.paths.generators import GENERATORS, Generator
from lesna.paths.slots import slot_of

#: height over everything [mm]
CLEAR = 5.0
#: features of which no path is made, in the plural
PATHLESS = {"surface": "surfaces", "chamfer": "chamfers"}
#: what is done about thin webs
Remedy = Literal["none", "contain", "split", "slot"]


@dataclass(frozen=True)
class Wish:
    """How a path is wanted.

    Attributes
    ----------
    way : str
        Id of a generator; empty for the one that suits the cut.
    zigzag : bool
        Whether every other pass may cut up.
    arcs : bool
        Whether chords become arcs.
    walls : bool
        Whether a closing pass follows the walls.
    spring : bool
        Whether passes along walls go round once more.
    loop : str
        Shape of a trochoid's loops.
    remedy : str
        What is done about thin webs.
    eased : bool
        Whether the feed is taken back where more is engaged than wanted.
    edge_feed : bool
        Whether passes along walls keep their feed at the edge instead of the cutter's middle on arcs.
    """

    way: str = ""
    zigzag: bool = False
    arcs: bool = True
    walls: bool = True
    spring: bool = False
    loop: LoopShape = "half"
    remedy: Remedy = "none"
    eased: bool = True
    edge_feed: bool = True


def demand_for(parts: CutParts, wish: Wish) -> Demand:
    """Cutter, stepover and stock to leave of a cut's path, without the heights of its levels."""
    cut, R = parts.cut, parts.tool.DC / 2
    stock = 0.0 if cut.feature is None else cut.feature.stock_wall_mm
    return Demand(R, min(cut.ae_mm, 2 * R), stock, clear=CLEAR, zigzag=wish.zigzag, spring=wish.spring,
                  plunges=parts.tool.centre_cutting, loop=wish.loop)  # fmt: skip


def generator_for(cut: Cut, region: Region, wish: Wish, radius: float) -> Generator:
    """The generator of a cut's path."""
    if wish.remedy == "slot":
        return GENERATORS["slot"]
    if wish.way:
        if wish.way not in GENERATORS:
            raise InputError(f"'{wish.way}' is no way of cutting; choose {', '.join(GENERATORS)}", "way")
        return GENERATORS[wish.way]
    return GENERATORS[suiting(cut.role, cut.strategy, region, radius)]


def suiting(role: str, strategy: str, region: Region, radius: float) -> str:
    """Id of the generator that suits a role and a school on a floor."""
    has_walls = bool(len(region.walls))
    if strategy == "surface":
        raise InputError("no path is made for surfacing; choose another strategy", "strategy")
    if role == "finish":
        return "walls" if has_walls else "rows"
    if role == "rest" or strategy == "light_radial":
        return "held"
    if strategy == "trochoidal":
        return "loops" if _is_narrow(region, radius) else "held"
    if strategy == "full_slot" and _is_slot(region, radius):
        return "slot"
    return "offsets" if has_walls else "rows"


def _is_slot(region: Region, radius: float) -> bool:
    """Whether a slot along the middle leaves no more than one pass beside it: in a wider floor each round is a slot of its own."""
    try:
        return slot_of(region).width <= 3 * 2 * radius
    except InputError:
        return False


def _is_narrow(region: Region, radius: float) -> bool:
    """Whether loops of a size with the cutter follow the floor."""
    try:
        return slot_of(region).width <= 2 * NARROW * radius
    except InputError:
        pass
    try:
        channel_of(region, radius, radius)
    except InputError:
        return False
    return True
