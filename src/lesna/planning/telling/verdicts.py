"""Why a strategy wins or loses, in sentences a foreman would accept, and a comparison as plain data."""

from __future__ import annotations

import math
from typing import Any

from lesna.model import units
from lesna.planning.cut.economy import rate_of
from lesna.planning.cut.limits import NEAR, OF_THE_EDGE
from lesna.planning.schools.lanes import Comparison, Lane, saving
from lesna.planning.search.aims import AIMS, Aim

#: what is not told apart
_CLOSE = 0.03


def verdict(comparison: Comparison, lane: Lane) -> str:
    """One sentence on a lane: why it wins, by how much it loses and what holds it, or why it is not there.

    Parameters
    ----------
    comparison : Comparison
        All lanes.
    lane : Lane
        One of them.
    """
    if not lane.is_there:
        return f"Not here: {lane.why_not}."
    return f"{_verdict(comparison, lane)}{_beyond(comparison, lane)}"


def _beyond(comparison: Comparison, lane: Lane) -> str:
    """What a lane of several steps does that others leave undone, so that like is compared with like."""
    finishing = [found for stage, found in lane.stages if stage.role == "finish"]
    if not finishing or all(
        any(stage.role == "finish" for stage, _ in other.stages) for other in comparison.lanes if other.is_there
    ):
        return ""
    minutes = sum(float(found.worth.minutes) for found in finishing)
    return f" It finishes the walls as well, in {units.clock(minutes)}, which the others leave to another cut."


def _verdict(comparison: Comparison, lane: Lane) -> str:
    there = [other for other in comparison.lanes if other.is_there]
    if lane is comparison.winner:
        if len(there) == 1:
            return f"The only one that holds every limit; {_stop(lane)}."
        return f"Wins {_gap(comparison.aim, lane, there[1])} {there[1].strategy.short}: {_strength(comparison.aim, lane, there[1])}."
    best = comparison.winner
    assert best is not None  # this lane is there
    behind = best.score(comparison.aim) / lane.score(comparison.aim) - 1.0
    head = "Close" if behind < _CLOSE else f"{_measure(comparison.aim, behind)} than {best.strategy.short}"
    return f"{head[0].upper()}{head[1:]}: {_weakness(comparison.aim, lane, best)}."


def _gap(aim: Aim, lane: Lane, second: Lane) -> str:
    ahead = lane.score(aim) / second.score(aim) - 1.0
    if ahead < _CLOSE:
        return "by a little over"
    words = {"time": "quicker", "cost": "cheaper", "life": "longer edge life", "unattended": "more minutes alone"}
    share = 1.0 - 1.0 / (1.0 + ahead) if aim in ("time", "cost") else ahead
    return f"with {share:.0%} {words[aim]} than" if aim in ("life", "unattended") else f"{share:.0%} {words[aim]} than"


def _measure(aim: Aim, behind: float) -> str:
    if aim == "time":
        return f"{behind:.0%} slower"
    if aim == "cost":
        return f"{behind:.0%} dearer"
    share = 1.0 - 1.0 / (1.0 + behind)
    return f"{share:.0%} less edge life" if aim == "life" else f"{share:.0%} fewer minutes alone"


def _strength(aim: Aim, lane: Lane, second: Lane) -> str:
    """What puts a lane ahead of another most: of the minutes and the money, the largest share of the difference."""
    in_cut, other_cut = (sum(f.task.volume for _, f in one.stages) / one.cutting for one in (lane, second))
    cutting = f"it cuts {units.REMOVAL.mark(in_cut)} against {units.REMOVAL.mark(other_cut)}"
    lasting = (
        f"its edges last {lane.life / second.life:.1f} times as long"
        if math.isfinite(lane.life + second.life) and lane.life > second.life
        else f"it uses {lane.edges:.2f} edges a part against {second.edges:.2f}"
    )
    if aim in ("life", "unattended"):
        return f"{lasting}; {_stop(lane)}"
    saved = [
        (second.cutting - lane.cutting, cutting),
        (
            second.linking - lane.linking,
            f"{units.clock(second.linking - lane.linking)} less go on moves that cut nothing",
        ),
        (second.changing - lane.changing, f"worn edges cost {units.clock(second.changing - lane.changing)} less"),
    ]
    mine, theirs = _edge_money(lane), _edge_money(second)
    if aim == "cost" and mine is not None and theirs is not None:
        rate = rate_of(lane.main.setup.parts) or 1.0
        saved.append(((theirs - mine) / rate, f"its edges cost {mine:.2f} a part against {theirs:.2f}"))
    return f"{max(saved, key=lambda entry: entry[0])[1]}; {_stop(lane)}"


def _edge_money(lane: Lane) -> float | None:
    """What a lane's edges cost a part; None where something has no price."""
    rate = rate_of(lane.main.setup.parts)
    return None if lane.cost is None or rate is None else max(lane.cost - lane.minutes * rate, 0.0)


