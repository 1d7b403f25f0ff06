"""What was decided for a surface and what was proved of it: as JSON, and as lines for people with marked numbers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from lesna.model import units
from lesna.planning.surface.along import Cutting
from lesna.planning.surface.decide import Decision
from lesna.planning.surface.holders import Held, Lean
from lesna.planning.surface.make import Made, Timed
from lesna.planning.surface.proof import Proof

_LENGTH, _SIZE = units.LENGTH, units.DIMENSION


def _finite(value: float, places: int = 4) -> float | None:
    return round(value, places) if math.isfinite(value) else None


def decision_data(decision: Decision) -> dict[str, Any]:
    """What was decided."""
    threshold, split = decision.threshold, decision.split
    at = None if threshold is None else min(max(round(threshold), 0), 90)
    return {
        "faces": [
            {"area_mm2": round(face.area, 3), "slope_deg": [round(v, 2) for v in face.slopes],
             "stepover_mm": _finite(face.stepover), "lines_deg": face.angle, "worst_stepover_mm": _finite(face.worst),
             "cut": face.is_split}
            for face in decision.faces
        ],
        "threshold_deg": threshold, "threshold_reason": reason_of(decision),
        "split": decision.chosen.threshold_counts, "way": decision.chosen.id,
        "cut_area_pct": 0.0 if at is None else round(100 * float(split.cut_area[at]), 3),
        "cut_faces": 0 if at is None else int(split.cut_faces[at]),
        "seam_mm": 0.0 if at is None else round(float(split.seam[at]), 2),
        "lines_deg": decision.angle, "stepover_mm": round(decision.stepover, 5), "step_down_mm": round(decision.down[0], 5) or None,
        "cusp_um": round(1000 * decision.cusp, 4), "overlap_mm": round(decision.overlap, 4),
        "unfit_pct": round(100 * decision.unfit, 3), "hollow_mm": _finite(decision.hollow),
        "lead_deg": decision.lead.tilt if decision.lead.allowed else None,
        "lead": {"tilt_deg": decision.lead.tilt, "turn_deg": decision.lead.turn, "tip_pct": round(100 * decision.lead.tip, 2),
                 "wall_pct": round(100 * decision.lead.wall, 2)},
        "ways": [{"id": c.id, "length_mm": _finite(c.length, 1), "reason": c.reason} for c in decision.choices],
        "troubles": list(decision.part.mesh.troubles),
    }  # fmt: skip


def cutting_data(cutting: Cutting) -> dict[str, Any]:
    """What cuts along the path."""
    state = cutting.result.state
    return {
        "tip_share_pct": round(100 * cutting.engaged.share_near, 3),
        "tip_share_down_pct": round(100 * cutting.engaged.share_near_down, 3),
        "d_eff_mm": [round(cutting.least, 4), round(cutting.greatest, 4)],
        "n_rpm": round(cutting.rpm, 1), "vf_mm_min": round(cutting.vf, 1), "slowest_vc_m_min": round(cutting.slowest, 2),
        "fxy_peak_n": round(float(state.fxy_peak), 2), "deflection_um": round(float(state.deflection), 2),
        "wall_error_um": round(float(cutting.steep.state.wall_error), 2), "life_min": _finite(cutting.life, 2),
    }  # fmt: skip


def path_data(made: Made) -> dict[str, Any]:
    """The path's lengths, times and marks."""
    return {
        "length_mm": round(made.path.cut_length, 2), "time_s": round(made.timed.seconds, 2),
        "cut_time_s": round(made.timed.cut_seconds, 2), "held_pct": round(100 * made.timed.held, 2),
        "lifts": made.path.lifts, "turns": made.path.turns, "links": made.path.links,
        "points": sum(len(piece.places) for piece in made.path.pieces), "compute_s": round(made.seconds, 2),
    }  # fmt: skip


def proof_data(proof: Proof) -> dict[str, Any]:
    """What a program leaves."""
    um = 1000.0
    return {
        "passes": proof.passes, "fails": [units.said(text, "metric") for text in proof.fails], "cusp_um": round(um * proof.cusp, 4),
        "gouge_um": round(um * proof.gouge, 3), "gouge_at": [round(v, 3) for v in proof.gouge_at],
        "within_pct": round(100 * proof.within, 3), "p99_um": round(um * proof.p99, 3), "max_um": round(um * proof.most, 3),
        "max_at": [round(v, 3) for v in proof.most_at], "uncut_pct": round(100 * proof.beyond, 4),
        "border_pct": round(100 * proof.border, 3), "unreachable_pct": round(100 * proof.unreachable, 3),
        "classes": [
            {"slope_deg": [c.low, c.high], "area_mm2": round(c.area, 2), "p50_um": round(um * c.p50, 3),
             "p95_um": round(um * c.p95, 3), "p99_um": round(um * c.p99, 3), "max_um": round(um * c.most, 3)}
            for c in proof.classes
        ],
    }  # fmt: skip


