"""Power, forces, and what bends under them."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.features import volume
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.entries import (
    TRIALS,
    TYPED,
    Explanation,
    Input,
    Where,
    ap_in,
    engagement_in,
    explains,
    fz_in,
    hm_in,
    machine_row,
    material_row,
    n_in,
    tool_row,
)


@explains("power_motor")
def _motor(result: Result, where: Where) -> Explanation:
    s, drive = result.state, result.setup.drive
    origin = machine_row(result, where)
    return Explanation(
        "P = Pc/η + idle(n), with Pc = 2π n T / 60000",
        (
            Input("T", "mean torque", s.torque, units.TORQUE, "see Torque"),
            n_in(result),
            Input("Pc", "power at the edge", s.power_cut, units.POWER, "2π n T / 60000"),
            Input("η", "drive efficiency", drive.efficiency, units.RATIO, origin),
            Input("idle", "idle power at n", float(drive.idle(s.n)), units.POWER, origin),
            band_in(result),
        ),
        "docs/physics.md section 6",
        "The load meter of the machine.",
    )


@explains("chip_temperature")
def _chip_temperature(result: Result, where: Where) -> Explanation:
    s, m = result.state, result.setup.parts.material
    origin = material_row(result, where)
    return Explanation(
        "T = 20 °C + (1 - b) kc / (d c), b the share that goes into the part; at most where it melts. An estimate",
        (
            Input("kc", "specific force", float(s.kc), units.STRESS, "see Specific force"),
            Input("vc", "surface speed", s.vc, units.SURFACE_SPEED, "see Surface speed"),
            hm_in(result),
            Input("d", "density, kg/m³", m.density_kg_m3, units.PLAIN, origin),
            Input("c", "specific heat, J/(kg K)", m.specific_heat_j_kgk, units.PLAIN, origin),
            Input("λ", "conductivity, W/(m K)", m.thermal_cond_w_mk, units.PLAIN, origin),
        ),
        "Boothroyd 1963; docs/physics.md section 12",
        TRIALS,
    )


@explains("chip_mass")
def _chip_mass(result: Result, where: Where) -> Explanation:
    m = result.setup.parts.material
    return Explanation(
        "m = volume of the feature × density d",
        (
            Input(
                "V",
                "material of the feature, cm³",
                volume(result.setup.parts.cut.feature),
                units.PLAIN,
                "this cut's feature",
            ),
            Input("d", "density, kg/m³", m.density_kg_m3, units.PLAIN, material_row(result, where)),
        ),
        "length, width and depth as they are written",
        "What the chip bin weighs.",
    )


@explains("kc")
def _specific(result: Result, where: Where) -> Explanation:
    law, m = result.setup.law, result.setup.parts.material
    origin = material_row(result, where)
    corrected = "hardness, rake and wear corrections included"
    if law.is_linear:
        inputs = (
            hm_in(result),
            Input("Ktc", corrected, float(law.linear[0, 0]), units.STRESS, origin),
            Input("Kte", "edge coefficient, N/mm", float(law.linear[0, 1]), units.PLAIN, origin),
        )
        formula = "kc = Ktc + Kte / hm"
    else:
        inputs = (
            hm_in(result),
            Input("kc11", f"specific force at 1 mm, {corrected}", float(law.kienzle[0]), units.STRESS,
                  f"{origin}; {tool_row(result, where)}"),
            Input("mc", "exponent", law.mc, units.RATIO, origin),
        )  # fmt: skip
        formula = "kc = kc11 hm^-mc; below 0.02 mm the tangent of the curve"
    return Explanation(
        formula,
        inputs,
        f"Kienzle 1952; {m.source_note or 'coefficients as given'}",
        TRIALS,
    )


def law_inputs(result: Result, where: Where) -> tuple[Input, ...]:
    """What every figure of the force model starts from."""
    law, cutter = result.setup.law, result.setup.cutter
    origin = material_row(result, where)
    coefficients = law.linear[:, 0] if law.is_linear else law.kienzle
    first = float(coefficients[0]) or 1.0
    return (
        Input("kc", "specific force at hm", result.state.kc, units.STRESS, "see Specific force"),
        Input("kr", "radial over tangential", float(coefficients[1]) / first, units.RATIO, origin),
        Input("ka", "axial over tangential at this helix", float(coefficients[2]) / first, units.RATIO, origin),
        Input("e", "eccentricity, half the runout", 1000.0 * cutter.eccentricity, units.SMALL, tool_row(result, where)),
        engagement_in(result),
        ap_in(result),
        band_in(result),
    )


def band_in(result: Result) -> Input:
    """How far forces, power and torque may be off."""
    letter = result.setup.parts.material.confidence or "C"
    return Input("±", "how far this may be off", result.force_band, units.SHARE,
                 f"confidence {letter} of the material, wider for chips under 0.05 mm")  # fmt: skip


_TURN = "one turn in 720 steps, the edge in slices; each tooth cuts what the teeth before it have left"
_TURN_SOURCE = "Altintas 2012, ch. 2; docs/physics.md section 5"


@explains("torque")
def _torque(result: Result, where: Where) -> Explanation:
    return Explanation(f"mean of Σ dFt r over {_TURN}",
                   law_inputs(result, where), _TURN_SOURCE, TRIALS)  # fmt: skip


@explains("torque_peak")
def _torque_peak(result: Result, where: Where) -> Explanation:
    return Explanation(f"greatest Σ dFt r over {_TURN}",
                   law_inputs(result, where), _TURN_SOURCE, TRIALS)  # fmt: skip


@explains("fxy")
def _force(result: Result, where: Where) -> Explanation:
    return Explanation(f"mean of √(Fx² + Fy²) over {_TURN}",
                   law_inputs(result, where), _TURN_SOURCE, TRIALS)  # fmt: skip


@explains("fxy_peak")
def _force_peak(result: Result, where: Where) -> Explanation:
    return Explanation(f"greatest √(Fx² + Fy²) over {_TURN}",
                   law_inputs(result, where), _TURN_SOURCE, TRIALS)  # fmt: skip


@explains("ripple")
def _ripple(result: Result, where: Where) -> Explanation:
    return Explanation(
        "(greatest - least) / mean of the side force over a turn",
        (Input("peak", "side force", result.state.fxy_peak, units.FORCE, "see Peak side force"),
         Input("mean", "side force", result.fxy_mean, units.FORCE, "see Mean side force"),
         Input("pax", "constant-force depth", result.constant_force_depth, units.LENGTH, "see Constant-force depth")),
        _TURN_SOURCE, "A depth at a multiple of the constant-force depth.",
    )  # fmt: skip


@explains("pull_out")
def _pull_out(result: Result, where: Where) -> Explanation:
    return Explanation(f"greatest -Fz over {_TURN}",
                   law_inputs(result, where), _TURN_SOURCE, "A form lock, or less helix.")  # fmt: skip


@explains("overload")
def _overload(result: Result, where: Where) -> Explanation:
    return Explanation(
        "thickest chip of the worst tooth over that of an even cutter, less 1",
        (Input("TIR", "runout", result.setup.parts.tool.runout_um, units.SMALL, tool_row(result, where)), fz_in(result),
         Input("hex", "thickest chip of an even cutter", result.state.hex, units.CHIP, "see Thickest chip")),
        "docs/physics.md section 10", "The runout as measured at the edge.",
    )  # fmt: skip


@explains("deflection_tip")
def _deflection(result: Result, where: Where) -> Explanation:
    return _bending(result, where)


@explains("wall_error")
def _wall(result: Result, where: Where) -> Explanation:
    return Explanation(
        "deflection normal to the wall when the tooth that makes it passes; plus leaves material",
        (Input("δ", "tip deflection at the peak", result.state.deflection, units.SMALL, "see Tip deflection"),),
        "docs/physics.md section 7", "Measure the wall.",
    )  # fmt: skip


def _bending(result: Result, where: Where) -> Explanation:
    bar, state = result.setup.structure.beam, result.state
    holder = result.setup.parts.holder
    return Explanation(
        "peak side force × compliance of a stepped Timoshenko beam on the springs of seat, holder and spindle nose",
        (
            Input("F", "peak side force", state.fxy_peak, units.FORCE, "see Peak side force"),
            Input("zF", "height it acts at", state.height, units.LENGTH, "mean of the tangential force"),
            Input("LPR", "stick-out", bar.length, units.DIMENSION, TYPED),
            Input("deq", "diameter that bends like the flutes", float(bar.diameters[0]), units.DIMENSION,
                  tool_row(result, where)),
            Input("δ/F", "tip compliance, µm per 1000 N", 1e6 * float(bar.compliance(0.0, 0.0)), units.PLAIN,
                  where("holders", holder.id) or "holder of this cut"),
        ),
        "docs/physics.md section 7; docs/decisions/0008-structure.md", "A stiffness measured at the tip.",
    )  # fmt: skip
