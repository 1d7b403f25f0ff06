"""From a document to the Result of one of its cuts."""

from __future__ import annotations

import numpy as np

from lesna.model.job import Job
from lesna.model.resolve import Shelf, parts_of
from lesna.planning.chatter.stability import Field, over_stepover
from lesna.planning.cut.economy import economy_of
from lesna.planning.cut.features import volume
from lesna.planning.cut.limits import limits_of
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import constant_force_depth, corner_angle, solve_one


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


def evaluate_fully(job: Job, index: int, shelf: Shelf) -> Result:
    """The same, waiting for the chatter limit, which the window brings in later (errors as in `evaluate`)."""
    setup = setup_of(parts_of(job, index, shelf))
    return result_of(setup, over_stepover(setup, np.array([setup.parts.cut.ae_mm])))


def result_of(setup: CutSetup, field: Field | None = None) -> Result:
    """The Result of a set-up at the engagement of its own cut.

    Parameters
    ----------
    setup : CutSetup
        The cut.
    field : Field or None
        Where it chatters over the stepover, None while that is not known.
    """
    cut = setup.parts.cut
    state, turn = solve_one(setup, cut.ae_mm, cut.ap_mm)
    chatter = None
    if field is not None:
        depth = float(field.limits_at(cut.ae_mm, np.array([cut.ap_mm]))[0])
        chatter = Chatter(depth, field.frequency_at(cut.ae_mm), field.method_at(cut.ae_mm), field.deepest)
    limits = limits_of(setup, state, None if chatter is None else chatter.depth)
    solid = volume(cut.feature)
    cut_time = None if solid is None else solid / state.q
    economy = economy_of(setup, state, cut_time)
    return Result(
        setup=setup,
        state=state,
        turn=turn,
        chatter=chatter,
        limits=limits,
        constant_force_depth=constant_force_depth(setup),
        corner_angle=corner_angle(setup, state),
        cut_time=cut_time,
        economy=economy,
    )
