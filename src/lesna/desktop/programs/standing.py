"""The stock of a program of five axes as it stands at the cursor: cut on from the last look, a little at a time."""

from __future__ import annotations

from lesna.planning.program.leaning import Leaning
from lesna.stock.bricks import Bricks

#: steps that are cut in one go, some tens of milliseconds
_AT_ONCE = 1500


class Standing:
    """Bricks of one program, moved through it.

    Parameters
    ----------
    geometry : Leaning
        The program in its stock.
    """

    def __init__(self, geometry: Leaning) -> None:
        self.geometry = geometry
        self.done = len(geometry.steps)
        self.bricks: Bricks = geometry.left

    def toward(self, done: int) -> bool:
        """Goes towards the stock after so many steps; whether it is there."""
        if done == self.done:
            return True
        frames = self.geometry.frames
        number = max(k for k, (steps, _) in enumerate(frames) if steps <= done)
        before, bricks = frames[number]
        # forward from where it stands, where that is nearer than the last look
        if not before <= self.done <= done or self.bricks is self.geometry.left:
            self.done, self.bricks = before, bricks.copy()
        end = min(self.done + _AT_ONCE, done)
        if end > self.done:
            self.geometry.cut_on(self.bricks, self.done, end)
            self.done = end
        return self.done == done
