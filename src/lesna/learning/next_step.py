"""The one change that brings most for what it risks (docs/physics.md section 14).

Keeps what is known of each limit that is met only by passing it, and steps in one quantity at a time, as far as the stated risk lets.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr

from lesna.learning.posterior import Posterior
from lesna.physics import Array

#: what a trial may step, in the order in which it usually pays: a chip costs less life than speed
Quantity = Literal["feed", "depth", "stepover", "speed"]
QUANTITIES: tuple[Quantity, ...] = ("feed", "depth", "stepover", "speed")
#: how far one step may go, what is no step at all, and the gain that is worth a trial
LARGEST, SMALLEST, WORTH = 1.5, 1.05, 0.03
#: minutes between which a look makes sense, and the longest where speed is looked at
SOONEST, LATEST, LATEST_OF_SPEED = 4.0, 15.0, 25.0
#: chance of losing the edge that is dared: a dear tool or a real part, usual, a cheap edge on scrap
RISKS = {"dear": 0.03, "usual": 0.10, "cheap": 0.20}
#: spread of ln of a limit of the tables, how sharply it is met, and how much before it signs are seen
_LIMIT_SPREAD, _SHARP, _SIGN = 0.30, 0.05, 0.12
_LIMITS = np.linspace(-1.6, 1.6, 321)
#: ln of cost that the median life may still leave open for a speed to be settled; looks for it
_SETTLED, LOOKS_OF_SPEED = 0.10, 3

Outcome = Literal["ok", "sign", "lost"]


class Limit:
    """What is known of a limit that is only met by passing it, as ln of it over the table's."""

    def __init__(self, seen: Sequence[tuple[float, Outcome]] = ()) -> None:
        log = -0.5 * (_LIMITS / _LIMIT_SPREAD) ** 2
        for used, outcome in seen:
            passed = ndtr((math.log(used) - _LIMITS) / _SHARP)
            signs = ndtr((math.log(used) - _LIMITS + _SIGN) / _SHARP)
            chance = {"ok": 1.0 - signs, "sign": signs - passed, "lost": passed}[outcome]
            log = log + np.log(np.maximum(chance, 1e-6))
        weight = np.exp(log - log.max())
        self.weights: Array = weight / weight.sum()

    def chance(self, used: float) -> float:
        """Chance that so much of the table's limit is too much."""
        return float(self.weights @ ndtr((math.log(max(used, 1e-9)) - _LIMITS) / _SHARP))

    def sign_chance(self, used: float) -> float:
        """Chance that so much of the table's limit shows signs of it."""
        return float(self.weights @ ndtr((math.log(max(used, 1e-9)) - _LIMITS + _SIGN) / _SHARP))


@dataclass(frozen=True)
class Point:
    """What a setting is judged by.

    Attributes
    ----------
    q : float
        Removal [cm3/min].
    table : float
        Life of the tables [min].
    x : array (3,)
        1, and ln of speed and chip over the references.
    used : mapping
        Use of each limit that is met by passing it, over the table's [-].
    hard : float
        Greatest use of what geometry and machine hold, 1 at the ceiling [-].
    """

    q: float
    table: float
    x: Array
    used: Mapping[str, float]
    hard: float


@dataclass(frozen=True)
class Prices:
    """Money a minute of the machine, of an edge, and minutes to change one; without prices time alone counts."""

    rate: float
    edge: float
    change: float

    def per_volume(self, q: float, life: float) -> float:
        """Money (or minutes) of a cm3."""
        return (self.rate * (1.0 + self.change / life) + self.edge / life) / q


@dataclass(frozen=True)
class Step:
    """A change, or that there is none worth making.

    Attributes
    ----------
    what : str
        Quantity that is changed; empty where it is best to stop.
    factor : float
        New over old [-].
    gain : float
        Share of the cost of a cm3 that falls away [-].
    chance : float
        Chance of losing the edge [-].
    look_after : float
        Minutes in the cut at which to look.
    at_ceiling : bool
        Whether geometry or machine held the step.
    why_none : str
        Why there is none: ``ceiling``, ``risk`` or ``gain``.
    """

    what: Quantity | Literal[""]
    factor: float = 1.0
    gain: float = 0.0
    chance: float = 0.0
    look_after: float = LATEST
    at_ceiling: bool = False
    why_none: str = ""


def look_after(posterior: Posterior, point: Point, risk: float, latest: float = LATEST) -> float:
    """Minutes at which the chance of having passed the criterion is half the risk, within what makes sense [min]."""
    at = point.table * math.exp(posterior.quantile(point.x, risk / 2))
    return min(max(at, SOONEST), latest)


def worn_by(posterior: Posterior, point: Point, minutes: float) -> float:
    """Chance that the next edge is worn before a look."""
    return float(posterior.chance_below(point.x, np.array(math.log(minutes / point.table))))


