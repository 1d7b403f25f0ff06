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
from lesna.planning.chatter.estimate import estimate_of
from lesna.planning.chatter.judge import chatter_of, is_measured
from lesna.planning.cut.curves import corner_angle, loop_advance
from lesna.planning.cut.economy import economy_of
from lesna.planning.cut.features import volume
from lesna.planning.cut.limits import limits_of
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import constant_force_depth, solve_one


def evaluate(job: Job, index: int, shelf: Shelf) -> Result:
    """The Result of one cut of a job, its chatter included.

    Parameters
    ----------
    job : Job
        The document.
    index : int
        Position of the cut.
    shelf : Shelf
        Library that ids are looked up in.

    Raises
    ------
    InputError
        When the cut names something unknown or cannot be made by its tool.
    """
    parts = parts_of(job, index, shelf)
    with seen_from(index):
        setup = setup_of(parts)
        return result_of(setup, chatter_of(setup))


@contextlib.contextmanager
def seen_from(index: int) -> Iterator[None]:
    """Errors of a cut with the path of their field seen from the job."""
    try:
        yield
    except InputError as error:
        raise error.inside(f"cuts[{index}]") from None


def result_of(setup: CutSetup, chatter: Chatter | None = None) -> Result:
    """The Result of a set-up at the engagement of its own cut.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    chatter : Chatter or None
        Where it chatters; without it a set-up that nobody has measured is estimated, a measured one waits for it.

    Raises
    ------
    InputError
        When its feature leaves nothing to cut.
    """
    cut = setup.parts.cut
    if chatter is None and not is_measured(setup):
        chatter = estimate_of(setup)
    solid = volume(cut.feature)
    state, turn = solve_one(setup, cut.ae_mm, cut.ap_mm)
    cut_time = None if solid is None else solid / state.q
    return Result(
        setup=setup,
        state=state,
        turn=turn,
        chatter=chatter,
        limits=limits_of(setup, state, _band(chatter)),
        constant_force_depth=constant_force_depth(setup),
        corner_angle=corner_angle(setup, state),
        advance=loop_advance(setup, cut.ae_mm),
        cut_time=cut_time,
        economy=economy_of(setup, state, cut_time),
    )


def with_chatter(result: Result, chatter: Chatter) -> Result:
    """A Result with the chatter of its cut, which is computed apart."""
    return replace(result, chatter=chatter, limits=limits_of(result.setup, result.state, _band(chatter)))


def _band(chatter: Chatter | None) -> tuple[float, float, float] | None:
    return None if chatter is None else (chatter.depth, chatter.low, chatter.high)
