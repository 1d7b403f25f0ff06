"""Speeds, feeds, chips and engagement."""

from __future__ import annotations

import math

from lesna.model import units
from lesna.planning.cut.curves import curve_radius, loop_radius
from lesna.planning.cut.motion import REFERENCE_ENGAGEMENT, chip_target
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.inputs import (
    TOOLMAKER,
    TYPED,
    Explanation,
    Input,
    Where,
    machine_row,
    tool_row,
)

_BY_DEFINITION = "Nothing: it is geometry."


def typed(result: Result, where: Where) -> Explanation:
    """A number that somebody chose."""
    return Explanation("as typed in this cut", (), "this cut", "Type another value.")


def spindle(result: Result, where: Where) -> Explanation:
    """The spindle speed."""
    cut = result.setup.parts.cut
    if cut.life_min_wanted is not None:
        asked = Input("T", "edge life to be kept", cut.life_min_wanted, units.LONG_MINUTES, TYPED)
        formula = "n = 1000 vc / (π Deff), vc = m vref (Tt/Tref (hex/hex ref)^(a/n) / c)^-n, 1/Tt = 1/T - 1/(N Tref)"
    elif cut.n_rpm is None:
        origin = TYPED if cut.vc_m_min is not None else "book value in this cut"
        asked = Input("vc", "surface speed asked for", cut.vc_wanted, units.SURFACE_SPEED, origin)
        formula = "n = 1000 vc / (π Deff)"
    else:
        asked = Input("n", "spindle speed asked for", cut.n_rpm, units.SPINDLE_SPEED, TYPED)
        formula = "n as asked for"
    most = result.setup.drive.rpm_max
    clipped = result.clipped("n")
    return Explanation(
        formula + (f"; {clipped}" if clipped else ""),
        (
            asked,
            "d_eff",
            Input("n max", "highest speed of the machine", most, units.SPINDLE_SPEED, machine_row(result, where)),
        ),
        "ISO 3002-3; a stepped machine takes the nearest step that does not exceed it",
        "Type a spindle speed instead of vc.",
    )


def surface(result: Result, where: Where) -> Explanation:
    """The surface speed."""
    return Explanation("vc = π Deff n / 1000, at the speed actually set", ("n", "d_eff"), "ISO 3002-3", TOOLMAKER)


def effective_diameter(result: Result, where: Where) -> Explanation:
    """The largest diameter that touches material."""
    cutting = Input("DC", "cutting diameter", result.setup.shape.DC, units.DIMENSION, tool_row(result, where))
    return Explanation(
        "Deff = largest diameter of the edge up to the depth ap", (cutting, "ap"), "docs/physics.md section 2",
        _BY_DEFINITION,
    )  # fmt: skip


def _flutes(result: Result, where: Where) -> Input:
    return Input("z", "flutes in the cut", result.state.z, units.COUNT, tool_row(result, where))


def feed(result: Result, where: Where) -> Explanation:
    """The feed speed."""
    clipped = result.clipped("vf")
    asked = Input("fz", "feed per tooth asked for", result.state.fz_asked, units.CHIP, "see Per tooth", "fz")
    return Explanation(
        "vf = n z fz" + (f"; {clipped}" if clipped else ""),
        ("n", _flutes(result, where), asked),
        "ISO 3002-3; feed of the tool centre",
        "The machine's own feed limit; a feed override at the control.",
    )


def per_tooth(result: Result, where: Where) -> Explanation:
    """The feed per tooth."""
    cut = result.setup.parts.cut
    override = "Type fz itself, or a book value with its engagement."
    if cut.fz_mm is not None:
        return Explanation(
            "fz = vf / (n z), as asked for where the machine allows it",
            (Input("fz", "feed per tooth asked for", cut.fz_mm, units.CHIP, TYPED), "vf", "n"),
            "ISO 3002-3",
            override,
        )
    target, is_mean = chip_target(result.setup)
    if is_mean:
        formula, symbol = "mean-chip school: fz = hm φs / (sin κ 2 ae/Deff)", "hm target"
    else:
        formula = "max-chip school: fz = hex / (sin κ sin min(φs, 90°)); exact circles on very thin steps"
        symbol = "hex target"
    held = Input(symbol, "chip thickness held", target, units.CHIP, _target_origin(result))
    inputs = (held, "ae", "phi_s", _sine_at_top(result, where))
    if cut.book is None:
        return Explanation(formula, inputs, "docs/physics.md section 4", override)
    meaning = f"toolmaker's value at ae/DC = {cut.book.ae_over_dc or REFERENCE_ENGAGEMENT:g}"
    book = Input("fz book", meaning, cut.book.fz_mm, units.CHIP, TYPED)
    return Explanation(formula, (book, *inputs), "docs/physics.md section 4", override)


