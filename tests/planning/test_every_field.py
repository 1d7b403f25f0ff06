"""Every field computes: whatever can be typed changes a figure, a limit, a caution, a check, a proposal, a time or the sheet."""

from __future__ import annotations

import dataclasses
import json
import unittest
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Any

import numpy as np

from lesna.model.base import Record
from lesna.model.curves import Curve
from lesna.model.errors import InputError
from lesna.model.facts import Fact, facts_of
from lesna.model.job import Batch, Cut, Feature, Job, Workpiece
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Taper, Tool
from lesna.model.resolve import CutParts, parts_of
from lesna.nc.read import read_program
from lesna.planning.cut.setup import setup_of
from lesna.planning.cut.starting import starting_values
from lesna.planning.evaluate import result_of
from lesna.planning.program.run import geometry_of, run_of
from lesna.planning.program.stock import stock_of_feature
from lesna.planning.program.work import Look, Work
from lesna.planning.schools.compare import case_of, compare
from lesna.planning.schools.strategies import schools_for
from lesna.planning.telling.figures import result_data
from lesna.planning.telling.readiness import readiness_of
from lesna.report.sheet import sheet_html
from tests.support import LIBRARY, raw

#: words for people: what a row is called and where it comes from
WORDS = {"id", "name", "notes", "confidence", "source_note", "group_name", "iso_group"}
#: found by search, which has tests of its own
FOUND = {
    "clamping_principle",
    "en",
    "aisi_uns",
    "condition",
    "iso_subgroup",
    "intended_iso_groups",
    "kind",
    "taper",
    "recommended",
}
#: keys of rows, files and places in the library
KEYS = {"data_group", "substrate", "curve_file"}
#: fields of a cut and its feature that are written elsewhere: records, drawings, programs, searches
OTHERS = {"tool", "holder", "book", "feature", "program", "locks", "dxf", "part_layer", "stock_layer", "island_layer",
          "keep_out_layer", "open_sides", "material", "role", "setup_min", "programming_min", "programming_rate_per_h", "price_per_cm3",
          "stl", "stl_unit",
          "turn_deg", "box_mm", "zero", "stock_mm", "data_url", "magazine_pockets", "chip_room_l", "coolant_lasts_h",
          "rotary", "reach_mm", "untipped_feed"}  # fmt: skip

POCKET = {"kind": "pocket", "length_mm": 45.0, "width_mm": 32.0, "depth_mm": 20.0, "corner_radius_mm": 8.0}
SURFACE = {
    "kind": "surface",
    "length_mm": 100.0,
    "width_mm": 60.0,
    "depth_mm": 20.0,
    "slope_deg": 20.0,
    "cusp_um": 10.0,
}
PROGRAM = (b"G21 G90 G94\nT1 M6\nS3000 M3\nG0 X-40 Y-20 Z5\nG1 Z-2 F4000\nX40 F6000\nY-18\nG3 X30 Y-8 I-10 F3000\nG1 X-40\nG0 Z5\n"
           b"X0 Y0\nM30\n")  # fmt: skip
