"""The shop's tools for a feature, ranked by the chosen aim, with what speaks for and against each."""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import median

from lesna.model import names, units
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.library_records import Tool
from lesna.model.resolve import CutParts, Shelf, parts_with
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.limits import NEAR, OF_THE_EDGE
from lesna.planning.cut.starting import starting_values
from lesna.planning.schools.compare import case_of, compare, floor_of
from lesna.planning.schools.lanes import Lane, with_lane
from lesna.planning.schools.strategies import Case, corner_rest
from lesna.planning.search.aims import Aim

#: air between the part's top and the holder, and length of shank in the holder over its diameter
_CLEAR, _GRIPPED = 4.0, 1.5
#: reasons that are told
_TOLD = 3
#: a figure this much off the middle of the field is worth a word
_TELLING = 0.1
#: stick-out over DC from which it is called long
_LONG = 4.0


@dataclass(frozen=True)
class ToolRank:
    """One tool on the feature.

    Attributes
    ----------
    tool : Tool
        Which.
    stick_out : float
        Shortest length out of the holder that reaches the floor [mm].
    lane : Lane or None
        Its best strategy; None where there is none.
    score : float
        How good it is for the aim: the greater, the better.
    speaks_for, speaks_against : tuple of str
        The strongest reasons, three at most.
    is_shortest : bool
        Whether it is the stiffest in reach: the least stick-out over its diameter.
    why_not : str
        Why it is not there.
    """

    tool: Tool
    stick_out: float
    lane: Lane | None
    score: float
    speaks_for: tuple[str, ...] = ()
    speaks_against: tuple[str, ...] = ()
    is_shortest: bool = False
    why_not: str = ""


def rank_tools(parts: CutParts, shelf: Shelf, aim: Aim = "cost", *, pulse: Pulse = STEADY) -> tuple[ToolRank, ...]:
    """Every tool of the library on the feature of a cut, the best first, those that cannot do it last."""
    case = case_of(parts, shelf)
    floor = floor_of(case, aim)
    found: list[ToolRank] = []
    tools = sorted(shelf.tools.values(), key=lambda tool: tool.id)
    for done, tool in enumerate(tools, start=1):
        found.append(_rank(case, tool, (aim, floor), pulse))
        pulse.tell(done, len(tools))
    there = [entry for entry in found if entry.lane is not None]
    shortest = min((entry.stick_out / entry.tool.DC for entry in there), default=0.0)
    told = [_reasoned(case, entry, there, shortest) if entry.lane is not None else entry for entry in found]
    return tuple(sorted(told, key=lambda entry: (-entry.score, entry.tool.id)))


def with_ranked_tool(job: Job, index: int, entry: ToolRank) -> Job:
    """The job with a tool in a cut, cut like its best strategy."""
    assert entry.lane is not None  # the caller asks for tools that are there
    cut = job.cuts[index].with_values(tool=entry.tool.id, stick_out_mm=entry.stick_out, tap_modes=())
    return with_lane(job.with_values(cuts=(*job.cuts[:index], cut, *job.cuts[index + 1 :])), index, entry.lane)


def stick_out_of(tool: Tool, depth: float) -> float:
    """Shortest length out of the holder with which a tool reaches a floor [mm].

    The flutes stay out of the holder.
    """
    return max(depth + _CLEAR, tool.APMX + 1.0) if tool.kind != "face" else max(depth + _CLEAR, tool.OAL or 40.0)


def problem_of(case: Case, tool: Tool) -> str:
    """Why a tool is not even tried; empty where it is."""
    material, solid = case.parts.material, case.solid
    groups = tool.intended_iso_groups.split()
    if tool.kind == "chamfer" and solid.kind != "chamfer":
        return "a chamfer tool breaks edges"
    if solid.kind == "chamfer" and tool.kind != "chamfer":
        return "a chamfer keeps its chamfer mill"
    if tool.kind == "face" and solid.kind != "face":
        return "a face mill is for faces"
    if tool.is_ball and solid.kind != "surface":
        return "a ball is for surfaces"
    if tool.usable_length < solid.depth * (1 - 1e-9):
        return "reaches {}, the floor lies at {}".format(*units.LENGTH.pair(tool.usable_length, solid.depth))
    if solid.largest_cutter < tool.DC:
        return f"wider than the {units.LENGTH.mark(solid.largest_cutter)} between the walls"
    if groups and material.iso_group not in groups:
        return f"made for {', '.join(groups)}, this is {material.iso_group}"
    length = stick_out_of(tool, solid.depth)
    if tool.OAL is not None and tool.kind != "face" and length + _GRIPPED * (tool.DMM or tool.DC) > tool.OAL:
        return f"too short: {units.DIMENSION.mark(tool.OAL)} over all leave too little in the holder"
    return ""


