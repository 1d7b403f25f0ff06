"""From a document to the Result of one of its cuts."""

from __future__ import annotations

from lesna.model.job import Job
from lesna.model.resolve import Shelf, parts_of
from lesna.planning.cautions import cautions_of
from lesna.planning.economy import economy_of
from lesna.planning.features import volume
from lesna.planning.limits import limits_of
from lesna.planning.result import Result
from lesna.planning.setup import CutSetup, setup_of
from lesna.planning.solve import constant_force_depth, corner_angle, solve


def evaluate(job: Job, index: int, shelf: Shelf) -> Result:
    """The Result of one cut of a job.

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
    return result_of(setup_of(parts_of(job, index, shelf)))


def result_of(setup: CutSetup) -> Result:
    """The Result of a set-up at the engagement of its own cut."""
    cut = setup.parts.cut
    state = solve(setup, cut.ae_mm, cut.ap_mm).scalar()
    limits = limits_of(setup, state)
    solid = volume(cut.feature)
    cut_time = None if solid is None else solid / state.q
    economy = economy_of(setup, state, cut_time)
    return Result(
        setup=setup,
        state=state,
        limits=limits,
        cautions=cautions_of(setup, state, economy),
        constant_force_depth=constant_force_depth(setup),
        corner_angle=corner_angle(setup, state),
        cut_time=cut_time,
        economy=economy,
    )
