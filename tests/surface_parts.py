"""Parts for trials of surfaces: each in closed form, as triangles (n, 3, 3) that look up [mm]."""

from __future__ import annotations

import numpy as np


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


def cap(n=200):
    """A dome of 80 mm radius, 53 deg at the corners."""
    return sheet(lambda x, y: np.sqrt(80.0**2 - (x - 50) ** 2 - (y - 40) ** 2) - 80.0, nx=n, ny=n)


def saddle(n=220):
    """A saddle, 40 deg at the most."""
    return sheet(lambda x, y: ((x - 50) ** 2 - (y - 40) ** 2) / 150.0, nx=n, ny=n)


def freeform(n=220):
    """Waves of several lengths, to some 60 deg."""

    def height(x, y):
        return (
            6 * np.sin(x / 13.0) * np.cos(y / 17.0)
            + 4 * np.exp(-(((x - 60) / 9) ** 2) - ((y - 35) / 11) ** 2) * 3
            + 0.02 * x
        )

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


def prismatic(chords=16):
    """Planes of 0, 30, 60 and 0 deg joined by rounds and hollows."""
    corners = [(0, 0), (25, 0), (25 + 18 / np.tan(np.radians(30)), 18), (70, 18), (70 + 12 / np.tan(np.radians(60)), 6), (100, 6)]
    corners[4] = (70 + 12 / np.tan(np.radians(60)), 6)
    return extruded(rounded_corners(corners, 5.0, chords))


def rounded_corners(corners, radius, chords):
    """A chain of corners (x, z) with each inner one rounded."""
    corners = np.asarray(corners, float)
    out = [corners[0]]
    for before, at, after in zip(corners[:-2], corners[1:-1], corners[2:]):
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


def wall(chords=16):
    """A floor, a fillet of 5 mm, an upright wall of 22 mm and a level top."""
    section = [(0.0, 0.0), (45.0, 0.0), *arc(45.0, 5.0, 5.0, -90, 0, chords)[1:], (50.0, 22.0), (100.0, 22.0)]
    return extruded(section)


def hub(n=240):
    """A body of revolution from 0 to some 76 deg."""
    return sheet(lambda x, y: 24 * np.exp(-((np.hypot(x - 55, y - 55) / 16) ** 4)), 110.0, 110.0, n, n)
