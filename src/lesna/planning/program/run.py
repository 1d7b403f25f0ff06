"""One program through the stock: engagement, forces, every limit of the cut and the time, step by step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import LINE, RAPID
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.locks import Freedom, freedom_of
from lesna.nc.program import Moves, Program
from lesna.nc.proof import aligned
from lesna.physics import Array
from lesna.physics.edge.along import Along, along
from lesna.physics.edge.sweep import Sweep
from lesna.physics.motion import Times, times_in_runs
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.cut.axes import axes_of
from lesna.planning.cut.limits import uses_over
from lesna.planning.cut.motion import LEAST_CHIP, motion_of
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import State, state_along
from lesna.planning.program.places import Finding, findings_of, lasting
from lesna.planning.program.webs import Swept, made_by_passes, met_by_the_edge
from lesna.planning.program.work import Work
from lesna.stock.field import HeightMap, seen
from lesna.stock.steps import RAPID_STEP, Steps, steps_of
from lesna.stock.walk import Engagement, highest_within, walk

#: speeds nearer than this are one [-]
_SAME = 1e-9
#: steps that a program may make; a coarser look is taken before
_MOST_STEPS = 3_000_000
#: room above and below the feeds of a program in the tables of forces
_ROOM = 1.02
#: depth over the whole cutter that cells may count where nothing is cut [mm]
_BRUSHED = 0.05
#: angles below which nothing is engaged [rad]
_NOTHING = 1e-4


class MeetsNothing(InputError):
    """A program never comes to its stock."""


@dataclass(frozen=True)
class Geometry:
    """What does not depend on the feeds: the steps, what they meet, the stock that is left.

    Attributes
    ----------
    program : Program
        What was read.
    work : Work
        What it is judged with.
    steps : Steps
        All steps, of every tool.
    engagement : Engagement
        What they meet.
    judged : array (n,) of bool
        Steps of the judged tool at a feed.
    left : HeightMap
        The stock at the end.
    findings : tuple of Finding
        What should not be touched.
    tool : int
        T number that is judged.
    remarks : tuple of str
        What was assumed.
    frames : tuple of (int, array)
        The stock seen from above after so many steps, coarse: heights of rows of patches [mm].
    """

    program: Program
    work: Work
    steps: Steps
    engagement: Engagement
    judged: NDArray[np.bool_]
    left: HeightMap
    findings: tuple[Finding, ...]
    tool: int
    remarks: tuple[str, ...]
    frames: tuple[tuple[int, Array], ...] = ()

    @cached_property
    def contact(self) -> NDArray[np.bool_]:
        """Judged steps with material in contact."""
        return self.judged & (self.engagement.angle > _NOTHING)

    @cached_property
    def freedom(self) -> Freedom:
        """What may be done to the moves of the program."""
        return freedom_of(self.program)

    def respelled(self, program: Program) -> Geometry:
        """The same motion written otherwise: parted moves meet what the whole ones met, by the length along them.

        Raises
        ------
        InputError
            When the program does not go the same way.
        """
        firsts = aligned(self.program.moves, program.moves)
        counts = np.diff(np.append(firsts, len(program.moves)))
        if (counts == 1).all():
            return replace(self, program=program)
        whole = np.repeat(np.arange(len(counts)), counts)
        gone = np.cumsum(program.moves.length)
        before = np.append(0.0, gone)[firsts][whole]
        share = (gone - before) / np.maximum(
            (np.append(gone, gone[-1])[np.append(firsts[1:], len(gone)) - 1][whole] - before), 1e-12
        )
        steps = self.steps
        own = np.cumsum(steps.length)
        begins = np.append(0.0, own)[np.searchsorted(steps.move, np.arange(len(counts)))][steps.move]
        length = self.program.moves.length[steps.move]
        middle = steps.move + (own - 0.5 * steps.length - begins) / np.maximum(length, 1e-12)
        move = np.searchsorted(whole + share, middle, side="right")
        return replace(self, program=program, steps=replace(steps, move=np.minimum(move, len(gone) - 1)))

    @cached_property
    def n(self) -> Array:
        """Spindle speed of each step [1/min]; the cut's own where the program names none."""
        n = self.program.moves.rpm[self.steps.move]
        return np.where(n > 0, n, self.own_speed)

    @cached_property
    def own_speed(self) -> float:
        """Spindle speed of the cut itself [1/min]."""
        cut, DC = self.work.parts.cut, self.work.parts.tool.DC
        if cut.life_min_wanted is not None:
            return float(motion_of(setup_of(self.work.parts), np.float64(cut.ae_mm), np.float64(cut.ap_mm)).n)
        return float(cut.n_rpm or 1000.0 * (cut.vc_wanted or 100.0) / (np.pi * DC))

    @cached_property
    def setup(self) -> CutSetup:
        """The cut at the speed at which the program cuts most."""
        n = self.n[self.contact]
        if not len(n):
            return self.work.setup_at(self.own_speed)
        speeds, where = np.unique(n, return_inverse=True)
        return self.work.setup_at(float(speeds[np.bincount(where).argmax()]))

    @cached_property
    def depth_of_chatter(self) -> Array | None:
        """Depth at which each step would begin to chatter [mm]; None where nothing is known."""
        ae = self.stepover
        if self.setup.parts.cut.is_judged_by_modes:
            growth = measured_over_stepover(self.setup)
            if growth is None:
                return None
            fine = _LOOKUP * 2 * self.work.radius
            places, where = np.unique(np.maximum(np.round(ae[self.contact] / fine), 1.0), return_inverse=True)
            depths = np.array([float(growth.limits_at(float(place) * fine, _SHALLOW)[0]) for place in places])
            out = np.full(len(ae), np.inf)
            out[self.contact] = depths[where]
            return out
        found = estimated_depth(self.setup, np.maximum(ae, 1e-3))
        return None if found is None else np.asarray(found)

    @cached_property
    def stepover(self) -> Array:
        """Stepover that engages as much on a straight pass [mm]."""
        return self.engagement.stepover(self.work.body)


