"""Arcs that lead into a way and out of it on a tangent, on its left, where the material is gone."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from lesna.physics import Array

#: arcs that are tried one after the other, as shares of the radius and quarters of a turn: where a way is bent, a half circle of half
#: the radius still ends as far beside it; then smaller ones for where there is little room
_TRIED = ((1.0, 1), (0.5, 2), (0.6, 1), (0.3, 1), (0.1, 1))
#: chords of a quarter
_CHORDS = 12

#: whether the middle of the cutter may be at all of some places (n, 2)
Clear = Callable[[Array], bool]


def led(way: Array, radius: float, is_clear: Clear) -> Array:
    """A way with arcs before and after it; where there is no room for them they are smaller, and at last left out.

    Parameters
    ----------
    way : array (n, 2)
        Places [mm].
    radius : float
        Of the arcs [mm].
    is_clear : callable
        Whether the middle may be at all of some places.
    """

    def arc_at(at: Array, along: Array, onward: float) -> Array:
        """From a place on with a heading (1), or before it (-1), round a middle on the left."""
        unit = along / np.hypot(*along)
        side = np.array((-unit[1], unit[0]))
        for share, quarters in _TRIED:
            r, angle = share * radius, np.linspace(0.0, quarters * np.pi / 2, quarters * _CHORDS + 1)[:, None]
            arc = at + r * side - r * np.cos(angle) * side + onward * r * np.sin(angle) * unit
            if is_clear(arc):
                return np.asarray(arc)
        return at[None, :]

    before, after = arc_at(way[0], way[1] - way[0], -1.0), arc_at(way[-1], way[-1] - way[-2], 1.0)
    return np.vstack((before[:0:-1], way, after[1:]))
