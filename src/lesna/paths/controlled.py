"""Light radial passes with controlled engagement: the cutter marches along the front of the stock, its stepover held.

From a hole or from an open side it follows the material on its right; a pass ends where nothing is left, and the next one begins
at the upstream end of the nearest front. Nothing is assumed of the shape: whatever stands is found in the grid of the stock.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.paths.way import Leg, Way
from lesna.physics import Array, engine
from lesna.physics.compiled import load_module

Tell = Callable[[int, int], None]

#: cells across the radius, and at most so large [mm]
_PER_RADIUS, _LARGEST = 30.0, 0.5
#: step [cells] and least turning radius over DC
_STEP, _TURNING = 1.25, 0.15
#: way over which engagement grows after contact, and idle way after which a pass ends [mm over DC]
_GROWING, _IDLE = 0.25, 0.25
#: cells of a level at most
_MOST_CELLS = 30_000_000
#: places of one pass at most
_PLACES = 60_000
#: places between two looks at whether somebody still wants it
_STRETCH = 3000
#: samples of the front half of the rim
_SAMPLES = 91
#: walls keep so much for the closing pass, which takes off what arcs and grids leave [mm]
_SKIN = 0.02
#: coarse cells for finding the next place, in cells
_COARSE = 2
#: a front is touched within this of the rim [mm over DC] ...
_REACH = 0.06
#: ... and a way between places keeps this far from material [mm]
_CLEAR = 0.3
#: a place may brush material by this [mm]
_BRUSH = 0.12
#: a place that gave no pass is not tried again within this [mm over DC]
_BANNED = 0.07
#: failed starts after which what is left is left
_TRIES = 60
#: steps along a front to its upstream end [mm], and the most of them
_ALONG, _MOST_ALONG = 0.3, 4000
#: material smaller than this over DC squared is what the closing pass takes
_CRUMB = 0.002
#: radius of the helix over the cutter's
_HELIX = 0.6
#: columns of the kernel's way
_X, _Y, _UX, _UY, _TAKEN = range(5)
#: place of the side that the material lies on among the kernel's numbers
_SENSE = 6


@dataclass(frozen=True)
class Demand:
    """How a level is to be cut.

    Attributes
    ----------
    radius : float
        Of the cutter [mm].
    stepover : float
        That is held [mm].
    wall : float
        Stock that stays on the walls [mm].
    top, floor : float
        Heights of the material and of the tip [mm].
    clear : float
        Height over everything [mm].
    lift : float
        Lift of a link within the cleared floor [mm].
    ramp_deg : float
        Angle of the helix [deg].
    zigzag : bool
        Whether every other pass may cut up, with the material on the left: shorter links.
    """

    radius: float
    stepover: float
    wall: float = 0.0
    top: float = 0.0
    floor: float = -10.0
    clear: float = 5.0
    lift: float = 0.4
    ramp_deg: float = 3.0
    zigzag: bool = False


def controlled(region: Region, demand: Demand, tell: Tell | None = None) -> Way:
    """Clears a floor.

    Parameters
    ----------
    region : Region
        The floor, its walls and open sides.
    demand : Demand
        Cutter, stepover and heights.
    tell : callable or None
        Told (done, total) cells; may raise to stop [-].

    Raises
    ------
    InputError
        When the cutter does not fit.
    """
    legs = list(_Marcher(_Level(region, demand), demand, tell).legs())
    return Way(tuple(legs))


class _Level:
    """Grids of one level: how far the walls and how far the stock are, in cells."""

    def __init__(self, region: Region, demand: Demand) -> None:
        import shapely

        R = demand.radius
        self.region, self.demand = region, demand
        self.cell = min(R / _PER_RADIUS, _LARGEST)
        beyond = 3.0 * R + 2.0
        left, low, right, high = region.bounds(beyond)
        margin = R + 4 * self.cell
        self.x0, self.y0 = left - margin, low - margin
        shape = (int((high - low + 2 * margin) / self.cell) + 2, int((right - left + 2 * margin) / self.cell) + 2)
        if shape[0] * shape[1] > _MOST_CELLS:
            raise InputError(
                f"the feature is {right - left:.0f} x {high - low:.0f} mm: too large for a cutter of {2 * R:g} mm"
            )
        x, y = self.x0 + self.cell * np.arange(shape[1]), self.y0 + self.cell * np.arange(shape[0])
        most = float(np.hypot(right - left, high - low)) + margin
        away = np.full(shape, most, dtype=np.float32)
        engine.kernel("wall_distance")(region.walls, self.x0, self.y0, self.cell, most, away)
        outside = region.outside(x[None, :], y[:, None])
        inside = (_inside(region.floor, x, y) | (outside >= 0)) & (outside <= beyond)
        # the middle never leaves the grid, however much air there is
        inside &= ((x >= left) & (x <= right))[None, :] & ((y >= low) & (y <= high))[:, None]
        keep = R + demand.wall + _SKIN
        self.psi = (np.where(inside, away - keep, -np.maximum(away, self.cell) - keep) / self.cell).astype(np.float32)
        if not (self.psi >= 0).any():
            raise InputError(_too_wide(away, inside, R, demand.wall))
        self.phi = (outside / self.cell).astype(np.float32)
        from scipy.ndimage import maximum_filter

        self.wide = maximum_filter(self.psi, size=2 * int(2 * _TURNING * 2 * R / self.cell) + 1)
        self.floor_cells = _inside(shapely.buffer(region.floor, -demand.wall) if demand.wall else region.floor, x, y)
        self.reachable = self._reachable()

    def _reachable(self) -> Array:
        """Cells of the floor that some allowed place of the cutter covers."""
        from scipy.ndimage import distance_transform_edt

        away = distance_transform_edt(self.psi < 0)
        return np.asarray((away <= self.demand.radius / self.cell - 0.5) & self.floor_cells)

    @property
    def material(self) -> Array:
        """Cells that stand and can be reached."""
        return np.asarray((self.phi < -0.05) & self.reachable)


def _inside(shape: Any, x: Array, y: Array) -> Array:
    import shapely

    shapely.prepare(shape)
    return np.asarray(shapely.contains_xy(shape, *np.meshgrid(x, y)))


def _too_wide(away: Array, inside: Array, R: float, wall: float) -> str:
    widest = 2.0 * (float(away[inside].max()) - wall - _SKIN) if inside.any() else 0.0
    return f"the cutter of {2 * R:g} mm does not fit; up to {max(widest, 0.0):.2f} mm fits here"


@dataclass
class _Marcher:
    level: _Level
    demand: Demand
    tell: Tell | None = None
    at: Array | None = None
    banned: list[tuple[float, float]] = field(default_factory=list)

    def __post_init__(self) -> None:
        R, cell, DC = self.demand.radius, self.level.cell, 2 * self.demand.radius
        self.R = R / cell
        growing, idle, turning = (share * DC / cell for share in (_GROWING, _IDLE, _TURNING))
        self.how = np.array([self.R, self.demand.stepover / cell, _STEP, turning, growing, idle, 1.0])
        phi = np.linspace(-np.pi / 2, np.pi / 2, _SAMPLES)
        self.rim = np.stack((np.sin(phi), np.cos(phi), np.append(0.0, np.diff(np.sin(phi)))))
        self.grids = load_module("grids")
        self.marching = load_module("marching")
        self.space: tuple[Array, ...] | None = None
        self.away = np.zeros((2, 2), dtype=np.float32)
        self.standing = self.total = 0

    def legs(self) -> Iterator[Leg]:
        tries = 0
        while True:
            start = self._next()
            self._say()
            if start is None:
                entry = self._let_in()
                if entry is None:
                    return
                yield from entry
                continue
            (x, y, ux, uy), route, touched = start
            way = self._march(x, y, ux, uy)
            contact = np.flatnonzero(way[:, _TAKEN] > self.marching.NOTHING * self.how[1])
            if len(contact) < 3:
                self.banned += [(x, y), touched]
                tries += 1
                if tries > _TRIES:
                    return
                continue
            tries, self.banned = 0, []
            yield from self._link(route, (x, y))
            way = way[: int(contact[-1]) + 3]
            yield Leg("cut", self._mm(way[:, :2]), way[:, _TAKEN] * self.level.cell)
            self.at = way[-1, :2].copy()
            if self.demand.zigzag:
                self.how[_SENSE] = -self.how[_SENSE]

    def _mm(self, cells: Array, z: float | None = None) -> Array:
        out = np.empty((len(cells), 3))
        out[:, 0] = self.level.x0 + self.level.cell * cells[:, 0]
        out[:, 1] = self.level.y0 + self.level.cell * cells[:, 1]
        out[:, 2] = self.demand.floor if z is None else z
        return out

    def _say(self) -> None:
        """Tells how much stands no more; whoever listens may stop the work here."""
        if self.tell is not None:
            self.total = max(self.total, self.standing, 1)
            self.tell(self.total - self.standing, self.total)

    def _march(self, x: float, y: float, ux: float, uy: float) -> Array:
        """One pass, in stretches short enough to be stopped between them."""
        f, march = self.level, engine.kernel("march")
        parts, so_far = [np.array([[x, y, ux, uy, 0.0]])], np.zeros(4)
        while sum(len(part) for part in parts) < _PLACES:
            way = np.zeros((_STRETCH, 5))
            way[0] = parts[-1][-1]
            count = march(f.phi, f.psi, f.wide, self.how, self.rim, way, so_far)
            parts.append(way[1:count])
            if so_far[self.marching.WHY] != self.marching.FULL or count < 2:
                break
            self._say()
        return np.concatenate(parts)

    # ------------------------------------------------------------ letting in

    def _let_in(self) -> list[Leg] | None:
        """A helix where there is most room in what still stands; None where nothing stands that it could enter."""
        f = self.level
        material = f.material
        room = np.where(material, f.psi, -1.0)
        # where there is most room; of many such places the one in the middle
        best = np.argwhere(room >= room.max() - 1.0)
        r, c = best[np.argmin(((best - best.mean(axis=0)) ** 2).sum(axis=1))].tolist()
        if room[r, c] < 0 or material.sum() * f.cell**2 < _CRUMB * (2 * self.demand.radius) ** 2:
            return None
        legs = self._over((float(c), float(r)))
        orbit = min(_HELIX * self.R, max(float(room[r, c]), 0.0))
        down = self.demand.top - self.demand.floor
        if orbit < 0.1 * self.R:
            points = np.array([(c, r), (c, r)], dtype=float)
            drop = self._mm(points, self.demand.floor)
            drop[0, 2] = self.demand.top + 0.5
        else:
            turns = max(down / (2 * np.pi * orbit * f.cell * np.tan(np.radians(self.demand.ramp_deg))), 1.0)
            angle = np.linspace(0.0, 2 * np.pi * (turns + 1), int(48 * (turns + 1)))
            points = np.stack((c + orbit * np.cos(angle), r + orbit * np.sin(angle)), axis=1)
            drop = self._mm(points)
            drop[:, 2] = np.maximum(
                self.demand.top + 0.2 - (down + 0.2) * angle / (2 * np.pi * turns), self.demand.floor
            )
        for a, b in zip(points[:-1].tolist(), points[1:].tolist(), strict=True):
            self.marching.cut(f.phi, *a, *b, self.R)
        self.marching.cut(f.phi, float(c), float(r), float(c), float(r), self.R + orbit)
        legs.append(Leg("entry", np.concatenate((legs[-1].points[-1:], drop)), np.zeros(len(drop) + 1)))
        self.at = points[-1]
        return legs

    def _over(self, place: tuple[float, float]) -> list[Leg]:
        """Up, across and down to the top of the material over a place."""
        target = self._mm(np.array([place]), self.demand.clear)
        if self.at is None:
            points = np.concatenate((target, target))
        else:
            here = self._mm(self.at[None, :])
            up = here.copy()
            up[:, 2] = self.demand.clear
            points = np.concatenate((here, up, target))
        return [Leg("retract", points, np.zeros(len(points)))]

    # ------------------------------------------------------------ the next place

    def _next(self) -> tuple[tuple[float, float, float, float], Array | None, tuple[float, float]] | None:
        """Where the next pass begins with its heading, the way there in cells (None: over everything), and the front it is for."""
        f, step = self.level, _COARSE
        material = (f.phi[::step, ::step] < -0.05) & f.reachable[::step, ::step]
        self.standing = int(material.sum())
        if not self.standing:
            return None
        from scipy.ndimage import distance_transform_edt

        nearest = distance_transform_edt(~material, return_distances=False, return_indices=True)
        depth = f.phi[::step, ::step][nearest[0], nearest[1]]
        rows, columns = np.ogrid[: material.shape[0], : material.shape[1]]
        # to the nearest middle that stands, less how far inside the material that middle lies
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
        route, cell = self._route(ground, touch)
        if cell is None:
            return None
        r, c = divmod(cell, touch.shape[1])
        along, heading = self._upstream(float(c * step), float(r * step))
        if route is not None and self.at is not None:
            route = self._taut(np.concatenate(([self.at], route[1:], along)))
        start = (*along[-1], *heading)
        return start, route, (float(c * step), float(r * step))

    def _route(self, ground: Array, touch: Array) -> tuple[Array | None, int | None]:
        step, columns = _COARSE, ground.shape[1]
        if self.space is None:
            size = ground.size * 4
            self.space = (
                np.empty(ground.shape),
                np.empty(ground.shape, dtype=np.int64),
                np.empty(size),
                np.empty(size, dtype=np.int64),
            )
        cost, parent, keys, items = self.space
        if self.at is not None:
            here = int(round(self.at[1] / step)) * columns + int(round(self.at[0] / step))
            found = engine.kernel("nearest")(
                np.ascontiguousarray(ground), here, touch.view(np.uint8), cost, parent, keys, items
            )
            if found >= 0:
                chain = [found]
                while chain[-1] != here and parent[divmod(chain[-1], columns)] >= 0:
                    chain.append(int(parent[divmod(chain[-1], columns)]))
                rows, across = np.divmod(np.array(chain[::-1]), columns)
                return np.column_stack((across * step, rows * step)).astype(float), int(found)
        # nowhere within the cleared floor: over everything, to the nearest
        rows, across = np.nonzero(touch)
        if self.at is None:
            k = int(np.argmax(self.level.phi[rows * step, across * step])) if len(rows) else 0
        else:
            k = int(np.argmin((across * step - self.at[0]) ** 2 + (rows * step - self.at[1]) ** 2))
        return None, int(rows[k] * columns + across[k])

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
            # backwards from where the feed goes with the material at its side
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
        # a pass begins clear of what it will cut, as far as the walls allow
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

    def _link(self, route: Array | None, place: tuple[float, float]) -> Iterator[Leg]:
        if route is None or self.at is None:
            over = self._over(place)[0]
            down = np.concatenate((over.points, self._mm(np.array([place]))))
            yield Leg("retract", down, np.zeros(len(down)))
            return
        lifted = self._mm(route, self.demand.floor + self.demand.lift)
        points = np.concatenate((self._mm(route[:1]), lifted, self._mm(route[-1:])))
        yield Leg("link", points, np.zeros(len(points)))
