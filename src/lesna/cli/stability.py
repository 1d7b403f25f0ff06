"""`lesna stability`: where a cut begins to chatter, over the speed and over the stepover."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import click

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.refusal import about
from lesna.model import units
from lesna.model.resolve import parts_of
from lesna.planning.chatter import stability
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of


@click.command("stability")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--cut", "name", required=True, help="The cut.")
@click.option("--method", type=click.Choice(["auto", "fast", "sure"]), default="auto", show_default=True)
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
def stability_command(job_file: Path, name: str, method: Literal["auto", "fast", "sure"], as_json: bool) -> None:
    """Compute the depth at which a cut of JOB begins to chatter, over spindle speed and over stepover."""
    job = open_job(job_file)
    library = open_library()
    with about(job_file):
        index = chosen(job, job_file, name)[0]
        setup = setup_of(parts_of(job, index, library))
        open_kernels(needed=True)
        speed = stability.over_speed(setup, method=method)
        stepover = stability.over_stepover(setup, method=method)
    mention_problems(library)
    result = result_of(setup, chatter_of(setup))
    advice = stability.advice_of(setup, speed)
    assert result.chatter is not None  # the field was given
    if as_json:
        better = None if advice is None else {"n_rpm": advice.n, "ap_mm": advice.ap}
        print_json({
            "lesna": 1, "title": job.title, "cut": name, "n_rpm": result.state.n, "ap_mm": result.state.ap,
            "ae_mm": result.state.ae, "ap_boundary_mm": result.chatter.depth,
            "margin_mm": result.chatter.depth - result.state.ap, "chatter_frequency_hz": result.chatter.frequency,
            "over_n": _field(speed, "n_rpm"), "over_ae": _field(stepover, "ae_mm"), "better_speed": better,
            "modes": [_modes(setup, axis) for axis in (0, 1)],
        })  # fmt: skip
        return
    depth = units.LENGTH.full(result.chatter.depth, job.units)
    click.echo(
        f"{name}: ap {units.LENGTH.full(result.state.ap, job.units)}, boundary {depth} ({result.chatter.method})"
    )
    if result.chatter.frequency:
        click.echo(f"  chatter to be expected near {result.chatter.frequency:.0f} Hz")
    click.echo(f"  nearest better speed: {'none within 15 %' if advice is None else f'{advice.n:.0f} rpm'}")


def _field(field: stability.Growth, axis: str) -> dict[str, Any]:
    return {axis: field.places.tolist(), "ap_mm": field.lowest().tolist(), "frequency_hz": field.frequency.tolist(),
            "method": list(field.methods), "deepest_mm": field.deepest}  # fmt: skip


def _modes(setup: Any, axis: int) -> list[dict[str, float]]:
    return [{"f_hz": m.frequency, "k_n_um": m.stiffness, "zeta": m.zeta} for m in stability.modes_of(setup)[axis]]
