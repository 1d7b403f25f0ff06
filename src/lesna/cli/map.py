"""`lesna map`: the engagement map of a cut."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import click
import numpy as np

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.refusal import about, fail, tell
from lesna.model import units
from lesna.model.resolve import parts_of
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.cut.setup import setup_of
from lesna.planning.search.engagement_map import BestPoint, EngagementMap, map_of

#: more points than any screen shows
_LARGEST_SIDE = 512


@click.command("map")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut.")
@click.option("--over", default="ae,ap", show_default=True, help="Axes: columns, rows.")
@click.option("--size", default="96x96", show_default=True, help="Columns x rows.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
def map_command(job_file: Path, name: str, over: str, size: str, as_json: bool) -> None:
    """Compute removal rate and every limit of a cut of JOB over stepover and depth."""
    if over != "ae,ap":
        fail(f"--over: must be 'ae,ap', got '{over}'")
    columns, rows = _size(size)
    job = open_job(job_file)
    library = open_library()
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        setup = setup_of(parts_of(job, index, library))
        open_kernels(needed=True)
        found = map_of(setup, columns, rows, field=measured_over_stepover(setup))
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "title": job.title, "cut": name, **_data(found)})
        return
    share = float(np.mean(found.inside))
    tell(f"{name}: {share:.0%} of the map is inside every limit")
    for label, best in (("best inside the limits", found.best), ("best in this school", found.best_in_school)):
        tell(f"  {label}: {_words(best, job.units)}")


def _size(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d{1,5})x(\d{1,5})", text)
    if not match:
        fail(f"--size: must be COLUMNSxROWS such as 96x96, got '{text}'")
    columns, rows = int(match[1]), int(match[2])
    if not (2 <= columns <= _LARGEST_SIDE and 2 <= rows <= _LARGEST_SIDE):
        fail(f"--size: each side must be 2 to {_LARGEST_SIDE}, got '{text}'")
    return columns, rows


def _data(found: EngagementMap) -> dict[str, Any]:
    return {
        "over": ["ae", "ap"],
        "size": [len(found.ae), len(found.ap)],
        "ae_mm": _rounded(found.ae),
        "ap_mm": _rounded(found.ap),
        "q_cm3_min": _rounded(found.q),
        "life_min": None if found.life is None else _rounded(found.life),
        "cost_per_cm3": None if found.cost is None else _rounded(found.cost),
        "limits": {key: _rounded(use) for key, use in found.uses.items()},
        "admissible": found.inside.tolist(),
        "best": _point(found.best),
        "best_in_school": _point(found.best_in_school),
    }


def _rounded(grid: Any) -> Any:
    """Seven significant digits: more than the models know, and half the size."""
    with np.errstate(divide="ignore"):
        digits = 6 - np.floor(np.log10(np.maximum(np.abs(grid), 1e-12)))
    scale = 10.0**digits
    return (np.round(grid * scale) / scale).tolist()


def _point(best: BestPoint | None) -> dict[str, float] | None:
    return None if best is None else {"ae_mm": best.ae, "ap_mm": best.ap, "q_cm3_min": best.q}


def _words(best: BestPoint | None, system: units.System) -> str:
    if best is None:
        return "none; ease speed, chip or set-up first"
    return (
        f"ae {units.LENGTH.full(best.ae, system)}, ap {units.LENGTH.full(best.ap, system)}, "
        f"{units.REMOVAL.full(best.q, system)}"
    )