def _sine_at_top(result: Result, where: Where) -> Input:
    return Input(
        "sin κ", "lead angle at the top of the contact", result.state.s_top, units.RATIO, tool_row(result, where)
    )


def _target_origin(result: Result) -> str:
    cut = result.setup.parts.cut
    if cut.book is not None:
        stated = "as stated" if cut.book.ae_over_dc is not None else "assumed, none was stated"
        return f"chip of the book value at its engagement ({stated})"
    if cut.compensation == "mean_chip":
        return f"mean of hex = {cut.hex_mm:g} mm at half engagement"
    return TYPED


def thickest_chip(result: Result, where: Where) -> Explanation:
    """The thickest chip."""
    return Explanation(
        "hex = fz sin κ sin min(φs, 90°); exact circles on very thin steps",
        ("fz", "phi_s", _sine_at_top(result, where)),
        "ISO 3002-3; docs/physics.md section 4",
        TOOLMAKER,
    )


def mean_chip(result: Result, where: Where) -> Explanation:
    """The mean chip."""
    mean = Input("sin κ", "mean along the edge", result.state.s_mean, units.RATIO, tool_row(result, where))
    return Explanation(
        "hm = fz sin κ 2 (ae/Deff) / φs, sin κ as the mean along the edge",
        ("fz", "ae", "d_eff", "phi_s", mean),
        "docs/physics.md section 4",
        TOOLMAKER,
    )


def removal(result: Result, where: Where) -> Explanation:
    """The removal rate."""
    return Explanation(
        "Q = ae ap vf / 1000 (straight path)", ("ae", "ap", "vf"), "docs/physics.md section 2",
        "The path's own removal where a path exists.",
    )  # fmt: skip


def engagement(result: Result, where: Where) -> Explanation:
    """The engagement angle."""
    return Explanation(
        "φs = acos(1 - 2 ae/Deff)", ("ae", "d_eff"), "Altintas 2012, ch. 2", "The path, where it curves."
    )


def engagement_in_curves(result: Result, where: Where) -> Explanation:
    """The engagement in a corner or a loop."""
    feature = result.setup.parts.cut.feature
    radius = feature.corner_radius_mm if feature else None
    centre = curve_radius(result.setup, result.state)
    return Explanation(
        "law of cosines with the tool centre on the radius rm",
        (
            "ae", "d_eff", Input("rc", "inner radius of the feature", radius, units.LENGTH, TYPED),
            Input("rm", "radius of the tool centre's path", centre, units.LENGTH, "rc - Deff/2"),
        ),
        "docs/physics.md section 3", "A path that keeps its engagement in corners.",
    )  # fmt: skip


def levels(result: Result, where: Where) -> Explanation:
    """The levels that a feature is cut in."""
    feature = result.setup.parts.cut.feature
    depth = () if feature is None else (Input("H", "depth of the feature", feature.depth_mm, units.LENGTH, TYPED),)
    return Explanation(
        "h = H / n, n = H / ap rounded up: equal levels, so that no sliver stays for the last", (*depth, "ap"),
        "docs/physics.md section 15", "The levels of the program that is run.",
    )  # fmt: skip


def loop_advance(result: Result, where: Where) -> Explanation:
    """How far a trochoid moves on with each loop."""
    centre = loop_radius(result.setup)
    return Explanation(
        "the advance whose greatest engagement in the loop is that of a straight cut at ae, by exact circles",
        ("ae", "d_eff", Input("rm", "radius of the tool centre's loop", centre, units.LENGTH, "(W - DC)/2")),
        "docs/physics.md section 3", "Type another stepover.",
    )  # fmt: skip


def _helix(result: Result, where: Where) -> Input:
    return Input("λ", "helix", math.degrees(result.setup.helix), units.ANGLE, tool_row(result, where))


def teeth_in_cut(result: Result, where: Where) -> Explanation:
    """How many teeth touch material at a time."""
    return Explanation(
        "Nc = z (φs + 2 ap tan λ / DC) / 2π", (_flutes(result, where), "phi_s", "ap", _helix(result, where)),
        "docs/physics.md section 3", _BY_DEFINITION,
    )  # fmt: skip


def constant_force_depth(result: Result, where: Where) -> Explanation:
    """The depth at which the force stays even."""
    cutting = Input("DC", "cutting diameter", result.setup.shape.DC, units.DIMENSION, tool_row(result, where))
    return Explanation(
        "pax = π DC / (z tan λ)", (_flutes(result, where), _helix(result, where), cutting), "docs/physics.md section 3",
        "Unequal pitch or helix: it then holds only roughly.",
    )  # fmt: skip
