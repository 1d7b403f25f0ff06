"""Finishing as a role: what roughing leaves for it, and the light stepover, the fine chip and the depth that it takes."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.geometry.region import region_of
from lesna.model.errors import InputError
from lesna.model.job import Feature, Job
from lesna.model.library_records import Tool
from lesna.planning.cut.levels import depth_of, even_depth

#: what is left for a finishing pass: over DC, at least and at most [mm], and for small cutters never more than a share of DC
_OVER_DC, _LEAST, _MOST, _SMALL = 0.03, 0.2, 0.5, 0.05
#: the same in words
RULE = f"{_OVER_DC:.0%} of the diameter, {_LEAST:g} to {_MOST:g} mm"
#: chip of a finishing pass over the typical one, and over the thinnest that still cuts
FINE_CHIP, _OVER_LEAST = 0.5, 1.2
#: stepover of a finishing pass over a face, over DC
_FACE = 0.6
#: share of a cut's floor that another cut has to clear to make the same feature
_MOSTLY = 0.5


def allowance(DC: float) -> float:
    """Stock that roughing leaves for a finishing cutter: 3 % of its diameter, from 0.2 to 0.5 mm, at most 5 % of a small one [mm].

    Examples
    --------
    >>> allowance(12.0), allowance(25.0), allowance(3.0)
    (0.36, 0.5, 0.15)
    """
    return round(min(max(_OVER_DC * DC, min(_LEAST, _SMALL * DC)), _MOST), 2)


@dataclass(frozen=True)
class FinishingPass:
    """What a finishing pass takes; lengths in mm."""

    ae: float
    ap: float
    hex: float


def finishing_pass(
    tool: Tool, feature: Feature | None, left: float | None, typical: float, least: float | None
) -> FinishingPass | None:
    """The pass that a tool finishes a feature with; None for surfaces, whose stepover is the cusp's.

    Parameters
    ----------
    tool : Tool
        The cutter.
    feature : Feature or None
        What is finished: a face in its depth, everything else along its walls, as deep as the edge reaches in even levels.
    left : float or None
        What roughing left [mm]; the rule of `allowance` where that is not known.
    typical, least : float
        Typical chip of the tables, and the thinnest that still cuts, None where that is not known [mm].
    """
    stock = left or allowance(tool.DC)
    chip = max(FINE_CHIP * typical, _OVER_LEAST * (least or 0.0))
    if tool.is_ball or (feature is not None and feature.kind == "surface"):
        return None
    if feature is not None and feature.kind == "face":
        return FinishingPass(_FACE * tool.DC, min(stock, tool.edge_depth), chip)
    return FinishingPass(min(stock, tool.DC), even_depth(depth_of(feature), tool.edge_depth), chip)


def roughed_before(job: Job, index: int) -> tuple[int, ...]:
    """Positions of the roughing cuts of the same feature as a cut's."""
    mine = job.cuts[index].feature
    return tuple(
        k for k, other in enumerate(job.cuts)
        if k != index and other.role == "rough" and mine is not None and other.feature is not None
        and is_same_floor(other.feature, mine) and is_same_floor(mine, other.feature)
    )  # fmt: skip


def is_same_floor(one: Feature, other: Feature) -> bool:
    """Whether most of what the second clears lies in what the first does; a face is only what lies over it."""
    if (one.kind == "face") != (other.kind == "face"):
        return False
    try:
        floors = [region_of(feature).cleared for feature in (one, other)]
    except InputError:
        return False
    return bool(floors[0].intersection(floors[1]).area > _MOSTLY * floors[1].area)
