"""Rings parallel to the border of a region, over the surface: as far apart as each place allows, with a line along their ridges."""

from __future__ import annotations

import numpy as np
from contourpy import contour_generator

from lesna.model.work import Pulse
from lesna.physics import Array, engine
from lesna.surface.lines import followed
from lesna.surface.tips import Mask, Tips

#: rings lie this much of what is allowed apart, so that what lies between nodes keeps it too [-]
_APART = 0.95
#: a region narrower than a spacing is gone over so far from its border; a ring has a next one within so many spacings [-]
_LEFT, _NEXT = 0.15, 0.75
#: a ring turns sharply where it turns by so much within a spacing [rad]; corners of two rings belong together within so many spacings
_SHARP, _NEAR = np.radians(40.0), 2.5
#: rings are smoothed so often, and their places at most so far apart [mm]
_SMOOTH, _STEP = 2, 0.4
_FAR = 1e30


def rings(tips: Tips, allowed: Array, inside: Mask, pulse: Pulse) -> list[tuple[Array, bool]]:
    """Rings from the border of a region inwards: places (n, 4) and whether each is closed.

    Parameters
    ----------
    tips : Tips
        The tool over the part.
    allowed : array (m,)
        Distance of tips along the surface that each triangle allows whichever way the ring runs [mm].
    inside : array of bool
        Nodes of the region.
    pulse : Pulse
        Told how far it is.
    """
    pulse.begin("rings")
    pace = pace_of(tips, allowed)
    far = _front(tips, pace, inside)
    pulse.check()
    ny, nx = far.shape
    guides, corners = [], []
    lines = contour_generator(tips.x, tips.y, np.where(inside & (far < _FAR), far, 0.0))
    levels = _levels(far, inside)
    for level in levels:
        found = []
        for line in lines.lines(level):
            line = np.asarray(line)
            is_closed = bool(np.abs(line[0] - line[-1]).max() < 1e-9)
            if len(line) < 3:
                continue
            line = _smoothed(line, is_closed)
            guides.append(line)
            found.append(_corners(line, is_closed))
        corners.append(np.concatenate(found) if found else np.zeros((0, 2)))
    guides += _between(tips, far, pace, inside, levels)
    ridges = _ridges(corners, tips, allowed)
    found = followed(tips, [*guides, *ridges], pulse)
    # a ring that is broken nowhere comes back to where it began
    return [(rows, bool(np.abs(rows[0, :2] - rows[-1, :2]).max() < 1e-9) and len(rows) > 3) for rows in found]


def pace_of(tips: Tips, allowed: Array) -> Array:
    """What is allowed at each node: of what holds the tool there, and of its neighbours [mm]."""
    from scipy.ndimage import minimum_filter

    own = allowed[np.maximum(tips.held, 0)]
    positive = own[own > 0]
    least = 0.5 * float(np.quantile(positive, 0.002)) if len(positive) else tips.pitch
    return np.asarray(minimum_filter(np.maximum(own, least), size=3)) * _APART


def _front(tips: Tips, pace: Array, inside: Mask) -> Array:
    from scipy.ndimage import binary_erosion

    border = inside & ~binary_erosion(inside, border_value=0)
    # the region ends half a pitch outside its last nodes, which are on the border of the part themselves where that ends
    begin = np.where(border, 0.0, _FAR)
    return np.asarray(
        engine.kernel("surface_front")(
            np.ascontiguousarray(np.where(tips.inside, tips.z, 0.0)),
            np.ascontiguousarray(pace),
            inside,
            begin,
            tips.pitch,
        )
    )


def _levels(far: Array, inside: Mask) -> list[float]:
    """Half a spacing from the border, then each one further."""
    most = float(np.where(inside & (far < _FAR), far, 0.0).max(initial=0.0))
    return [0.5 + k for k in range(int(most - 0.5) + 1)] if most > 0.5 else []


