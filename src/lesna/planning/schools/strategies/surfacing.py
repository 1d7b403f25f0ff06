"""Lines of a ball or corner radius over a surface: cusps, slopes, and the centre kept out of the cut."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.model import units
from lesna.physics import Num
from lesna.planning.cut.features import Solid, cusp_kept
from lesna.planning.cut.levels import count_of
from lesna.planning.cut.motion import Motion
from lesna.planning.cut.setup import CutSetup
from lesna.planning.schools.strategies.base import (
    Case,
    Stage,
    Strategy,
    reach_problem,
    register,
    task_of,
    travel,
)
from lesna.planning.search.optimum import Optimum

#: slope up to which stepovers are planned from above, beyond it step-downs [deg]
STEEP = 45.0
#: angle between edge and surface from which the centre stays out of the cut [deg]
_CENTRE_FREE = 10.0


@dataclass(frozen=True)
class Lines:
    """How lines lie on a slope: along the surface, from above, and down [mm]; whether the centre touches."""

    along: float
    plan: float
    down: float
    is_steep: bool
    centre_touches: bool


def stepover_for(radius: Num, cusp: Num) -> Num:
    """Distance of lines that leaves a cusp; ``2 sqrt(h (2 R - h))``.

    Examples
    --------
    >>> round(float(stepover_for(5.0, 0.0251)), 2)
    1.0
    """
    return 2.0 * np.sqrt(cusp * (2.0 * radius - cusp))


def lines_on(radius: float, cusp: float, slope: float, tilt: float = 0.0) -> Lines:
    """Lines on a slope that leave a cusp: ``s cos a`` from above, ``s sin a`` down."""
    s, a = float(stepover_for(radius, cusp)), math.radians(slope)
    return Lines(s, s * math.cos(a), s * math.sin(a), slope > STEEP, slope + tilt < _CENTRE_FREE)


def surface_lines(case: Case) -> Lines:
    """The lines of a case's own surface."""
    feature, tool = case.feature, case.parts.tool
    return lines_on(tool.corner, cusp_kept(feature), feature.slope_deg or 0.0, case.parts.cut.tilt_deg)


def _advice(case: Case, found: Optimum) -> str:
    """How the lines are planned on the slope, and whether the centre of the ball touches."""
    lines, length = surface_lines(case), units.LENGTH
    plan = (
        f"Step down {length.mark(lines.down)}"
        if lines.is_steep
        else f"Step over {length.mark(lines.plan)} seen from above"
    )
    centre = " The centre touches and only rubs: tilt the tool, or climb the slope." if lines.centre_touches else ""
    return f"{plan}; one surface never under both rules.{centre}"


def _suits(case: Case) -> str:
    tool = case.parts.tool
    if case.solid.kind != "surface":
        return "for surfaces only"
    if tool.corner <= 0:
        return "a surface wants a ball or a corner radius"
    return reach_problem(case, case.setup)


def lines_minutes(setup: CutSetup, solid: Solid, motion: Motion) -> tuple[Num, Num]:
    """Minutes of lines over a surface, and of the steps between them."""
    feature = setup.parts.cut.feature
    slope = math.radians(feature.slope_deg or 0.0) if feature is not None else 0.0
    levels = count_of(solid.depth, motion.ap)
    passes = np.ceil(solid.width / math.cos(slope) / motion.ae)
    length = passes * levels * solid.length
    return length / motion.vf, travel(setup.parts, passes * levels * motion.ae, passes * levels)


def _stages(case: Case) -> tuple[Stage, ...]:
    setup, lines = case.setup, surface_lines(case)
    task = task_of(
        case, setup, "surface", "lines", lambda state: lines_minutes(setup, case.solid, state),
        stepovers=np.array([min(lines.along, case.D)]),
    )  # fmt: skip
    return (Stage(task, "surface"),)


register(Strategy(
    "surface", "Surface lines", "Shallow ground by stepover, steep walls by step-down; pull the ball rather than push it.",
    _suits, _stages, note=_advice,
))  # fmt: skip