#: an edge rubs where its chip is too thin over so much of DC; every entry and exit is thin for a moment
_RUBS = 0.25
#: steps of the stepover over DC at which a measured chart is read
_LOOKUP = 1e-3
#: depth at which its lowest boundary is asked for [mm]
_SHALLOW = np.array([1e-3])


@dataclass(frozen=True)
class Run:
    """A program as it runs with its feeds.

    Attributes
    ----------
    geometry : Geometry
        What it meets.
    feed : array (n,)
        Feed that is asked for on each step [mm/min].
    fz : array (n,)
        Mean feed per tooth that is reached on each step [mm].
    state : State
        What the cut does on each step.
    uses : dict of str to array (n,)
        Use of every limit.
    times : Times
        Speeds and times of all steps.
    """

    geometry: Geometry
    feed: Array
    fz: Array
    state: State
    uses: dict[str, Array]
    times: Times

    @cached_property
    def end_time(self) -> Array:
        """Time at the end of each step [s]."""
        return np.cumsum(self.times.time)


def geometry_of(program: Program, work: Work, pulse: Pulse = STEADY) -> Geometry:
    """Takes a program through the stock."""
    moves = program.moves
    tool = _tool_of(program, work)
    _inside_machine(program, work)
    longest = work.look.step_for(work.parts.tool.DC)
    feed_length = float(moves.length[moves.is_feed].sum())
    if feed_length / longest > _MOST_STEPS:
        longest = feed_length / _MOST_STEPS
    _bounded(moves)
    steps = steps_of(moves, longest)
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
    geometry = Geometry(
        program, work, steps, engagement, judged, stock, tuple(findings), tool, tuple(remarks), tuple(frames)
    )
    counted = np.maximum(engagement.volume, engagement.swept(work.body, steps.length))
    if counted[judged].sum() < _BRUSHED * np.pi * work.radius**2:
        raise MeetsNothing(_never_meets(program, work, geometry))
    return geometry


