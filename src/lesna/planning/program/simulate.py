"""A program's bytes to its run, as the job names it."""

from __future__ import annotations

from collections.abc import Mapping

from lesna.model.job import ProgramRef
from lesna.model.resolve import CutParts
from lesna.nc.read import read_program
from lesna.planning.program.run import Run, Tell, geometry_of, run_of
from lesna.planning.program.work import Work, stock_from_text, stock_of_feature
from lesna.stock.body import Body


def simulate(
    content: bytes,
    parts: CutParts,
    ref: ProgramRef,
    others: Mapping[int, Body],
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
    tell : callable or None
        Told (done, total); may raise to stop [-].

    Raises
    ------
    InputError
        With the line, or what the stock lacks.
    """
    program = read_program(content, tell)
    held = stock_from_text(ref.stock) if ref.stock else stock_of_feature(parts)
    return run_of(geometry_of(program, Work(parts, held, tool=ref.tool, others=others), tell))
