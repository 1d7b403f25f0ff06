"""A quote with what is not known of its edges: time, edges and money of a part, with the spread of the batch's mean."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lesna.learning.posterior import LEVEL
from lesna.model.lesson import KNOWN_FROM
from lesna.physics import Array
from lesna.planning.cut.economy import Economy, edge_cost_of, rate_of
from lesna.planning.cut.result import Result
from lesna.planning.quote import Quote

#: draws of the spread, always the same ones
_DRAWS = 4000
#: scatter of edges of one setting where nobody has seen them
_USUAL_SCATTER = 0.37


@dataclass(frozen=True)
class CutSpread:
    """One cut of a part: minutes, edges and money, each median, low and high (5 and 95 %), and from how many own edges."""

    place: int
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


def batch_spread(quote: Quote, results: Sequence[Result]) -> BatchSpread:
    """What a quote leaves open, since edge lives are not known to the minute.

    Parameters
    ----------
    quote : Quote
        Of the batch: its set-up, programming and tool changes are taken as they stand.
    results : sequence of Result
        Of every cut, as the quote was made of them.
    """
    rng, parts = np.random.default_rng(26), quote.parts
    minutes = np.full(_DRAWS, (quote.setup_minutes or 0.0) / parts + quote.changes_minutes)
    money = np.full(_DRAWS, (quote.programming_money or 0.0) / parts)
    if quote.rate is not None:
        money += minutes * quote.rate / 60.0
    cuts, unknown, edges, is_priced = [], [], 0.0, bool(results)
    for place, result in enumerate(results):
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
        cuts.append(CutSpread(place, result.name, _band(time), _band(used), None if cost is None else _band(cost), own))
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
