"""How a number came about: its formula, what was put in, where that came from, and what would override it.

One entry for each readout and each limit, found by its id. The figures are taken from the Result itself, so the
explanation cannot differ from what is shown.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from lesna.model import names, units
from lesna.planning.economy import Economy
from lesna.planning.limits import BY_ID, LimitUse
from lesna.planning.result import Result
from lesna.planning.solve import REFERENCE_ENGAGEMENT, chip_target, curve_radius

#: finds the table and row of a library record: (table, id) -> text
Where = Callable[[str, object], str]


@dataclass(frozen=True)
class Input:
    """One value that was put in."""

    symbol: str
    meaning: str
    value: float | None
    quantity: units.Quantity
    origin: str


@dataclass(frozen=True)
class Working:
    """The explanation of one number."""

    title: str
    value: float | None
    quantity: units.Quantity
    formula: str
    inputs: tuple[Input, ...]
    source: str
    override: str


Explain = Callable[[Result, Where], Working]
_ENTRIES: dict[str, Explain] = {}

_TOOLMAKER = "The toolmaker's own figure for this edge."
_TRIALS = "The shop's own trials: measure it and enter what was found."


def _explains(id: str) -> Callable[[Explain], Explain]:
    def register(entry: Explain) -> Explain:
        _ENTRIES[id] = entry
        return entry

    return register


def explained() -> tuple[str, ...]:
    """Ids of every number that can be explained."""
    return (*_ENTRIES, *BY_ID)


def working_of(result: Result, id: str, where: Where) -> Working:
    """The working of a readout or a limit.

    Parameters
    ----------
    result : Result
        The cut.
    id : str
        One of `explained`.
    where : callable
        Finds the origin of a library record.
    """
    if id in _ENTRIES:
        return _ENTRIES[id](result, where)
    return _limit(result, id, where)


# ---------------------------------------------------------------- inputs that many numbers share

_TYPED = "typed in this cut"


def _tool(result: Result, where: Where) -> str:
    tool = result.setup.parts.tool
    return where("tools", tool.id) or "tool written in this job"


def _machine(result: Result, where: Where) -> str:
    return where("machines", result.setup.parts.machine.id) or "machine written in this job"


def _material(result: Result, where: Where) -> str:
    return where("materials", result.setup.parts.material.id) or "material written in this job"


def _data(result: Result, where: Where) -> str:
    tool, material = result.setup.parts.tool, result.setup.parts.material
    key = (material.data_group, names.data_substrate(tool.substrate, tool.coating))
    return where("cutting_data", key) or "no row of the cutting data fits"


def _ae(result: Result) -> Input:
    return Input("ae", "radial engagement", result.state.ae, units.LENGTH, _TYPED)


def _ap(result: Result) -> Input:
    return Input("ap", "axial depth", result.state.ap, units.LENGTH, _TYPED)


def _n(result: Result) -> Input:
    return Input("n", "spindle speed", result.state.n, units.SPINDLE_SPEED, "see Spindle")


def _vf(result: Result) -> Input:
    return Input("vf", "feed speed", result.state.vf, units.FEED, "see Feed")


def _fz(result: Result) -> Input:
    return Input("fz", "feed per tooth as set", result.state.fz, units.CHIP, "see Per tooth")


def _hm(result: Result) -> Input:
    return Input("hm", "mean chip thickness", result.state.hm, units.CHIP, "see Mean chip")


def _flutes(result: Result, where: Where) -> Input:
    return Input("z", "flutes in the cut", result.state.z, units.COUNT, _tool(result, where))


def _d_eff(result: Result, where: Where) -> Input:
    return Input(
        "Deff", "largest diameter in contact", result.state.d_eff, units.DIMENSION, f"{_tool(result, where)}, at ap"
    )


def _engagement(result: Result) -> Input:
    return Input("φs", "engagement angle", math.degrees(result.state.phi_s), units.ANGLE, "acos(1 - 2 ae/Deff)")


# ---------------------------------------------------------------- readouts


@_explains("n")
def _spindle(result: Result, where: Where) -> Working:
    cut, s = result.setup.parts.cut, result.state
    inputs = [_d_eff(result, where)]
    if cut.n_rpm is None:
        origin = _TYPED if cut.vc_m_min is not None else "book value in this cut"
        inputs.insert(0, Input("vc", "surface speed asked for", cut.vc_wanted, units.SURFACE_SPEED, origin))
        formula = "n = 1000 vc / (π Deff)"
    else:
        inputs.insert(0, Input("n", "spindle speed asked for", cut.n_rpm, units.SPINDLE_SPEED, _TYPED))
        formula = "n as asked for"
    inputs.append(
        Input(
            "n max",
            "highest speed of the machine",
            result.setup.drive.rpm_max,
            units.SPINDLE_SPEED,
            _machine(result, where),
        )
    )
    clipped = result.clipped("n")
    return Working(
        "Spindle",
        s.n,
        units.SPINDLE_SPEED,
        formula + (f"; {clipped}" if clipped else ""),
        tuple(inputs),
        "ISO 3002-3; a stepped machine takes the nearest step that does not exceed it",
        "Type a spindle speed instead of vc.",
    )


@_explains("vc")
def _surface(result: Result, where: Where) -> Working:
    return Working(
        "Surface speed",
        result.state.vc,
        units.SURFACE_SPEED,
        "vc = π Deff n / 1000, at the speed actually set",
        (_n(result), _d_eff(result, where)),
        "ISO 3002-3",
        _TOOLMAKER,
    )


@_explains("vf")
def _feed(result: Result, where: Where) -> Working:
    clipped = result.clipped("vf")
    asked = Input("fz", "feed per tooth asked for", result.state.fz_asked, units.CHIP, "see Per tooth")
    return Working(
        "Feed",
        result.state.vf,
        units.FEED,
        "vf = n z fz" + (f"; {clipped}" if clipped else ""),
        (_n(result), _flutes(result, where), asked),
        "ISO 3002-3; feed of the tool centre",
        "The machine's own feed limit; a feed override at the control.",
    )


@_explains("fz")
def _per_tooth(result: Result, where: Where) -> Working:
    cut, s = result.setup.parts.cut, result.state
    override = "Type fz itself, or a book value with its engagement."
    if cut.fz_mm is not None:
        return Working(
            "Per tooth",
            s.fz,
            units.CHIP,
            "fz = vf / (n z), as asked for where the machine allows it",
            (Input("fz", "feed per tooth asked for", cut.fz_mm, units.CHIP, _TYPED), _vf(result), _n(result)),
            "ISO 3002-3",
            override,
        )
    target, is_mean = chip_target(result.setup)
    sines = Input("sin κ", "lead angle at the top of the contact", s.s_top, units.RATIO, _tool(result, where))
    if is_mean:
        formula, symbol = "mean-chip school: fz = hm φs / (sin κ 2 ae/Deff)", "hm target"
    else:
        formula, symbol = (
            "max-chip school: fz = hex / (sin κ sin min(φs, 90°)); exact circles on very thin steps",
            "hex target",
        )
    inputs = [
        Input(symbol, "chip thickness held", target, units.CHIP, _target_origin(result)),
        _ae(result),
        _engagement(result),
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
                _TYPED,
            ),
        )
    return Working("Per tooth", s.fz, units.CHIP, formula, tuple(inputs), "docs/physics.md section 4", override)


def _target_origin(result: Result) -> str:
    cut = result.setup.parts.cut
    if cut.book is not None:
        stated = "as stated" if cut.book.ae_over_dc is not None else "assumed, none was stated"
        return f"chip of the book value at its engagement ({stated})"
    if cut.compensation == "mean_chip":
        return f"mean of hex = {cut.hex_mm:g} mm at half engagement"
    return _TYPED


@_explains("hex")
def _greatest(result: Result, where: Where) -> Working:
    s = result.state
    return Working(
        "Thickest chip",
        s.hex,
        units.CHIP,
        "hex = fz sin κ sin min(φs, 90°); exact circles on very thin steps",
        (
            _fz(result),
            _engagement(result),
            Input("sin κ", "lead angle at the top of the contact", s.s_top, units.RATIO, _tool(result, where)),
        ),
        "ISO 3002-3; docs/physics.md section 4",
        _TOOLMAKER,
    )


@_explains("hm")
def _mean(result: Result, where: Where) -> Working:
    s = result.state
    return Working(
        "Mean chip",
        s.hm,
        units.CHIP,
        "hm = fz sin κ 2 (ae/Deff) / φs, sin κ as the mean along the edge",
        (
            _fz(result),
            _ae(result),
            _d_eff(result, where),
            _engagement(result),
            Input("sin κ", "mean along the edge", s.s_mean, units.RATIO, _tool(result, where)),
        ),
        "docs/physics.md section 4",
        _TOOLMAKER,
    )


@_explains("q")
def _removal(result: Result, where: Where) -> Working:
    return Working(
        "Removal",
        result.state.q,
        units.REMOVAL,
        "Q = ae ap vf / 1000 (straight path)",
        (_ae(result), _ap(result), _vf(result)),
        "docs/physics.md section 2",
        "The path's own removal where a path exists.",
    )


@_explains("power_motor")
def _motor(result: Result, where: Where) -> Working:
    s, drive = result.state, result.setup.drive
    origin = _machine(result, where)
    return Working(
        "Motor",
        s.power_motor,
        units.POWER,
        "P = Pc/η + idle(n), with Pc = 2π n T / 60000",
        (
            Input("T", "mean torque", s.torque, units.TORQUE, "see Torque"),
            _n(result),
            Input("Pc", "power at the edge", s.power_cut, units.POWER, "2π n T / 60000"),
            Input("η", "drive efficiency", drive.efficiency, units.RATIO, origin),
            Input("idle", "idle power at n", float(drive.idle(s.n)), units.POWER, origin),
        ),
        "docs/physics.md section 6",
        "The load meter of the machine.",
    )


@_explains("kc")
def _specific(result: Result, where: Where) -> Working:
    law, m = result.setup.law, result.setup.parts.material
    origin = _material(result, where)
    corrected = "hardness, rake and wear corrections included"
    if law.is_linear:
        inputs = (
            _hm(result),
            Input("Ktc", corrected, float(law.linear[0, 0]), units.STRESS, origin),
            Input("Kte", "edge coefficient, N/mm", float(law.linear[0, 1]), units.PLAIN, origin),
        )
        formula = "kc = Ktc + Kte / hm"
    else:
        inputs = (
            _hm(result),
            Input("kc11", f"specific force at 1 mm, {corrected}", float(law.kienzle[0]), units.STRESS,
                  f"{origin}; {_tool(result, where)}"),
            Input("mc", "exponent", law.mc, units.RATIO, origin),
        )  # fmt: skip
        formula = "kc = kc11 hm^-mc; below 0.02 mm the tangent of the curve"
    return Working(
        "Specific force",
        result.state.kc,
        units.STRESS,
        formula,
        inputs,
        f"Kienzle 1952; {m.source_note or 'coefficients as given'}",
        _TRIALS,
    )


def _law_inputs(result: Result, where: Where) -> tuple[Input, ...]:
    """What every figure of the force model starts from."""
    law, cutter = result.setup.law, result.setup.cutter
    origin = _material(result, where)
    coefficients = law.linear[:, 0] if law.is_linear else law.kienzle
    first = float(coefficients[0]) or 1.0
    return (
        Input("kc", "specific force at hm", result.state.kc, units.STRESS, "see Specific force"),
        Input("kr", "radial over tangential", float(coefficients[1]) / first, units.RATIO, origin),
        Input("ka", "axial over tangential at this helix", float(coefficients[2]) / first, units.RATIO, origin),
        Input("e", "eccentricity, half the runout", 1000.0 * cutter.eccentricity, units.SMALL, _tool(result, where)),
        _engagement(result),
        _ap(result),
    )


_TURN = "one turn in 720 steps, the edge in slices; each tooth cuts what the teeth before it have left"
_TURN_SOURCE = "Altintas 2012, ch. 2; docs/physics.md section 5"


@_explains("torque")
def _torque(result: Result, where: Where) -> Working:
    return Working("Torque", result.state.torque, units.TORQUE, f"mean of Σ dFt r over {_TURN}",
                   _law_inputs(result, where), _TURN_SOURCE, _TRIALS)  # fmt: skip


@_explains("torque_peak")
def _torque_peak(result: Result, where: Where) -> Working:
    return Working("Peak torque", result.state.torque_peak, units.TORQUE, f"greatest Σ dFt r over {_TURN}",
                   _law_inputs(result, where), _TURN_SOURCE, _TRIALS)  # fmt: skip


@_explains("fxy")
def _force(result: Result, where: Where) -> Working:
    return Working("Mean side force", result.fxy_mean, units.FORCE, f"mean of √(Fx² + Fy²) over {_TURN}",
                   _law_inputs(result, where), _TURN_SOURCE, _TRIALS)  # fmt: skip


@_explains("fxy_peak")
def _force_peak(result: Result, where: Where) -> Working:
    return Working("Peak side force", result.state.fxy_peak, units.FORCE, f"greatest √(Fx² + Fy²) over {_TURN}",
                   _law_inputs(result, where), _TURN_SOURCE, _TRIALS)  # fmt: skip


@_explains("ripple")
def _ripple(result: Result, where: Where) -> Working:
    return Working(
        "Ripple", result.ripple, units.RATIO, "(greatest - least) / mean of the side force over a turn",
        (Input("peak", "side force", result.state.fxy_peak, units.FORCE, "see Peak side force"),
         Input("mean", "side force", result.fxy_mean, units.FORCE, "see Mean side force"),
         Input("pax", "constant-force depth", result.constant_force_depth, units.LENGTH, "see Constant-force depth")),
        _TURN_SOURCE, "A depth at a multiple of the constant-force depth.",
    )  # fmt: skip


@_explains("pull_out")
def _pull_out(result: Result, where: Where) -> Working:
    return Working("Pull-out", float(result.state.pull_out), units.FORCE, f"greatest -Fz over {_TURN}",
                   _law_inputs(result, where), _TURN_SOURCE, "A form lock, or less helix.")  # fmt: skip


@_explains("overload")
def _overload(result: Result, where: Where) -> Working:
    return Working(
        "Worst tooth", result.overload, units.RATIO, "thickest chip of the worst tooth over that of an even cutter, less 1",
        (Input("TIR", "runout", result.setup.parts.tool.runout_um, units.SMALL, _tool(result, where)), _fz(result),
         Input("hex", "thickest chip of an even cutter", result.state.hex, units.CHIP, "see Thickest chip")),
        "docs/physics.md section 10", "The runout as measured at the edge.",
    )  # fmt: skip


@_explains("deflection_tip")
def _deflection(result: Result, where: Where) -> Working:
    return _bending(result, where, "Tip deflection", result.state.deflection)


@_explains("wall_error")
def _wall(result: Result, where: Where) -> Working:
    return Working(
        "Wall error", result.wall_error, units.SMALL,
        "deflection normal to the wall when the tooth that makes it passes; plus leaves material",
        (Input("δ", "tip deflection at the peak", result.state.deflection, units.SMALL, "see Tip deflection"),),
        "docs/physics.md section 7", "Measure the wall.",
    )  # fmt: skip


def _bending(result: Result, where: Where, title: str, value: float) -> Working:
    bar, state = result.setup.structure.beam, result.state
    holder = result.setup.parts.holder
    return Working(
        title, value, units.SMALL,
        "peak side force × compliance of a stepped Timoshenko beam on the springs of seat, holder and spindle nose",
        (
            Input("F", "peak side force", state.fxy_peak, units.FORCE, "see Peak side force"),
            Input("zF", "height it acts at", state.height, units.LENGTH, "mean of the tangential force"),
            Input("LPR", "stick-out", bar.length, units.DIMENSION, _TYPED),
            Input("deq", "diameter that bends like the flutes", float(bar.diameters[0]), units.DIMENSION,
                  _tool(result, where)),
            Input("δ/F", "tip compliance, µm per 1000 N", 1e6 * float(bar.compliance(0.0, 0.0)), units.PLAIN,
                  where("holders", holder.id) or "holder of this cut"),
        ),
        "docs/physics.md section 7; docs/decisions/0008-structure.md", "A stiffness measured at the tip.",
    )  # fmt: skip


@_explains("time")
def _time(result: Result, where: Where) -> Working:
    feature = result.setup.parts.cut.feature
    sizes = (
        ()
        if feature is None
        else (
            Input("L", "length of the feature", feature.length_mm, units.LENGTH, _TYPED),
            Input("W", "width", feature.width_mm, units.LENGTH, _TYPED),
            Input("H", "depth", feature.depth_mm, units.LENGTH, _TYPED),
        )
    )
    return Working(
        "In the cut",
        result.cut_time,
        units.MINUTES,
        "t = volume of the feature / Q, without entries and links",
        (*sizes, Input("Q", "removal rate", result.state.q, units.REMOVAL, "see Removal")),
        "docs/physics.md section 15",
        "The path's own time where a path exists; a stopwatch.",
    )


def _economy(result: Result) -> Economy:
    assert result.economy is not None  # entries below first ask `_unknown_life`
    return result.economy


def _unknown_life(title: str, quantity: units.Quantity) -> Working:
    return Working(
        title, None, quantity, "the tables know no life for this edge in this material", (), "cutting data", _TRIALS
    )


@_explains("life")
def _life(result: Result, where: Where) -> Working:
    if result.economy is None:
        return _unknown_life("Edge life", units.MINUTES)
    e, data, origin = _economy(result), result.setup.parts.data, _data(result, where)
    return Working(
        "Edge life",
        e.life,
        units.MINUTES,
        "T = Tref (vc / (Kv vref))^(-1/n) (hex/hexref)^(-a/n) c, median, to VB 0.3 mm"
        + ("" if e.is_valid else "; the chip is outside the range in which this holds"),
        (
            Input("vc", "surface speed", result.state.vc, units.SURFACE_SPEED, "see Spindle"),
            Input(
                "Kv",
                "equal-temperature factor of this engagement, an index",
                e.kv,
                units.RATIO,
                "physics.md section 12",
            ),
            Input("vref", "reference speed", e.vc_ref, units.SURFACE_SPEED, origin),
            Input("hexref", "reference chip", e.hex_ref, units.CHIP, origin),
            Input("Tref", "life at the references", data.ref_life_min if data else None, units.MINUTES, origin),
            Input("n", "Taylor exponent of speed", e.taylor_n, units.RATIO, origin),
            Input("a", "exponent of the chip", data.taylor_feed_exp if data else None, units.RATIO, origin),
            Input("c", "cooling medium", e.coolant_factor, units.RATIO, "its place in the table's ranking"),
        ),
        "Taylor 1907, extended; ISO 8688-2; docs/physics.md section 13",
        "The shop's own edges: measured life comes first, expect a factor of two.",
    )


@_explains("safe_life")
def _safe(result: Result, where: Where) -> Working:
    if result.economy is None:
        return _unknown_life("Safe alone", units.MINUTES)
    e = _economy(result)
    return Working(
        "Safe alone",
        e.safe_life,
        units.MINUTES,
        "minutes that 95 % of edges outlive: T (ln(1/0.95) / ln 2)^(1/3.5)",
        (
            Input("T", "median life", e.life, units.MINUTES, "see Edge life"),
            Input("N", "parts until the change", e.change_after, units.COUNT, "whole parts within these minutes"),
        ),
        "Weibull scatter, shape 3.5; docs/physics.md section 13",
        _TRIALS,
    )


@_explains("part_time")
def _part_time(result: Result, where: Where) -> Working:
    if result.economy is None:
        return _unknown_life("Part", units.MINUTES)
    e = _economy(result)
    return Working(
        "Part",
        e.time_per_part,
        units.MINUTES,
        "time in the cut + edges used x time to change one; links and entries not yet",
        (
            Input("t", "in the cut", result.cut_time, units.MINUTES, "see In the cut"),
            Input("edges", "edges a part", e.edges_per_part, units.PLAIN, "time in the cut / edge life"),
            Input(
                "change",
                "time to change an edge",
                e.change_time,
                units.MINUTES,
                "batch, or 1 minute where it names none",
            ),
        ),
        "docs/physics.md section 13",
        "A stopwatch.",
    )


@_explains("cost")
def _cost(result: Result, where: Where) -> Working:
    if result.economy is None:
        return _unknown_life("Cost", units.MONEY)
    e = _economy(result)
    return Working(
        "Cost",
        e.cost_per_part,
        units.MONEY,
        "time of the part x rate + edges used x cost of an edge",
        (
            Input("t", "time of the part", e.time_per_part, units.MINUTES, "see Part"),
            Input("rate", "machine rate a minute", e.rate, units.MONEY, "batch, or the machine's own"),
            Input("edges", "edges a part", e.edges_per_part, units.PLAIN, "time in the cut / edge life"),
            Input("C edge", "cost of an edge", e.edge_cost, units.MONEY, _tool(result, where)),
            Input("vc cheap", "cheapest speed", e.vc_cheapest, units.SURFACE_SPEED, "Gilbert 1950"),
            Input("vc quick", "quickest speed", e.vc_quickest, units.SURFACE_SPEED, "Gilbert 1950"),
        ),
        "docs/physics.md section 13",
        "The shop's own calculation.",
    )


@_explains("phi_s")
def _phi(result: Result, where: Where) -> Working:
    return Working(
        "Engagement",
        math.degrees(result.state.phi_s),
        units.ANGLE,
        "φs = acos(1 - 2 ae/Deff)",
        (_ae(result), _d_eff(result, where)),
        "Altintas 2012, ch. 2",
        "The path, where it curves.",
    )


@_explains("phi_corner")
def _corner(result: Result, where: Where) -> Working:
    feature = result.setup.parts.cut.feature
    radius = feature.corner_radius_mm if feature else None
    centre = curve_radius(result.setup, result.state)
    angle = None if result.corner_angle is None else math.degrees(result.corner_angle)
    return Working(
        "In corner or loop",
        angle,
        units.ANGLE,
        "law of cosines with the tool centre on a radius: corner radius - R in a corner, (W - DC)/2 in a trochoid's loop",
        (
            _ae(result),
            _d_eff(result, where),
            Input("rc", "inner radius of the feature", radius, units.LENGTH, _TYPED),
            Input(
                "rm", "radius of the tool centre's path", centre, units.LENGTH, "rc - Deff/2, or (W - DC)/2 in a loop"
            ),
        ),
        "docs/physics.md section 3",
        "A path that keeps its engagement in corners.",
    )


@_explains("contacts")
def _contacts(result: Result, where: Where) -> Working:
    return Working(
        "Teeth in the cut",
        result.state.contacts,
        units.RATIO,
        "Nc = z (φs + 2 ap tan λ / DC) / 2π",
        (
            _flutes(result, where),
            _engagement(result),
            _ap(result),
            Input("λ", "helix", math.degrees(result.setup.helix), units.ANGLE, _tool(result, where)),
        ),
        "docs/physics.md section 3",
        "Nothing: it is geometry.",
    )


@_explains("ap_constant_force")
def _constant(result: Result, where: Where) -> Working:
    return Working(
        "Constant-force depth",
        result.constant_force_depth,
        units.LENGTH,
        "pax = π DC / (z tan λ)",
        (
            _flutes(result, where),
            Input("λ", "helix", math.degrees(result.setup.helix), units.ANGLE, _tool(result, where)),
            Input("DC", "cutting diameter", result.setup.shape.DC, units.DIMENSION, _tool(result, where)),
        ),
        "docs/physics.md section 3",
        "Unequal pitch or helix: it then holds only roughly.",
    )


# ---------------------------------------------------------------- limits

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
        _TOOLMAKER,
    ),
    "tool_torsion": ("shear stress of the peak torque / allowed stress / √3", "tools", _TOOLMAKER),
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
        _TOOLMAKER,
    ),
    "chip_thickness_min": ("least chip this edge radius and material need / hex", "cutting_data", _TOOLMAKER),
    "chip_space": (
        "ae fz times the swell of the chip / cross section of one gullet",
        "tools",
        "The toolmaker's gullet area.",
    ),
    "depth_available": ("ap / APMX", "tools", "A tool with longer flutes."),
}


def _holder(result: Result, where: Where) -> str:
    holder = result.setup.parts.holder
    return where("holders", holder.id) or "holder of this cut"


_ORIGINS = {"machines": _machine, "tools": _tool, "cutting_data": _data, "holders": _holder}


def _limit(result: Result, id: str, where: Where) -> Working:
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
