"""The set-up sheet: what goes to the machine, as one HTML text."""

from __future__ import annotations

import base64
import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from lesna import __version__
from lesna.geometry.elevation import elevation_of
from lesna.model import names, units
from lesna.model.job import Job
from lesna.model.shown import visible
from lesna.planning.cut.result import Result
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.figures import FIGURES, SHEET, Figure, applies
from lesna.report.drawing import elevation_svg

#: cautions that every cut has; the first page says them once
_SAID_IN_FRONT = frozenset({"first_run", "starting_values"})
#: what the operator does at the first run, in order
FIRST_RUN = (
    "Read the cautions. Check tool, holder, insertion depth, stick-out, runout and clamping against this sheet.",
    "Touch off, set the work zero, lift to a safe height and run once above the part.",
    "Guard closed, rapid at 25 %, single block; a hand on the feed override.",
    "First bite at half the feed: listen for a steady sound, look for chips of one colour that fly clear.",
    "Raise to the full feed; write down spindle load and what you hear.",
    "Stop after the first minute: spindle at rest, door open, look at edge, chips and clamping.",
    "Only then run on. When the sound changes, chips turn blue or the load climbs by a quarter: stop and look.",
)
#: what the operator writes down at the machine
READINGS = (
    "spindle load, %",
    "feed override, %",
    "sound (steady, hum, howl)",
    "chip colour",
    "edge after first part",
    "runout at the edge",
    "parts made",
    "reason for change",
)


@dataclass(frozen=True)
class SheetRow:
    """A number on the sheet; `other` is the other system's where people mix them."""

    label: str
    value: str
    other: str = ""


def sheet_html(
    job: Job,
    results: Sequence[Result],
    system: units.System,
    programs: Mapping[str, Sequence[str]] | None = None,
    *,
    today: datetime.date | None = None,
) -> str:
    """The sheet of a whole job.

    Parameters
    ----------
    job : Job
        The document.
    results : sequence of Result
        Of every cut, as they stand.
    system : {'metric', 'inch'}
        Units that come first.
    programs : mapping or None
        Sentences about the NC program of a cut, by the cut's id.
    today : date, optional
        Date on the sheet; the current one where left out.
    """
    parts = results[0].setup.parts
    return str(
        _template().render(
            job=job,
            machine=parts.machine,
            material=parts.material,
            hardness=_hardness(job),
            rate=_machine_rate(job, parts.machine.hourly_rate_cu),
            cuts=[
                {**_cut(number, result, system), "program": list((programs or {}).get(cut.id, ()))}
                for number, (cut, result) in enumerate(zip(job.cuts, results, strict=True), start=1)
            ],  # fmt: skip
            first_run=FIRST_RUN,
            readings=READINGS,
            date=(today or datetime.date.today()).isoformat(),
            version=__version__,
        )
    )


@cache
def _template() -> Any:
    from jinja2 import Environment, PackageLoader, StrictUndefined

    environment = Environment(
        loader=PackageLoader("lesna.report"),
        autoescape=True,
        finalize=lambda value: visible(value) if type(value) is str else value,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters["unbroken"] = lambda text: text.replace(" ", "\u00a0")
    return environment.get_template("sheet.html.j2")


def _hardness(job: Job) -> str:
    piece = job.workpiece
    if piece.hardness_hrc is not None:
        return units.HARDNESS.full(piece.hardness_hrc, "metric")
    return units.BRINELL.full(piece.hardness_hb, "metric") if piece.hardness_hb is not None else "as in the tables"


def _machine_rate(job: Job, own: float | None) -> str:
    rate = job.batch.machine_rate_per_h if job.batch.machine_rate_per_h is not None else own
    return units.MONEY.text(rate, "metric")


def _cut(number: int, result: Result, system: units.System) -> Mapping[str, Any]:
    parts = result.setup.parts
    svg = elevation_svg(elevation_of(parts), system)
    return {
        "number": number,
        "name": result.name,
        "strategy": names.STRATEGIES[parts.cut.strategy],
        "role": names.ROLES[parts.cut.role],
        "tool": parts.tool,
        "tool_name": parts.tool.name or parts.tool.id or f"{parts.tool.kind.replace('_', ' ')} DC {parts.tool.DC:g} mm",
        "holder": parts.holder,
        "coolant": names.COOLANTS[parts.cut.coolant],
        "direction": "down (climb)" if parts.cut.direction == "down" else "up (conventional)",
        "standing": result.standing,
        "limited_by": result.limited_by,
        "rows": [_row(FIGURES[id], result, system) for id in SHEET if applies(id, result)],
        "set": _set_up(result, system),
        "cautions": [
            (c.severity, units.said(c.text, system)) for c in cautions_of(result) if c.id not in _SAID_IN_FRONT
        ],
        "drawing": base64.b64encode(svg.encode()).decode(),
    }


def _row(figure: Figure, result: Result, system: units.System) -> SheetRow:
    other: units.System = "inch" if system == "metric" else "metric"
    mixed = figure.quantity.metric != figure.quantity.inch
    return SheetRow(figure.label, figure.full(result, system), figure.full(result, other) if mixed else "")


def _both(label: str, quantity: units.Quantity, value: float | None, system: units.System) -> SheetRow:
    """A number in the job's units, and beside it in the other ones where they differ."""
    other: units.System = "inch" if system == "metric" else "metric"
    mixed = quantity.metric != quantity.inch and value is not None
    return SheetRow(label, quantity.full(value, system), quantity.full(value, other) if mixed else "")


def _set_up(result: Result, system: units.System) -> list[SheetRow]:
    parts = result.setup.parts
    tool = parts.tool
    return [
        _both("Stick-out LPR", units.DIMENSION, parts.cut.stick_out_mm, system),
        _both("Diameter DC", units.DIMENSION, tool.DC, system),
        _both("Corner RE", units.DIMENSION, tool.corner or tool.RE, system),
        SheetRow("Flutes", f"{tool.ZEFP}"),
        _both("Flute length APMX", units.DIMENSION, tool.APMX, system),
        _both("Runout at the edge, at most", units.SMALL, parts.holder.runout_3xd_max_um, system),
    ]
