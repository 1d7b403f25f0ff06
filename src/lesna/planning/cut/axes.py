"""The axes of a machine: what its row says of them, and usual figures where it says nothing."""

from __future__ import annotations

import numpy as np

from lesna.model.library_records import Machine
from lesna.physics.motion import Axes

#: acceleration [m/s2], jerk [m/s3], rapids [mm/min] and blocks a second where the machine names none
_ACCELERATION, _JERK, _RAPID, _BLOCKS = 3.0, 40.0, 20000.0, 500.0
#: how far a control rounds corners where nobody says otherwise [mm]
TOLERANCE = 0.01


def axes_of(machine: Machine, tolerance: float = TOLERANCE) -> Axes:
    """What the axes of a machine do; usual figures where it names none.

    Parameters
    ----------
    machine : Machine
        Its row.
    tolerance : float
        How far corners may be rounded [mm].
    """

    def known(value: float | None, usual: float) -> float:
        return usual if value is None else value

    acceleration = [known(a, _ACCELERATION) for a in (machine.accel_x_m_s2, machine.accel_y_m_s2, machine.accel_z_m_s2)]
    jerks = [j for j in (machine.jerk_x_m_s3, machine.jerk_y_m_s3, machine.jerk_z_m_s3) if j is not None]
    rapid = [known(r, _RAPID) for r in (machine.rapid_x_mm_min, machine.rapid_y_mm_min, machine.rapid_z_mm_min)]
    feeds = [
        known(f, max(rapid)) for f in (machine.feed_max_x_mm_min, machine.feed_max_y_mm_min, machine.feed_max_z_mm_min)
    ]
    return Axes(
        acceleration=1000.0 * np.array(acceleration), jerk=1000.0 * (min(jerks) if jerks else _JERK),
        rapid=np.array(rapid) / 60.0, feed_max=known(machine.feed_max, max(rapid)) / 60.0, feed_by_axis=np.array(feeds) / 60.0,
        blocks=known(machine.lookahead_blocks_s, _BLOCKS), tolerance=tolerance,
    )  # fmt: skip
