"""Parts for trials of surfaces: each in closed form, as triangles (n, 3, 3) that look up [mm]."""

from __future__ import annotations

import numpy as np
from stl import mesh as stl

#: tools that finish them
BALL = {
    "kind": "ball",
    "DC": 6.0,
    "ZEFP": 2,
    "FHA": 30.0,
    "APMX": 9.0,
    "LU": 25.0,
    "DMM": 6.0,
    "OAL": 70.0,
    "coating": "AlTiN",
}
BULL = {**BALL, "kind": "corner_radius", "RE": 1.0}
TAPER = {**BALL, "kind": "tapered_ball", "DC": 3.0, "taper_deg": 8.0, "APMX": 12.0}


def write_stl(triangles, path):
    """A binary STL file."""
    body = stl.Mesh(np.zeros(len(triangles), dtype=stl.Mesh.dtype))
    body.vectors[:] = triangles
    body.save(str(path))


def sheet(height, length=100.0, width=80.0, nx=100, ny=80):
    """Triangles of a height z(x, y) over a rectangle from the origin."""
    x, y = np.meshgrid(np.linspace(0.0, length, nx + 1), np.linspace(0.0, width, ny + 1))
    return of_grid(np.stack((x, y, height(x, y)), axis=2))


def of_grid(points):
    """Triangles of a net of points (rows, columns, 3)."""
    a, b, c, d = points[:-1, :-1], points[:-1, 1:], points[1:, 1:], points[1:, :-1]
    return np.concatenate(
        (np.stack((a, b, c), axis=2).reshape(-1, 3, 3), np.stack((a, c, d), axis=2).reshape(-1, 3, 3))
    )


def cap(n=200, length=100.0, width=80.0, radius=80.0):
    """A dome, steepest at its corners."""
    x0, y0 = length / 2, width / 2
    return sheet(lambda x, y: np.sqrt(radius**2 - (x - x0) ** 2 - (y - y0) ** 2) - radius, length, width, n, n)


def saddle(n=220, length=100.0, width=80.0):
    """A saddle, some 40 deg at the most at its full size."""
    return sheet(lambda x, y: ((x - length / 2) ** 2 - (y - width / 2) ** 2) / 150.0, length, width, n, n)


def freeform(n=220):
    """Waves of several lengths, to some 60 deg."""

    def height(x, y):
        hill = 12 * np.exp(-(((x - 60) / 9) ** 2) - ((y - 35) / 11) ** 2)
        return 6 * np.sin(x / 13.0) * np.cos(y / 17.0) + hill + 0.02 * x

    return sheet(height, nx=n, ny=n)


def extruded(section, width=80.0, across=1):
    """A section (n, 2: x, z) drawn out along y."""
    section = np.asarray(section, float)
    y = np.linspace(0.0, width, across + 1)
    points = np.stack(
        (
            np.broadcast_to(section[:, 0], (len(y), len(section))),
            np.broadcast_to(y[:, None], (len(y), len(section))),
            np.broadcast_to(section[:, 1], (len(y), len(section))),
        ),
        axis=2,
    )
    return of_grid(points)


def arc(x, z, r, start, stop, count):
    """Places on an arc in the plane of x and z (angles in degrees)."""
    angle = np.radians(np.linspace(start, stop, count + 1))
    return np.stack((x + r * np.cos(angle), z + r * np.sin(angle)), axis=1)


def prismatic(chords=16, width=80.0):
    """Planes of 0, 30, 60 and 0 deg joined by rounds and hollows of 5 mm."""
    foot = 70 + 12 / np.tan(np.radians(60))
    corners = [(0, 0), (25, 0), (25 + 18 / np.tan(np.radians(30)), 18), (70, 18), (foot, 6), (100, 6)]
    return extruded(rounded_corners(corners, 5.0, chords), width)


