"""Thin webs: material higher than a millimetre and thinner than a share of the cutter, with air on both sides.

A pass leaves one beside itself, or the stock has one. It is told where the edge meets it, else, where it stands at the end, at the pass
that made it. Its thickness is that between the places that cutters have swept and the sides of the stock, not that between cells, so that
it is told as it would be measured.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import chain

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from lesna.physics import Array
from lesna.stock.body import Body
from lesna.stock.field import HeightMap, distance_to_walls
from lesna.stock.steps import Steps
from lesna.stock.walk import Engagement

#: what stands lower over the floor beside it is a ridge [mm]
_HIGH = 1.0
#: thinner than this is what two passes leave between them by rounding [mm]
_THINNEST = 0.02
#: a place just behind a face, from which a web is looked through [mm]
_BEHIND = 0.01
#: a place in what the edge meets, ahead of the rim [mm]
_AHEAD = 0.03
#: places looked at across a web
_RAYS = 24
#: webs are looked for along the way at every so much of the radius, and last at least so much of the diameter
_EVERY, _LASTS = 0.12, 0.15
#: material at the side of a pass: engaged up to so near to where the rim goes along the feed [rad]
_AT_SIDE = 0.26
#: steps of a pass before this one lie so near to where it would go, over the radius
_BESIDE_OF = 0.08
#: air that a map has around its stock, and a cell more [cells]
_BESIDE = 5.5
#: what grows thicker by more along the way than this is the tip of a wedge [-]
_WEDGE = 0.35
#: faces that are looked behind together
_AT_ONCE = 256
#: way before a meeting, over the radius, on which the cutter's own sweep does not count as another pass
_OWN = 2.0


@dataclass(frozen=True)
class Web:
    """One web: the step at which it is told, its middle (x, y, z) and its thickness [mm]."""

    step: int
    place: tuple[float, float, float]
    thickness: float


class Swept:
    """Where cutters have been, and how far other places lie from what they have swept."""

    def __init__(
        self,
        stock: HeightMap,
        steps: Steps,
        bodies: Mapping[int, Body],
        of_body: NDArray[np.int64],
        cuts: NDArray[np.bool_],
        *,
        has_sides: bool,
    ) -> None:
        self.stock, self.has_sides = stock, has_sides
        rows = np.flatnonzero(cuts)
        first = rows[~np.isin(rows - 1, rows)]  # where a run of them begins its start counts as well
        self.places = np.concatenate((steps.end[rows], steps.start[first]))
        self.step = np.concatenate((rows, first))
        radius = np.zeros(len(steps))
        for number, body in bodies.items():
            radius[of_body == number] = float(body.radius_at(np.array([_HIGH]))[0])
        self.radius = radius[self.step]
        self.widest = float(self.radius.max(initial=0.0))
        self.tree = cKDTree(self.places[:, :2]) if len(rows) else None

    def is_outside(self, place: Array) -> bool:
        """Whether a place lies beside a stock whose sides nobody has stated: what stands there is no web."""
        left, low, right, high = self.stock.extent()
        edge = _BESIDE * self.stock.cell
        return not self.has_sides and not (
            left + edge < place[0] < right - edge and low + edge < place[1] < high - edge
        )

    def beside(self, places: Array, reach: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Rows whose middle lies near places (n, 2), and the place that each of them belongs to, rising."""
        if self.tree is None:
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
        lists = self.tree.query_ball_point(places, reach)
        counts = np.array([len(rows) for rows in lists], dtype=np.int64)
        rows = np.fromiter(chain.from_iterable(lists), dtype=np.int64, count=int(counts.sum()))
        return rows, np.repeat(np.arange(len(places)), counts)

    def has_before(self, places: Array, reach: float, z: Array, step: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Whether a cutter stood near each of some places (n, 2), low enough and before a step."""
        rows, of = self.beside(places, reach)
        fits = (self.step[rows] < step[of]) & (self.places[rows, 2] <= z[of])
        return np.bincount(of[fits], minlength=len(places)) > 0

    def near(
        self,
        places: Array,
        reach: float,
        z: Array,
        before: NDArray[np.int64] | None = None,
        own: tuple[int, int] = (0, 0),
    ) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Rows of the sweeps that touch a circle about places (n, 2), low enough, up to a step, but for a stretch of steps.

        The second array tells the place that each row belongs to, rising.
        """
        rows, of = self.beside(places, self.widest + reach)
        gap = np.hypot(*(self.places[rows, :2] - places[of]).T) - self.radius[rows]
        keep = (self.places[rows, 2] <= z[of]) & (gap < reach)
        if before is not None:
            keep &= (self.step[rows] < before[of]) & ~((self.step[rows] >= own[0]) & (self.step[rows] < own[1]))
        return rows[keep], of[keep]

    def distance(
        self, places: Array, rows: NDArray[np.int64], of: NDArray[np.int64], z: Array
    ) -> tuple[Array, NDArray[np.int64]]:
        """How far groups of places (n, k, 2) lie in the material, negative in the air [mm], each group with its rows and its height.

        The second array (n, k) names the sweep that is nearest, -1 for the stock's side.
        """
        count, each = places.shape[:2]
        flat = np.column_stack((places.reshape(-1, 2), np.repeat(z, each)))
        out = distance_to_walls(self.stock, flat).reshape(count, each)
        who = np.full(out.shape, -1)
        if len(rows):
            gaps = np.linalg.norm(places[of] - self.places[rows, None, :2], axis=2) - self.radius[rows, None]
            begins = np.flatnonzero(np.diff(of, prepend=-1))
            group = of[begins]
            swept = np.minimum.reduceat(gaps, begins, axis=0)
            is_least = gaps == np.repeat(swept, np.diff(begins, append=len(of)), axis=0)
            first = np.minimum.reduceat(np.where(is_least, np.arange(len(of))[:, None], len(of)), begins, axis=0)
            who[group] = np.where(swept < out[group], rows[first], -1)
            out[group] = np.minimum(out[group], swept)
        return out, who


def made_by_passes(
    swept: Swept, steps: Steps, met: Engagement, limit: float, radius: float, cuts: NDArray[np.bool_]
) -> list[Web]:
    """Webs that a pass leaves between itself and what was cut before: told where the edge meets them later, else where they were made."""
    flat = cuts & (np.abs(steps.end[:, 2] - steps.start[:, 2]) < 1e-9)
    gone = np.cumsum(steps.length)
    rows = np.flatnonzero(flat)
    if not len(rows) or swept.tree is None:
        return []
    rows = rows[np.unique((gone[rows] / (_EVERY * radius)).astype(np.int64), return_index=True)[1]]
    valid = np.arange(met.found.shape[1])[None, :] < met.counts[rows, None]
    high = valid & (met.found[rows, :, 2] > _HIGH)
    found: list[tuple[int, Array, float]] = []
    for side, touches in (
        (1.0, (high & (met.found[rows, :, 0] < _AT_SIDE)).any(axis=1)),
        (-1.0, (high & (met.found[rows, :, 1] > np.pi - _AT_SIDE)).any(axis=1)),
    ):
        some = rows[touches]
        across = side * np.column_stack((-steps.heading[some, 1], steps.heading[some, 0]))
        face = steps.end[some, :2] + radius * across
        # quick: a pass before this one, or the stock's side, lies as far away as a web is thick
        far = distance_to_walls(
            swept.stock, np.column_stack((face + (limit + _BEHIND) * across, steps.end[some, 2] + _HIGH))
        )
        beside = face + (swept.widest + 0.5 * limit) * across
        is_near = (far <= 0) | swept.has_before(
            beside, 0.5 * limit + _BESIDE_OF * radius, steps.end[some, 2] + _HIGH, some
        )
        for some_near in np.array_split(np.flatnonzero(is_near), int(is_near.sum()) // _AT_ONCE + 1):
            numbers = some[some_near]
            webs = _through(swept, face[some_near], across[some_near], steps.end[numbers, 2], limit, numbers)
            found.extend((int(numbers[k]), middle, thickness) for k, middle, thickness in webs)
    return _told(swept, found, gone, radius, steps)


def _through(
    swept: Swept,
    face: Array,
    across: Array,
    z: Array,
    limit: float,
    before: NDArray[np.int64],
    own: tuple[int, int] = (0, 0),
) -> list[tuple[int, Array, float]]:
    """The number, the middle and the thickness of those that are webs of what stands behind faces (n, 2)."""
    over = z + _HIGH
    at = np.linspace(_BEHIND, 1.05 * limit, _RAYS)
    places = face[:, None, :] + at[:, None] * across[:, None, :]
    # what lies further from the face than the last place and one more changes no place's depth below nothing
    rows, of = swept.near(face, 1.1 * limit, over, before, own)
    stands = swept.distance(places[:, :1], rows, of, over)[0][:, 0] > 0
    keep = stands[of]
    depths, who = swept.distance(places[stands], rows[keep], (np.cumsum(stands) - 1)[of[keep]], over[stands])
    webs = []
    for k, depth, nearest in zip(np.flatnonzero(stands).tolist(), depths, who, strict=True):
        if not (depth <= 0).any():
            continue
        end = int((depth <= 0).argmax())
        if nearest[end] < 0 and swept.is_outside(places[k, end]):
            continue
        share = depth[end - 1] / max(depth[end - 1] - depth[end], 1e-12)
        thickness = float(at[end - 1] + share * (at[end] - at[end - 1]))
        if _THINNEST < thickness < limit:
            webs.append((k, face[k] + 0.5 * thickness * across[k], thickness))
    return webs


def _told(swept: Swept, found: list[tuple[int, Array, float]], gone: Array, radius: float, steps: Steps) -> list[Web]:
    """Webs out of places along the way: runs that last and are no wedges, each web once."""
    if not found:
        return []
    numbers = np.array([step for step, _, _ in found])
    middles, thick = np.array([middle for _, middle, _ in found]), np.array([thickness for _, _, thickness in found])
    # places of one run follow each other along the way and across
    apart = (np.abs(np.diff(gone[numbers])) > 3 * _EVERY * radius) | (
        np.linalg.norm(np.diff(middles, axis=0), axis=1) > 3 * _EVERY * radius
    )
    kept: list[Web] = []
    seen = np.zeros((0, 2))
    for group in np.split(np.arange(len(found)), np.flatnonzero(apart) + 1):
        way = gone[numbers[group]]
        if way[-1] - way[0] < 2 * _LASTS * radius or abs(np.polyfit(way - way[0], thick[group], 1)[0]) > _WEDGE:
            continue
        here = middles[group]
        if len(seen) and np.median(np.linalg.norm(here[:, None] - seen[None], axis=2).min(axis=1)) < _EVERY * radius:
            continue  # the same web of a lower level, or seen from its other side
        seen = np.concatenate((seen, here))
        kept.append(_met_or_made(swept, numbers[group], here, float(np.median(thick[group])), steps))
    return sorted(kept, key=lambda web: web.step)


def _met_or_made(swept: Swept, numbers: NDArray[np.int64], middles: Array, thickness: float, steps: Steps) -> Web:
    """A web where a later pass meets it first, else at the middle of the pass that made it."""
    z = float(steps.end[numbers[0], 2])
    rows, of = swept.near(middles, 0.0, np.full(len(middles), z + _HIGH))
    later = swept.step[rows] > numbers[-1]
    step, place = int(numbers[len(numbers) // 2]), middles[len(middles) // 2]
    if later.any():
        first = int(swept.step[rows[later]].argmin())
        step, place = int(swept.step[rows[later][first]]), middles[of[later][first]]
    return Web(step, (float(place[0]), float(place[1]), z), thickness)


def met_by_the_edge(
    swept: Swept, steps: Steps, met: Engagement, radius: float, limit: float, judged: NDArray[np.bool_]
) -> list[Web]:
    """Webs of the stock itself that the edge runs into: it comes to material ahead, or what it is in has air on both sides."""
    flat = judged & (np.abs(steps.end[:, 2] - steps.start[:, 2]) < 1e-9)
    gone = np.cumsum(steps.length)
    out: list[Web] = []
    for i in range(met.found.shape[1]):
        across = ((met.beyond.astype(np.int64) >> i) & 1).all(axis=1)
        a, b = met.found[:, i, 0], met.found[:, i, 1]
        engaged = flat & (met.counts > i) & (met.found[:, i, 2] > _HIGH)
        comes = engaged & ~np.append(False, engaged[:-1])
        ahead = comes & (a < np.pi / 2) & (b > np.pi / 2)
        rows = np.flatnonzero((engaged & across) | ahead)
        for group in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else ():
            web = _met(swept, steps, group, 0.5 * (a + b), radius, limit, gone)
            if web is not None:
                out.append(web)
    out.sort(key=lambda web: web.step)
    kept: list[Web] = []
    for web in out:
        if (
            not kept
            or gone[web.step] - gone[kept[-1].step] > 2 * radius
            or np.hypot(web.place[0] - kept[-1].place[0], web.place[1] - kept[-1].place[1]) > 2 * radius
        ):
            kept.append(web)
    return kept


def _met(
    swept: Swept, steps: Steps, group: NDArray[np.int64], phi: Array, radius: float, limit: float, gone: Array
) -> Web | None:
    """The web of one meeting: the median of what a few of its steps find."""
    found: list[tuple[int, Array, float]] = []
    for step in group[np.unique(np.linspace(0, len(group) - 1, 5).astype(int))].tolist():
        ux, uy = steps.heading[step].tolist()
        angle = float(phi[step])
        ray = np.array([np.sin(angle) * ux - np.cos(angle) * uy, np.sin(angle) * uy + np.cos(angle) * ux])
        inside, z, number = (
            steps.end[step, :2] + (radius + _AHEAD) * ray,
            steps.end[step : step + 1, 2],
            np.array([step]),
        )
        own = int(np.searchsorted(gone, gone[step] - _OWN * radius)), step + 1
        rows, of = swept.near(inside[None], 2 * limit, z + _HIGH, number, own)
        depth, who = swept.distance(inside[None, None], rows, of, z + _HIGH)
        if not 0 < depth[0, 0] < limit:
            continue
        across = _away(swept, inside, rows, int(who[0, 0]), z)
        if across is not None:
            webs = _through(swept, (inside - depth[0, 0] * across)[None], across[None], z, limit, number, own)
            found.extend((step, middle, thickness) for _, middle, thickness in webs)
    if not found:
        return None
    step, middle, _ = found[0]
    x, y = middle.tolist()
    return Web(step, (x, y, float(steps.end[step, 2])), float(np.median([thickness for _, _, thickness in found])))


def _away(swept: Swept, place: Array, rows: NDArray[np.int64], who: int, z: Array) -> Array | None:
    """The direction that leads away from the nearest face; None where it has none."""
    if who >= 0:
        way = place - swept.places[who, :2]
    else:
        beside = place + _AHEAD * np.array([[1.0, 0.0], [-1.0, 0.0], [0.0, 1.0], [0.0, -1.0]])
        depth = swept.distance(beside[None], rows, np.zeros_like(rows), z + _HIGH)[0][0]
        depth = np.clip(depth, -_HIGH, _HIGH)  # without end where no wall is near
        way = np.array([depth[0] - depth[1], depth[2] - depth[3]])
    size = float(np.linalg.norm(way))
    return way / size if size > 1e-9 else None