def stick_out_data(held: Sequence[Held]) -> list[dict[str, Any]]:
    """Each holder with its shortest stick-out."""
    return [
        {"holder": h.holder.id, "length_mm": round(h.reach.length, 3), "held_by": units.said(held_by(h), "metric"),
         "set_to_mm": round(h.length, 3), "deflection_um": None if h.deflection is None else round(h.deflection, 3),
         "tool_length_mm": round(h.needed, 2)}
        for h in held
    ]  # fmt: skip


def held_by(held: Held) -> str:
    """The piece of a holder that asks for its stick-out, and where."""
    if not held.reach.piece:
        return "nothing: the part does not come near it"
    return f"{held.reach.piece} at {units.place(held.reach.place)}"


def reason_of(decision: Decision) -> str:
    """Why the threshold is what it is, and whether the path uses it."""
    split, threshold = decision.split, decision.threshold
    if threshold is None:
        return split.reason
    at = min(max(round(threshold), 0), 90)
    if decision.typed:
        share, count = 100 * float(split.cut_area[at]), int(split.cut_faces[at])
        told = f"typed: {share:.1f} % of the area is cut off its face, in {count} face{'' if count == 1 else 's'}"
        if split.suggested is not None and split.suggested != at:
            told += f"; {split.suggested}° would cut {100 * float(split.cut_area[split.suggested]):.1f} %"
    else:
        told = split.reason
    if not decision.chosen.threshold_counts:
        told += f"; not needed here: {decision.chosen.reason}"
    return told


def lead_told(decision: Decision) -> str:
    """The least lead of a tilted set-up, or that there is none and by how much."""
    lead = decision.lead
    if lead.allowed and lead.tilt == 0:
        return "no lead is needed: the tip stays out of the cut and the axis off the walls as it is"
    shares = f"{100 * lead.tip:.1f} % near the tip, {100 * lead.wall:.1f} % beside walls"
    if lead.allowed:
        return f"least lead {lead.tilt:g}° leaning to {lead.turn:g}°: {shares}"
    return (
        f"no one lead keeps the tip out and the axis off the walls: the best, {lead.tilt:g}° leaning to {lead.turn:g}°, has {shares}; "
        "two set-ups, or five axes, share the faces"
    )


def proof_told(proof: Proof) -> list[str]:
    """Lines about what a program leaves."""
    verdict = "proved" if proof.passes else "NOT PROVED"
    out = [
        f"{verdict}: {100 * proof.within:.2f} % within the cusp of {_um(proof.cusp)}, 99 % under {_um(proof.p99)}, "
        f"highest {_um(proof.most)}; cut in by {_um(proof.gouge)} at most"
    ]
    out += [f"fails: it {text}" for text in proof.fails]
    if proof.unreachable > 5e-4:
        out.append(f"{100 * proof.unreachable:.1f} % of the area cannot be reached by this tool")
    if proof.border > 5e-4:
        out.append(f"{100 * proof.border:.1f} % of the area would be cut from outside the bounds and is left")
    return out


def classes_told(proof: Proof) -> list[str]:
    """Lines about what is left by slope."""
    return [
        f"{c.low:g} to {c.high:g}°: half under {_um(c.p50)}, 95 % {_um(c.p95)}, 99 % {_um(c.p99)}, highest {_um(c.most)}"
        for c in proof.classes
    ]


def _um(value: float) -> str:
    return units.SMALL.mark(1000.0 * seen(value))


def seen(value: float) -> float:
    """A height as it is told [mm]: less than a twentieth of a micrometre is what rays end in, not what is left."""
    return 0.0 if abs(value) < 5e-5 else value


def time_told(timed: Timed) -> str:
    """How long the machine takes."""
    return f"{timed.seconds / 60:.2f} min on the machine, {100 * timed.held:.0f} % of the feed is held"


def lean_told(lean: Lean) -> str:
    """One lean in words."""
    reached = f"reaches {100 * lean.reached:.1f} % of the area"
    return f"{lean.tilt:g}°: stick-out {_LENGTH.mark(lean.length)}, bends {100 * lean.bends:.0f} %, {reached}"


def leans_data(leans: Sequence[Lean]) -> list[dict[str, Any]]:
    """What leaning the tool buys."""
    return [
        {"tilt_deg": lean.tilt, "turn_deg": round(lean.turn, 1), "length_mm": round(lean.length, 3),
         "deflection_ratio": round(lean.bends, 4), "reached_pct": round(100 * lean.reached, 2)}
        for lean in leans
    ]  # fmt: skip
