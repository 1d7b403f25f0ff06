"""One path of many stretches: the nearest next, down on the surface where that is short, led in and out on a tangent elsewhere."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model.work import Pulse
from lesna.physics import Array, engine
from lesna.surface.drops import Drops
from lesna.surface.tips import Tips, tool_normals

#: stretches nearer than this many stepovers, or this far, are joined on the surface [-], [mm]
_NEAR_STEPS, _NEAR = 4.0, 2.0
#: turn of a lead [rad], its places, and its radius over the skin that is left [mm]
_TURN, _CHORDS, _OVER = np.pi / 2, 8, 1.0

Kind = Literal["cut", "link", "lead"]


@dataclass(frozen=True)
class Stretch:
    """Cutting places in order.

    Attributes
    ----------
    rows : array (n, 4)
        x, y, z and the triangle that holds the tool [mm].
    is_closed : bool
        Whether it may begin anywhere.
    way : str
        ``lines``, ``contours`` or ``rings``.
    """

    rows: Array
    is_closed: bool
    way: str


@dataclass(frozen=True)
class Piece:
    """Places (n, 3) of one kind [mm]; what is not joined to the piece before is reached over everything."""

    kind: Kind
    places: Array
    way: str = ""


@dataclass(frozen=True)
class SurfacePath:
    """A whole path over a surface.

    Attributes
    ----------
    pieces : tuple of Piece
        In order.
    lifts, turns, links : int
        How often it leaves the surface, turns by more than 60 deg, and is joined on the surface: each a mark that may be seen.
    """

    pieces: tuple[Piece, ...]
    lifts: int
    turns: int
    links: int

    @property
    def cut_length(self) -> float:
        """Length on the surface [mm]."""
        return float(
            sum(np.linalg.norm(np.diff(p.places, axis=0), axis=1).sum() for p in self.pieces if p.kind == "cut")
        )


def joined(tips: Tips, groups: list[list[Stretch]], stepover: float, skin: float, pulse: Pulse) -> SurfacePath:
    """Groups of stretches one after the other, each from the nearest end.

    Parameters
    ----------
    tips : Tips
        The tool over the part.
    groups : list of lists of Stretch
        What is cut together.
    stepover : float
        Of the lines, by which near is judged [mm].
    skin : float
        Stock that lies on the surface [mm].
    pulse : Pulse
        Told how far it is.
    """
    pulse.begin("joining")
    ordered = [stretch for group in groups for stretch in _in_order(group, pulse)]
    near = max(_NEAR, _NEAR_STEPS * stepover)
    pieces: list[Piece] = []
    links = lifts = 0
    radius = _OVER + 2.0 * skin
    for number, stretch in enumerate(ordered):
        pulse.tell(number, len(ordered))
        places = stretch.rows[:, :3]
        if pieces:
            link = _link(tips, pieces[-1].places[-1], places[0], near)
            if link is not None:
                links += 1
                pieces.append(Piece("link", link))
            else:
                lifts += 1
                pieces.append(Piece("lead", _lead(tips, ordered[number - 1].rows[::-1], radius, skin)[::-1]))
                pieces.append(Piece("lead", _lead(tips, stretch.rows, radius, skin)))
        else:
            pieces.append(Piece("lead", _lead(tips, stretch.rows, radius, skin)))
        pieces.append(Piece("cut", places, stretch.way))
    if ordered:
        pieces.append(Piece("lead", _lead(tips, ordered[-1].rows[::-1], radius, skin)[::-1]))
    return SurfacePath(tuple(pieces), lifts, _turns(pieces), links)


def _in_order(group: list[Stretch], pulse: Pulse) -> list[Stretch]:
    """Stretches each begun at the end nearest to where the one before ended; closed ones anywhere."""
    from scipy.spatial import cKDTree

    if not group:
        return []
    ends: list[Array] = []
    of: list[tuple[int, int]] = []
    for k, stretch in enumerate(group):
        rows = stretch.rows
        starts = list(range(0, len(rows) - 1, max(len(rows) // 32, 1))) if stretch.is_closed else [0, len(rows) - 1]
        for n in starts:
            ends.append(rows[n, :3])
            of.append((k, n))
    tree, places = cKDTree(np.array(ends)), np.array(ends)
    left = np.ones(len(of), bool)
    of_piece: dict[int, list[int]] = {}
    for n, (k, _) in enumerate(of):
        of_piece.setdefault(k, []).append(n)
    at, out = 0, []
    while True:
        k, n = of[at]
        left[of_piece[k]] = False
        stretch = group[k]
        rows = stretch.rows
        if stretch.is_closed:
            rows = np.concatenate((rows[n:-1], rows[: n + 1]))
        elif n:
            rows = rows[::-1]
        out.append(Stretch(rows, stretch.is_closed, stretch.way))
        if not left.any():
            return out
        if len(out) % 64 == 0:
            pulse.check()
            # those that are used up only stand in the way of the search
            keep = np.flatnonzero(left)
            tree, index = cKDTree(places[keep]), keep
        elif len(out) == 1:
            index = np.arange(len(of))
        at = _nearest(tree, index, left, rows[-1, :3])


def _nearest(tree: object, index: Array, left: Array, place: Array) -> int:
    count = 8
    while True:
        _, found = tree.query(place, k=min(count, len(index)))  # type: ignore[attr-defined]
        for n in np.atleast_1d(found).tolist():
            if left[index[n]]:
                return int(index[n])
        count *= 4


def _link(tips: Tips, a: Array, b: Array, near: float) -> Array | None:
    """The way from a to b down on the surface and never under the straight line; None where it is long, or rises more than it is long."""
    across = float(np.linalg.norm(b[:2] - a[:2]))
    if float(np.linalg.norm(b - a)) > near:
        return None
    if across < 1e-6:
        return np.stack((a, b))
    rows, _ = engine.kernel("surface_follow")(
        *tips.ground.under(tips.shape), np.ascontiguousarray(np.stack((a[:2], b[:2]))), np.array((0, 2), np.int64), -1e9
    )
    if (rows[:, 3] < 0).any():
        return None
    share = np.linalg.norm(rows[:, :2] - a[:2], axis=1) / across
    straight = a[2] + share * (b[2] - a[2])
    z = np.maximum(rows[:, 2], straight)
    if z.max() > max(a[2], b[2]) + max(across, 0.5 * near):
        return None
    return np.concatenate((a[None], np.column_stack((rows[1:-1, :2], z[1:-1])), b[None]))


def _lead(tips: Tips, rows: Array, radius: float, skin: float) -> Array:
    """A quarter of a circle onto the first place, tangent to the way and out of the surface; lifted where something stands in its way."""
    first = rows[0, :3]
    ahead = rows[min(len(rows) - 1, 1), :3] - first
    ahead = ahead / max(float(np.linalg.norm(ahead)), 1e-12)
    place = first[None, :2]
    found: Drops = tips.ground.drop(tips.shape, place)
    out = tool_normals(tips.shape, place, found)[0] if found.held[0] >= 0 else np.array((0.0, 0.0, 1.0))
    out = out + np.array((0.0, 0.0, 0.2))  # never quite level, so that it ends over the skin
    out -= (out @ ahead) * ahead
    out /= max(float(np.linalg.norm(out)), 1e-12)
    angle = np.linspace(_TURN, 0.0, _CHORDS + 1)[:, None]
    arc = first - ahead * radius * np.sin(angle) + out * radius * (1.0 - np.cos(angle))
    arc[-1] = first
    below = tips.ground.drop(tips.shape, arc[:, :2])
    # over what is left of the skin at its begin, and down to nothing where it meets the surface
    room = skin * np.linspace(1.0, 0.0, len(arc)) ** 2
    need = np.where(below.held >= 0, below.z + room, arc[:, 2])
    arc[:-1, 2] = np.maximum(arc[:-1, 2], need[:-1])
    return _over_part(tips, arc)


def _over_part(tips: Tips, arc: Array) -> Array:
    """The chords of a lead raised where the surface stands between them."""
    rows, begins = engine.kernel("surface_follow")(
        *tips.ground.under(tips.shape), np.ascontiguousarray(arc[:, :2]), np.array((0, len(arc)), np.int64), -1e9
    )
    gone = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(arc[:, :2], axis=0), axis=1)))
    if gone[-1] < 1e-6:
        return arc
    own = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(rows[:, :2], axis=0), axis=1)))
    rising = np.append(True, np.diff(gone) > 1e-9)
    planned = np.interp(own, gone[rising], arc[rising, 2])
    if (rows[:, 2] <= planned + 1e-4).all():
        return arc
    raised = np.column_stack((rows[:, :2], np.where(rows[:, 3] >= 0, np.maximum(rows[:, 2], planned), planned)))
    raised[-1] = arc[-1]
    return np.concatenate((arc[:1], raised)) if arc[0, 2] > raised[0, 2] else raised


def _turns(pieces: list[Piece]) -> int:
    count = 0
    for piece in pieces:
        if piece.kind != "cut" or len(piece.places) < 3:
            continue
        steps = np.diff(piece.places, axis=0)
        size = np.linalg.norm(steps, axis=1)
        steps = steps[size > 1e-9] / size[size > 1e-9][:, None]
        count += int(((steps[:-1] * steps[1:]).sum(axis=1) < 0.5).sum())
    return count + sum(
        1 for a, b in zip(pieces[:-1], pieces[1:], strict=True) if "link" in (a.kind, b.kind) and _bends(a, b)
    )


def _bends(a: Piece, b: Piece) -> bool:
    """Whether the way turns by more than 60 deg from one piece to the next."""
    if len(a.places) < 2 or len(b.places) < 2:
        return False
    u, v = a.places[-1] - a.places[-2], b.places[1] - b.places[0]
    size = float(np.linalg.norm(u) * np.linalg.norm(v))
    return size > 1e-12 and float(u @ v) < 0.5 * size
