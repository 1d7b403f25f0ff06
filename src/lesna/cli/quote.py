"""`lesna quote`: what a batch takes in time, edges and money."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.common import mention_problems, not_over, open_job, open_kernels, open_library, print_json, write_output
from lesna.cli.programs import evaluated
from lesna.cli.refusal import about, fail, tell
from lesna.model import units
from lesna.model.resolve import all_parts
from lesna.model.shown import counted


@click.command("quote")
@click.argument("job_file", metavar="JOB", type=click.Path(path_type=Path))
@click.option("--parts", type=click.IntRange(1), help="Parts of the batch; those of the job where left out.")
@click.option("--changes", is_flag=True, help="Say what each cut would save, cut at its cheapest.")
@click.option("-o", "out", type=click.Path(path_type=Path), help="FILE.csv, FILE.html or FILE.pdf")
@click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
@click.pass_context
def quote(
    context: click.Context, job_file: Path, parts: int | None, changes: bool, out: Path | None, as_json: bool
) -> None:
    """Quote a batch of JOB: set-up, every cut, tool changes and edges, in minutes and money."""
    if out is not None and out.suffix.lower() not in (".csv", ".html", ".pdf"):
        fail(f"{out}: the name must end in .csv, .html or .pdf")
    from lesna.learning.batch import batch_spread
    from lesna.learning.told_batch import spread_data, spread_words
    from lesna.planning.quote import Change, changes_of, quote_of, told
    from lesna.report.quote import change_words, csv_of, quote_html

    job = open_job(job_file)
    if parts is not None:
        job = job.with_values(batch=job.batch.with_values(parts=parts))
    library = open_library()
    with about(job_file):
        results = evaluated(job, range(len(job.cuts)), library, job_file)
        found = quote_of(job, results)
        spread = batch_spread(found, results)
        better: tuple[Change, ...] = ()
        if changes:
            open_kernels(needed=True)
            better = changes_of(tuple(all_parts(job, library)), library)
    mention_problems(library)
    if out is not None:
        not_over(out)
        html = quote_html(job, found, better, spread)
        made = {
            ".csv": lambda: csv_of(found, better, spread).encode(),
            ".html": html.encode,
            ".pdf": lambda: context.obj.pdf_of(html),
        }
        write_output(out, made[out.suffix.lower()]())
    if as_json:
        print_json({
            "lesna": 1, "parts": found.parts, "setup_min": found.setup_minutes, "programming_min": found.programming_minutes,
            "tool_changes_min": found.changes_minutes,
            "rate_per_h": found.rate, "minutes_per_part": found.minutes_a_part, "minutes": found.minutes,
            "edges_per_part": sum(cut.edges or 0.0 for cut in found.cuts), "edges": found.edges,
            "machine_money": found.machine_money, "edge_money": found.edge_money, "money": found.money,
            "cost_per_part": None if found.money is None else found.money / found.parts,
            "programming_money": found.programming_money, "volume_cm3": found.volume, "money_per_cm3": found.price_per_volume,
            "usual_money_per_cm3": found.usual_price, "spread": spread_data(spread), "cuts": [{
                "name": cut.name, "tool": cut.tool, "time_basis": cut.basis or None, "minutes": cut.minutes, "edges": cut.edges,
                "machine_money": cut.machine_money, "edge_money": cut.edge_money, "volume_cm3": cut.volume,
            } for cut in found.cuts],
            "unknown": list(found.unknown), "unpriced": list(found.unpriced),
            "changes": [{
                "cut": change.cut, "way": change.way, "minutes": change.saving.minutes, "edges": change.saving.edges,
                "money": change.saving.money,
            } for change in better],
        })  # fmt: skip
        return
    lines = [f"{counted(found.parts, 'part')}: {told(found)}", spread_words(spread)]
    for cut in found.cuts:
        time = "time not known" if cut.minutes is None else f"{units.clock(cut.minutes)} min:s ({cut.basis})"
        lines.append(f"{cut.name}: {time}")
    for change in better:
        where, way, time, _, money = change_words(change)
        lines.append(f"{where}, cut like {way.lower()}: saves {time}, {counted(change.saving.edges, 'edge')}, {money}")
    tell("\n".join(lines))
    if out is not None:
        tell(f"{out} written")
