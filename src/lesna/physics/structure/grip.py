"""What holds the tool and the part: shank grip, taper, clamping (physics.md section 9)."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num

#: friction of a clamped part on its table
CLAMPING_FRICTION = 0.2


def grip_demand(torque: Num, pull: Num, shank: float, *, is_locked: bool) -> Num:
    """Torque that a shank asks of its holder, the pull-out force counted as torque at the shank's surface.

    ``sqrt(T^2 + (F d/2)^2)``; a form lock carries the axial share.

    Examples
    --------
    >>> round(float(grip_demand(30.0, 5000.0, 16.0, is_locked=False)), 1)
    50.0
    """
    axial = 0.0 * pull if is_locked else pull * shank / 2000.0
    return np.hypot(torque, axial)


def clamping_demand(force: Num, mass: float, acceleration: float) -> Num:
    """Greatest force that tries to move the part on its table: the cut's, or that of a rapid's acceleration."""
    return np.maximum(force, mass * acceleration)


def safe_acceleration(clamping: float, mass: float) -> float:
    """Acceleration at which the part begins to slip.

    Examples
    --------
    >>> safe_acceleration(1000.0, 100.0)
    2.0
    """
    return CLAMPING_FRICTION * clamping / mass
