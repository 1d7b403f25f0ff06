"""A program's bytes to its run: for the command line, the window, the sheet, levelled forms and paths of Lesna's own alike."""

from __future__ import annotations

from collections.abc import Mapping

from lesna.geometry.kinematics import kinematics_of
from lesna.model.errors import InputError
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Program
from lesna.nc.read import read_program
from lesna.planning.program.geometry import Geometry
from lesna.planning.program.run import Run, geometry_of, run_of
from lesna.planning.program.stock import Stock, stock_of_program
from lesna.planning.program.work import PLAIN_LOOK, Look, Work
from lesna.stock.body import Body


def simulate(
    content: bytes, parts: CutParts, stock: Stock | None, look: Look = PLAIN_LOOK, others: Mapping[int, Body] | None = None, *,
    tool: int | None = None, pulse: Pulse = STEADY, reach: tuple[float, float] = (1.0, 1.0), known: Run | None = None,
) -> Run:  # fmt: skip
    """Reads a program, takes it through the stock and finds what the cut does on its way.

    Parameters and errors as `taken_through`, and beside them

    Parameters
    ----------
    reach : tuple of float
        Least and greatest feed that will be asked for, over the program's [-].
    known : Run or None
        Of the same cut and stock: where that program makes the same motion, in as many blocks or more, what is met is the same.
    """
    program = _read(content, parts, pulse)
    if known is not None:
        try:
            return run_of(known.geometry.respelled(program), reach=reach)
        except InputError:
            pass  # it goes another way
    return run_of(_taken_through(program, parts, stock, look, others, tool, pulse), reach=reach)


def taken_through(
    content: bytes, parts: CutParts, stock: Stock | None, look: Look = PLAIN_LOOK, others: Mapping[int, Body] | None = None, *,
    tool: int | None = None, pulse: Pulse = STEADY,
) -> Geometry:  # fmt: skip
    """Reads a program and takes it through the stock.

    Parameters
    ----------
    content : bytes
        The file.
    parts : CutParts
        The cut it makes.
    stock : Stock or None
        What it begins with; None where nobody has said: then it is as large as where the program goes, which is told.
    look : Look
        How finely it is looked at.
    others : mapping of int to Body
        Cutters of other T numbers.
    tool : int or None
        T number that is judged; None where the program has one.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        With the line, or what the stock lacks.
    """
    return _taken_through(_read(content, parts, pulse), parts, stock, look, others, tool, pulse)


def _read(content: bytes, parts: CutParts, pulse: Pulse) -> Program:
    pulse.begin("reading")
    program = read_program(content, pulse, kinematics_of(parts.machine))
    pulse.begin("simulating")
    return program


def _taken_through(
    program: Program, parts: CutParts, stock: Stock | None, look: Look, others: Mapping[int, Body] | None, tool: int | None,
    pulse: Pulse,
) -> Geometry:  # fmt: skip
    if stock is None and program.kinematics is not None:
        raise InputError(
            "its stock is not known and cannot be told from where a leaning tool goes; give it as block:X0,Y0,Z0,X1,Y1,Z1, a closed "
            "STL file, or revolved:FILE.dxf:LAYER", "stock",
        )  # fmt: skip
    if stock is None:
        stock = stock_of_program(program.moves, tool, parts.tool.DC / 2)
    return geometry_of(program, Work(parts, stock, look, tool, others or {}), pulse)
