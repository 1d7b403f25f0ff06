"""The program that a cut names: simulated from its file, and how long the cut takes by it."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Literal

from lesna.model.files import read_bytes
from lesna.model.job import ProgramRef
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.words import MOST_BYTES
from lesna.planning.cut.economy import Timing
from lesna.planning.program.preceding import Preceding, stock_of_program_of
from lesna.planning.program.run import Run
from lesna.planning.program.simulate import simulate
from lesna.planning.program.summary import Summary
from lesna.stock.body import Body


def run_of_cut(
    parts: CutParts, ref: ProgramRef, folder: Path | None, others: Mapping[int, Body], pulse: Pulse = STEADY,
    content: bytes | None = None, *, before: Preceding | None = None,
) -> Run:  # fmt: skip
    """A cut's program through the stock that the cut names for it.

    Parameters
    ----------
    parts : CutParts
        The cut.
    ref : ProgramRef
        Its program.
    folder : Path or None
        Where names of files count from.
    others : mapping of int to Body
        Cutters of other T numbers.
    pulse : Pulse
        Told how far it is.
    content : bytes or None
        Of the file, where it has been read.
    before : Preceding or None
        The cut whose program leaves the stock, where the stock is named so.

    Raises
    ------
    LesnaError
        When the program or its stock cannot be read.
    """
    if content is None:
        content = read_bytes((folder or Path()) / ref.file, largest=MOST_BYTES)
    stock = stock_of_program_of(parts, ref, folder, before, pulse)
    return simulate(content, parts, stock, others=others, tool=ref.tool, pulse=pulse)


def timed(summary: Summary, basis: Literal["program", "path"] = "program") -> Timing:
    """The minutes of a simulated program."""
    return Timing(basis, summary.cut_time / 60.0, (summary.time - summary.cut_time) / 60.0, summary.held)
