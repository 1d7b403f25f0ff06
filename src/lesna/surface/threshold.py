"""Which angle parts steep from shallow without cutting a smooth face in two, and what any other angle costs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array
from lesna.surface.faces import Faces
from lesna.surface.spacing import Field

#: angles that are suggested [deg]
LEAST, MOST = 20, 70
#: a face counts as cut where both its sides hold more than this share of it [-]
_BOTH = 0.05
#: a path may be longer than the shortest by this factor, and this share of the area may lie within two degrees of the angle [-]
_LONGER, _NEAR = 1.2, 0.10
#: shares of the area that are left aside as each side's extreme [-]
_EXTREME = 0.02
#: suggestions whose cut area differs by less are alike, of the whole area [-]
_ALIKE = 0.005


@dataclass(frozen=True)
class Split:
    """What an angle does, for each whole degree from 0 to 90 (91,).

    Attributes
    ----------
    cut_area : array
        Share of the part's area that lies on the smaller side of faces that are cut in two [-].
    cut_faces : array of int
        How many faces are.
    seam : array
        Length of the line across smooth faces [mm].
    path : array
        Length of lines and contours [mm].
    near : array
        Share of the area within two degrees [-].
    suggested : int or None
        The angle to take [deg]; None where everything lies on one side of all that are tried.
    reason : str
        Why.
    """

    cut_area: Array
    cut_faces: NDArray[np.int64]
    seam: Array
    path: Array
    near: Array
    suggested: int | None
    reason: str


def split_of(faces: Faces, lines: Field, levels: Field) -> Split:
    """The price of every angle, and the one to take.

    Parameters
    ----------
    faces : Faces
        The part.
    lines, levels : Field
        What lines at their best angle, and levels, allow.
    """
    by_degree = faces.by_degree
    whole = by_degree.sum()
    below = np.concatenate((np.zeros((faces.count, 1)), np.cumsum(by_degree, axis=1)), axis=1)
    above = below[:, -1:] - below
    minor = np.minimum(below, above)
    is_cut = minor > _BOTH * below[:, -1:]
    cut_area = (minor * is_cut).sum(axis=0) / whole
    cut_faces = is_cut.sum(axis=0)
    seam = _seams(faces)
    total = np.append(0.0, np.cumsum(by_degree.sum(axis=0)))
    degrees = np.arange(91)
    near = (total[np.minimum(degrees + 2, 90)] - total[np.maximum(degrees - 2, 0)]) / whole
    path = _paths(faces, lines, levels)
    usable = np.isfinite(path)
    suggested, reason = _suggested(faces, cut_area, cut_faces, seam, path, near, usable)
    return Split(cut_area, cut_faces, seam, path, near, suggested, reason)


def _suggested(
    faces: Faces, cut_area: Array, cut_faces: Array, seam: Array, path: Array, near: Array, usable: Array
) -> tuple[int | None, str]:
    tried = np.arange(LEAST, MOST + 1)
    total = faces.by_degree.sum(axis=0)
    if total[LEAST:].sum() < 1e-3 * total.sum():
        return None, "nothing is steep: lines alone serve the whole part"
    if total[: LEAST + 1].sum() < 1e-3 * total.sum() and total[:MOST].sum() < 1e-3 * total.sum():
        return None, "nothing is shallow: contours alone serve the whole part"
    shortest = np.min(path[tried][usable[tried]]) if usable[tried].any() else np.inf
    good = tried[(path[tried] <= _LONGER * shortest) & (near[tried] <= _NEAR)]
    if not len(good):
        good = tried[near[tried] <= _NEAR] if (near[tried] <= _NEAR).any() else tried
    least = cut_area[good].min()
    good = good[cut_area[good] <= least + _ALIKE]
    good = good[seam[good] <= seam[good].min() + 1e-6 * (1 + seam[good].min())] if least > 0 else good
    best = int(good[np.argmin(np.abs(good - 45))])
    share = 100 * cut_area[best]
    if share < 0.05:
        told = "no smooth face is cut in two"
    else:
        count = int(cut_faces[best])
        faces_told = "1 face" if count == 1 else f"{count} faces"
        told = f"{share:.1f} % of the area is cut off its face, the least of all angles from {LEAST} to {MOST}°, in {faces_told}"
    other = 100 * cut_area[45]
    than = f"; 45° would cut {other:.1f} %" if best != 45 and other > share + 0.5 else ""
    return best, told + than


def _seams(faces: Faces) -> Array:
    """Length of the line of each whole slope inside faces (91,) [mm]."""
    up = faces.of >= 0
    slopes, t = faces.corner_slopes[up], faces.mesh.triangles[up]
    out = np.zeros(91)
    low, high = slopes.min(axis=1), slopes.max(axis=1)
    first, last = np.ceil(low).astype(int), np.floor(np.minimum(high, 90.0)).astype(int)
    for step in range(int((last - first).max(initial=-1)) + 1):
        here = np.flatnonzero(first + step <= last)
        level = (first[here] + step).astype(float)
        s, p = slopes[here], t[here]
        a, b = s, np.roll(s, -1, axis=1)
        passes = (a < level[:, None]) != (b < level[:, None])
        share = (level[:, None] - a) / np.where(np.abs(b - a) < 1e-12, 1.0, b - a)
        at = p + share[:, :, None] * (np.roll(p, -1, axis=1) - p)
        two = passes.sum(axis=1) == 2
        order = np.argsort(~passes, axis=1, kind="stable")[:, :2]
        ends = np.take_along_axis(at, order[:, :, None], axis=1)
        np.add.at(out, level[two].astype(int), np.linalg.norm(ends[two, 0] - ends[two, 1], axis=1))
    return out


#: spacings are gathered in so many steps between these ends [mm]
_STEPS, _SPACINGS = 400, (1e-3, 1e2)


def _paths(faces: Faces, lines: Field, levels: Field) -> Array:
    """Length of lines over what is shallower and contours over what is steeper than each degree (91,) [mm]."""
    up = np.flatnonzero(faces.of >= 0)
    slope, areas = faces.mesh.slopes[up], faces.mesh.areas[up]
    degree = np.clip(np.degrees(slope).astype(int), 0, 89)
    lying, standing = areas * np.cos(slope), areas * np.sin(slope)

    def total(weights: Array) -> Array:
        """Sums of what is shallower than each degree (91,)."""
        return np.append(0.0, np.cumsum(np.bincount(degree, weights, 90)))

    low, high = total(areas), total(standing)[-1] - total(standing)
    e = _leasts(lines.plan[up], lying, degree)
    dz = _leasts(levels.down[up][::-1], areas[::-1], 89 - degree[::-1])[::-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        out = np.where(low > 0, low / e, 0.0) + np.where(high > 1e-9, high / dz, 0.0)
    return np.where(np.isfinite(out), out, np.inf)


def _leasts(values: Array, weights: Array, degree: NDArray[np.int64]) -> Array:
    """The value that all but the extremes of what lies under each degree allow (91,) [mm]."""
    ends = np.log(_SPACINGS)
    step = np.clip(
        (np.log(np.clip(values, *_SPACINGS)) - ends[0]) / (ends[1] - ends[0]) * _STEPS, 0, _STEPS - 1
    ).astype(int)
    gathered = np.zeros((91, _STEPS))
    np.add.at(gathered, (degree + 1, step), weights)
    below = np.cumsum(np.cumsum(gathered, axis=0), axis=1)
    first = (below >= _EXTREME * below[:, -1:]).argmax(axis=1)
    return np.asarray(np.exp(ends[0] + (first + 0.5) / _STEPS * (ends[1] - ends[0])))
