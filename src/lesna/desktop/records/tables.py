"""The tables of the library as rows of data: what a page lists, filters by, and in which groups its fields stand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lesna.desktop.records.form import Groups
from lesna.model import units
from lesna.model.base import Record
from lesna.model.library_records import CuttingData, Holder, Machine, Material, Tool

Shown = Callable[[Any, units.System], str]


@dataclass(frozen=True)
class TableSpec:
    """One table.

    Attributes
    ----------
    id, title, one : str
        Name in the library, name of its page, name of one of its rows.
    cls : type
        Its records.
    columns : tuple
        Headers of the list and what stands under them.
    kind_of : callable
        Word that the first filter chooses by.
    kinds : str
        Name of that filter.
    groups : sequence
        Headings and fields of the form.
    """

    id: str
    title: str
    one: str
    cls: type[Record]
    columns: tuple[tuple[str, Shown], ...]
    kinds: str
    kind_of: Callable[[Any], str]
    groups: Groups


def _length(key: str) -> Shown:
    def shown(record: Any, system: units.System) -> str:
        value = getattr(record, key)
        return "" if value is None else units.DIMENSION.text(value, system)

    return shown


def _plain(key: str) -> Shown:
    def shown(record: Any, system: units.System) -> str:
        value = getattr(record, key)
        return "" if value is None else f"{value:g}" if isinstance(value, (int, float)) else str(value)

    return shown


TOOL_GROUPS: Groups = (
    ("", ("id", "name", "kind")),
    ("Cutting edge", ("DC", "ZEFP", "RE", "APMX", "FHA", "KAPR", "GAMF", "DCX", "edge_radius_um", "centre_cutting",
                      "flutes_to_centre", "tip_diameter_mm", "tip_angle_deg", "chamfer_edge_mm")),
    ("Lengths and shank", ("LU", "DN", "DMM", "OAL", "core_dia_ratio", "gullet_area_per_flute_mm2_hint")),
    ("Cutting material", ("substrate", "coating", "intended_iso_groups")),
    ("Teeth", ("pitch", "helix", "pitch_deg", "helix_deg", "runout_um", "wave_depth_mm", "wave_length_mm", "notch_depth_mm",
               "notch_width_mm", "notch_spacing_mm")),
    ("Limits and price", ("rated_rpm", "price", "edges", "insert_count", "edges_per_insert", "insert_cost_cu", "regrindable",
                          "unit_system", "notes")),
)  # fmt: skip
HOLDER_GROUPS: Groups = (
    ("", ("id", "name", "kind", "clamping_principle", "shank_requirement")),
    ("Grip", ("grip_torque_nm", "torque_d6_nm", "torque_d10_nm", "torque_d12_nm", "torque_d16_nm", "torque_d20_nm",
              "axial_security", "pullout_force_d12_n_hint")),
    ("Stiffness and shape", ("radial_stiffness_rel", "damping_rel", "nose_d12_mm", "nose_growth")),
    ("Runout and speed", ("runout_3xd_typ_um", "runout_3xd_max_um", "balance_class", "rpm_guide_max_40taper")),
    ("Price and notes", ("price", "confidence", "notes")),
)  # fmt: skip
MACHINE_GROUPS: Groups = (
    ("", ("id", "name", "kind")),
    ("Spindle", ("rpm_min", "rpm_max", "power_s1_kw", "power_s6_40_kw", "torque_s1_max_nm", "torque_s6_40_max_nm",
                 "base_speed_rpm", "drive_efficiency", "idle_power_at_half_rpm_kw", "spindle_steps_rpm")),
    ("Nose and taper", ("taper", "taper_moment_nm", "drawbar_force_kn", "spindle_radial_stiffness_n_um")),
    ("Axes", ("feed_max_x_mm_min", "feed_max_y_mm_min", "feed_max_z_mm_min", "feed_steps_mm_min", "rapid_x_mm_min",
              "rapid_y_mm_min", "rapid_z_mm_min", "accel_x_m_s2", "accel_y_m_s2", "accel_z_m_s2", "jerk_x_m_s3",
              "jerk_y_m_s3", "jerk_z_m_s3", "axis_thrust_max_n", "lookahead_blocks_s", "travel_x_mm", "travel_y_mm",
              "travel_z_mm", "table_load_max_kg")),
    ("Cost and notes", ("hourly_rate_cu", "tool_change_s", "coolant_options", "confidence", "notes")),
)  # fmt: skip
MATERIAL_GROUPS: Groups = (
    ("", ("id", "name", "iso_group", "iso_subgroup", "data_group", "vc_factor", "en", "aisi_uns", "condition")),
    ("Hardness and strength", ("hardness_hb_min", "hardness_hb_max", "hardness_hrc_typ", "uts_mpa_typ")),
    ("Cutting force", ("kc11_n_mm2", "mc", "kr_ratio", "ka_ratio", "kc_hardness_exp", "rake_ref_deg", "edge_force_n_mm",
                       "process_damping_n_m", "Ktc_n_mm2", "Krc_n_mm2", "Kac_n_mm2", "Kte_n_mm", "Kre_n_mm", "Kae_n_mm")),
    ("Chip and edge", ("min_chip_thickness_um_ref", "chip_form", "built_up_edge_tendency", "work_hardening_tendency",
                       "abrasiveness", "fire_hazard")),
    ("Heat and weight", ("density_kg_m3", "thermal_cond_w_mk", "specific_heat_j_kgk", "melting_or_solidus_c")),
    ("Source", ("confidence", "source_note")),
)  # fmt: skip
DATA_GROUPS: Groups = (
    ("", ("data_group", "substrate", "group_name", "iso_group", "recommended", "ref_ae_over_d", "ref_ap_over_d")),
    ("Speed and life", ("vc_low_m_min", "vc_typ_m_min", "vc_high_m_min", "taylor_n", "taylor_feed_exp", "ref_life_min",
                        "vc_mult_slot", "vc_mult_heavy", "vc_mult_light", "vc_mult_troch", "vc_mult_highfeed")),
    ("Chip", ("hex_low_d10_mm", "hex_typ_d10_mm", "hex_high_d10_mm", "hex_diameter_exp", "hex_min_rubbing_mm")),
    ("Depth and stepover over DC", ("slot_ap_max_over_d", "heavy_ae_min_over_d", "heavy_ae_max_over_d", "heavy_ap_max_over_d",
                                    "light_ae_min_over_d", "light_ae_max_over_d", "light_ap_max_over_d",
                                    "troch_ae_min_over_d", "troch_ae_max_over_d", "troch_ap_max_over_d")),
    ("High feed", ("highfeed_ap_min_over_dc", "highfeed_ap_max_over_dc", "highfeed_fz_mult_min", "highfeed_fz_mult_max")),
    ("Cooling and source", ("coolant_rank", "coolant_avoid", "coolant_reason", "confidence", "source_note")),
)  # fmt: skip

TABLES = (
    TableSpec("tools", "Tools", "tool", Tool,
              (("Name", _plain("name")), ("DC", _length("DC")), ("z", _plain("ZEFP")), ("reach", _length("usable_length"))),
              "Any kind", lambda tool: tool.kind.replace("_", " "), TOOL_GROUPS),
    TableSpec("holders", "Holders", "holder", Holder,
              (("Name", _plain("name")), ("stiffness", _plain("radial_stiffness_rel"))),
              "Any kind", lambda holder: holder.kind.replace("_", " "), HOLDER_GROUPS),
    TableSpec("machines", "Machines", "machine", Machine,
              (("Name", _plain("name")), ("rpm", _plain("rpm_max")), ("kW", _plain("power_s1_kw"))),
              "Any taper", lambda machine: machine.taper or "not given", MACHINE_GROUPS),
    TableSpec("materials", "Materials", "material", Material,
              (("Name", _plain("name")), ("group", _plain("iso_group")), ("kc1.1", _plain("kc11_n_mm2"))),
              "Any group", lambda material: material.iso_group or "not given", MATERIAL_GROUPS),
    TableSpec("cutting_data", "Starting values", "row", CuttingData,
              (("Material group", _plain("group_name")), ("edge", _plain("substrate")), ("vc", _plain("vc_typ_m_min"))),
              "Any group", lambda row: row.iso_group, DATA_GROUPS),
)  # fmt: skip
BY_ID = {spec.id: spec for spec in TABLES}

#: fields of a job and its cuts that have no place of their own in the steps
FEATURE_GROUPS: Groups = (
    ("", ("kind", "length_mm", "width_mm", "depth_mm", "corner_radius_mm", "closed", "slope_deg", "cusp_um", "stock_wall_mm",
          "stock_floor_mm", "profile_mm", "islands_mm")),
)  # fmt: skip
CUT_GROUPS: Groups = (
    ("", ("name", "role", "strategy", "direction", "coolant", "compensation")),
    ("What is set", ("ae_mm", "ap_mm", "vc_m_min", "n_rpm", "hex_mm", "fz_mm", "stick_out_mm", "tilt_deg")),
    ("What it is judged by", ("deflection_limit_um", "wear_vb_mm", "removal_floor_cm3_min", "tap_modes")),
)  # fmt: skip
BATCH_GROUPS: Groups = (("", ("parts", "machine_rate_per_h", "tool_change_min", "survivors")),)
PIECE_GROUPS: Groups = (("", ("hardness_hrc", "hardness_hb", "mass_kg", "clamp_force_n")),)
JOB_GROUPS: Groups = (("", ("title", "notes")),)
BOOK_GROUPS: Groups = (("", ("vc_m_min", "fz_mm", "ae_over_dc")),)