def _bounded(moves: Moves) -> None:
    """Refuses rapids that make more steps than are held."""
    rapid = moves.kind == RAPID
    gone = np.cumsum(np.where(rapid, np.ceil(moves.length / RAPID_STEP), 0.0))
    over = np.flatnonzero(gone > _MOST_STEPS)
    if len(over):
        raise InputError(
            f"line {int(moves.line[over[0]])}: up to here rapids go {float(moves.length[rapid].sum()) / 1e6:.0f} km; divide the program"
        )


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


class SeveralTools(InputError):
    """A program has several tools and nobody has said which one the cut stands for.

    Parameters
    ----------
    tools : tuple of int
        Their T numbers.
    """

    def __init__(self, tools: tuple[int, ...]) -> None:
        super().__init__(
            f"the program moves {', '.join(f'T{tool}' for tool in tools)}; say for which T number the cut stands",
            "tool",
        )
        self.tools = tools


def _tool_of(program: Program, work: Work) -> int:
    tools = program.tools
    listed = ", ".join(f"T{t}" for t in tools)
    if work.tool is not None:
        if work.tool not in tools:
            raise InputError(f"T{work.tool} makes no feed move; the program's tools are {listed or 'none'}", "tool")
        return work.tool
    if not tools:
        raise InputError("line 1: the program makes no feed move; nothing can be judged")
    if len(tools) > 1:
        raise SeveralTools(tools)
    return tools[0]


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


def _never_meets(program: Program, work: Work, geometry: Geometry) -> str:
    at = geometry.steps.end[geometry.judged]
    span = ", ".join(
        f"{name} {a:.1f} to {b:.1f}" for name, a, b in zip("XYZ", at.min(axis=0), at.max(axis=0), strict=True)
    )
    stock = ", ".join(
        f"{name} {a:g} to {b:g}" for name, a, b in zip("XYZ", work.stock.low, work.stock.high, strict=True)
    )
    line = int(program.moves.line[geometry.steps.move[geometry.judged]][0])
    return f"line {line}: the path never meets the stock; it cuts at {span}, and {work.stock.told} is {stock} (mm)"


def run_of(
    geometry: Geometry, feed: Array | None = None, table: Along | None = None, reach: tuple[float, float] = (1.0, 1.0)
) -> Run:
    """The program with its feeds, or with others that a table of forces covers."""
    moves, steps = geometry.program.moves, geometry.steps
    asked = moves.feed[steps.move] if feed is None else feed
    timed = times_at(geometry, asked)
    reached = 60.0 * timed.peak
    fz = np.where(geometry.judged, reached / (geometry.n * geometry.setup.cutter.teeth), 0.0)
    state, uses = loads_at(geometry, table or table_of(geometry, reach), fz)
    thrust = geometry.setup.structure.thrust
    if thrust:
        uses["axis_thrust"] = np.maximum(uses.get("axis_thrust", np.zeros(len(fz))), push_down(geometry, fz) / thrust)
    uses["machine_feed"] = np.where(geometry.judged, np.nan_to_num(asked) / highest_feed(geometry), 0.0)
    return Run(geometry, asked, fz, state, uses, timed)


def push_down(geometry: Geometry, fz: Array) -> Array:
    """Force along the axis with which a cutter's end goes down through material [N]: ``kc R f / 2``, f its fall a turn, as of a drill."""
    steps = geometry.steps
    fall = np.maximum(steps.start[:, 2] - steps.end[:, 2], 0.0) / np.maximum(steps.length, 1e-12)
    chip = fall * fz
    kc = geometry.setup.law.specific(np.maximum(chip, LEAST_CHIP))
    goes = geometry.judged & (geometry.engagement.volume > 0)
    return np.where(goes, 0.5 * kc * geometry.work.radius * chip * geometry.setup.cutter.teeth, 0.0)


