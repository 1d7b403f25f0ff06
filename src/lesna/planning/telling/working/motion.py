"""Speeds, feeds, chips and engagement."""

from __future__ import annotations

import math

from lesna.model import units
from lesna.planning.cut.curves import curve_radius
from lesna.planning.cut.motion import REFERENCE_ENGAGEMENT, chip_target
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.entries import (
    TOOLMAKER,
    TYPED,
    Explanation,
    Input,
    Where,
    ae_in,
    ap_in,
    d_eff_in,
    engagement_in,
    explains,
    flutes_in,
    fz_in,
    machine_row,
    n_in,
    tool_row,
    vf_in,
)


@explains("n")
def _spindle(result: Result, where: Where) -> Explanation:
    cut = result.setup.parts.cut
    inputs = [d_eff_in(result, where)]
    if cut.n_rpm is None:
        origin = TYPED if cut.vc_m_min is not None else "book value in this cut"
        inputs.insert(0, Input("vc", "surface speed asked for", cut.vc_wanted, units.SURFACE_SPEED, origin))
        formula = "n = 1000 vc / (π Deff)"
    else:
        inputs.insert(0, Input("n", "spindle speed asked for", cut.n_rpm, units.SPINDLE_SPEED, TYPED))
        formula = "n as asked for"
    inputs.append(
        Input(
            "n max",
            "highest speed of the machine",
            result.setup.drive.rpm_max,
            units.SPINDLE_SPEED,
            machine_row(result, where),
        )
    )
    clipped = result.clipped("n")
    return Explanation(
        formula + (f"; {clipped}" if clipped else ""),
        tuple(inputs),
        "ISO 3002-3; a stepped machine takes the nearest step that does not exceed it",
        "Type a spindle speed instead of vc.",
    )


@explains("vc")
def _surface(result: Result, where: Where) -> Explanation:
    return Explanation(
        "vc = π Deff n / 1000, at the speed actually set",
        (n_in(result), d_eff_in(result, where)),
        "ISO 3002-3",
        TOOLMAKER,
    )


@explains("vf")
def _feed(result: Result, where: Where) -> Explanation:
    clipped = result.clipped("vf")
    asked = Input("fz", "feed per tooth asked for", result.state.fz_asked, units.CHIP, "see Per tooth")
    return Explanation(
        "vf = n z fz" + (f"; {clipped}" if clipped else ""),
        (n_in(result), flutes_in(result, where), asked),
        "ISO 3002-3; feed of the tool centre",
        "The machine's own feed limit; a feed override at the control.",
    )


@explains("fz")
def _per_tooth(result: Result, where: Where) -> Explanation:
    cut, s = result.setup.parts.cut, result.state
    override = "Type fz itself, or a book value with its engagement."
    if cut.fz_mm is not None:
        return Explanation(
            "fz = vf / (n z), as asked for where the machine allows it",
            (Input("fz", "feed per tooth asked for", cut.fz_mm, units.CHIP, TYPED), vf_in(result), n_in(result)),
            "ISO 3002-3",
            override,
        )
    target, is_mean = chip_target(result.setup)
    sines = Input("sin κ", "lead angle at the top of the contact", s.s_top, units.RATIO, tool_row(result, where))
    if is_mean:
        formula, symbol = "mean-chip school: fz = hm φs / (sin κ 2 ae/Deff)", "hm target"
    else:
        formula, symbol = (
            "max-chip school: fz = hex / (sin κ sin min(φs, 90°)); exact circles on very thin steps",
            "hex target",
        )
    inputs = [
        Input(symbol, "chip thickness held", target, units.CHIP, _target_origin(result)),
        ae_in(result),
        engagement_in(result),
        sines,
    ]
    if cut.book is not None:
        inputs.insert(
            0,
            Input(
                "fz book",
                f"toolmaker's value at ae/DC = {cut.book.ae_over_dc or REFERENCE_ENGAGEMENT:g}",
                cut.book.fz_mm,
                units.CHIP,
                TYPED,
            ),
        )
    return Explanation(formula, tuple(inputs), "docs/physics.md section 4", override)


