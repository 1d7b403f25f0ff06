"""The path over a surface as it was decided, fed as its cut says, timed on the machine, and written only when it is proved."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.post import Block, Stretch
from lesna.nc.read import read_program
from lesna.physics import Array
from lesna.physics.motion import Straight, times
from lesna.planning.cut.axes import axes_of
from lesna.planning.surface.along import Cutting, cutting_of
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.proof import GOUGE, Proof, proof_of
from lesna.planning.ways.program import Printing, post_text, program_of
from lesna.surface import joined as joining
from lesna.surface.joined import SurfacePath
from lesna.surface.levels import contours, heights
from lesna.surface.lines import lines
from lesna.surface.rings import rings
from lesna.surface.tips import Tips, tips_over

#: over everything, over the part's highest place [mm]; a way down is a rapid until so far over the surface
CLEAR, _OVER = 5.0, 0.5
#: rings whose proof fails lie this much closer [-]
_CLOSER = 0.88
#: a way at a feed between two sharp turns that is no longer is a link [mm]
_LINK = 2.0
#: no path is longer than this [mm]
_LONGEST = 2e6
#: arcs are judged in chords that lie so near to them [mm]
_ARC_CHORD = 0.002


@dataclass(frozen=True)
class Timed:
    """How long moves take.

    Attributes
    ----------
    seconds, cut_seconds : float
        In all, and on the surface [s].
    held : float
        Speed over the one asked for, on the surface [-].
    """

    seconds: float
    cut_seconds: float
    held: float


@dataclass(frozen=True)
class Made:
    """A path that was made, written and judged.

    Attributes
    ----------
    decision : Decision
        What it follows.
    tips : Tips
        The tool over the part.
    path : SurfacePath
        Its pieces.
    cutting : Cutting
        What cuts along it, and what that does.
    stretches : tuple of Stretch
        Its moves with feeds.
    content : bytes
        The program.
    proof : Proof
        What it leaves.
    timed : Timed
        How long it takes.
    seconds : float
        That making it took [s].
    """

    decision: Decision
    tips: Tips
    path: SurfacePath
    cutting: Cutting
    stretches: tuple[Stretch, ...]
    content: bytes
    proof: Proof
    timed: Timed
    seconds: float


def path_over(decision: Decision, pulse: Pulse = STEADY) -> tuple[Tips, SurfacePath]:
    """The path of a decision over its part."""
    part, threshold = decision.part, decision.served_by_levels
    if not decision.chosen.length <= _LONGEST:
        raise InputError(
            f"would take lines {units.LENGTH.mark(decision.stepover)} apart over the whole part; allow a higher cusp, or take another tool",
            "feature.cusp_um",
        )
    pulse.begin("dropping the tool")
    tips = tips_over(part.ground, decision.ground_faces, decision.shape, part.area, threshold)
    pulse.check()
    groups: list[list[joining.Stretch]] = []
    keep = tips.inside & (tips.from_shallow < decision.overlap)
    if threshold is None:
        keep = tips.inside
    if keep.any() and not (threshold is not None and not (~tips.is_steep & tips.inside).any()):
        if decision.chosen.has_rings:
            groups.append(
                [joining.Stretch(rows, closed, "rings") for rows, closed in rings(tips, decision.any_way, keep, pulse)]
            )
        else:
            found = lines(tips, decision.angle, decision.stepover, keep, pulse)
            groups.append([joining.Stretch(rows, False, "lines") for rows in found])
    if threshold is not None and tips.is_steep.any():
        reach = tips.inside & (tips.from_steep < decision.overlap + tips.pitch)
        levels = heights(tips, decision.levels_field.down, tips.steep & (decision.ground_faces.of >= 0))
        found_levels = contours(tips, levels, reach, pulse)
        groups.append([joining.Stretch(rows, closed, "contours") for rows, closed in found_levels])
    if not any(groups):
        raise InputError("the tool comes nowhere onto the part inside its bounds", "feature.box_mm")
    return tips, joining.joined(tips, groups, decision.stepover, decision.skin, pulse)


def made_of(decision: Decision, result: Any, printing: Printing, title: str, pulse: Pulse = STEADY) -> Made:
    """A path, its program and the proof of that.

    Parameters
    ----------
    decision : Decision
        How the surface is finished.
    result : Result
        Of the cut.
    printing : Printing
        How it is written.
    title : str
        Of the job.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When nothing can be made, or what was made cuts into the part.
    """
    began = time.monotonic()
    tips, path = path_over(decision, pulse)
    cutting = cutting_of(decision, tips, path, result)
    clear = _top(decision) + CLEAR
    stretches = stretches_of(path, cutting.vf, clear)
    pulse.begin("writing")
    written = program_of(stretches, cutting.result, title, printing, post_text(printing.post), clear)
    found = judged(written.content, decision, result, pulse)
    return Made(
        decision, tips, path, cutting, stretches, written.content, found.proof, found.timed, time.monotonic() - began
    )


def proved(decision: Decision, result: Any, printing: Printing, title: str, pulse: Pulse = STEADY) -> Made:
    """A path whose proof passes: where rings do not, they lie closer, and where that does not help lines take their place.

    What cannot be made to pass is given as it is, with what it fails by; what cuts into the part is refused.
    """
    tried = made_of(decision, result, printing, title, pulse)
    if not tried.proof.passes and decision.chosen.has_rings and tried.proof.gouge <= GOUGE:
        # where rings turn they leave a little more: all of them closer is still far less path than lines
        closer = replace(decision, any_way=_CLOSER * decision.any_way)
        again = made_of(closer, result, printing, title, pulse.within("rings, closer"))
        tried = again if again.proof.passes else tried
    if not tried.proof.passes and decision.chosen.has_rings:
        plain = "split" if decision.chosen.threshold_counts else "lines"
        other = [choice for choice in decision.choices if choice.id == plain and np.isfinite(choice.length)]
        if other:
            rest = tuple(choice for choice in decision.choices if choice.id != plain)
            told = replace(other[0], reason=f"{other[0].reason}; rings left more than the cusp")
            tried = made_of(replace(decision, choices=(told, *rest)), result, printing, title, pulse)
    if tried.proof.gouge > GOUGE:
        raise InputError(
            f"the path would cut {units.SMALL.mark(1000 * tried.proof.gouge)} into the part at {units.place(tried.proof.gouge_at)} and is "
            "not written; "
            "mend the part there, or bound the area beside it",
            "feature.stl",
        )
    return tried


def _top(decision: Decision) -> float:
    return float(decision.part.mesh.box[1][2]) + decision.skin


def stretches_of(path: SurfacePath, vf: float, clear: float) -> tuple[Stretch, ...]:
    """Moves with feeds: rapids over everything between pieces that are not joined."""
    out: list[Stretch] = []
    at: Array | None = None
    for piece in path.pieces:
        first = piece.places[0]
        if at is None or np.abs(at - first).max() > 1e-6:
            up = [] if at is None else [Block(0, (float(at[0]), float(at[1]), clear))]
            x, y, z = first.tolist()
            out.append(
                Stretch(
                    "retract",
                    (*up, Block(0, (x, y, clear)), Block(0, (x, y, min(z + _OVER, clear))), Block(1, (x, y, z), vf)),
                )
            )
        word = "cut" if piece.kind == "cut" else "link" if piece.kind == "link" else "entry"
        out.append(Stretch(word, tuple(Block(1, (x, y, z), vf) for x, y, z in piece.places[1:].tolist())))
        at = piece.places[-1]
    if at is not None:
        out.append(Stretch("retract", (Block(0, (float(at[0]), float(at[1]), clear)),)))
    return tuple(stretch for stretch in out if stretch.steps)


@dataclass(frozen=True)
class Read:
    """A program's moves as straight ones.

    Attributes
    ----------
    moves : array (n, 6)
        From and to [mm].
    is_rapid : array (n,) of bool
        Which are rapids.
    feed : array (n,)
        Asked for [mm/min]; not a number for rapids.
    line : array (n,) of int
        Of the program.
    """

    moves: Array
    is_rapid: NDArray[np.bool_]
    feed: Array
    line: NDArray[np.int64]


def read_moves(content: bytes, pulse: Pulse = STEADY) -> Read:
    """The moves of a program whose start is known; arcs in chords of two micrometres."""
    moves = read_program(content, pulse).moves
    if not len(moves):
        raise InputError("holds no move whose start and end are known")
    is_arc = moves.kind >= 2
    radius = np.linalg.norm(moves.start - moves.centre, axis=1)
    turn = np.abs(moves.sweep)
    pieces = np.ones(len(moves), np.int64)
    step = 2 * np.arccos(np.clip(1.0 - _ARC_CHORD / np.maximum(radius[is_arc], _ARC_CHORD), -1.0, 1.0))
    pieces[is_arc] = np.maximum(np.ceil(turn[is_arc] / np.maximum(step, 1e-3)), 1).astype(np.int64)
    of = np.repeat(np.arange(len(moves)), pieces)
    number = np.arange(len(of)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    a = np.where((number == 0)[:, None], moves.start[of], moves.at(of, number / pieces[of]))
    b = np.where((number + 1 == pieces[of])[:, None], moves.end[of], moves.at(of, (number + 1) / pieces[of]))
    return Read(np.column_stack((a, b)), moves.kind[of] == 0, moves.feed[of], moves.line[of])


@dataclass(frozen=True)
class Marks:
    """What may be seen on the part where a program goes: lifts, turns over 60 deg, links; and its length.

    Attributes
    ----------
    length : float
        At a feed [mm].
    lifts, turns, links : int
        How often it leaves the part by a rapid upwards, turns sharply, and goes from one stretch to the next at a feed: no farther than
        `_LINK` between two sharp turns.
    """

    length: float
    lifts: int
    turns: int
    links: int


@dataclass(frozen=True)
class Judged:
    """What a program does to the part.

    Attributes
    ----------
    proof : Proof
        What it leaves.
    timed : Timed
        How long it takes.
    marks : Marks
        What may be seen.
    """

    proof: Proof
    timed: Timed
    marks: Marks


def judged(content: bytes, decision: Decision, result: Any, pulse: Pulse = STEADY) -> Judged:
    """What a program leaves of the part, how long it takes, and its marks."""
    read = read_moves(content, pulse)
    shape = decision.shape
    proof = proof_of(
        decision.part.mesh,
        read.moves,
        read.is_rapid,
        (shape.rm, shape.r, shape.slant, shape.R),
        decision.cusp,
        decision.part.area,
        pulse,
    )
    return Judged(proof, timed_of(read, result), marks_of(read))


def marks_of(read: Read) -> Marks:
    """Lifts, turns and links of a program."""
    along = read.moves[:, 3:] - read.moves[:, :3]
    length = np.linalg.norm(along, axis=1)
    some = length > 1e-9
    along, rapid = along[some] / length[some][:, None], read.is_rapid[some]
    lifts = int(((~rapid[:-1]) & rapid[1:] & (along[1:, 2] > 0)).sum())
    turn = (~rapid[:-1]) & (~rapid[1:]) & ((along[:-1] * along[1:]).sum(axis=1) < 0.5)
    at = np.flatnonzero(turn) + 1
    gone, rapids = np.append(0.0, np.cumsum(length[some])), np.append(0, np.cumsum(rapid))
    short = (np.diff(gone[at]) <= _LINK) & (np.diff(rapids[at]) == 0)
    return Marks(float(length[some][~rapid].sum()), lifts, int(turn.sum()), int(short.sum()))


def timed_of(read: Read, result: Any) -> Timed:
    """Minutes of moves with the acceleration, jerk and blocks a second of the machine."""
    axes = axes_of(result.setup.parts.machine)
    along = read.moves[:, 3:] - read.moves[:, :3]
    length = np.linalg.norm(along, axis=1)
    some = length > 1e-9
    along, length, is_rapid, feed = (
        along[some] / length[some][:, None],
        length[some],
        read.is_rapid[some],
        read.feed[some],
    )
    share = np.maximum(np.abs(along), 1e-9)
    rapid = (axes.rapid / share).min(axis=1)
    asked = np.where(is_rapid, rapid, np.nan_to_num(feed, nan=1.0) / 60.0)
    most = np.where(is_rapid, rapid, np.minimum((axes.feed_by_axis / share).min(axis=1), axes.feed_max))
    wanted = np.minimum(np.minimum(asked, most), np.where(is_rapid, np.inf, length * axes.blocks))
    begins, ends = read.moves[some, :3], read.moves[some, 3:]
    follows = np.append(False, np.abs(begins[1:] - ends[:-1]).max(axis=1) < 1e-6)
    found = times(length, wanted, Straight(along, along, follows, np.full(len(length), np.inf), axes), axes.jerk)
    cut = ~is_rapid
    plain = float((length[cut] / np.maximum(asked[cut], 1e-9)).sum())
    spent = float(found.time[cut].sum())
    return Timed(float(found.time.sum()), spent, plain / spent if spent > 0 else 1.0)
