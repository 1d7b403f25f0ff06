"""What a shop wants of a cut, and how a point is judged by it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.physics import Num
from lesna.physics.life import edge_life as life
from lesna.planning.cut.economy import alone_share, change_of, edge_cost_of, life_at, rate_of
from lesna.planning.cut.life import law_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

Aim = Literal["time", "cost", "life", "unattended"]
#: aim -> name on the screen
AIMS: dict[Aim, str] = {
    "time": "Quickest part", "cost": "Cheapest part", "life": "Longest edge life", "unattended": "Most minutes alone",
}  # fmt: skip


@dataclass(frozen=True)
class Worth:
    """What a point gives on one part; arrays over a grid, or floats.

    Attributes
    ----------
    cutting, linking, changing : float or array
        Minutes in the cut, between cuts, and changing edges.
    q : float or array
        Material over cutting and linking time [cm3/min].
    life, safe, unwatched : float or array
        Median and safe minutes in the cut of an edge, and those that it may run alone; infinite where the tables know no life.
    edges : float or array
        Edges a part.
    cost : float or array or None
        Money a part; None where rate or edge cost is not known.
    """

    cutting: Num
    linking: Num
    changing: Num
    q: Num
    life: Num
    safe: Num
    unwatched: Num
    edges: Num
    cost: Num | None

    @property
    def minutes(self) -> Num:
        """Minutes of the machine for a part."""
        return self.cutting + self.linking + self.changing

    @property
    def alone(self) -> Num:
        """Minutes on the clock that the machine may safely be left alone."""
        return self.unwatched * (self.cutting + self.linking) / self.cutting


def worth_of(setup: CutSetup, state: State, volume: float, minutes: tuple[Num, Num]) -> Worth:
    """The worth of one or many points.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does there.
    volume : float
        Material of a part [cm3].
    minutes : tuple
        In the cut, and between cuts, for a part.
    """
    cutting, linking = minutes
    law = law_of(setup)
    median = np.inf + 0.0 * cutting if law is None else life_at(law, setup, state)
    edges = cutting / median
    changing = edges * change_of(setup.parts)
    rate, edge = rate_of(setup.parts), edge_cost_of(setup.parts)
    cost = None if rate is None or edge is None else (cutting + linking + changing) * rate + edges * edge
    safe = median if law is None else life.safe_life(median, setup.parts.batch.survivors)
    return Worth(
        cutting,
        linking,
        changing,
        volume / (cutting + linking),
        median,
        safe,
        safe * alone_share(setup, state),
        edges,
        cost,
    )


def score(aim: Aim, worth: Worth, floor: float) -> Num:
    """The greater, the better; minus infinity below the removal that is asked for."""
    if aim == "life":
        value = worth.life
    elif aim == "unattended":
        value = worth.alone
    elif aim == "cost" and worth.cost is not None:
        value = 1.0 / worth.cost
    else:
        value = 1.0 / worth.minutes
    return np.where(worth.q >= floor * (1 - 1e-9), value, -np.inf)
