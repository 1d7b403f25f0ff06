"""One level of a floor as grids of distances: to the walls, to what stands, and the room beside each place."""

from __future__ import annotations

import numpy as np

from lesna.geometry.raster import within
from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.paths.demand import Demand, Standing
from lesna.physics import Array, engine
from lesna.physics.compiled import load_module

#: cells are at most so large [mm]
_LARGEST = 0.5
#: cells of a level at most
_MOST_CELLS = 30_000_000
#: walls keep so much for the closing pass, which takes off what arcs and grids leave [mm]
SKIN = 0.02
#: what a simulation leaves along a wall, in its cells
_FILM = 0.25
#: material is told from none by so much [cells]
STANDS = 0.05
#: least turning radius over DC
TURNING = 0.15


class Level:
    """Grids of one level: how far the walls and how far the stock are, in cells."""

    def __init__(self, region: Region, demand: Demand) -> None:

        R = demand.radius
        self.region, self.demand = region, demand
        self.cell = min(R / demand.fine, _LARGEST)
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
        engine.kernel("wall_distance")(region.walls, self.x0, self.y0, self.cell, away)
        outside = region.outside(x, y)
        whole = region.extended(beyond)
        # the middle never goes far from what it cuts, however much air there is
        inside = within(whole, x, y) & (outside <= beyond)
        keep = R + demand.wall + SKIN
        self.psi = (np.where(inside, away - keep, -np.maximum(away, self.cell) - keep) / self.cell).astype(np.float32)
        if not (self.psi >= 0).any():
            raise InputError(_too_wide(away, inside, R, demand.wall))
        self.phi = self._stock(outside, away, x, y)
        from scipy.ndimage import maximum_filter

        self.wide = maximum_filter(self.psi, size=2 * int(2 * TURNING * 2 * R / self.cell) + 1)
        self.floor_cells = within(region.cleared.intersection(whole.buffer(-demand.wall)), x, y)
        self.reachable = self._reachable()

    def _stock(self, outside: Array, away: Array, x: Array, y: Array) -> Array:
        """Distance to what stands [cells]: all but the air, or what a demand says; less what this cutter has cut of it."""
        standing = self.demand.standing
        if standing is not None:
            # a thin film along a wall is what arcs and cells leave of it: the closing pass takes that
            outside = np.maximum(np.maximum(outside, _from(standing, x, y)), _FILM * standing.cell - away)
        phi = np.ascontiguousarray(outside / self.cell, dtype=np.float32)
        for way in self.demand.cut:
            cells = np.ascontiguousarray((way - (self.x0, self.y0)) / self.cell)
            load_module("marching").cut_along(phi, cells, self.demand.radius / self.cell)
        return phi

    def _reachable(self) -> Array:
        """Cells of the floor that some allowed place of the cutter covers."""
        from scipy.ndimage import distance_transform_edt

        away = distance_transform_edt(self.psi < 0)
        return np.asarray((away <= self.demand.radius / self.cell - 0.5) & self.floor_cells)

    @property
    def material(self) -> Array:
        """Cells that stand and can be reached."""
        return np.asarray((self.phi < -STANDS) & self.reachable)


def _from(standing: Standing, x: Array, y: Array) -> Array:
    """Distance of places from what stands, negative in it [mm]."""
    from scipy.ndimage import map_coordinates

    rows, columns = (y - standing.origin[1]) / standing.cell, (x - standing.origin[0]) / standing.cell
    return np.asarray(
        map_coordinates(standing.away, np.meshgrid(rows, columns, indexing="ij"), order=1, mode="nearest")
    )


def _too_wide(away: Array, inside: Array, R: float, wall: float) -> str:
    widest = 2.0 * (float(away[inside].max()) - wall - SKIN) if inside.any() else 0.0
    return f"the cutter of {2 * R:g} mm does not fit; up to {max(widest, 0.0):.2f} mm fits here"
