"""The plan of unattended hours as a page that hangs beside the machine."""

from __future__ import annotations

import base64
import datetime

from lesna import __version__
from lesna.learning.run_plan import RunPlan
from lesna.learning.told_batch import UNATTENDED, plan_sentence, stop_words, tool_words
from lesna.model.job import Job
from lesna.report.pages import template
from lesna.report.time_line import time_line_svg

#: width of the time line on the page [px]
_WIDTH = 640.0


def run_plan_html(job: Job, plan: RunPlan, *, today: datetime.date | None = None) -> str:
    """The page of a run plan.

    Parameters
    ----------
    job : Job
        The document.
    plan : RunPlan
        Its hours.
    today : date, optional
        Date on the page; the current one where left out.
    """
    return str(
        template("run-plan.html.j2").render(
            job=job,
            summary=plan_sentence(plan),
            first=plan.stops_first,
            is_short=plan.lasts < plan.watch.hours,
            lasts=f"{plan.lasts:.1f}",
            survival=f"{100 * plan.watch.survival:g}",
            line=base64.b64encode(time_line_svg(plan, _WIDTH).encode()).decode(),
            tools=[tool_words(tool) for tool in plan.tools],
            stops=[stop_words(stop, plan.watch) for stop in plan.stops],
            caution=UNATTENDED,
            date=(today or datetime.date.today()).isoformat(),
            version=__version__,
        )
    )
