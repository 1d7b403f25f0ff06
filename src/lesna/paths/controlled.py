"""Light radial passes with controlled engagement: the cutter marches along the front of the stock, its stepover held.

From a hole or from an open side it follows the material on its right; a pass ends where nothing is left, and the next one begins
at the upstream end of the nearest front. Nothing is assumed of the shape: whatever stands is found in the grid of the stock.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from lesna.geometry.region import Region
from lesna.model.work import STEADY, Pulse
from lesna.paths.connected import connected
from lesna.paths.demand import Demand
from lesna.paths.entry import let_in
from lesna.paths.fronts import Fronts, Start
from lesna.paths.level import TURNING, Level
from lesna.paths.way import Leg, Way
from lesna.physics import Array, engine
from lesna.physics.compiled import load_module

#: the cutter marches by this much at a time [cells]
_STEP = 1.25
#: after contact the engagement grows to its target over a way of _GROWING * DC + _OF_WIDTH * ae**2 / DC [mm], so that
#: the cutter turns into a wide stepover without swinging back out of it; a pass ends after a way of _IDLE * DC on
#: which it cuts nothing
_GROWING, _IDLE, _OF_WIDTH = 0.06, 0.25, 1.4
#: places of one pass at most
_PLACES = 60_000
#: the kernel returns after so many places, so that the work can be ended in between
_STRETCH = 3000
#: points on the front half of the cutter's rim at which material is looked for
_SAMPLES = 91
#: after so many failed starts the rest is left for the closing pass
_TRIES = 60
#: material away from the walls that is thicker than _POST [cells] is a post, which gets passes of its own; one whose
#: distance to a wall is less than _ATTACHED * R is cut with the wall
_POST, _ATTACHED = 0.1, 0.1
#: less material than this times DC**2 is left for the closing pass
_CRUMB = 0.002
#: columns of the way that the kernel gives back: place, heading, stepover taken
_X, _Y, _UX, _UY, _TAKEN = range(5)
#: index, among the numbers given to the kernel, of the side on which the material lies (1 right, -1 left)
_SENSE = 6
#: index of the greatest stepover of one step, as a multiple of the target, and its values in turn: where a pass would
#: take more it is put off and begun elsewhere, until only such passes are left
_OVER, _MOST = 7, (1.15, 1.4, np.inf)


def controlled(region: Region, demand: Demand, pulse: Pulse = STEADY) -> Way:
    """Clears a floor.

    Parameters
    ----------
    region : Region
        The floor, its walls and open sides.
    demand : Demand
        Cutter, stepover and heights.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When the cutter does not fit.
    """
    return connected(_Marcher(Level(region, demand), demand, pulse).legs(), demand.clear)


@dataclass
class _Marcher:
    level: Level
    demand: Demand
    pulse: Pulse = STEADY
    at: Array | None = None
    banned: list[tuple[float, float]] = field(default_factory=list)

    def __post_init__(self) -> None:
        R, cell, DC = self.demand.radius, self.level.cell, 2 * self.demand.radius
        self.R = R / cell
        growing, idle, turning = (share * DC / cell for share in (_GROWING, _IDLE, TURNING))
        growing += _OF_WIDTH * self.demand.stepover**2 / DC / cell
        self.marching = load_module("marching")
        # the kernel takes cells within TOUCH of the rim for cut already, so that its target lies that much lower
        self.how = np.array(
            [self.R, self.demand.stepover / cell - self.marching.TOUCH, _STEP, turning, growing, idle, 1.0, _MOST[0]]
        )
        phi = np.linspace(-np.pi / 2, np.pi / 2, _SAMPLES)
        self.rim = np.stack((np.sin(phi), np.cos(phi), np.append(0.0, np.diff(np.sin(phi)))))
        self.fronts = Fronts(self.level)
        self.total = 0
        #: whether a pass has ended before an overload
        self.is_spared = False

    def legs(self) -> Iterator[Leg]:
        tries = 0
        while True:
            start = self.fronts.next(self.at, float(self.how[_SENSE]), self.banned)
            self._say()
            if start is None and self._dare():
                continue
            if start is None:
                entry = self._let_in()
                if entry is None:
                    yield from self._posts()
                    return
                yield entry
                continue
            way = self._march(start)
            self.fronts.has_cut(way[:, :2])
            contact = np.flatnonzero(way[:, _TAKEN] > self.marching.NOTHING * self.how[1])
            if len(contact) < 3:
                self.banned += [(start.x, start.y), start.front]
                tries += 1
                if tries > _TRIES and self._dare():
                    tries = 0
                    continue
                if tries > _TRIES:
                    yield from self._posts()
                    return
                continue
            tries, self.banned = 0, []
            yield from self._link(start.route)
            way = way[: int(contact[-1]) + 3]
            yield Leg("cut", self._mm(way[:, :2]), way[:, _TAKEN] * self.level.cell)
            self.at = way[-1, :2].copy()
            if self.demand.zigzag:
                self.how[_SENSE] = -self.how[_SENSE]

    def _dare(self) -> bool:
        """Whether passes that ended before an overload are to be tried again, with more allowed."""
        if not self.is_spared:
            return False
        self.how[_OVER] = _MOST[_MOST.index(float(self.how[_OVER])) + 1]
        self.is_spared, self.banned = False, []
        return True

    def _mm(self, cells: Array, z: float | None = None) -> Array:
        out = np.empty((len(cells), 3))
        out[:, 0] = self.level.x0 + self.level.cell * cells[:, 0]
        out[:, 1] = self.level.y0 + self.level.cell * cells[:, 1]
        out[:, 2] = self.demand.floor if z is None else z
        return out

    def _say(self) -> None:
        """Tells how much stands no more; whoever listens may stop the work here."""
        standing = self.fronts.standing()
        self.total = max(self.total, standing, 1)
        self.pulse.tell(self.total - standing, self.total)

    def _march(self, start: Start) -> Array:
        """One pass, in stretches short enough to be stopped between them."""
        f, march = self.level, engine.kernel("march")
        parts, so_far = [np.array([[start.x, start.y, *start.heading, 0.0]])], np.zeros(4)
        while sum(len(part) for part in parts) < _PLACES:
            way = np.zeros((_STRETCH, 5))
            way[0] = parts[-1][-1]
            count = march(f.phi, f.psi, f.wide, self.how, self.rim, way, so_far)
            parts.append(way[1:count])
            self.is_spared |= so_far[self.marching.WHY] == self.marching.OVER
            if so_far[self.marching.WHY] != self.marching.FULL or count < 2:
                break
            self._say()
        return np.concatenate(parts)

    # ------------------------------------------------------------ letting in

    def _let_in(self) -> Leg | None:
        """The way in where there is most room in what still stands; None where nothing stands that it could enter."""
        f = self.level
        material = f.material
        room = np.where(material, f.psi, -1.0)
        # the cells with the most room, within a cell; the one nearest to the middle of them
        best = np.argwhere(room >= room.max() - 1.0)
        r, c = best[np.argmin(((best - best.mean(axis=0)) ** 2).sum(axis=1))].tolist()
        if room[r, c] < 0 or material.sum() * f.cell**2 < _CRUMB * (2 * self.demand.radius) ** 2:
            return None
        here = (f.x0 + f.cell * c, f.y0 + f.cell * r)
        way = let_in(self.demand, here, max(float(room[r, c]) * f.cell, 0.0), self._may_stand)
        cells = np.ascontiguousarray((way[:, :2] - (f.x0, f.y0)) / f.cell)
        self.marching.cut_along(f.phi, cells, self.R)
        middle = np.array([[c, r]], dtype=float).repeat(2, axis=0)
        self.marching.cut_along(f.phi, middle, self.R + np.hypot(*(cells[-1] - (c, r))))
        self.fronts.has_cut(cells)
        self.at = cells[-1]
        return Leg("entry", way, np.zeros(len(way)))

    def _posts(self) -> Iterator[Leg]:
        """Short passes past what is too small for a march and stands free: it would break off and be cut twice."""
        from scipy import ndimage

        f = self.level
        labels, count = ndimage.label((f.phi < -_POST) & f.reachable)
        for window, label in zip(ndimage.find_objects(labels), range(1, count + 1), strict=True):
            rows, columns = np.nonzero(labels[window] == label)
            rows, columns = rows + window[0].start, columns + window[1].start
            if (f.psi[rows, columns] < _ATTACHED * self.R - self.R).any():
                continue
            x, y = float(columns.mean()), float(rows.mean())
            size = float(np.hypot(columns - x, rows - y).max()) + 1.0
            way = self._past(x, y, size)
            if way is not None:
                self.marching.cut_along(f.phi, way, self.R)
                yield Leg("cut", self._mm(way), np.full(2, min(2 * size * f.cell, self.demand.stepover)))

    def _past(self, x: float, y: float, size: float) -> Array | None:
        """A straight way whose right side takes a post; None where walls leave no room for it."""
        f = self.level
        for angle in np.linspace(0.0, 2 * np.pi, 24, endpoint=False).tolist():
            u = np.array((np.cos(angle), np.sin(angle)))
            middle = np.array((x, y)) + (self.R - size) * np.array((-u[1], u[0]))
            half = np.sqrt(max(self.R**2 - (self.R - 2 * size) ** 2, 0.0)) + size
            way = np.array((middle - half * u, middle + half * u))
            count = int(np.hypot(*(way[1] - way[0]))) + 2
            along = way[0] + np.linspace(0.0, 1.0, count)[:, None] * (way[1] - way[0])
            if all(self.marching.at(f.psi, px, py) >= 0 for px, py in along.tolist()):
                return way
        return None

    def _may_stand(self, x: float, y: float) -> bool:
        f = self.level
        return bool(self.marching.at(f.psi, (x - f.x0) / f.cell, (y - f.y0) / f.cell) >= 0.0)

    def _link(self, route: Array | None) -> Iterator[Leg]:
        """The way to the next pass with a small lift; none where it leads over everything, which is found afterwards."""
        if route is None or self.at is None:
            return
        lifted = self._mm(route, self.demand.floor + self.demand.lift)
        points = np.concatenate((self._mm(route[:1]), lifted, self._mm(route[-1:])))
        yield Leg("link", points, np.zeros(len(points)))
