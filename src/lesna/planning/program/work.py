"""What a program is judged with: the cut and machine of the job, the stock it begins with, and how finely it is looked at."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from lesna.geometry.holder import holder_shape, shank_diameter
from lesna.model.job import SPEEDS, Job
from lesna.model.kept import over
from lesna.model.resolve import CutParts, Shelf, tool_of
from lesna.physics import Array
from lesna.planning.cut.axes import TOLERANCE
from lesna.planning.cut.setup import CutSetup, envelope_of, setup_of
from lesna.planning.program.stock import Stock
from lesna.stock.body import Body, body_of
from lesna.stock.bricks import cell_for as brick_cell_for
from lesna.stock.field import cell_for
from lesna.stock.outline import Outline, outline_of

#: steps of a path over the cutter's diameter, and their ends [mm]
_STEP_SHARE, _STEP_LEAST, _STEP_MOST = 1.0 / 24.0, 0.1, 1.0


@dataclass(frozen=True)
class Look:
    """How finely a program is looked at.

    Attributes
    ----------
    step : float or None
        Longest step along the path [mm]; by the cutter where None.
    cell : float or None
        Edge of the cells of the stock [mm]; by the cutter where None.
    tolerance : float
        How far the control may round corners [mm].
    sliver : float
        Webs thinner than this share of DC are told [-].
    """

    step: float | None = None
    cell: float | None = None
    tolerance: float = TOLERANCE
    sliver: float = 0.15

    def step_for(self, diameter: float) -> float:
        """Longest step for a cutter [mm]."""
        return self.step or min(max(_STEP_SHARE * diameter, _STEP_LEAST), _STEP_MOST)


#: cutters of other T numbers are taken to have flutes so many radii long [-]
_FLUTES = 4.0
#: places on the shank lie so far above each other, and on the holder [mm]
_BESIDE, _UP = 3.0, 10.0
#: places over the flutes lie so far above each other [mm], at this share of their radius
_OVER, _INSIDE = 1.0, 0.8

#: as the cutter has it
PLAIN_LOOK = Look()


def others_of(job: Job, index: int, shelf: Shelf) -> dict[int, Body]:
    """The cutters that other T numbers stand for: those that other cuts of the job name for their programs.

    Parameters
    ----------
    job : Job
        The document.
    index : int
        Number of the cut that is judged.
    shelf : Shelf
        The library.
    """
    cuts = [cut for place, cut in enumerate(job.cuts) if place != index and cut.program is not None]
    return {
        cut.program.tool: body_of(envelope_of(tool_of(cut, over(job.rows, shelf))))
        for cut in cuts
        if cut.program and cut.program.tool is not None
    }


@dataclass(frozen=True)
class Work:
    """A program's job: cut, stock and view, and the cutters that other T numbers stand for.

    Attributes
    ----------
    parts : CutParts
        The cut with its whole records.
    stock : Stock
        What it begins with.
    look : Look
        How finely it is looked at.
    tool : int or None
        T number whose blocks are judged; None where the program has one.
    others : mapping of int to Body
        The cutters of other T numbers.
    """

    parts: CutParts
    stock: Stock
    look: Look = PLAIN_LOOK
    tool: int | None = None
    others: Mapping[int, Body] = field(default_factory=dict)

    @property
    def radius(self) -> float:
        """Of the judged cutter [mm]."""
        return self.parts.tool.DC / 2

    @cached_property
    def body(self) -> Body:
        """What the judged cutter cuts away."""
        return body_of(envelope_of(self.parts.tool))

    @property
    def cell(self) -> float:
        """Edge of the cells [mm]."""
        (x0, y0, _), (x1, y1, _) = self.stock.low, self.stock.high
        return self.look.cell or cell_for(self.parts.tool.DC, x1 - x0, y1 - y0)

    @property
    def brick_cell(self) -> float:
        """Edge of the cells for a cutter that leans [mm]."""
        return self.look.cell or brick_cell_for(self.parts.tool.DC, self.stock.low, self.stock.high)

    @cached_property
    def outline(self) -> Outline:
        """Half section of the judged cutter."""
        tool = self.parts.tool
        slant = math.radians(tool.taper_deg) if tool.taper_deg is not None else 0.0
        widest = tool.widest / 2 if tool.taper_deg is not None else None
        return outline_of(envelope_of(tool), min(tool.APMX, self.parts.cut.stick_out_mm), slant, widest)

    def other_outline(self, number: int) -> Outline | None:
        """Half section of another tool of the program, None where nobody knows it."""
        body = self.others.get(number)
        if body is None:
            return None
        slant = math.atan(1.0 / body.rise) if body.rise > 0 else 0.0
        return Outline(
            body.flat if body.foot > 0 else body.radius, body.corner, slant, _FLUTES * body.radius, body.radius
        )

    @cached_property
    def solid(self) -> Array:
        """Height and radius of places on neck, shank (1) and holder (2) that must not touch, and over the flutes (3) (b, 3) [mm]."""
        tool, stick_out = self.parts.tool, self.parts.cut.stick_out_mm
        shank = shank_diameter(tool) / 2
        holder = holder_shape(self.parts.holder, self.parts.taper, 2 * shank)
        neck = min(tool.DN or tool.DC, 2 * shank) / 2 if tool.taper_deg is None else shank
        rows = [
            (z, neck if z <= tool.usable_length + 1e-9 else shank, 1.0)
            for z in np.arange(self.outline.flutes + _BESIDE, stick_out - 1e-9, _BESIDE).tolist()
        ]
        # well inside the way of the flutes: what stands there is cut deeper than they reach
        top = min(tool.usable_length, stick_out)
        free = _INSIDE * float(self.outline.radius_at(np.array([self.outline.flutes]))[0])
        rows += [
            (z, free, 3.0)
            for z in np.arange(self.outline.flutes + _OVER, max(top, self.outline.flutes + 2 * _OVER), _OVER).tolist()
        ]
        rows += [(stick_out, share * holder.nose / 2, 2.0) for share in (0.4, 0.7, 1.0)]
        rows += [
            (stick_out + z, holder.diameter_at(z) / 2, 2.0) for z in np.arange(_UP, holder.projection, _UP).tolist()
        ]
        return np.array(rows)

    @property
    def holder_radius(self) -> float:
        """Of the holder's face [mm]."""
        return holder_shape(self.parts.holder, self.parts.taper, shank_diameter(self.parts.tool)).nose / 2

    def setup_at(self, n: float) -> CutSetup:
        """The cut at the program's spindle speed."""
        cut = self.parts.cut.with_values(**{**dict.fromkeys(SPEEDS), "n_rpm": n})
        return setup_of(replace(self.parts, cut=cut))