MODES = [{"axis": axis, "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03} for axis in "xy"]
BARE = {"power_s1_kw": 15.0, "power_s6_40_kw": 18.0, "rpm_max": 12000.0, "taper": "BT40", "drawbar_force_kn": 10.0}

#: set-ups in which one field or another comes into play
SET_UPS: tuple[dict[str, Any], ...] = (
    {"feature": POCKET},
    {"feature": POCKET, "tool": {"DMM": 12.0, "OAL": 83.0, "runout_um": 10.0, "price": 30.0, "DN": 11.0}, "stick_out_mm": 60.0,
     "job": {"workpiece": {"material": "42crmo4-qt30", "hardness_hrc": 32.0, "mass_kg": 50.0, "clamp_force_n": 5000.0},
             "machine": BARE, "batch": {"parts": 10, "machine_rate_per_h": 80.0}}},
    {"feature": {**POCKET, "kind": "slot", "closed": True, "width_mm": 16.0}, "strategy": "trochoidal",
     "tool": {"insert_count": 3, "insert_cost_cu": 9.0, "edges_per_insert": 2}, "job": {"machine": {**BARE, "power_s6_40_kw": None}}},
    {"tool": {"kind": "ball"}, "ap_mm": 0.8, "tilt_deg": 0.0, "feature": SURFACE},
    {"tool": {"kind": "serrated"}}, {"tool": {"kind": "chip_splitter"}},
    {"tool": {"kind": "chamfer", "APMX": 5.0}, "ap_mm": 3.0},
    {"tool": {"kind": "high_feed", "KAPR": 15.0, "APMX": 1.0}, "ap_mm": 0.6, "ae_mm": 6.0, "strategy": "high_feed",
     "feature": {**POCKET, "depth_mm": 8.0}},
    {"tool": {"kind": "face", "KAPR": 45.0}, "ap_mm": 2.0},
    {"ae_mm": 12.0, "ap_mm": 6.0, "strategy": "full_slot"}, {"ae_mm": 6.0, "strategy": "heavy_radial", "n_rpm": 9000.0, "vc_m_min": None},
    {"job": {"workpiece": {"material": {"id": "42crmo4-qt30", "Ktc_n_mm2": 2000.0}}}, "coolant": "flood"},
    {"job": {"workpiece": {"material": "en-aw-6082-t6"}}, "coolant": "dry", "hex_mm": 0.02},
    {"job": {"workpiece": {"material": {"kc11_n_mm2": 1800.0, "mc": 0.25, "kc_hardness_exp": 0.5}, "hardness_hb": 300.0}}},
    {"hex_mm": None, "fz_mm": 0.06},
    {"tool": {"kind": "ball"}, "ap_mm": 0.1, "ae_mm": 0.1},
    {"tool": {"DMM": 8.0, "FHA": 55.0}, "ae_mm": 6.0}, {"tool": {"DMM": 18.0}, "ap_mm": 10.0},
    {"vc_m_min": None, "life_min_wanted": 60.0},
    {"hex_mm": 0.012, "tap_modes": MODES}, {"hex_mm": 0.004, "tool": {"coating": "none"}},
    {"tool": {"kind": "tapered_ball", "taper_deg": 6.0, "DMM": 20.0}, "ap_mm": 0.8, "feature": SURFACE},
)  # fmt: skip
#: values for fields that no rule makes one for
SAMPLES: dict[str, tuple[Any, ...]] = {
    "pitch_deg": ((80.0, 100.0, 85.0, 95.0),), "helix_deg": ((35.0, 39.0, 35.0, 39.0),), "spindle_steps_rpm": ((1000.0, 2000.0),),
    "feed_steps_mm_min": ((100.0, 250.0),), "axial_security": ("form lock",), "balance_class": ("G2.5 at 2000",),
    "shank_requirement": ("with flat",), "coolant_rank": ("flood > air",), "coolant_avoid": ("air", "dry"), "coolant_reason": ("cools",),
    "coolant_options": ("flood",), "tap_modes": (MODES,), "profile_mm": (((0.0, 0.0), (80.0, 0.0), (80.0, 50.0)),),
    "islands_mm": ((((10.0, 10.0), (20.0, 10.0), (20.0, 20.0)),),), "title": ("Other",), "en": ("1.0000",),
    "curve": (Curve.read({"duty": {"S1": {"points": [{"speed_rpm": 100, "power_kw": 1}, {"speed_rpm": 12000, "power_kw": 5}]}}}),),
    "rpm_min": (6000.0,), "torque_s6_40_max_nm": (40.0, 300.0),
}  # fmt: skip


@lru_cache
def set_up(index: int) -> CutParts:
    return parts_of(Job.read(raw(**SET_UPS[index])), 0, LIBRARY)


def others(value: Any, fact: Fact) -> Iterator[Any]:
    """Values that a field could have instead."""
    if fact.key in SAMPLES:
        yield from SAMPLES[fact.key]
    elif fact.kind == "choice":
        yield from (word for word in fact.choices if word != value)
    elif fact.kind == "yes_no":
        yield from (other for other in (True, False) if other is not value)
    elif fact.kind in ("number", "count"):
        guesses = (1.25, 0.8, 3.0, 0.3, 20.0) if value else ()
        found = [value * times for times in guesses] + (
            [] if value else [1, 2, 5, 20, 100, 0.5, 0.1, 1000, 10000, 0.02]
        )
        found = [round(other) if fact.kind == "count" else other for other in found]
        yield from (other for other in found if fact.low <= other <= fact.high and other != value)


# ---------------------------------------------------------------- what may change


def computed(parts: CutParts) -> Any:
    """Figures, limits, cautions, checks, and the modes that are tapped and charted."""
    found = result_of(setup_of(parts))
    modes = [(mode.frequency, mode.stiffness) for mode in found.setup.structure.modes] if parts.cut.tap_modes else []
    return modes, json.dumps(result_data(found)), [(c.grade, c.text) for c in readiness_of(found, "metric")]


def chattered(parts: CutParts) -> Any:
    """Where measured modes chatter."""
    from lesna.planning.chatter.judge import chatter_of

    return repr(chatter_of(setup_of(parts)))


class _Shelf:
    """The library with the set-up's own row of the cutting data, and no trials."""

    def lesson_of(self, parts: object) -> None:
        """Nothing."""

    def standard_of(self, family: str, role: str) -> None:
        """None."""

    def __init__(self, parts: CutParts) -> None:
        self.tools, self.holders, self.machines, self.materials, self.tapers = (
            LIBRARY.tools, LIBRARY.holders, LIBRARY.machines, LIBRARY.materials, LIBRARY.tapers,
        )  # fmt: skip
        self.parts = parts

    @property
    def cutting_data(self) -> Any:
        parts = self.parts

        class Own(dict):  # type: ignore[type-arg]
            def get(self, key: Any, default: Any = None) -> Any:
                return parts.data

        return Own()


def proposed(parts: CutParts) -> Any:
    """Starting values, and what each school would try."""
    shelf: Any = _Shelf(parts)
    case = case_of(parts, LIBRARY)
    schools = ("full_slot", "heavy_radial", "light_radial", "trochoidal", "high_feed", "surface")
    tried = []
    for school in schools_for(case) if case is not None else ():
        if not school.suits(case):
            tasks = [stage.task for stage in school.stages(case)]
            tried.append([np.r_[t.stepovers, t.depths, t.speeds, t.chips, t.volume].tolist() for t in tasks])
            tried.append([school.extra(case)] if school.extra else [])
    return repr([starting_values(parts.tool, parts.material, school, shelf) for school in schools]), tried


def ran(parts: CutParts) -> Any:
    """A small program on the machine."""
    if parts.cut.feature is None or parts.cut.feature.kind != "pocket":
        return None
    geometry = geometry_of(read_program(PROGRAM), Work(parts, stock_of_feature(parts), Look(step=1.0, cell=0.5)))
    found = run_of(geometry)
    return found.times.time.tolist(), {key: float(use.max()) for key, use in found.uses.items()}


def written(parts: CutParts) -> Any:
    """The sheet."""
    found = result_of(setup_of(parts))
    return sheet_html(Job.read(raw()).with_values(batch=parts.batch), [found], "metric", {})


def compared(parts: CutParts) -> Any:
    """How the schools compare."""
    lanes = compare(parts, LIBRARY, quick=True, own_tool=True).lanes
    return [(lane.strategy.id, lane.minutes if lane.is_there else 0.0) for lane in lanes]


#: look and set-up in which a field comes into play, where that is not the first set-up's figures
PLACES: dict[tuple[Callable[[CutParts], Any], int], str] = {
    (computed, 21): "tool.taper_deg",
    (computed, 1): "tool.OAL tool.edges holder.torque_d12_nm machine.power_s1_kw machine.power_s6_40_kw "
        "machine.torque_s1_max_nm machine.torque_s6_40_max_nm machine.base_speed_rpm machine.drive_efficiency "
        "machine.idle_power_at_half_rpm_kw machine.accel_x_m_s2 machine.accel_y_m_s2 "
        "machine.table_load_max_kg material.kc_hardness_exp batch.machine_rate_per_h",
    (computed, 2): "tool.insert_count tool.edges_per_insert tool.insert_cost_cu machine.hourly_rate_cu",
    (computed, 3): "feature.slope_deg",
    (computed, 4): "tool.wave_depth_mm tool.wave_length_mm",
    (computed, 5): "tool.notch_depth_mm tool.notch_width_mm tool.notch_spacing_mm",
    (computed, 6): "tool.tip_diameter_mm tool.tip_angle_deg tool.chamfer_edge_mm",
    (computed, 7): "data.vc_mult_highfeed data.highfeed_ap_max_over_dc data.highfeed_fz_mult_min "
        "data.highfeed_fz_mult_max",
    (computed, 8): "holder.nose_growth",
    (computed, 9): "data.vc_mult_slot data.slot_ap_max_over_d",
    (computed, 10): "cut.n_rpm",
    (computed, 11): "material.edge_force_n_mm material.Krc_n_mm2 material.Kac_n_mm2 material.Kte_n_mm material.Kre_n_mm "
        "material.Kae_n_mm data.coolant_rank",
    (computed, 12): "material.built_up_edge_tendency",
    (computed, 13): "material.hardness_hrc_typ material.uts_mpa_typ",
    (computed, 14): "cut.fz_mm",
    (computed, 15): "tool.flutes_to_centre data.vc_mult_finish data.vc_thin_share",
    (computed, 16): "holder.torque_d6_nm holder.torque_d10_nm holder.pullout_force_d12_n_hint",
    (computed, 17): "holder.torque_d16_nm holder.torque_d20_nm",
    (computed, 18): "cut.life_min_wanted",
    (computed, 19): "taper.nose_mass_kg",
    (computed, 20): "material.work_hardening_tendency material.abrasiveness",
    (chattered, 19): "material.process_damping_n_m",
    (proposed, 0): "data.ref_ap_over_d data.heavy_ae_min_over_d data.light_ae_min_over_d data.light_ae_max_over_d "
        "data.troch_ae_min_over_d data.troch_ae_max_over_d data.troch_ap_max_over_d",
    (proposed, 3): "feature.cusp_um",
    (proposed, 7): "data.highfeed_ap_min_over_dc",
    (ran, 0): "machine.feed_max_z_mm_min machine.rapid_x_mm_min machine.rapid_z_mm_min machine.accel_z_m_s2 "
        "machine.jerk_x_m_s3 machine.jerk_y_m_s3 machine.jerk_z_m_s3",
    (ran, 1): "machine.rapid_y_mm_min machine.lookahead_blocks_s machine.travel_x_mm machine.travel_y_mm "
        "machine.travel_z_mm",
    (written, 0): "holder.runout_3xd_max_um batch.parts",
    (compared, 0): "machine.tool_change_s cut.removal_floor_cm3_min",
    (compared, 2): "feature.closed",
}  # fmt: skip
WHERE = {key: place for place, keys in PLACES.items() for key in keys.split()}


@lru_cache(maxsize=128)
def before(index: int, look: Callable[[CutParts], Any]) -> Any:
    return refused_or(look, set_up(index))


def refused_or(look: Callable[[CutParts], Any], parts: CutParts) -> Any:
    """What a look sees; a refusal is something to see as well."""
    try:
        return look(parts)
    except InputError as error:
        return str(error)


def changed(parts: CutParts, owner: str, key: str, value: Any) -> CutParts:
    """The parts with one value of one record changed."""
    if owner == "feature":
        feature = parts.cut.feature
        assert feature is not None
        return dataclasses.replace(parts, cut=parts.cut.with_values(feature=feature.with_values(**{key: value})))
    return dataclasses.replace(parts, **{owner: getattr(parts, owner).with_values(**{key: value})})


class EveryField(unittest.TestCase):
    RECORDS: tuple[tuple[str, type[Record]], ...] = (
        ("tool", Tool), ("holder", Holder), ("machine", Machine), ("material", Material), ("data", CuttingData), ("taper", Taper),
        ("workpiece", Workpiece), ("batch", Batch), ("cut", Cut), ("feature", Feature),
    )  # fmt: skip

    def seen(self, owner: str, fact: Fact) -> bool:
        """Whether some value of a field changes what is looked at where it comes into play."""
        look, index = WHERE.get(f"{owner}.{fact.key}", (computed, 0))
        parts = set_up(index)
        record = parts.cut.feature if owner == "feature" else getattr(parts, owner)
        for value in others(getattr(record, fact.key), fact):
            try:
                other = changed(parts, owner, fact.key, value)
            except InputError:
                continue
            if refused_or(look, other) != before(index, look):
                return True
        return False

    def test_each_changes_something(self) -> None:
        for owner, cls in self.RECORDS:
            for fact in facts_of(cls):
                if fact.key not in WORDS | FOUND | KEYS | OTHERS:
                    with self.subTest(record=cls.__name__, field=fact.key):
                        self.assertTrue(self.seen(owner, fact))


if __name__ == "__main__":
    unittest.main()
