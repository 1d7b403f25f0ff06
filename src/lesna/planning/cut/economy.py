"""Edge life, time and cost of a part: what the tables, the batch and the machine's rate make of a State."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from lesna.model import names
from lesna.model.library_records import CuttingData, Material, Tool
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num
from lesna.physics.life import edge_life, heat
from lesna.physics.life.edge_life import LifeLaw
from lesna.planning.cut.motion import Motion, chip_room_of, radial_ratio
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

#: factor on life by the place of the medium in the table's ranking, beyond it, and where it is to be avoided; the lives
#: of the tables were timed with a usual medium, so the second keeps them too
_BY_RANK = (1.0, 1.0, 0.95, 0.9, 0.85)
_UNRANKED, _AVOIDED = 0.7, 0.5
#: minutes to change an edge where the batch names none
CHANGE_ASSUMED = 1.0


@dataclass(frozen=True)
class Economy:
    """Life, time and cost of one cut on one part; None where something needed is not known.

    Lives in minutes in the cut, money in the currency of the prices.
    """

    m: float
    law: LifeLaw
    life: float
    safe_life: float
    alone: float
    is_valid: bool
    is_over: bool
    volume_per_edge: float
    change_time: float
    edge_cost: float | None
    rate: float | None
    time_per_part: float | None
    edges_per_part: float | None
    cost_per_part: float | None
    change_after: int | None
    vc: float
    hex: float

    @cached_property
    def _curve(self) -> SpeedCurve:
        """Time and cost of what is cut in a minute, around the speed that is set."""
        return over_speed(self, 1.0, self.vc * np.geomspace(*_SPAN, _TRIED))

    @cached_property
    def vc_cheapest(self) -> float | None:
        """The speed at which a part is cheapest, the chip unchanged [m/min]; None without prices."""
        return _least(self._curve.vc, self._curve.cost) if self._curve.cost is not None and self.rate else None

    @cached_property
    def vc_quickest(self) -> float | None:
        """The speed at which a part is quickest, the chip unchanged [m/min]; None where a change takes no time."""
        return _least(self._curve.vc, self._curve.time) if self.change_time > 0 else None

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


#: minutes from chip to chip where the machine names none
_TOOL_CHANGE = 0.15


def tool_change_of(parts: CutParts) -> float:
    """Minutes in which the machine puts another tool into the spindle, from chip to chip."""
    seconds = parts.machine.tool_change_s
    return _TOOL_CHANGE if seconds is None else seconds / 60.0


#: a life beyond so many times the reference is told as "over", never to the minute
_TOLD = 4.0


def multiplier_of(data: CuttingData, tool: Tool, material: Material, x: Num, section: Num) -> Num:
    """How much faster an engagement may run than the row's own: by practice and heat, one factor for speed and life alike [-].

    Parameters
    ----------
    data, tool, material : CuttingData, Tool, Material
        The row, and what it is of.
    x : float or array
        Stepover over the effective diameter [-].
    section : float or array
        ae ap over DC squared [-].
    """
    if tool.kind == "high_feed":
        return (data.vc_mult_highfeed or 1.0) + 0.0 * np.asarray(x)
    thin_share = 1.0 if data.vc_thin_share is None else data.vc_thin_share
    law = material.mc or 0.0, data.vc_mult_light or 1.0, data.vc_mult_slot or 1.0, thin_share
    by_width = heat.speed_multiplier(x, *law) / _own_multiplier(data.ref_ae_over_d, *law)
    return by_width * heat.finish_multiplier(section, data.vc_mult_finish or 1.0)


@lru_cache(maxsize=256)
def _own_multiplier(x: float, mc: float, light: float, slot: float, thin_share: float) -> float:
    """The multiplier at the engagement of a row, which does not change while a cut is moved [-]."""
    return float(heat.speed_multiplier(x, mc, light, slot, thin_share))


def multiplier(setup: CutSetup, ae: Num, ap: Num) -> Num:
    """The same for a set-up at one or many engagements [mm], 1 where the tables have no row [-]."""
    parts, x = setup.parts, radial_ratio(setup, ae, ap)
    if parts.data is None:
        return 1.0 + 0.0 * np.asarray(x)
    return multiplier_of(parts.data, parts.tool, parts.material, x, np.asarray(ae) * ap / setup.shape.DC**2)


def hardness_speed(hb: float | None, material: Material) -> float:
    """Factor on the tables' speeds for work harder or softer than the row's: ``(HB / HB_row)^-1`` [-]."""
    return 1.0 if hb is None or material.hb_mid is None else material.hb_mid / hb


def speed_of_tables(setup: CutSetup) -> float | None:
    """Typical surface speed of the row at its own engagement, for the hardness of this workpiece [m/min]; None without a row."""
    data, material = setup.parts.data, setup.parts.material
    if data is None or data.vc_typ_m_min is None:
        return None
    return data.vc_typ_m_min * material.vc_factor * hardness_speed(setup.hb, material)


def usual_speeds(setup: CutSetup, state: State) -> tuple[float, float] | None:
    """Least and greatest surface speed that are usual at an engagement [m/min]; None where no table says.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does.
    """
    data, typical = setup.parts.data, speed_of_tables(setup)
    if (
        data is None
        or typical is None
        or data.vc_low_m_min is None
        or data.vc_high_m_min is None
        or not data.vc_typ_m_min
    ):
        return None
    factor = typical / data.vc_typ_m_min * float(multiplier(setup, state.ae, state.ap))
    return data.vc_low_m_min * factor, data.vc_high_m_min * factor


def law_of(setup: CutSetup) -> LifeLaw | None:
    """The life law of a set-up, None where the tables have none."""
    data, typical, speed = setup.parts.data, setup.chip.typical, speed_of_tables(setup)
    if data is None or speed is None or data.taylor_n is None or data.ref_life_min is None or typical is None:
        return None
    return LifeLaw(speed, typical, setup.chip.least or 0.0, data.ref_life_min, data.taylor_n, data.taylor_feed_exp or 0.0,
                   coolant_factor(setup.parts), data.life_end_over_ref or LifeLaw.ends)  # fmt: skip


def life_at(law: LifeLaw, setup: CutSetup, state: State) -> Num:
    """Median life at one or many engagements [min]."""
    return law.median(state.vc, state.hex, multiplier(setup, state.ae, state.ap))


#: minutes alone where chips do not get away, as a share of those that wear leaves: in what sticks and hardens, and elsewhere
_CHANCE_TOUGH, _CHANCE = 0.25, 0.5
#: a slot deeper than this over DC, and a gullet fuller than this, does not let its chips go
_DEEP_SLOT, _FULL_GULLET = 0.5, 0.7


def alone_share(setup: CutSetup, state: Motion) -> Num:
    """Share of its safe minutes that an edge may run alone: a chip that stays in the way ends it before wear does [-].

    docs/physics.md section 13, confidence C.
    """
    material, room = setup.parts.material, chip_room_of(setup, state.ap)
    is_tough = material.iso_group in ("M", "S") or "stainless" in material.data_group
    deep_slot = (np.asarray(state.x) >= 1.0) & (np.asarray(state.ap) > _DEEP_SLOT * setup.shape.DC)
    stuck = deep_slot if room is None else deep_slot | (state.chip_space > _FULL_GULLET * room)
    return np.where(stuck, _CHANCE_TOUGH if is_tough else _CHANCE, 1.0)


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
    parts, law = setup.parts, law_of(setup)
    if law is None:
        return None
    m = float(multiplier(setup, state.ae, state.ap))
    median = float(law.median(state.vc, state.hex, m))
    safe = float(edge_life.safe_life(median, parts.batch.survivors))
    change = change_of(parts)
    edge_cost, rate = edge_cost_of(parts), rate_of(parts)
    edges = None if cut_time is None else cut_time / median
    time = None if cut_time is None or edges is None else cut_time + edges * change
    cost = (
        None if time is None or edges is None or rate is None or edge_cost is None else time * rate + edges * edge_cost
    )
    in_range = (setup.chip.least or 0.0) <= state.hex <= (setup.chip.most or math.inf)
    return Economy(
        m=m, law=law, life=median, safe_life=safe, alone=safe * float(alone_share(setup, state)), is_valid=in_range,
        is_over=median > _TOLD * law.life_ref, volume_per_edge=state.q * median, change_time=change, edge_cost=edge_cost,
        rate=rate, time_per_part=time, edges_per_part=edges, cost_per_part=cost,
        change_after=None if cut_time is None else math.floor(safe / cut_time), vc=state.vc, hex=state.hex,
    )  # fmt: skip


#: speeds over the cut's own at which the least is looked for, and how many
_SPAN, _TRIED = (0.1, 8.0), 241


def _least(vc: Array, values: Array) -> float:
    """Where a curve is least, between its points by a parabola in logarithms."""
    place = int(np.clip(np.argmin(values), 1, len(vc) - 2))
    before, here, after = values[place - 1 : place + 2]
    bend = before - 2 * here + after
    shift = 0.5 * (before - after) / bend if bend > 0 else 0.0
    return float(vc[place] * (vc[1] / vc[0]) ** float(np.clip(shift, -1.0, 1.0)))


@dataclass(frozen=True)
class SpeedCurve:
    """Time and cost of a part over the surface speed, the chip unchanged (machine limits left aside)."""

    vc: Array
    time: Array
    cost: Array | None


def over_speed(economy: Economy, cut_time: float, vc: Array) -> SpeedCurve:
    """Time and cost at other speeds: feed follows the speed, life follows its law."""
    lives = economy.law.median(vc, economy.hex, economy.m)
    cutting = cut_time * economy.vc / vc
    edges = cutting / lives
    time = cutting + edges * economy.change_time
    if economy.rate is None or economy.edge_cost is None:
        return SpeedCurve(vc, time, None)
    return SpeedCurve(vc, time, time * economy.rate + edges * economy.edge_cost)
