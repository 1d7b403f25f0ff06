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

    def has_before(self, places: Array, reach: float, z: Array, step: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Whether a cutter stood near each of some places (n, 2), low enough and before a step."""
        assert self.tree is not None  # nobody asks where nothing was swept
        beside = self.tree.query_ball_point(places, reach)
        counts = np.array([len(rows) for rows in beside], dtype=np.int64)
        rows = np.fromiter(chain.from_iterable(beside), dtype=np.int64, count=int(counts.sum()))
        of = np.repeat(np.arange(len(places)), counts)
        fits = (self.step[rows] < step[of]) & (self.places[rows, 2] <= z[of])
        return np.bincount(of[fits], minlength=len(places)) > 0

    def near(
        self, place: Array, reach: float, z: float, before: int | None = None, own: tuple[int, int] = (0, 0)
    ) -> NDArray[np.int64]:
        """Rows of the sweeps that touch a circle about a place, low enough, up to a step, but for a stretch of steps."""
        if self.tree is None:
            return np.zeros(0, dtype=np.int64)
        rows = np.asarray(self.tree.query_ball_point(place[:2], self.widest + reach), dtype=np.int64)
        gap = np.hypot(*(self.places[rows, :2] - place[:2]).T) - self.radius[rows]
        keep = (self.places[rows, 2] <= z) & (gap < reach)
        if before is not None:
            keep &= (self.step[rows] < before) & ~((self.step[rows] >= own[0]) & (self.step[rows] < own[1]))
        return rows[keep]

    def distance(self, places: Array, rows: NDArray[np.int64], z: float) -> tuple[Array, NDArray[np.int64]]:
        """How far places (n, 2) lie in the material, negative in the air [mm], and the sweep that is nearest, -1 for the stock's side."""
        out = distance_to_walls(self.stock, np.column_stack((places, np.full(len(places), z))))
        who = np.full(len(places), -1)
        if len(rows):
            gaps = np.linalg.norm(places[:, None, :] - self.places[None, rows, :2], axis=2) - self.radius[None, rows]
            least = gaps.argmin(axis=1)
            swept = gaps[np.arange(len(places)), least]
            who = np.where(swept < out, rows[least], -1)
            out = np.minimum(out, swept)
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
        for k in np.flatnonzero(is_near).tolist():
            web = _through(swept, face[k], across[k], float(steps.end[some[k], 2]), limit, int(some[k]))
            if web is not None:
                found.append((int(some[k]), *web))
    return _told(swept, found, gone, radius, steps)


def _through(swept: Swept, face: Array, across: Array, z: float, limit: float, before: int | None = None,
             own: tuple[int, int] = (0, 0)) -> tuple[Array, float] | None:  # fmt: skip
    """The middle and the thickness of what stands behind a face; None where it is no web."""
    over = z + _HIGH
    at = np.linspace(_BEHIND, 1.05 * limit, _RAYS)
    places = face + at[:, None] * across
    # what lies further from the face than the last place and one more changes no place's depth below nothing
    rows = swept.near(face, 1.1 * limit, over, before, own)
    if swept.distance(places[:1], rows, over)[0][0] <= 0:
        return None
    depth, who = swept.distance(places, rows, over)
    if not (depth <= 0).any():
        return None
    end = int((depth <= 0).argmax())
    if who[end] < 0 and swept.is_outside(places[end]):
        return None
    share = depth[end - 1] / max(depth[end - 1] - depth[end], 1e-12)
    thickness = float(at[end - 1] + share * (at[end] - at[end - 1]))
    if not _THINNEST < thickness < limit:
        return None
    return face + 0.5 * thickness * across, thickness


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
    first, place = len(steps), middles[len(middles) // 2]
    for middle in middles:
        rows = swept.near(middle, 0.0, z + _HIGH)
        rows = rows[swept.step[rows] > numbers[-1]]
        if len(rows) and swept.step[rows].min() < first:
            first, place = int(swept.step[rows].min()), middle
    step = first if first < len(steps) else int(numbers[len(numbers) // 2])
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
    found = []
    for step in group[np.unique(np.linspace(0, len(group) - 1, 5).astype(int))].tolist():
        ux, uy = steps.heading[step].tolist()
        angle = float(phi[step])
        ray = np.array([np.sin(angle) * ux - np.cos(angle) * uy, np.sin(angle) * uy + np.cos(angle) * ux])
        inside, z = steps.end[step, :2] + (radius + _AHEAD) * ray, float(steps.end[step, 2])
        own = int(np.searchsorted(gone, gone[step] - _OWN * radius)), step + 1
        rows = swept.near(inside, 2 * limit, z + _HIGH, step, own)
        depth, who = swept.distance(inside[None], rows, z + _HIGH)
        if not 0 < depth[0] < limit:
            continue
        across = _away(swept, inside, rows, int(who[0]), z)
        web = (
            None if across is None else _through(swept, inside - float(depth[0]) * across, across, z, limit, step, own)
        )
        if web is not None:
            found.append((step, *web))
    if not found:
        return None
    step, middle, _ = found[0]
    x, y = middle.tolist()
    return Web(step, (x, y, float(steps.end[step, 2])), float(np.median([thickness for _, _, thickness in found])))


def _away(swept: Swept, place: Array, rows: NDArray[np.int64], who: int, z: float) -> Array | None:
    """The direction that leads away from the nearest face; None where it has none."""
    if who >= 0:
        way = place - swept.places[who, :2]
    else:
        beside = place + _AHEAD * np.array([[1.0, 0.0], [-1.0, 0.0], [0.0, 1.0], [0.0, -1.0]])
        depth, _ = swept.distance(beside, rows, z + _HIGH)
        depth = np.clip(depth, -_HIGH, _HIGH)  # without end where no wall is near
        way = np.array([depth[0] - depth[1], depth[2] - depth[3]])
    size = float(np.linalg.norm(way))
    return way / size if size > 1e-9 else None
