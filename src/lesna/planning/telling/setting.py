"""What cannot be done with a set-up as it is written, however well its numbers come out: reach, grip, holding, strategy against tool."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from lesna.model import names, units
from lesna.model.library_records import FLAT_EDGE_CHIP
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State
from lesna.planning.cut.suits import misfit

#: id, how grave, and what is said or None
Entry = tuple[str, Literal["caution", "danger"], Callable[[CutSetup, State], str | None]]

#: a holder grips at least so much of the shank, over its diameter
_GRIPPED = 1.0
#: a full slot engages at least this share of DC, thin passes at most that one
_SLOT, _THIN = 0.9, 0.35
#: angle of a lead-angle edge at most [deg]
_LEAD = 45.0
#: a surface that slopes less is a floor [deg], and corner of a tool that makes others, over DC
_FLAT, _ROUND = 1.0, 0.1
#: edges that only rough
_BROKEN = {"serrated": "serrated edge", "chip_splitter": "chip splitter"}
#: stock that a surface is finished with at most, over DC and in any case [mm]
_STOCK_SHARE, _STOCK_LEAST = 0.1, 1.0
#: what is measured at the tips of tools: stiffness [N/um], damping ratio and frequency [Hz] of a mode
_STIFFNESS, _DAMPING, _FREQUENCY = (0.05, 2000.0), (0.002, 0.3), (20.0, 30_000.0)
#: holders that clamp a plain shank only
_PLAIN = frozenset({"shrink", "collet", "precision_collet", "hydraulic", "hydraulic_form_lock"})


def _reach(setup: CutSetup, state: State) -> str | None:
    parts = setup.parts
    depth = parts.cut.feature.depth_mm if parts.cut.feature is not None else None
    reach = min(parts.tool.usable_length, parts.cut.stick_out_mm)
    if depth is None or depth <= reach * (1 + 1e-9):
        return None
    deep, reached = units.LENGTH.pair(depth, reach)
    return f"The feature is {deep} deep and the tool reaches {reached}: its body or the holder meets the part before the floor."


def _misfit(setup: CutSetup, state: State) -> str | None:
    why = misfit(setup.parts.tool, setup.parts.cut.feature)
    if not why:
        return None
    return f"{why[:1].upper()}{why[1:]}: choose a smaller tool, or correct the feature."


def _grip(setup: CutSetup, state: State) -> str | None:
    tool = setup.parts.tool
    if tool.OAL is None or tool.kind == "face":
        return None
    held, shank = tool.OAL - setup.parts.cut.stick_out_mm, tool.DMM or tool.DC
    if held >= _GRIPPED * shank:
        return None
    return f"Only {units.LENGTH.mark(held)} of the shank are in the holder; it needs at least its own diameter, often two or three of it."


def _clamped(setup: CutSetup, state: State) -> str | None:
    if setup.parts.workpiece.clamp_force_n != 0.0:
        return None
    return "The clamping force is 0: nothing holds the part. Leave it out where it is not known."


def _load(setup: CutSetup, state: State) -> str | None:
    mass, most = setup.parts.workpiece.mass_kg, setup.parts.machine.table_load_max_kg
    if mass is None or most is None or mass <= most:
        return None
    return "The part weighs {} and the table carries {}.".format(*units.MASS.pair(mass, most))


def _strategy(setup: CutSetup, state: State) -> str | None:
    cut, tool = setup.parts.cut, setup.parts.tool
    share, name = cut.ae_mm / tool.DC, names.STRATEGIES[cut.strategy]
    if cut.strategy == "full_slot" and share < _SLOT:
        return f"A full slot engages all of the tool; this stepover is {share:.0%} of DC. Choose another strategy, or the whole width."
    if cut.strategy == "light_radial" and share > _THIN:
        return f"A {name} cut is thin; this stepover is {share:.0%} of DC and loads the tool like a heavy one."
    if (
        cut.strategy == "high_feed"
        and (tool.KAPR or 90.0) > _LEAD
        and tool.kind not in ("ball", "tapered_ball", "corner_radius")
    ):
        return "High feed lives on a flat lead angle that thins the chip; this tool has none, and its feed is no higher than anybody's."
    return None


def _high_feed(setup: CutSetup, state: State) -> str | None:
    """A lead-angle tool outside what high feed lives on."""
    cut, data, tool = setup.parts.cut, setup.parts.data, setup.parts.tool
    if cut.strategy != "high_feed" or tool.kind != "high_feed" or data is None or setup.chip.typical is None:
        return None
    least, most = data.highfeed_fz_mult_min, data.highfeed_fz_mult_max
    times = float(state.fz) * FLAT_EDGE_CHIP / setup.chip.typical
    # the table's range is that of an end mill's chip; a flat edge takes more of it
    if least is not None and times < least or most is not None and times > FLAT_EDGE_CHIP * most:
        return (f"The feed per tooth is {times:.1f} times the chip of an end mill; high feed runs at "
                f"{least or 0:g} to {FLAT_EDGE_CHIP * (most or 0):g} times.")  # fmt: skip
    return None


def _travel(setup: CutSetup, state: State) -> str | None:
    feature, machine = setup.parts.cut.feature, setup.parts.machine
    if feature is None or machine.travel_x_mm is None or machine.travel_y_mm is None:
        return None
    sides = [side or 0.0 for side in feature.sides]
    travels = sorted((machine.travel_x_mm, machine.travel_y_mm))
    if all(side <= travel * (1 + 1e-9) for side, travel in zip(sorted(sides), travels, strict=True)):
        return None
    return (f"The feature is {units.DIMENSION.mark(max(sides))} by {units.DIMENSION.mark(min(sides))} and the machine travels "
            f"{units.DIMENSION.mark(travels[1])} by {units.DIMENSION.mark(travels[0])}: it is not reached in one clamping.")  # fmt: skip


def _surface(setup: CutSetup, state: State) -> str | None:
    feature, tool = setup.parts.cut.feature, setup.parts.tool
    if (
        feature is None
        or feature.kind != "surface"
        or tool.corner >= _ROUND * tool.DC
        or (feature.slope_deg or 0.0) < _FLAT
    ):
        return None
    return (
        "A sloped surface is milled with a ball or a large corner radius: the corner of this tool leaves steps in it."
    )


def _flank(setup: CutSetup, state: State) -> str | None:
    """A taper in the cut with its flank: forces are those of a cylinder of the ball's diameter."""
    tool = setup.parts.tool
    if tool.taper_deg is None:
        return None
    deep = tool.DC / 2 * (1 - math.sin(math.radians(tool.taper_deg)))
    if setup.parts.cut.ap_mm <= deep * (1 + 1e-9):
        return None
    return (f"Over {units.LENGTH.mark(deep)} of depth the flank of the taper cuts, which is wider than the ball: force and power are "
            "higher than they stand here.")  # fmt: skip


