"""What along a program should not be touched: each with its line and place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import RAPID
from lesna.nc.program import Program, TiltedMoves
from lesna.physics import Array
from lesna.planning.program.work import Work
from lesna.stock.leaning import Met
from lesna.stock.poses import Poses
from lesna.stock.steps import Steps
from lesna.stock.walk import Engagement

Kind = Literal["rapid_in_stock", "plunge", "ramp", "too_deep", "shank", "holder", "sliver", "pole"]

#: material that a rapid may brush, as cells do not show an edge exactly [mm3]
_BRUSHED = 0.05
#: how far a straight feed into material goes before it is a plunge [mm]
_PLUNGED = 0.05
#: what a holder may overlap with cells at a wall [mm]
_OVERLAP = 0.05
#: places of one kind that belong together lie nearer than this many steps
_TOGETHER = 4
#: deeper than the flutes is told where it lasts so long, over DC: leaving a wall, the rim grazes its whole height for a moment
_LASTS = 0.1
#: steepest way into the full material without a tool that cuts at its centre; from the second on it is a plunge [deg]
_RAMP, _PLUNGE = 3.0, 45.0
#: engaged angle from which a tool stands in the full [rad]
_FULL = 0.9 * np.pi


@dataclass(frozen=True)
class Finding:
    """One place.

    Attributes
    ----------
    kind : str
        What is wrong.
    line : int
        Line of the program.
    place : tuple of float
        Where the tip is, or a web (x, y, z) [mm].
    value : float
        Volume [mm3], slope or turn [deg], depth, overlap or thickness [mm], as the kind has it.
    step : int
        Number of the step.
    """

    kind: Kind
    line: int
    place: tuple[float, float, float]
    value: float
    step: int


def findings_of(program: Program, work: Work, steps: Steps, met: Engagement, holder: Array) -> list[Finding]:
    """The places of one tool's steps."""
    tool, moves = work.parts.tool, program.moves
    rapid = moves.kind[steps.move] == RAPID
    chord = steps.end - steps.start
    straight_down = (np.hypot(chord[:, 0], chord[:, 1]) < 1e-9) & (chord[:, 2] < -1e-9)
    deepest = met.depth
    found = _Gathered(moves.line, steps)
    add = found.add

    struck = np.zeros(len(steps))
    per_move = np.bincount(steps.move, weights=np.where(rapid, met.volume, 0.0))
    struck[rapid] = per_move[steps.move[rapid]]
    add("rapid_in_stock", rapid & (struck > _BRUSHED) & (met.volume > 0), struck)
    if not tool.centre_cutting:
        slope = np.degrees(np.arctan2(-chord[:, 2], np.hypot(chord[:, 0], chord[:, 1])))
        sunk = straight_down & (met.volume > _PLUNGED * np.pi * work.radius**2 / 4)
        steep = (chord[:, 2] < -1e-9) & (met.angle >= _FULL) & (slope > _RAMP + 1e-6)
        is_plunge = ~rapid & (sunk | (steep & (slope >= _PLUNGE)))
        add("plunge", is_plunge, -chord[:, 2])
        add("ramp", ~rapid & steep & ~is_plunge, slope)
    reach = min(tool.usable_length, tool.OAL or np.inf)
    add("too_deep", lasting(~rapid & (deepest > min(tool.APMX, reach) + 0.01), steps.length, _LASTS * tool.DC), deepest)
    add("holder", holder > _OVERLAP, holder)
    return found.places


#: share of a flat end that may brush material [-], and how far cells may tell a touch where there is none [cells]
_END, _TOUCH = 0.05, 0.3
#: a block in which an axis turns by so much, and so many times as far as the tool leans, goes by the pole [deg], [-]
_JUMPS, _TIMES = 30.0, 4.0


def leaning_findings(
    program: Program, work: Work, poses: Poses, met: Met, own: NDArray[np.bool_]
) -> list[Finding]:  # fmt: skip
    """The places of a program of five axes; `own` are the steps of the judged tool."""
    moves = program.moves
    rapid = moves.kind[poses.move] == RAPID
    found = _Gathered(moves.line, poses)
    per_move = np.bincount(poses.move, weights=np.where(rapid, met.volume, 0.0), minlength=len(moves))
    struck = np.where(rapid, per_move[poses.move], 0.0)
    found.add("rapid_in_stock", rapid & (struck > _BRUSHED) & (met.volume > 0), struck)
    if not work.parts.tool.centre_cutting:
        chord = poses.end - poses.start
        along = -(chord * poses.axis_end).sum(axis=1)
        slope = np.degrees(np.arctan2(along, np.linalg.norm(chord + along[:, None] * poses.axis_end, axis=1)))
        sunk = own & ~rapid & (met.end_cuts > _END)
        found.add("plunge", sunk & (slope >= _PLUNGE), along)
        found.add("ramp", sunk & (slope > _RAMP) & (slope < _PLUNGE), slope)
    over = met.touched[:, 2]
    found.add("too_deep", lasting(own & ~rapid & (over > 0), poses.length, _LASTS * work.parts.tool.DC), over)
    least = max(_OVERLAP, _TOUCH * work.brick_cell)
    found.add("shank", own & (met.touched[:, 0] > least), met.touched[:, 0])
    found.add("holder", own & (met.touched[:, 1] > least), met.touched[:, 1])
    if isinstance(moves, TiltedMoves):
        turn = np.abs(moves.turned_end - moves.turned_start).max(axis=1, initial=0.0)[poses.move]
        lean = np.degrees(np.arccos(np.clip((poses.axis_start * poses.axis_end).sum(axis=1), -1.0, 1.0)))
        leaned = np.bincount(poses.move, weights=lean, minlength=len(moves))[poses.move]
        last = np.append(np.diff(poses.move) != 0, True)
        found.add("pole", own & ~rapid & last & (turn > _JUMPS) & (turn > _TIMES * leaned), turn)
    return found.places


class _Gathered:
    """Places, neighbours of one kind together."""

    def __init__(self, lines: NDArray[np.int64], steps: Steps) -> None:
        self._lines, self._steps = lines, steps
        self.places: list[Finding] = []

    def add(self, kind: Kind, where: NDArray[np.bool_], values: Array) -> None:
        """The worst of each group of steps that belong together."""
        rows = np.flatnonzero(where)
        groups = np.split(rows, np.flatnonzero(np.diff(rows) > _TOGETHER) + 1) if len(rows) else ()
        for group in groups:
            if len(group):
                worst = int(group[values[group].argmax()])
                x, y, z = self._steps.end[worst].tolist()
                self.places.append(
                    Finding(kind, int(self._lines[self._steps.move[group[0]]]), (x, y, z), float(values[worst]), worst)
                )


def lasting(where: NDArray[np.bool_], length: Array, least: float) -> NDArray[np.bool_]:
    """Those of marked steps that follow each other over at least a way [mm]; shorter stretches pass as a tool comes and goes."""
    out = np.zeros_like(where)
    rows = np.flatnonzero(where)
    for group in np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else ():
        if length[group].sum() >= least:
            out[group] = True
    return out
