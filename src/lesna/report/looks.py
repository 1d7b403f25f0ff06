"""Test cuts on the sheet: the ladder that is planned, and a form for a phone whose saved file is taken in as readings."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from markupsafe import Markup

from lesna.learning.settings import columns_of
from lesna.model import names, units
from lesna.model.trials import RETIRED, WEAR_KINDS, WEAR_ZONES
from lesna.planning.cut.result import Result

#: a plan as it is kept: see `learning.told.ladder_data`
Plan = Mapping[str, Any]
#: millimetres in what the form asks for
_LAND_UNIT: dict[units.System, tuple[str, float]] = {"metric": ("mm", 1.0), "inch": ("thou", units.INCH / 1000.0)}


def ladder_of(plan: Plan | None, system: units.System) -> dict[str, Any] | None:
    """The ladder of a cut as the sheet prints it; None where none is planned."""
    if plan is None or not plan.get("steps"):
        return None
    quantity = _QUANTITIES[plan["step"]]
    ceiling = plan["ceiling"]
    return {
        "what": quantity[0], "feed": units.FEED.unit(system), "rows": [
            (str(step["step"]), quantity[1].full(step["value"], system), f"{step['n_rpm']:.0f}", units.FEED.text(step["vf_mm_min"], system),
             f"{step['minutes']:.0f} min", units.BULK.full(step["material_cm3"], system)) for step in plan["steps"]
        ],
        "ceiling": f"{quantity[1].full(ceiling['value'], system)}, held by {ceiling['held_by'].lower()}",
        "rule": list(plan["stop_rule"]),
        "sum": f"{plan['minutes']:.0f} min and {units.BULK.full(plan['material_cm3'], system)} of {_piece(plan)}",
    }  # fmt: skip


_QUANTITIES: dict[str, tuple[str, units.Quantity]] = {
    "feed": ("Feed per tooth", units.CHIP), "depth": ("Depth", units.LENGTH), "stepover": ("Stepover", units.LENGTH),
    "speed": ("Surface speed", units.SURFACE_SPEED),
}  # fmt: skip


def _piece(plan: Plan) -> str:
    return "a scrap piece" if plan.get("on_scrap", True) else "a real part"


def form_of(
    job_title: str, results: Sequence[Result], plans: Mapping[str, Plan], system: units.System
) -> dict[str, Any]:
    """What the form for a phone holds: the cuts with all that a reading says of them, and the words to choose from."""
    unit, factor = _LAND_UNIT[system]
    cuts = [_base(job_title, result, plans.get(result.setup.parts.cut.id)) for result in results]
    data = json.dumps({"cuts": cuts, "land_factor": factor}, ensure_ascii=True)
    return {
        # a closing tag in a name of the job must not end the script
        "data": Markup(data.replace("<", "\\u003c")), "land_unit": unit, "cuts": [result.name for result in results],
        "kinds": tuple(WEAR_KINDS.items()), "zones": tuple(WEAR_ZONES.items()), "retired": tuple(RETIRED.items()),
        "coolants": tuple(names.COOLANTS.items()),
    }  # fmt: skip


def _base(job_title: str, result: Result, plan: Plan | None) -> dict[str, Any]:
    """What a reading of a cut says before anything is typed, and its steps where a ladder is planned."""
    set_ = ("step", "ae_mm", "ap_mm", "n_rpm", "vf_mm_min")
    steps = [{key: step[key] for key in set_} for step in (plan or {}).get("steps", ())]
    return {"trial": result.name, "job": job_title, **columns_of(result), "steps": steps}