def rounded_corners(corners, radius, chords):
    """A chain of corners (x, z) with each inner one rounded."""
    corners = np.asarray(corners, float)
    out = [corners[0]]
    for before, at, after in zip(corners[:-2], corners[1:-1], corners[2:], strict=True):
        a, b = (before - at) / np.linalg.norm(before - at), (after - at) / np.linalg.norm(after - at)
        half = np.arccos(np.clip(a @ b, -1, 1)) / 2
        middle = at + (a + b) / np.linalg.norm(a + b) * radius / np.sin(half)
        first, last = (at + v * radius / np.tan(half) - middle for v in (a, b))
        begin, end = np.arctan2(first[1], first[0]), np.arctan2(last[1], last[0])
        turn = (end - begin + np.pi) % (2 * np.pi) - np.pi
        for share in np.linspace(0, 1, chords + 1):
            out.append(middle + radius * np.array((np.cos(begin + share * turn), np.sin(begin + share * turn))))
    out.append(corners[-1])
    return np.array(out)


def wall(chords=16, width=80.0, floor=45.0, top=50.0, height=22.0):
    """A floor, a fillet of 5 mm, an upright wall and a level top."""
    at = floor + 5.0
    section = [(0.0, 0.0), (floor, 0.0), *arc(floor, 5.0, 5.0, -90, 0, chords)[1:], (at, height), (at + top, height)]
    return extruded(section, width)


def hub(n=240):
    """A body of revolution from 0 to some 76 deg."""
    return sheet(lambda x, y: 24 * np.exp(-((np.hypot(x - 55, y - 55) / 16) ** 4)), 110.0, 110.0, n, n)


def plane(slope, turn=0.0, length=20.0, width=16.0):
    """A plane that rises at an angle towards a direction [deg]."""
    rise = np.tan(np.radians(slope))
    a = np.radians(turn)
    return sheet(lambda x, y: rise * (np.cos(a) * x + np.sin(a) * y), length, width, 2, 2)


def cylinder(radius, length=20.0, width=8.0, chords=400):
    """Part of a cylinder along y, 60 deg wide at the most: a round where the radius is positive, a hollow where negative."""
    half = min(length / 2, 0.8 * abs(radius))
    x = np.linspace(-half, half, chords + 1)
    z = np.sign(radius) * (np.sqrt(radius**2 - x**2) - abs(radius))
    return extruded(np.stack((x + half, z), axis=1), width)


def underside(shape, d):
    """Height of a shape's underside over its tip at distances from the axis; infinite beyond it."""
    w = np.maximum(d - shape.rm, 0.0)
    if shape.k > 0:
        turn = shape.r * np.sin(np.arctan(shape.k))
        arc = shape.r - np.sqrt(np.maximum(shape.r**2 - np.minimum(w, turn) ** 2, 0.0))
        out = arc + np.maximum(w - turn, 0.0) * shape.k
    else:
        out = shape.r - np.sqrt(np.maximum(shape.r**2 - w**2, 0.0)) if shape.r > 0 else 0.0 * w
    return np.where(d <= shape.R + 1e-9, out, np.inf)


def plain_drop(triangles, shape, place):
    """Height of the tip over one place by a dense sample of every triangle near it: never over the exact one."""
    x, y = place
    low, high = triangles.min(axis=1), triangles.max(axis=1)
    near = (
        (low[:, 0] < x + shape.R) & (high[:, 0] > x - shape.R) & (low[:, 1] < y + shape.R) & (high[:, 1] > y - shape.R)
    )
    best = -1e9
    u, v = np.meshgrid(np.linspace(0, 1, 41), np.linspace(0, 1, 41))
    inside = u + v <= 1 + 1e-9
    u, v = u[inside][:, None], v[inside][:, None]
    for t in triangles[near]:
        q = t[0] + u * (t[1] - t[0]) + v * (t[2] - t[0])
        d = np.hypot(q[:, 0] - x, q[:, 1] - y)
        q, d = q[d <= shape.R], d[d <= shape.R]
        if len(q):
            best = max(best, float((q[:, 2] - underside(shape, d)).max()))
    return best
