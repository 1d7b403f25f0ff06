"""What the spindle carries at a speed, and what it draws (physics.md section 6)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.physics import Array, Num
from lesna.physics.edge.forces import torque_from_power


@dataclass(frozen=True)
class SpindleCurve:
    """Power over speed of one duty class, linear between its points.

    Below the first point the torque stays what it is there; two points at one speed mark a gear change, where
    the higher gear counts from that speed on.

    Parameters
    ----------
    speeds : array (n,)
        Rising spindle speeds [1/min].
    powers : array (n,)
        Power at those speeds [kW].
    """

    speeds: Array
    powers: Array

    def power(self, n: Num) -> Num:
        """Power that may be drawn at a speed."""
        low = self.powers[0] * np.minimum(np.asarray(n) / self.speeds[0], 1.0)
        return np.where(np.asarray(n) < self.speeds[0], low, np.interp(n, self.speeds, self.powers))

    def torque(self, n: Num) -> Num:
        """Torque that may be drawn at a speed."""
        return torque_from_power(self.power(n), n)


def simple_curve(power: float, base_speed: float, rpm_max: float) -> SpindleCurve:
    """The curve of a drive with constant torque up to its base speed and constant power above."""
    return SpindleCurve(np.array([base_speed, max(rpm_max, base_speed)]), np.array([power, power]))


def torque_speed(power: float, torque: float) -> float:
    """Speed at which a torque takes a power: up to it the torque holds, above it the power.

    Examples
    --------
    >>> round(torque_speed(10.0, 95.493), 3)
    1000.0
    """
    return 9549.3 * power / torque


def motor_power(cutting: Num, idle: Num, efficiency: Num) -> Num:
    """Power the motor draws: ``P_motor = Pc / eta + P_idle``."""
    return cutting / efficiency + idle
