"""Every edit people can make, on the demo job, and the bad ones that must be refused; whoever tests them all starts here."""

from __future__ import annotations

from collections.abc import Callable

from lesna.document import edits
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.planning.schools.compare import compare
from lesna.planning.schools.lanes import with_lane
from tests.support import LIBRARY

CAVITY = 1
BALL = {"kind": "ball", "DC": 10.0, "ZEFP": 2, "APMX": 10.0, "LU": 30.0, "coating": "AlTiN"}
LEAD = {
    "kind": "high_feed",
    "DC": 12.0,
    "KAPR": 15.0,
    "RE": 1.0,
    "ZEFP": 4,
    "APMX": 0.6,
    "LU": 30.0,
    "coating": "AlTiN",
}


def _two_steps(job: Job) -> Job:
    found = compare(parts_of(job, CAVITY, LIBRARY), LIBRARY, quick=True)
    lane = next(lane for lane in found.lanes if len(lane.stages) > 1)
    return with_lane(job, CAVITY, lane)


EDITS: dict[str, Callable[[Job], Job]] = {
    "move the cut": lambda j: edits.with_cut(j, CAVITY, ae_mm=0.9, ap_mm=20.0),
    "speed by n": lambda j: edits.with_cut(j, CAVITY, n_rpm=4000.0),
    "feed by fz": lambda j: edits.with_cut(j, CAVITY, fz_mm=0.05),
    "book": lambda j: edits.with_cut(j, CAVITY, book={"fz_mm": 0.05}),
    "school": lambda j: edits.with_cut(j, CAVITY, compensation="mean_chip"),
    "lock": lambda j: edits.with_cut(j, CAVITY, locks=("ae_mm",)),
    "role": lambda j: edits.with_cut(j, CAVITY, role="semi"),
    "strategy": lambda j: edits.with_cut(j, CAVITY, strategy="heavy_radial"),
    "coolant": lambda j: edits.with_cut(j, CAVITY, coolant="through_air"),
    "direction": lambda j: edits.with_cut(j, CAVITY, direction="up"),
    "worn edge": lambda j: edits.with_cut(j, CAVITY, wear_vb_mm=0.2),
    "limit": lambda j: edits.with_cut(j, CAVITY, deflection_limit_um=40.0),
    "name": lambda j: edits.with_cut(j, CAVITY, name="Cavity"),
    "stick-out": lambda j: edits.with_cut(j, CAVITY, stick_out_mm=48.0),
    "holder": lambda j: edits.with_cut(j, CAVITY, holder={"kind": "collet"}),
    "modes": lambda j: edits.with_cut(j, CAVITY, tap_modes=[
        {"axis": axis, "f_hz": 900.0, "k_n_um": 20.0, "zeta": 0.03} for axis in ("x", "y")]),
    "hardness": lambda j: edits.with_workpiece(j, hardness_hb=310.0),
    "mass": lambda j: edits.with_workpiece(j, mass_kg=40.0, clamp_force_n=30000.0),
    "material": lambda j: edits.with_workpiece(j, material="42crmo4-qt30"),
    "unknown material": lambda j: edits.with_workpiece(j, material={"kc11_n_mm2": 1800.0, "mc": 0.25}),
    "parts": lambda j: edits.with_batch(j, parts=48),
    "rate": lambda j: edits.with_batch(j, machine_rate_per_h=900.0),
    "change time": lambda j: edits.with_batch(j, tool_change_min=20.0),
    "survivors": lambda j: edits.with_batch(j, survivors=0.8),
    "feature": lambda j: edits.with_feature(j, 2, depth_mm=12.0),
    "no feature": lambda j: edits.with_cut(j, CAVITY, feature=None),
    "tool": lambda j: edits.with_tool(j, CAVITY, "sq-d10-z4", LIBRARY),
    "ball": lambda j: edits.with_cut(j, CAVITY, tool=BALL, ae_mm=0.4, ap_mm=0.3, tilt_deg=15.0),
    "shallow ball": lambda j: edits.with_cut(j, CAVITY, tool=BALL, ae_mm=0.1, ap_mm=0.005),
    "lead angle": lambda j: edits.with_cut(j, CAVITY, tool=LEAD, ae_mm=7.0, ap_mm=0.5, strategy="high_feed"),
    "rounded square": lambda j: edits.with_cut(j, CAVITY, tool={"kind": "square", "DC": 12.0, "RE": 1.0, "ZEFP": 4, "APMX": 26.0}),
    "starting values": lambda j: edits.with_starting_values(j, CAVITY, LIBRARY),
    "new cut": lambda j: edits.with_new_cut(j, LIBRARY, after=CAVITY)[0],
    "variant": lambda j: edits.with_variant(j, 0)[0],
    "two steps": _two_steps,
    "delete": lambda j: edits.without_cut(j, 3),
    "reorder": lambda j: edits.with_cut_moved(j, 0, 4),
    "title": lambda j: j.with_values(title="Another"),
    "machine": lambda j: j.with_values(machine="hsm40-15k"),
}  # fmt: skip

POCKET = {"kind": "pocket", "length_mm": 120.0, "width_mm": 80.0, "depth_mm": 24.0}
#: edits that cannot be computed -> words of the sentence that refuses them
REFUSED: dict[str, tuple[Callable[[Job], Job], str]] = {
    "wider than the tool": (lambda j: edits.with_cut(j, CAVITY, ae_mm=99.0), "ae_mm"),
    "deeper than the tool": (lambda j: edits.with_cut(j, CAVITY, ap_mm=60.0), "stick_out_mm"),
    "shorter than the depth": (lambda j: edits.with_cut(j, CAVITY, stick_out_mm=5.0), "stick_out_mm"),
    "no such machine": (lambda j: j.with_values(machine="none"), "machine"),
    "no number": (lambda j: edits.with_cut(j, CAVITY, ae_mm=float("nan")), "ae_mm"),
    "half a tool": (lambda j: edits.with_cut(j, CAVITY, tool={"kind": "ball"}), "tool"),
    "floor left as deep as the pocket": (lambda j: edits.with_feature(j, CAVITY, stock_floor_mm=24.0), "stock_floor_mm"),
    "walls that leave nothing": (lambda j: edits.with_feature(j, CAVITY, stock_wall_mm=45.0), "stock_wall_mm"),
    "narrower than its corners": (
        lambda j: edits.with_cut(j, CAVITY, feature={**POCKET, "length_mm": 10.0, "width_mm": 5.0, "corner_radius_mm": 8.0}),
        "corner_radius_mm",
    ),
    "corner of 110 mm": (lambda j: edits.with_cut(j, CAVITY, feature={**POCKET, "corner_radius_mm": 110.0}), "corner_radius_mm"),
}  # fmt: skip
