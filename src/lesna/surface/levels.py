"""Contours over what is steep: each as far under the one before as what lies between them allows."""

from __future__ import annotations

import numpy as np

from lesna.model.work import Pulse
from lesna.physics import Array, engine
from lesna.surface.mesh import Ints
from lesna.surface.spacing import LEVELS_LEAVE, least_of
from lesna.surface.tips import Mask, Tips

#: heights are gathered in bands of this [mm]
_BAND = 0.05
#: levels are no closer than this, and a border is no sharper [mm]
_LEAST, _BORDER = 0.005, 1e-6
#: steep places whose ground has a level of its own, at most, and heights that are one [mm]
_MOST_FLOORS, _SAME = 400, 0.002
#: so far over it [mm]
_OVER = 0.0005


def tip_heights(tips: Tips, triangles: Ints) -> Array:
    """Lowest and highest tip (n, 2) of the tool on triangles [mm]."""
    mesh, shape = tips.faces.mesh, tips.shape
    nz = np.clip(mesh.normals[triangles, 2], 0.0, 1.0)
    z = mesh.triangles[triangles][:, :, 2] + (shape.r * (nz - 1.0))[:, None]
    return np.stack((z.min(axis=1), z.max(axis=1)), axis=1)


def heights(tips: Tips, down: Array, inside: Mask) -> Array:
    """Heights of the levels from the top, each so far under the one before as all but a little of what lies between allows.

    Parameters
    ----------
    tips : Tips
        The tool over the part.
    down : array (m,)
        Step-down that each triangle allows [mm].
    inside : array (m,) of bool
        Triangles that levels serve.
    """
    which = np.flatnonzero(inside & (down > 0))
    if not len(which):
        return np.zeros(0)
    spans = tip_heights(tips, which)
    top, bottom = float(spans[:, 1].max()), float(spans[:, 0].min())
    count = max(int(np.ceil((top - bottom) / _BAND)), 1)
    first = np.clip(((top - spans[:, 1]) / _BAND).astype(int), 0, count - 1)
    last = np.clip(((top - spans[:, 0]) / _BAND).astype(int), 0, count - 1)
    allowed = np.full(count, np.inf)
    areas = tips.faces.mesh.areas[which]
    # bands share triangles that reach over several: each band asks all that reach into it
    order = np.argsort(first, kind="stable")
    for band in range(count):
        here = order[: np.searchsorted(first[order], band, side="right")]
        here = here[last[here] >= band]
        if len(here):
            allowed[band] = least_of(down[which[here]], areas[here], LEVELS_LEAVE)
    out: list[float] = []
    z = top
    while True:
        step, band = np.inf, min(int((top - z) / _BAND), count - 1)
        while band < count and (band - 1) * _BAND < (top - z) + step:
            step = min(step, max(float(allowed[band]), _LEAST))
            band += 1
        step = min(step, top - bottom)
        z -= step if out else 0.5 * step
        if z < bottom:
            break
        out.append(z)
    if not out or out[-1] - bottom > 0.3 * max(step, _LEAST):
        out.append(bottom)
    return _with_floors(tips, np.array(out))


def _with_floors(tips: Tips, levels: Array) -> Array:
    """The levels and those on the ground beside each steep place: what a wall leaves in its foot is cleared there, if anywhere."""
    from scipy.ndimage import label, minimum

    steep = tips.is_steep & tips.inside
    marked, count = label(steep, structure=np.ones((3, 3)))
    if not 0 < count <= _MOST_FLOORS:
        return levels
    # just over the ground: on it everything would be in the way
    floors = np.unique(np.round(minimum(tips.z, marked, np.arange(1, count + 1)), 6)) + _OVER
    others = levels[np.abs(floors[:, None] - levels[None, :]).min(axis=0) > _SAME]
    return np.sort(np.concatenate((others, floors)))[::-1]


def contours(tips: Tips, levels: Array, keep: Mask, pulse: Pulse) -> list[tuple[Array, bool]]:
    """Contours at heights from the top, what is blocked on their left, where nodes are kept: places (n, 4) and whether each is closed."""
    kernel = engine.kernel("surface_contour")
    pulse.begin("contours")
    grid = np.ascontiguousarray(tips.z)
    under = tips.ground.under(tips.shape)
    wanted = np.ascontiguousarray(keep)

    def contour(z: float) -> list[tuple[Array, bool]]:
        rows, begins, closed = kernel(*under, grid, wanted, float(tips.x[0]), float(tips.y[0]), tips.pitch, z)
        return [
            piece
            for k, (a, b) in enumerate(zip(begins[:-1], begins[1:], strict=True))
            for piece in _kept(tips, rows[a:b], bool(closed[k]), keep)
        ]

    found = engine.shared(contour, levels.tolist(), lambda done: pulse.tell(done, len(levels)))
    return [piece for level in found for piece in level]


def _kept(tips: Tips, rows: Array, is_closed: bool, keep: Mask) -> list[tuple[Array, bool]]:
    import shapely

    # rows that lie on the border are within
    area = tips.area.buffer(_BORDER)
    on = tips.at(keep, rows[:, :2])
    on &= shapely.intersects_xy(area, rows[:, 0], rows[:, 1])
    if on.all():
        return [(rows, is_closed)]
    if not on.any():
        return []
    if is_closed:
        # begun where it is left out, so that no stretch is parted by the seam
        at = int(np.flatnonzero(~on)[0])
        rows, on = np.concatenate((rows[at:-1], rows[: at + 1])), np.concatenate((on[at:-1], on[: at + 1]))
    runs = np.flatnonzero(np.diff(np.concatenate(([False], on, [False])).astype(int))).reshape(-1, 2)
    out = []
    for a, b in runs.tolist():
        # one place further at both ends: places lie far apart on what is straight
        a, b = max(a - 1, 0), min(b + 1, len(rows))
        piece = rows[a:b]
        inside = shapely.intersects_xy(area, piece[:, 0], piece[:, 1])
        piece = piece[np.flatnonzero(inside)[0] : np.flatnonzero(inside)[-1] + 1]
        if len(piece) > 1:
            out.append((piece, False))
    return out
