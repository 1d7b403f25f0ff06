"""Every number of a Result, described once: name, quantity, value, key in JSON. Strip, table, sheet, command line, JSON and
Working all read it here, and how it came about stands in its row.

Adding a number is adding one `Figure`; a place that shows it names its id.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lesna.model import units
from lesna.planning.cut.limits import BY_FORCE, LimitUse, spindle_demand
from lesna.planning.cut.result import Result
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.working import loads, money, motion
from lesna.planning.telling.working.inputs import Explain

Value = Callable[[Result], float | None]
#: lives from here on are rounded to hours [min]
_HOURS_FROM = 120.0


#: what is counted in parts: 1 part, and none is less than one
_PARTS = "parts"


@dataclass(frozen=True)
class Figure:
    """One number.

    Parameters
    ----------
    id : str
        What it is asked for by.
    label : str
        Name on screens and sheets.
    quantity : Quantity
        How it is shown.
    value : callable
        Takes it from a Result; None where it is not known.
    key : str
        Name in JSON with its unit; empty where it stands only on screens.
    is_clock : bool
        Whether minutes are shown as min:s.
    unit_word : str
        Shown in place of the quantity's unit.
    is_life : bool
        Whether it is the life of an edge, which is rounded where it is long.
    symbol : str
        How formulas spell it; its label where left out.
    how : callable
        How it came about (`working`); None where it is only shown beside another.
    is_force : bool
        Whether it is as well known as the force it follows from.
    times : callable or None
        How many times it is made, told in front of it.
    is_timed : bool
        Whether it follows from the time of the part, whose source is told beside it.
    """

    id: str
    label: str
    quantity: units.Quantity
    value: Value
    key: str = ""
    is_clock: bool = False
    unit_word: str = ""
    is_life: bool = False
    symbol: str = ""
    how: Explain | None = None
    is_force: bool = False
    times: Callable[[Result], int | None] | None = None
    is_timed: bool = False

    def source(self, result: Result) -> str:
        """What says how large it is: the source of the time, or the shop's own trials; empty where only the tables do."""
        lesson = result.setup.parts.lesson
        if self.is_timed and result.timing is not None:
            return result.timing.basis
        if lesson is None:
            return ""
        return lesson.of_life if self.is_life else lesson.of_force if self.is_force else ""

    def shown(self, result: Result, system: units.System) -> tuple[str, str]:
        """The number, and what stands behind it; a life far beyond what was timed is told in whole hours."""
        value = self.value(result)
        if self.is_life and value is not None and result.economy is not None and result.economy.is_over:
            return (
                (f"over {value / 60:.0f}", "h")
                if value >= _HOURS_FROM
                else (f"over {10 * round(value / 10):.0f}", "min")
            )
        text = units.clock(value) if self.is_clock else self.quantity.text(value, system)
        count = None if self.times is None else self.times(result)
        text = text if count is None else f"{count} × {text}"
        if self.unit_word == _PARTS and value is not None:
            return ("under 1", "part") if value < 1 else (text, "part" if value == 1 else _PARTS)
        return text, self.unit_word or self.quantity.unit(system)

    def text(self, result: Result, system: units.System) -> str:
        """The number alone."""
        return self.shown(result, system)[0]

    def full(self, result: Result, system: units.System, *, taught: bool = True) -> str:
        """Number and unit, and where it is told what says so; `taught` for trials too, which one line may tell for all."""
        source = self.source(result) if taught or self.is_timed else ""
        return " ".join(self.shown(result, system)).rstrip() + (f" ({source})" if source else "")

    def json(self, result: Result) -> Any:
        """The number as JSON can hold it: None where it is unknown or without end."""
        value = self.value(result)
        return value if value is None or isinstance(value, (bool, int)) or math.isfinite(value) else None


def _state(name: str) -> Value:
    return lambda result: float(getattr(result.state, name))


def _economy(name: str) -> Value:
    return lambda result: None if result.economy is None else getattr(result.economy, name)


def _degrees(angle: float | None) -> float | None:
    return None if angle is None else math.degrees(angle)


def _chatter(name: str) -> Value:
    return lambda result: None if result.chatter is None else getattr(result.chatter, name)


