"""From where a part is looked at: turned by two angles, moved and drawn closer, without perspective."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lesna.physics import Array

#: angle about Z and over the table at first [deg]
HOME = (-32.0, 38.0)
#: how close and how far one may look
_CLOSEST, _FARTHEST = 60.0, 0.4
#: room round the part at first [-]
_ROOM = 0.9


@dataclass(frozen=True)
class Eye:
    """A view of a part.

    Attributes
    ----------
    turn, height : float
        Angle about Z, and over the table: 90 looks straight down [deg].
    zoom : float
        1 shows the whole part.
    shift : tuple of float
        Where the middle of the part stands off the middle of the picture, over its smaller side [-].
    """

    turn: float = HOME[0]
    height: float = HOME[1]
    zoom: float = 1.0
    shift: tuple[float, float] = (0.0, 0.0)

    def turned(self, right: float, up: float) -> Eye:
        """The same from further round, and higher [deg]."""
        return replace(
            self, turn=(self.turn + right + 180.0) % 360.0 - 180.0, height=min(max(self.height + up, -89.0), 90.0)
        )

    def closer(self, factor: float) -> Eye:
        """The same from nearer."""
        return replace(self, zoom=min(max(self.zoom * factor, _FARTHEST), _CLOSEST))

    def moved(self, x: float, y: float) -> Eye:
        """The same with the part moved."""
        return replace(self, shift=(self.shift[0] + x, self.shift[1] + y))

    @property
    def frame(self) -> Array:
        """Right, up and towards the eye (3, 3)."""
        a, b = np.radians(self.turn), np.radians(self.height)
        right = np.array((np.cos(a), np.sin(a), 0.0))
        toward = np.array((np.sin(a) * np.cos(b), -np.cos(a) * np.cos(b), np.sin(b)))
        return np.stack((right, np.cross(toward, right), toward))

    def scale(self, low: Array, high: Array, width: int, height: int) -> float:
        """Pixels of a millimetre."""
        # the ball round the part: turning it moves nothing closer or farther
        size = float(np.linalg.norm(high - low))
        return _ROOM * self.zoom * min(width, 1.3 * height) / max(size, 1e-9)

    def project(self, points: Array, low: Array, high: Array, width: int, height: int) -> Array:
        """Column, row and nearness (n, 3) of places [px, px, mm]."""
        k = self.scale(low, high, width, height)
        seen = (points - 0.5 * (low + high)) @ self.frame.T
        side = min(width, height)
        return np.column_stack(
            (
                0.5 * width + self.shift[0] * side + k * seen[:, 0],
                0.5 * height + self.shift[1] * side - k * seen[:, 1],
                seen[:, 2],
            )
        )
