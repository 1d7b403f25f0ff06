"""What every strategy of roughing answers: whether it suits, and as which tasks the feature is cut."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lesna.model import units
from lesna.model.job import SPEEDS, Feature
from lesna.model.resolve import CutParts, Shelf
from lesna.physics import Array, Num
from lesna.planning.cut.features import Solid
from lesna.planning.cut.levels import even_depths
from lesna.planning.cut.life import speed_of_tables
from lesna.planning.cut.motion import Motion, chip_target, motion_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.windows import window_of
from lesna.planning.routes.estimate import minutes_of
from lesna.planning.routes.profile import evenly_divided
from lesna.planning.search.optimum import Minutes, Optimum, Task

#: greatest ramp angle into full material [deg]: tools that cut at their centre, tools that do not, lead-angle tools
_RAMP_CENTRE, _RAMP_NO_CENTRE, _RAMP_HIGH_FEED = 3.0, 1.5, 1.5
#: feed on the ramp, as a share of the feed of the cut
_RAMP_FEED = 0.5
#: least diameter of the hole that a helix makes, over DC; a tool that does not cut at its centre must clear the core under it
_HELIX_ROOM, _HELIX_ROOM_NO_CENTRE = 1.15, 1.5
#: for machines whose row names no feed or acceleration: feed of moves that cut nothing [mm/min], acceleration [m/s2]
_LINK_FEED, _ACCELERATION = 8000.0, 2.0
#: why other schools do not suit a lead-angle tool
LEAD_ANGLE = "a lead-angle tool is made for shallow passes over most of its width"
#: where a table names only a typical speed, speeds within this span of it are tried
_SPEED_SPAN = (0.75, 1.3)


@dataclass(frozen=True)
class Case:
    """A feature to be cut, with the cut as it is and the shop's library."""

    setup: CutSetup
    solid: Solid
    shelf: Shelf

    @property
    def parts(self) -> CutParts:
        """The cut's records."""
        return self.setup.parts

    @property
    def feature(self) -> Feature:
        """The feature as the document describes it."""
        feature = self.parts.cut.feature
        assert feature is not None  # a case is made of a solid, and that of a feature
        return feature

    @property
    def D(self) -> float:
        """Diameter of the cut's own tool [mm]."""
        return self.setup.shape.DC


@dataclass(frozen=True)
class Stage:
    """A task, and the cut that it becomes in the document."""

    task: Task
    strategy: str
    name: str = ""
    feature: Feature | None = None
    tool: str = ""
    stick_out: float | None = None
    role: str = ""


@dataclass(frozen=True)
class Strategy:
    """One school of roughing.

    Attributes
    ----------
    id, name : str
        In JSON, and on the screen.
    when : str
        When practitioners prefer it, as a sentence.
    suits : callable
        Why it does not suit a case; empty where it does.
    stages : callable
        The tasks that it is made of, in order.
    extra : callable or None
        Minutes on a part besides its tasks, and what they are.
    note : callable or None
        What it leaves behind or asks for at its main task's best point, as a sentence; empty where nothing.
    """

    id: str
    name: str
    when: str
    suits: Callable[[Case], str]
    stages: Callable[[Case], tuple[Stage, ...]]
    extra: Callable[[Case], tuple[float, str]] | None = None
    note: Callable[[Case, Optimum], str] | None = None

    @property
    def short(self) -> str:
        """The name for a chart or a sentence."""
        return self.name.split(",")[0].lower()


REGISTRY: list[Strategy] = []


#: the school of chamfers, which no other one makes
CHAMFER = "chamfer"


def register(strategy: Strategy) -> None:
    """Adds a strategy to those that are compared."""
    REGISTRY.append(strategy)


def schools_for(case: Case) -> list[Strategy]:
    """Those that are compared on a case, in the registry's order: a chamfer has one way of its own, which no other feature has."""
    return [strategy for strategy in REGISTRY if (strategy.id == CHAMFER) == (case.solid.kind == "chamfer")]


# ---------------------------------------------------------------- what the strategies share


def link_feed(parts: CutParts) -> float:
    """Feed of moves that cut nothing [mm/min]."""
    machine = parts.machine
    return min(machine.feed_max or _LINK_FEED, 2 * _LINK_FEED)