_ROWS = (
    Figure("n", "Spindle", units.SPINDLE_SPEED, _state("n"), "n_rpm", symbol="n", how=motion.spindle),
    Figure("vc", "Surface speed", units.SURFACE_SPEED, _state("vc"), "vc_m_min", symbol="vc", how=motion.surface),
    Figure("d_eff", "Cutting diameter", units.DIMENSION, _state("d_eff"), "d_eff_mm",
           symbol="Deff", how=motion.effective_diameter),
    Figure("fz", "Per tooth", units.CHIP, _state("fz"), "fz_mm", symbol="fz", how=motion.per_tooth),
    Figure("hex", "Thickest chip", units.CHIP, _state("hex"), "hex_mm", symbol="hex", how=motion.thickest_chip),
    Figure("hm", "Mean chip", units.CHIP, _state("hm"), "hm_mm", symbol="hm", how=motion.mean_chip),
    Figure("phi_s", "Engagement", units.ANGLE, lambda r: _degrees(r.state.phi_s), "phi_s_deg",
           symbol="φs", how=motion.engagement),
    Figure("vf", "Feed", units.FEED, _state("vf"), "vf_mm_min", symbol="vf", how=motion.feed),
    Figure("q", "Removal", units.REMOVAL, _state("q"), "q_cm3_min", symbol="Q", how=motion.removal),
    Figure("contacts", "Teeth in the cut", units.PLAIN, _state("contacts"), "contacts", symbol="Nc", how=motion.teeth_in_cut),
    Figure("ae", "Stepover ae", units.LENGTH, _state("ae"), "ae_mm", symbol="ae", how=motion.typed),
    Figure("ap", "Depth ap", units.LENGTH, _state("ap"), "ap_mm", symbol="ap", how=motion.typed),
    Figure("level", "Levels", units.LENGTH, lambda r: r.level_height, times=lambda r: r.levels, symbol="h", how=motion.levels),
    Figure("advance", "Advance a loop", units.LENGTH, lambda r: r.advance, "advance_mm", how=motion.loop_advance),
    Figure("ap_constant_force", "Constant-force ap", units.LENGTH, lambda r: r.constant_force_depth, "ap_constant_force_mm",
           symbol="pax", how=motion.constant_force_depth),
    Figure("fxy_peak", "Peak side force", units.FORCE, _state("fxy_peak"), "fxy_peak_n",
           symbol="F", how=loads.over_a_turn("greatest √(Fx² + Fy²)"), is_force=True),
    Figure("fxy", "Mean side force", units.FORCE, lambda r: r.fxy_mean, "fxy_mean_n",
           symbol="Fm", how=loads.over_a_turn("mean of √(Fx² + Fy²)"), is_force=True),
    Figure("fx_mean", "Mean Fx", units.FORCE, _state("fx_mean"), "fx_mean_n"),
    Figure("fy_mean", "Mean Fy", units.FORCE, _state("fy_mean"), "fy_mean_n"),
    Figure("fz_mean", "Mean Fz", units.FORCE, _state("fz_mean"), "fz_mean_n"),
    Figure("fz_max", "Greatest Fz", units.FORCE, _state("fz_max"), "fz_max_n"),
    Figure("fz_min", "Least Fz", units.FORCE, _state("fz_min"), "fz_min_n"),
    Figure("pull_out", "Pull-out", units.FORCE, _state("pull_out"), "pull_out_n",
           symbol="Fpull", how=loads.over_a_turn("greatest -Fz", "A form lock, or less helix."), is_force=True),
    Figure("ripple", "Ripple", units.RATIO, lambda r: r.ripple, "ripple", how=loads.ripple),
    Figure("torque", "Torque", units.TORQUE, _state("torque"), "torque_mean_nm",
           symbol="T", how=loads.over_a_turn("mean of Σ dFt r"), is_force=True),
    Figure("torque_peak", "Peak torque", units.TORQUE, _state("torque_peak"), "torque_peak_nm",
           symbol="Tpeak", how=loads.over_a_turn("greatest Σ dFt r"), is_force=True),
    Figure("power_cut", "Power at the edge", units.POWER, _state("power_cut"), "power_cut_kw",
           symbol="Pc", how=loads.edge_power, is_force=True),
    Figure("power_motor", "Motor", units.POWER, _state("power_motor"), "power_motor_kw",
           symbol="P", how=loads.motor, is_force=True),
    Figure("power_s1", "Spindle load S1", units.SHARE, lambda r: float(spindle_demand(r.setup, r.state) / r.state.power_s1),
           "power_s1_use"),
    Figure("power_s6", "Spindle load S6", units.SHARE, lambda r: float(spindle_demand(r.setup, r.state) / r.state.power_s6),
           "power_s6_use"),
    Figure("torque_s1", "Torque of S1", units.SHARE, lambda r: r.state.torque / r.state.torque_s1, "torque_s1_use"),
    Figure("torque_s6", "Torque of S6", units.SHARE, lambda r: r.state.torque / r.state.torque_s6, "torque_s6_use"),
    Figure("kc", "Specific force", units.STRESS, _state("kc"), "kc_n_mm2",
           symbol="kc", how=loads.specific_force, is_force=True),
    Figure("chip_temperature", "Chips leave at about", units.TEMPERATURE, lambda r: r.chip_temperature, "chip_temperature_c",
           symbol="T", how=loads.chip_temperature),
    Figure("chip_mass", "Chips of a part", units.MASS, lambda r: r.chip_mass, "chip_mass_kg", symbol="m", how=loads.chip_mass),
    Figure("deflection_tip", "Tip deflection", units.SMALL, _state("deflection"), "deflection_tip_um",
           symbol="δ", how=loads.bending, is_force=True),
    Figure("deflection_load", "Where the force acts", units.SMALL, lambda r: r.load_deflection, "deflection_load_um"),
    Figure("wall_error", "Wall error", units.SMALL, _state("wall_error"), "wall_error_um",
           how=loads.wall_error, is_force=True),
    Figure("stress", "Tool stress", units.STRESS, _state("stress"), "stress_mpa"),
    Figure("torsion", "Tool torsion", units.STRESS, _state("shear"), "torsion_mpa"),
    Figure("overload", "Worst tooth", units.SHARE, lambda r: r.overload, how=loads.overload),
    Figure("overload_pct", "Worst tooth", units.PLAIN, lambda r: 100.0 * r.overload, "runout_overload_pct"),
    Figure("teeth_working", "Teeth that cut", units.COUNT, lambda r: r.teeth_working, "teeth_working"),
    Figure("chatter_ap", "Chatter from ap", units.LENGTH, _chatter("depth"), "chatter_ap_mm"),
    Figure("chatter_frequency", "Chatter near", units.PLAIN, _chatter("frequency"), "chatter_frequency_hz"),
    Figure("phi_corner", "In the corner", units.ANGLE, lambda r: _degrees(r.corner_angle), "phi_corner_deg",
           symbol="φs", how=motion.engagement_in_curves),
    Figure("n_asked", "Spindle asked for", units.SPINDLE_SPEED, _state("n_asked"), "n_asked_rpm"),
    Figure("vf_asked", "Feed asked for", units.FEED, _state("vf_asked"), "vf_asked_mm_min"),
    Figure("hex_asked", "Chip asked for", units.CHIP, _state("hex_asked"), "hex_asked_mm"),
    Figure("time", "In the cut", units.MINUTES, lambda r: r.cut_time, "time_in_cut_min", is_clock=True, unit_word="min:s",
           symbol="t", how=money.time_in_cut),
    Figure("life", "Edge life", units.LONG_MINUTES, _economy("life"), "life_min", is_life=True, symbol="T", how=money.life),
    Figure("safe_life", "Edges outlive", units.LONG_MINUTES, _economy("safe_life"), "life_p95_min", is_life=True,
           symbol="Ts", how=money.safe_life),
    Figure("alone", "Safe alone", units.LONG_MINUTES, _economy("alone"), "alone_min", is_life=True,
           symbol="Ta", how=money.alone),
    Figure("part_time", "Part", units.MINUTES, lambda r: r.part_time, "time_per_part_min", is_clock=True, unit_word="min:s",
           symbol="tp", how=money.part_time, is_timed=True),
    Figure("cost", "Cost", units.MONEY, _economy("cost_per_part"), "cost_per_part", unit_word="a part",
           symbol="C", how=money.cost, is_timed=True),
    Figure("edges", "Edges a part", units.PLAIN, _economy("edges_per_part"), "edges_per_part",
           symbol="E", how=money.edges_a_part, is_timed=True),
    Figure("change_after", "New edge after", units.COUNT, _economy("change_after"), "change_after_parts", unit_word=_PARTS,
           symbol="N", how=money.change_after),
    Figure("volume_per_edge", "Material an edge, cm³", units.PLAIN, _economy("volume_per_edge"), "cm3_per_edge"),
    Figure("volume_per_money", "Material for its money, cm³", units.PLAIN, _economy("volume_per_money"),
           "cm3_per_money"),
    Figure("is_valid", "Life formula holds", units.COUNT, _economy("is_valid"), "life_in_valid_range"),
    Figure("m", "Engagement speed", units.RATIO, _economy("m"), "speed_multiplier", symbol="m", how=money.engagement_speed),
    Figure("vc_cheapest", "Cheapest speed", units.SURFACE_SPEED, _economy("vc_cheapest"), "vc_cheapest_m_min",
           symbol="vc cheap", how=money.best_speed),
    Figure("vc_quickest", "Quickest speed", units.SURFACE_SPEED, _economy("vc_quickest"), "vc_quickest_m_min",
           symbol="vc quick", how=money.best_speed),
)  # fmt: skip

