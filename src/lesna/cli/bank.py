"""`lesna bank`: what the shop keeps."""

from __future__ import annotations

from pathlib import Path

import click

from lesna.cli.banks import bank_option, end_with, open_bank, take_file
from lesna.cli.common import print_json, write_output
from lesna.cli.refusal import LIMIT_EXCEEDED, about, fail, tell
from lesna.model.shown import counted

_JSON = click.option("--json", "as_json", is_flag=True, help="One JSON object on standard output.")
_KINDS = ("recipes", "trials", "tools", "standards", "holders", "machines", "materials")


@click.group("bank")
def bank() -> None:
    """List, check, import and export what the shop keeps."""


@bank.command("list")
@click.option("--kind", type=click.Choice(_KINDS), help="Only this kind.")
@bank_option
@_JSON
def list_command(kind: str | None, address: str | None, as_json: bool) -> None:
    """What is kept."""
    from lesna.bank.exchange import listed
    from lesna.bank.store import KINDS

    with open_bank(address) as opened, about(Path(opened.label)):
        found = listed(opened, KINDS if kind is None else (kind,))  # type: ignore[arg-type]
    if as_json:
        print_json(found)
        return
    lines = []
    for what, entries in found.items():
        for entry in entries:
            more = (
                f": {counted(entry['edges'], 'edge')}, {counted(len(entry['readings']), 'reading')}"
                if what == "trials"
                else ""
            )
            lines.append(f"{what[:-1]}  {entry['id']}{more}")
    tell("\n".join(lines) or "nothing is kept yet; `lesna trial log FILE.csv` adds readings")


@bank.command("import")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--who", default="", help="Who brings it.")
@bank_option
def import_command(file: Path, who: str, address: str | None) -> None:
    """Take in the readings and records of FILE.csv or FILE.json."""
    from lesna.bank.exchange import told

    done = take_file(file, address, who)
    tell(told(done))
    end_with(done)


@bank.command("export")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--kind", type=click.Choice(_KINDS), help="Only this kind.")
@bank_option
def export_command(file: Path, kind: str | None, address: str | None) -> None:
    """Write everything to FILE.json, or the readings to FILE.csv."""
    from lesna.bank.exchange import csv_of, json_of
    from lesna.bank.store import KINDS

    suffix = file.suffix.lower()
    if suffix not in (".csv", ".json"):
        fail(f"{file}: the name must end in .csv or .json")
    if suffix == ".csv" and kind not in (None, "trials"):
        fail(f"{file}: a CSV holds readings; export {kind} as .json")
    with open_bank(address) as opened, about(Path(opened.label)):
        text = csv_of(opened.readings()) if suffix == ".csv" else json_of(opened, KINDS if kind is None else (kind,))  # type: ignore[arg-type]
    write_output(file, text.encode())
    tell(f"{file} written")


@bank.command("check")
@bank_option
@_JSON
def check_command(address: str | None, as_json: bool) -> None:
    """Whether the store is whole."""
    with open_bank(address) as opened, about(Path(opened.label)):
        problems, counts = opened.problems(), opened.counts()
        data = {"ok": not problems, **counts, "schema": opened.schema, "problems": problems}
    if as_json:
        print_json(data)
    else:
        held = f"{counted(counts['edges'], 'edge')}, {counted(counts['readings'], 'reading')}, {counted(counts['recipes'], 'recipe')}"
        tell(
            "\n".join([f"{opened.label}: {held}, schema {opened.schema}", *problems]) + ("" if problems else ": sound")
        )
    if problems:
        raise SystemExit(LIMIT_EXCEEDED)
