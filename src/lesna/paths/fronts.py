"""What stands on a level as a cutter meets it: where it may go beside it, and where the next pass begins.

A pass is longest from the upstream end of a front, so that is where it begins; of the fronts it is the one whose beginning is nearest by
way of the cleared floor. What stands only becomes less, so after a pass nothing is looked at anew but what lies about it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.paths.level import STANDS, Level
from lesna.physics import Array, engine

#: the next start is sought on a grid so many times coarser than that of the stock
COARSE = 2
#: material this near to the rim counts as a front at which a pass may begin [mm over DC]
_REACH = 0.06
#: a way between two passes keeps this far from material, costs more within the second distance of it [mm]
_CLEAR, _CLOSE = 0.3, 0.5
#: a place on such a way counts as free although the cutter would overlap material by this much there [mm]
_BRUSH = 0.12
#: where no pass came about, no other is begun within this distance [mm over DC]
_BANNED = 0.07
#: a front is followed to its upstream end in steps of this length [mm], this far from what stands [mm over the radius], in at most so many
_ALONG, _BESIDE, _MOST_ALONG = 0.3, 0.15, 4000
#: a search goes on from where the one before ended
_ON = -1
#: cost of a cell that no way leads to, and the number of fronts whose starts are compared
_NO_WAY, _FRONTS = 1e17, 6
#: a pass that begins within _AT_HAND radii is taken at once; a further one gives way to another whose start is nearer
#: than _WORTH of its way
_AT_HAND, _WORTH = 2.0, 0.75


@dataclass(frozen=True)
class Start:
    """Where a pass begins.

    Attributes
    ----------
    x, y : float
        Its place [cells].
    heading : tuple of float
        Of the feed there [-].
    route : array (n, 2) or None
        The way to it [cells]; None where it leads over the part.
    front : tuple of float
        The place on the front for whose sake it begins there [cells].
    """

    x: float
    y: float
    heading: tuple[float, float]
    route: Array | None
    front: tuple[float, float]


class Fronts:
    """The fronts of what stands on a level, and ways to them on its cleared floor."""

    def __init__(self, level: Level) -> None:
        step = COARSE
        self._level, self._R = level, level.demand.radius / level.cell
        shape = _coarsely(level.phi.shape)
        self._material = np.zeros(shape, dtype=bool)
        self._room = level.psi[::step, ::step] >= 0
        self._reachable = np.ascontiguousarray(level.reachable[::step, ::step])
        reach = 2 * _REACH * self._R
        #: nothing is asked about what is further away than this [cells]
        self._far = self._R + max(_CLOSE / level.cell, reach) + 4 * step
        self._away = np.full(shape, self._far, dtype=np.float32)
        self._ground, self._touch = np.zeros(shape, dtype=np.uint8), np.zeros(shape, dtype=bool)
        self._reach = self._R + reach
        size = 4 * self._material.size
        self._costs = np.full(shape, 1e18), np.full(shape, -1)
        seen = np.empty(self._material.size, dtype=np.int64)
        self._search = np.empty(size), np.empty(size, dtype=np.int64), seen, np.zeros(2, dtype=np.int64)
        self._walked, self._heading = np.empty((_MOST_ALONG + 2, 2)), np.empty(2)
        self._least = self._R - _BRUSH / level.cell
        self._how = np.array((step, self._far, self._least, self._reach, self._R + _CLOSE / level.cell))
        self._standing, self._dirty = 0, (0, 0, *shape)

    def has_cut(self, way: Array) -> None:
        """Told that what stands within the radius of a way (n, 2) may be there no more [cells]."""
        beyond = self._R + 4.0
        (left, low), (right, high) = (way.min(axis=0) - beyond) / COARSE, (way.max(axis=0) + beyond) / COARSE
        r0, c0, r1, c1 = self._dirty
        rows, columns = _coarsely(self._level.phi.shape)
        new = max(int(low), 0), max(int(left), 0), min(int(high) + 2, rows), min(int(right) + 2, columns)
        self._dirty = min(r0, new[0]), min(c0, new[1]), max(r1, new[2]), max(c1, new[3])

    def standing(self) -> int:
        """Coarse cells that stand and can be reached."""
        self._renew()
        return self._standing

    def _renew(self) -> None:
        """Looks anew at what is within reach of what has been cut."""
        from scipy.ndimage import distance_transform_edt

        level, step = self._level, COARSE
        rows, columns = _coarsely(self._level.phi.shape)
        r0, c0, r1, c1 = self._dirty
        if r0 >= r1 or c0 >= c1:
            return
        self._dirty = (rows, columns, 0, 0)
        here = slice(r0, r1), slice(c0, c1)
        stands = level.phi[::step, ::step][here] < -STANDS
        stands &= self._reachable[here]
        self._standing += int(stands.sum()) - int(self._material[here].sum())
        self._material[here] = stands
        reach = int(self._far / step) + 2
        o0, p0, o1, p1 = (max(r0 - reach, 0), max(c0 - reach, 0), min(r1 + reach, rows), min(c1 + reach, columns))
        # what stands outside a window that is wider by the reach once more is too far away to be asked about
        w0, v0, w1, v1 = (max(o0 - reach, 0), max(p0 - reach, 0), min(o1 + reach, rows), min(p1 + reach, columns))
        window = self._material[w0:w1, v0:v1]
        nearest = np.empty((2, 0, 0), np.int32)
        if window.any():
            nearest = distance_transform_edt(~window, return_distances=False, return_indices=True)
        engine.kernel("renewed")(
            nearest, nearest.size > 0, level.phi, np.array((w0, v0, o0, o1, p0, p1)), self._how, self._room, self._away, self._touch,
            self._ground,
        )  # fmt: skip

    def next(self, at: Array | None, sense: float, banned: list[tuple[float, float]]) -> Start | None:
        """The next pass from a place, None where nothing is left to begin at.

        Parameters
        ----------
        at : array (2,) or None
            Where the cutter stands; None before its first pass [cells].
        sense : float
            1 with what stands on the right of the feed, -1 on the left [-].
        banned : list of tuple
            Places near which no pass came about [cells].
        """
        self._renew()
        touch = self._allowed(banned) if banned else self._touch
        if not self._standing or not touch.any():
            return None
        how = np.array(
            [COARSE, _ALONG / self._level.cell, self._R + _BESIDE / self._level.cell, self._least, self._R, sense]
        )
        found = None if at is None else self._nearest(at, how, touch)
        return found or self._over_everything(at, how, touch)

    def _allowed(self, banned: list[tuple[float, float]]) -> Array:
        touch, near = self._touch.copy(), _BANNED * 2 * self._R
        for x, y in banned:
            low, left = max(int((y - near) / COARSE), 0), max(int((x - near) / COARSE), 0)
            around = slice(low, int((y + near) / COARSE) + 2), slice(left, int((x + near) / COARSE) + 2)
            rows, columns = np.ogrid[: touch[around].shape[0], : touch[around].shape[1]]
            off = ((columns + left) * COARSE - x) ** 2 + ((rows + low) * COARSE - y) ** 2
            touch[around] &= off > near**2
        return touch

    def _nearest(self, at: Array, how: Array, touch: Array) -> Start | None:
        """The front whose upstream end is nearest by way of the cleared floor: a front at hand may begin far away."""
        here = int(round(at[1] / COARSE)), int(round(at[0] / COARSE))
        found = self._find(here[0] * touch.shape[1] + here[1], touch, np.inf)
        if found < 0:
            return None
        first = self._start_at(divmod(found, touch.shape[1]), at, here, how)
        if first[0] < _AT_HAND * self._R / COARSE:
            return first[1]
        # the start of the nearest front lies far upstream, so the starts of other fronts are compared with it
        self._find(_ON, np.zeros_like(touch), first[0])
        starts = [self._start_at(cell, at, here, how) for cell in self._fronts(touch)]
        best = min(starts, key=lambda start: start[0], default=first)
        return best[1] if best[0] < _WORTH * first[0] else first[1]

    def _fronts(self, touch: Array) -> list[tuple[int, int]]:
        """The cell of each front to which the way is shortest, of the nearest ones."""
        from scipy.ndimage import label

        of_front, _ = label(touch, np.ones((3, 3)))
        rows, columns = np.nonzero(touch)
        order = np.argsort(self._costs[0][rows, columns], kind="stable")
        rows, columns = rows[order], columns[order]
        _, first = np.unique(of_front[rows, columns], return_index=True)
        cells = [(int(rows[k]), int(columns[k])) for k in sorted(first.tolist())]
        return [cell for cell in cells if self._costs[0][cell] < _NO_WAY][:_FRONTS]

    def _start_at(self, cell: tuple[int, int], at: Array, here: tuple[int, int], how: Array) -> tuple[float, Start]:
        """Cost of the way to where the pass of a front begins, and that start."""
        cost, parent = self._costs
        x, y = float(cell[1] * COARSE), float(cell[0] * COARSE)
        along, heading = self._upstream(x, y, how)
        end = int(round(along[-1, 1] / COARSE)), int(round(along[-1, 0] / COARSE))
        direct, walked = float(cost[end]), float(cost[cell]) + len(along) * how[1] / COARSE
        # straight to the start where that way is free, else to the front and along it upstream
        is_free = direct < min(walked, _NO_WAY)
        route = _chain(parent, here, end if is_free else cell)
        route = self._taut(np.concatenate(([at], route[1:], along[-1:] if is_free else along)))
        return min(direct, walked), Start(float(along[-1, 0]), float(along[-1, 1]), heading, route, (x, y))

    def _find(self, start: int, wanted: Array, most: float) -> int:
        """Finds the costs of ways from a cell, up to the nearest wanted one or a cost; gives that cell, -1 where there is none."""
        nearest = engine.kernel("nearest")
        return int(nearest(self._ground, start, wanted.view(np.uint8), most, *self._costs, *self._search))

    def _over_everything(self, at: Array | None, how: Array, touch: Array) -> Start:
        """The nearest front that the cleared floor does not lead to; at first the one that lies most in the open."""
        rows, columns = np.nonzero(touch)
        if at is None:
            k = int(np.argmax(self._level.phi[rows * COARSE, columns * COARSE]))
        else:
            k = int(np.argmin((columns * COARSE - at[0]) ** 2 + (rows * COARSE - at[1]) ** 2))
        x, y = float(columns[k] * COARSE), float(rows[k] * COARSE)
        along, heading = self._upstream(x, y, how)
        return Start(float(along[-1, 0]), float(along[-1, 1]), heading, None, (x, y))

    def _upstream(self, x: float, y: float, how: Array) -> tuple[Array, tuple[float, float]]:
        """The walk along a front against the way of the cut, to where a wall or an end stops it (n, 2), and the heading there."""
        upstream = engine.kernel("upstream")
        count = upstream(self._away, self._level.psi, how, x, y, self._walked, self._heading)
        return self._walked[:count].copy(), (float(self._heading[0]), float(self._heading[1]))

    def _taut(self, route: Array) -> Array:
        """A way with fewer corners that keeps clear of what stands."""
        kept = np.empty(len(route), dtype=np.int64)
        how = np.array([COARSE, self._R, _CLEAR / self._level.cell])
        count = engine.kernel("taut")(self._away, self._level.psi, how, np.ascontiguousarray(route), kept)
        return route[kept[:count]]


def _coarsely(shape: tuple[int, ...]) -> tuple[int, int]:
    """Rows and columns of the coarser grid."""
    return -(-shape[0] // COARSE), -(-shape[1] // COARSE)


def _chain(parent: Array, here: tuple[int, int], end: tuple[int, int]) -> Array:
    """The way from a cell to another, back from its end (n, 2) [cells]."""
    columns = parent.shape[1]
    chain = [end]
    while chain[-1] != here and parent[chain[-1]] >= 0:
        chain.append(divmod(int(parent[chain[-1]]), columns))
    return np.array(chain[::-1], dtype=float)[:, ::-1] * COARSE