def acceleration(parts: CutParts) -> float:
    """Acceleration in the plane [mm/s2]."""
    known = [a for a in (parts.machine.accel_x_m_s2, parts.machine.accel_y_m_s2) if a]
    return 1000.0 * min(known, default=_ACCELERATION)


def travel(parts: CutParts, distance: Num, moves: Num = 1.0) -> Num:
    """Minutes for moves that cut nothing: over the distance, and up to speed and down again for each."""
    speed = link_feed(parts) / 60.0
    return (distance / speed + moves * speed / acceleration(parts)) / 60.0


def entry_problem(case: Case, setup: CutSetup) -> str:
    """Why a tool cannot get into a closed feature; empty where it can."""
    if not case.solid.is_closed:
        return ""
    tool = setup.parts.tool
    room = (_HELIX_ROOM if tool.centre_cutting else _HELIX_ROOM_NO_CENTRE) * tool.DC
    along = case.solid.kind == "slot" and case.solid.largest_cutter >= tool.DC
    if case.solid.largest_cutter < room and not along:
        how = "" if tool.centre_cutting else ", and it does not cut at its centre"
        there = units.LENGTH.mark(case.solid.largest_cutter)
        return f"no room to enter: a helix of this tool needs {units.LENGTH.mark(room)}, there are {there}{how}"
    return ""


def reach_problem(case: Case, setup: CutSetup) -> str:
    """Why a tool does not reach the floor; empty where it does."""
    deep = min(setup.parts.tool.usable_length, setup.parts.cut.stick_out_mm)
    if deep < case.solid.depth * (1 - 1e-9):
        return "it reaches {} down, the floor lies at {}".format(*units.LENGTH.pair(deep, case.solid.depth))
    return ""


def ramp_of(setup: CutSetup) -> float:
    """Steepest ramp into the full material [deg]."""
    tool = setup.parts.tool
    return _RAMP_HIGH_FEED if tool.kind == "high_feed" else _RAMP_CENTRE if tool.centre_cutting else _RAMP_NO_CENTRE


def gone_over(setup: CutSetup, strategy: str, feature: Feature, *, role: str = "") -> CutSetup:
    """The same set-up on a feature that is cut so."""
    values = {"strategy": strategy, "feature": feature, **({"role": role} if role else {})}
    return replace(setup, parts=replace(setup.parts, cut=setup.parts.cut.model_copy(update=values)))


def by_its_way(setup: CutSetup, strategy: str, feature: Feature, *, role: str = "", share: float = 1.0) -> Minutes:
    """Minutes of the way that would be made for a feature cut so, of which a share is to be cut."""
    timed = gone_over(setup, strategy, feature, role=role)

    def minutes(motion: Motion) -> tuple[Num, Num]:
        found = minutes_of(timed, motion)
        assert found is not None  # a case has a depth
        return share * found[0], share * found[1]

    return minutes


def passes_of(case: Case, found: Optimum) -> str:
    """Levels, and how they are entered, as a sentence."""
    levels = "1 level" if found.levels == 1 else f"{found.levels} levels"
    if not case.solid.is_closed:
        return f"{levels.capitalize()}, in from the side."
    each = "" if found.levels == 1 else "each "
    return f"{levels.capitalize()}, {each}entered on a ramp of at most {ramp_of(found.setup):g}°."


def corner_rest(solid: Solid, DC: float) -> float:
    """What a round cutter leaves in inner corners, along their bisector: ``(R - r)(sqrt(2) - 1)`` [mm]."""
    if solid.kind not in ("pocket", "through"):
        return 0.0
    return max(DC / 2 - solid.smallest_radius, 0.0) * (math.sqrt(2.0) - 1.0)


def corners_left(case: Case, found: Optimum) -> str:
    """The same as a sentence; empty where the cutter reaches into the corners."""
    rest = corner_rest(case.solid, found.setup.shape.DC)
    return f"Leaves {units.LENGTH.mark(rest)} in the corners." if rest else ""


def even_stepovers(width: float, least: float, most: float) -> Array:
    """Stepovers that divide a width evenly, rising [mm]; none where none lies in the range."""
    first, last = math.ceil(width / most - 1e-9), math.floor(width / least + 1e-9)
    if first > last:
        return np.array([min(width, most)]) if width <= most else np.empty(0)
    counts = np.unique(np.geomspace(first, last, 24).round().astype(int))
    return np.sort(width / counts)


