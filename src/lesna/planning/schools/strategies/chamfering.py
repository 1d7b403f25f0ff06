"""A chamfer along an edge: its width and height are given, one pass of a chamfer mill makes it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from lesna.planning.cut.chamfers import edge_minutes
from lesna.planning.schools.strategies.base import (
    CHAMFER,
    Case,
    Stage,
    Strategy,
    reach_problem,
    register,
    task_of,
)


def _suits(case: Case) -> str:
    if case.parts.tool.kind != "chamfer":
        return "a chamfer keeps its chamfer mill"
    return reach_problem(case, case.setup)


def _stages(case: Case) -> tuple[Stage, ...]:
    setup, solid = case.setup, case.solid
    task = task_of(
        case, setup, CHAMFER, "edge", lambda state: edge_minutes(setup, solid, state), stepovers=np.array([solid.width])
    )
    # deeper passes would cut bands of their own, so it is one
    return (Stage(replace(task, depths=np.array([solid.depth])), case.parts.cut.strategy),)


register(Strategy(
    CHAMFER, "Chamfer", "One pass along the edge; a second one at the end takes the burr of the first.", _suits, _stages,
))  # fmt: skip
