"""Edges and readings that the tests of learning start from."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from lesna.learning.edges import Edge, Look, Mark
from lesna.learning.posterior import Posterior, fit, prior_covariance
from lesna.model.trials import Reading
from tests import support

TABLE = 45.0
COVARIANCE = prior_covariance(0.25, 0.28)
LEVEL = np.array([1.0, 0.0, 0.0])


def edge(
    *looks: tuple[float, float | None, Mark], name: str = "e", table: float = TABLE, x: tuple[float, float] = (0.0, 0.0)
) -> Edge:
    """An edge by minutes from new, land and mark of each look."""
    made, before = [], 0.0
    for minutes, land, mark in looks:
        made.append(Look(minutes - before, table, x, land, "uniform", mark))
        before = minutes
    return Edge(name, tuple(made))


def learned(*edges: Edge) -> Posterior:
    """What they say at the tables' own setting."""
    return fit(edges, COVARIANCE, LEVEL)


def lives(found: Posterior, x: np.ndarray = LEVEL) -> tuple[float, float, float]:
    """Median, and what 5 and 95 % of the next edges fall below [min]."""
    return tuple(TABLE * float(np.exp(found.quantile(x, share))) for share in (0.5, 0.05, 0.95))  # type: ignore[return-value]


#: the plain job of the tests as a reading has it
SETTING: dict[str, Any] = {
    "trial": "T", "edge": "E1", "taken_on": "2026-11-02", "machine": "vmc40-12k", "material": "42crmo4-qt30", "tool_kind": "square",
    "DC": 12.0, "ZEFP": 4, "FHA": 38.0, "substrate": "carbide", "coating": "AlTiN", "stick_out_mm": 42.0, "holder": "shrink",
    "coolant": "air", "ae_mm": 1.2, "ap_mm": 12.0, "minutes": 12.0,
}  # fmt: skip


@cache
def _running() -> dict[str, Any]:
    state = support.result().state
    return {"n_rpm": float(state.n), "vf_mm_min": float(state.vf)}


def reading(**values: Any) -> Reading:
    """A reading of the plain job as it runs, with some fields otherwise; None takes one away."""
    return Reading.read({key: value for key, value in {**SETTING, **_running(), **values}.items() if value is not None})