FIGURES: dict[str, Figure] = {figure.id: figure for figure in _ROWS}

#: the readout strip; the table of derived numbers; the sheet's rows at the control; the command line's pairs
STRIP = ("n", "vf", "fz", "level", "q", "power_motor", "life", "alone", "part_time", "cost")
TABLE = (
    "phi_s", "phi_corner", "advance", "hex", "hm", "ap_constant_force", "fxy_peak", "pull_out", "torque", "deflection_tip",
    "wall_error",
)  # fmt: skip
SHEET = (
    "n", "vf", "ae", "ap", "advance", "vc", "fz", "hex", "q", "fxy_peak", "power_motor", "power_s1", "torque", "life", "change_after",
)  # fmt: skip
COMMAND = (
    ("n", "vc"), ("vf", "fz"), ("level", "ae"), ("hex", "hm"), ("q", "power_motor"), ("torque", "torque_peak"), ("fxy_peak", "pull_out"),
    ("deflection_tip", "ripple"), ("life", "alone"), ("part_time", "cost"),
)  # fmt: skip


def applies(id: str, result: Result) -> bool:
    """Whether a place that shows only what there is shows this number of a Result."""
    return FIGURES[id].value(result) is not None


def _width(result: Result, entry: LimitUse) -> float:
    """How far a use may be off: by the force it comes from, else by the limit itself."""
    return result.force_band if entry.rule.id in BY_FORCE else entry.high / entry.use - 1.0 if entry.use > 0 else 0.0