def _target_origin(result: Result) -> str:
    cut = result.setup.parts.cut
    if cut.book is not None:
        stated = "as stated" if cut.book.ae_over_dc is not None else "assumed, none was stated"
        return f"chip of the book value at its engagement ({stated})"
    if cut.compensation == "mean_chip":
        return f"mean of hex = {cut.hex_mm:g} mm at half engagement"
    return TYPED


@explains("hex")
def _greatest(result: Result, where: Where) -> Explanation:
    s = result.state
    return Explanation(
        "hex = fz sin κ sin min(φs, 90°); exact circles on very thin steps",
        (
            fz_in(result),
            engagement_in(result),
            Input("sin κ", "lead angle at the top of the contact", s.s_top, units.RATIO, tool_row(result, where)),
        ),
        "ISO 3002-3; docs/physics.md section 4",
        TOOLMAKER,
    )


@explains("hm")
def _mean(result: Result, where: Where) -> Explanation:
    s = result.state
    return Explanation(
        "hm = fz sin κ 2 (ae/Deff) / φs, sin κ as the mean along the edge",
        (
            fz_in(result),
            ae_in(result),
            d_eff_in(result, where),
            engagement_in(result),
            Input("sin κ", "mean along the edge", s.s_mean, units.RATIO, tool_row(result, where)),
        ),
        "docs/physics.md section 4",
        TOOLMAKER,
    )


@explains("q")
def _removal(result: Result, where: Where) -> Explanation:
    return Explanation(
        "Q = ae ap vf / 1000 (straight path)",
        (ae_in(result), ap_in(result), vf_in(result)),
        "docs/physics.md section 2",
        "The path's own removal where a path exists.",
    )


@explains("phi_s")
def _phi(result: Result, where: Where) -> Explanation:
    return Explanation(
        "φs = acos(1 - 2 ae/Deff)",
        (ae_in(result), d_eff_in(result, where)),
        "Altintas 2012, ch. 2",
        "The path, where it curves.",
    )


@explains("phi_corner")
def _corner(result: Result, where: Where) -> Explanation:
    feature = result.setup.parts.cut.feature
    radius = feature.corner_radius_mm if feature else None
    centre = curve_radius(result.setup, result.state)
    return Explanation(
        "law of cosines with the tool centre on a radius: corner radius - R in a corner, (W - DC)/2 in a trochoid's loop",
        (
            ae_in(result),
            d_eff_in(result, where),
            Input("rc", "inner radius of the feature", radius, units.LENGTH, TYPED),
            Input(
                "rm", "radius of the tool centre's path", centre, units.LENGTH, "rc - Deff/2, or (W - DC)/2 in a loop"
            ),
        ),
        "docs/physics.md section 3",
        "A path that keeps its engagement in corners.",
    )


@explains("contacts")
def _contacts(result: Result, where: Where) -> Explanation:
    return Explanation(
        "Nc = z (φs + 2 ap tan λ / DC) / 2π",
        (
            flutes_in(result, where),
            engagement_in(result),
            ap_in(result),
            Input("λ", "helix", math.degrees(result.setup.helix), units.ANGLE, tool_row(result, where)),
        ),
        "docs/physics.md section 3",
        "Nothing: it is geometry.",
    )


@explains("ap_constant_force")
def _constant(result: Result, where: Where) -> Explanation:
    return Explanation(
        "pax = π DC / (z tan λ)",
        (
            flutes_in(result, where),
            Input("λ", "helix", math.degrees(result.setup.helix), units.ANGLE, tool_row(result, where)),
            Input("DC", "cutting diameter", result.setup.shape.DC, units.DIMENSION, tool_row(result, where)),
        ),
        "docs/physics.md section 3",
        "Unequal pitch or helix: it then holds only roughly.",
    )
