"""Hours that nobody watches: what each edge may run alone, the sister tools they take, and what would end them first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lesna.model.errors import InputError
from lesna.model.library_records import Machine
from lesna.model.shown import counted
from lesna.planning.cut.economy import safe_minutes
from lesna.planning.cut.features import volume
from lesna.planning.cut.result import Result
from lesna.planning.quote import switch_minutes

#: loose chips over the solid they were cut from: milling leaves commas that lie loosely (docs/physics.md section 13, confidence C)
LOOSE = 8.0
#: changes that a plan lists for one cut
_MOST_CHANGES = 500


@dataclass(frozen=True)
class Watch:
    """What is asked of the hours, and what the machine holds of its own.

    Attributes
    ----------
    hours : float
        Without anybody there [h].
    survival : float
        Share of edges that are still good when they are changed [-].
    pockets : int or None
        Tools that the magazine holds.
    chip_room : float or None
        Loose chips that the machine takes before somebody empties it [l].
    coolant_hours : float or None
        How long the coolant lasts without topping up [h].
    """

    hours: float
    survival: float
    pockets: int | None = None
    chip_room: float | None = None
    coolant_hours: float | None = None


@dataclass(frozen=True)
class ToolPlan:
    """One tool through unattended hours.

    Attributes
    ----------
    name : str
        Of its cuts.
    alone : float
        Minutes in the cut that an edge may run alone [min].
    parts_per_edge : int
        Whole parts within them.
    edges : int
        Edges, that is sister tools, that the hours need.
    changes : tuple of float
        Hours from the start at which the next sister takes over [h].
    why : str
        What ends an edge.
    """

    name: str
    alone: float
    parts_per_edge: int
    edges: int
    changes: tuple[float, ...]
    why: str


@dataclass(frozen=True)
class Stop:
    """Something that ends a run: what, at which hour from the start, and why."""

    what: str
    at: float
    why: str


@dataclass(frozen=True)
class RunPlan:
    """A run without anybody there.

    Attributes
    ----------
    watch : Watch
        What was asked.
    parts : int
        Whole parts that the hours hold.
    part_minutes : float
        Of one [min].
    tools : tuple of ToolPlan
        Of each tool.
    chips : float or None
        Loose chips of the whole run [l]; None where a cut has no feature.
    stops : tuple of Stop
        What ends it, the earliest first; those past its hours too.
    """

    watch: Watch
    parts: int
    part_minutes: float
    tools: tuple[ToolPlan, ...]
    chips: float | None
    stops: tuple[Stop, ...]

    @property
    def sisters(self) -> int:
        """Tools that have to stand in the magazine."""
        return sum(tool.edges for tool in self.tools)

    @property
    def lasts(self) -> float:
        """Hours that are safe: those asked for, or until the first stop [h]."""
        return min([self.watch.hours, *(stop.at for stop in self.stops)])

    @property
    def stops_first(self) -> str:
        """What ends it before its hours are over, or what comes nearest to it."""
        if not self.stops:
            return "nothing that is known"
        first = self.stops[0]
        when = (
            f"at {first.at:.1f} h of {self.watch.hours:g}" if first.at < self.watch.hours else "not within these hours"
        )
        return f"{first.what}, {when}: {first.why}"


def watch_of(
    machine: Machine, hours: float, survival: float, *, pockets: int | None = None, chip_room: float | None = None,
    coolant_hours: float | None = None,
) -> Watch:  # fmt: skip
    """What is asked of the hours; what is not typed is the machine's own."""
    return Watch(
        hours, survival, pockets if pockets is not None else machine.magazine_pockets,
        chip_room if chip_room is not None else machine.chip_room_l,
        coolant_hours if coolant_hours is not None else machine.coolant_lasts_h,
    )  # fmt: skip


