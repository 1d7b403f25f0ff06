"""A ladder of test cuts: one quantity stepped from where a cut stands, as far as geometry and machine can hold it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lesna.learning.fit import Fit
from lesna.learning.next_step import LATEST, RISKS, SOONEST, Quantity, look_after, worn_by
from lesna.learning.stepping import STEPPED, ceiling_use, most_of, point_of, stepped, value_of
from lesna.model.errors import InputError
from lesna.planning.cut.economy import edge_cost_of, rate_of
from lesna.planning.cut.result import Result

#: steps of a ladder where nobody says how many, and at most
USUAL_STEPS, MOST_STEPS = 5, 20
#: a tool thinner than this is looked at sooner [mm], an edge that costs more than so many minutes of the machine is dear
_SMALL, _DEAR = 4.0, 60.0
_SOON = 0.6
#: a step that adds less than this is none
_LEAST_STEP = 0.01


@dataclass(frozen=True)
class Rung:
    """One test cut.

    Attributes
    ----------
    number : int
        From 1.
    result : Result
        What it does.
    value : float
        The quantity that is stepped, in its own unit.
    minutes : float
        In the cut until the look [min].
    volume, length : float
        Material [cm3] and way [mm] that these minutes take.
    worn_chance : float
        Chance that the edge is worn by then [-].
    held_by : str
        What holds it at the ceiling; empty below it.
    """

    number: int
    result: Result
    value: float
    minutes: float
    volume: float
    length: float
    worn_chance: float
    held_by: str = ""


@dataclass(frozen=True)
class Ladder:
    """A plan of test cuts.

    Attributes
    ----------
    what : str
        Quantity that is stepped.
    size : float
        Step over the former value [-].
    rungs : tuple of Rung
        The test cuts in order.
    ceiling : float
        Largest value that geometry and machine can hold.
    held_by : str
        What holds it there.
    stop_rule : tuple of str
        When to stop.
    on_scrap : bool
        Whether it is cut on a scrap piece.
    """

    what: Quantity
    size: float
    rungs: tuple[Rung, ...]
    ceiling: float
    held_by: str
    stop_rule: tuple[str, ...]
    on_scrap: bool

    @property
    def minutes(self) -> float:
        """Minutes in the cut of all steps."""
        return sum(rung.minutes for rung in self.rungs)

    @property
    def volume(self) -> float:
        """Material of all steps [cm3]."""
        return sum(rung.volume for rung in self.rungs)


def risk_of(result: Result, *, on_scrap: bool) -> float:
    """Chance of losing an edge that is dared: little with a dear tool or on a real part, more with a cheap edge on scrap."""
    if not on_scrap or is_dear(result):
        return RISKS["dear"]
    return RISKS["usual"]


def is_dear(result: Result) -> bool:
    """Whether an edge costs more than an hour of the machine, or the tool is thin."""
    parts = result.setup.parts
    edge, rate = edge_cost_of(parts), rate_of(parts)
    return parts.tool.DC < _SMALL or bool(edge and rate and edge / rate > _DEAR)


def plan_ladder(
    result: Result, fit: Fit, what: Quantity = "feed", *, steps: int = USUAL_STEPS, size: float | None = None,
    minutes: float | None = None, on_scrap: bool = True,
) -> Ladder:  # fmt: skip
    """A ladder of test cuts from where a cut stands.

    Parameters
    ----------
    result : Result
        The cut.
    fit : Fit
        What is known of its edge life.
    what : str
        Quantity that is stepped: feed first, then depth, then speed.
    steps : int
        Test cuts, the first as the cut stands.
    size : float or None
        Step over the former value [-]; 10 % of feed and speed, 20 % of depth and stepover where left out.
    minutes : float or None
        In the cut until each look [min]; by the risk, within 4 to 15, where left out.
    on_scrap : bool
        Whether a scrap piece is cut; a real part is risked less.

    Raises
    ------
    InputError
        When there is no room for a step.
    """
    if not 2 <= steps <= MOST_STEPS:
        raise InputError(f"must be 2 to {MOST_STEPS}, got {steps}", "steps")
    size = STEPPED[what].size if size is None else size
    if not _LEAST_STEP <= size <= 1.0:
        raise InputError(f"must be 1 to 100 %, got {100 * size:g} %", "size")
    if minutes is not None and not 0 < minutes <= 600:
        raise InputError(f"must be above 0 and at most 600 min, got {minutes:g} min", "minutes")
    start = value_of(result, what)
    top, held_by = _ceiling(result, what)
    if top < start * (1 - 1e-9):
        raise InputError(
            f"the cut is over what geometry and machine hold already ({held_by.lower()}); ease it first", "cut"
        )
    risk = risk_of(result, on_scrap=on_scrap)
    rungs: list[Rung] = []
    for number in range(1, steps + 1):
        value = start * (1 + size) ** (number - 1)
        is_top = value >= top * (1 - 1e-9)
        value = min(value, top)
        if rungs and value < rungs[-1].value * (1 + _LEAST_STEP):
            break
        found = result if number == 1 else stepped(result, what, value / start)
        if found is None:
            break
        rungs.append(_rung(number, found, value, fit, risk, minutes, held_by if is_top else ""))
        if is_top:
            break
    if len(rungs) < 2:
        raise InputError(f"is at its ceiling already ({held_by.lower()}); step another quantity", STEPPED[what].field)
    return Ladder(what, size, tuple(rungs), top, held_by, stop_rule(what, held_by), on_scrap)


def _rung(number: int, found: Result, value: float, fit: Fit, risk: float, minutes: float | None, held_by: str) -> Rung:
    point = point_of(found)
    look = minutes
    if look is None:
        look = look_after(fit.posterior, point, risk, LATEST)
        if is_dear(found):
            look = max(_SOON * look, SOONEST)
        look = float(round(look))
    worn = worn_by(fit.posterior, point, look)
    state = found.state
    return Rung(number, found, value, look, float(state.q) * look, float(state.vf) * look, worn, held_by)


#: the largest value that is looked at, over where the cut stands
_FARTHEST = 8.0
#: what ends a quantity where no limit does
_ENDS: dict[Quantity, str] = {
    "depth": "length of the tool", "stepover": "diameter of the tool", "feed": "eight times today's", "speed": "eight times today's",
}  # fmt: skip


def _ceiling(result: Result, what: Quantity) -> tuple[float, str]:
    """Largest value that geometry and machine hold, and what holds it."""
    start, most = value_of(result, what), most_of(result.setup.parts, what)

    def held(factor: float) -> tuple[bool, str]:
        found = stepped(result, what, factor)
        if found is None:
            return False, _ENDS[what]
        use, name = ceiling_use(found)
        return use <= 1.0 + 1e-9, name

    low, high = 1.0, min(_FARTHEST, most / start)
    fits, name = held(high)
    if fits:
        return start * high, _ENDS[what]
    fits_here, name_here = held(1.0)
    if not fits_here:
        return 0.0, name_here
    for _ in range(12):
        middle = math.sqrt(low * high)
        fits, found = held(middle)
        low, high, name = (middle, high, name) if fits else (low, middle, found)
    return start * low, name


def stop_rule(what: Quantity, held_by: str) -> tuple[str, ...]:
    """When a ladder ends."""
    signs = {
        "feed": "chipping or flaking at corner or flute, a notch, or a sound that was not there before",
        "depth": "chatter by ear or on the wall, chipping or a notch at the depth line, chips that stay in the cut",
        "stepover": "chatter by ear or on the wall, chips that stay in the cut, a part that moves",
        "speed": "a land that grows faster than predicted, chips that turn blue to grey, a built-up edge",
    }[what]
    return (
        f"Stop at the first sign: {signs}.",
        "Stop when the land at a look is over 0.2 mm, or over the predicted band.",
        f"Stop at the ceiling ({held_by.lower()}): nothing above it can be had.",
        "Take the last step without a sign as the new standing setting.",
    )
