"""A part as an image: paper ground, graphite edges, the temper scale for what is measured on it; computed without Qt."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np

from lesna.desktop.surfaces.eye import Eye
from lesna.physics import Array, engine
from lesna.surface.mesh import Mesh

#: light from over the left shoulder (right, up, towards the eye), and what falls everywhere [-]
_LIGHT, _EVERYWHERE = np.array((-0.42, 0.55, 0.72)), 0.42
#: nearness that jumps by more over a pixel is an edge [mm/px]
_JUMP = 6.0
#: lines so many pixels apart are drawn in full, nearer ones as faintly as this [px], [-]
_CLEAR, _FAINT = 5.0, 0.22
#: ink of edges of faces, and of the outline [-]
_EDGE, _OUTLINE = 0.42, 0.85


@dataclass(frozen=True)
class Colours:
    """What an image is coloured with, each as red, green, blue from 0 to 255.

    Attributes
    ----------
    ground, body, ink, path, alarm, steel : array (3,)
        Of the paper, of what has no value, of edges, of the path, of what is cut into, of tool and holder.
    scale : array (n, 3)
        From the least value to the greatest.
    """

    ground: Array
    body: Array
    ink: Array
    path: Array
    alarm: Array
    steel: Array
    scale: Array


@dataclass(frozen=True)
class Scene:
    """What is drawn.

    Attributes
    ----------
    mesh : Mesh
        The part.
    value : array (m, 3) or None
        What is measured at the corners of each triangle, from 0 to 1; below 0 is told by the alarm, not a number has no colour.
    groups : array (m,) of int
        Faces, between which edges are drawn.
    lines : tuple of array (n, 3)
        The path [mm].
    apart : float
        How far its lines lie from each other: where they would run together they are drawn faintly [mm].
    tool : array (k, 3, 3)
        Triangles of tool and holder where they stand [mm].
    """

    mesh: Mesh
    value: Array | None
    groups: Array
    lines: tuple[Array, ...] = ()
    apart: float = 1.0
    tool: Array = field(default_factory=lambda: np.zeros((0, 3, 3)))

    def picture(self, eye: Eye, width: int, height: int, colours: Colours) -> Picture:
        """The part from somewhere, in so many pixels."""
        return picture_of(self, eye, width, height, colours)


@dataclass(frozen=True)
class Picture:
    """A scene as it is seen.

    Attributes
    ----------
    pixels : array (rows, columns, 4)
        Blue, green, red and 255.
    which : array (rows, columns) of int
        The triangle of the part that is seen, -1 where none is.
    """

    pixels: Any
    which: Any


class Drawable(Protocol):
    """What a view shows from its eye."""

    def picture(self, eye: Eye, width: int, height: int, colours: Colours) -> Picture:
        """The scene from somewhere, in so many pixels."""


def towards_light(eye: Eye) -> Array:
    """Where the light comes from, which stands where the eye does."""
    return np.asarray(eye.frame.T @ (_LIGHT / np.linalg.norm(_LIGHT)))


def lit_triangles(triangles: Array, seen: Array, toward: Array, depth: Array, lit: Array) -> None:
    """Raises pixels to triangles (k, 3, 3) that are seen at places (3 k, 3) [px, px, mm], each as bright as it faces the light."""
    if not len(triangles):
        return
    normal = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1), 1e-12)[:, None]
    shade = np.repeat((_EVERYWHERE + (1 - _EVERYWHERE) * np.maximum(normal @ toward, 0.0))[:, None], 3, axis=1)
    corners = np.arange(3 * len(triangles)).reshape(-1, 3)
    nobody, untold = np.full(depth.shape, -1, np.int32), np.full(depth.shape, np.nan, np.float32)
    engine.kernel("picture_faces")(
        seen, corners, np.ascontiguousarray(shade), np.full(shade.shape, np.nan), depth, nobody, lit, untold
    )


def picture_of(scene: Scene, eye: Eye, width: int, height: int, colours: Colours) -> Picture:
    """A part from somewhere, in so many pixels."""
    mesh = scene.mesh
    low, high = mesh.box
    depth = np.full((height, width), -1e30)
    which = np.full((height, width), -1, np.int32)
    lit, shown = np.zeros((height, width), np.float32), np.full((height, width), np.nan, np.float32)
    faces = engine.kernel("picture_faces")
    toward = towards_light(eye)
    light = np.ascontiguousarray(_EVERYWHERE + (1 - _EVERYWHERE) * np.maximum(mesh.corner_normals @ toward, 0.0))
    value = np.full(light.shape, np.nan) if scene.value is None else scene.value
    points = eye.project(mesh.points, low, high, width, height)
    faces(points, mesh.corners, light, np.ascontiguousarray(value), depth, which, lit, shown)
    ink = np.zeros((height, width), np.float32)
    if scene.lines:
        every = eye.project(np.concatenate(scene.lines), low, high, width, height)
        begins = np.cumsum([0, *(len(line) for line in scene.lines)]).astype(np.int64)
        engine.kernel("picture_lines")(every, begins, depth, ink)
        between = scene.apart * eye.scale(low, high, width, height)
        ink *= np.float32(np.clip(between / _CLEAR, _FAINT, 1.0))
    count = len(mesh)
    if len(scene.tool):
        before = depth.copy()
        lit_triangles(scene.tool, eye.project(scene.tool.reshape(-1, 3), low, high, width, height), toward, depth, lit)
        which = np.where(depth > before, count, which)
        ink = np.where(depth > before, 0.0, ink)
    pixels = _coloured(which, lit, shown, depth, ink, scene, eye.scale(low, high, width, height), colours)
    return Picture(pixels, np.where(which < count, which, -1))


def _coloured(
    which: Array, lit: Array, shown: Array, depth: Array, ink: Array, scene: Scene, scale: float, colours: Colours
) -> Any:
    height, width = which.shape
    count = len(scene.mesh)
    out = np.empty((height, width, 3))
    out[:] = colours.ground
    part, tool = (which >= 0) & (which < count), which == count
    has = part & ~np.isnan(shown)
    steps = len(colours.scale) - 1
    body = np.empty((height, width, 3))
    body[:] = colours.body
    body[has] = colours.scale[np.clip(np.round(shown[has] * steps), 0, steps).astype(int)]
    body[has & (shown < 0)] = colours.alarm
    body[tool] = colours.steel
    solid = part | tool
    out[solid] = body[solid] * lit[solid][:, None]
    out += ink[:, :, None] * (colours.path - out)
    groups = np.append(np.append(scene.groups, -3), -2)
    edge = edges_of(groups[np.where(which < 0, count + 1, which)], depth, scale)
    out += edge[:, :, None] * (colours.ink - out)
    return pixels_of(out)


def pixels_of(out: Array) -> Any:
    """Colours (rows, columns, 3: red, green, blue) as an image."""
    pixels = np.empty((*out.shape[:2], 4), np.uint8)
    pixels[:, :, :3] = np.clip(out[:, :, ::-1], 0, 255)
    pixels[:, :, 3] = 255
    return pixels


def edges_of(face: Array, depth: Array, scale: float) -> Array:
    """Ink of the edges: where the face that is seen changes, or its nearness jumps."""
    out = np.zeros(face.shape)
    for axis in range(2):
        a, b = [slice(None)] * 2, [slice(None)] * 2
        a[axis], b[axis] = slice(None, -1), slice(1, None)
        first, second = tuple(a), tuple(b)
        changes = face[first] != face[second]
        jumps = np.abs(depth[first] - depth[second]) * scale > _JUMP * 2
        either = np.where(changes, np.where(jumps, _OUTLINE, _EDGE), np.where(jumps, _EDGE, 0.0))
        nearer = depth[first] >= depth[second]
        out[first] = np.maximum(out[first], np.where(nearer, either, 0.0))
        out[second] = np.maximum(out[second], np.where(nearer, 0.0, either))
    return out


def turned_body(outline: Array, tip: Array, around: int = 36) -> Array:
    """Triangles (k, 3, 3) of what an outline (n, 2: radius, height over the tip) turns round an upright axis at a tip [mm]."""
    angle = np.linspace(0.0, 2 * np.pi, around + 1)
    ring = np.stack((np.cos(angle), np.sin(angle)), axis=1)
    points = np.concatenate(
        (outline[:, None, :1] * ring[None], np.repeat(outline[:, None, 1:], around + 1, axis=1)), axis=2
    ) + np.asarray(tip)
    a, b, c, d = points[:-1, :-1], points[:-1, 1:], points[1:, 1:], points[1:, :-1]
    return np.concatenate((np.stack((a, b, c), 2).reshape(-1, 3, 3), np.stack((a, c, d), 2).reshape(-1, 3, 3)))
