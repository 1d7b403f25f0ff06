"""Edge life, time and cost of a part: what the tables, the batch and the machine's rate make of a State."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lesna.model import names
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num
from lesna.physics.life import edge_life as life
from lesna.physics.life import heat
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

#: factor on life by the place of the medium in the table's ranking, beyond it, and where it is to be avoided
_BY_RANK = (1.0, 0.95, 0.9, 0.85, 0.8)
_UNRANKED, _AVOIDED = 0.7, 0.5
#: minutes to change an edge where the batch names none
CHANGE_ASSUMED = 1.0


@dataclass(frozen=True)
class Economy:
    """Life, time and cost of one cut on one part; None where something needed is not known.

    Lives in minutes in the cut, money in the currency of the prices.
    """

    kv: float
    coolant_factor: float
    vc_ref: float
    hex_ref: float
    taylor_n: float
    life: float
    safe_life: float
    is_valid: bool
    volume_per_edge: float
    change_time: float
    edge_cost: float | None
    rate: float | None
    time_per_part: float | None
    edges_per_part: float | None
    cost_per_part: float | None
    change_after: int | None
    vc_cheapest: float | None
    vc_quickest: float | None

    @property
    def volume_per_money(self) -> float | None:
        """Material that one unit of the edge's money removes [cm3]; None where the edge has no price."""
        return self.volume_per_edge / self.edge_cost if self.edge_cost else None


def coolant_factor(parts: CutParts) -> float:
    """Factor of the cooling medium on life, from its place in the table's ranking (docs/decisions/0007-life.md)."""
    data = parts.data
    if data is None:
        return 1.0
    medium = names.ranked_as(parts.cut.coolant)
    if medium in data.avoided:
        return _AVOIDED
    ranking = [name.strip() for name in data.coolant_rank.split(">")]
    return _BY_RANK[min(ranking.index(medium), len(_BY_RANK) - 1)] if medium in ranking else _UNRANKED


def edge_cost_of(parts: CutParts) -> float | None:
    """Cost of one edge, or of one set of insert edges."""
    tool = parts.tool
    if tool.insert_count and tool.insert_cost_cu is not None:
        return tool.insert_count * tool.insert_cost_cu / (tool.edges_per_insert or 1)
    return None if tool.price is None else tool.price / tool.edges


def rate_of(parts: CutParts) -> float | None:
    """Machine rate a minute: the batch's, else the machine's own."""
    hourly = parts.batch.machine_rate_per_h
    hourly = parts.machine.hourly_rate_cu if hourly is None else hourly
    return None if hourly is None else hourly / 60.0


def change_of(parts: CutParts) -> float:
    """Minutes to change a worn edge: the batch's, else the assumed."""
    change = parts.batch.tool_change_min
    return CHANGE_ASSUMED if change is None else change


@dataclass(frozen=True)
class Taylor:
    """What the tables know of edge life for a pair of tool and material."""

    vc_ref: float
    hex_ref: float
    life_ref: float
    n: float
    a: float
    coolant: float

    def life(self, setup: CutSetup, state: State) -> Num:
        """Median life at one or many engagements [min]."""
        return life.edge_life(
            state.vc, state.hex, kv=equal_temperature(setup, state.x), vc_ref=self.vc_ref, hex_ref=self.hex_ref,
            life_ref=self.life_ref, n=self.n, a=self.a, coolant=self.coolant,
        )  # fmt: skip


def taylor_of(setup: CutSetup) -> Taylor | None:
    """The life law of a set-up, None where the tables have none."""
    data, typical = setup.parts.data, setup.chip.typical
    if (
        data is None
        or data.vc_typ_m_min is None
        or data.taylor_n is None
        or data.ref_life_min is None
        or typical is None
    ):
        return None
    vc_ref = data.vc_typ_m_min * setup.parts.material.vc_factor
    return Taylor(
        vc_ref, typical, data.ref_life_min, data.taylor_n, data.taylor_feed_exp or 0.0, coolant_factor(setup.parts)
    )


def equal_temperature(setup: CutSetup, x: Num) -> Num:
    """Kv of an engagement in this material."""
    return heat.equal_temperature_factor(x, 0.0 if setup.law.is_linear else setup.law.mc)


def economy_of(setup: CutSetup, state: State, cut_time: float | None) -> Economy | None:
    """The economy of one cut, None where the tables know no life for this pair.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does (scalars).
    cut_time : float or None
        Minutes in the cut for a part.
    """
    parts, taylor = setup.parts, taylor_of(setup)
    if taylor is None:
        return None
    kv, factor = float(equal_temperature(setup, state.x)), taylor.coolant
    vc_ref, hex_ref, n = taylor.vc_ref, taylor.hex_ref, taylor.n
    median = float(taylor.life(setup, state))
    safe = float(life.safe_life(median, parts.batch.survivors))
    change = change_of(parts)
    edge_cost, rate = edge_cost_of(parts), rate_of(parts)
    edges = None if cut_time is None else cut_time / median
    time = None if cut_time is None or edges is None else cut_time + edges * change
    cost = (
        None if time is None or edges is None or rate is None or edge_cost is None else time * rate + edges * edge_cost
    )
    cheapest = None
    if rate and edge_cost is not None:
        cheapest = life.speed_for_life(state.vc, median, life.cheapest_life(n, change, edge_cost, rate), n)
    return Economy(
        kv=kv, coolant_factor=factor, vc_ref=vc_ref, hex_ref=hex_ref, taylor_n=n, life=median, safe_life=safe,
        is_valid=(setup.chip.least or 0.0) <= state.hex <= (setup.chip.most or math.inf),
        volume_per_edge=state.q * median, change_time=change, edge_cost=edge_cost, rate=rate, time_per_part=time,
        edges_per_part=edges, cost_per_part=cost,
        change_after=None if cut_time is None else math.floor(safe / cut_time),
        vc_cheapest=None if cheapest is None else float(cheapest),
        vc_quickest=float(life.speed_for_life(state.vc, median, life.quickest_life(n, change), n)) if change > 0 else None,
    )  # fmt: skip


@dataclass(frozen=True)
class SpeedCurve:
    """Time and cost of a part over the surface speed, the chip unchanged (machine limits left aside)."""

    vc: Array
    time: Array
    cost: Array | None


def over_speed(economy: Economy, state: State, cut_time: float, vc: Array) -> SpeedCurve:
    """Time and cost at other speeds: feed follows the speed, life follows Taylor.

    Parameters
    ----------
    economy : Economy
        At the speed of the state.
    state : State
        The cut.
    cut_time : float
        Minutes in the cut for a part at that speed.
    vc : array (n,)
        Speeds [m/min].
    """
    lives = economy.life * (vc / state.vc) ** (-1.0 / economy.taylor_n)
    cutting = cut_time * state.vc / vc
    edges = cutting / lives
    time = cutting + edges * economy.change_time
    if economy.rate is None or economy.edge_cost is None:
        return SpeedCurve(vc, time, None)
    return SpeedCurve(vc, time, time * economy.rate + edges * economy.edge_cost)