def _modes(setup: CutSetup, state: State) -> str | None:
    for mode in setup.parts.cut.tap_modes:
        for what, value, (low, high), unit in (
            ("a stiffness", mode.k_n_um, _STIFFNESS, " N/um"), ("a damping ratio", mode.zeta, _DAMPING, ""),
            ("a frequency", mode.f_hz, _FREQUENCY, " Hz"),
        ):  # fmt: skip
            if not low <= value <= high:
                return (f"A measured mode has {what} of {value:.3g}{unit}; at the tip of a tool it is {low:g} to {high:g}{unit}. "
                        "Check the units of the measurement (um/N), and measure again.")  # fmt: skip
    return None


def _holder(setup: CutSetup, state: State) -> str | None:
    if setup.parts.tool.kind != "face" or setup.parts.holder.kind not in _PLAIN:
        return None
    return f"A face mill has a bore and no shank: it does not go into a {setup.parts.holder.kind.replace('_', ' ')} holder."


def _edge(setup: CutSetup, state: State) -> str | None:
    kind = setup.parts.tool.kind
    if setup.parts.cut.role != "finish" or kind not in _BROKEN:
        return None
    return f"A {_BROKEN[kind]} leaves the trace of its edge on the wall: it roughs. Finish with a plain edge."


def _stock(setup: CutSetup, state: State) -> str | None:
    feature, tool = setup.parts.cut.feature, setup.parts.tool
    depth = feature.depth_mm if feature is not None else None
    if (
        feature is None
        or feature.kind != "surface"
        or depth is None
        or setup.parts.cut.role != "finish"
        or depth <= max(_STOCK_SHARE * tool.DC, _STOCK_LEAST)
    ):
        return None
    return (f"{units.LENGTH.mark(depth)} of stock is a lot to finish: the depth of a surface is the stock to take, not the height "
            "of the part.")  # fmt: skip


ENTRIES: tuple[Entry, ...] = (
    ("too_deep", "danger", _reach), ("does_not_fit", "danger", _misfit), ("little_grip", "danger", _grip),
    ("not_clamped", "danger", _clamped), ("too_heavy", "danger", _load), ("wrong_holder", "danger", _holder),
    ("beyond_travel", "danger", _travel), ("edge_of_a_rougher", "danger", _edge), ("stock_of_a_surface", "caution", _stock),
    ("implausible_modes", "danger", _modes), ("surface_without_ball", "caution", _surface), ("flank_of_a_taper", "caution", _flank),
    ("strategy_against_tool", "caution", _strategy), ("high_feed_range", "caution", _high_feed),
)  # fmt: skip
#: what is said where a cut cannot be done as it is set, whatever its limits
IMPOSSIBLE = frozenset(id for id, severity, _ in ENTRIES if severity == "danger")
