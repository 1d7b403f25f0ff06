"""Shallow and fast under a small lead angle: the force runs up the spindle."""

from __future__ import annotations

import math
from dataclasses import dataclass

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.resolve import parts_with
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.schools.strategies.base import (
    Case,
    Stage,
    Strategy,
    by_its_way,
    entry_problem,
    even_lines,
    reach_problem,
    register,
    task_of,
)  # fmt: skip
from lesna.planning.search.optimum import Optimum

#: room that a lead-angle tool needs beside itself, over DC
_ROOM = 1.3
#: how much longer than the depth a borrowed tool hangs out, at least [mm]
_CLEAR = 4.0


@dataclass(frozen=True)
class Leftover:
    """What a lead-angle tool leaves: height of the cusp between passes, programmed corner radius and what stays under it [mm]."""

    cusp: float
    radius: float
    under: float


def leftover(DC: float, tip: float, kappa: float, corner: float, ae: float) -> Leftover:
    """Cusp and programmed radius of a cutter whose edge rises straight from its tip diameter into its outer corner.

    Passes further apart than the tip diameter leave ``(ae - tip)/2 tan(kappa)``. With ``w = (DC - tip)/2`` the corner
    meets the diameter at the height ``((w - RE) sin(kappa) + RE)/cos(kappa)``. A programmed radius of that height, and
    never more than w, is the largest out of which no part of the edge stands: with a larger one the program believes in
    a smaller tool and the edge cuts into the part. It leaves ``R (1 - cos kappa) + (w - R) sin(kappa)``.

    Examples
    --------
    >>> found = leftover(12.0, 8.0, math.radians(15.0), 1.0, 9.0)
    >>> round(found.cusp, 3), round(found.radius, 3), round(found.under, 3)
    (0.134, 1.303, 0.225)
    """
    w = (DC - tip) / 2
    sine, cosine = math.sin(kappa), math.cos(kappa)
    radius = min(((w - min(corner, w)) * sine + min(corner, w)) / cosine, w)
    under = radius * (1 - cosine) + (w - radius) * sine
    return Leftover(max(ae - tip, 0.0) / 2 * math.tan(kappa), radius, max(under, 0.0))


def _tool(case: Case) -> CutSetup | None:
    """The cut's own tool if it is made for this, else the library's widest that enters, reaches and fits."""
    own = case.setup
    if own.parts.tool.kind == "high_feed":
        return own
    material, holder = own.parts.material, own.parts.cut.holder
    fitting = [
        tool for tool in case.shelf.tools.values()
        if tool.kind == "high_feed" and tool.usable_length >= case.solid.depth
        and min(case.solid.largest_cutter / _ROOM, 1.4 * case.D) >= tool.DC
        and (not tool.intended_iso_groups or material.iso_group in tool.intended_iso_groups.split())
    ]  # fmt: skip
    for tool in sorted(fitting, key=lambda tool: (-tool.DC, tool.id)):
        stick_out = max(case.solid.depth + _CLEAR, tool.APMX + _CLEAR)
        values = {"tool": tool.id, "holder": holder, "stick_out_mm": round(stick_out, 1), "strategy": "high_feed",
                  "ae_mm": 0.6 * tool.DC, "ap_mm": 0.5 * tool.APMX, "tap_modes": (), "locks": ()}  # fmt: skip
        try:
            found = setup_of(parts_with(own.parts, own.parts.cut.with_values(**values), case.shelf))
        except InputError:
            continue  # one that does not fit this holder or machine is no candidate
        if found.parts.data is not None:
            return found
    return None


def _left(case: Case, found: Optimum) -> str:
    """Cusp between passes and the radius to program, by the tool and the stepover."""
    shape = found.setup.shape
    if shape.form != "cone":
        return ""
    rest = leftover(shape.DC, shape.tip_diameter, shape.kappa, found.setup.parts.tool.RE, found.point.ae)
    cusp = f"Leaves cusps of {units.LENGTH.mark(rest.cusp)}; program" if rest.cusp > 0 else "Program"
    return (
        f"{cusp} it as a corner radius of {units.LENGTH.mark(rest.radius)}, under which "
        f"{units.LENGTH.mark(rest.under)} stay; the toolmaker's own radius comes first."
    )


def _suits(case: Case) -> str:
    if case.solid.kind == "surface":
        return "a surface is cut line beside line"
    setup = _tool(case)
    if setup is None:
        return "no lead-angle tool of the library enters, reaches the floor and is made for this material"
    if case.solid.largest_cutter < _ROOM * setup.shape.DC:
        return f"between walls {units.LENGTH.mark(case.solid.largest_cutter)} apart it would run over its own slot"
    return entry_problem(case, setup) or reach_problem(case, setup)


def _stages(case: Case) -> tuple[Stage, ...]:
    setup = _tool(case)
    assert setup is not None  # it suits
    tool = setup.parts.tool
    lines = even_lines(case, setup, "high_feed")
    minutes = by_its_way(setup, "high_feed", case.feature)
    task = task_of(case, setup, "high_feed", "shallow rings", minutes, stepovers=lines)
    is_own = setup is case.setup
    return (Stage(task, "high_feed", tool="" if is_own else tool.id,
                  stick_out=None if is_own else setup.parts.cut.stick_out_mm),)  # fmt: skip


register(Strategy(
    "high_feed", "High feed", "Chosen when reach grows beyond five diameters or the table is weak sideways.",
    _suits, _stages, note=_left,
))  # fmt: skip
