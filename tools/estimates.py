"""The estimate of a cut's time against the path that is then made, over twelve features and the schools that suit them.

``python tools/estimates.py [FEATURE ...]`` prints a row for each: minutes estimated, minutes of the proved path, their ratio.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Iterator
from typing import Any

from lesna.data.library import Library
from lesna.model.errors import LesnaError
from lesna.model.job import Job
from lesna.planning.evaluate import evaluate
from lesna.planning.routes.wish import Wish
from lesna.planning.schools.compare import case_of
from lesna.planning.schools.strategies import REGISTRY
from lesna.planning.ways.program import Printing
from lesna.planning.ways.prove import proved

#: how far a path may be off its estimate [-]
_PROMISE = 0.15


def _ring(radius: float, corners: int, inner: float | None = None) -> list[list[float]]:
    sizes = (radius, radius if inner is None else inner)
    return [[round(sizes[k % 2] * math.cos(2 * math.pi * k / corners), 3), round(sizes[k % 2] * math.sin(2 * math.pi * k / corners), 3)]
            for k in range(corners)]  # fmt: skip


FEATURES: dict[str, dict[str, Any]] = {
    "pocket": {"kind": "pocket", "length_mm": 100, "width_mm": 60, "depth_mm": 20, "corner_radius_mm": 8},
    "deep": {"kind": "pocket", "length_mm": 80, "width_mm": 80, "depth_mm": 36, "corner_radius_mm": 10},
    "round": {"kind": "pocket", "profile_mm": _ring(30, 72), "depth_mm": 20},
    "L": {
        "kind": "pocket",
        "profile_mm": [[0, 0], [90, 0], [90, 35], [40, 35], [40, 80], [0, 80]],
        "depth_mm": 18,
        "corner_radius_mm": 7,
    },
    "island": {
        "kind": "pocket",
        "length_mm": 110,
        "width_mm": 80,
        "depth_mm": 15,
        "corner_radius_mm": 8,
        "islands_mm": [_ring(14, 36)],
    },
    "star": {"kind": "pocket", "profile_mm": _ring(32, 12, 18), "depth_mm": 12, "corner_radius_mm": 6.5},
    "shelf": {"kind": "shelf", "length_mm": 150, "width_mm": 25, "depth_mm": 24},
    "through": {"kind": "through", "length_mm": 70, "width_mm": 50, "depth_mm": 16, "corner_radius_mm": 8},
    "slot": {"kind": "slot", "length_mm": 90, "width_mm": 18, "depth_mm": 16, "closed": True},
    "own slot": {"kind": "slot", "length_mm": 90, "width_mm": 12, "depth_mm": 12, "closed": False},
    "face": {"kind": "face", "length_mm": 140, "width_mm": 80, "depth_mm": 6},
    "long": {"kind": "pocket", "length_mm": 150, "width_mm": 40, "depth_mm": 12, "corner_radius_mm": 8},
}
_MILL = {"kind": "corner_radius", "DC": 12.0, "RE": 0.5, "ZEFP": 4, "FHA": 38.0, "KAPR": 90.0, "APMX": 40.0, "LU": 42.0, "DMM": 12.0,
         "OAL": 100.0, "substrate": "carbide", "coating": "AlTiN", "edge_radius_um": 10, "centre_cutting": True, "runout_um": 8,
         "price": 60.0, "edges": 1}  # fmt: skip
_LEAD_ANGLE = {"kind": "high_feed", "DC": 16.0, "RE": 1.2, "ZEFP": 3, "FHA": 0.0, "KAPR": 15.0, "APMX": 1.0, "LU": 60.0, "DMM": 16.0,
               "OAL": 150.0, "substrate": "indexable", "coating": "AlTiN", "centre_cutting": False, "insert_count": 3,
               "insert_cost_cu": 9.0}  # fmt: skip
#: school, stepover [mm], depth as a share of the feature's or None for 0.7 mm, thickest chip [mm], tool
_CUTS = (("light_radial", 1.2, 1.0, 0.05, _MILL), ("heavy_radial", 5.0, 0.5, 0.05, _MILL), ("trochoidal", 1.2, 1.0, 0.05, _MILL),
         ("full_slot", 12.0, 0.34, 0.05, _MILL), ("high_feed", 10.0, None, 0.15, _LEAD_ANGLE))  # fmt: skip


def jobs(wanted: list[str]) -> Iterator[tuple[str, Job]]:
    """Each feature in each school, with its name."""
    for name, feature in FEATURES.items():
        for school, ae, share, chip, tool in _CUTS:
            if not wanted or name in wanted:
                cut = {"name": school, "role": "rough", "strategy": school, "tool": tool, "holder": "shrink", "stick_out_mm": 46.0,
                       "coolant": "air", "ae_mm": ae, "ap_mm": 0.7 if share is None else share * feature["depth_mm"], "vc_m_min": 150.0,
                       "hex_mm": chip, "feature": feature}  # fmt: skip
                yield (
                    name,
                    Job.read(
                        {
                            "lesna": 5,
                            "title": name,
                            "workpiece": {"material": "c45e-n"},
                            "machine": "vmc40-12k",
                            "cuts": [cut],
                        }
                    ),
                )


def main() -> None:
    """Prints the table and how many rows keep the promise."""
    library, rows, kept = Library(), 0, 0
    for name, job in jobs(sys.argv[1:]):
        found = evaluate(job, 0, library)
        school = next(entry for entry in REGISTRY if entry.id == found.setup.parts.cut.strategy)
        if school.suits(case_of(found.setup.parts, library)) or found.timing is None:
            continue
        try:
            made = proved(found, Wish(), Printing(), name)
        except LesnaError as error:
            print(f"{name:9} {school.id:13} no path: {error}", flush=True)
            continue
        ratio = made.summary.time / 60.0 / found.timing.running
        rows, kept = rows + 1, kept + (abs(ratio - 1.0) <= _PROMISE)
        print(f"{name:9} {school.id:13} {made.route.generator.id:8} {made.route.levels:3d} levels  estimate {found.timing.running:6.2f}"
              f"  path {made.summary.time / 60.0:6.2f}  ratio {ratio:5.2f}", flush=True)  # fmt: skip
    print(f"{kept} of {rows} within {_PROMISE:.0%}")


if __name__ == "__main__":
    main()
