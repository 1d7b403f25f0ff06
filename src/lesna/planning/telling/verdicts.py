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


#: two schools that come to one way here, and how near their minutes and engagement then are [-]
_SAME, _ALIKE = "The same as {}: on this floor both make the same passes.", 1e-3


def _is_same(lane: Lane, other: Lane) -> bool:
    mine, theirs = lane.main, other.main
    pairs = ((lane.minutes, other.minutes), (mine.point.ae, theirs.point.ae), (mine.point.ap, theirs.point.ap))
    alone = len(lane.stages) == len(other.stages) == 1 and mine.setup.parts.tool == theirs.setup.parts.tool
    return alone and all(abs(a / b - 1.0) < _ALIKE for a, b in pairs)


def _verdict(comparison: Comparison, lane: Lane) -> str:
    there = [other for other in comparison.lanes if other.is_there]
    if lane is comparison.winner:
        if len(there) == 1:
            end = _end(lane)
            return f"The only one that holds every limit{f'; {end[1]}' if end else ''}."
        other = next((other for other in there[1:] if not _is_same(lane, other)), None)
        if other is None:
            return _SAME.format(there[1].strategy.short)
        return f"Wins {_gap(comparison.aim, lane, other)} {other.strategy.short}: {_strength(comparison.aim, lane, other)}."
    best = comparison.winner
    assert best is not None  # this lane is there
    if _is_same(lane, best):
        return _SAME.format(best.strategy.short)
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
    in_cut, other_cut = _in_cut(lane), _in_cut(second)
    cutting = "it cuts {} against {}".format(*units.REMOVAL.pair(in_cut, other_cut))
    lasting = (
        f"its edges last {lane.life / second.life:.1f} times as long"
        if math.isfinite(lane.life + second.life) and lane.life > second.life
        else f"it uses {lane.edges:.2f} edges a part against {second.edges:.2f}"
    )
    if aim in ("life", "unattended"):
        return _with_stop(lasting, lane, second)
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
    return _with_stop(_foremost(saved), lane, second)


def _in_cut(lane: Lane) -> float:
    """What a lane removes while it cuts [cm3/min]."""
    return sum(found.task.volume for _, found in lane.stages) / lane.cutting


def _edge_money(lane: Lane) -> float | None:
    """What a lane's edges cost a part; None where something has no price."""
    rate = rate_of(lane.main.setup.parts)
    return None if lane.cost is None or rate is None else max(lane.cost - lane.minutes * rate, 0.0)


#: a second difference is told as well from this share of the first
_WORTH_TELLING = 0.35


def _foremost(differences: list[tuple[float, str]]) -> str:
    """The greatest of some differences in minutes, and the next one where it is worth telling."""
    first, second = sorted(differences, key=lambda entry: -entry[0])[:2]
    return f"{first[1]}, and {second[1]}" if second[0] > _WORTH_TELLING * max(first[0], 0.0) > 0 else first[1]


def _weakness(aim: Aim, lane: Lane, best: Lane) -> str:
    """What costs a lane most against the winner."""
    if aim in ("life", "unattended"):
        return _with_stop(
            "its edges last {} against {}".format(*units.LONG_MINUTES.pair(lane.life, best.life)),
            lane,
            best,
        )
    behind = [(lane.cutting - best.cutting, _slower(lane, best))]
    behind.append((
        lane.linking - lane.extra[0] - best.linking + best.extra[0],
        f"{units.clock(lane.linking - lane.extra[0])} go on entries and moves that cut nothing",
    ))  # fmt: skip
    if lane.extra[0] > 0:
        behind.append((lane.extra[0], f"{lane.extra[1]} takes {units.clock(lane.extra[0])}"))
    mine, least = _edge_money(lane), _edge_money(best)
    if aim == "cost" and mine is not None and least is not None:
        rate = rate_of(lane.main.setup.parts) or 1.0
        behind.append(
            (
                (mine - least) / rate + lane.changing - best.changing,
                f"its edges cost {mine:.2f} a part against {least:.2f}",
            )
        )
    else:
        behind.append((lane.changing - best.changing, f"worn edges cost {units.clock(lane.changing)}"))
    return _with_stop(_foremost(behind), lane, best)


def _slower(lane: Lane, best: Lane) -> str:
    """How a lane cuts less in a minute."""
    if len(lane.stages) > 1:
        return f"{units.clock(float(lane.main.worth.cutting))} in the cut go on the {lane.main.task.label} alone"
    return "in the cut it removes {} against {}".format(*units.REMOVAL.pair(_in_cut(lane), _in_cut(best)))


def _with_stop(sentence: str, lane: Lane, other: Lane) -> str:
    """A sentence with what ends the lane's main task, where that is not what ends the other's as well."""
    mine, theirs = _end(lane), _end(other)
    return f"{sentence}; {mine[1]}" if mine and (not theirs or mine[0] != theirs[0]) else sentence


def _end(lane: Lane) -> tuple[str, str] | None:
    """What ends the lane's main task, by name and in words; None where its own window does."""
    main = lane.main
    if lane.stop is not None:
        deeper = main.point.ap < main.task.depths[-1] * (1 - 1e-6)
        at = f"ap {units.LENGTH.mark(main.point.ap)}" if deeper else f"ae {units.LENGTH.mark(main.point.ae)}"
        return lane.stop.rule.id, f"{lane.stop.rule.words.spoken or lane.stop.rule.name.lower()} ends it at {at}"
    entry = next((e for e in main.limits if e.rule.id not in OF_THE_EDGE), None)
    if entry is not None and entry.use >= NEAR:
        word = "over" if entry.rule.is_floor else "of"
        value = entry.rule.quantity.mark(entry.value)
        return (
            entry.rule.id,
            f"{entry.rule.name.lower()} holds it: {value} {word} {entry.rule.quantity.mark(entry.limit)}",
        )
    return None


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