def next_step(
    posterior: Posterior,
    limits: Mapping[str, Limit],
    point_at: Callable[[Quantity, float], Point],
    prices: Prices,
    risk: float,
    *,
    among: Sequence[Quantity] = QUANTITIES,
    latest: float = LATEST,
    looks_of_speed: int = 0,
) -> Step:
    """The change of one quantity that brings most.

    Parameters
    ----------
    posterior : Posterior
        Of life.
    limits : mapping
        What is known of each limit that is met by passing it.
    point_at : callable
        The point with one quantity so many times as large.
    prices : Prices
        Of machine and edge.
    risk : float
        Chance of losing the edge that is dared [-].
    among : sequence of str
        Quantities that may be changed.
    latest : float
        Latest minutes of a look [min].
    looks_of_speed : int
        Looks that speed has had already.
    """
    here = point_at("feed", 1.0)

    def cost(point: Point) -> float:
        return prices.per_volume(point.q, point.table * math.exp(posterior.shift(point.x)))

    def chance(point: Point) -> tuple[float, float]:
        minutes = look_after(posterior, point, risk, latest)
        kept = 1.0 - worn_by(posterior, point, minutes)
        for name, used in point.used.items():
            # what the standing setting asks of a limit was survived
            if used > here.used[name] * (1 + 1e-6):
                kept *= 1.0 - limits[name].chance(used)
        return 1.0 - kept, minutes

    best, held = Step("", why_none="gain"), {"ceiling": 0.0, "risk": 0.0}
    for what in among:
        if what == "speed":
            continue
        factor, at_ceiling = _largest(lambda f, what=what: point_at(what, f), lambda point: chance(point)[0] <= risk)  # type: ignore[misc]
        for why, full in (("ceiling", at_ceiling), ("risk", not at_ceiling)):
            if full and factor < SMALLEST:
                held[why] = max(held[why], 1.0 - cost(point_at(what, 1.1)) / cost(here))
        if factor < SMALLEST:
            continue
        point = point_at(what, factor)
        lost, minutes = chance(point)
        gain = 1.0 - cost(point) / cost(here)
        if gain * (1.0 - lost) > max(best.gain * (1.0 - best.chance), WORTH * (1.0 - lost)):
            best = Step(what, factor, gain, lost, minutes, at_ceiling)
    if best.what:
        return best
    if "speed" in among and looks_of_speed < LOOKS_OF_SPEED:
        speed = _speed(posterior, point_at, cost, chance, here, risk, prices)
        if speed is not None:
            return speed
    why = max(held, key=lambda key: held[key])
    return Step("", why_none=why if held[why] >= WORTH else "gain")


def _largest(point_at: Callable[[float], Point], is_dared: Callable[[Point], bool]) -> tuple[float, bool]:
    """The largest step that is dared and held, and whether it is geometry or machine that holds it."""
    top = point_at(LARGEST)
    if top.hard <= 1.0 + 1e-9 and is_dared(top):
        return LARGEST, False
    low, high = 0.0, math.log(LARGEST)
    for _ in range(9):
        middle = 0.5 * (low + high)
        point = point_at(math.exp(middle))
        low, high = (middle, high) if point.hard <= 1.0 + 1e-9 and is_dared(point) else (low, middle)
    return math.exp(low), point_at(math.exp(high)).hard > 1.0 + 1e-9


def _speed(
    posterior: Posterior, point_at: Callable[[Quantity, float], Point], cost: Callable[[Point], float],
    chance: Callable[[Point], tuple[float, float]], here: Point, risk: float, prices: Prices,
) -> Step | None:  # fmt: skip
    """The speed that is cheapest by what is known; None where neither moving nor looking once more brings anything."""
    factors = np.exp(np.linspace(math.log(1 / LARGEST), math.log(LARGEST), 25))
    points = [point_at("speed", float(factor)) for factor in factors]
    fitting = [
        k
        for k, point in enumerate(points)
        if point.hard <= 1.0 + 1e-9 and chance(point)[0] <= max(risk, chance(here)[0])
    ]
    if not fitting:
        return None
    k = min(fitting, key=lambda k: cost(points[k]))
    gain = 1.0 - cost(points[k]) / cost(here)
    life = here.table * math.exp(posterior.shift(here.x))
    swing = 1.645 * posterior.median_spread(here.x)
    open_cost = math.log(
        prices.per_volume(1.0, life * math.exp(-swing)) / prices.per_volume(1.0, life * math.exp(swing))
    )
    if gain < WORTH and open_cost < _SETTLED:
        return None
    lost, _ = chance(points[k])
    factor = float(factors[k]) if gain >= WORTH else 1.0
    point = points[k] if gain >= WORTH else here
    return Step("speed", factor, max(gain, 0.0), lost, look_after(posterior, point, risk, LATEST_OF_SPEED))
