"""One quantity of a cut changed, the others kept, and what the changed cut is judged by."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.learning.next_step import Limit, Outcome, Point, Prices, Quantity
from lesna.learning.settings import Taken, setting_of, untaught
from lesna.model import units
from lesna.model.resolve import CutParts
from lesna.planning.cut.economy import change_of, edge_cost_of, rate_of
from lesna.planning.cut.limits import ENDS
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of


@dataclass(frozen=True)
class Stepped:
    """How a quantity is called: its field in the document, how it is shown, and how far a ladder steps it."""

    name: str
    field: str
    quantity: units.Quantity
    unit: str
    size: float


STEPPED: dict[Quantity, Stepped] = {
    "feed": Stepped("feed per tooth", "fz_mm", units.CHIP, "mm", 0.10),
    "depth": Stepped("depth", "ap_mm", units.LENGTH, "mm", 0.20),
    "stepover": Stepped("stepover", "ae_mm", units.LENGTH, "mm", 0.20),
    "speed": Stepped("surface speed", "vc_m_min", units.SURFACE_SPEED, "m/min", 0.10),
}
#: limits of which the tables know no more than about where they lie: they are only met by passing them
_MET_BY_PASSING = frozenset({"chip_thickness_max", "stability"})
#: limits that hold no step: what a chip needs at least
_NO_CEILING = frozenset({"chip_thickness_min"})


def value_of(result: Result, what: Quantity) -> float:
    """A quantity as it stands."""
    state = result.state
    return float({"feed": state.fz, "depth": state.ap, "stepover": state.ae, "speed": state.vc}[what])


def with_value(result: Result, what: Quantity, value: float) -> CutParts:
    """The parts of a cut with one quantity set, the others as they run now."""
    fixed: dict[str, Any] = {
        "fz_mm": float(result.state.fz), "hex_mm": None, "book": None, "vc_m_min": float(result.state.vc), "n_rpm": None,
        "life_min_wanted": None, "program": None,
    }  # fmt: skip
    return result.setup.parts.with_cut(**{**fixed, STEPPED[what].field: value})


def most_of(parts: CutParts, what: Quantity) -> float:
    """Largest value that the tool can take at all."""
    if what == "stepover":
        return parts.tool.DC
    if what == "depth":
        return min(parts.tool.usable_length, parts.cut.stick_out_mm)
    return math.inf


def stepped(result: Result, what: Quantity, factor: float) -> Result | None:
    """The Result with one quantity so many times as large; None where the tool cannot take it."""
    value = value_of(result, what) * factor
    parts = with_value(result, what, value)
    if value > most_of(parts, what) * (1 + 1e-9):
        return None
    return result_of(setup_of(parts), timing=result.timing, wait=False)


def ceiling_use(result: Result) -> tuple[float, str]:
    """Greatest use of what geometry and machine hold, and its name; 1 is the ceiling.

    Parameters
    ----------
    result : Result
        The cut.
    """
    uses = [
        (limit.use, limit.rule.name)
        for limit in result.limits
        if limit.rule.id not in _NO_CEILING
        and (limit.rule.id not in _MET_BY_PASSING or (limit.rule.id == "stability" and _is_measured(result)))
        # where a feature or an edge ends, using all of it strains nothing
        and (limit.rule.id not in ENDS or limit.is_exceeded)
    ]
    if result.timing is not None and result.timing.held:
        uses.append((float(result.state.vf_asked) / result.timing.held, "feed that this geometry can hold"))
    return max(uses, default=(0.0, ""))


def prices_of(parts: CutParts) -> Prices:
    """What a minute and an edge cost; without prices time alone counts."""
    rate, edge = rate_of(parts), edge_cost_of(parts)
    if rate is None or edge is None:
        return Prices(1.0, 0.0, max(change_of(parts), 0.1))
    return Prices(rate, edge, change_of(parts))


def point_of(result: Result) -> Point:
    """What a cut is judged by."""
    setting = setting_of(untaught(result.setup.parts), with_load=False)
    # as the tables alone have them: what readings say of these limits is kept apart, see `limits_seen`
    told = {"feed": setting.chip_used, "depth": None if _is_measured(result) else setting.depth_used}
    used = {name: share for name, share in told.items() if share}
    return Point(float(result.state.q), setting.life, np.array([1.0, *setting.x]), used, ceiling_use(result)[0])


def _is_measured(result: Result) -> bool:
    """Whether the depth of chatter was measured, so that it holds like any other limit."""
    return result.setup.parts.cut.is_judged_by_modes


def points(result: Result) -> Callable[[Quantity, float], Point]:
    """The points of a cut with one quantity changed, each computed once; what the tool cannot take lies over the ceiling."""
    known: dict[tuple[Quantity, float], Point] = {}
    here = point_of(result)

    def at(what: Quantity, factor: float) -> Point:
        if abs(factor - 1.0) < 1e-12:
            return here
        if (what, factor) not in known:
            found = stepped(result, what, factor)
            known[what, factor] = (
                Point(here.q * factor, here.table, here.x, here.used, math.inf) if found is None else point_of(found)
            )
        return known[what, factor]

    return at


def limits_seen(own: Sequence[Taken]) -> dict[str, Limit]:
    """What the readings of a set-up say of the limits that are only met by passing them."""
    seen: dict[str, list[tuple[float, Outcome]]] = {"feed": [], "depth": []}
    for one in own:
        reading, setting = one.reading, one.setting
        if reading.minutes <= 0:
            continue
        at_depth = reading.wear_zone == "depth_line"
        chipped = reading.wear_kind in ("chipping", "flaking") and not at_depth
        if setting.chip_used:
            lost = (chipped and reading.retired == "worn") or (reading.is_broken and reading.chattered is not True)
            seen["feed"].append((setting.chip_used, "lost" if lost else "sign" if chipped else "ok"))
        if setting.depth_used:
            signs = reading.chattered is True or (at_depth and reading.wear_kind in ("notch", "chipping"))
            lost = reading.chattered is True and (reading.is_broken or reading.retired == "worn")
            seen["depth"].append((setting.depth_used, "lost" if lost else "sign" if signs else "ok"))
    return {name: Limit(found) for name, found in seen.items()}
