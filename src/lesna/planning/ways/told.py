"""A proved path in numbers and sentences."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from lesna.model import units
from lesna.planning.program.told import broken_rules, clock
from lesna.planning.ways.prove import Proved

#: webs that are told one by one
_MOST = 5


def angle_of(share: float, made: Proved) -> float:
    """The angle that so much of the wanted stepover engages on a straight pass [deg]."""
    demand = made.route.demand
    return float(np.degrees(np.arccos(np.clip(1 - share * demand.stepover / demand.radius, -1.0, 1.0))))


def data_of(made: Proved) -> dict[str, Any]:
    """The object of ``lesna path --json``."""
    route, found, told = made.route, made.judged, made.summary.data()
    g = found.run.geometry
    removed = float(g.engagement.volume[g.judged].sum()) / 1000.0
    time, most = float(found.run.times.time.sum()), float(found.stepovers.max(initial=0.0))
    return {
        "way": route.generator.id, "length_cut_mm": route.way.length_of("cut", "wall"),
        "length_link_mm": route.way.length_of("link", "retract"), "time_s": time,
        "q_mean_cm3_min": removed / time * 60.0 if time > 0 else 0.0,
        "engagement": {"target_deg": angle_of(1.0, made), "median_deg": angle_of(found.share(0.5), made),
                       "p95_deg": angle_of(found.share(0.95), made), "max_deg": angle_of(most, made),
                       "p95_over_target": found.share(0.95), "max_over_target": most},
        "leftover_mm2": found.leftover,
        **{key: told[key] for key in ("slivers", "rapids_in_stock", "plunges", "ramps", "too_deep", "holder", "limits")},
        "remedies": [{"id": offer.id, "says": offer.says} for offer in made.offers],
        "remarks": [units.said(remark, "metric") for remark in remarks_of(made)],
        "points": made.blocks, "passes": route.way.passes, "levels": route.levels, "compute_s": made.seconds,
    }  # fmt: skip


def remarks_of(made: Proved) -> tuple[str, ...]:
    """What a path leaves or assumes, with marked numbers."""
    drawn = made.judged.run.geometry.work.parts.cut.feature
    read = () if drawn is None or drawn.drawn is None else (f"read {drawn.drawn.told}",)
    return (*read, *made.route.remarks)


def lines_of(made: Proved, name: str, system: units.System) -> Iterator[str]:
    """A path in lines of text."""
    data, route = data_of(made), made.route
    e = data["engagement"]
    levels = f"{route.levels} levels" if route.levels > 1 else "one level"
    yield (f"{name}, {route.generator.title}: {units.ROUGH_LENGTH.full(data['length_cut_mm'], system)} in the cut, "
           f"{units.ROUGH_LENGTH.full(data['length_link_mm'], system)} of links, {route.way.passes} passes, {levels}, "
           f"{clock(data['time_s'])} min:s, {units.REMOVAL.full(data['q_mean_cm3_min'], system)} on the average")  # fmt: skip
    yield (f"  engaged {e['median_deg']:.1f}° in the middle, {e['p95_deg']:.1f}° for 95 % of the way, {e['max_deg']:.1f}° at most; "
           f"wanted {e['target_deg']:.1f}°")  # fmt: skip
    if data["leftover_mm2"] > 0:
        yield f"  {units.AREA.full(data['leftover_mm2'], system)} of the floor stay covered"
    for remark in remarks_of(made):
        yield f"  {units.said(remark, system)}"
    for broken in broken_rules(made.summary):
        yield f"  ! {broken}"
    for sliver in data["slivers"][:_MOST]:
        web = f"a web of {units.LENGTH.mark(sliver['thickness_mm'])} at {units.place((sliver['x'], sliver['y']))}"
        yield f"  {units.said(web, system)}, line {sliver['line']}"
    for offer in data["remedies"]:
        yield f"  against webs, --remedy {offer['id']}: {offer['says']}"
