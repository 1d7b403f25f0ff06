"""What a comparison holds: a lane for each school, the winner, what it saves, and a lane taken into the job."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.model.job import SPEEDS, Cut, Job, new_id
from lesna.model.resolve import CutParts
from lesna.physics import Array
from lesna.planning.cut.economy import rate_of
from lesna.planning.cut.levels import typed_depth
from lesna.planning.cut.limits import LimitUse
from lesna.planning.schools.strategies import Stage, Strategy
from lesna.planning.search.aims import Aim
from lesna.planning.search.optimum import Optimum


@dataclass(frozen=True)
class Lane:
    """One strategy on the feature.

    Attributes
    ----------
    strategy : Strategy
        Which.
    stages : tuple of (Stage, Optimum)
        Its tasks at their best points; empty where it does not suit or has none.
    why_not : str
        Why it is not there; empty where it is.
    extra : tuple of (float, str)
        Minutes besides, and what for.
    note : str
        Levels and entry of its main task, what it leaves behind or asks for, in sentences.
    stop : LimitUse or None
        The limit that a deeper (or wider) cut of its main task would break.
    """

    strategy: Strategy
    stages: tuple[tuple[Stage, Optimum], ...]
    why_not: str = ""
    extra: tuple[float, str] = (0.0, "")
    note: str = ""
    stop: LimitUse | None = None

    @property
    def is_there(self) -> bool:
        """Whether the feature can be cut like this."""
        return bool(self.stages)

    @property
    def main(self) -> Optimum:
        """The task that takes longest."""
        return max((found for _, found in self.stages), key=lambda found: float(found.worth.minutes))

    def _sum(self, part: str) -> float:
        return sum(float(getattr(found.worth, part)) for _, found in self.stages)

    @property
    def cutting(self) -> float:
        """Minutes in the cut for a part."""
        return self._sum("cutting")

    @property
    def linking(self) -> float:
        """Minutes between cuts, entries and what comes besides included."""
        return self._sum("linking") + self.extra[0]

    @property
    def changing(self) -> float:
        """Minutes for worn edges."""
        return self._sum("changing")

    @property
    def minutes(self) -> float:
        """Minutes of the machine for a part."""
        return self.cutting + self.linking + self.changing

    @property
    def q(self) -> float:
        """Material over cutting and linking time [cm3/min]."""
        return sum(found.task.volume for _, found in self.stages) / (self.cutting + self.linking)

    @property
    def life(self) -> float:
        """Least edge life of its tasks [min]."""
        return min(float(found.worth.life) for _, found in self.stages)

    @property
    def safe(self) -> float:
        """Least safe minutes in the cut [min]."""
        return min(float(found.worth.safe) for _, found in self.stages)

    @property
    def alone(self) -> float:
        """Minutes on the clock that the machine may safely be left alone."""
        return min(float(found.worth.alone) for _, found in self.stages)

    @property
    def edges(self) -> float:
        """Edges a part."""
        return self._sum("edges")

    @property
    def cost(self) -> float | None:
        """Money a part; None where a price is not known."""
        costs = [found.worth.cost for _, found in self.stages]
        if any(cost is None for cost in costs):
            return None
        rate = rate_of(self.stages[0][1].setup.parts) or 0.0
        return sum(float(cost) for cost in costs if cost is not None) + self.extra[0] * rate

    @property
    def side(self) -> float:
        """Highest side force [N]."""
        return max(found.state.fxy_peak for _, found in self.stages)

    @property
    def axial(self) -> float:
        """Highest axial force, either way [N]."""
        return max(max(abs(found.state.fz_max), abs(found.state.fz_min)) for _, found in self.stages)

    @property
    def wear_spread(self) -> float:
        """Part of the flute length that takes the wear [-]."""
        main = self.main
        return min(1.0, main.point.ap / main.setup.parts.tool.APMX)

    def score(self, aim: Aim) -> float:
        """How good it is for an aim: the greater, the better; minus infinity where it is not there."""
        if not self.is_there:
            return -math.inf
        values = {"time": 1.0 / self.minutes, "life": self.life, "unattended": self.alone}
        if aim == "cost":
            return 1.0 / self.minutes if self.cost is None else 1.0 / self.cost
        return values[aim]


@dataclass(frozen=True)
class Comparison:
    """All strategies on one feature.

    Attributes
    ----------
    parts : CutParts
        The cut that was asked about.
    aim : Aim
        What counts.
    floor : float
        Removal that had to be reached [cm3/min], 0 for none.
    lanes : tuple of Lane
        The best first, those that do not suit last.
    today : Lane or None
        The cut as it stands.
    """

    parts: CutParts
    aim: Aim
    floor: float
    lanes: tuple[Lane, ...]
    today: Lane | None

    @property
    def winner(self) -> Lane | None:
        """The best lane; None where no strategy suits."""
        return self.lanes[0] if self.lanes and self.lanes[0].is_there else None

    @property
    def cloud(self) -> Array:
        """Removal and life of admissible points that were looked at (n, 2) [cm3/min], [min]."""
        found = [found.scatter for lane in self.lanes if len(lane.stages) == 1 for _, found in lane.stages]
        return np.concatenate(found) if found else np.empty((0, 2))

    @property
    def front(self) -> Array:
        """The points of the cloud and of the lanes that none beats in both removal and life, by removal (m, 2)."""
        lanes = np.array([[lane.q, lane.life] for lane in self.lanes if lane.is_there]).reshape(-1, 2)
        points = np.concatenate((self.cloud, lanes))
        points = points[np.lexsort((-points[:, 1], -points[:, 0]))]
        best = np.maximum.accumulate(np.concatenate(([-np.inf], points[:-1, 1]))) if len(points) else np.empty(0)
        return points[points[:, 1] > best][::-1]


def with_lane(job: Job, index: int, lane: Lane) -> Job:
    """The job with a lane in place of the cut; a strategy of two steps becomes two cuts, of which one stays the cut itself.

    Parameters
    ----------
    job : Job
        The document.
    index : int
        The cut that gives way.
    lane : Lane
        What takes its place.
    """
    cut, names = job.cuts[index], {other.name for other in job.cuts}
    fresh: list[Cut] = []
    for stage, found in lane.stages:
        point = found.point
        values: dict[str, Any] = {
            "strategy": stage.strategy, "ae_mm": round(point.ae, 4), "ap_mm": typed_depth(point.ap),
        }  # fmt: skip
        if not set(SPEEDS) & set(cut.locks):
            values |= {**dict.fromkeys(SPEEDS), "vc_m_min": round(point.vc, 2)}
        if not found.task.holds_feed:
            values |= {"hex_mm": round(point.chip, 5), "fz_mm": None, "book": None}
        if stage.tool:
            values |= {"tool": stage.tool, "stick_out_mm": stage.stick_out, "tap_modes": ()}
        if stage.role:
            values |= {"role": stage.role, "deflection_limit_um": None}
        if stage.feature is not None:
            values["feature"] = stage.feature
        if stage.name:
            name = f"{cut.name}, {stage.name}"
            while name in names:
                name += "'"
            values |= {"name": name, "id": new_id()}
            names.add(name)
        fresh.append(cut.with_values(**values))
    cuts = (*job.cuts[:index], *fresh, *job.cuts[index + 1 :])
    return job.with_values(cuts=cuts)


@dataclass(frozen=True)
class Saving:
    """What a lane saves on the whole batch against the cut as it stands; None where a price is not known."""

    minutes: float
    edges: int
    edges_now: int
    money: float | None


def saving(comparison: Comparison, lane: Lane) -> Saving | None:
    """Minutes, edges and money for the batch, None where the cut as it stands cannot be timed."""
    today = comparison.today
    if today is None or not lane.is_there:
        return None
    parts = comparison.parts.batch.parts
    now, then = math.ceil(parts * today.edges - 1e-9), math.ceil(parts * lane.edges - 1e-9)
    money = None if today.cost is None or lane.cost is None else parts * (today.cost - lane.cost)
    return Saving(parts * (today.minutes - lane.minutes), now - then, now, money)


def is_in_use(job: Job, index: int, lane: Lane) -> bool:
    """Whether a cut of the document stands where a lane's main task does."""
    cut = job.cuts[index]
    stage, found = max(lane.stages, key=lambda entry: float(entry[1].worth.minutes))
    own = stage.tool in ("", cut.tool.written().get("id", "")) and len(lane.stages) == 1
    near = all(math.isclose(a, b, rel_tol=0.01) for a, b in ((cut.ae_mm, found.point.ae), (cut.ap_mm, found.point.ap)))
    return own and near and cut.strategy == stage.strategy and not lane.extra[0]
