"""What any program leaves of a part, and where it cuts in: judged from the part, the moves and the tool alone.

Nothing here is shared with what makes paths: the tool is a signed distance, the part a cloud of points and samples on its faces. A
dent of depth g shows where it is deeper than ``spacing^2 / (8 r)`` between two points of the cloud.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from lesna.model import units
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array, engine
from lesna.surface.mesh import Mesh

#: points of the cloud and samples on the faces
_CLOUD, _SAMPLES = 300_000, 15_000
#: no points of the cloud closer than this [mm]
_FINEST = 0.08
#: squares of the moves and, finer, of the cloud: the highest point of one decides whether any in it is looked at [mm]
_SQUARE, _CLOUD_SQUARE = 0.75, 0.5
#: edge of small cells of the cloud, whose points are near the same moves [mm], and how many make a large one along an edge
_CELL, _WITHIN_LARGE = 0.25, 4
#: depth to which cutting in is let pass [mm]
GOUGE = 0.002
#: share of the area that has to lie within so much of the cusp, and that may lie beyond so much of it [-]
WITHIN, WITHIN_CUSP, BEYOND, BEYOND_CUSP = 0.99, 1.05, 0.0005, 3.0
#: rays are not followed further than this many cusps, and this far [mm]
_FAR_CUSPS, _FAR = 20.0, 0.5
#: a tool that sinks in deeper than this elsewhere cannot stand there [mm]
_SINKS = 0.005
#: bounds of the classes of slope [deg]
CLASSES = ((0, 15), (15, 30), (30, 45), (45, 60), (60, 75), (75, 90))
_AT_ONCE = 6_000
#: what a judging goes through
_ALL = _CLOUD + 4 * _SAMPLES

#: radius of the flat and of the corner, angle of the taper, greatest radius
Tool = tuple[float, float, float, float]


@dataclass(frozen=True)
class OfSlope:
    """What is left where the part has some slopes.

    Attributes
    ----------
    low, high : float
        Slopes [deg].
    area : float
        Judged [mm2].
    p50, p95, p99, most : float
        Heights that half, 95 % and 99 % of it stay under, and the highest [mm].
    """

    low: float
    high: float
    area: float
    p50: float
    p95: float
    p99: float
    most: float


@dataclass(frozen=True)
class Proof:
    """What was found.

    Attributes
    ----------
    cusp : float
        Height that may stay [mm].
    gouge : float
        How deep the tool cuts in at the most [mm].
    gouge_at : tuple of float
        Where (x, y, z) [mm].
    within, beyond, border, unreachable : float
        Shares of the area: within the cusp, not cut, and of the whole left aside because the axis would stand outside the area, or because
        the tool does not fit [-].
    p99, most : float
        Height that 99 % stay under, and the highest [mm].
    most_at, uncut_at : tuple of float
        Where the highest is, and what is not cut, (x, y, z) [mm].
    classes : tuple of OfSlope
        By slope.
    places, left : array (n, 3), (n,)
        Samples on the part, and what is left over them; not a number where it was not judged [mm].
    """

    cusp: float
    gouge: float
    gouge_at: tuple[float, float, float]
    within: float
    beyond: float
    border: float
    unreachable: float
    p99: float
    most: float
    most_at: tuple[float, float, float]
    classes: tuple[OfSlope, ...]
    places: Array
    left: Array

    @property
    def fails(self) -> tuple[str, ...]:
        """What it fails by, with marked numbers; empty where it passes."""
        out = []
        if self.gouge > GOUGE:
            out.append(f"cuts {units.SMALL.mark(1000 * self.gouge)} into the part at {units.place(self.gouge_at)}")
        if self.within < WITHIN:
            cusp = units.SMALL.mark(1000 * self.cusp)
            out.append(f"keeps only {100 * self.within:.2f} % of the area within the cusp of {cusp}")
        if self.beyond > BEYOND:
            stands = units.SMALL.mark(BEYOND_CUSP * 1000 * self.cusp)
            out.append(
                f"leaves {100 * self.beyond:.2f} % of the area uncut: more than {stands} stand at {units.place(self.most_at)}"
            )
        return tuple(out)

    @property
    def passes(self) -> bool:
        """Whether it may run."""
        return not self.fails


@dataclass(frozen=True)
class _Looked:
    """What is looked at of a part, and where a tool stands on it: the same for every way over it.

    Attributes
    ----------
    cloud, fine, coarse : array
        Points (n, 3) that must not be cut into, and where their cells begin (see `_in_cells`).
    places, facing : array (m, 3)
        Samples over which what is left is measured, and the normals there.
    axes, stands : array (m, 2), (m,)
        Where the axis is as the tool touches each sample, and 1 where it can stand there.
    area : float
        Of all that is judged [mm2].
    """

    cloud: Array
    fine: NDArray[np.int64]
    coarse: NDArray[np.int64]
    places: Array
    facing: Array
    axes: Array
    stands: NDArray[np.int64]
    area: float


#: kept for as long as the part is
_LOOKED: WeakKeyDictionary[Mesh, dict[Tool, _Looked]] = WeakKeyDictionary()


def proof_of(
    mesh: Mesh, moves: Array, is_rapid: NDArray[np.bool_], tool: Tool, cusp: float, area: Any, pulse: Pulse = STEADY
) -> Proof:  # fmt: skip
    """Judges moves over a part.

    Parameters
    ----------
    mesh : Mesh
        The part.
    moves : array (n, 6)
        Where each straight move begins and ends [mm].
    is_rapid : array (n,) of bool
        Which of them are rapids: they may cut in, and finish nothing.
    tool : tuple of float
        Radius of its flat and of its corner, angle of its taper to the axis (0: none), greatest radius [mm], [rad].
    cusp : float
        Height that may stay [mm].
    area : shapely geometry
        Where the axis may go [mm].
    pulse : Pulse
        Told how far it is.
    """
    import shapely

    pulse.begin("judging")
    form = np.array(tool)
    low, high = mesh.box
    looked = _LOOKED.setdefault(mesh, {})
    if tool not in looked:
        looked[tool] = _looked_at(mesh, tool, lambda done: pulse.tell(done, _ALL))
    on = looked[tool]
    cloud, coarse, places, facing = on.cloud, on.coarse, on.places, on.facing
    depth = np.zeros(len(cloud))
    squares = _squares(moves, tool[3], low, high)
    depths, leaves = engine.kernel("judge_depths"), engine.kernel("judge_left")

    def cut_in(part: slice) -> None:
        depths(*squares, cloud, on.fine, coarse[part.start : part.stop + 1], form, depth)

    parts = _slices(len(coarse) - 1, max(_AT_ONCE * len(coarse) // len(cloud), 1))
    engine.shared(cut_in, parts, lambda done: pulse.tell(_SAMPLES + _CLOUD * done // len(parts), _ALL))
    deepest = int(np.argmax(depth))
    is_border = ~shapely.intersects_xy(area.buffer(1e-6), on.axes[:, 0], on.axes[:, 1])
    judged = (on.stands == 1) & ~is_border
    left = np.full(len(places), np.nan)
    feed = _squares(np.ascontiguousarray(moves[~is_rapid]), tool[3], low, high)
    most = min(max(_FAR_CUSPS * cusp, 0.1), _FAR)
    rows = np.flatnonzero(judged)

    def leave(part: slice) -> None:
        some = rows[part]
        found = np.zeros(len(some))
        leaves(*feed, np.ascontiguousarray(places[some]), np.ascontiguousarray(facing[some]), form, most, found)
        left[some] = found

    engine.shared(
        leave,
        _slices(len(rows), _AT_ONCE // 8),
        lambda done: pulse.tell(_SAMPLES + _CLOUD + 3 * done * _AT_ONCE // 8, _ALL),
    )
    slope = np.degrees(np.arccos(np.clip(facing[:, 2], -1.0, 1.0)))
    here = left[judged]
    at = np.argmax(np.where(judged, left, -np.inf)) if len(here) else 0
    share = on.area / max(len(places), 1)
    return Proof(
        cusp=cusp, gouge=float(depth[deepest]), gouge_at=_xyz(cloud[deepest]),
        within=float((here <= WITHIN_CUSP * cusp).mean()) if len(here) else 0.0,
        beyond=float((here > BEYOND_CUSP * cusp).mean()) if len(here) else 1.0,
        border=float(is_border.mean()), unreachable=float(((on.stands == 0) & ~is_border).mean()),
        p99=float(np.quantile(here, 0.99)) if len(here) else most, most=float(here.max()) if len(here) else most,
        most_at=_xyz(places[at]), classes=tuple(_by_slope(slope[judged], here, share)), places=places, left=left,
    )  # fmt: skip


def _looked_at(mesh: Mesh, tool: Tool, tell: Callable[[int], None]) -> _Looked:
    low, high = mesh.box
    triangles, normals = np.ascontiguousarray(mesh.triangles), mesh.normals
    up = (normals[:, 2] > -1e-6) & ~_sides(triangles, low, high)
    cloud, fine, coarse = _in_cells(_spread(triangles, up, mesh.areas, _CLOUD, corners=True)[0])
    places, of = _spread(triangles, up, mesh.areas, _SAMPLES, corners=False)
    facing = np.ascontiguousarray(normals[of])
    axes, stands = np.zeros((len(places), 2)), np.zeros(len(places), np.int64)
    held, reaches, form = _cloud_squares(cloud), engine.kernel("judge_reach"), np.array(tool)

    def stand(part: slice) -> None:
        reaches(*held, places[part], facing[part], form, _SINKS, axes[part], stands[part])

    engine.shared(stand, _slices(len(places), _AT_ONCE // 4), lambda done: tell(done * _AT_ONCE // 4))
    return _Looked(cloud, fine, coarse, places, facing, axes, stands, float(mesh.areas[up].sum()))


def _slices(count: int, size: int) -> list[slice]:
    return [slice(first, first + size) for first in range(0, count, size)]


def _sides(triangles: Array, low: Array, high: Array) -> NDArray[np.bool_]:
    """Triangles (m,) that lie in the upright sides of the box round the part: the block's own sides, which no finishing pass makes."""
    out = np.zeros(len(triangles), bool)
    for axis in range(2):
        for bound in (low[axis], high[axis]):
            out |= (np.abs(triangles[:, :, axis] - bound) < 1e-4).all(axis=1)
    return out