def even_lines(case: Case, setup: CutSetup, school: str) -> Array | None:
    """Stepovers of a school that come out even, where its passes are rings or rows; None where they lie otherwise [mm]."""
    span = evenly_divided(gone_over(setup, school, case.feature).parts)
    if span is None:
        return None
    window = window_of(school, setup.parts.data, setup.parts.tool)
    least, most = (window.ae_min, window.ae_max) if window else (0.05 * setup.shape.DC, setup.shape.DC)
    return even_stepovers(span, least, most)


def speeds_of(setup: CutSetup) -> tuple[float, float] | None:
    """Ends of the surface speed at the tables' own engagement; None where the cut's own holds, being locked or the only one known."""
    data, cut, typical = setup.parts.data, setup.parts.cut, speed_of_tables(setup)
    if set(SPEEDS) & set(cut.locks) or data is None or typical is None or data.vc_typ_m_min is None:
        return None
    low, high = data.vc_low_m_min, data.vc_high_m_min
    return (
        typical * (low / data.vc_typ_m_min if low else _SPEED_SPAN[0]),
        typical * (high / data.vc_typ_m_min if high else _SPEED_SPAN[1]),
    )


def own_speed(setup: CutSetup) -> float:
    """The cut's own surface speed [m/min]."""
    cut = setup.parts.cut
    if cut.vc_wanted is not None:
        return cut.vc_wanted
    # a spindle speed, or what keeps an edge life, at the cut's own engagement
    return float(motion_of(setup, np.float64(cut.ae_mm), np.float64(cut.ap_mm)).vc)


def holds_feed(setup: CutSetup) -> bool:
    """Whether the feed of the cut is locked, or no table says what chip its tool takes."""
    locked = {"hex_mm", "fz_mm", "book"} & set(setup.parts.cut.locks)
    return bool(locked) or setup.chip.typical is None or setup.chip.most is None


def chips_of(setup: CutSetup) -> tuple[float, float]:
    """Ends of the thickest chip: from the typical to the most of the table; the cut's own where there are none."""
    chip = setup.chip
    if holds_feed(setup) or chip.typical is None or chip.most is None:
        own = chip_target(setup)[0] or setup.parts.cut.fz_mm or 0.0
        return own, own
    return min(0.8 * chip.typical, chip.most), chip.most


def task_of(
    case: Case, setup: CutSetup, school: str, label: str, minutes: Minutes, *, stepovers: Array | None = None,
    volume: float | None = None,
) -> Task:  # fmt: skip
    """A task within the window of a school.

    Parameters
    ----------
    case : Case
        The feature.
    setup : CutSetup
        The tool that cuts it.
    school : str
        Whose window and speed factor hold.
    label : str
        What the task does.
    minutes : callable
        Minutes in the cut and between cuts.
    stepovers : array or None
        Stepovers that come out even, where only those count [mm].
    volume : float or None
        Material, where it is not all [cm3].
    """
    tool, D = setup.parts.tool, setup.shape.DC
    window = window_of(school, setup.parts.data, tool)
    wide = (window.ae_min, window.ae_max) if window else (0.05 * D, D)
    most = min(window.ap_max if window else D, tool.APMX, setup.depth_top)
    cut = setup.parts.cut
    if "ae_mm" in cut.locks:
        wide, stepovers = (cut.ae_mm, cut.ae_mm), None
    speeds = speeds_of(setup)
    depths = np.array([cut.ap_mm]) if "ap_mm" in cut.locks else even_depths(case.solid.depth, most)
    if window and (depths >= window.ap_min).any():
        depths = depths[depths >= window.ap_min]
    return Task(
        label=label, setup=setup, volume=case.solid.volume if volume is None else volume,
        stepovers=np.array(wide) if stepovers is None else stepovers,
        is_even=stepovers is not None or wide[0] >= wide[1], depths=depths,
        speeds=speeds or (own_speed(setup),) * 2, holds_speed=speeds is None, chips=chips_of(setup), minutes=minutes,
        depth=case.solid.depth,
        holds_feed=holds_feed(setup),
    )  # fmt: skip
