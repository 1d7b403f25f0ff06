"""The limits of a cut, one entry each: what is compared with what. Adding a limit is adding an entry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lesna.model import units
from lesna.physics import Num
from lesna.physics.structure import grip
from lesna.planning.cut.setup import CutSetup
from lesna.planning.cut.solve import State

#: share of a limit from which the state reads "at the limit"
NEAR = 0.97
#: rounding that is not an excess
_TOLERANCE = 1e-9


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
    is_floor: bool = False
    is_capped: bool = False

    def use(self, setup: CutSetup, state: State) -> Num | None:
        """Share of the limit that is used; None where the limit does not apply."""
        limit = self.limit(setup, state)
        if limit is None:
            return None
        value = self.value(setup, state)
        with np.errstate(divide="ignore", invalid="ignore"):
            return limit / value if self.is_floor else value / limit


def _rated(setup: CutSetup) -> float | None:
    known = [r for r in (setup.parts.tool.rated_rpm, setup.parts.holder.rpm_guide_max_40taper) if r is not None]
    return min(known) if known else None


#: edges with a real corner radius chip when the feed outgrows it
_CORNER_FEED_SHARE = 0.35
#: below this the radius is a protective chamfer, not a corner that limits the feed [mm]
_CORNER_THAT_COUNTS = 0.4


def _thickest(setup: CutSetup, state: State) -> Num | None:
    """Thickest chip [mm]: of the table, or where the feed reaches 0.35 RE, whichever is less."""
    most = setup.chip.most
    tool = setup.parts.tool
    if tool.kind in ("corner_radius", "face") and tool.RE >= _CORNER_THAT_COUNTS:
        by_corner = _CORNER_FEED_SHARE * tool.RE * state.hex / state.fz
        return by_corner if most is None else np.minimum(most, by_corner)
    return most


def _peak_rules(state: State) -> Num:
    """Whether the peak torque uses more of S6-40 % than the mean torque of S1."""
    return state.torque_peak / state.torque_s6 > state.torque / state.torque_s1


def _torque(setup: CutSetup, state: State) -> Num:
    return np.where(_peak_rules(state), state.torque_peak, state.torque)


def _torque_limit(setup: CutSetup, state: State) -> Num:
    return np.where(_peak_rules(state), state.torque_s6, state.torque_s1)


def _grip_demand(setup: CutSetup, state: State) -> Num:
    held = setup.structure
    return grip.grip_demand(state.torque_peak, state.pull_out, held.shank, is_locked=held.is_locked)


def _clamping_demand(setup: CutSetup, state: State) -> Num:
    held = setup.structure
    return grip.clamping_demand(state.fxy_peak, held.mass, held.acceleration)


_TOOLMAKER = "The toolmaker's own figure for this edge."
_CURVE = "The machine's own curve."
_BUILDER = "The machine builder's rating."

#: judged by a boundary that is computed apart from the state (see `stability`)
STABILITY = Rule(
    "stability", "Chatter margin", units.LENGTH, "mm", lambda s, c: c.ap, lambda s, c: None,
    Words("ap / depth of chatter that this depth is judged by", "holders",
          "A tap test at the tip (tap_modes), a recording of the cut, and the first parts.", "chatter"),
)  # fmt: skip

RULES: tuple[Rule, ...] = (
    Rule(
        "spindle_speed", "Spindle speed", units.SPINDLE_SPEED, "1/min",
        lambda s, c: c.n_asked, lambda s, c: s.drive.rpm_max,
        Words("speed asked for / highest speed of the machine", "machines", _BUILDER),
        is_capped=True,
    ),
    Rule(
        "spindle_power", "Spindle power", units.POWER, "kW", lambda s, c: c.power_motor, lambda s, c: c.power_s1,
        Words("motor power / S1 power at this speed", "machines", _CURVE),
    ),
    Rule(
        "spindle_torque", "Spindle torque", units.TORQUE, "Nm", _torque, _torque_limit,
        Words("the greater of mean torque / S1 torque and peak torque / S6-40 % torque at this speed", "machines", _CURVE),
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
        Words("hex / thickest chip of the starting data at this diameter, or at 0.35 RE", "cutting_data", _TOOLMAKER),
    ),
    Rule(
        "chip_thickness_min", "Thinnest chip", units.CHIP, "mm", lambda s, c: c.hex, lambda s, c: s.chip.least,
        Words("least chip this edge radius and material need / hex", "cutting_data", _TOOLMAKER),
        is_floor=True,
    ),
    Rule(
        "deflection", "Deflection", units.SMALL, "um",
        lambda s, c: c.deflection, lambda s, c: s.structure.deflection_limit,
        Words("tip deflection at the peak force / what this cut allows", "tools", "The limit typed in this cut."),
    ),
    Rule(
        "tool_stress", "Tool stress", units.STRESS, "MPa",
        lambda s, c: c.stress, lambda s, c: s.structure.allowed_stress,
        Words("equivalent stress at the flutes' end or holder face / allowed stress of the substrate", "tools", _TOOLMAKER),
    ),
    Rule(
        "tool_torsion", "Tool torsion", units.STRESS, "MPa",
        lambda s, c: c.shear, lambda s, c: s.structure.allowed_stress / np.sqrt(3),
        Words("shear stress of the peak torque / allowed stress / √3", "tools", _TOOLMAKER),
    ),
    Rule(
        "grip", "Holder grip", units.TORQUE, "Nm", _grip_demand, lambda s, c: s.structure.grip,
        Words("√(Tpeak² + (Fpull d/2)²) / grip torque; a form lock carries the pull-out", "holders",
              "The holder maker's torque for this shank."),
    ),
    Rule(
        "taper_bending", "Taper bending", units.TORQUE, "Nm",
        lambda s, c: c.fxy_peak * s.structure.lever / 1000.0, lambda s, c: s.structure.taper_moment,
        Words("peak side force × (stick-out + projection of the holder) / moment of the taper", "machines",
              "The machine builder's moment (taper_moment_nm)."),
    ),
    Rule(
        "part_clamping", "Part clamping", units.FORCE, "N", _clamping_demand,
        lambda s, c: s.structure.friction_force or None,
        Words("greater of peak side force and mass × acceleration of a rapid / friction of the clamping at 0.2", "machines",
              "Stops or a form lock of the part."),
    ),
    STABILITY,
    Rule(
        "chip_space", "Chip space", units.AREA, "mm2", lambda s, c: c.chip_space, lambda s, c: s.gullet,
        Words("ae fz times the swell of the chip / cross section of one gullet", "tools", "The toolmaker's gullet area.",
              "room for the chips"),
    ),
    Rule(
        "depth_available", "Flute length", units.LENGTH, "mm", lambda s, c: c.ap, lambda s, c: s.parts.tool.APMX,
        Words("ap / APMX", "tools", "A tool with longer flutes.", "the flute length"),
    ),
)  # fmt: skip

#: limits that belong to the edge itself, not to what carries it
OF_THE_EDGE = frozenset({"chip_thickness_max", "depth_available"})

BY_ID = {rule.id: rule for rule in RULES}


@dataclass(frozen=True)
class LimitUse:
    """How much of one limit a cut uses."""

    rule: Rule
    use: float
    value: float
    limit: float

    @property
    def is_exceeded(self) -> bool:
        """Whether the cut asks for more than the limit."""
        return self.use > 1.0 + _TOLERANCE

    @property
    def is_broken(self) -> bool:
        """Whether the cut cannot run like this: exceeded, and not simply capped by the machine."""
        return self.is_exceeded and not self.rule.is_capped


def limits_of(setup: CutSetup, state: State, chatter_depth: float | None = None) -> tuple[LimitUse, ...]:
    """Every limit that applies to one cut, the most used first.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    state : State
        What it does (scalars).
    chatter_depth : float or None
        Depth at which it begins to chatter [mm], None while that is not known.
    """
    found = []
    if chatter_depth is not None:
        found.append(LimitUse(STABILITY, state.ap / chatter_depth, state.ap, chatter_depth))
    for rule in RULES:
        use = rule.use(setup, state)
        if use is not None:
            limit = rule.limit(setup, state)
            found.append(LimitUse(rule, float(use), float(rule.value(setup, state)), float(limit)))  # type: ignore[arg-type]
    return tuple(sorted(found, key=lambda entry: -entry.use))


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
