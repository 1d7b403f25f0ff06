"""What a program is judged with: the cut and machine of the job, the stock it begins with, and how finely it is looked at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from lesna.geometry.holder import holder_shape, shank_diameter
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.kept import over
from lesna.model.library_records import Machine
from lesna.model.resolve import CutParts, Shelf, tool_of
from lesna.physics.motion import Axes
from lesna.planning.cut.setup import CutSetup, envelope_of, setup_of
from lesna.stock.body import Body, body_of
from lesna.stock.field import HeightMap, block, cell_for, extruded

#: acceleration [m/s2], jerk [m/s3], rapids [mm/min] and blocks a second where the machine names none
_ACCELERATION, _JERK, _RAPID, _BLOCKS = 3.0, 40.0, 20000.0, 500.0
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
    tolerance: float = 0.01
    sliver: float = 0.15

    def step_for(self, diameter: float) -> float:
        """Longest step for a cutter [mm]."""
        return self.step or min(max(_STEP_SHARE * diameter, _STEP_LEAST), _STEP_MOST)


@dataclass(frozen=True)
class Stock:
    """The stock a program begins with.

    Attributes
    ----------
    low, high : tuple of float
        Opposite corners of the block, or of what bounds the profile (x, y, z) [mm].
    outline : tuple
        Outline of a profile, empty for a block [mm].
    islands : tuple
        Holes in the profile [mm].
    told : str
        Where it comes from.
    """

    low: tuple[float, float, float]
    high: tuple[float, float, float]
    outline: tuple[tuple[float, float], ...] = ()
    islands: tuple[tuple[tuple[float, float], ...], ...] = ()
    told: str = ""

    def height_map(self, cell: float) -> HeightMap:
        """Cells of it."""
        if self.outline:
            return extruded(
                np.array(self.outline), [np.array(hole) for hole in self.islands], self.high[2], self.low[2], cell
            )
        return block(self.low, self.high, cell)


def stock_from_text(text: str) -> Stock:
    """A block as it is typed: ``block:X0,Y0,Z0,X1,Y1,Z1`` in millimetres and program coordinates.

    Raises
    ------
    InputError
        When it is not of that form, or has no size.
    """
    form = "write block:X0,Y0,Z0,X1,Y1,Z1 in mm, such as block:-60,-40,-24,60,40,0, or name an STL file"
    if not text.startswith("block:"):
        raise InputError(f"stock '{text}' is not understood; {form}")
    try:
        values = [float(part) for part in text.removeprefix("block:").split(",")]
    except ValueError:
        raise InputError(f"stock '{text}' holds something that is no number; {form}") from None
    if len(values) != 6 or not all(np.isfinite(values)):
        raise InputError(f"stock '{text}' needs six numbers; {form}")
    low, high = tuple(values[:3]), tuple(values[3:])
    if any(a >= b for a, b in zip(low, high, strict=True)):
        raise InputError(f"stock '{text}': each of the first three numbers must lie below its partner; {form}")
    return Stock(low, high, told="the block that was given")  # type: ignore[arg-type]


def stock_of_feature(parts: CutParts) -> Stock:
    """The block of the cut's feature, the middle of its top at the work zero.

    Raises
    ------
    InputError
        When the feature has no size.
    """
    feature = parts.cut.feature
    if feature is None or not (feature.length_mm and feature.width_mm and feature.depth_mm):
        raise InputError("the cut's feature has no length, width and depth; give the stock as block:X0,Y0,Z0,X1,Y1,Z1")
    told, depth = "the block of the job's feature, its top centre at zero", -feature.depth_mm
    if feature.profile_mm:
        x, y = (sorted(values) for values in zip(*feature.profile_mm, strict=True))
        return Stock(
            (x[0], y[0], depth),
            (x[-1], y[-1], 0.0),
            outline=feature.profile_mm,
            told="the feature's outline, pulled up",
        )
    x_half, y_half = feature.length_mm / 2, feature.width_mm / 2
    return Stock((-x_half, -y_half, depth), (x_half, y_half, 0.0), told=told)


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


def axes_of(machine: Machine, tolerance: float) -> Axes:
    """What the axes of a machine do; usual figures where it names none.

    Parameters
    ----------
    machine : Machine
        Its row.
    tolerance : float
        How far corners may be rounded [mm].
    """

    def known(value: float | None, usual: float) -> float:
        return usual if value is None else value

    acceleration = [known(a, _ACCELERATION) for a in (machine.accel_x_m_s2, machine.accel_y_m_s2, machine.accel_z_m_s2)]
    jerks = [j for j in (machine.jerk_x_m_s3, machine.jerk_y_m_s3, machine.jerk_z_m_s3) if j is not None]
    rapid = [known(r, _RAPID) for r in (machine.rapid_x_mm_min, machine.rapid_y_mm_min, machine.rapid_z_mm_min)]
    return Axes(
        acceleration=1000.0 * np.array(acceleration), jerk=1000.0 * (min(jerks) if jerks else _JERK),
        rapid=np.array(rapid) / 60.0, feed_max=known(machine.feed_max, max(rapid)) / 60.0,
        blocks=known(machine.lookahead_blocks_s, _BLOCKS), tolerance=tolerance,
    )  # fmt: skip


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
    look: Look = field(default_factory=Look)
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
    def holder_radius(self) -> float:
        """Of the holder's face [mm]."""
        return holder_shape(self.parts.holder, self.parts.taper, shank_diameter(self.parts.tool)).nose / 2

    def setup_at(self, n: float) -> CutSetup:
        """The cut at the program's spindle speed."""
        cut = self.parts.cut.with_values(n_rpm=n, vc_m_min=None)
        return setup_of(replace(self.parts, cut=cut))
