"""Makes the part of the shipped surface job: the cover of a lock gate's hinge, with a doubly curved cap, a ramp, hollows and a wall.

python tools/hinge_cover.py src/lesna/data/demo/hinge-cover.stl
"""

from __future__ import annotations

import sys

import numpy as np
from stl import mesh as stl_mesh

LENGTH, WIDTH = 100.0, 80.0
#: heights of the foot plate, of the shelf, of the cap over that, and of the top [mm]
FOOT, SHELF, CAP, TOP = -26.0, -9.0, 8.0, 0.0


def arc(x: float, z: float, r: float, start: float, stop: float, count: int) -> list[tuple[float, float]]:
    angles = np.radians(np.linspace(start, stop, count + 1))
    return [(x + r * np.cos(a), z + r * np.sin(a)) for a in angles]


def section() -> np.ndarray:
    """The outline (n, 2: x, z) along the cover, before the cap."""
    out: list[tuple[float, float]] = [(0.0, FOOT)]
    # hollow of 6 mm from the foot into a ramp of 60 deg, and a round of 5 mm out of it onto the shelf
    x = 16.0
    hollow = arc(x, FOOT + 6.0, 6.0, -90.0, -30.0, 12)
    out += hollow
    rise = SHELF - hollow[-1][1]
    up = rise - 5.0 * (1 - np.cos(np.radians(60.0)))
    at = hollow[-1][0] + up / np.tan(np.radians(60.0))
    centre = (at + 5.0 * np.sin(np.radians(60.0)), SHELF - 5.0)
    out += arc(centre[0], centre[1], 5.0, 150.0, 90.0, 12)
    # the shelf that carries the cap
    begin, end = out[-1][0], 86.0
    out += [(float(x), SHELF) for x in np.linspace(begin, end, 46)[1:-1]]
    # a hollow of 5 mm into an upright wall
    out += arc(end, SHELF + 5.0, 5.0, -90.0, 0.0, 14)
    out += [(91.0, TOP), (LENGTH, TOP)]
    return np.array(out)


def cap(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """How high the cap stands over the shelf."""
    rho = np.minimum(np.hypot((x - 58.0) / 22.0, (y - WIDTH / 2) / 33.0), 1.0)
    return CAP * np.cos(0.5 * np.pi * rho) ** 2


def triangles() -> np.ndarray:
    """The closed cover (n, 3, 3), 10 mm thick under its foot."""
    line = section()
    y = np.linspace(0.0, WIDTH, 65)
    x = np.broadcast_to(line[:, 0], (len(y), len(line)))
    yy = np.broadcast_to(y[:, None], x.shape)
    top = np.stack(
        (x, yy, np.broadcast_to(line[:, 1], x.shape) + np.where(np.abs(line[:, 1] - SHELF) < 1e-9, cap(x, yy), 0.0)), 2
    )
    bottom = np.concatenate((top[:, :, :2], np.full((*top.shape[:2], 1), FOOT - 10.0)), axis=2)
    # the wall's foot and its edge stand over each other: underneath they stand apart
    bottom[:, -2, 0] += 0.5
    out = [net(top), net(bottom)[:, ::-1]]
    sides = ((top[0], bottom[0], False), (top[-1, ::-1], bottom[-1, ::-1], True), (top[::-1, 0], bottom[::-1, 0], False),
             (top[:, -1], bottom[:, -1], False))  # fmt: skip
    for edge, low, is_turned in sides:
        out.append(net(np.stack((low, edge)), other_way=not is_turned))
    return np.concatenate(out)


def net(points: np.ndarray, *, other_way: bool = False) -> np.ndarray:
    a, b, c, d = points[:-1, :-1], points[:-1, 1:], points[1:, 1:], points[1:, :-1]
    if other_way:
        a, b, c, d = b, c, d, a
    return np.concatenate((np.stack((a, b, c), 2).reshape(-1, 3, 3), np.stack((a, c, d), 2).reshape(-1, 3, 3)))


def main() -> None:
    found = triangles()
    out = stl_mesh.Mesh(np.zeros(len(found), dtype=stl_mesh.Mesh.dtype))
    out.vectors[:] = found
    out.save(sys.argv[1], update_normals=True)


if __name__ == "__main__":
    main()
