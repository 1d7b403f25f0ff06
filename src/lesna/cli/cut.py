"""`lesna cut`: computes the cuts of a job."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.refusal import LIMIT_EXCEEDED, about
from lesna.model import units
from lesna.planning.cut.result import Result
from lesna.planning.evaluate import evaluate_fully


@click.command("cut")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="Only the cut of this name.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
@click.option("--strict", is_flag=True, help="Exit code 1 when a limit is exceeded.")
def cut(job_file: Path, name: str | None, as_json: bool, strict: bool) -> None:
    """Compute every cut of JOB, or one."""
    job = open_job(job_file)
    library = open_library()
    open_kernels(needed=False)
    with about(job_file):
        results = [evaluate_fully(job, index, library) for index in chosen(job, job_file, name)]
    mention_problems(library)
    if as_json:
        print_json({"lesna": 1, "title": job.title, "cuts": [result.to_json() for result in results]})
    else:
        click.echo("\n\n".join(_text(result) for result in results))
    if strict and any(limit.is_exceeded for result in results for limit in result.limits):
        raise SystemExit(LIMIT_EXCEEDED)


def _text(result: Result) -> str:
    s, system = result.state, result.setup.parts.job.units
    head = f"{result.name}: {result.standing}"
    if result.limited_by:
        head += f", held back by {result.limited_by.rule.name.lower()} ({result.limited_by.use:.0%})"
    rows = [
        ("spindle", units.SPINDLE_SPEED.full(s.n, system), "surface speed", units.SURFACE_SPEED.full(s.vc, system)),
        ("feed", units.FEED.full(s.vf, system), "per tooth", units.CHIP.full(s.fz, system)),
        ("thickest chip", units.CHIP.full(s.hex, system), "mean chip", units.CHIP.full(s.hm, system)),
        ("removal", units.REMOVAL.full(s.q, system), "motor", units.POWER.full(s.power_motor, system)),
        ("torque", units.TORQUE.full(s.torque, system), "peak torque", units.TORQUE.full(s.torque_peak, system)),
        ("peak force", units.FORCE.full(s.fxy_peak, system), "pull-out", units.FORCE.full(s.pull_out, system)),
        ("deflection", units.SMALL.full(s.deflection, system), "ripple", units.RATIO.text(result.ripple, system)),
    ]
    if result.economy is not None:
        e = result.economy
        rows.append(
            (
                "edge life",
                units.LONG_MINUTES.full(e.life, system),
                "safe alone",
                units.LONG_MINUTES.full(e.safe_life, system),
            )
        )
        rows.append(("part", units.clock(e.time_per_part), "cost", units.MONEY.text(e.cost_per_part, system)))
    lines = [head] + [f"  {a:14}{b:>16}   {c:14}{d:>16}" for a, b, c, d in rows]
    lines += [f"  ! {c.text}" for c in result.cautions if c.severity != "note"]
    return "\n".join(lines)
