"""The map and one evaluation, warm, one thread."""

from __future__ import annotations

import statistics

from bench.timing import millis, report
from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.model.files import load_job
from lesna.model.resolve import parts_of
from lesna.physics import engine
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of
from lesna.planning.search.engagement_map import map_of


def main() -> None:
    """Prints the medians for the demo's rough cavity."""
    job = load_job(shipped_folder() / "demo" / "sluice-hinge-block.lesna")
    setup = setup_of(parts_of(job, 1, Library()))
    engine.ready()  # as in the window, where the compiled sums are loaded
    map_of(setup)
    whole = millis(lambda: map_of(setup), 40)
    point = millis(lambda: result_of(setup), 200)
    report(
        "map 96 x 96, all limits and both best points",
        median_ms=statistics.median(whole),
        of_50_ms=statistics.median(whole) / 50,
    )
    report(
        "one evaluation with limits and cautions",
        median_ms=statistics.median(point),
        of_5_ms=statistics.median(point) / 5,
    )
