"""The one computation of a cut: set-up, state, limits, time and money, and where it chatters, as one Result.

It stands in front of the rooms of planning because it composes them.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import replace

from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import Shelf, parts_of
from lesna.physics import Num
from lesna.planning.chatter.estimate import estimate_of
from lesna.planning.chatter.judge import chatter_of
from lesna.planning.cut.chamfers import edge_minutes
from lesna.planning.cut.curves import corner_angle, loop_advance
from lesna.planning.cut.economy import Timing, economy_of
from lesna.planning.cut.features import solid_of
from lesna.planning.cut.limits import limits_of
from lesna.planning.cut.motion import Motion
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import constant_force_depth, solve_one
from lesna.planning.routes.estimate import minutes_of
from lesna.planning.schools.strategies.surfacing import lines_minutes


def evaluate(job: Job, index: int, shelf: Shelf, *, wait: bool = True) -> Result:
    """The Result of one cut of a job, its chatter included.

    Parameters
    ----------
    job : Job
        The document.
    index : int
        Position of the cut.
    shelf : Shelf
        Library that ids are looked up in.
    wait : bool
        Whether the way is made by which it is timed, where that is not known.

    Raises
    ------
    InputError
        When the cut names something unknown or cannot be made by its tool.
    """
    parts = parts_of(job, index, shelf)
    with seen_from(index):
        setup = setup_of(parts)
        return result_of(setup, chatter_of(setup), wait=wait)


@contextlib.contextmanager
def seen_from(index: int) -> Iterator[None]:
    """Errors of a cut with the path of their field seen from the job."""
    try:
        yield
    except InputError as error:
        raise error.inside(f"cuts[{index}]") from None


def timing_of(setup: CutSetup, motion: Motion, *, wait: bool = True) -> Timing | None:
    """How long a cut takes by the way that would be made for it; None without a feature, or where that way is not known yet.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    motion : Motion
        How it moves (floats).
    wait : bool
        Whether a way that is not known is made.

    Raises
    ------
    InputError
        When its feature leaves nothing to cut.
    """
    solid = solid_of(setup.parts.cut.feature)
    if solid is None:
        return None
    found: tuple[Num, Num] | None
    if solid.kind == "surface":
        found = lines_minutes(setup, solid, motion)
    elif solid.kind == "chamfer":
        found = edge_minutes(setup, solid, motion)
    else:
        try:
            found = minutes_of(setup, motion, wait=wait)
        except InputError:
            # no way is made for it here: what it removes in a minute still says something
            found = solid.volume / motion.q, 0.0
    return None if found is None else Timing("estimate", float(found[0]), float(found[1]))


def result_of(
    setup: CutSetup, chatter: Chatter | None = None, timing: Timing | None = None, *, wait: bool = True
) -> Result:
    """The Result of a set-up at the engagement of its own cut.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    chatter : Chatter or None
        Where it chatters; without it a set-up that nobody has measured is estimated, a measured one waits for it.
    timing : Timing or None
        How long it takes where a program or a path says so.
    wait : bool
        Whether the way is made by which it is timed, where that is not known.

    Raises
    ------
    InputError
        When its feature leaves nothing to cut.
    """
    cut = setup.parts.cut
    if chatter is None and not setup.parts.cut.is_judged_by_modes:
        chatter = estimate_of(setup)
    state, turn = solve_one(setup, cut.ae_mm, cut.ap_mm)
    timing = timing or timing_of(setup, state, wait=wait)
    return Result(
        setup=setup,
        state=state,
        turn=turn,
        chatter=chatter,
        limits=limits_of(setup, state, _band(chatter)),
        constant_force_depth=constant_force_depth(setup),
        corner_angle=corner_angle(setup, state),
        advance=loop_advance(setup, cut.ae_mm),
        timing=timing,
        economy=economy_of(setup, state, timing),
    )


def with_chatter(result: Result, chatter: Chatter) -> Result:
    """A Result with the chatter of its cut, which is computed apart."""
    return replace(result, chatter=chatter, limits=limits_of(result.setup, result.state, _band(chatter)))


def _band(chatter: Chatter | None) -> tuple[float, float, float] | None:
    return None if chatter is None else (chatter.depth, chatter.low, chatter.high)


def with_timing(result: Result, timing: Timing) -> Result:
    """A Result with how long its cut takes, which is found out apart."""
    return replace(result, timing=timing, economy=economy_of(result.setup, result.state, timing))
