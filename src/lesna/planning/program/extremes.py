"""Where a program deserves a look: its highest and lowest forces, and the longest ways through air at a feed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.geometry.motion import RAPID
from lesna.planning.program.run import Run

#: places of one kind
_LISTED = 3
#: seconds in air that are worth a look
_WORTH = 0.5


@dataclass(frozen=True)
class Extreme:
    """One place.

    Attributes
    ----------
    kind : str
        ``peak`` or ``valley`` of the side force in contact, ``air`` where a feed cuts nothing.
    value : float
        Side force [N], or time in air [s].
    line : int
        Line of the program.
    step : int
        Number of the step.
    """

    kind: Literal["peak", "valley", "air"]
    value: float
    line: int
    step: int


def extremes_of(run: Run) -> list[Extreme]:
    """The places of a run, a few of each kind, each line once."""
    lines = run.geometry.program.moves.line[run.geometry.steps.move]
    contact = np.flatnonzero(run.geometry.contact)
    force = run.state.fxy_peak[contact]
    found: list[Extreme] = []
    for kind, order in (("peak", np.argsort(-force, kind="stable")), ("valley", np.argsort(force, kind="stable"))):
        rows = contact[order]
        first = np.sort(np.unique(lines[rows], return_index=True)[1])[:_LISTED]
        found += [
            Extreme(kind, float(run.state.fxy_peak[step]), int(lines[step]), int(step))  # type: ignore[arg-type]
            for step in rows[first]
        ]
    return found + _air(run)


def _air(run: Run) -> list[Extreme]:
    g = run.geometry
    lines, kind = g.program.moves.line[g.steps.move], g.program.moves.kind[g.steps.move]
    rows = np.flatnonzero(g.judged & ~g.contact & (kind != RAPID))
    groups = np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else []
    timed = sorted(((float(run.times.time[group].sum()), group) for group in groups), key=lambda pair: -pair[0])
    return [
        Extreme("air", time, int(lines[group[0]]), int(group[0])) for time, group in timed[:_LISTED] if time >= _WORTH
    ]
