"""The decisions about a surface in their order: each with its figure, its price and reason, and how it came about."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from lesna.model import units
from lesna.planning.surface.along import Cutting
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.finish import Finished
from lesna.planning.surface.told import classes_told, held_by, lead_told, lean_told, reason_of

_LENGTH, _SIZE, _SMALL = units.LENGTH, units.DIMENSION, units.SMALL
#: angles of which Working tells the price [deg]
_PRICED = (30, 45, 60)


@dataclass(frozen=True)
class Row:
    """One decision.

    Attributes
    ----------
    id, title : str
        What it is.
    figure : str
        What was decided, with marked numbers.
    reason : str
        Why, and what it costs.
    working : tuple of str
        How it came about.
    alarm : bool
        Whether it says something that must be looked at.
    """

    id: str
    title: str
    figure: str
    reason: str
    working: tuple[str, ...] = ()
    alarm: bool = False


def rows_of(decision: Decision, done: Finished | None = None) -> list[Row]:
    """All decisions; those about the path as well where it was made."""
    out = [_part(decision), _lines(decision), _threshold(decision), _spacing(decision), _way(decision)]
    if done is not None:
        out += [_centre(done.made.cutting), _cut(done.made.cutting, decision)]
    out.append(Row("lead", "Lead of a tilted set-up", _lead(decision), lead_told(decision), _lead_working(decision)))
    if done is not None:
        out += [_stick_out(done), _path(done)]
    return out


def _share(value: float) -> str:
    return f"{100 * value:.1f} %"


def _part(d: Decision) -> Row:
    size = " x ".join(_SIZE.mark(round(v, 2)) for v in d.part.size.tolist())
    troubles = "; ".join(d.part.mesh.troubles)
    reason = troubles or "closed, and every triangle looks out"
    if d.unfit > 5e-4:
        hollow = _LENGTH.mark(d.hollow)
        reason += (
            f"; the tool does not fit into {_share(d.unfit)} of the area: the smallest hollow has a radius of {hollow}"
        )
    return Row(
        "part", "Part", f"{len(d.part.mesh):_} triangles, {len(d.faces)} faces".replace("_", " "), f"{size}; {reason}",
        ("Corners within 0.01 µm are one. Faces are told apart at edges over 15° and where the curvature jumps by more than 35 %.",
         f"Smallest hollow radius {_LENGTH.mark(d.hollow) if math.isfinite(d.hollow) else 'none'}; the tool's corner "
         f"{_LENGTH.mark(d.shape.r)}."),
        alarm=bool(troubles) or d.unfit > 5e-4,
    )  # fmt: skip


def _lines(d: Decision) -> Row:
    keeps = d.stepover / d.flat if d.flat > 0 else 1.0
    need = [n for n, face in enumerate(d.faces, start=1) if face.stepover < 0.6 * d.flat and face.area > 1.0]
    whole = (
        "no face needs to be parted"
        if not need
        else f"faces that keep less than 60 % at any angle: {', '.join(map(str, need[:6]))}"
    )
    return Row(
        "lines", "Lines", f"{d.angle:g}°, {_LENGTH.mark(d.stepover)} apart",
        f"keep {100 * keeps:.0f} % of the stepover on flat ground, the worst angle {100 * d.worst / max(d.flat, 1e-9):.0f} %; {whole}",
        ("Stepover from above: e = c √(nz² + (n·u)²), c = √(8 h (kt + ks)) / kt along the surface, kt and ks the curvatures of tool and "
         f"part across the feed, h {_SMALL.mark(1000 * d.cusp)}.",
         "Each angle allows what all but 0.3 % of the area allow: "
         + ", ".join(f"{a:g}° {_LENGTH.mark(e)}" for a, e in d.every_angle.tolist()) + ".",
         f"On flat ground {_LENGTH.mark(d.flat)}."),
    )  # fmt: skip


def _threshold(d: Decision) -> Row:
    split = d.split
    tell = sorted(
        {
            *_PRICED,
            *(() if d.threshold is None else (round(d.threshold),)),
            *(() if split.suggested is None else (split.suggested,)),
        }
    )
    priced = tuple(_priced(d, t) for t in tell)
    figure = "none" if d.threshold is None else f"{d.threshold:g}°{' (typed)' if d.typed else ''}"
    if d.threshold is not None and not d.chosen.threshold_counts:
        figure += ", not used"
    return Row(
        "threshold", "Steep or shallow", figure, reason_of(d),
        ("Of 20 to 70°: the path at most 1.2 times the shortest, no more than 10 % of the area within 2° of it; then the least area cut "
         "off, the shortest seam, the nearest to 45°.", *priced),
    )  # fmt: skip


def _priced(d: Decision, t: int) -> str:
    """What an angle costs."""
    split = d.split
    seam = _SIZE.mark(round(float(split.seam[t]), 1))
    path = _SIZE.mark(round(float(split.path[t]))) if np.isfinite(split.path[t]) else "none"
    return f"{t}°: {_share(float(split.cut_area[t]))} cut off {int(split.cut_faces[t])} faces, seam {seam}, path {path}"


def _spacing(d: Decision) -> Row:
    face, without = d.sets_it
    figure = f"{_LENGTH.mark(d.stepover)} over"
    if d.down[0]:
        figure += f", {_LENGTH.mark(d.down[0])} down"
    saves = (
        f"face {face + 1} sets it; without it lines could lie {_LENGTH.mark(without)} apart, "
        f"{100 * (1 - d.stepover / without):.0f} % less path"
        if without > 1.02 * d.stepover
        else f"face {face + 1} sets it, the others ask for about as much"
    )
    return Row(
        "spacing", "Spacing", figure, f"for cusps of {_SMALL.mark(1000 * d.cusp)}; {saves}",
        (f"Levels: dz = c sin s, from {_LENGTH.mark(d.down[0])} to {_LENGTH.mark(d.down[1])}, each from what lies between it and the next."
         if d.down[0] else "No levels in this way.",
         f"Regions reach {_LENGTH.mark(d.overlap)} into each other."),
    )  # fmt: skip


def _way(d: Decision) -> Row:
    others = [c for c in d.choices[1:] if c.id != d.chosen.id]
    told = "; ".join(
        f"{c.title} {_SIZE.mark(round(c.length))}" if math.isfinite(c.length) else f"{c.title}: {c.reason}"
        for c in others
    )
    return Row(
        "way", "Way", d.chosen.title, f"about {_SIZE.mark(round(d.chosen.length))} on the surface: {d.chosen.reason}",
        ("Rings have to save 15 % over lines, a split 10 %: each turn, lift and seam may be seen on the part.", told + "." if told else ""),
    )  # fmt: skip


def _centre(c: Cutting) -> Row:
    e = c.engaged
    return Row(
        "centre", "Centre of the tool", f"cuts on {_SIZE.mark(round(c.least, 2))} to {_SIZE.mark(round(c.greatest, 2))}",
        f"{_share(e.share_near)} of the length is within 10° of the tip, {_share(e.share_near_down)} of it going down the slope",
        ("The patch ahead of the contact, w = acos(1 - p/R) round it, outside the last pass; diameters 2 (rm + r sin b) by the angle b "
         "from the tip.",
         f"The tip itself cuts on {_share(float((e.length * e.tip).sum() / max(e.length.sum(), 1e-300)))} of the length."),
    )  # fmt: skip


def _cut(c: Cutting, d: Decision) -> Row:
    state, steep = c.result.state, c.steep.state
    force, wall = units.FORCE.mark(float(state.fxy_peak)), _SMALL.mark(abs(float(steep.wall_error)))
    return Row(
        "cut", "The cut", f"{units.SPINDLE_SPEED.mark(c.rpm)}, {units.FEED.mark(c.vf)}",
        f"a twentieth of the length turns slower than {units.SURFACE_SPEED.mark(c.slowest)}; force {force}, wall off by {wall} where it is "
        f"steepest, edge life {units.MINUTES.mark(c.life)}",
        (f"Speed by the greatest diameter of 98 % of the length, {_SIZE.mark(round(c.greatest, 2))}; feed by the chip there, "
         f"{units.CHIP.mark(float(state.hex))}.",
         f"Computed with a skin of {_LENGTH.mark(d.skin)} and {_LENGTH.mark(d.stepover)} from pass to pass on the middle slope, "
         f"{c.slope:.0f}°."),
    )  # fmt: skip


def _lead(d: Decision) -> str:
    return (
        f"{d.lead.tilt:g}° to {d.lead.turn:g}°"
        if d.lead.allowed and d.lead.tilt
        else "none needed"
        if d.lead.allowed
        else "none does"
    )


def _lead_working(d: Decision) -> tuple[str, ...]:
    lead = d.lead
    return (
        f"Upright {_share(lead.upright_tip)} of the area is within 10° of the tip and {_share(lead.upright_wall)} over 80°.",
        "Leads of 0 to 60° in all directions by 10° are tried; both shares have to be within 1 %.",
    )


def _stick_out(done: Finished) -> Row:
    best = done.held[0]
    reason = f"{best.holder.name or best.holder.id}: {held_by(best)}"
    alarm = best.deflection is None
    if alarm:
        reason += f"; no tool so long: it takes {_LENGTH.mark(best.needed)} of tool"
    if done.shank is not None and done.shank < 0:
        reason, alarm = (
            f"{reason}; the shank meets the part, {_LENGTH.mark(-done.shank)} more of usable length are needed",
            True,
        )
    return Row(
        "stick_out", "Shortest stick-out", _LENGTH.mark(best.reach.length), reason,
        ("Greatest height of the part under the holder over the tip, over every place of the path; 0.5 mm beside it and under its face.",
         *(f"Leaning {lean_told(lean)}." for lean in done.leans)),
        alarm=alarm,
    )  # fmt: skip


def _path(done: Finished) -> Row:
    made, proof = done.made, done.made.proof
    path = made.path
    figure = f"{made.timed.seconds / 60:.1f} min, {_SIZE.mark(round(path.cut_length))}"
    reason = f"{path.lifts} lifts, {path.turns} turns over 60°, {path.links} links; {100 * made.timed.held:.0f} % of the feed is held"
    if proof.passes:
        cusp, most, gouge = (_SMALL.mark(1000 * value) for value in (proof.cusp, proof.most, proof.gouge))
        told = f"proved: {100 * proof.within:.2f} % within {cusp}, highest {most}, cut in by {gouge} at most"
    else:
        told = "NOT proved: it " + "; it ".join(proof.fails)
    return Row(
        "path", "Path and proof", figure, f"{told}; {reason}",
        (f"{sum(len(p.places) for p in path.pieces):_} places; the program is read back and judged by the part, its moves and the tool "
         "alone: a cloud of points for what it cuts into, rays along the normal for what is left.".replace("_", " "),
         *(f"{text}." for text in classes_told(proof)),
         *([f"{_share(proof.border)} of the area would be cut from outside the bounds."] if proof.border > 5e-4 else []),
         *([f"{_share(proof.unreachable)} of the area cannot be reached."] if proof.unreachable > 5e-4 else [])),
        alarm=not proof.passes,
    )  # fmt: skip
