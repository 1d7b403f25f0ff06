"""The limits: value, limit, and what would move it."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.limits import BY_ID, LimitUse
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.entries import (
    TOOLMAKER,
    Input,
    Where,
    Working,
    data_row,
    holder_row,
    machine_row,
    tool_row,
)

_LIMIT_WORDS = {
    "spindle_speed": ("speed asked for / highest speed of the machine", "machines", "The machine builder's rating."),
    "spindle_power": ("motor power / S1 power at this speed", "machines", "The machine's own curve."),
    "spindle_torque": (
        "the greater of mean torque / S1 torque and peak torque / S6-40 % torque at this speed",
        "machines",
        "The machine's own curve.",
    ),
    "deflection": ("tip deflection at the peak force / what this cut allows", "tools", "The limit typed in this cut."),
    "tool_stress": (
        "equivalent stress at flute run-out or holder face / allowed stress of the substrate",
        "tools",
        TOOLMAKER,
    ),
    "tool_torsion": ("shear stress of the peak torque / allowed stress / √3", "tools", TOOLMAKER),
    "grip": (
        "√(Tpeak² + (Fpull d/2)²) / grip torque; a form lock carries the pull-out",
        "holders",
        "The holder maker's torque for this shank.",
    ),
    "taper_bending": (
        "peak side force × (stick-out + projection of the holder) / moment of the taper",
        "machines",
        "The machine builder's moment (taper_moment_nm).",
    ),
    "part_clamping": (
        "greater of peak side force and mass × acceleration of a rapid / friction of the clamping at 0.2",
        "machines",
        "Stops or a form lock of the part.",
    ),
    "stability": (
        "ap / depth of chatter that this depth is judged by",
        "holders",
        "A tap test at the tip (tap_modes), a recording of the cut, and the first parts.",
    ),
    "machine_feed": ("feed asked for / highest cutting feed", "machines", "The machine builder's rating."),
    "tool_rated_speed": (
        "speed / lower of the ratings of tool and holder",
        "tools",
        "The maker's rating of tool and holder.",
    ),
    "chip_thickness_max": (
        "hex / thickest chip of the starting data at this diameter, or at 0.35 RE",
        "cutting_data",
        TOOLMAKER,
    ),
    "chip_thickness_min": ("least chip this edge radius and material need / hex", "cutting_data", TOOLMAKER),
    "chip_space": (
        "ae fz times the swell of the chip / cross section of one gullet",
        "tools",
        "The toolmaker's gullet area.",
    ),
    "depth_available": ("ap / APMX", "tools", "A tool with longer flutes."),
}


_ORIGINS = {"machines": machine_row, "tools": tool_row, "cutting_data": data_row, "holders": holder_row}


def limit_working(result: Result, id: str, where: Where) -> Working:
    """The working of a limit: use, value and what it is compared with."""
    entry: LimitUse | None = next((use for use in result.limits if use.rule.id == id), None)
    rule = BY_ID[id]
    formula, table, override = _LIMIT_WORDS[id]
    origin = _ORIGINS[table](result, where)
    if entry is None:
        return Working(rule.name, None, units.RATIO, "nothing is known to compare with", (), origin, override)
    inputs = (
        Input("is", "value of this cut", entry.value, rule.quantity, "this cut"),
        Input("may be", "limit", entry.limit, rule.quantity, origin),
    )
    return Working(
        rule.name, entry.use, units.RATIO, f"use = {formula}", inputs, "docs/physics.md sections 4 to 11", override
    )
