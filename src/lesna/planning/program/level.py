"""Feeds levelled along a program: as fast everywhere as a target allows, never beyond what the cut's limits hold.

For each step the greatest feed is found at which side force, power, deflection, chip and every limit of the cut keep to the
target: all of them rise with the feed. Steps are joined to pieces of blocks that a control can run, neighbouring feeds differ by
no more than the machine can accelerate. What is met does not depend on the feed, so trials keep it by the length along the path; the
program that is written is read back, proved to be the same but for its feeds, and simulated again before it is offered.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import minimum_filter1d

from lesna.geometry.motion import RAPID
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.respelled import Piece
from lesna.nc.write import written
from lesna.physics import Array
from lesna.planning.cut.axes import axes_of
from lesna.planning.cut.limits import BY_ID
from lesna.planning.program.geometry import Geometry
from lesna.planning.program.over_feed import OverFeed
from lesna.planning.program.pieces import ALIKE, disagreed, joined, resolution, rounded
from lesna.planning.program.run import Run, geometry_of, rubs, run_of
from lesna.planning.program.simulate import simulate

Aim = Literal["ease", "even", "push"]
AIMS: dict[Aim, str] = {
    "ease": "the same time, peaks well down", "even": "peaks down and valleys up", "push": "everywhere up to the peak it had",
}  # fmt: skip

#: halvings that find the force of an aim
_FORCES = 12
#: limits that a feed can change
_BY_FEED = ("spindle_power", "spindle_torque", "deflection", "tool_stress", "tool_torsion", "grip", "taper_bending",
            "part_clamping", "chip_thickness_max", "chip_space")  # fmt: skip
#: a result may lie so far over its target when it is simulated again
OVER = 1.005
#: how often feeds are eased where the simulated result lies over its target
_TRIALS = 16
#: a target that was exceeded is taken back by this much more
_BACK = 0.995
#: push stays by this under the peak that the program had: two tables of forces agree to half of it
_UNDER = 0.999
#: two tables of forces agree so far
_NOISE = 1.0005
#: ease ends in the same time as before, or a little sooner
_SAME_TIME = 0.98
#: on the way down through material a tool is fed at most at this share of the feed of a level cut
_DOWN = 0.5
#: way before material over DC in which a feed that was raised in air is back
_BEFORE = 0.25


@dataclass(frozen=True)
class Targets:
    """What levelled feeds keep to.

    Attributes
    ----------
    aim : str
        Which force is aimed at.
    peak : float or None
        Side force at its peak instead of the aim's own [N].
    power, deflection : float or None
        Power at the cutter [kW] and deflection [um] that are not exceeded.
    chip : tuple of float or None
        Least and greatest thickest chip [mm] instead of those of the tables.
    ceiling : float
        Greatest feed over the programmed one [-].
    least : float
        Least feed over the programmed one [-].
    entry : float
        Feed where material is met first, over what is allowed there [-].
    by_block : bool
        One feed for each block instead of parting blocks.
    block_time : float
        Shortest piece of a parted block [s].
    note : bool
        Whether a comment at the top tells what was done.
    """

    aim: Aim = "push"
    peak: float | None = None
    power: float | None = None
    deflection: float | None = None
    chip: tuple[float, float] | None = None
    ceiling: float = 2.0
    least: float = 0.25
    entry: float = 1.0
    by_block: bool = False
    block_time: float = 0.03
    note: bool = True

    def __post_init__(self) -> None:
        """Refuses what means nothing."""
        for name, low, high in (
            ("ceiling", 1.0, 10.0),
            ("least", 0.01, 1.0),
            ("entry", 0.1, 1.0),
            ("block_time", 0.005, 1.0),
        ):
            value = getattr(self, name)
            if not low <= value <= high:
                raise InputError(f"must lie in the range {low:g} to {high:g}, got {value:g}", name)
        for name in ("peak", "power", "deflection"):
            value = getattr(self, name)
            if value is not None and not (np.isfinite(value) and value > 0):
                raise InputError(f"must be above 0, got {value:g}", name)
        if self.chip is not None and not 0 < self.chip[0] < self.chip[1]:
            raise InputError("needs a least chip below a greatest one", "chip")


@dataclass(frozen=True)
class Levelled:
    """A program with levelled feeds, simulated again.

    Attributes
    ----------
    content : bytes
        The file.
    run : Run
        The simulation of the file.
    force : float
        Side force that was aimed at [N].
    unreachable : array of int
        Lines at which the target asks for less than the least feed.
    rubbing : array of int
        Lines at which the chip lies below the least that cuts.
    changed : int
        Feed words that were changed or put in.
    kept : array of int
        Lines that were cut and could not be levelled: skipped blocks, what several calls ask for differently, and their neighbours.
    """

    content: bytes
    run: Run
    force: float
    unreachable: NDArray[np.int64]
    rubbing: NDArray[np.int64]
    changed: int
    kept: NDArray[np.int64]


@dataclass(frozen=True)
class _Text:
    """A program that was written, and its simulation."""

    content: bytes
    run: Run


@dataclass
class Leveller:
    """Levels the feeds of one program; what does not depend on the target is computed once."""

    before: Run
    pulse: Pulse = STEADY
    _known: dict[float, OverFeed] = field(default_factory=dict)
    _tables: dict[float, Any] = field(default_factory=dict)

    @property
    def geometry(self) -> Geometry:
        """What the program meets."""
        return self.before.geometry

    def level(self, targets: Targets) -> Levelled:
        """The program with other feeds."""
        geometry = self.geometry
        if not geometry.contact.any():
            line = int(geometry.program.moves.line[geometry.steps.move[geometry.judged]][0])
            raise InputError(
                f"line {line}: nothing is cut along the path, only straight down; there is no feed to level"
            )
        force = targets.peak if targets.peak is not None else self.force_of(targets)
        lowest = self._least_possible(targets)
        if targets.peak is not None and force < lowest[0]:
            raise InputError(
                f"must be at least {lowest[0]:.0f} N: at line {lowest[1]} the edges need that much at the least feed that still cuts",
                "peak",
            )
        eased = np.ones(len(self.geometry.steps))
        most = OVER * force
        if targets.aim == "push" and targets.peak is None:
            most = min(most, _NOISE * self._peak(self.before))
        table, over = self._table(targets), np.ones(1)
        for _ in range(_TRIALS):
            feed, floor = self.feeds(targets, force * eased)
            pieces, stepped = self.blocks(targets, feed)
            run = run_of(geometry, stepped, table)
            over = np.maximum(self._over(run, targets, most, floor), self._over_limits(run, floor))
            if over.max() <= 1.0:
                made = self._written(targets, pieces, force)
                # in smaller cells places lie where they are, and peaks may stand out a little
                over = self._over(made.run, targets, most * geometry.OVER / OVER, floor)
                if over.max() <= 1.0:
                    return self._made(made, force, floor, len(pieces))
                run = made.run
            self._ease(eased, run, over)
        raise InputError(
            f"the levelled program would exceed its target of {force:.0f} N by {over.max() - 1:.1%}; nothing is written"
        )

    def _written(self, targets: Targets, pieces: dict[int, list[Piece]], force: float) -> _Text:
        """The program with its new feeds, as a control reads it."""
        work = self.geometry.work
        content = written(self.geometry.program, pieces, self._header(targets, force) if targets.note else ())
        pulse = self.pulse.within(f"levelled, {targets.aim}")
        run = simulate(
            content,
            work.parts,
            work.stock,
            work.look,
            work.others,
            tool=work.tool,
            pulse=pulse,
            reach=(0.5, 2.0),
            known=self._fine,
        )
        return _Text(content, run)

    @cached_property
    def _fine(self) -> Run | None:
        """The program itself in smaller cells, where what is offered is to be looked at so; its motion is that of every levelled form."""
        geometry = self.geometry
        if geometry.FINER == 1.0:
            return None
        look = replace(geometry.work.look, cell=geometry.left.cell * geometry.FINER)
        return run_of(
            geometry_of(geometry.program, replace(geometry.work, look=look), self.pulse.within("a finer look"))
        )

    def _peak(self, run: Run) -> float:
        return float(run.state.fxy_peak[run.geometry.contact].max())

    def _ease(self, eased: Array, run: Run, over: Array) -> None:
        """Takes the target back where the simulated result lies over it; both programs run the same way."""
        ends, held = np.cumsum(self.geometry.steps.length), eased.copy()
        new = np.cumsum(run.geometry.steps.length)
        for k in np.flatnonzero(over > 1.0).tolist():
            begin = max(int(np.searchsorted(ends, new[k] - run.geometry.steps.length[k], side="right")) - 1, 0)
            here = slice(begin, int(np.searchsorted(ends, new[k])) + 2)
            eased[here] = np.minimum(eased[here], held[here] * _BACK / over[k])

    def force_of(self, targets: Targets) -> float:
        """Side force that an aim asks for [N]: push the peak that the program survived, ease what takes as long as before."""
        contact = self.geometry.contact
        survived = float(_steady(self.before.state.fxy_peak)[contact].max())
        if targets.aim == "push":
            return _UNDER * survived
        eased = self._least_force(targets, survived)
        return eased if targets.aim == "ease" else 0.5 * (eased + survived)

    def _least_force(self, targets: Targets, survived: float) -> float:
        """The least side force with which the program takes no longer than before [N]."""
        whole = float(self.before.times.time.sum())
        low, high = 0.2 * survived, survived
        for _ in range(_FORCES):
            middle = 0.5 * (low + high)
            feed, _ = self.feeds(targets, middle)
            if self.geometry.times_at(self.blocks(targets, feed)[1]).time.sum() <= _SAME_TIME * whole:
                high = middle
            else:
                low = middle
        return high

    # ------------------------------------------------------------ the feed of each step

    def feeds(self, targets: Targets, force: float | Array) -> tuple[Array, NDArray[np.bool_]]:
        """Feed of every step [mm/min], and where the target asks for less than is allowed."""
        geometry, over = self.geometry, self._over_feed(targets)
        contact = geometry.contact
        program = geometry.spoken
        per_tooth = geometry.n * geometry.setup.cutter.teeth
        # what the axes do not reach is not written, where the program has not asked for it
        most = np.maximum(geometry.most_written, np.minimum(program, geometry.highest_feed))
        high = np.minimum(targets.ceiling * program, most)
        low = np.minimum(targets.least * program, high)
        here = force[contact] if isinstance(force, np.ndarray) else force
        held = over.most(over.limits, 1.0)
        fz = np.minimum(over.most(over.force, here), held)
        # a limit of the cut comes before the least feed, where a feed that still cuts holds it
        holds = held >= self._cutting(targets)
        low[contact] = np.where(holds, np.minimum(low[contact], held * per_tooth[contact]), low[contact])
        if targets.power is not None:
            fz = np.minimum(fz, over.most(over.power, targets.power))
        if targets.deflection is not None:
            fz = np.minimum(fz, over.most(over.deflection, targets.deflection))
        if targets.chip is not None:
            fz = np.minimum(fz, over.most(over.chip, targets.chip[1]))
        # depth decides chatter, not the feed: where it is exceeded nothing is raised
        fz = np.where(over.chatters, np.minimum(fz, self.before.fz[contact]), fz)
        found = np.where(contact, 0.0, program)
        found[contact] = fz * per_tooth[contact]
        down = contact & geometry.goes_down
        found[down] = np.minimum(_DOWN * found[down], program[down])
        floor = contact & (found < low * (1 - 1e-9))
        feed = np.where(contact, np.clip(found, low, high), program)
        if geometry.BLUR:
            beside = minimum_filter1d(np.where(contact, feed, np.inf), 2 * geometry.BLUR + 1, mode="nearest")
            feed = np.where(contact, beside, feed)
        feed = self._not_rubbing(targets, feed, program)
        return self._outside_contact(targets, feed, program, most), floor

    def _not_rubbing(self, targets: Targets, feed: Array, program: Array) -> Array:
        """Feeds that slowing would make rub stay at what still cuts; what rubbed before is not slowed."""
        geometry = self.geometry
        contact = geometry.contact
        cuts = self._cutting(targets) * (geometry.n * geometry.setup.cutter.teeth)[contact]
        out = feed.copy()
        out[contact] = np.maximum(feed[contact], np.minimum(program[contact], cuts))
        return out

    def _cutting(self, targets: Targets) -> Array:
        """Feed per tooth from which the chip of each step in contact is thick enough to be cut [mm]."""
        over = self._over_feed(targets)
        return over.most(over.chip, targets.chip[0] if targets.chip else self.geometry.setup.chip.least or 0.0)

    def _over_feed(self, targets: Targets) -> OverFeed:
        """What each step in contact does over the feed, computed once for each ceiling."""
        if targets.ceiling not in self._known:
            self._known[targets.ceiling] = self._computed(self._table(targets))
        return self._known[targets.ceiling]

    def _table(self, targets: Targets) -> Any:
        """Tables of the forces over every feed that the ceiling allows, computed once for each."""
        if targets.ceiling not in self._tables:
            self._tables[targets.ceiling] = self.geometry.tried_table_of((0.02, targets.ceiling))
        return self._tables[targets.ceiling]

    def _computed(self, table: Any) -> OverFeed:
        contact = self.geometry.contact
        rows: list[tuple[Array, ...]] = []
        stability = np.zeros(int(contact.sum()))
        self.pulse.begin("levelling")
        for number, node in enumerate(table.nodes.tolist()):
            self.pulse.tell(number, len(table.nodes))
            state, uses = self.geometry.loads_at(table, np.full(len(contact), node))
            shares = [uses[key] for key in _BY_FEED if key in uses and not BY_ID[key].is_capped]
            limits = np.max(shares, axis=0) if shares else np.zeros(len(contact))
            rows.append(
                tuple(
                    values[contact] for values in (state.fxy_peak, limits, state.power_cut, state.deflection, state.hex)
                )
            )
            if "stability" in uses:
                stability = uses["stability"][contact]
        force, limits, power, deflection, chip = (np.stack(values) for values in zip(*rows, strict=True))
        return OverFeed(table.nodes, force, limits, power, deflection, chip, stability > 1.0)

    def _outside_contact(self, targets: Targets, feed: Array, program: Array, most: Array) -> Array:
        """Feeds in air, before material, and where a tool goes straight down."""
        geometry = self.geometry
        steps, judged, contact = geometry.steps, geometry.judged, geometry.contact
        moved = np.cumsum(steps.length)
        near = np.zeros(len(feed), dtype=bool)
        first = contact & ~np.append(False, contact[:-1])
        for k in np.flatnonzero(first).tolist():
            begin = int(np.searchsorted(moved, moved[k] - steps.length[k] - _BEFORE * 2 * geometry.work.radius))
            near[begin:k] = True
            if targets.entry < 1.0:
                end = int(np.searchsorted(moved, moved[k] + geometry.work.radius))
                feed[k:end] = np.where(contact[k:end], feed[k:end] * targets.entry, feed[k:end])
        air = judged & ~contact & ~near & (geometry.engagement.volume <= 0)
        air &= ~geometry.plunges
        feed = np.where(air, np.minimum(targets.ceiling * program, most), feed)
        keep = judged & ~contact & ~air
        feed = np.where(keep | (judged & ~geometry.freedom.feed[steps.move]), program, feed)
        return np.where(judged, feed, program)

    def _least_possible(self, targets: Targets) -> tuple[float, int]:
        """The greatest side force that is left at the least feeds that still cut [N], and its line."""
        geometry, over = self.geometry, self._over_feed(targets)
        program = geometry.spoken
        feed = self._not_rubbing(targets, targets.least * program, program)
        fz = (feed / (geometry.n * geometry.setup.cutter.teeth))[geometry.contact]
        force = over.at(over.force, fz)
        worst = int(force.argmax())
        row = int(np.flatnonzero(geometry.contact)[worst])
        return float(force[worst]), int(geometry.program.moves.line[geometry.steps.move[row]])

    # ------------------------------------------------------------ blocks

    def blocks(self, targets: Targets, feed: Array) -> tuple[dict[int, list[Piece]], Array]:
        """Feeds of the moves, parted where it is worth it, and what that makes of the feed of each step [mm/min].

        Moves that keep their feed are not named.
        """
        geometry = self.geometry
        steps, moves = geometry.steps, geometry.program.moves
        feed, stepped = self._smooth(feed), feed.copy()
        freedom = geometry.freedom
        rows = np.flatnonzero(geometry.judged & freedom.feed[steps.move])
        if not len(rows):
            return {}, stepped
        firsts = np.append(0, np.flatnonzero(np.diff(steps.move[rows])) + 1)
        numbers = steps.move[rows[firsts]]
        low, high = np.minimum.reduceat(feed[rows], firsts), np.maximum.reduceat(feed[rows], firsts)
        whole = (high <= (1 + ALIKE) * low) | ~freedom.parted[numbers] | targets.by_block
        one = rounded(self._joined(targets, low, numbers, whole) if geometry.JOINS else low, numbers, moves)
        stepped[rows] = np.repeat(one, np.diff(np.append(firsts, len(rows))))
        changed = whole & (np.abs(one - moves.feed[numbers]) > 0.5 * resolution(numbers, moves))
        pieces = {
            int(number): [Piece(1.0, float(value))]
            for number, value in zip(numbers[changed], one[changed], strict=True)
        }
        ends = np.append(firsts[1:], len(rows))
        for k in np.flatnonzero(~whole).tolist():
            group, number = rows[firsts[k] : ends[k]], int(numbers[k])
            pieces[number] = self._parts(targets, group, number, feed[group])
            run = np.cumsum(steps.length[group])
            begins = np.searchsorted(
                [piece.until * run[-1] for piece in pieces[number]], run - 0.5 * steps.length[group]
            )
            stepped[group] = np.array([piece.feed for piece in pieces[number]])[
                np.minimum(begins, len(pieces[number]) - 1)
            ]
        for number in disagreed(pieces, moves):
            pieces.pop(number, None)
            stepped[steps.move == number] = moves.feed[number]
        return pieces, stepped

    def _joined(self, targets: Targets, feeds: Array, numbers: NDArray[np.int64], whole: NDArray[np.bool_]) -> Array:
        """Feeds of blocks (k,) of which runs take one, none shorter than a control can change its feed in."""
        out, lengths = feeds.copy(), self.geometry.program.moves.length[numbers]
        tied = whole[1:] & whole[:-1] & (np.diff(numbers) == 1)
        begins = np.append(0, np.flatnonzero(~tied) + 1)
        for first, last in zip(begins.tolist(), np.append(begins[1:], len(numbers)).tolist(), strict=True):
            at = first
            for count, least in joined(lengths[first:last], feeds[first:last], targets.block_time):
                out[at : at + count] = least
                at += count
        return out

    def _parts(self, targets: Targets, group: NDArray[np.int64], number: int, feed: Array) -> list[Piece]:
        """A move in pieces of about one feed."""
        lengths = self.geometry.steps.length[group]
        parts = joined(lengths, feed, targets.block_time)
        run, ends = np.cumsum(lengths), np.cumsum([count for count, _ in parts])
        feeds = rounded(
            np.array([value for _, value in parts]), np.full(len(parts), number), self.geometry.program.moves
        )
        made = [Piece(float(run[end - 1] / run[-1]), float(value)) for end, value in zip(ends, feeds, strict=True)]
        made[-1] = Piece(1.0, made[-1].feed)
        return made

    def _smooth(self, feed: Array) -> Array:
        """Feeds whose neighbours differ by no more than the axes can accelerate on the way."""
        geometry = self.geometry
        axes = axes_of(geometry.work.parts.machine, geometry.work.look.tolerance)
        gain = 2.0 * float(axes.acceleration.min()) * geometry.steps.length
        square = (feed / 60.0) ** 2
        rapid = geometry.program.moves.kind[geometry.steps.move] == RAPID
        begins = np.append(0, np.flatnonzero(rapid[1:] | rapid[:-1]) + 1)
        ends = np.append(begins[1:], len(square))
        longer = ends - begins > 1
        for first, last in zip(begins[longer].tolist(), ends[longer].tolist(), strict=True):
            here, gone = square[first:last], np.cumsum(gain[first:last])
            here[:] = np.minimum.accumulate(here - gone) + gone
            here[:] = np.minimum.accumulate((here + gone)[::-1])[::-1] - gone
        return np.asarray(60.0 * np.sqrt(np.maximum(square, 0.0)))

    # ------------------------------------------------------------ the result

    def _over(self, run: Run, targets: Targets, most: float, floor: NDArray[np.bool_]) -> Array:
        """How far each step of the simulated result lies over its targets [-], but for places where the least feed is run."""
        contact = run.geometry.contact
        over = run.state.fxy_peak / max(most, self._at_floor(floor))
        if targets.power is not None:
            over = np.maximum(over, run.state.power_cut / targets.power)
        if targets.deflection is not None:
            over = np.maximum(over, run.state.deflection / targets.deflection)
        return np.where(contact, over, 0.0)

    def _at_floor(self, floor: NDArray[np.bool_]) -> float:
        """Side force of the program itself where even the least feed does not keep to the target [N]."""
        return float(self.before.state.fxy_peak[floor].max()) if floor.any() else 0.0

    def _over_limits(self, run: Run, floor: NDArray[np.bool_]) -> Array:
        """How far each step lies over a limit that its feed could keep [-]."""
        uses = [use for key, use in run.uses.items() if key in _BY_FEED and not BY_ID[key].is_capped]
        free = self.geometry.contact & ~floor & self.geometry.freedom.feed[self.geometry.steps.move]
        return np.where(free, np.max(uses, axis=0) / OVER, 0.0) if uses else np.zeros(len(floor))

    def _made(self, made: _Text, force: float, floor: NDArray[np.bool_], changed: int) -> Levelled:
        geometry, thin = self.geometry, rubs(made.run)
        lines = geometry.program.moves.line[geometry.steps.move]
        after = made.run.geometry.program.moves.line[made.run.geometry.steps.move]
        kept = geometry.contact & ~geometry.freedom.feed[geometry.steps.move]
        return Levelled(
            made.content,
            made.run,
            force,
            np.unique(lines[floor]),
            np.unique(after[thin]),
            changed,
            np.unique(lines[kept]),
        )

    def _header(self, targets: Targets, force: float) -> list[str]:
        name = self.geometry.work.parts.cut.name
        return [
            f"FEEDS LEVELLED BY LESNA, AIM {targets.aim.upper()}, SIDE FORCE UP TO {force:.0f} N",
            f"FOR {_plain(name).upper()}, AT MOST {targets.ceiling:g} TIMES THE PROGRAMMED FEED",
            "FIRST RUN IN SINGLE BLOCK, FEED REDUCED, RAPIDS REDUCED",
        ]


def _plain(text: str) -> str:
    return "".join(c for c in text if c.isascii() and c.isprintable() and c not in "()")


def _steady(values: Array) -> Array:
    """The median of each value and its neighbours: one wild step is no peak."""
    if len(values) < 3:
        return values
    out = values.copy()
    out[1:-1] = np.median(np.stack((values[:-2], values[1:-1], values[2:])), axis=0)
    return out
