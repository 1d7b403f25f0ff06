"""`lesna compare`: the schools of roughing on the feature of a cut."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.refusal import about, tell
from lesna.model import units
from lesna.model.resolve import parts_of
from lesna.model.shown import counted
from lesna.planning.evaluate import seen_from
from lesna.planning.schools.compare import compare
from lesna.planning.schools.lanes import Comparison, Lane, saving
from lesna.planning.search.aims import AIMS, Aim
from lesna.planning.telling.verdicts import to_json, verdict


@click.command("compare")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut whose feature is compared.")
@click.option("--aim", type=click.Choice(list(AIMS)), default="cost", show_default=True, help="What counts.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
def compare_command(job_file: Path, name: str, aim: Aim, as_json: bool) -> None:
    """Compare the schools of roughing on the feature of a cut of JOB, each at its own best admissible point."""
    job = open_job(job_file)
    library = open_library()
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        open_kernels(needed=True)
        parts = parts_of(job, index, library)
        with seen_from(index):
            comparison = compare(parts, library, aim)
    mention_problems(library)
    if as_json:
        print_json(to_json(comparison, job.units))
    else:
        tell(_text(comparison, job.units))


def _text(comparison: Comparison, system: units.System) -> str:
    lines = [f"{comparison.parts.cut.name}: {AIMS[comparison.aim].lower()}"]
    for rank, lane in enumerate(comparison.lanes, start=1):
        if lane.is_there:
            lines += ["", f"{rank}. {lane.strategy.name}: {_figures(lane, system)}"]
        else:
            lines += ["", f"-  {lane.strategy.name}"]
        lines.append(f"   {units.said(verdict(comparison, lane), system)}")
        if lane.note:
            lines.append(f"   {units.said(lane.note, system)}")
    winner = comparison.winner
    gain = saving(comparison, winner) if winner else None
    if gain is not None:
        figures = [_saved(gain.minutes, "min"), _saved(gain.edges, f"edges (now {gain.edges_now})")]
        if gain.money is not None:
            figures.append(_saved(gain.money, "in money"))
        lines += [
            "",
            f"Against the cut as it stands, {counted(comparison.parts.batch.parts, 'part')}: {', '.join(figures)}",
        ]
    return "\n".join(lines)


def _saved(amount: float, what: str) -> str:
    return f"{abs(amount):.0f} {what} {'saved' if amount >= 0 else 'more'}"


def _figures(lane: Lane, system: units.System) -> str:
    cost = "" if lane.cost is None else f", {lane.cost:.2f} a part"
    points = "; ".join(
        f"ae {units.LENGTH.text(f.point.ae, system)}, ap {units.LENGTH.full(f.point.ap, system)}"
        for _, f in lane.stages
    )
    return (
        f"{units.clock(lane.minutes)}, {units.REMOVAL.full(lane.q, system)}, edge {lane.life:.0f} min{cost} ({points})"
    )