def table_of(geometry: Geometry, reach: tuple[float, float]) -> Along:
    """Tables of the forces over the feeds that a program can ask for."""
    contact, setup = geometry.contact, geometry.setup
    teeth = setup.cutter.teeth
    asked = geometry.program.moves.feed[geometry.steps.move] / (geometry.n * teeth)
    fz = asked[contact] if contact.any() else np.array([0.05])
    deepest = float(geometry.engagement.depth[contact].max()) if contact.any() else setup.parts.cut.ap_mm
    return along(
        setup.cutter, setup.law, deepest, (float(fz.min()) * reach[0] / _ROOM, float(fz.max()) * reach[1] * _ROOM)
    )


def loads_at(geometry: Geometry, table: Along, fz: Array) -> tuple[State, dict[str, Array]]:
    """What the cut does on every step at feeds per tooth [mm], and the use of every limit; nothing where nothing is met."""
    counts = np.where(geometry.contact, geometry.engagement.counts, 0)
    loads = table.loads(counts, geometry.engagement.found, fz, by_radius=geometry.work.body.foot <= 0)
    depth = np.maximum(geometry.engagement.depth, 1e-6)
    sums = Sweep(loads.fxy_peak, loads.fx, loads.fy, 0.0 * loads.fx, loads.axial_max, loads.axial_min, loads.torque,
                 loads.torque_peak, np.maximum(loads.height, 1e-6))  # fmt: skip
    state = state_along(
        geometry.setup, np.maximum(geometry.stepover, 1e-9), depth, geometry.n, np.maximum(fz, 1e-9), sums, loads.hex
    )
    with np.errstate(divide="ignore", invalid="ignore"):
        uses = uses_over(geometry.setup, state, geometry.depth_of_chatter)
    uses.pop("chip_thickness_min", None)  # every entry and exit is thin for a moment; `rubs` tells what lasts
    for asked in ("feature_depth", "cusp"):  # a program goes as deep and lies its lines as far apart as it says
        uses.pop(asked, None)
    return state, {key: np.where(geometry.contact, use, 0.0) for key, use in uses.items()}


def times_at(geometry: Geometry, asked: Array) -> Times:
    """Speeds and times of all steps at feeds [mm/min]; rapids as fast as the axes go."""
    axes = axes_of(geometry.work.parts.machine, geometry.work.look.tolerance)
    moves, steps = geometry.program.moves, geometry.steps
    kind = moves.kind[steps.move]
    chord = steps.end - steps.start
    direction = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-12)[:, None]
    is_rapid = kind == RAPID
    rapid = _along(direction, axes.rapid)
    wanted = np.where(is_rapid, rapid, np.minimum(np.nan_to_num(asked), highest_feed(geometry)) / 60.0)
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
    return times_in_runs(begins, steps.length, wanted, enter, leave, steps.joined, radius, axes)


def _along(direction: Array, speeds: Array) -> Array:
    """Speed along directions (n, 3) at which no axis is faster than it may be (3,)."""
    return np.asarray((speeds / np.maximum(np.abs(direction), 1e-9)).min(axis=1))


def highest_feed(geometry: Geometry) -> Array:
    """Feed that the machine allows on each step [mm/min]: along the path, and by the share that each axis has of it."""
    axes, steps = axes_of(geometry.work.parts.machine, geometry.work.look.tolerance), geometry.steps
    chord = steps.end - steps.start
    direction = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-12)[:, None]
    return 60.0 * np.minimum(_along(direction, axes.feed_by_axis), axes.feed_max)


def rubs(run: Run) -> NDArray[np.bool_]:
    """Steps on which the chip stays thinner than the edge needs over a stretch worth telling."""
    g = run.geometry
    least = g.setup.chip.least or 0.0
    return lasting(g.contact & (run.state.hex < least), g.steps.length, _RUBS * 2 * g.work.radius)


def held_feed(geometry: Geometry) -> float | None:
    """The feed that this geometry lets the machine hold while it cuts [mm/min]: reached or passed on nine tenths of the way."""
    contact = geometry.contact
    if not contact.any():
        return None
    peak = 60.0 * times_at(geometry, highest_feed(geometry)).peak[contact]
    length = geometry.steps.length[contact]
    order = np.argsort(peak)
    share = np.cumsum(length[order]) / length.sum()
    return float(peak[order][np.searchsorted(share, 0.1)])
