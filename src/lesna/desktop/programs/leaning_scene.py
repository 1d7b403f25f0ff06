"""A program of five axes as an image: the stock as it stands, the path in temper colours, tool and holder as they lean; without Qt."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lesna.desktop.surfaces.eye import Eye
from lesna.desktop.surfaces.scene import (
    Colours,
    Picture,
    edges_of,
    lit_triangles,
    pixels_of,
    towards_light,
    turned_body,
)
from lesna.geometry.holder import holder_shape, shank_diameter
from lesna.physics import Array, engine
from lesna.planning.program.leaning import Leaning
from lesna.planning.program.work import Work
from lesna.stock.bricks import Bricks

#: what falls on every side, as in the picture of a part [-]
_EVERYWHERE = 0.42
#: as much of the holder as is drawn [mm]
_HOLDER = 45.0
_STOCK, _TOOL = 0, 1

#: starts and ends of lines, what is told of each, and its step
PathLines = tuple[Array, Array, Array, NDArray[np.int64]]


@dataclass(frozen=True)
class LeaningScene:
    """What is drawn.

    Attributes
    ----------
    bricks : Bricks
        The stock as it stands.
    low, high : array (3,)
        Box that stays in the picture [mm].
    starts, ends : array (n, 3)
        Lines of the path [mm].
    value : array (n,)
        What is told of each, from 0 to 1.
    step : array (n,) of int
        Step at which each line ends.
    tool : array (k, 3, 3)
        Triangles of tool and holder where they stand [mm].
    """

    bricks: Bricks
    low: Array
    high: Array
    starts: Array
    ends: Array
    value: Array
    step: NDArray[np.int64]
    tool: Array = field(default_factory=lambda: np.zeros((0, 3, 3)))

    def picture(self, eye: Eye, width: int, height: int, colours: Colours) -> Picture:
        """The scene from somewhere, in so many pixels; `which` holds the step of the path under each, -1 where none is."""
        depth, lit = np.full((height, width), -1e30), np.zeros((height, width), np.float32)
        toward = towards_light(eye)
        self._stock(eye, depth, lit, toward)
        kind = np.where(depth > -1e29, _STOCK, -1).astype(np.int32)
        before = depth.copy()
        seen = eye.project(self.tool.reshape(-1, 3), self.low, self.high, width, height)
        lit_triangles(self.tool, seen, toward, depth, lit)
        kind = np.where(depth > before, _TOOL, kind)
        ink, shown = np.zeros((height, width), np.float32), np.full((height, width), -1.0, np.float32)
        which = np.full((height, width), -1, np.int32)
        starts, ends = (eye.project(places, self.low, self.high, width, height) for places in (self.starts, self.ends))
        engine.kernel("picture_traces")(starts, ends, self.value, self.step, depth, ink, shown, which)
        return Picture(self._pixels(eye, (kind, depth, lit), (ink, shown), colours), which)

    def _stock(self, eye: Eye, depth: Array, lit: Array, toward: Array) -> None:
        height, width = depth.shape
        bricks, side = self.bricks, min(width, height)
        per_pixel = 1.0 / (eye.scale(self.low, self.high, width, height) * bricks.cell)
        place = (0.5 * (self.low + self.high) - bricks.origin) / bricks.cell
        middle = np.array([*place, bricks.cell, eye.shift[0] * side, eye.shift[1] * side])
        run, frame = engine.kernel("picture_bricks"), np.ascontiguousarray(eye.frame)
        rows = np.linspace(0, height, 9).astype(int).tolist()

        def strip(ends: tuple[int, int]) -> None:
            run(bricks.index, bricks.cells, middle, frame, toward, per_pixel, _EVERYWHERE, *ends, depth, lit)

        engine.shared(strip, list(zip(rows[:-1], rows[1:], strict=True)), lambda done: None)

    def _pixels(
        self, eye: Eye, solid: tuple[Array, Array, Array], path: tuple[Array, Array], colours: Colours
    ) -> Array:
        kind, depth, lit = solid
        ink, shown = path
        height, width = kind.shape
        out = np.empty((height, width, 3))
        out[:] = colours.ground
        for number, colour in ((_STOCK, colours.body), (_TOOL, colours.steel)):
            some = kind == number
            out[some] = colour * lit[some][:, None]
        edge = edges_of(kind, depth, eye.scale(self.low, self.high, width, height))
        out += edge[:, :, None] * (colours.ink - out)
        steps = len(colours.scale) - 1
        own = colours.scale[np.clip(np.round(shown * steps), 0, steps).astype(int)]
        out += np.minimum(ink, 1.0)[:, :, None] * (own - out)
        return pixels_of(out)


def leaning_body(work: Work, tip: Array, axis: Array) -> Array:
    """Triangles (k, 3, 3) of the judged tool in its holder, its tip at a place and its axis along a direction [mm]."""
    tool, stick_out = work.parts.tool, work.parts.cut.stick_out_mm
    shank = shank_diameter(tool) / 2
    holder = holder_shape(work.parts.holder, work.parts.taper, 2 * shank)
    neck = min(tool.DN or tool.DC, 2 * shank) / 2 if tool.taper_deg is None else shank
    reach = min(tool.usable_length, stick_out)
    high = min(holder.projection, _HOLDER)
    outline = np.concatenate((work.outline.points(), [
        (neck, work.outline.flutes), (neck, reach), (shank, reach), (shank, stick_out), (holder.nose / 2, stick_out),
        (holder.diameter_at(high) / 2, stick_out + high), (0.0, stick_out + high),
    ]))  # fmt: skip
    across = np.cross((1.0, 0.0, 0.0) if abs(axis[0]) < 0.9 else (0.0, 1.0, 0.0), axis)
    across /= np.linalg.norm(across)
    frame = np.stack((across, np.cross(axis, across), axis))
    return np.ascontiguousarray(turned_body(outline, np.zeros(3)) @ frame + tip)


def lines_of(geometry: Leaning, values: Array) -> PathLines:
    """Lines of the path at a feed: starts and ends (n, 3) [mm], what is told of each over its greatest, and its step."""
    rows = np.flatnonzero(geometry.judged)
    told = values[rows]
    most = float(told.max(initial=0.0)) or 1.0
    steps = geometry.steps
    return steps.start[rows], steps.end[rows], np.ascontiguousarray(told / most), rows.astype(np.int64)
