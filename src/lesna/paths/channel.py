"""A narrow floor of any shape as an axis midway between its walls, with the room on either side: where a trochoid can run."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lesna.geometry.region import Region
from lesna.model.errors import InputError
from lesna.physics import Array

#: places along walls between which the axis is sought, and along the axis, over the radius
_FINE, _STEP = 0.2, 0.1
#: a floor is narrow where the room beside its axis is at most so many radii
NARROW = 2.5
#: loops begin and end where the room is this share of that further on, within so many radii
_ROOM, _FURTHER = 0.93, 1.0
#: the axis is smoothed over so much of the radius
_SMOOTH = 1.0
#: walls are followed so far beyond an open side, over the radius
_BEYOND = 3.0
_NONE = "the floor is no channel that loops could follow; held engagement clears every shape"


@dataclass(frozen=True)
class Channel:
    """An axis.

    Attributes
    ----------
    places : array (n, 2)
        Places along it [mm].
    along : array (n, 2)
        Directions there [-].
    room : array (n,)
        Distance to the nearest wall [mm].
    opens : tuple of bool
        Whether its first and last end lie in the open.
    """

    places: Array
    along: Array
    room: Array
    opens: tuple[bool, bool]


def channel_of(region: Region, near: float, radius: float) -> Channel:
    """The longest axis of a narrow floor, from an open end on where there is one.

    Parameters
    ----------
    region : Region
        A floor.
    near : float
        Least distance of the cutter's middle from a wall [mm].
    radius : float
        Of the cutter [mm].

    Raises
    ------
    InputError
        When the floor is too wide, has no axis the cutter fits on, or an island that the axis runs round.
    """
    import shapely

    if region.floor.interiors or region.keep_out is not None:
        raise InputError(_NONE)
    whole = region.extended(_BEYOND * radius)
    left, low, right, high = whole.bounds
    edges = shapely.linestrings(region.walls.reshape(-1, 2, 2))
    walls = shapely.union_all(edges).intersection(
        shapely.box(left - radius, low - radius, right + radius, high + radius)
    )
    if walls.is_empty:
        raise InputError(_NONE)
    places = _longest(_midway(walls, whole, near, radius))
    places = _smoothed(places, radius)
    room = np.asarray(shapely.distance(walls, shapely.points(places)))
    inside = np.flatnonzero(shapely.contains_xy(region.floor, *places.T))
    if len(inside) < 3:
        raise InputError(_NONE)
    opens = [inside[0] > 0, inside[-1] < len(places) - 1]
    places, room = places[inside[0] : inside[-1] + 1], room[inside[0] : inside[-1] + 1]
    if opens == [False, True]:
        places, room, opens = places[::-1], room[::-1], opens[::-1]
    places, room = _outwards(places, room, opens, radius)
    first, last = _ends(room, opens, radius)
    places, room = places[first : last + 1], room[first : last + 1]
    if len(places) < 3 or float(room.max()) > NARROW * radius:
        raise InputError(_NONE)
    along = np.gradient(places, axis=0)
    return Channel(places, along / np.hypot(*along.T)[:, None], room, (bool(opens[0]), bool(opens[1])))


def _outwards(places: Array, room: Array, opens: list[bool], radius: float) -> tuple[Array, Array]:
    """The axis drawn straight on out of its open ends: a loop begins clear of the material, and one leaves it with both flanks."""
    step = _STEP * radius
    for end, is_open in zip((0, -1), opens, strict=True):
        if not is_open:
            continue
        inner = (
            places[min(int(_SMOOTH / _STEP), len(places) - 1)]
            if end == 0
            else places[-1 - min(int(_SMOOTH / _STEP), len(places) - 1)]
        )
        way = (places[end] - inner) / np.hypot(*(places[end] - inner))
        far = np.arange(step, float(room[end]) + step, step)
        added = places[end] + far[:, None] * way
        wide = np.full(len(far), room[end])
        places = np.vstack((added[::-1], places)) if end == 0 else np.vstack((places, added))
        room = np.append(wide, room) if end == 0 else np.append(room, wide)
    return places, room


def _midway(walls: object, whole: object, near: float, radius: float) -> Array:
    """Pieces of the lines midway between walls on which the cutter fits (n, 2, 2) [mm]."""
    import shapely

    fine = _FINE * radius
    points = shapely.get_coordinates(shapely.segmentize(walls, fine))
    lines = shapely.voronoi_polygons(shapely.multipoints(points), only_edges=True)
    parts = [np.array(part.coords) for part in shapely.get_parts(lines)]
    pieces = np.concatenate([np.stack((part[:-1], part[1:]), axis=1) for part in parts])
    ends = pieces.reshape(-1, 2)
    fits = shapely.contains_xy(whole, *ends.T) & (shapely.distance(walls, shapely.points(ends)) >= near)
    return np.asarray(pieces[fits.reshape(-1, 2).all(axis=1)])


def _longest(pieces: Array) -> Array:
    """The longest way along connected pieces (n, 2): from the place furthest from any to the one furthest from that."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components, dijkstra

    if not len(pieces):
        raise InputError(_NONE)
    places, index = np.unique(np.round(pieces.reshape(-1, 2), 6), axis=0, return_inverse=True)
    a, b = index.reshape(-1, 2).T
    length = np.maximum(np.hypot(*(places[a] - places[b]).T), 1e-9)
    graph = coo_matrix((length, (a, b)), shape=(len(places), len(places))).tocsr()
    labels = connected_components(graph, directed=False)[1]
    start = int(np.flatnonzero(labels == np.bincount(labels).argmax())[0])
    far = dijkstra(graph, directed=False, indices=start)
    one = int(np.where(np.isfinite(far), far, -1.0).argmax())
    far, before = dijkstra(graph, directed=False, indices=one, return_predecessors=True)
    chain = [int(np.where(np.isfinite(far), far, -1.0).argmax())]
    while chain[-1] != one:
        chain.append(int(before[chain[-1]]))
    return np.asarray(places[chain])


def _smoothed(places: Array, radius: float) -> Array:
    """Evenly spaced places along a way, its jitter averaged out."""
    gone = np.append(0.0, np.cumsum(np.hypot(*np.diff(places, axis=0).T)))
    if gone[-1] < radius * _STEP:
        raise InputError(_NONE)
    at = np.linspace(0.0, gone[-1], max(int(gone[-1] / (_STEP * radius)), 3))
    even = np.stack([np.interp(at, gone, places[:, axis]) for axis in (0, 1)], axis=1)
    half = max(int(_SMOOTH / _STEP / 2), 1)
    padded = np.vstack((2 * even[0] - even[half:0:-1], even, 2 * even[-1] - even[-2 : -half - 2 : -1]))
    window = np.ones(2 * half + 1) / (2 * half + 1)
    return np.stack([np.convolve(padded[:, axis], window, mode="valid") for axis in (0, 1)], axis=1)


def _ends(room: Array, opens: list[bool], radius: float) -> tuple[int, int]:
    """First and last place at which a loop runs: at a closed end the axis goes on into a corner, where the room shrinks."""
    reach = int(_FURTHER / _STEP)
    first, last = 0, len(room) - 1
    while not opens[0] and first < last and room[first] < _ROOM * room[first : first + reach].max():
        first += 1
    while not opens[1] and last > first and room[last] < _ROOM * room[max(last - reach, 0) : last + 1].max():
        last -= 1
    return first, last