def _between(tips: Tips, far: Array, pace: Array, inside: Mask, levels: list[float]) -> list[Array]:
    """Pieces of lines half a spacing inside each ring, where no next ring follows: what lies along the ridges is wider than a spacing."""
    from scipy.ndimage import maximum_filter

    known = np.where(inside & (far < _FAR), far, 0.0)
    reach = max(int(np.ceil(_NEXT * float(np.quantile(pace[inside], 0.9)) / tips.pitch)), 1)
    highest = maximum_filter(known, size=2 * reach + 1)
    lines = contour_generator(tips.x, tips.y, known)
    out = []
    for level in [-0.5, *levels]:
        ends = highest < level + 1.0
        for line in lines.lines(level + 0.5 if level > 0 else _LEFT):
            line = np.asarray(line)
            on = tips.at(ends, line)
            runs = np.flatnonzero(np.diff(np.concatenate(([False], on, [False])).astype(int))).reshape(-1, 2)
            out += [line[max(a - 1, 0) : b + 1] for a, b in runs.tolist() if b - a > 1]
    return out


def _smoothed(line: Array, is_closed: bool) -> Array:
    for _ in range(_SMOOTH):
        if is_closed:
            body = line[:-1]
            body = 0.5 * body + 0.25 * (np.roll(body, 1, axis=0) + np.roll(body, -1, axis=0))
            line = np.concatenate((body, body[:1]))
        else:
            line = np.concatenate((line[:1], 0.5 * line[1:-1] + 0.25 * (line[:-2] + line[2:]), line[-1:]))
    gone = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1)))
    keep = np.append(True, np.diff(gone) > 1e-9)
    line, gone = line[keep], gone[keep]
    count = max(int(np.ceil(gone[-1] / _STEP)), 2)
    at = np.linspace(0.0, gone[-1], count + 1)
    return np.stack([np.interp(at, gone, line[:, axis]) for axis in range(2)], axis=1)


def _spacing_at(tips: Tips, allowed: Array, places: Array) -> Array:
    i = np.clip(np.rint((places[:, 0] - tips.x[0]) / tips.pitch).astype(int), 0, len(tips.x) - 1)
    j = np.clip(np.rint((places[:, 1] - tips.y[0]) / tips.pitch).astype(int), 0, len(tips.y) - 1)
    return np.asarray(np.maximum(allowed[np.maximum(tips.held[j, i], 0)], 0.05))


def _corners(line: Array, is_closed: bool) -> Array:
    """Places (n, 2) at which a ring turns sharply: the sharpest of each turn."""
    reach = 2
    if len(line) < 2 * reach + 3:
        return np.zeros((0, 2))
    body = line[:-1] if is_closed else line
    a, b = body - np.roll(body, reach, axis=0), np.roll(body, -reach, axis=0) - body
    turn = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
    if not is_closed:
        turn[:reach] = turn[-reach:] = 0.0
    best = turn > _SHARP
    for shift in range(1, reach + 1):
        best &= (turn >= np.roll(turn, shift)) & (turn >= np.roll(turn, -shift))
    return np.asarray(body[best])


def _ridges(corners: list[Array], tips: Tips, allowed: Array) -> list[Array]:
    """Lines (2, 2) from each sharp corner of a ring to the nearest of the next ring."""
    from scipy.spatial import cKDTree

    out = []
    for here, there in zip(corners[:-1], corners[1:], strict=True):
        if not len(here) or not len(there):
            continue
        away, which = cKDTree(there).query(here)
        near = away <= _NEAR * _spacing_at(tips, allowed, here)
        out += [
            np.stack((a, b)) for a, b in zip(here[near], there[which[near]], strict=True) if np.abs(a - b).max() > 1e-6
        ]
    return _chained(out)


def _chained(pieces: list[Array]) -> list[Array]:
    """Pieces that begin where another ends, as one."""
    begins = {tuple(np.round(piece[0], 6)): k for k, piece in enumerate(pieces)}
    ends = {tuple(np.round(piece[-1], 6)) for piece in pieces}
    used: set[int] = set()
    out = []
    order = sorted(range(len(pieces)), key=lambda k: tuple(np.round(pieces[k][0], 6)) in ends)
    for k in order:
        if k in used:
            continue
        chain = [pieces[k][0], pieces[k][1]]
        used.add(k)
        while (n := begins.get(tuple(np.round(chain[-1], 6)))) is not None and n not in used:
            used.add(n)
            chain.append(pieces[n][1])
        out.append(np.array(chain))
    return out
