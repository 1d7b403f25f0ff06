"""What many tests start from: one library, one plain job that can be bent."""

from __future__ import annotations

import copy
from pathlib import Path
from typing import Any

from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model import units
from lesna.model.job import Job
from lesna.model.resolve import CutParts, parts_of
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.telling.cautions import cautions_of

LIBRARY = Library()
DEMOS = sorted((shipped_folder() / "demo").glob("*.lesna"))
#: a folder in which no user can create a file
READ_ONLY = Path("/proc")
#: a bound on time that no test fails by: speed is measured elsewhere [s]
NEVER = 1e9
HINGE = shipped_folder() / "demo" / "sluice-hinge-block.lesna"

PLAIN: dict[str, Any] = {
    "lesna": 1,
    "title": "Test piece",
    "workpiece": {"material": "42crmo4-qt30"},
    "machine": "vmc40-12k",
    "cuts": [
        {
            "name": "Side",
            "strategy": "light_radial",
            "tool": {
                "kind": "square",
                "DC": 12.0,
                "ZEFP": 4,
                "FHA": 38.0,
                "APMX": 26.0,
                "LU": 36.0,
                "coating": "AlTiN",
            },
            "holder": {"kind": "shrink"},
            "stick_out_mm": 42.0,
            "coolant": "air",
            "ae_mm": 1.2,
            "ap_mm": 12.0,
            "vc_m_min": 120.0,
            "hex_mm": 0.04,
        }
    ],
}


def raw(*, job: dict[str, Any] | None = None, tool: dict[str, Any] | None = None, **cut: Any) -> dict[str, Any]:
    """The plain job with keys of the job, of its tool or of its cut replaced; None takes a key of the cut away."""
    data = copy.deepcopy(PLAIN)
    data.update(job or {})
    first = data["cuts"][0]
    first["tool"].update(tool or {})
    first.update(cut)
    data["cuts"][0] = {key: value for key, value in first.items() if value is not None}
    return data


def job(**changes: Any) -> Job:
    """The plain job, changed as in `raw`."""
    return Job.read(raw(**changes))


def setup(**changes: Any) -> CutSetup:
    """The set-up of the plain job's cut, changed as in `raw`."""
    return setup_of(parts_of(job(**changes), 0, LIBRARY))


def result(**changes: Any) -> Result:
    """The Result of the plain job's cut, changed as in `raw`; without its chatter, which takes longer."""
    return result_of(setup(**changes))


def parts(of: Job, index: int = 0) -> CutParts:
    """Whole parts of a cut."""
    return parts_of(of, index, LIBRARY)


def said(found: Result) -> dict[str, str]:
    """Cautions of a Result in metric units, by id."""
    return {caution.id: units.said(caution.text, "metric") for caution in cautions_of(found)}


def untimed(data: dict[str, Any]) -> dict[str, Any]:
    """Figures without those that follow from a time, which arrives later and may be a program's."""
    timed = (
        "time_in_cut_min",
        "time_per_part_min",
        "time_basis",
        "cost_per_part",
        "edges_per_part",
        "change_after_parts",
    )
    return {key: value for key, value in data.items() if key not in timed}
