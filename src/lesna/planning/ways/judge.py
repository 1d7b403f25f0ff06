"""A path judged by its program: read back, taken through the stock, and measured against what was wanted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import RAPID
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Program
from lesna.physics import Array
from lesna.planning.program.intents import INTENTS
from lesna.planning.program.places import Finding
from lesna.planning.program.run import Run
from lesna.planning.program.simulate import simulate
from lesna.planning.program.work import Look
from lesna.planning.ways.make import Route
from lesna.planning.ways.program import Written
from lesna.planning.ways.round import stock_round

#: step along the path over the radius
_STEP = 1.0 / 24.0
#: engagement over the target under which nothing is cut
_NOTHING = 0.05
#: material higher than this above the floor is left [mm]
_LEFT = 0.03
#: cells beside a wall are not looked at so far in [mm]
_BORDER = 0.05


@dataclass(frozen=True)
class Judged:
    """What the simulation says of a path.

    Attributes
    ----------
    run : Run
        The simulation of its program.
    loads : array (n,)
        Stepover that each step takes over the one wanted, 0 on the way in and between passes [-].
    cutting : array (n,) of bool
        Steps of cutting passes; those along walls are not among them.
    leftover : float
        Area of the floor that the tool could reach and on which something stands [mm2].
    slivers : tuple of Finding
        Thin webs at the time they are cut.
    """

    run: Run
    loads: Array
    cutting: NDArray[np.bool_]
    leftover: float
    slivers: tuple[Finding, ...]

    @property
    def stepovers(self) -> Array:
        """Stepover over the one wanted on each step of cutting passes [-]."""
        return self.loads[self.cutting]

    @property
    def lengths(self) -> Array:
        """Length of those steps [mm]."""
        return np.asarray(self.run.geometry.steps.length[self.cutting])

    def share(self, quantile: float) -> float:
        """Stepover over the one wanted that so much of the way in the cut stays under [-]."""
        on = self.stepovers > _NOTHING
        if not on.any():
            return 0.0
        order = np.argsort(self.stepovers[on])
        gathered = np.cumsum(self.lengths[on][order])
        place = min(int(np.searchsorted(gathered, quantile * gathered[-1])), len(order) - 1)
        return float(self.stepovers[on][order][place])


def judged(
    route: Route, written: Written, parts: CutParts, pulse: Pulse = STEADY, known: Judged | None = None
) -> Judged:
    """Reads a path's program back and simulates it."""
    R = parts.tool.DC / 2
    look = Look(step=max(_STEP * R, 0.05))
    run = simulate(
        written.content, parts, stock_round(route, R), look, pulse=pulse, known=None if known is None else known.run
    )
    g, program = run.geometry, run.geometry.program
    intents = _intents(route, written, program)[g.steps.move]
    moves = (program.moves.kind[g.steps.move] != RAPID) & (np.linalg.norm(g.steps.heading, axis=1) > 0)
    here = moves & np.isin(intents, (INTENTS.index("cut"), INTENTS.index("wall")))
    a, b = g.engagement.found[here, :, 0], g.engagement.found[here, :, 1]
    low = g.engagement.found[here, :, 3]
    valid = np.arange(a.shape[1])[None, :] < g.engagement.counts[here, None]
    # where levels of a tip are met apart, the cylinder or else the widest of them tells of the stepover
    top = low.max(axis=1, keepdims=True, initial=0.0)
    wide = np.where(valid & (low >= top - 1e-9), np.cos(a) - np.cos(b), 0.0)
    loads = np.zeros(len(here))
    loads[here] = R * wide.sum(axis=1) / route.stepover
    return Judged(run, loads, here & (intents == INTENTS.index("cut")), _leftover(route, run, R, parts),
                  tuple(finding for finding in g.findings if finding.kind == "sliver"))  # fmt: skip


def _intents(route: Route, written: Written, program: Program) -> NDArray[np.int64]:
    """The place in `INTENTS` of what each move is for, by the stretch that its line came from."""
    of = {line: INTENTS.index(route.stretches[i].intent) for line, (i, _) in written.sources.items()}
    return np.array([of.get(line, 0) for line in program.moves.line.tolist()], dtype=np.int64)


def _leftover(route: Route, run: Run, radius: float, parts: CutParts) -> float:
    import shapely

    feature = parts.cut.feature
    wall = 0.0 if feature is None else feature.stock_wall_mm
    middles = route.region.extended(3 * radius).buffer(-wall - radius)
    reachable = middles.buffer(radius - _BORDER, quad_segs=64).intersection(route.region.cleared)
    left = run.geometry.left
    rows, columns = np.nonzero(left.height > route.floor + _LEFT)
    x, y = left.origin[0] + left.cell * columns, left.origin[1] + left.cell * rows
    shapely.prepare(reachable)
    return float(shapely.contains_xy(reachable, x, y).sum()) * left.cell**2
