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
#: the next start is sought on a grid so many times coarser than that of the stock
_COARSE = 2
#: material this near to the rim counts as a front at which a pass may begin [mm over DC]
_REACH = 0.06
#: a way between two passes keeps this far from material [mm]
_CLEAR = 0.3
#: a place on such a way counts as free although the cutter would overlap material by this much there [mm]
_BRUSH = 0.12
#: where no pass came about, no other is begun within this distance [mm over DC]
_BANNED = 0.07
#: after so many failed starts the rest is left for the closing pass
_TRIES = 60
#: a front is followed to its upstream end in steps of this length [mm], and in at most so many
_ALONG, _MOST_ALONG = 0.3, 4000
#: material away from the walls that is thicker than _POST [cells] is a post, which gets passes of its own; one whose
#: distance to a wall is less than _ATTACHED * R is cut with the wall
_POST, _ATTACHED = 0.1, 0.1
#: less material than this times DC**2 is left for the closing pass
_CRUMB = 0.002
#: cost of a cell that no way leads to, and the number of fronts whose starts are compared
_NO_WAY, _FRONTS = 1e17, 6
#: a pass that begins within _AT_HAND radii is taken at once; a further one gives way to another whose start is nearer
#: than _WORTH of its way
_AT_HAND, _WORTH = 2.0, 0.75
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


