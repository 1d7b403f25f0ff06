"""The limits of a cut, one entry each: what is compared with what. Adding a limit is adding an entry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model import units
from lesna.physics import Num
from lesna.physics.structure import grip
from lesna.planning.cut.features import cusp_kept
from lesna.planning.cut.levels import depth_of
from lesna.planning.cut.motion import chip_room_of
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State
from lesna.planning.cut.walls import is_finishing

#: share of a limit from which the state reads "at the limit"
NEAR = 0.97
#: rounding that is not an excess
_TOLERANCE = 1e-9


Confidence = Literal["A", "B", "C"]
#: how far a limit may be off, either way, by how well it is known; an estimate of chatter has a band of its own
SPREAD: dict[Confidence, float] = {"A": 0.0, "B": 0.15, "C": 0.30}


def confidence_of(setup: CutSetup) -> Confidence:
    """How well the force of a material is known."""
    letter = setup.parts.material.confidence[:1].upper()
    return next((known for known in SPREAD if known == letter), "C")


def _by_tables(setup: CutSetup) -> Confidence:
    """A limit of the cutting data."""
    data = setup.parts.data
    return "C" if data is None or data.confidence[:1].upper() == "C" else "B"


def _by_force(setup: CutSetup) -> Confidence:
    """A limit that the machine or a maker states, reached by a computed force."""
    return "C" if confidence_of(setup) == "C" else "B"


def _by_taper(setup: CutSetup) -> Confidence:
    return "B" if setup.parts.machine.taper_moment_nm is not None else "C"


def _by_chatter(setup: CutSetup) -> Confidence:
    return "B" if setup.parts.cut.is_judged_by_modes and not setup.parts.cut.is_simulated else "C"


@dataclass(frozen=True)
class Words:
    """How a limit is explained.

    Parameters
    ----------
    use : str
        What its use is a share of, as a formula in words.
    table : str
        Library table that its limit comes from.
    override : str
        What would come before it, as a sentence.
    spoken : str
        What ends a cut, in the middle of a sentence; the limit's name where left out.
    """

    use: str
    table: str
    override: str
    spoken: str = ""


@dataclass(frozen=True)
class Rule:
    """One limit: value against limit, vectorised over a map.

    Parameters
    ----------
    id : str
        Name in the contract.
    name : str
        Name on the screen.
    quantity : Quantity
        How value and limit are shown.
    unit : str
        Unit in the JSON.
    value, limit : callable
        Of (setup, state); the limit may be None where nothing is known.
    words : Words
        How it is spoken of and explained.
    known : callable
        How well it is known for a set-up: A measured or given by a maker, B tables, C an estimate.
    is_floor : bool
        True when the value must stay above the limit.
    is_capped : bool
        True when the machine simply does no more: the cut runs, with less than what was asked.
    """

    id: str
    name: str
    quantity: units.Quantity
    unit: str
    value: Callable[[CutSetup, State], Num]
    limit: Callable[[CutSetup, State], Num | None]
    words: Words
    known: Callable[[CutSetup], Confidence] = lambda setup: "A"
    is_floor: bool = False
    is_capped: bool = False

    def use(self, setup: CutSetup, state: State) -> Num | None:
        """Share of the limit that is used; None where the limit does not apply."""
        limit = self.limit(setup, state)
        with np.errstate(divide="ignore", invalid="ignore"):
            return None if limit is None else self.share(self.value(setup, state), limit)

    def share(self, value: Num, limit: Num) -> Num:
        """Share of a limit that a value uses [-]."""
        return limit / value if self.is_floor else value / limit


def _rated(setup: CutSetup) -> float | None:
    known = [r for r in (setup.parts.tool.rated_rpm, setup.parts.holder.rpm_guide_max_40taper) if r is not None]
    return min(known) if known else None


#: edges with a real corner radius chip when the feed outgrows it
_CORNER_FEED_SHARE = 0.35
#: below this the radius is a protective chamfer, not a corner that limits the feed [mm]
_CORNER_THAT_COUNTS = 0.4


#: the top of a table's range is a caution; an edge breaks out some way above it
OVER_TABLE = 1.5


def _thickest(setup: CutSetup, state: State) -> Num | None:
    """Thickest chip [mm]: of the table, or where the feed reaches 0.35 RE, whichever is less."""
    most = None if setup.chip.most is None else OVER_TABLE * setup.chip.most
    tool = setup.parts.tool
    if tool.kind in ("corner_radius", "face") and tool.RE >= _CORNER_THAT_COUNTS:
        by_corner = _CORNER_FEED_SHARE * tool.RE * state.hex / state.fz
        return by_corner if most is None else np.minimum(most, by_corner)
    return most


def spindle_demand(setup: CutSetup, state: State) -> Num:
    """Power that is compared with the machine's curve: at the cutter where the curve tells what arrives there, else the motor's [kW]."""
    return state.power_cut if setup.drive.is_at_nose else state.power_motor


def _deflection(setup: CutSetup, state: State) -> Num:
    return np.abs(state.wall_error) if is_finishing(setup) else state.deflection


#: a seat begins to open at the tabled moment; stiffness has gone at this many times it
SEAT_GONE = 2.0


def _peak_rules(state: State) -> Num:
    """Whether the peak torque uses more of S6-40 % than the mean torque of S1."""
    return (
        state.torque_peak * state.torque_s1 > state.torque * state.torque_s6
    )  # both limits are 0 where the curve ends


def _torque(setup: CutSetup, state: State) -> Num:
    return np.where(_peak_rules(state), state.torque_peak, state.torque)


def _torque_limit(setup: CutSetup, state: State) -> Num:
    return np.where(_peak_rules(state), state.torque_s6, state.torque_s1)


def taper_load(setup: CutSetup, state: State) -> Num:
    """Bending moment at the seat of the taper [Nm]."""
    return state.fxy_peak * setup.structure.lever / 1000.0


def _grip_demand(setup: CutSetup, state: State) -> Num:
    held = setup.structure
    return grip.grip_demand(state.torque_peak, state.pull_out, held.shank, is_locked=held.is_locked)


def _thrust(setup: CutSetup, state: State) -> Num:
    """Whichever way the path goes, one axis may have to hold all of the mean side force [N]."""
    return np.hypot(state.fx_mean, state.fy_mean)


def _clamping_demand(setup: CutSetup, state: State) -> Num:
    held = setup.structure
    return grip.clamping_demand(state.fxy_peak, held.mass, held.acceleration)


def cusp_of(radius: float, spacing: Num) -> Num:
    """Height of the cusp that lines of a ball or corner leave between them [mm]; all of the radius where they do not meet.

    Examples
    --------
    >>> round(float(cusp_of(5.0, 1.0)), 4)
    0.0251
    """
    half = np.minimum(np.asarray(spacing) / 2, radius)
    return half * half / (radius + np.sqrt(radius * radius - half * half))


def _cusp(setup: CutSetup, state: State) -> Num:
    return 1000.0 * cusp_of(setup.parts.tool.corner, state.ae)


def _cusp_limit(setup: CutSetup, state: State) -> Num | None:
    """What a surface may keep [um]; a tool without a round corner leaves steps, which is told apart."""
    cut = setup.parts.cut
    if cut.role != "finish" or cut.feature is None or cut.feature.kind != "surface" or setup.parts.tool.corner <= 0:
        return None
    return 1000.0 * cusp_kept(cut.feature)


_TOOLMAKER = "The toolmaker's own figure for this edge."
_CURVE = "The machine's own curve."
_BUILDER = "The machine builder's rating."

#: judged by a boundary that is computed apart from the state (see `stability`)
STABILITY = Rule(
    "stability", "Chatter margin", units.LENGTH, "mm", lambda s, c: c.ap, lambda s, c: None,
    Words("ap / depth of chatter that this depth is judged by", "holders",
          "A tap test at the tip (tap_modes), a recording of the cut, and the first parts.", "chatter"),
    _by_chatter,
)  # fmt: skip

RULES: tuple[Rule, ...] = (
    Rule(
        "spindle_speed", "Spindle speed", units.SPINDLE_SPEED, "1/min",
        lambda s, c: c.n_asked, lambda s, c: s.drive.rpm_max,
        Words("speed asked for / highest speed of the machine", "machines", _BUILDER),
        is_capped=True,
    ),
    Rule(
        "spindle_power", "Spindle power", units.POWER, "kW", spindle_demand, lambda s, c: c.power_s1,
        Words("power at the cutter or the motor, whichever the curve states / S1 power at this speed", "machines", _CURVE),
        _by_force,
    ),
    Rule(
        "spindle_torque", "Spindle torque", units.TORQUE, "Nm", _torque, _torque_limit,
        Words("the greater of mean torque / S1 torque and peak torque / S6-40 % torque at this speed", "machines", _CURVE),
        _by_force,
    ),
    Rule(
        "machine_feed", "Machine feed", units.FEED, "mm/min",
        lambda s, c: c.vf_asked, lambda s, c: s.drive.feed_max if np.isfinite(s.drive.feed_max) else None,
        Words("feed asked for / highest cutting feed", "machines", _BUILDER),
        is_capped=True,
    ),
    Rule(
        "tool_rated_speed", "Rated speed", units.SPINDLE_SPEED, "1/min", lambda s, c: c.n, lambda s, c: _rated(s),
        Words("speed / lower of the ratings of tool and holder", "tools", "The maker's rating of tool and holder."),
    ),
    Rule(
        "chip_thickness_max", "Thickest chip", units.CHIP, "mm", lambda s, c: c.hex, _thickest,
        Words("hex / 1.5 times the thickest chip of the starting data at this diameter, or that at 0.35 RE", "cutting_data",
              _TOOLMAKER),
        _by_tables,
    ),
    Rule(
        "chip_thickness_min", "Thinnest chip", units.CHIP, "mm", lambda s, c: c.hex, lambda s, c: s.chip.least,
        Words("least chip this edge radius and material need / hex", "cutting_data", _TOOLMAKER),
        _by_tables,
        is_floor=True,
    ),
    Rule(
        "deflection", "Deflection", units.SMALL, "um",
        _deflection, lambda s, c: s.structure.deflection_limit,
        Words("tip deflection of roughing, error of the wall in finishing / what this cut allows", "tools",
              "The limit typed in this cut."),
        _by_force,
    ),
    Rule(
        "tool_stress", "Tool stress", units.STRESS, "MPa",
        lambda s, c: c.stress, lambda s, c: s.structure.allowed_stress,
        Words("equivalent stress at the flutes' end or holder face / allowed stress of the substrate", "tools", _TOOLMAKER),
        _by_force,
    ),
    Rule(
        "tool_torsion", "Tool torsion", units.STRESS, "MPa",
        lambda s, c: c.shear, lambda s, c: s.structure.allowed_stress / np.sqrt(3),
        Words("shear stress of the peak torque / allowed stress / √3", "tools", _TOOLMAKER),
        _by_force,
    ),
    Rule(
        "grip", "Holder grip", units.TORQUE, "Nm", _grip_demand, lambda s, c: s.structure.grip,
        Words("√(Tpeak² + (Fpull d/2)²) / grip torque; a form lock carries the pull-out", "holders",
              "The holder maker's torque for this shank."),
        _by_force,
    ),
    Rule(
        "taper_bending", "Taper bending", units.TORQUE, "Nm",
        taper_load, lambda s, c: None if s.structure.taper_moment is None else SEAT_GONE * s.structure.taper_moment,
        Words("peak side force × (stick-out + projection of the holder) / 2 times the moment at which the seat opens",
              "machines", "The machine builder's moment (taper_moment_nm)."),
        _by_taper,
    ),
    Rule(
        "part_clamping", "Part clamping", units.FORCE, "N", _clamping_demand,
        lambda s, c: s.structure.friction_force or None,
        Words("greater of peak side force and mass × acceleration of a rapid / friction of the clamping at 0.2", "machines",
              "Stops or a form lock of the part."),
        _by_force,
    ),
    Rule(
        "axis_thrust", "Axis thrust", units.FORCE, "N", _thrust, lambda s, c: s.structure.thrust,
        Words("mean side force / thrust that an axis holds all day", "machines", _BUILDER),
        _by_force,
    ),
    STABILITY,
    Rule(
        "chip_space", "Chip space", units.VOLUME, "mm3", lambda s, c: c.chip_space, lambda s, c: chip_room_of(s, c.ap),
        Words("ae fz ap times the swell of the chip / gullet over the depth, at least over half a diameter", "tools",
              "The toolmaker's gullet area.", "room for the chips"),
        lambda s: "A" if s.parts.tool.gullet_area_per_flute_mm2_hint is not None else "C",
    ),
    Rule(
        "depth_available", "Flute length", units.LENGTH, "mm", lambda s, c: c.ap, lambda s, c: s.parts.tool.edge_depth,
        Words("ap / APMX, or the height of a chamfer's edge", "tools", "A tool with longer flutes.", "the flute length"),
    ),
    Rule(
        "feature_depth", "Feature depth", units.LENGTH, "mm", lambda s, c: c.ap, lambda s, c: depth_of(s.parts.cut.feature),
        Words("ap / depth of the feature over the floor that is left", "", "A deeper feature.", "the depth of the feature"),
    ),
    Rule(
        "cusp", "Cusp", units.SMALL, "um", _cusp, _cusp_limit,
        Words("height between lines ae apart / height that the surface may keep", "", "The cusp of the feature (cusp_um)."),
    ),
)  # fmt: skip

#: limits whose use is a computed force, power or torque
BY_FORCE = frozenset({
    "spindle_power", "spindle_torque", "deflection", "tool_stress", "tool_torsion", "grip", "taper_bending", "part_clamping",
    "axis_thrust",
})  # fmt: skip
#: where a cut ends because tool or feature end there: using all of it strains nothing
ENDS = frozenset({"depth_available", "feature_depth"})
#: limits that belong to the edge and to what is made, not to what carries the edge
OF_THE_EDGE = ENDS | {"chip_thickness_max", "cusp"}

BY_ID = {rule.id: rule for rule in RULES}


@dataclass(frozen=True)
class LimitUse:
    """How much of one limit a cut uses."""

    rule: Rule
    use: float
    value: float
    limit: float
    confidence: Confidence = "A"
    #: least and greatest use that the limit's own uncertainty leaves
    low: float = 0.0
    high: float = 0.0

    @property
    def is_exceeded(self) -> bool:
        """Whether the cut asks for more than the limit."""
        return self.use > 1.0 + _TOLERANCE

    @property
    def is_broken(self) -> bool:
        """Whether the cut cannot run like this: exceeded, and not simply capped by the machine."""
        return self.is_exceeded and not self.rule.is_capped


def limits_of(setup: CutSetup, state: State, chatter: tuple[float, float, float] | None = None) -> tuple[LimitUse, ...]:
    """Every limit that applies to one cut, the most used first.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does (scalars).
    chatter : tuple of float or None
        Depth at which it begins to chatter and the band it lies in [mm], None while that is not known.
    """
    found = []
    if chatter is not None:
        depth, low, high = chatter
        found.append(
            LimitUse(
                STABILITY, state.ap / depth, state.ap, depth, STABILITY.known(setup), state.ap / high, state.ap / low
            )
        )
    with np.errstate(divide="ignore", invalid="ignore"):
        for rule in RULES:
            limit = rule.limit(setup, state)
            if limit is not None:
                value, known = rule.value(setup, state), rule.known(setup)
                share, off = float(rule.share(np.float64(value), np.float64(limit))), 1.0 + SPREAD[known]
                found.append(LimitUse(rule, share, float(value), float(limit), known, share / off, share * off))
    # where a cut ends without strain comes last
    return tuple(sorted(found, key=lambda entry: (entry.rule.id in ENDS and not entry.is_exceeded, -entry.use)))


def uses_over(setup: CutSetup, state: State, chatter_depth: Num | None = None) -> dict[str, Num]:
    """Use of every limit that applies, over the points of a map, by limit id.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        Arrays (rows, columns).
    chatter_depth : array (rows, columns) or None
        Depth of chatter that each point is judged by [mm].
    """
    shape = np.shape(state.ae)
    found = ((rule.id, rule.use(setup, state)) for rule in RULES)
    uses = {key: np.broadcast_to(use, shape) for key, use in found if use is not None}
    if chatter_depth is not None:
        uses[STABILITY.id] = state.ap / chatter_depth
    return uses


def admissible(uses: dict[str, Num]) -> Num:
    """Where no limit is broken; caps of the machine do not break a cut."""
    masks = [use <= 1.0 + _TOLERANCE for key, use in uses.items() if not BY_ID[key].is_capped]
    return np.logical_and.reduce(masks)