def run_plan(results: Sequence[Result], watch: Watch) -> RunPlan:
    """Parts, sister tools, changes and stops of some unattended hours.

    Parameters
    ----------
    results : sequence of Result
        Of every cut.
    watch : Watch
        What is asked.

    Raises
    ------
    InputError
        Where of a cut the time or the edge life is not known: nothing runs alone on that.
    """
    unknown = [result.name for result in results if result.economy is None or result.timing is None]
    if unknown:
        raise InputError(f"of {', '.join(unknown)} the time or the edge life is not known; nothing runs alone on that")
    part = sum(result.timing.running for result in results if result.timing is not None) + switch_minutes(results)
    parts = int(60.0 * watch.hours / part) if part > 0 else 0
    tools = tuple(_tool_plan(of_one, parts, part, watch.survival) for of_one in _by_tool(results))
    volumes = [volume(result.setup.parts.cut.feature) for result in results]
    litres = None if None in volumes else LOOSE * sum(filter(None, volumes)) / 1000.0
    stops = sorted(_stops(tools, watch, part, litres), key=lambda stop: stop.at)
    return RunPlan(watch, parts, part, tools, None if litres is None else parts * litres, tuple(stops))


def _by_tool(results: Sequence[Result]) -> list[list[Result]]:
    """Cuts that one tool makes together: they wear the same edge."""
    found: dict[tuple[object, ...], list[Result]] = {}
    for result in results:
        parts = result.setup.parts
        found.setdefault((repr(parts.tool), parts.cut.stick_out_mm), []).append(result)
    return list(found.values())


def _tool_plan(results: Sequence[Result], parts: int, part: float, survival: float) -> ToolPlan:
    worn, cutting, is_by_chips = 0.0, 0.0, False  # share of an edge that a part uses up, and its minutes in the cut
    for result in results:
        economy, timing = result.economy, result.timing
        assert economy is not None and timing is not None  # looked at before
        share = economy.alone / economy.safe_life
        worn += timing.cutting / (safe_minutes(result.setup.parts.lesson, economy.life, survival) * share)
        cutting += timing.cutting
        is_by_chips |= share < 1.0
    name, alone = " + ".join(result.name for result in results), cutting / worn if worn else 0.0
    each = math.floor(1.0 / worn) if worn else 0
    if each < 1:
        return ToolPlan(name, alone, 0, parts, (), "one part takes longer in the cut than an edge may run alone")
    edges = math.ceil(parts / each) if parts else 0
    changes = tuple(round(k * each * part / 60.0, 3) for k in range(1, min(edges, _MOST_CHANGES)))
    return ToolPlan(
        name, alone, each, edges, changes, "chips that stay in the way" if is_by_chips else "wear of the edge"
    )


def _stops(tools: Sequence[ToolPlan], watch: Watch, part: float, litres: float | None) -> list[Stop]:
    """What ends the run, whether within its hours or after them."""
    an_hour = 60.0 / part if part > 0 else 0.0  # parts
    if an_hour * watch.hours < 1.0:
        return [Stop("the part", 0.0, "the hours are shorter than one part")]
    stops = [Stop(tool.name, 0.0, tool.why) for tool in tools if tool.parts_per_edge < 1]
    if not stops:
        least = min(tools, key=lambda tool: tool.parts_per_edge)
        if watch.pockets is None:
            why = f"{least.why} after {counted(least.parts_per_edge, 'part')} of an edge; how many sisters can stand ready is not known"
            stops.append(Stop(least.name, least.parts_per_edge / an_hour, why))
        else:
            most = parts_of_pockets([tool.parts_per_edge for tool in tools], watch.pockets)
            why = f"its {counted(watch.pockets, 'place')} hold edges for {counted(most, 'part')}"
            stops.append(Stop("the magazine", most / an_hour, why))
    if watch.chip_room is not None and litres:
        why = f"{watch.chip_room:g} l of room, {litres * an_hour:.1f} l of loose chips an hour"
        stops.append(Stop("chips", watch.chip_room / (litres * an_hour), why))
    if watch.coolant_hours is not None:
        stops.append(Stop("coolant", watch.coolant_hours, "it has to be topped up by then"))
    return stops


def parts_of_pockets(parts_per_edge: Sequence[int], pockets: int) -> int:
    """The most parts for which the edges of all cuts stand in a magazine: the most n with sum(ceil(n / each)) <= pockets."""
    low, high = 0, pockets * max(parts_per_edge, default=0)
    while low < high:
        middle = (low + high + 1) // 2
        if sum(math.ceil(middle / each) for each in parts_per_edge) <= pockets:
            low = middle
        else:
            high = middle - 1
    return low