#: x, y and heading of a start, the way to it in cells (None: lifted over the part), and the cell of the front that it serves
_Start = tuple[tuple[float, float, float, float], Array | None, tuple[float, float]]


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
        self.grids = load_module("grids")
        self.space: tuple[Array, ...] | None = None
        self.away = np.zeros((2, 2), dtype=np.float32)
        self.standing = self.total = 0
        #: whether a pass has ended before an overload
        self.is_spared = False

    def legs(self) -> Iterator[Leg]:
        tries = 0
        while True:
            start = self._next()
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
            (x, y, ux, uy), route, touched = start
            way = self._march(x, y, ux, uy)
            contact = np.flatnonzero(way[:, _TAKEN] > self.marching.NOTHING * self.how[1])
            if len(contact) < 3:
                self.banned += [(x, y), touched]
                tries += 1
                if tries > _TRIES and self._dare():
                    tries = 0
                    continue
                if tries > _TRIES:
                    yield from self._posts()
                    return
                continue
            tries, self.banned = 0, []
            yield from self._link(route)
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
        self.total = max(self.total, self.standing, 1)
        self.pulse.tell(self.total - self.standing, self.total)

    def _march(self, x: float, y: float, ux: float, uy: float) -> Array:
        """One pass, in stretches short enough to be stopped between them."""
        f, march = self.level, engine.kernel("march")
        parts, so_far = [np.array([[x, y, ux, uy, 0.0]])], np.zeros(4)
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
        cells = (way[:, :2] - (f.x0, f.y0)) / f.cell
        for a, b in zip(cells[:-1].tolist(), cells[1:].tolist(), strict=True):
            self.marching.cut(f.phi, *a, *b, self.R)
        self.marching.cut(f.phi, float(c), float(r), float(c), float(r), self.R + np.hypot(*(cells[-1] - (c, r))))
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
                self.marching.cut(f.phi, *way[0], *way[1], self.R)
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

    # ------------------------------------------------------------ the next place

    def _next(self) -> _Start | None:
        """The next pass; None where nothing is left to begin at."""
        f, step = self.level, _COARSE
        material = (f.phi[::step, ::step] < -0.05) & f.reachable[::step, ::step]
        self.standing = int(material.sum())
        if not self.standing:
            return None
        from scipy.ndimage import distance_transform_edt

        nearest = distance_transform_edt(~material, return_distances=False, return_indices=True)
        depth = f.phi[::step, ::step][nearest[0], nearest[1]]
        rows, columns = np.ogrid[: material.shape[0], : material.shape[1]]
        # distance to the nearest coarse cell of material, less the distance from that cell's middle to the material's edge
        away = step * np.hypot(nearest[0] - rows, nearest[1] - columns) + np.maximum(depth, -2.0 * step)
        self.away = away.astype(np.float32)
        room = f.psi[::step, ::step]
        DC = 2 * self.demand.radius / f.cell
        free = (room >= 0) & (away >= self.R - _BRUSH / f.cell)
        touch = free & (away < self.R + _REACH * DC)
        for bx, by in self.banned:
            touch &= (columns * step - bx) ** 2 + (rows * step - by) ** 2 > (_BANNED * DC) ** 2
        if not touch.any():
            return None
        ground = (free.astype(np.uint8) + (free & (away < self.R + 0.5 / f.cell))).astype(np.uint8)
        return self._nearest_start(ground, touch) or self._over_everything(touch)

    def _nearest_start(self, ground: Array, touch: Array) -> _Start | None:
        """The front whose upstream end is nearest by way of the cleared floor: a front at hand may begin far away."""
        if self.at is None:
            return None
        from scipy.ndimage import label, minimum_position

        step = _COARSE
        here = int(round(self.at[1] / step)), int(round(self.at[0] / step))
        ground = np.ascontiguousarray(ground)
        found = self._costs(ground, here, touch)
        if found < 0:
            return None
        first = self._start_at(divmod(found, ground.shape[1]), here)
        if first[0] < _AT_HAND * self.R / step:
            return first[1]
        # the start of the nearest front lies far upstream, so the starts of other fronts are compared with it
        self._costs(ground, here, np.zeros_like(touch))
        cost = self._space(ground)[0]
        fronts, count = label(touch, np.ones((3, 3)))
        cells = [cell for cell in minimum_position(cost, fronts, range(1, count + 1)) if cost[cell] < _NO_WAY]
        starts = [self._start_at(cell, here) for cell in sorted(cells, key=lambda cell: float(cost[cell]))[:_FRONTS]]
        best = min(starts, key=lambda start: start[0], default=first)
        return best[1] if best[0] < _WORTH * first[0] else first[1]

    def _start_at(self, cell: tuple[int, int], here: tuple[int, int]) -> tuple[float, _Start]:
        """Cost of the way to where the pass of a front begins, and that start."""
        assert self.space is not None and self.at is not None  # its costs are known
        step, (cost, parent) = _COARSE, self.space[:2]
        r, c = int(cell[0]), int(cell[1])
        along, heading = self._upstream(float(c * step), float(r * step))
        x, y = along[-1]
        end = int(round(y / step)), int(round(x / step))
        direct, walked = float(cost[end]), float(cost[r, c]) + len(along) * _ALONG / self.level.cell / step
        # straight to the start where that way is free, else to the front and along it upstream
        is_free = direct < min(walked, _NO_WAY)
        route = _chain(parent, here, end if is_free else (r, c), step)
        route = self._taut(np.concatenate(([self.at], route[1:], along[-1:] if is_free else along)))
        return min(direct, walked), ((x, y, *heading), route, (float(c * step), float(r * step)))

    def _space(self, ground: Array) -> tuple[Array, ...]:
        if self.space is None:
            size = ground.size * 4
            self.space = (np.empty(ground.shape), np.empty(ground.shape, dtype=np.int64), np.empty(size),
                          np.empty(size, dtype=np.int64))  # fmt: skip
        return self.space

    def _costs(self, ground: Array, here: tuple[int, int], wanted: Array) -> int:
        """Finds the costs of the ways from a cell, as far as the nearest wanted one, and gives that; -1 where there is none."""
        start = here[0] * ground.shape[1] + here[1]
        return int(engine.kernel("nearest")(ground, start, wanted.view(np.uint8), *self._space(ground)))

    def _over_everything(self, touch: Array) -> _Start:
        """The nearest front that the cleared floor does not lead to; at first the one that lies most in the open."""
        step = _COARSE
        rows, columns = np.nonzero(touch)
        if self.at is None:
            k = int(np.argmax(self.level.phi[rows * step, columns * step]))
        else:
            k = int(np.argmin((columns * step - self.at[0]) ** 2 + (rows * step - self.at[1]) ** 2))
        x, y = float(columns[k] * step), float(rows[k] * step)
        along, heading = self._upstream(x, y)
        return (*along[-1], *heading), None, (x, y)

    def _upstream(self, x: float, y: float) -> tuple[list[tuple[float, float]], tuple[float, float]]:
        """Along the front against the way of the cut, to where a wall or an end stops it: there a pass is longest.

        Gives the places of that walk and the heading at its end.
        """
        f, hold, sense = self.level, self.R + 0.15 / self.level.cell, float(self.how[_SENSE])
        step, along = _COARSE, _ALONG / self.level.cell
        look = self.marching.at
        small = self.away

        def towards(px: float, py: float) -> tuple[float, float, float]:
            u, v = px / step, py / step
            gx, gy = look(small, u + 1, v) - look(small, u - 1, v), look(small, u, v + 1) - look(small, u, v - 1)
            size = float(np.hypot(gx, gy))
            return (
                (-gx / size, -gy / size, float(look(small, u, v)))
                if size > 1e-9
                else (0.0, 0.0, float(look(small, u, v)))
            )

        mx, my, d = towards(x, y)
        walked = [(x, y)]
        begin, turning, gone = (x, y), 0.0, 0.0
        for _ in range(_MOST_ALONG):
            if mx == my == 0.0:
                break
            # upstream is against the feed, which has the material on its `sense` side
            ux, uy = -sense * my, sense * mx
            px, py = x - along * ux + (d - hold) * mx, y - along * uy + (d - hold) * my
            nx, ny, d = towards(px, py)
            if look(f.psi, px, py) < 0 or d < self.R - _BRUSH / f.cell:
                break
            turning += float(np.arctan2(mx * ny - my * nx, mx * nx + my * ny))
            x, y, mx, my = px, py, nx, ny
            gone += along
            walked.append((x, y))
            if abs(turning) > np.pi * 1.2 or (gone > 4 * self.R and np.hypot(x - begin[0], y - begin[1]) < 2 * along):
                break
        # the start is drawn back from the material, where the walls leave room
        back = x + (d - hold) * mx, y + (d - hold) * my
        if d < hold and look(f.psi, *back) >= 0:
            walked.append(back)
        return walked, (1.0, 0.0) if mx == my == 0.0 else (-sense * my, sense * mx)

    def _taut(self, route: Array) -> Array:
        """A way with fewer corners that keeps clear of what stands."""
        kept, k = [route[0]], 0
        while k < len(route) - 1:
            far = len(route) - 1
            while far > k + 1 and not self._is_clear(route[k], route[far]):
                far = k + 1 + (far - k - 1) // 2
            kept.append(route[far])
            k = far
        return np.array(kept)

    def _is_clear(self, a: Array, b: Array) -> bool:
        f = self.level
        count = max(int(np.hypot(*(b - a)) / 2.0), 1)
        shares = np.linspace(0.0, 1.0, count + 1)[1:-1]
        ends = np.minimum(shares, 1 - shares) * np.hypot(*(b - a))
        for share, end in zip(shares.tolist(), ends.tolist(), strict=True):
            x, y = a + share * (b - a)
            need = self.R + min(_CLEAR / f.cell, 0.12 * end - 0.5)
            if self.marching.at(f.psi, x, y) < 0 or self.marching.at(self.away, x / _COARSE, y / _COARSE) < need:
                return False
        return True

    def _link(self, route: Array | None) -> Iterator[Leg]:
        """The way to the next pass with a small lift; none where it leads over everything, which is found afterwards."""
        if route is None or self.at is None:
            return
        lifted = self._mm(route, self.demand.floor + self.demand.lift)
        points = np.concatenate((self._mm(route[:1]), lifted, self._mm(route[-1:])))
        yield Leg("link", points, np.zeros(len(points)))


def _chain(parent: Array, here: tuple[int, int], end: tuple[int, int], step: int) -> Array:
    """The way from a cell to another, back from its end (n, 2) [cells]."""
    columns = parent.shape[1]
    chain = [end]
    while chain[-1] != here and parent[chain[-1]] >= 0:
        chain.append(divmod(int(parent[chain[-1]]), columns))
    return np.array(chain[::-1], dtype=float)[:, ::-1] * step
