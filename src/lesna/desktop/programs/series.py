"""What is drawn along a program: a name, a quantity and a value for each step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from lesna.model import units
from lesna.physics import Array
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.run import Run


@dataclass(frozen=True)
class Series:
    """One quantity along a program."""

    id: str
    name: str
    quantity: units.Quantity
    of: Callable[[Run], Array]
    #: what was asked for, drawn faintly beside what is
    asked: Callable[[Run], Array] | None = None


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


def _asked(run: Run) -> Array:
    """Feed of the program where the axes may not hold it [mm/min]."""
    return np.nan_to_num(run.feed) * run.geometry.judged


def _turning(run: Run, number: int) -> Array:
    """Speed of a rotary axis on each step [deg/s]."""
    g = run.geometry
    return np.abs(g.slope[:, 3 + number]) * run.times.peak if isinstance(g, Leaning) else np.zeros(len(g.steps))


def series_of(run: Run | None) -> tuple[Series, ...]:
    """What is drawn along a program: with rotary axes their speeds too."""
    g = None if run is None else run.geometry
    if not isinstance(g, Leaning):
        return SERIES
    turning = [
        Series(f"turns {letter}", f"{letter} turns", units.TURNING, partial(_turning, number=number))
        for number, letter in enumerate(g.kinematics.letters)
    ]
    asked = [replace(series, asked=_asked) if series.id == "feed" else series for series in SERIES]
    return (*asked, *turning)


#: what makes room for the speeds of rotary axes in the strips
_MAKE_ROOM = ("power", "removal")


def strips_of(run: Run | None) -> tuple[Series, ...]:
    """What the strips show: no more than there is room for."""
    shown = series_of(run)
    return shown if len(shown) == len(SERIES) else tuple(series for series in shown if series.id not in _MAKE_ROOM)


def read_of(run: Run) -> tuple[Series, ...]:
    """What stands in words at the cursor: in five axes the angles and the force on the part take the place of what the strips show."""
    return (
        SERIES
        if not isinstance(run.geometry, Leaning)
        else tuple(series for series in SERIES if series.id not in _MAKE_ROOM)
    )


def series_named(run: Run | None, id: str) -> Series:
    """One of them; the side force where the program has none of that name."""
    known = {series.id: series for series in series_of(run)}
    return known.get(id, known["force"])
