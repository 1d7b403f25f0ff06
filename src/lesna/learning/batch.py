"""A batch with what is not known of its edges: time, edges and cost with their spread, and what runs alone through a night."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lesna.learning.posterior import LEVEL
from lesna.model.lesson import KNOWN_FROM
from lesna.physics import Array
from lesna.planning.cut.economy import Economy, edge_cost_of, rate_of, safe_minutes
from lesna.planning.cut.result import Result

#: draws of the spread, always the same ones
_DRAWS = 4000
#: scatter of edges of one setting where nobody has seen them
_USUAL_SCATTER = 0.37


@dataclass(frozen=True)
class CutSpread:
    """One cut of a part: minutes, edges and money, each median, low and high (5 and 95 %), and from how many own edges."""

    name: str
    minutes: tuple[float, float, float]
    edges: tuple[float, float, float]
    cost: tuple[float, float, float] | None
    from_edges: int


@dataclass(frozen=True)
class BatchSpread:
    """The parts of a batch: minutes and money of one, with the spread of the batch's mean.

    Attributes
    ----------
    parts : int
        Of the batch.
    minutes, cost : tuple of float
        Of a part: median, low, high; cost is None without prices.
    edges : float
        That a part uses up.
    cuts : tuple of CutSpread
        The cuts.
    is_own : bool
        Whether every cut stands on enough edges of its own set-up.
    unknown : tuple of str
        Cuts of which no time or no life is known.
    """

    parts: int
    minutes: tuple[float, float, float]
    cost: tuple[float, float, float] | None
    edges: float
    cuts: tuple[CutSpread, ...]
    is_own: bool
    unknown: tuple[str, ...]


def batch_spread(results: Sequence[Result], parts: int, *, setup_minutes: float = 0.0) -> BatchSpread:
    """What a batch takes, with what is not known of edge lives.

    Parameters
    ----------
    results : sequence of Result
        Of every cut.
    parts : int
        Of the batch.
    setup_minutes : float
        For the whole batch [min].
    """
    rng = np.random.default_rng(26)
    minutes, money = np.full(_DRAWS, setup_minutes / parts), np.zeros(_DRAWS)
    cuts, unknown, edges, is_priced = [], [], 0.0, bool(results)
    for result in results:
        economy, timing = result.economy, result.timing
        if economy is None or timing is None:
            unknown.append(result.name)
            continue
        lives = economy.life * np.exp(_off(result, economy, timing.cutting * parts, rng))
        used = timing.cutting / lives
        time = timing.running + used * economy.change_time
        rate, edge = rate_of(result.setup.parts), edge_cost_of(result.setup.parts)
        is_priced = is_priced and rate is not None and edge is not None
        cost = None if rate is None or edge is None else time * rate + used * edge
        minutes += time
        money += 0.0 if cost is None else cost
        edges += timing.cutting / economy.life
        own = result.setup.parts.lesson.edges if result.setup.parts.lesson is not None else 0
        cuts.append(CutSpread(result.name, _band(time), _band(used), None if cost is None else _band(cost), own))
    rate = rate_of(results[0].setup.parts) if results else None
    if rate is not None:
        money += setup_minutes / parts * rate
    is_own = bool(cuts) and not unknown and all(cut.from_edges >= KNOWN_FROM for cut in cuts)
    cost_of_part = _band(money) if is_priced and not unknown else None
    return BatchSpread(parts, _band(minutes), cost_of_part, edges, tuple(cuts), is_own, tuple(unknown))


def _off(result: Result, economy: Economy, cutting: float, rng: np.random.Generator) -> Array:
    """ln of the mean life in the batch over the median: what is not known of the median, and the luck of so many edges."""
    lesson = result.setup.parts.lesson
    median = lesson.spread if lesson is not None and lesson.of_life else LEVEL
    scatter = lesson.scatter if lesson is not None and lesson.edges >= KNOWN_FROM else _USUAL_SCATTER
    count = max(cutting / economy.life, 1.0)
    return np.asarray(rng.normal(0.0, math.hypot(median, scatter / math.sqrt(count)), _DRAWS))


def _band(values: Array) -> tuple[float, float, float]:
    low, middle, high = np.quantile(values, (0.05, 0.5, 0.95))
    return float(middle), float(low), float(high)


@dataclass(frozen=True)
class ToolPlan:
    """One cut through unattended hours.

    Attributes
    ----------
    name : str
        Of the cut.
    alone : float
        Minutes in the cut that an edge may run alone [min].
    parts_per_edge : int
        Whole parts within them.
    edges : int
        Edges, that is sister tools, that the hours need.
    changes : tuple of float
        Hours from the start at which the next sister takes over [h].
    stops_after : float or None
        Hours at which not even one part more is safe; None where sisters carry on.
    why : str
        What would stop it first.
    """

    name: str
    alone: float
    parts_per_edge: int
    edges: int
    changes: tuple[float, ...]
    stops_after: float | None
    why: str


@dataclass(frozen=True)
class RunPlan:
    """A run without anybody there."""

    hours: float
    survival: float
    parts: int
    part_minutes: float
    tools: tuple[ToolPlan, ...]
    pockets: int | None
    stops_first: str

    @property
    def sisters(self) -> int:
        """Tools that have to stand in the magazine."""
        return sum(tool.edges for tool in self.tools)


#: changes that a plan lists for one cut
_MOST_CHANGES = 500


def run_plan(results: Sequence[Result], hours: float, survival: float, pockets: int | None = None) -> RunPlan:
    """Parts, sister tools and changes of some unattended hours.

    Parameters
    ----------
    results : sequence of Result
        Of every cut, each with a known time and life.
    hours : float
        Without anybody there [h].
    survival : float
        Share of edges that are still good when they are changed [-].
    pockets : int or None
        Tools that the magazine holds.
    """
    known = [(result, result.economy, result.timing) for result in results]
    part = sum(timing.running for _, _, timing in known if timing is not None)
    parts = int(60.0 * hours / part) if part > 0 else 0
    tools = tuple(_tool_plan(result, economy, timing.cutting, parts, part, survival) for result, economy, timing in known
                  if economy is not None and timing is not None)  # fmt: skip
    return RunPlan(hours, survival, parts, part, tools, pockets, _first(tools, pockets, parts))


def _tool_plan(result: Result, economy: Economy, cutting: float, parts: int, part: float, survival: float) -> ToolPlan:
    share = economy.alone / economy.safe_life
    alone = safe_minutes(result.setup.parts.lesson, economy.life, survival) * share
    each = math.floor(alone / cutting) if cutting > 0 else 0
    if each < 1:
        return ToolPlan(
            result.name, alone, 0, parts, (), 0.0, "one part takes longer in the cut than an edge may run alone"
        )
    edges = math.ceil(parts / each) if parts else 0
    changes = tuple(round(k * each * part / 60.0, 3) for k in range(1, min(edges, _MOST_CHANGES)))
    why = "chips that stay in the way" if share < 1.0 else "wear of the edge"
    return ToolPlan(result.name, alone, each, edges, changes, None, why)


def _first(tools: Sequence[ToolPlan], pockets: int | None, parts: int) -> str:
    """What would end the run before its hours are over, or what comes nearest to it."""
    if not parts:
        return "the hours are shorter than one part"
    bad = next((tool for tool in tools if tool.parts_per_edge < 1), None)
    if bad is not None:
        return f"{bad.name}: {bad.why}"
    needed = sum(tool.edges for tool in tools)
    if pockets is not None and needed > pockets:
        return f"the magazine: {needed} tools are needed, it holds {pockets}"
    first = min(tools, key=lambda tool: tool.parts_per_edge, default=None)
    return "" if first is None else f"{first.name}: {first.why} after {first.parts_per_edge} parts of an edge"
