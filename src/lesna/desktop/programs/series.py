"""What is drawn along a program: a name, a quantity and a value for each step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lesna.model import units
from lesna.physics import Array
from lesna.planning.program.run import Run


@dataclass(frozen=True)
class Series:
    """One quantity along a program."""

    id: str
    name: str
    quantity: units.Quantity
    of: Callable[[Run], Array]


def _in_contact(run: Run, values: Array) -> Array:
    return np.where(run.geometry.contact, values, 0.0)


def _removal(run: Run) -> Array:
    """Volume of each step over its time [cm3/min]."""
    time = np.maximum(run.times.time, 1e-6)
    return np.where(run.geometry.judged, run.geometry.engagement.volume / time * 60.0 / 1000.0, 0.0)


SERIES = (
    Series(
        "angle", "Engaged", units.ANGLE, lambda run: np.degrees(run.geometry.engagement.angle) * run.geometry.judged
    ),
    Series("force", "Side force", units.FORCE, lambda run: _in_contact(run, run.state.fxy_peak)),
    Series("power", "Power", units.POWER, lambda run: _in_contact(run, run.state.power_cut)),
    Series("removal", "Removal", units.REMOVAL, _removal),
    Series("feed", "Feed", units.FEED, lambda run: 60.0 * run.times.peak * run.geometry.judged),
)
BY_ID = {series.id: series for series in SERIES}
