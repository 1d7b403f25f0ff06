"""Edge life, time and cost of a part: what the tables, the batch and the machine's rate make of a State."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from lesna.model.lesson import KNOWN_FROM, Lesson
from lesna.model.resolve import CutParts
from lesna.physics import Array, Num
from lesna.physics.life import edge_life
from lesna.physics.life.edge_life import LifeLaw
from lesna.planning.cut.life import law_of, multiplier
from lesna.planning.cut.motion import Motion, chip_room_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

#: minutes to change an edge where the batch names none
CHANGE_ASSUMED = 1.0


@dataclass(frozen=True)
class Timing:
    """How long a cut of one part takes, and what says so.

    Attributes
    ----------
    basis : str
        ``program`` where the cut has one, ``path`` where one was made of it as it stands, else ``estimate``.
    cutting, linking : float
        Minutes with material engaged, and those of entries in air, links and lifts.
    held : float or None
        Feed that its geometry lets the machine hold [mm/min], where a program or a path says so.
    """

    basis: Literal["program", "path", "estimate"]
    cutting: float
    linking: float
    held: float | None = None

    @property
    def running(self) -> float:
        """Minutes that the machine runs, changes of worn edges aside."""
        return self.cutting + self.linking


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
        return over_speed(self, Timing("estimate", 1.0, 0.0), self.vc * np.geomspace(*_SPAN, _TRIED))

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


def economy_of(setup: CutSetup, state: State, timing: Timing | None) -> Economy | None:
    """The economy of one cut, None where the tables know no life for this pair.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does (scalars).
    timing : Timing or None
        Minutes of a part.
    """
    parts, law = setup.parts, law_of(setup)
    if law is None:
        return None
    m = float(multiplier(setup, state.ae, state.ap))
    median = float(law.median(state.vc, state.hex, m))
    safe = safe_minutes(parts.lesson, median, parts.batch.survivors)
    change = change_of(parts)
    edge_cost, rate = edge_cost_of(parts), rate_of(parts)
    edges = None if timing is None else timing.cutting / median
    time = None if timing is None or edges is None else timing.running + edges * change
    cost = (
        None if time is None or edges is None or rate is None or edge_cost is None else time * rate + edges * edge_cost
    )
    in_range = (setup.chip.least or 0.0) <= state.hex <= (setup.chip.most or math.inf)
    return Economy(
        m=m, law=law, life=median, safe_life=safe, alone=safe * float(alone_share(setup, state)), is_valid=in_range,
        is_over=median > _TOLD * law.life_ref, volume_per_edge=state.q * median, change_time=change, edge_cost=edge_cost,
        rate=rate, time_per_part=time, edges_per_part=edges, cost_per_part=cost,
        change_after=None if timing is None else math.floor(safe / timing.cutting), vc=state.vc, hex=state.hex,
    )  # fmt: skip


def safe_minutes(lesson: Lesson | None, median: float, survivors: float) -> float:
    """Minutes that a share of the edges outlives: by the usual scatter until enough edges say otherwise [min]."""
    if lesson is None or lesson.edges < KNOWN_FROM:
        return float(edge_life.safe_life(median, survivors))
    shape = edge_life.shape_of(lesson.scatter)
    safe = float(edge_life.safe_life(median, survivors, shape))
    return edge_life.unbroken_life(safe, median, survivors, shape, lesson.breaks, lesson.break_minutes)


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


def over_speed(economy: Economy, timing: Timing, vc: Array) -> SpeedCurve:
    """Time and cost at other speeds: feed follows the speed, life follows its law, links stay as they are."""
    lives = economy.law.median(vc, economy.hex, economy.m)
    cutting = timing.cutting * economy.vc / vc
    edges = cutting / lives
    time = cutting + timing.linking + edges * economy.change_time
    if economy.rate is None or economy.edge_cost is None:
        return SpeedCurve(vc, time, None)
    return SpeedCurve(vc, time, time * economy.rate + edges * economy.edge_cost)