def _weakness(aim: Aim, lane: Lane, best: Lane) -> str:
    """What costs a lane most against the winner."""
    if aim in ("life", "unattended"):
        return f"its edges last {units.LONG_MINUTES.mark(lane.life)}; {_stop(lane)}"
    behind = {
        "cutting": lane.cutting - best.cutting, "linking": lane.linking - lane.extra[0] - best.linking,
        "changing": lane.changing - best.changing, "extra": lane.extra[0],
    }  # fmt: skip
    worst = max(behind, key=lambda part: behind[part])
    mine, least = _edge_money(lane), _edge_money(best)
    if aim == "cost" and mine is not None and least is not None:
        rate = rate_of(lane.main.setup.parts) or 1.0
        if (mine - least) / rate > behind[worst]:
            return f"its edges cost {mine:.2f} a part against {least:.2f}; {_stop(lane)}"
    if worst == "extra":
        return f"{lane.extra[1]} takes {units.clock(lane.extra[0])}"
    if worst == "linking":
        return f"{units.clock(lane.linking)} go on entries and moves that cut nothing; {_stop(lane)}"
    if worst == "changing":
        return f"worn edges cost {units.clock(lane.changing)}; {_stop(lane)}"
    in_cut = sum(found.task.volume for _, found in lane.stages) / lane.cutting
    if len(lane.stages) > 1:
        spent = units.clock(float(lane.main.worth.cutting))
        return f"{spent} in the cut for the {lane.main.task.label} alone; {_stop(lane)}"
    return f"in the cut it removes {units.REMOVAL.mark(in_cut)}; {_stop(lane)}"


def _stop(lane: Lane) -> str:
    """What ends the lane's main task."""
    main = lane.main
    if lane.stop is not None:
        deeper = main.point.ap < main.task.depths[-1] * (1 - 1e-6)
        at = f"ap {units.LENGTH.mark(main.point.ap)}" if deeper else f"ae {units.LENGTH.mark(main.point.ae)}"
        return f"{lane.stop.rule.words.spoken or lane.stop.rule.name.lower()} ends it at {at}"
    entry = next((e for e in main.limits if e.rule.id not in OF_THE_EDGE), None)
    if entry is not None and entry.use >= NEAR:
        word = "over" if entry.rule.is_floor else "of"
        value = entry.rule.quantity.mark(entry.value)
        return f"{entry.rule.name.lower()} holds it: {value} {word} {entry.rule.quantity.mark(entry.limit)}"
    return "the edge's own chip is the limit"


# ---------------------------------------------------------------- plain data


def to_json(comparison: Comparison, system: units.System = "metric") -> dict[str, Any]:
    """The object of the contract."""
    winner = comparison.winner
    found: dict[str, Any] = {
        "lesna": 1,
        "cut": comparison.parts.cut.name,
        "aim": comparison.aim,
        "aim_name": AIMS[comparison.aim],
        "floor_q_cm3_min": comparison.floor or None,
        "winner": winner.strategy.id if winner else None,
        "strategies": [_lane(comparison, lane, rank, system) for rank, lane in enumerate(comparison.lanes, start=1)],
        "today": None if comparison.today is None else _figures(comparison.today, system),
        "front": [[float(q), _known(float(life))] for q, life in comparison.front],
    }
    gain = saving(comparison, winner) if winner else None
    found["batch"] = None if gain is None else {
        "parts": comparison.parts.batch.parts, "minutes_saved": gain.minutes, "edges_saved": gain.edges,
        "edges_now": gain.edges_now, "money_saved": gain.money,
    }  # fmt: skip
    return found


def _lane(comparison: Comparison, lane: Lane, rank: int, system: units.System) -> dict[str, Any]:
    data: dict[str, Any] = {
        "id": lane.strategy.id, "name": lane.strategy.name, "suits": lane.is_there,
        "rank": rank if lane.is_there else None, "reason": units.said(verdict(comparison, lane), system), "when": lane.strategy.when,
        "why_not": units.said(lane.why_not, system) or None,
    }  # fmt: skip
    return data | (_figures(lane, system) if lane.is_there else {})


def _known(minutes: float) -> float | None:
    """None where no edge life is known, which JSON cannot hold as a number without end."""
    return minutes if math.isfinite(minutes) else None


def _figures(lane: Lane, system: units.System) -> dict[str, Any]:
    return {
        "time_per_part_min": lane.minutes, "cut_min": lane.cutting, "link_min": lane.linking,
        "change_min": lane.changing, "q_mean_cm3_min": lane.q, "life_min": _known(lane.life), "safe_life_min": _known(lane.safe),
        "alone_min": _known(lane.alone), "edges_per_part": lane.edges, "cost_per_part": lane.cost, "side_force_n": lane.side,
        "axial_force_n": lane.axial, "edge_used": lane.wear_spread, "note": units.said(lane.note, system) or None,
        "besides": lane.extra[1] or None,
        "stages": [
            {
                "label": found.task.label, "strategy": stage.strategy, "tool": found.setup.parts.tool.id or None,
                "ae_mm": found.point.ae, "ap_mm": found.point.ap, "levels": found.levels,
                "vc_m_min": found.state.vc, "n_rpm": found.state.n,
                "fz_mm": found.state.fz, "hex_mm": found.state.hex, "vf_mm_min": found.state.vf,
                "q_cm3_min": found.state.q,
                "limited_by": [entry.rule.id for entry in found.limits if entry.use >= NEAR],
                "limits": [{"id": entry.rule.id, "use": entry.use} for entry in found.limits],
            }
            for stage, found in lane.stages
        ],
    }  # fmt: skip
