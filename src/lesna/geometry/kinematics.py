"""Two rotary axes: from axis positions to the tool against the part, and back.

Tables carry the part: a place of it stands in the machine at ``T p``. Heads carry the tool: its axis stands at ``H z``. Linear places
are those of the tip in program coordinates while both rotary axes stand at zero. The way back is Paden and Kahan's second subproblem
(Murray, Li, Sastry 1994): two turns, one after the other, that bring one direction into another, whatever the axes' directions are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.model.errors import InputError
from lesna.model.library_records import Machine
from lesna.physics import Array

#: directions that differ by less than this are one: there an axis turns and nothing leans [-]
_POLE = 1e-6
#: rounding by which a direction may lie beyond what the axes reach [-]
_ROUNDING = 1e-6
#: how far an angle may lie over the end of its travel [deg]
OVER = 1e-6
_UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Turning:
    """One rotary axis.

    Attributes
    ----------
    letter : str
        A, B or C.
    is_table : bool
        Whether it turns the part; else it turns the tool.
    direction, pivot : tuple of float
        Unit vector that it turns about, and a place on it [mm]: of a head from the point `reach` above the tip.
    speed, acceleration : float
        Of the axis [deg/s], [deg/s2].
    low, high : float
        Ends of its travel [deg].
    """

    letter: str
    is_table: bool
    direction: tuple[float, float, float]
    pivot: tuple[float, float, float]
    speed: float
    acceleration: float
    low: float = -np.inf
    high: float = np.inf

    def turns(self, angle: Array) -> Array:
        """Rotations by angles [deg], (n, 3, 3)."""
        x, y, z = self.direction
        cross = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
        radians = np.radians(angle)[:, None, None]
        return np.asarray(np.eye(3) + np.sin(radians) * cross + (1.0 - np.cos(radians)) * (cross @ cross))


@dataclass(frozen=True)
class Kinematics:
    """The rotary axes of a machine, in order from the base.

    Attributes
    ----------
    axes : tuple of Turning
        The two of them.
    reach : float
        From the tip to the pivot of a turning head [mm].
    feeds_all_words : bool
        Whether F runs along all words where the tip is not followed, a degree as one unit of length; else along X Y Z.
    name : str
        Of the machine, for what is said of it.
    """

    axes: tuple[Turning, Turning]
    reach: float = 0.0
    feeds_all_words: bool = True
    name: str = "the machine"

    @property
    def letters(self) -> tuple[str, str]:
        """Their letters."""
        return self.axes[0].letter, self.axes[1].letter

    def _chain(self, turned: Array, *, tables: bool) -> tuple[Array, Array]:
        """Rotation (n, 3, 3) and shift (n, 3) of the tables, or of the heads, at angles (n, 2) [deg]."""
        whole, shift = np.broadcast_to(np.eye(3), (len(turned), 3, 3)), np.zeros((len(turned), 3))
        for number, axis in enumerate(self.axes):
            if axis.is_table != tables:
                continue
            own = axis.turns(turned[:, number])
            pivot = np.array(axis.pivot) + (0.0 if tables else self.reach * _UP)
            # first what hangs on this axis, then the axis itself: the one nearer to the base comes last
            shift = shift + np.einsum("nij,nj->ni", whole, pivot - own @ pivot)
            whole = whole @ own
        return whole, shift

    def forward(self, linear: Array, turned: Array) -> tuple[Array, Array]:
        """Tip and axis of the tool against the part.

        Parameters
        ----------
        linear : array (n, 3)
            Linear places [mm].
        turned : array (n, 2)
            Angles [deg].

        Returns
        -------
        tip, axis : array (n, 3)
            In program coordinates [mm], [-].
        """
        T, t = self._chain(turned, tables=True)
        H, h = self._chain(turned, tables=False)
        tip = np.einsum("nji,nj->ni", T, linear + h - t)
        return tip, np.einsum("nji,njk,k->ni", T, H, _UP)

    def linear(self, tip: Array, turned: Array) -> Array:
        """Linear places (n, 3) at which the tip stands at places of the part [mm]."""
        T, t = self._chain(turned, tables=True)
        _, h = self._chain(turned, tables=False)
        return np.asarray(np.einsum("nij,nj->ni", T, tip) + t - h)

    def _subproblem(self, axis: Array) -> tuple[Array, Array, Array, Array]:
        """Both directions and the directions ``u, w`` of ``R1 R2 u = w`` (n, 3)."""
        first, second = self.axes
        d1, d2 = np.array(first.direction), np.array(second.direction)
        up = np.broadcast_to(_UP, axis.shape)
        if first.is_table and second.is_table:
            return d1, d2, axis, up
        if first.is_table:
            return -d1, d2, up, axis
        if second.is_table:  # T axis = H z: the head turns z, the table turns the axis the other way
            return -d2, d1, up, axis
        return d1, d2, up, axis

    def angles(self, axis: Array) -> tuple[Array, NDArray[np.bool_]]:
        """Both pairs of angles that bring the tool into directions against the part.

        Parameters
        ----------
        axis : array (n, 3)
            Unit vectors.

        Returns
        -------
        angles : array (2, n, 2)
            Of both branches [deg]; not a number where an axis may stand as it likes.
        reached : array (n,) of bool
            Whether the axes can lean so far at all.
        """
        d1, d2, u, w = self._subproblem(axis)
        k, cross = float(d1 @ d2), np.cross(d1, d2)
        u2, w1 = u @ d2, w @ d1
        al, be = (k * u2 - w1) / (k * k - 1.0), (k * w1 - u2) / (k * k - 1.0)
        square = (1.0 - al * al - be * be - 2.0 * al * be * k) / float(cross @ cross)
        g = np.sqrt(np.maximum(square, 0.0))
        base = al[:, None] * d1 + be[:, None] * d2
        out = np.empty((2, len(axis), 2))
        swapped = not self.axes[0].is_table and self.axes[1].is_table
        for number, sign in enumerate((1.0, -1.0)):
            c = base + sign * g[:, None] * cross
            first, second = _angle(d1, c, w), _angle(d2, u, c)
            pair = (second, first) if swapped else (first, second)
            out[number] = np.degrees(np.stack(pair, axis=1))
        return out, square >= -_ROUNDING

    def path(self, axis: Array, lines: NDArray[np.int64]) -> Array:
        """Angles (n, 2) along a path of directions (n, 3) [deg]: one branch, without jumps by whole turns, inside the travels.

        Raises
        ------
        InputError
            With the line at which the axes do not reach.
        """
        both, reached = self.angles(axis)
        if not reached.all():
            line = int(lines[np.flatnonzero(~reached)[0]])
            raise InputError(f"line {line}: {self.name} cannot lean the tool so far; its axes are {self.told()}")
        tried = [self._placed(_unwrapped(branch)) for branch in both]
        fits = [(~beyond.any(), -float(np.abs(np.diff(turned, axis=0)).sum())) for turned, beyond in tried]
        # of two that stay inside the one that turns less
        turned, beyond = tried[max(range(2), key=lambda number: fits[number])]
        if beyond.any():
            row = int(np.flatnonzero(beyond.any(axis=1))[0])
            self.refuse(turned[row], int(lines[row]))
        return turned

    def _placed(self, turned: Array) -> tuple[Array, NDArray[np.bool_]]:
        """A branch shifted by whole turns into the travels, and where it lies beyond them all the same."""
        out, beyond = turned.copy(), np.zeros(turned.shape, dtype=bool)
        for number, axis in enumerate(self.axes):
            column = turned[:, number]
            shifts = 360.0 * np.arange(-3, 4)
            over = [(np.maximum(axis.low - column - s, column + s - axis.high)).max(initial=0.0) for s in shifts]
            least = min(max(value, 0.0) for value in over)
            good = [s for s, value in zip(shifts, over, strict=True) if max(value, 0.0) <= least + OVER]
            out[:, number] = column + min(good, key=abs)
            beyond[:, number] = self._beyond(out)[:, number]
        return out, beyond

    def _beyond(self, turned: Array) -> NDArray[np.bool_]:
        low, high = (np.array([getattr(axis, end) for axis in self.axes]) for end in ("low", "high"))
        return np.asarray((turned < low - OVER) | (turned > high + OVER))

    def check(self, turned: Array, lines: NDArray[np.int64]) -> None:
        """Refuses angles (n, 2) beyond the travels, with the line (n,) that asks for the first of them."""
        beyond = self._beyond(turned).any(axis=1)
        if beyond.any():
            row = int(np.flatnonzero(beyond)[0])
            self.refuse(turned[row], int(lines[row]))

    def refuse(self, turned: Array, line: int) -> None:
        """Says which axis would have to go too far."""
        for axis, angle in zip(self.axes, turned.tolist(), strict=True):
            if not axis.low - OVER <= angle <= axis.high + OVER:
                raise InputError(
                    f"line {line}: {axis.letter} would have to turn to {angle:.3f}°, and that of {self.name} goes from {axis.low:g}° to "
                    f"{axis.high:g}°; choose another machine, or post the program for this one"
                )

    def told(self) -> str:
        """The axes and their travels in words."""
        return " and ".join(
            f"{axis.letter} ({'table' if axis.is_table else 'head'}"
            + (f", {axis.low:g}° to {axis.high:g}°)" if np.isfinite(axis.low) else ")")
            for axis in self.axes
        )


def _angle(d: Array, a: Array, b: Array) -> Array:
    """Angle by which directions turn into others about an axis [rad]; not a number where they lie on it."""
    across = np.einsum("ni,ni->n", np.broadcast_to(d, a.shape), np.cross(a, b))
    along = np.einsum("ni,ni->n", a, b) - (a @ d) * (b @ d)
    angle = np.arctan2(across, along)
    return np.where(np.linalg.norm(np.cross(a, d), axis=1) < _POLE, np.nan, angle)


def _unwrapped(turned: Array) -> Array:
    """Angles without jumps by whole turns; one that may stand as it likes stays where it was."""
    out = turned.copy()
    for column in out.T:
        known = ~np.isnan(column)
        if not known.any():
            column[:] = 0.0
            continue
        last = np.maximum.accumulate(np.where(known, np.arange(len(column)), -1))
        column[:] = column[np.where(last < 0, int(known.argmax()), last)]
        column[:] = np.unwrap(column, period=360.0)
    return out


def kinematics_of(machine: Machine) -> Kinematics | None:
    """The rotary axes of a machine's row; None where it has none."""
    axes: Sequence[Turning] = [
        Turning(
            axis.letter, axis.on == "table", axis.direction, axis.pivot_mm, axis.speed_deg_s, axis.accel_deg_s2,
            *(axis.travel_deg or (-np.inf, np.inf)),
        )
        for axis in machine.rotary
    ]  # fmt: skip
    if not axes:
        return None
    return Kinematics(
        (axes[0], axes[1]), machine.reach_mm or 0.0, machine.untipped_feed == "all_words", machine.name or "the machine"
    )
