"""Time, edge life and cost of a part."""

from __future__ import annotations

from lesna.model import units
from lesna.planning.cut.economy import Economy
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.entries import (
    TRIALS,
    TYPED,
    Explanation,
    Input,
    Where,
    data_row,
    explains,
    tool_row,
)


@explains("time")
def _time(result: Result, where: Where) -> Explanation:
    feature = result.setup.parts.cut.feature
    sizes = (
        ()
        if feature is None
        else (
            Input("L", "length of the feature", feature.length_mm, units.LENGTH, TYPED),
            Input("W", "width", feature.width_mm, units.LENGTH, TYPED),
            Input("H", "depth", feature.depth_mm, units.LENGTH, TYPED),
        )
    )
    return Explanation(
        "t = volume of the feature / Q, without entries and links",
        (*sizes, Input("Q", "removal rate", result.state.q, units.REMOVAL, "see Removal")),
        "docs/physics.md section 15",
        "The path's own time where a path exists; a stopwatch.",
    )


def economy_known(result: Result) -> Economy:
    """The economy of a cut whose life is known."""
    assert result.economy is not None  # entries below first ask `_unknown_life`
    return result.economy


_UNKNOWN_LIFE = Explanation("the tables know no life for this edge in this material", (), "cutting data", TRIALS)


@explains("life")
def _life(result: Result, where: Where) -> Explanation:
    if result.economy is None:
        return _UNKNOWN_LIFE
    e, law, origin = result.economy, result.economy.law, data_row(result, where)
    notes = [] if e.is_valid else ["the chip is outside the table's range"]
    if e.is_over:
        notes.append(f"{units.LONG_MINUTES.full(e.life, 'metric')} by the formula, far beyond what was ever timed")
    return Explanation(
        "1/T = 1/Tt + 1/(20 Tref), Tt = Tref (vc / (m vref))^(-1/n) (hex/hexref)^(-a/n) c, median, to VB 0.3 mm"
        + "".join(f"; {note}" for note in notes),
        (
            Input("vc", "surface speed", result.state.vc, units.SURFACE_SPEED, "see Spindle"),
            Input(
                "m",
                "how much faster this engagement may run than the row's own",
                e.m,
                units.RATIO,
                "see Engagement speed",
            ),
            Input("vref", "speed of the row, for this hardness", law.vc_ref, units.SURFACE_SPEED, origin),
            Input("hexref", "reference chip", law.hex_ref, units.CHIP, origin),
            Input("Tref", "life at the references", law.life_ref, units.MINUTES, origin),
            Input("n", "Taylor exponent of speed", law.n, units.RATIO, origin),
            Input("a", "exponent of the chip", law.a, units.RATIO, origin),
            Input("c", "cooling medium", law.coolant, units.RATIO, "its place in the table's ranking"),
        ),
        "Taylor 1907, extended; ISO 8688-2; docs/physics.md section 13",
        "The shop's own edges: measured life comes first, expect a factor of two.",
    )


@explains("m")
def _multiplier(result: Result, where: Where) -> Explanation:
    e, data = result.economy, result.setup.parts.data
    if e is None or data is None:
        return _UNKNOWN_LIFE
    return Explanation(
        "m = 1 + (m10 - 1)(Kv(x) - 1)/(Kv(0.10) - 1) below half engagement, straight to the slot's above, over that of the row",
        (
            Input("x", "ae over the diameter in contact", result.state.x, units.RATIO, "see Engagement"),
            Input("m10", "of a light cut, from practice", data.vc_mult_light, units.RATIO, data_row(result, where)),
            Input("m1", "of a slot, from practice", data.vc_mult_slot, units.RATIO, data_row(result, where)),
            Input(
                "x row",
                "engagement at which the row's speed holds",
                data.ref_ae_over_d,
                units.RATIO,
                data_row(result, where),
            ),
        ),
        "Cook 1973 for the shape between; docs/physics.md section 12",
        "The shop's own trials at this engagement.",
    )


@explains("safe_life")
def _safe(result: Result, where: Where) -> Explanation:
    if result.economy is None:
        return _UNKNOWN_LIFE
    e, share = economy_known(result), result.setup.parts.batch.survivors
    return Explanation(
        f"minutes that {share:.0%} of edges outlive: T (ln(1/{share:g}) / ln 2)^(1/3.5)",
        (
            Input("T", "median life", e.life, units.MINUTES, "see Edge life"),
            Input("S", "share that is to outlive them", share, units.SHARE, "batch"),
            Input("N", "parts until the change", e.change_after, units.COUNT, "whole parts within these minutes"),
        ),
        "Weibull scatter, shape 3.5; docs/physics.md section 13",
        TRIALS,
    )


@explains("part_time")
def _part_time(result: Result, where: Where) -> Explanation:
    if result.economy is None:
        return _UNKNOWN_LIFE
    e = economy_known(result)
    return Explanation(
        "time in the cut + edges used x time to change one; links and entries not yet",
        (
            Input("t", "in the cut", result.cut_time, units.MINUTES, "see In the cut"),
            Input("edges", "edges a part", e.edges_per_part, units.PLAIN, "time in the cut / edge life"),
            Input(
                "change",
                "time to change an edge",
                e.change_time,
                units.MINUTES,
                "batch, or 1 minute where it names none",
            ),
        ),
        "docs/physics.md section 13",
        "A stopwatch.",
    )


@explains("cost")
def _cost(result: Result, where: Where) -> Explanation:
    if result.economy is None:
        return _UNKNOWN_LIFE
    e = economy_known(result)
    return Explanation(
        "time of the part x rate + edges used x cost of an edge",
        (
            Input("t", "time of the part", e.time_per_part, units.MINUTES, "see Part"),
            Input("rate", "machine rate a minute", e.rate, units.MONEY, "batch, or the machine's own"),
            Input("edges", "edges a part", e.edges_per_part, units.PLAIN, "time in the cut / edge life"),
            Input("C edge", "cost of an edge", e.edge_cost, units.MONEY, tool_row(result, where)),
            Input("vc cheap", "cheapest speed", e.vc_cheapest, units.SURFACE_SPEED, "Gilbert 1950"),
            Input("vc quick", "quickest speed", e.vc_quickest, units.SURFACE_SPEED, "Gilbert 1950"),
        ),
        "docs/physics.md section 13",
        "The shop's own calculation.",
    )