def _xyz(place: Array) -> tuple[float, float, float]:
    x, y, z = place.tolist()
    return x, y, z


def _by_slope(slope: Array, left: Array, share: float) -> list[OfSlope]:
    out = []
    for low, high in CLASSES:
        here = left[(slope >= low) & ((slope < high) | (high == 90))]
        if len(here):
            p50, p95, p99 = np.quantile(here, (0.5, 0.95, 0.99)).tolist()
            out.append(OfSlope(low, high, share * len(here), p50, p95, p99, float(here.max())))
    return out


def _spread(
    triangles: Array, up: NDArray[np.bool_], areas: Array, count: int, *, corners: bool
) -> tuple[Array, NDArray[np.int64]]:
    """Places (n, 3) evenly over the triangles that look up, and their triangles; corners and edges as well where asked for."""
    which = np.flatnonzero(up)
    weight = areas[which]
    spacing = max(float(np.sqrt(weight.sum() / count)), _FINEST) if corners else 0.0
    number = int(min(count, max(weight.sum() / max(spacing, 1e-9) ** 2, 1.0))) if corners else count
    # even shares of the area, each at a place inside its triangle that no other share repeats
    at = (np.arange(number) + 0.5) / number * weight.sum()
    of = which[np.minimum(np.searchsorted(np.cumsum(weight), at), len(which) - 1)]
    u = (0.5 + 0.7548776662466927 * np.arange(number)) % 1.0
    v = (0.5 + 0.5698402909980532 * np.arange(number)) % 1.0
    over = u + v > 1.0
    u, v = np.where(over, 1.0 - u, u), np.where(over, 1.0 - v, v)
    t = triangles[of]
    inside = t[:, 0] + u[:, None] * (t[:, 1] - t[:, 0]) + v[:, None] * (t[:, 2] - t[:, 0])
    if not corners:
        return np.ascontiguousarray(inside), of
    t = triangles[which]
    edges = np.roll(t, -1, axis=1) - t
    parts = np.ceil(np.linalg.norm(edges, axis=2) / spacing).astype(int)
    more = [t.reshape(-1, 3)]
    for k in range(3):
        long = np.flatnonzero(parts[:, k] > 1)
        repeat = np.repeat(long, parts[long, k] - 1)
        step = (
            np.arange(len(repeat))
            - np.repeat(np.cumsum(parts[long, k] - 1) - (parts[long, k] - 1), parts[long, k] - 1)
            + 1
        )
        more.append(t[repeat, k] + (step / parts[repeat, k])[:, None] * edges[repeat, k])
    return np.ascontiguousarray(np.concatenate((inside, *more))), of


