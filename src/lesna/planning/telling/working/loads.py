"""Power, forces, and what bends under them."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.features import volume
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.inputs import (
    TRIALS,
    TYPED,
    Explain,
    Explanation,
    Input,
    Where,
    machine_row,
    material_row,
    tool_row,
)


def motor(result: Result, where: Where) -> Explanation:
    """The motor's power."""
    drive, origin = result.setup.drive, machine_row(result, where)
    return Explanation(
        "P = Pc/η + idle(n), with Pc = 2π n T / 60000",
        (
            "torque", "n", "power_cut", Input("η", "drive efficiency", drive.efficiency, units.RATIO, origin),
            Input("idle", "idle power at n", float(drive.idle(result.state.n)), units.POWER, origin),
        ),
        "docs/physics.md section 6", "The load meter of the machine.",
    )  # fmt: skip


def edge_power(result: Result, where: Where) -> Explanation:
    """The power that the edge takes."""
    return Explanation(
        "Pc = 2π n T / 60000", ("torque", "n"), "docs/physics.md section 6", "The load meter of the machine."
    )


def chip_temperature(result: Result, where: Where) -> Explanation:
    """How hot the chips leave."""
    m, origin = result.setup.parts.material, material_row(result, where)
    return Explanation(
        "T = 20 °C + (1 - b) kc / (d c), b the share that goes into the part; at most where it melts. An estimate",
        (
            "kc", "vc", "hm", Input("d", "density, kg/m³", m.density_kg_m3, units.PLAIN, origin),
            Input("c", "specific heat, J/(kg K)", m.specific_heat_j_kgk, units.PLAIN, origin),
            Input("λ", "conductivity, W/(m K)", m.thermal_cond_w_mk, units.PLAIN, origin),
        ),
        "Boothroyd 1963; docs/physics.md section 12", TRIALS,
    )  # fmt: skip


def chip_mass(result: Result, where: Where) -> Explanation:
    """The mass of a part's chips."""
    parts = result.setup.parts
    return Explanation(
        "m = volume of the feature × density d",
        (
            Input("V", "material of the feature, cm³", volume(parts.cut.feature), units.PLAIN, "this cut's feature"),
            Input("d", "density, kg/m³", parts.material.density_kg_m3, units.PLAIN, material_row(result, where)),
        ),
        "length, width and depth as they are written", "What the chip bin weighs.",
    )  # fmt: skip


def specific_force(result: Result, where: Where) -> Explanation:
    """The specific cutting force."""
    law, m, origin = result.setup.law, result.setup.parts.material, material_row(result, where)
    corrected = "hardness, rake and wear corrections included"
    lesson = result.setup.parts.lesson
    if lesson is not None and lesson.of_force:
        corrected += f"; times {lesson.force:.2f} by the spindle's load, {lesson.of_force}, see Trial"
    if law.is_linear:
        formula = "kc = Ktc + Kte / hm"
        inputs = (
            Input("Ktc", corrected, float(law.linear[0, 0]), units.STRESS, origin),
            Input("Kte", "edge coefficient, N/mm", float(law.linear[0, 1]), units.PLAIN, origin),
        )
    else:
        formula = "kc = kc11 hm^-mc; below 0.02 mm the tangent of the curve"
        inputs = (
            Input("kc11", f"specific force at 1 mm, {corrected}", float(law.kienzle[0]), units.STRESS,
                  f"{origin}; {tool_row(result, where)}"),
            Input("mc", "exponent", law.mc, units.RATIO, origin),
        )  # fmt: skip
    return Explanation(formula, ("hm", *inputs), f"Kienzle 1952; {m.source_note or 'coefficients as given'}", TRIALS)


_TURN_SOURCE = "Altintas 2012, ch. 2; docs/physics.md section 5"


def over_a_turn(what: str, override: str = TRIALS) -> Explain:
    """A figure of the force model, which all start from the same inputs."""

    def explanation(result: Result, where: Where) -> Explanation:
        law, cutter = result.setup.law, result.setup.cutter
        origin, held = material_row(result, where), tool_row(result, where)
        coefficients = law.linear[:, 0] if law.is_linear else law.kienzle
        first = float(coefficients[0]) or 1.0
        return Explanation(
            f"{what} over one turn in 720 steps, the edge in slices; each tooth cuts what the teeth before it have left",
            (
                "kc",
                Input("kr", "radial over tangential", float(coefficients[1]) / first, units.RATIO, origin),
                Input("ka", "axial over tangential at this helix", float(coefficients[2]) / first, units.RATIO, origin),
                Input("e", "eccentricity, half the runout", 1000.0 * cutter.eccentricity, units.SMALL, held),
                "phi_s", "ap",
            ),
            _TURN_SOURCE, override,
        )  # fmt: skip

    return explanation


def ripple(result: Result, where: Where) -> Explanation:
    """How uneven the side force is."""
    return Explanation(
        "(greatest - least) / mean of the side force over a turn", ("fxy_peak", "fxy", "ap_constant_force"),
        _TURN_SOURCE, "A depth at a multiple of the constant-force depth.",
    )  # fmt: skip


def overload(result: Result, where: Where) -> Explanation:
    """What runout adds to the worst tooth."""
    runout = Input("TIR", "runout", result.setup.parts.tool.runout_um, units.SMALL, tool_row(result, where))
    return Explanation(
        "thickest chip of the worst tooth over that of an even cutter, less 1", (runout, "fz", "hex"),
        "docs/physics.md section 10", "The runout as measured at the edge.",
    )  # fmt: skip


def wall_error(result: Result, where: Where) -> Explanation:
    """How far the wall stands from where it should be."""
    return Explanation(
        "deflection normal to the wall when the tooth that makes it passes; plus leaves material",
        ("deflection_tip",), "docs/physics.md section 7", "Measure the wall.",
    )  # fmt: skip


def bending(result: Result, where: Where) -> Explanation:
    """How far the tip gives way."""
    bar, state = result.setup.structure.beam, result.state
    holder = where("holders", result.setup.parts.holder.id) or "holder of this cut"
    return Explanation(
        "peak side force × compliance of a stepped Timoshenko beam on the springs of seat, holder and spindle nose",
        (
            "fxy_peak",
            Input("zF", "height it acts at", state.height, units.LENGTH, "mean of the tangential force"),
            Input("LPR", "stick-out", bar.length, units.DIMENSION, TYPED),
            Input("deq", "diameter that bends like the flutes", float(bar.diameters[0]), units.DIMENSION,
                  tool_row(result, where)),
            Input("δ/F", "tip compliance, µm per 1000 N", 1e6 * float(bar.compliance(0.0, 0.0)), units.PLAIN, holder),
        ),
        "docs/physics.md section 7; docs/decisions/0008-structure.md", "A stiffness measured at the tip.",
    )  # fmt: skip
