"""`lesna stability`: where a cut begins to chatter, over the speed and over the stepover."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import click
import numpy as np

from lesna.cli.common import chosen, mention_problems, open_job, open_kernels, open_library, print_json
from lesna.cli.refusal import about, fail, tell
from lesna.model import units
from lesna.model.resolve import parts_of
from lesna.planning.chatter import stability
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.evaluate import result_of

#: stepovers over which the estimate is given
_STEPOVERS = 14


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
        by_table = None if setup.parts.cut.is_judged_by_modes else estimated_depth(setup, setup.parts.cut.ae_mm)
        if by_table is None and not setup.parts.cut.is_judged_by_modes:
            fail(f"{name}: the tables name no depths for this edge in this material; measure the tip (tap_modes)")
        estimate = by_table if method == "auto" else None
        if estimate is None:
            open_kernels(needed=True)
            speed = stability.over_speed(setup, method=method)
            over_n, over_ae = _field(speed, "n_rpm"), _field(stability.over_stepover(setup, method=method), "ae_mm")
            advice = stability.advice_of(setup, speed)
        else:
            over_n, over_ae = _estimated(setup)
            advice = None  # an estimate knows no better speed
    mention_problems(library)
    result = result_of(setup, chatter_of(setup), wait=False)
    assert result.chatter is not None  # the tip is measured, or the tables name a depth
    if as_json:
        better = None if advice is None else {"n_rpm": advice.n, "ap_mm": advice.ap}
        print_json({
            "lesna": 1, "title": job.title, "cut": name, "basis": result.chatter.basis, "n_rpm": result.state.n, "ap_mm": result.state.ap,
            "ae_mm": result.state.ae, "ap_boundary_mm": result.chatter.depth,
            "ap_low_mm": result.chatter.low, "ap_high_mm": result.chatter.high,
            "margin_mm": result.chatter.depth - result.state.ap, "chatter_frequency_hz": result.chatter.frequency,
            "over_n": over_n, "over_ae": over_ae, "better_speed": better,
            "modes": [_modes(setup, axis) for axis in (0, 1)],
        })  # fmt: skip
        return
    depth = units.LENGTH.full(result.chatter.depth, job.units)
    how = (
        "estimate, not measured"
        if result.chatter.basis == "estimate"
        else f"{result.chatter.basis}, {result.chatter.method} method"
    )
    tell(f"{name}: ap {units.LENGTH.full(result.state.ap, job.units)}, boundary {depth} ({how})")
    if result.chatter.basis == "estimate":
        low, high = (
            units.ROUGH_LENGTH.text(result.chatter.low, job.units),
            units.ROUGH_LENGTH.full(result.chatter.high, job.units),
        )
        tell(f"  somewhere between {low} and {high}; tap the tool or listen to the cut to know better")
        return
    if result.chatter.frequency:
        tell(f"  chatter to be expected near {result.chatter.frequency:.0f} Hz")
    tell(f"  nearest better speed: {'none within 15 %' if advice is None else f'{advice.n:.0f} rpm'}")


def _estimated(setup: CutSetup) -> tuple[dict[str, Any], dict[str, Any]]:
    """The estimate over the speed, of which it knows nothing, and over the stepover."""
    DC, cut = setup.shape.DC, setup.parts.cut
    speeds = stability.speeds_around(setup, result_of(setup, wait=False).state.n)
    stepovers = np.geomspace(0.01 * DC, DC, _STEPOVERS)
    fields = []
    for axis, places, ae in (("n_rpm", speeds, np.full(len(speeds), cut.ae_mm)), ("ae_mm", stepovers, stepovers)):
        depths = estimated_depth(setup, ae)
        assert depths is not None  # known at the cut's own stepover, so at every one
        count = len(places)
        fields.append({
            axis: places.tolist(), "ap_mm": depths.tolist(), "frequency_hz": [0.0] * count, "method": ["anchored"] * count,
            "deepest_mm": max(stability.deepest_of(setup), float(depths.max())),
        })  # fmt: skip
    return fields[0], fields[1]


def _field(field: stability.Growth, axis: str) -> dict[str, Any]:
    return {axis: field.places.tolist(), "ap_mm": field.lowest().tolist(), "frequency_hz": field.frequency.tolist(),
            "method": list(field.methods), "deepest_mm": field.deepest}  # fmt: skip


def _modes(setup: Any, axis: int) -> list[dict[str, float]]:
    return [{"f_hz": m.frequency, "k_n_um": m.stiffness, "zeta": m.zeta} for m in stability.modes_of(setup)[axis]]
