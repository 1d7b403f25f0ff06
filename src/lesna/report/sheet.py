"""The set-up sheet: what goes to the machine, as one HTML text."""

from __future__ import annotations

import base64
import datetime
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lesna import __version__
from lesna.geometry.elevation import elevation_of
from lesna.model import names, units
from lesna.model.job import Cut, Job
from lesna.model.shown import counted
from lesna.planning.cut.result import Result
from lesna.planning.program.told import OnSheet
from lesna.planning.quote import quote_of, told
from lesna.planning.telling.cautions import cautions_of
from lesna.planning.telling.entering import levels_line
from lesna.planning.telling.figures import FIGURES, SHEET, Figure, applies
from lesna.report.drawing import elevation_svg
from lesna.report.looks import Plan, form_of, ladder_of
from lesna.report.pages import template
from lesna.report.plan import plan_svg

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
#: size of the drawings [px]: the tool in its holder, and the feature from above
_WIDE, _HIGH, _PLAN = 230, 250, 170
#: where T and H are written in by hand
_BLANK = "T ____ H ____"
#: what the operator writes down at the machine
READINGS = (
    "spindle load, %",
    "feed override, %",
    "sound, steady?",
    "chip colour",
    "edge after one",
    "runout",
    "parts made",
    "why changed",
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
    programs: Mapping[str, OnSheet] | None = None,
    *,
    plans: Mapping[str, Plan] | None = None,
    has_form: bool = False,
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
        What is said of the NC program of a cut, by the cut's id.
    plans : mapping or None
        Ladders of test cuts that are kept, by the cut's id.
    has_form : bool
        Whether the form for a phone stands at its end, whose saved file is taken in as readings.
    today : date, optional
        Date on the sheet; the current one where left out.
    """
    parts = results[0].setup.parts
    return str(
        template("sheet.html.j2").render(
            job=job,
            machine=parts.machine,
            material=parts.material,
            hardness=_hardness(job),
            rate=_machine_rate(job, parts.machine.hourly_rate_cu),
            cuts=[
                _cut(number, result, system, (programs or {}).get(cut.id) or _unseen(cut), (plans or {}).get(cut.id))
                for number, (cut, result) in enumerate(zip(job.cuts, results, strict=True), start=1)
            ],  # fmt: skip
            parts=counted(job.batch.parts, "part"),
            quote=told(quote_of(job, results)),
            first_run=FIRST_RUN,
            readings=READINGS,
            form=form_of(job.title, results, plans or {}, system) if has_form else None,
            date=(today or datetime.date.today()).isoformat(),
            version=__version__,
        )
    )


def _hardness(job: Job) -> str:
    piece = job.workpiece
    if piece.hardness_hrc is not None:
        return units.HARDNESS.full(piece.hardness_hrc, "metric")
    return units.BRINELL.full(piece.hardness_hb, "metric") if piece.hardness_hb is not None else "as in the tables"


def _machine_rate(job: Job, own: float | None) -> str:
    rate = job.batch.machine_rate_per_h if job.batch.machine_rate_per_h is not None else own
    return units.MONEY.text(rate, "metric")


def _unseen(cut: Cut) -> OnSheet:
    """What is known of a program that nobody has simulated."""
    if cut.program is None:
        return OnSheet(())
    numbers = "" if cut.program.tool is None else f"T{cut.program.tool}"
    return OnSheet((f"{Path(cut.program.file).name}: not simulated for this sheet.",), "", numbers)


def _picture(svg: str) -> str:
    return base64.b64encode(svg.encode()).decode()


def _cut(
    number: int, result: Result, system: units.System, program: OnSheet, ladder: Plan | None = None
) -> Mapping[str, Any]:
    parts = result.setup.parts
    feature = parts.cut.feature
    plan = plan_svg(feature, system, width=_WIDE, height=_PLAN)
    return {
        "program": program,
        "ladder": ladder_of(ladder, system),
        "numbers": program.numbers or _BLANK,
        "levels": units.said(levels_line(result), system),
        "time": ""
        if result.part_time is None or result.timing is None
        else f"{units.clock(result.part_time)} min:s ({result.timing.basis})",
        "feature": _feature(result, system),
        "plan": _picture(plan) if plan else "",
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
        "taught": _taught(result),
        "limited_by": result.limited_by,
        "rows": _rows(SHEET, result, system),
        "set": _set_up(result, system),
        "cautions": [
            (c.severity, units.said(c.text, system)) for c in cautions_of(result) if c.id not in _SAID_IN_FRONT
        ],
        "drawing": _picture(elevation_svg(elevation_of(parts), system, width=_WIDE, height=_HIGH)),
    }


def _taught(result: Result) -> str:
    """What on the page comes from the shop's own trials; empty where nothing does."""
    lesson = result.setup.parts.lesson
    if lesson is None:
        return ""
    told = [
        f"{what} {source}" for what, source in (("edge life", lesson.of_life), ("force", lesson.of_force)) if source
    ]
    return f"By the shop's own trials: {', '.join(told)}." if told else ""


def _feature(result: Result, system: units.System) -> list[SheetRow]:
    """What is made, what is left on it, and what comes off."""
    feature = result.setup.parts.cut.feature
    if feature is None:
        return []
    rows = [
        _both(label, units.DIMENSION, value, system)
        for label, value in (("Depth", feature.depth_mm), ("Left on walls", feature.stock_wall_mm),
                             ("Left on floor", feature.stock_floor_mm)) if value is not None
    ]  # fmt: skip
    return [SheetRow("Feature", names.FEATURES[feature.kind]), *rows, *_rows(("chip_mass",), result, system)]


def _rows(ids: tuple[str, ...], result: Result, system: units.System) -> list[SheetRow]:
    return [_row(FIGURES[id], result, system) for id in ids if applies(id, result)]


def _row(figure: Figure, result: Result, system: units.System) -> SheetRow:
    other: units.System = "inch" if system == "metric" else "metric"
    mixed = figure.quantity.metric != figure.quantity.inch
    shown, beside = (figure.full(result, units_, taught=False) for units_ in (system, other))
    return SheetRow(figure.label, shown, beside if mixed else "")


def _both(label: str, quantity: units.Quantity, value: float | None, system: units.System) -> SheetRow:
    """A number in the job's units, and beside it in the other ones where they differ."""
    other: units.System = "inch" if system == "metric" else "metric"
    mixed = quantity.metric != quantity.inch and value is not None
    return SheetRow(label, quantity.full(value, system), quantity.full(value, other) if mixed else "")


def _set_up(result: Result, system: units.System) -> list[SheetRow]:
    parts = result.setup.parts
    tool = parts.tool
    return [
        _both("Stick-out", units.DIMENSION, parts.cut.stick_out_mm, system),
        _both("Diameter DC", units.DIMENSION, tool.DC, system),
        _both("Corner RE", units.DIMENSION, tool.corner or tool.RE, system),
        SheetRow("Flutes", f"{tool.ZEFP}"),
        _both("Flute length", units.DIMENSION, tool.APMX, system),
        _both("Runout up to", units.SMALL, parts.holder.runout_3xd_max_um, system),
    ]
