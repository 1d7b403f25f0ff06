"""The generators: each makes the way of one level from a floor and a demand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from lesna.geometry.region import Region
from lesna.model.work import Pulse
from lesna.paths.controlled import controlled
from lesna.paths.demand import Demand
from lesna.paths.finish import finish_floor, finish_walls
from lesna.paths.offsets import offsets
from lesna.paths.rows import rows
from lesna.paths.slot_first import slot_first
from lesna.paths.trochoid import trochoid
from lesna.paths.way import Way

Make = Callable[[Region, Demand, Pulse], Way]


@dataclass(frozen=True)
class Generator:
    """A way of clearing a level.

    Attributes
    ----------
    id : str
        Its name in commands.
    title : str
        What it is called.
    says : str
        What it does, in a sentence.
    make : callable
        (region, demand, pulse) -> Way; raises InputError where it does not suit.
    closes : bool
        Whether a pass along the walls follows.
    only_floor : bool
        Whether it goes over the last level alone.
    """

    id: str
    title: str
    says: str
    make: Make
    closes: bool = True
    only_floor: bool = False


GENERATORS: dict[str, Generator] = {
    generator.id: generator
    for generator in (
        Generator("held", "held engagement", "follows the front of the stock with its engagement held", controlled),
        Generator("loops", "trochoid", "loops along a slot, each engaged exactly as far as the stepover", trochoid),
        Generator("slot", "slot, then walls", "a full slot first, then passes to and fro along its walls", slot_first),
        Generator("offsets", "offsets", "passes parallel to the walls, inner corners rolled and cleaned", offsets),
        Generator("rows", "rows", "equal rows over a face, each rolled in", rows),
        Generator(
            "walls", "finishing walls", "along every wall, led in and out on a tangent", finish_walls, closes=False
        ),
        Generator("floor", "finishing floor", "over the floor, last of all", finish_floor, only_floor=True),
    )
}