def _rank(case: Case, tool: Tool, wanted: tuple[Aim, float], pulse: Pulse) -> ToolRank:
    aim, floor = wanted
    length = round(stick_out_of(tool, case.solid.depth), 1)
    reason = problem_of(case, tool)
    start = (
        None if reason else starting_values(tool, case.parts.material, "heavy_radial", case.shelf, feature=case.feature)
    )
    if not reason and start is None:
        kind = names.data_substrate(tool.substrate, tool.coating)
        reason = f"the tables have no values for {kind} in this material"
    if start is None:
        return ToolRank(tool, length, None, -math.inf, why_not=reason)
    try:
        changed = case.parts.cut.with_values(
            tool=tool.id, stick_out_mm=length, ae_mm=min(start.ae, tool.DC), ap_mm=min(start.ap, tool.usable_length, length),
            vc_m_min=start.vc, n_rpm=None, life_min_wanted=None, hex_mm=start.hex, fz_mm=None, book=None, tap_modes=(), locks=(),
        )  # fmt: skip
        trial = parts_with(case.parts, changed, case.shelf)
        found = compare(trial, case.shelf, aim, quick=True, own_tool=True, floor=floor, pulse=pulse)
    except InputError as error:
        return ToolRank(tool, length, None, -math.inf, why_not=str(error))
    if found.winner is None:
        nearest = next((lane.why_not for lane in found.lanes if "stops" in lane.why_not), found.lanes[0].why_not)
        return ToolRank(tool, length, None, -math.inf, why_not=nearest)
    return ToolRank(tool, length, found.winner, found.winner.score(aim))


def _reasoned(case: Case, entry: ToolRank, field: list[ToolRank], shortest: float) -> ToolRank:
    lane, tool = entry.lane, entry.tool
    assert lane is not None  # only those that are there are reasoned about
    lanes = [other.lane for other in field if other.lane is not None]
    good: list[tuple[float, str]] = []
    bad: list[tuple[float, str]] = []

    def weigh(value: float, middle: float, better: str, worse: str) -> None:
        off = value / middle - 1.0 if middle > 0 else 0.0
        if off > _TELLING:
            good.append((off, better))
        elif off < -_TELLING:
            bad.append((1.0 / (1.0 + off) - 1.0, worse))

    q = units.REMOVAL.mark(lane.q)
    weigh(lane.q, median(other.q for other in lanes), f"removes {q}", f"removes only {q}")
    if math.isfinite(lane.life):
        life = units.LONG_MINUTES.mark(lane.life)
        weigh(lane.life, median(other.life for other in lanes), f"its edges last {life}", f"its edges last only {life}")
    costs = [other.cost for other in lanes if other.cost is not None]
    if lane.cost is not None and costs:
        weigh(median(costs) / lane.cost, 1.0, f"{lane.cost:.2f} a part", f"{lane.cost:.2f} a part is dear")
    slim = entry.stick_out / tool.DC
    if slim <= shortest * 1.02:
        good.append((0.5, f"the stiffest in reach: {slim:.1f} diameters out"))
    elif slim > _LONG:
        bad.append((slim / _LONG - 0.8, f"hangs out {slim:.1f} diameters"))
    rest = corner_rest(case.solid, tool.DC)
    if rest:
        bad.append((2 * rest / tool.DC + 0.2, f"leaves {units.LENGTH.mark(rest)} in the corners"))
    hold = lane.main.limits[0]
    if hold.use >= NEAR and hold.rule.id not in OF_THE_EDGE:
        bad.append((0.3, f"{hold.rule.name.lower()} holds it back"))
    elif hold.rule.id in OF_THE_EDGE:
        good.append((0.2, "its own edge is the limit, not machine or holder"))
    teeth = [other.tool.ZEFP for other in field]
    if median(teeth) < tool.ZEFP:
        good.append((0.15, f"{tool.ZEFP} teeth feed more at the same chip"))
    if not good and not bad:
        good.append((0.0, f"removes {units.REMOVAL.mark(lane.q)}, with nothing that sets it apart"))
    order = [tuple(text for _, text in sorted(part, key=lambda e: -e[0])[:_TOLD]) for part in (good, bad)]
    return ToolRank(tool, entry.stick_out, lane, entry.score, order[0], order[1], slim <= shortest * 1.02)