def _learned(result: Result) -> dict[str, Any] | None:
    """What trials taught of the cut; None where the tables alone are known."""
    lesson = result.setup.parts.lesson
    if lesson is None:
        return None
    return {"edges": lesson.edges, "neighbour_edges": lesson.others, "force_scale": lesson.force, "force_edges": lesson.force_edges,
            "chatter_depth_scale": lesson.depth, "looks": lesson.depth_looks}  # fmt: skip


def result_data(result: Result, system: units.System = "metric") -> dict[str, Any]:
    """A Result as the object of the contract."""
    limited = result.limited_by
    return {
        "id": result.setup.parts.cut.id,
        "name": result.name,
        **{figure.key: figure.json(result) for figure in _ROWS if figure.key},
        "levels": result.levels, "time_basis": None if result.timing is None else result.timing.basis,
        "limits": [
            {
                "id": entry.rule.id, "use": entry.use, "value": entry.value, "limit": entry.limit,
                "unit": entry.rule.unit, "capped": entry.rule.is_capped and entry.is_exceeded,
                "confidence": entry.confidence, "band_pct": 100.0 * _width(result, entry),
                **({"basis": result.chatter.basis} if entry.rule.id == "stability" and result.chatter else {}),
            }
            for entry in result.limits
        ],
        "limited_by": limited.rule.id if limited else None,
        "learned": _learned(result),
        "standing": result.standing,
        "band_pct": 100.0 * result.force_band,
        "basis": result.chatter.basis if result.chatter else None,
        "cautions": [
            {"id": c.id, "severity": c.severity, "text": units.said(c.text, system)} for c in cautions_of(result)
        ],
    }  # fmt: skip
