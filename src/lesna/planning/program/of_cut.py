"""The program that a cut names: simulated from its file, and how long the cut takes by it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Literal

from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_bytes
from lesna.model.job import ProgramRef
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.words import MOST_BYTES
from lesna.physics.motion import Times
from lesna.planning.cut.economy import Timing
from lesna.planning.program.geometry import Geometry
from lesna.planning.program.preceding import Preceding
from lesna.planning.program.run import Run, held_feed
from lesna.planning.program.simulate import simulate, taken_through
from lesna.planning.program.stock import Stock, stock_for
from lesna.planning.program.work import PLAIN_LOOK
from lesna.stock.body import Body

#: webs take no time, and telling them takes a third of all
_NO_WEBS = replace(PLAIN_LOOK, sliver=0.0)


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
    return simulate(
        content, parts, _stock(parts, ref, folder, before, pulse), others=others, tool=ref.tool, pulse=pulse
    )


def time_of_cut(
    parts: CutParts, ref: ProgramRef, folder: Path | None, others: Mapping[int, Body], content: bytes, before: Preceding | None,
    pulse: Pulse = STEADY,
) -> Timing:  # fmt: skip
    """How long a cut takes by its program: no force is asked for (parameters and errors as `run_of_cut`)."""
    stock = _stock(parts, ref, folder, before, pulse)
    geometry = taken_through(content, parts, stock, _NO_WEBS, others, tool=ref.tool, pulse=pulse)
    return timed(geometry, geometry.times_at(geometry.program.moves.feed[geometry.steps.move]))


def _stock(
    parts: CutParts, ref: ProgramRef, folder: Path | None, before: Preceding | None, pulse: Pulse
) -> Stock | None:
    return stock_for(ref.stock, parts, folder) if before is None else stock_after(before, pulse)


def stock_after(before: Preceding, pulse: Pulse = STEADY) -> Stock:
    """What the program of a cut leaves.

    Parameters
    ----------
    before : Preceding
        The cut.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When its program cannot be had or run.
    """
    try:
        run = run_before(before, pulse)
    except InputError as error:
        raise error.inside("stock") from None
    stock = run.geometry.work.stock
    return replace(stock, left=run.geometry.left, told=f"what '{before.name}' leaves", is_given=True, others=())


def run_before(before: Preceding, pulse: Pulse = STEADY, own: Callable[[CutParts, Pulse], Run] | None = None) -> Run:
    """The program of a cut that goes before, or what `own` makes of a cut that names none (errors as in `stock_after`)."""
    if before.trouble or before.parts is None or (before.ref is None and own is None):
        raise InputError(f"what goes before is not known: {before.trouble}")
    parts, pulse = before.parts, pulse.within("what goes before")
    try:
        if before.ref is None and own is not None:
            return own(parts, pulse)
        assert before.ref is not None  # asked above
        return run_of_cut(parts, before.ref, before.folder, dict(before.others), pulse, before=before.before)
    except (InputError, FileProblem) as error:
        raise InputError(f"'{before.name}' goes before, and what it leaves is not known: {error}") from None


def timed(geometry: Geometry, times: Times, basis: Literal["program", "path"] = "program") -> Timing:
    """The minutes of a program whose steps take so long."""
    cutting = geometry.cut_time_of(times)
    return Timing(basis, cutting / 60.0, (geometry.time_of(times) - cutting) / 60.0, held_feed(geometry))