def _squares(moves: Array, radius: float, low: Array, high: Array) -> Any:
    """Moves by the squares that they pass (see `physics.compiled.surface_judge`); those far from the part are left out."""
    moves = np.ascontiguousarray(moves)
    if len(moves):
        least, most = np.minimum(moves[:, :3], moves[:, 3:]), np.maximum(moves[:, :3], moves[:, 3:])
        near = (most[:, :2] >= low[:2] - radius - 1).all(axis=1) & (least[:, :2] <= high[:2] + radius + 1).all(axis=1)
        moves = np.ascontiguousarray(moves[near])
    start = low[:2] - radius - 1
    dims = np.array([int((high[a] - low[a] + 2 * radius + 2) / _SQUARE) + 1 for a in range(2)], np.int64)
    frame = np.array((start[0], start[1], _SQUARE))
    begins, items, lowest = engine.kernel("judge_squares")(moves, dims, frame)
    return moves, begins, items, lowest, dims, frame


def _in_cells(cloud: Array) -> tuple[Array, NDArray[np.int64], NDArray[np.int64]]:
    """Points by small cells within large ones; where small cells begin, and at which of these large ones do, each with the end."""
    small = np.floor((cloud - cloud.min(axis=0)) / _CELL).astype(np.int64)
    dims = small.max(axis=0) // _WITHIN_LARGE + 1
    large = np.ravel_multi_index(tuple((small // _WITHIN_LARGE).T), tuple(dims))
    cell = large * _WITHIN_LARGE**3 + np.ravel_multi_index(tuple((small % _WITHIN_LARGE).T), 3 * (_WITHIN_LARGE,))
    order = np.argsort(cell)
    cell = cell[order]
    fine = _begins(cell)
    return np.ascontiguousarray(cloud[order]), fine, _begins(cell[fine[:-1]] // _WITHIN_LARGE**3)


def _begins(cells: NDArray[np.int64]) -> NDArray[np.int64]:
    """Where runs of equal cells (n,) begin, and the end of the last."""
    return np.concatenate(([0], np.flatnonzero(np.diff(cells)) + 1, [len(cells)]))


def _cloud_squares(cloud: Array) -> Any:
    """Points by squares, with the highest of each."""
    low, high = cloud[:, :2].min(axis=0), cloud[:, :2].max(axis=0)
    dims = np.array([int((high[a] - low[a]) / _CLOUD_SQUARE) + 1 for a in range(2)], np.int64)
    i, j = (np.minimum(((cloud[:, a] - low[a]) / _CLOUD_SQUARE).astype(np.int64), dims[a] - 1) for a in range(2))
    box = j * dims[0] + i
    order = np.argsort(box, kind="stable")
    counts = np.bincount(box, minlength=int(dims.prod()))
    start = np.append(0, np.cumsum(counts)).astype(np.int64)
    highest = np.full(len(counts), -1e30)
    np.maximum.at(highest, box, cloud[:, 2])
    return cloud, start, order.astype(np.int32), highest, dims, np.array((low[0], low[1], _CLOUD_SQUARE))
