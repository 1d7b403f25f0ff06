"""Schools of roughing on the demo cavity and the shop's tools for it, warm, with nothing remembered from before."""

from __future__ import annotations

import statistics

from bench.timing import millis, report
from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.physics import engine
from lesna.planning.chatter import stability
from lesna.planning.schools.compare import compare
from lesna.planning.schools.ranking import rank_tools


def main() -> None:
    """Prints seconds for each aim, and for the ranking."""
    engine.ready()
    job, library = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna"), Library()
    parts = parts_of(job, job.cut_named("Rough cavity"), library)
    compare(parts, library)
    for aim in ("time", "cost", "life", "unattended"):

        def fresh(aim: str = aim) -> None:
            stability.forget()
            compare(parts, library, aim)  # type: ignore[arg-type]

        report(f"every school on the demo cavity, aim {aim}", median_s=statistics.median(millis(fresh, 5)) / 1000)
    stability.forget()
    report(
        f"{len(library.tools)} tools, every school",
        s=millis(lambda: rank_tools(parts, library, "cost"), 1)[0] / 1000,
    )
