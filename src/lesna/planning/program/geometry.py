"""What a program meets, apart from its feeds: the steps, what is engaged on each, what is left, and what a feed does there."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, ClassVar, Protocol, Self

import numpy as np
from numpy.typing import NDArray

from lesna.geometry.motion import RAPID
from lesna.model.errors import InputError
from lesna.nc.locks import Freedom, freedom_of
from lesna.nc.program import Moves, Program
from lesna.nc.proof import aligned
from lesna.physics import Array
from lesna.physics.motion import Times
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.chatter.judge import measured_over_stepover
from lesna.planning.cut.limits import uses_over
from lesna.planning.cut.motion import LEAST_CHIP, motion_of
from lesna.planning.cut.setup import CutSetup, setup_of
from lesna.planning.cut.solve import State
from lesna.planning.program.places import Finding
from lesna.planning.program.work import Work
from lesna.stock.steps import RAPID_STEP, Steps

#: angles below which nothing is engaged [rad]
_NOTHING = 1e-4
#: steps that a program may make; a coarser look is taken before
MOST_STEPS = 3_000_000
#: depth over the whole cutter that cells may count where nothing is cut [mm]
_BRUSHED = 0.05
#: steps of the stepover over DC at which a measured chart is read
_LOOKUP = 1e-3
#: depth at which its lowest boundary is asked for [mm]
_SHALLOW = np.array([1e-3])


class MeetsNothing(InputError):
    """A program never comes to its stock."""


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


class Table(Protocol):
    """Forces of a cutter over feeds."""

    @property
    def nodes(self) -> Array:
        """Feeds per tooth in equal ratios, over all that will be asked for [mm]."""


@dataclass(frozen=True)
class Geometry(ABC):
    """What does not depend on the feeds: the steps, what they meet, the stock that is left.

    Attributes
    ----------
    program : Program
        What was read.
    work : Work
        What it is judged with.
    steps : Steps
        All steps, of every tool.
    engagement : Engagement or Met
        What they meet, upright or leaning: angle, depth and volume of each.
    judged : array (n,) of bool
        Steps of the judged tool at a feed.
    left : HeightMap or Bricks
        The stock at the end.
    findings : tuple of Finding
        What should not be touched.
    tool : int
        T number that is judged.
    remarks : tuple of str
        What was assumed.
    frames : tuple of (int, array or Bricks)
        The stock after so many steps, coarse where it is seen from above alone.
    """

    program: Program
    work: Work
    steps: Steps
    engagement: Any
    judged: NDArray[np.bool_]
    left: Any
    findings: tuple[Finding, ...]
    tool: int
    remarks: tuple[str, ...]
    frames: tuple[tuple[int, Any], ...] = ()

    @cached_property
    def contact(self) -> NDArray[np.bool_]:
        """Judged steps with material in contact."""
        return self.judged & (self.engagement.angle > _NOTHING)

    @cached_property
    def cuts(self) -> NDArray[np.bool_]:
        """Judged steps that cut: straight down nothing is engaged at the side, but the end cuts all the same."""
        return self.contact | (self.judged & (self.engagement.volume > 0))

    def time_of(self, times: Times) -> float:
        """Time of the whole program, its dwells included [s]."""
        return float(times.time.sum()) + 60.0 * self.program.dwell

    def cut_time_of(self, times: Times) -> float:
        """Time in which the judged tool cuts [s]."""
        return float(times.time[self.cuts].sum())

    @cached_property
    def freedom(self) -> Freedom:
        """What may be done to the moves of the program."""
        return freedom_of(self.program)

    def respelled(self, program: Program) -> Self:
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

    def push_down(self, fz: Array) -> Array:
        """Force along the axis of an end that goes down through material [N]: ``kc R f / 2``, f its fall a turn, as of a drill."""
        chip = self.fall * fz
        kc = self.setup.law.specific(np.maximum(chip, LEAST_CHIP))
        goes = self.judged & (self.engagement.volume > 0)
        return np.where(goes, 0.5 * kc * self.work.radius * chip * self.setup.cutter.teeth, 0.0)

    def uses_along(self, state: State) -> dict[str, Array]:
        """Use of every limit that a program has on its steps, 0 where nothing is met."""
        with np.errstate(divide="ignore", invalid="ignore"):
            uses = uses_over(self.setup, state, self.depth_of_chatter)
        uses.pop("chip_thickness_min", None)  # every entry and exit is thin for a moment; `rubs` tells what lasts
        for asked in ("feature_depth", "cusp"):  # a program goes as deep and lies its lines as far apart as it says
            uses.pop(asked, None)
        return {key: np.where(self.contact, use, 0.0) for key, use in uses.items()}

    def wanted_feed(self, asked: Array) -> Array:
        """Feeds [mm/min] as far as axes allow them."""
        return np.minimum(np.nan_to_num(asked), self.highest_feed)

    @property
    def spoken(self) -> Array:
        """Feed of the program on each step, 0 for rapids [mm/min]."""
        return np.nan_to_num(self.program.moves.feed[self.steps.move])

    # ------------------------------------------------------------ as the cutter stands

    #: the program that is offered is simulated again in cells so much smaller [-]
    FINER: ClassVar[float] = 1.0
    #: and its peak may lie so far over its target [-]
    OVER: ClassVar[float] = 1.005
    #: feeds are the least of so many steps to either side
    BLUR: ClassVar[int] = 0
    #: whether neighbouring blocks take one feed, being too short to have each its own
    JOINS: ClassVar[bool] = False

    @property
    @abstractmethod
    def stepover(self) -> Array:
        """Stepover that engages as much on a straight pass [mm]."""

    @property
    @abstractmethod
    def swept(self) -> Array:
        """Volume that the engaged angles take off on each step [mm3]: what is computed with, beside what the cells count."""

    @property
    @abstractmethod
    def level(self) -> NDArray[np.bool_]:
        """Judged steps on which the side of the edge takes all that goes."""

    @property
    @abstractmethod
    def fall(self) -> Array:
        """Share of its way by which the tool goes down along its axis [-]."""

    @property
    @abstractmethod
    def goes_down(self) -> NDArray[np.bool_]:
        """Steps that are fed as a way down through material."""

    @property
    @abstractmethod
    def plunges(self) -> NDArray[np.bool_]:
        """Steps that are not sped up in air, as on their way they may meet what nobody knows of."""

    @property
    @abstractmethod
    def highest_feed(self) -> Array:
        """Feed that the machine allows on each step [mm/min]."""

    @property
    @abstractmethod
    def most_written(self) -> Array:
        """Feed beyond which writing more would change nothing [mm/min]."""

    @abstractmethod
    def table_of(self, reach: tuple[float, float]) -> Any:
        """Tables of the forces over the feeds that a program can ask for, from so many times its least to so many times its greatest."""

    def tried_table_of(self, reach: tuple[float, float]) -> Any:
        """The same for whoever tries many feeds on these steps."""
        return self.table_of(reach)

    @abstractmethod
    def loads_at(self, table: Any, fz: Array) -> tuple[State, dict[str, Array]]:
        """What the cut does on every step at feeds per tooth [mm], and the use of every limit; nothing where nothing is met."""

    @abstractmethod
    def times_at(self, asked: Array) -> Times:
        """Speeds and times of all steps at feeds [mm/min]; rapids as fast as the axes go."""


def bounded_look(moves: Moves, longest: float) -> float:
    """Longest step with which a program makes no more steps than are held [mm]."""
    feed_length = float(moves.length[moves.is_feed].sum())
    return max(longest, feed_length / MOST_STEPS)


def bounded_rapids(moves: Moves) -> None:
    """Refuses rapids that make more steps than are held."""
    rapid = moves.kind == RAPID
    gone = np.cumsum(np.where(rapid, np.ceil(moves.length / RAPID_STEP), 0.0))
    over = np.flatnonzero(gone > MOST_STEPS)
    if len(over):
        raise InputError(
            f"line {int(moves.line[over[0]])}: up to here rapids go {float(moves.length[rapid].sum()) / 1e6:.0f} km; divide the program"
        )


def tool_of_program(program: Program, work: Work) -> int:
    """T number that is judged: the one that was named, else the only one."""
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


def refuse_air(geometry: Geometry) -> None:
    """Refuses a program that never comes to its stock."""
    counted = np.maximum(geometry.engagement.volume, geometry.swept)
    if counted[geometry.judged].sum() < _BRUSHED * np.pi * geometry.work.radius**2:
        raise MeetsNothing(_never_meets(geometry.program, geometry.work, geometry))


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
