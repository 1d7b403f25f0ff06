"""A program's bytes to its run, as the job names it."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from lesna.model.job import ProgramRef
from lesna.model.resolve import CutParts
from lesna.nc.read import read_program
from lesna.planning.program.run import Run, Tell, geometry_of, run_of
from lesna.planning.program.stock import stock_for
from lesna.planning.program.work import Work
from lesna.stock.body import Body


def simulate(
    content: bytes,
    parts: CutParts,
    ref: ProgramRef,
    others: Mapping[int, Body],
    folder: Path | None = None,
    tell: Tell | None = None,
) -> Run:
    """Reads a program and takes it through the stock.

    Parameters
    ----------
    content : bytes
        The file.
    parts : CutParts
        The cut it makes.
    ref : ProgramRef
        What the cut says of it: stock and T number.
    others : mapping of int to Body
        Radius of the cutters of other T numbers [mm].
    folder : Path or None
        Where names of stock files begin.
    tell : callable or None
        Told (done, total); may raise to stop [-].

    Raises
    ------
    InputError
        With the line, or what the stock lacks.
    """
    program = read_program(content, tell)
    held = stock_for(ref.stock, parts, folder)
    return run_of(geometry_of(program, Work(parts, held, tool=ref.tool, others=others), tell))
