"""The set-up sheet: what goes to the machine, as one HTML text."""

from __future__ import annotations

import base64
import datetime
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from lesna import __version__
from lesna.geometry.elevation import elevation_of
from lesna.model import units
from lesna.model.job import Job
from lesna.model.resolve import Shelf
from lesna.planning.cut.result import Result
from lesna.planning.evaluate import evaluate_fully
from lesna.report.drawing import elevation_svg

#: what the operator does the first time, in order
FIRST_RUN = (
    "Read the cautions. Check tool, holder, insertion depth, stick-out, runout and clamping against this sheet.",
    "Touch off, set the work zero, lift to a safe height and run once above the part.",
    "Guard closed, rapid at 25 %, single block; a hand on the feed override.",
    "First bite at half the feed: listen for a steady sound, look for chips of one colour that fly clear.",
    "Raise to the full feed; write down spindle load and what you hear.",
    "Stop after the first minute: spindle at rest, door open, look at edge, chips and clamping.",
    "Only then run on. When the sound changes, chips turn blue or the load climbs by a quarter: stop and look.",
)
#: what comes back from the machine
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
class Row:
    """A number on the sheet; `other` is the other system's where people mix them."""

    label: str
    value: str
    other: str = ""


def sheet_html(job: Job, shelf: Shelf, *, today: datetime.date | None = None) -> str:
    """The sheet of a whole job.

    Parameters
    ----------
    job : Job
        The document.
    shelf : Shelf
        Library that ids are looked up in.
    today : date, optional
        Date on the sheet; the current one where left out.

    Raises
    ------
    InputError
        When a cut cannot be computed.
    """
    results = [evaluate_fully(job, index, shelf) for index in range(len(job.cuts))]
    parts = results[0].setup.parts
    return str(
        _template().render(
            job=job,
            machine=parts.machine,
            material=parts.material,
            hardness=_hardness(job),
            rate=_machine_rate(job, parts.machine.hourly_rate_cu),
            cuts=[_cut(number, result) for number, result in enumerate(results, start=1)],
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


def _cut(number: int, result: Result) -> Mapping[str, Any]:
    parts, system = result.setup.parts, result.setup.parts.job.units
    svg = elevation_svg(elevation_of(parts), system)
    grave = [caution for caution in result.cautions if caution.severity != "note"]
    return {
        "number": number,
        "name": result.name,
        "strategy": parts.cut.strategy.replace("_", " "),
        "role": parts.cut.role,
        "tool": parts.tool,
        "tool_name": parts.tool.name or parts.tool.id or f"{parts.tool.kind.replace('_', ' ')} DC {parts.tool.DC:g} mm",
        "holder": parts.holder,
        "coolant": parts.cut.coolant.replace("_", " "),
        "direction": "down (climb)" if parts.cut.direction == "down" else "up (conventional)",
        "standing": result.standing,
        "limited_by": result.limited_by,
        "rows": _rows(result, system),
        "set": _set_up(result, system),
        "cautions": [*grave, *(c for c in result.cautions if c.severity == "note")],
        "drawing": base64.b64encode(svg.encode()).decode(),
    }


def _both(label: str, quantity: units.Quantity, value: float | None, system: units.System) -> Row:
    """A number in the job's units, and beside it in the other ones where they differ."""
    other: units.System = "inch" if system == "metric" else "metric"
    mixed = quantity.metric != quantity.inch and value is not None
    return Row(label, quantity.full(value, system), quantity.full(value, other) if mixed else "")


def _set_up(result: Result, system: units.System) -> list[Row]:
    parts = result.setup.parts
    tool = parts.tool
    return [
        _both("Stick-out LPR", units.DIMENSION, parts.cut.stick_out_mm, system),
        _both("Diameter DC", units.DIMENSION, tool.DC, system),
        _both("Corner RE", units.DIMENSION, tool.corner or tool.RE, system),
        Row("Flutes", f"{tool.ZEFP}"),
        _both("Flute length APMX", units.DIMENSION, tool.APMX, system),
        _both("Runout at the edge, at most", units.SMALL, parts.holder.runout_3xd_max_um, system),
    ]


def _rows(result: Result, system: units.System) -> list[Row]:
    s = result.state
    return [
        _both("Spindle S", units.SPINDLE_SPEED, s.n, system),
        _both("Feed F", units.FEED, s.vf, system),
        _both("Stepover ae", units.LENGTH, s.ae, system),
        _both("Depth ap", units.LENGTH, s.ap, system),
        _both("Surface speed vc", units.SURFACE_SPEED, s.vc, system),
        _both("Per tooth fz", units.CHIP, s.fz, system),
        _both("Thickest chip hex", units.CHIP, s.hex, system),
        _both("Removal Q", units.REMOVAL, s.q, system),
        _both("Motor", units.POWER, s.power_motor, system),
        Row("Spindle load S1", f"{s.power_motor / s.power_s1:.0%}"),
        _both("Torque", units.TORQUE, s.torque, system),
        *_economy_rows(result),
        Row("In the cut, a part", f"{units.clock(result.cut_time)} min:s" if result.cut_time is not None else "–"),
    ]


def _economy_rows(result: Result) -> list[Row]:
    """When to change the edge: the first thing to know when nobody stands beside the machine."""
    e = result.economy
    if e is None:
        return []
    rows = [Row("Edge life, median", units.LONG_MINUTES.full(e.life, "metric"))]
    if e.change_after:
        rows.append(Row("Change the edge after", f"{e.change_after} part" + ("s" if e.change_after > 1 else "")))
    else:
        rows.append(Row("Change the edge after", units.LONG_MINUTES.full(e.safe_life, "metric")))
    return rows
