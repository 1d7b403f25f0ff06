"""A program of five axes through stock in bricks: what the leaning cutter meets, its forces, what the axes make of its feeds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, partial
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.kinematics import Kinematics
from lesna.geometry.motion import RAPID
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Program, TiltedMoves
from lesna.physics import Array
from lesna.physics.edge.ring_loads import LeaningLoads, Pieces, RingTable, ring_table
from lesna.physics.edge.sweep import Sweep
from lesna.physics.motion import Swinging, Times, times_in_runs
from lesna.planning.cut.axes import axes_of
from lesna.planning.cut.solve import Contact, State, state_along
from lesna.planning.program.geometry import Geometry, bounded_look, bounded_rapids, refuse_air, tool_of_program
from lesna.planning.program.places import leaning_findings
from lesna.planning.program.work import Work
from lesna.stock.bricks import Bricks
from lesna.stock.leaning import Met, lean_through
from lesna.stock.outline import Outline, rings_of
from lesna.stock.poses import Poses, poses_of

#: feeds per tooth at which forces are computed, and room above and below those of a program
_NODES, _ROOM = 8, 1.02
#: speeds nearer than this are one [-]
_SAME = 1e-9
#: share of its way along its axis by which a tool goes down as a drill does, and fed as one [-]
_DOWN = 0.35
#: the same from which a feed in air may end in what nobody knows of [-]
_PLUNGES = 0.5
#: memory that looks at the stock on the way may take [bytes]
_MOST_LOOKS = 200_000_000
#: an axis turns back where it has gone on by more than this and goes back by more than this [deg]
_BACK = 2.0


@dataclass(frozen=True)
class LeaningTable:
    """Rings of a cutter, and the feeds per tooth at which its forces are asked for."""

    rings: RingTable
    nodes: Array


@dataclass(frozen=True)
class AxisUse:
    """What a program asks of one rotary axis.

    Attributes
    ----------
    letter : str
        Its name.
    low, high : float
        Least and greatest angle [deg].
    way : float
        All that it turns [deg].
    share : float
        Greatest speed over its own [-].
    reversals : tuple of int
        Lines at which it turns back while the tool cuts.
    """

    letter: str
    low: float
    high: float
    way: float
    share: float
    reversals: tuple[int, ...]


class Leaning(Geometry):
    """A cutter that leans in stock of bricks."""

    engagement: Met
    left: Bricks
    steps: Poses

    #: what is offered is simulated again in half the cells: raised feeds make a peak of a place that lies a cell beside
    FINER: ClassVar[float] = 0.5
    OVER: ClassVar[float] = 1.03
    BLUR: ClassVar[int] = 3
    JOINS: ClassVar[bool] = True

    @property
    def kinematics(self) -> Kinematics:
        """The machine's rotary axes."""
        assert self.program.kinematics is not None  # none but such a program comes here
        return self.program.kinematics

    @property
    def stepover(self) -> Array:
        return self.engagement.stepover

    @cached_property
    def swept(self) -> Array:
        return self.engagement.area * self.steps.length

    @property
    def level(self) -> NDArray[np.bool_]:
        return self.judged

    @cached_property
    def _fallen(self) -> Array:
        """Way along the axis towards the tip over the whole way [-]."""
        chord = self.steps.end - self.steps.start
        return -(chord * self.steps.axis_end).sum(axis=1) / np.maximum(self.steps.length, 1e-12)

    @property
    def fall(self) -> Array:
        # what the flat end cuts, its rings account for
        return np.where(self.engagement.end_cuts > 0, 0.0, np.maximum(self._fallen, 0.0)) * (self._fallen > _DOWN)

    @property
    def goes_down(self) -> NDArray[np.bool_]:
        return self._fallen > _DOWN

    @property
    def plunges(self) -> NDArray[np.bool_]:
        return self._fallen > _PLUNGES

    # ------------------------------------------------------------ axes

    @cached_property
    def slope(self) -> Array:
        """Way of each axis over that of the tip (n, 5) [-], [deg/mm]."""
        steps = self.steps
        joints = np.hstack((steps.linear_end - steps.linear_start, steps.turned_end - steps.turned_start))
        return np.asarray(joints / np.maximum(steps.length, 1e-12)[:, None])

    def _axes(self, *, rapid: bool) -> tuple[Array, Array]:
        """Speeds [mm/s], [deg/s] and accelerations of all five axes."""
        linear = axes_of(self.work.parts.machine, self.work.look.tolerance)
        turning = self.kinematics.axes
        top = linear.rapid if rapid else linear.feed_by_axis
        return (np.append(top, [axis.speed for axis in turning]),
                np.append(linear.acceleration, [axis.acceleration for axis in turning]))  # fmt: skip

    def _swinging(self, *, rapid: bool) -> Swinging:
        top, acceleration = self._axes(rapid=rapid)
        steps = self.steps
        return Swinging(self.slope, steps.length, steps.joined, steps.move, top, acceleration, self.work.look.tolerance)

    # the bends of a path are sought once, however many feeds are tried on it

    @cached_property
    def _fed(self) -> Swinging:
        return self._swinging(rapid=False)

    @cached_property
    def _hurried(self) -> Swinging:
        return self._swinging(rapid=True)

    @cached_property
    def highest_feed(self) -> Array:
        most = axes_of(self.work.parts.machine).feed_max
        return 60.0 * np.minimum(self._fed.fastest, most)

    @cached_property
    def most_written(self) -> Array:
        return 60.0 * self.times_at(self.highest_feed).peak

    def times_at(self, asked: Array) -> Times:
        axes = axes_of(self.work.parts.machine, self.work.look.tolerance)
        moves, steps = self.program.moves, self.steps
        is_rapid = moves.kind[steps.move] == RAPID
        every, no_end = np.arange(len(steps)), np.full(len(steps), np.inf)
        as_fed = self._fed.limited(self.wanted_feed(asked) / 60.0, every)
        wanted = np.where(is_rapid, self._hurried.limited(no_end, every), as_fed)
        # a control takes so many blocks a second; a block is a move, however finely it is looked at
        wanted = np.minimum(wanted, axes.blocks * moves.length[steps.move])
        begins = np.append(
            True, (np.diff(steps.move) != 0) | (np.abs(np.diff(wanted)) > _SAME * wanted[1:]) | ~steps.joined[1:]
        )
        return times_in_runs(begins, steps.length, wanted, self._fed, axes.jerk)

    def limited_by_axes(self, feed: Array) -> NDArray[np.bool_]:
        """Steps in contact on which an axis, not the feed [mm/min], says how fast the tip goes."""
        return self.contact & (self._fed.fastest * 60.0 < 0.999 * np.nan_to_num(feed))

    def axis_uses(self, times: Times) -> tuple[AxisUse, ...]:
        """What the program asks of each rotary axis."""
        steps, lines = self.steps, self.program.moves.line
        fed = self.program.moves.kind[steps.move] != RAPID
        out = []
        for number, axis in enumerate(self.kinematics.axes):
            angle = np.append(steps.turned_start[:1, number], steps.turned_end[:, number])
            speed = np.abs(self.slope[:, number + 3]) * times.peak
            back = _turned_back(angle, self.contact)
            out.append(
                AxisUse(
                    axis.letter, float(angle.min()), float(angle.max()), float(np.abs(np.diff(angle)).sum()),
                    float(speed[fed].max(initial=0.0)) / axis.speed, tuple(int(lines[steps.move[k]]) for k in back),
                )
            )  # fmt: skip
        return tuple(out)

    # ------------------------------------------------------------ forces

    def table_of(self, reach: tuple[float, float]) -> LeaningTable:
        teeth, contact = self.setup.cutter.teeth, self.contact
        asked = self.spoken / (self.n * teeth)
        fz = asked[contact] if contact.any() else np.array([0.05])
        low, high = float(fz.min()) * reach[0] / _ROOM, float(fz.max()) * reach[1] * _ROOM
        rings = self.engagement.rings
        pieces = Pieces(rings.z, rings.r, rings.kappa, rings.edge, rings.low, rings.high)
        return LeaningTable(ring_table(self.setup.cutter, self.setup.law, pieces), np.geomspace(low, high, _NODES))

    def forces_at(self, table: LeaningTable, fz: Array) -> LeaningLoads:
        """Forces of every step at feeds per tooth [mm], at the speed for which the coefficients hold."""
        met = self.engagement
        feed = np.where(self.contact, fz, 0.0) * self.setup.cutter.teeth
        return table.rings.loads((met.begins, met.ring, met.span, met.way), feed)

    def loads_at(self, table: LeaningTable, fz: Array) -> tuple[State, dict[str, Array]]:
        loads, met = self.forces_at(table, fz), self.engagement
        sums = Sweep(loads.fxy_peak, loads.fx, loads.fy, loads.fz, loads.axial_max, loads.axial_min, loads.torque,
                     loads.torque_peak, np.maximum(loads.height, 1e-6))  # fmt: skip
        # a depth that is in the material, and the stepover with which it makes up the engaged area
        deep = np.maximum(np.minimum(met.area / np.maximum(met.stepover, 1e-9), met.depth), 1e-6)
        ae = np.maximum(met.area / deep, 1e-6)
        wide = np.maximum(2 * met.widest, 1e-6)
        seen = Contact(ae, deep, wide, wide, *met.sines)
        with np.errstate(divide="ignore", invalid="ignore"):
            state = state_along(self.setup, seen, self.n, np.maximum(fz, 1e-9), sums, loads.hex)
        uses = self.uses_along(state)
        uses["depth_available"] = np.where(self.contact, met.depth / self.setup.parts.tool.edge_depth, 0.0)
        return state, uses

    def cut_on(self, stock: Bricks, first: int, last: int) -> None:
        """Takes off what the steps from one to before another take off; the bricks are changed."""
        of_tool = self.program.moves.tool[self.steps.move]
        outlines = _outlines(self.work, self.tool, of_tool)
        borders = first + 1 + np.flatnonzero(np.diff(of_tool[first:last]) != 0)
        for begin, end in zip([first, *borders.tolist()], [*borders.tolist(), last], strict=True):
            outline = outlines[int(of_tool[begin])]
            if outline is not None:
                lean_through(stock, self.steps.part(slice(begin, end)), outline, np.zeros((0, 3)), looks=False)

    def push_on_part(self, loads: LeaningLoads) -> Array:
        """Force of the tool on the part where the side force is greatest, in program coordinates (n, 3) [N]."""
        return -np.einsum("nij,ni->nj", self.engagement.frame, loads.at_peak)


