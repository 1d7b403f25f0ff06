"""A program of three axes through the height map: what it meets, what it touches, its forces and its time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import LINE, RAPID
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Moves, Program
from lesna.physics import Array
from lesna.physics.edge.along import Along, LoadsAtFeeds, along
from lesna.physics.edge.sweep import Sweep
from lesna.physics.motion import Straight, Times, times_in_runs
from lesna.planning.cut.axes import axes_of
from lesna.planning.cut.solve import State, state_along, upright_contact
from lesna.planning.program.geometry import Geometry, bounded_look, bounded_rapids, refuse_air, tool_of_program
from lesna.planning.program.places import Finding, findings_of
from lesna.planning.program.webs import Swept, made_by_passes, met_by_the_edge
from lesna.planning.program.work import Work
from lesna.stock.field import HeightMap, seen
from lesna.stock.steps import Steps, steps_of
from lesna.stock.walk import Engagement, highest_within, walk

#: speeds nearer than this are one [-]
_SAME = 1e-9
#: room above and below the feeds of a program in the tables of forces
_ROOM = 1.02


class Upright(Geometry):
    """A cutter that stands upright in a height map."""

    engagement: Engagement
    left: HeightMap

    @cached_property
    def stepover(self) -> Array:
        return self.engagement.stepover(self.work.body)

    @cached_property
    def swept(self) -> Array:
        flat = np.linalg.norm((self.steps.end - self.steps.start)[:, :2], axis=1)
        return self.engagement.swept(self.work.body, flat)

    @property
    def level(self) -> NDArray[np.bool_]:
        # where a tool also goes down it cuts with its end, which angles do not tell
        return self.judged & (np.abs(self.steps.end[:, 2] - self.steps.start[:, 2]) < 1e-9)

    @property
    def fall(self) -> Array:
        steps = self.steps
        return np.maximum(steps.start[:, 2] - steps.end[:, 2], 0.0) / np.maximum(steps.length, 1e-12)

    @property
    def goes_down(self) -> NDArray[np.bool_]:
        return self.steps.end[:, 2] < self.steps.start[:, 2] - 1e-9

    @property
    def plunges(self) -> NDArray[np.bool_]:
        return np.abs(self.steps.end[:, 2] - self.steps.start[:, 2]) > 1e-9

    @cached_property
    def highest_feed(self) -> Array:
        """Feed that the machine allows on each step [mm/min]: along the path, and by the share that each axis has of it."""
        axes, steps = axes_of(self.work.parts.machine, self.work.look.tolerance), self.steps
        chord = steps.end - steps.start
        direction = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-12)[:, None]
        return 60.0 * np.minimum(_along(direction, axes.feed_by_axis), axes.feed_max)

    @property
    def most_written(self) -> Array:
        return self.highest_feed

    def table_of(self, reach: tuple[float, float]) -> Along:
        """Tables of the forces over the feeds that a program can ask for."""
        contact, setup = self.contact, self.setup
        teeth = setup.cutter.teeth
        asked = self.spoken / (self.n * teeth)
        fz = asked[contact] if contact.any() else np.array([0.05])
        deepest = float(self.engagement.depth[contact].max()) if contact.any() else setup.parts.cut.ap_mm
        return along(
            setup.cutter, setup.law, deepest, (float(fz.min()) * reach[0] / _ROOM, float(fz.max()) * reach[1] * _ROOM)
        )

    def tried_table_of(self, reach: tuple[float, float]) -> LoadsAtFeeds:
        return self.table_of(reach).at_nodes(self._counts, self.engagement.found, by_radius=self._by_radius)

    @property
    def _counts(self) -> NDArray[np.int64]:
        return np.where(self.contact, self.engagement.counts, 0)

    @property
    def _by_radius(self) -> bool:
        return self.work.body.foot <= 0

    def loads_at(self, table: Along | LoadsAtFeeds, fz: Array) -> tuple[State, dict[str, Array]]:
        """What the cut does on every step at feeds per tooth [mm], and the use of every limit; nothing where nothing is met."""
        if isinstance(table, LoadsAtFeeds):
            loads = table.loads(fz)
        else:
            loads = table.loads(self._counts, self.engagement.found, fz, by_radius=self._by_radius)
        depth = np.maximum(self.engagement.depth, 1e-6)
        sums = Sweep(loads.fxy_peak, loads.fx, loads.fy, 0.0 * loads.fx, loads.axial_max, loads.axial_min, loads.torque,
                     loads.torque_peak, np.maximum(loads.height, 1e-6))  # fmt: skip
        seen_now = upright_contact(self.setup, np.maximum(self.stepover, 1e-9), depth)
        state = state_along(self.setup, seen_now, self.n, np.maximum(fz, 1e-9), sums, loads.hex)
        return state, self.uses_along(state)

    def times_at(self, asked: Array) -> Times:
        """Speeds and times of all steps at feeds [mm/min]; rapids as fast as the axes go."""
        axes = axes_of(self.work.parts.machine, self.work.look.tolerance)
        moves, steps = self.program.moves, self.steps
        kind = moves.kind[steps.move]
        chord = steps.end - steps.start
        direction = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-12)[:, None]
        is_rapid = kind == RAPID
        rapid = _along(direction, axes.rapid)
        wanted = np.where(is_rapid, rapid, self.wanted_feed(asked) / 60.0)
        # a control takes so many blocks a second; a block is a move, however finely it is looked at
        wanted = np.minimum(wanted, axes.blocks * moves.length[steps.move])
        arc = kind > LINE
        enter, leave = direction.copy(), direction.copy()
        flat = np.linalg.norm(steps.heading, axis=1) > 0
        rise = np.where(arc, chord[:, 2] / np.maximum(steps.length, 1e-12), 0.0)
        bent = arc & flat
        leave[bent, :2] = steps.heading[bent] * np.sqrt(1 - np.minimum(rise[bent] ** 2, 1.0))[:, None]
        same = bent[1:] & bent[:-1] & (steps.move[1:] == steps.move[:-1])
        enter[1:][same] = leave[:-1][same]
        first = bent & np.append(True, steps.move[1:] != steps.move[:-1])
        if first.any():
            enter[first] = moves.direction(steps.move[first], np.zeros(int(first.sum())))
        turn = np.abs(moves.sweep[steps.move])
        radius = np.where(arc, moves.length[steps.move] / np.maximum(turn, 1e-12), np.inf)
        # a move is run as a whole, however finely it is looked at; where a feed is to change it is one no more
        begins = np.append(
            True, (np.diff(steps.move) != 0) | (np.abs(np.diff(wanted)) > _SAME * wanted[1:]) | ~steps.joined[1:]
        )
        return times_in_runs(
            begins, steps.length, wanted, Straight(enter, leave, steps.joined, radius, axes), axes.jerk
        )


def _along(direction: Array, speeds: Array) -> Array:
    """Speed along directions (n, 3) at which no axis is faster than it may be (3,)."""
    return np.asarray((speeds / np.maximum(np.abs(direction), 1e-9)).min(axis=1))


def upright_geometry(program: Program, work: Work, pulse: Pulse = STEADY) -> Upright:
    """Takes a program through the stock."""
    moves = program.moves
    tool = tool_of_program(program, work)
    _inside_machine(program, work)
    longest = work.look.step_for(work.parts.tool.DC)
    bounded_rapids(moves)
    steps = steps_of(moves, bounded_look(moves, longest))
    stock = work.stock.height_map(work.cell)
    whole = stock.copy()
    findings: list[Finding] = []
    remarks = [*program.remarks, *([work.stock.remark] if work.stock.remark else [])]
    frames: list[tuple[int, Array]] = [(0, seen(stock))]

    def look(first: int) -> Callable[[int], None]:
        return lambda done: frames.append((first + done, seen(stock)))

    parts, of_tool = [], moves.tool[steps.move]
    zeros = moves.offset[steps.move]
    places = _stock_of_zeros(program, work, stock, remarks)
    borders = np.append(0, np.flatnonzero((np.diff(of_tool) != 0) | (np.diff(zeros) != 0)) + 1)
    for first, last in zip(borders.tolist(), np.append(borders[1:], len(steps)).tolist(), strict=True):
        number = int(of_tool[first])
        some, here = steps.part(slice(first, last)), places.get(float(zeros[first]))
        body = work.body if number == tool else work.others.get(number)
        if body is None:
            remarks.append(f"T{number} is no tool of the job: its moves leave the stock as it is")
        if body is None or here is None:
            parts.append(Engagement.empty(len(some)))
            continue
        met = walk(here, some, body, pulse.after(first, len(steps)), look(first))
        if number == tool:
            found = findings_of(program, work, some, met, _holder(work, here, some))
            findings += [replace(finding, step=finding.step + first) for finding in found]
        parts.append(met)
    engagement = Engagement.joined(parts)
    findings += _webs(work, whole, steps, engagement, zeros == (program.offsets or (54.0,))[0], moves, tool)
    findings.sort(key=lambda finding: finding.step)
    judged = (of_tool == tool) & (moves.kind[steps.move] != RAPID) & np.isin(zeros, list(places))
    geometry = Upright(
        program, work, steps, engagement, judged, stock, tuple(findings), tool, tuple(remarks), tuple(frames)
    )
    refuse_air(geometry)
    return geometry


def _webs(
    work: Work, stock: HeightMap, steps: Steps, met: Engagement, here: NDArray[np.bool_], moves: Moves, tool: int
) -> list[Finding]:
    """Thin webs at the first zero: those that the edge meets, and those that stand at the end."""
    bodies = {**work.others, tool: work.body}
    of_tool, rapid = moves.tool[steps.move], moves.kind[steps.move] == RAPID
    cuts = here & np.isin(of_tool, list(bodies)) & (steps.end[:, 2] < stock.top)
    swept = Swept(stock, steps, bodies, of_tool, cuts, has_sides=work.stock.is_given)
    judged, radius = here & ~rapid & (of_tool == tool), float(work.body.radius_at(np.array([1.0]))[0])
    limit = work.look.sliver * work.parts.tool.DC
    if limit <= 0:
        return []
    found = made_by_passes(swept, steps, met, limit, radius, judged)
    if not found and work.stock.has_shape:
        found = met_by_the_edge(swept, steps, met, radius, limit, judged)
    return [
        Finding("sliver", int(moves.line[steps.move[web.step]]), web.place, web.thickness, web.step) for web in found
    ]


def _stock_of_zeros(program: Program, work: Work, stock: HeightMap, remarks: list[str]) -> dict[float, HeightMap]:
    """The stock that stands at each work offset: the program's first has the stock of the cut, others what was given for them."""
    offsets = program.offsets
    given = {offset: other.height_map(work.cell) for offset, other in work.stock.others}
    places = {offsets[0] if offsets else 54.0: stock, **given}
    without = [offset for offset in offsets if offset not in places]
    if without:
        named = ", ".join(f"G{offset:g}" for offset in without)
        remarks.append(
            f"{named}: the stock at this zero is not known, so its moves are neither simulated nor levelled; "
            f"give it as G{without[0]:g}=block:X0,Y0,Z0,X1,Y1,Z1"
        )
    return places


def _holder(work: Work, stock: HeightMap, steps: Steps) -> Array:
    """How far the stock that is left stands above the holder's face at each step [mm]."""
    places = steps.end + np.array([0.0, 0.0, work.parts.cut.stick_out_mm])
    low = places[:, 2] < stock.top
    out = np.zeros(len(steps))
    if low.any():
        out[low] = highest_within(stock, places[low], work.holder_radius)
    return out


def _inside_machine(program: Program, work: Work) -> None:
    machine, moves = work.parts.machine, program.moves
    for axis, travel in enumerate((machine.travel_x_mm, machine.travel_y_mm, machine.travel_z_mm)):
        if travel is None or not len(moves):
            continue
        beyond = np.zeros(len(moves), dtype=bool)
        for offset in np.unique(moves.offset).tolist():
            here = moves.offset == offset
            low = float(min(moves.start[here, axis].min(), moves.end[here, axis].min()))
            beyond |= here & (moves.end[:, axis] > low + travel + 1e-6)
        if beyond.any():
            raise InputError(
                f"line {int(moves.line[beyond.argmax()])}: the path spans more than the {travel:g} mm that {'XYZ'[axis]} of "
                f"{machine.name or 'the machine'} travels; choose another machine or check the numbers"
            )