def _turned_back(angle: Array, contact: NDArray[np.bool_]) -> list[int]:
    """Steps at which an axis turns back while the tool cuts."""
    out: list[int] = []
    turn = np.diff(angle)
    moving = np.flatnonzero(np.abs(turn) > 1e-9)
    if len(moving) < 2:
        return out
    sign = np.sign(turn[moving])
    ends = np.flatnonzero(np.diff(sign) != 0)
    corners = angle[np.concatenate(([moving[0]], moving[ends] + 1, [moving[-1] + 1]))]
    swings = np.abs(np.diff(corners))
    for number, k in enumerate(moving[ends + 1].tolist()):
        if swings[number] > _BACK and swings[number + 1] > _BACK and contact[k]:
            out.append(k)
    return out


def leaning_geometry(program: Program, work: Work, pulse: Pulse = STEADY) -> Leaning:
    """Takes a program of five axes through the stock."""
    moves, kinematics = program.moves, program.kinematics
    assert isinstance(moves, TiltedMoves) and kinematics is not None  # none but such a program comes here
    tool = tool_of_program(program, work)
    bounded_rapids(moves)
    poses = poses_of(moves, kinematics, bounded_look(moves, work.look.step_for(work.parts.tool.DC)))
    _inside_travels(program, poses, work)
    pulse.begin("stock")
    stock = work.stock.bricks(work.brick_cell, pulse)
    pulse.begin("simulating")
    frames: list[tuple[int, Bricks]] = [(0, stock.copy())]
    offsets = program.offsets
    remarks = [*program.remarks, *([work.stock.remark] if work.stock.remark else [])]
    if len(offsets) > 1:
        raise InputError(
            f"the program cuts at {len(offsets)} work offsets; beside rotary axes one zero is read, so post it for one",
            "stock",
        )

    def look(first: int, done: int) -> None:
        taken = sum(bricks.nbytes for _, bricks in frames)
        if taken + stock.nbytes < _MOST_LOOKS:
            frames.append((first + done, stock.copy()))

    of_tool, rings = moves.tool[poses.move], rings_of(work.outline)
    outlines = _outlines(work, tool, of_tool)
    parts: list[Met] = []
    borders = np.append(0, np.flatnonzero(np.diff(of_tool) != 0) + 1)
    after: Callable[[int], None] | None
    for first, last in zip(borders.tolist(), np.append(borders[1:], len(poses)).tolist(), strict=True):
        number, some = int(of_tool[first]), poses.part(slice(first, last))
        outline = outlines[number]
        if outline is None:
            remarks.append(f"T{number} is no tool of the job: its moves leave the stock as it is")
            parts.append(Met.empty(len(some), rings))
            continue
        body = work.solid if number == tool else np.zeros((0, 3))
        after = partial(look, first)
        parts.append(
            lean_through(stock, some, outline, body, pulse.after(first, len(poses)), after, looks=number == tool)
        )
    met = Met.joined(parts, rings)
    judged = (of_tool == tool) & (moves.kind[poses.move] != RAPID)
    findings = leaning_findings(program, work, poses, met, of_tool == tool)
    geometry = Leaning(program, work, poses, met, judged, stock, tuple(findings), tool, tuple(remarks), tuple(frames))
    refuse_air(geometry)
    return geometry


def _outlines(work: Work, tool: int, of_tool: NDArray[np.int64]) -> dict[int, Outline | None]:
    """Half sections of the tools of a program by T number, None where nobody knows one."""
    return {
        number: work.outline if number == tool else work.other_outline(number) for number in np.unique(of_tool).tolist()
    }


def _inside_travels(program: Program, poses: Poses, work: Work) -> None:
    """Refuses a program that spans more than a linear axis travels."""
    machine = work.parts.machine
    for axis, travel in enumerate((machine.travel_x_mm, machine.travel_y_mm, machine.travel_z_mm)):
        if travel is None or not len(poses):
            continue
        low = float(min(poses.linear_start[:, axis].min(), poses.linear_end[:, axis].min()))
        beyond = poses.linear_end[:, axis] > low + travel + 1e-6
        if beyond.any():
            line = int(program.moves.line[poses.move[beyond.argmax()]])
            raise InputError(
                f"line {line}: with its rotary axes the path spans more than the {travel:g} mm that {'XYZ'[axis]} of "
                f"{machine.name or 'the machine'} travels; choose another machine or check the numbers"
            )
