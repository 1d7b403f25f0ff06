"""Time, edge life and cost of a part."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import wraps

from lesna.model import units
from lesna.model.lesson import KNOWN_FROM
from lesna.physics.life.edge_life import WEIBULL_SHAPE, shape_of
from lesna.planning.cut.economy import Economy
from lesna.planning.cut.result import Result
from lesna.planning.telling.working.inputs import (
    TRIALS,
    Explain,
    Explanation,
    Input,
    Where,
    data_row,
    tool_row,
)


def time_in_cut(result: Result, where: Where) -> Explanation:
    """The time in the material."""
    timing = result.timing
    said = (
        _SOURCES[timing.basis] if timing is not None else "nothing: the feature has no size, or its way is being made"
    )
    links = Input(
        "links", "entries in air, links and lifts", None if timing is None else timing.linking, units.MINUTES, said
    )
    return Explanation(f"t = minutes with material engaged, by {said}", ("vf", "level", links), "docs/physics.md section 15",
                       "The time of the program where the cut has one; a stopwatch.")  # fmt: skip


#: what says how long a cut takes
_SOURCES = {
    "program": "the program of this cut, simulated",
    "path": "the path that was made of this cut as it stands",
    "estimate": "the way that its generator makes on this floor, at the feeds of the cut and on the axes of the machine",
}


def _where_life_is_known(explain: Callable[[Result, Economy, Where], Explanation]) -> Explain:
    @wraps(explain)
    def explanation(result: Result, where: Where) -> Explanation:
        if result.economy is None:
            return Explanation("the tables know no life for this edge in this material", (), "cutting data", TRIALS)
        return explain(result, result.economy, where)

    return explanation


@_where_life_is_known
def life(result: Result, e: Economy, where: Where) -> Explanation:
    """The life of an edge."""
    law, origin = e.law, data_row(result, where)
    notes = [] if e.is_valid else ["the chip is outside the table's range"]
    if e.is_over:
        notes.append(f"{units.LONG_MINUTES.full(e.life, 'metric')} by the formula, far beyond what was ever timed")
    return Explanation(
        "1/T = 1/Tt + 1/(N Tref), Tt = Tref (vc / (m vref))^(-1/n) (hex/hexref)^(-a/n) c, median, to VB 0.3 mm"
        + "".join(f"; {note}" for note in notes),
        (
            "vc", "m",
            Input("vref", "speed of the row, for this hardness", law.vc_ref, units.SURFACE_SPEED, origin),
            Input("hexref", "reference chip", law.hex_ref, units.CHIP, origin),
            Input("Tref", "life at the references", law.life_ref, units.MINUTES, origin),
            Input("n", "Taylor exponent of speed", law.n, units.RATIO, origin),
            Input("a", "exponent of the chip", law.a, units.RATIO, origin),
            Input("N", "abrasion and chance end it after", law.ends, units.RATIO, origin),
            Input("c", "cooling medium", law.coolant, units.RATIO, "its place in the table's ranking"),
            *_taught(result),
        ),
        "Taylor 1907, extended; ISO 8688-2; docs/physics.md section 13",
        "The shop's own edges: measured life comes first, expect a factor of two.",
    )  # fmt: skip


def _taught(result: Result) -> tuple[Input, ...]:
    """What the shop's own trials make of the tables' life."""
    lesson = result.setup.parts.lesson
    if lesson is None or not lesson.of_life:
        return ()
    origin = f"{lesson.of_life}, see Trial"
    return (
        Input("e^b0", "the shop's own edges over the tables", math.exp(lesson.level), units.RATIO, origin),
        Input("b1", "added to the exponent -1/n of speed", lesson.by_speed, units.RATIO, origin),
        Input("b2", "added to the exponent -a/n of the chip", lesson.by_chip, units.RATIO, origin),
    )


@_where_life_is_known
def engagement_speed(result: Result, e: Economy, where: Where) -> Explanation:
    """How much faster this engagement may run than the row's own."""
    data, origin = result.setup.parts.data, data_row(result, where)
    assert data is not None  # a life is known from its row
    return Explanation(
        "m = 1 + (m10 - 1)(Kv(x) - 1)/(Kv(0.10) - 1) below half engagement, straight to the slot's above, over that of the row",
        (
            Input("x", "ae over the diameter in contact", result.state.x, units.RATIO, "see Engagement", "phi_s"),
            Input("m10", "of a light cut, from practice", data.vc_mult_light, units.RATIO, origin),
            Input("m1", "of a slot, from practice", data.vc_mult_slot, units.RATIO, origin),
            Input("x row", "engagement at which the row's speed holds", data.ref_ae_over_d, units.RATIO, origin),
        ),
        "Cook 1973 for the shape between; docs/physics.md section 12", "The shop's own trials at this engagement.",
    )  # fmt: skip


@_where_life_is_known
def safe_life(result: Result, e: Economy, where: Where) -> Explanation:
    """The minutes that most edges outlive."""
    share, lesson = result.setup.parts.batch.survivors, result.setup.parts.lesson
    known = lesson is not None and lesson.edges >= KNOWN_FROM
    shape = shape_of(lesson.scatter) if lesson is not None and known else WEIBULL_SHAPE
    origin = f"{lesson.of_life}, see Trial" if lesson is not None and known else "usual, until five edges say otherwise"
    unbroken = ", less where edges may break" if known else ""
    return Explanation(
        f"minutes that {share:.0%} of edges outlive: T (ln(1/{share:g}) / ln 2)^(1/k){unbroken}",
        ("life", Input("S", "share that is to outlive them", share, units.SHARE, "batch"),
         Input("k", "Weibull shape", shape, units.RATIO, origin), "change_after"),
        "Weibull scatter; docs/physics.md section 13", TRIALS,
    )  # fmt: skip


@_where_life_is_known
def alone(result: Result, e: Economy, where: Where) -> Explanation:
    """The minutes that a machine may run with nobody there."""
    share = e.alone / e.safe_life
    return Explanation(
        "Ta = Ts times what chips that stay in the way leave of it: in slots deeper than DC/2 and gullets over 70 % full a half, "
        "a quarter in stainless steel, titanium and nickel",
        ("safe_life", Input("share", "here", share, units.SHARE, "the engagement, chip space and material")),
        "docs/physics.md section 13, confidence C", "Chips that are seen to get away; the shop's own nights.",
    )  # fmt: skip


@_where_life_is_known
def change_after(result: Result, e: Economy, where: Where) -> Explanation:
    """After how many parts the edge is changed."""
    return Explanation(
        "N = whole parts within the minutes that most edges outlive", ("safe_life", "time"),
        "docs/physics.md section 13", TRIALS,
    )  # fmt: skip


@_where_life_is_known
def edges_a_part(result: Result, e: Economy, where: Where) -> Explanation:
    """How many edges a part takes."""
    return Explanation("E = time in the cut / edge life", ("time", "life"), "docs/physics.md section 13", TRIALS)


def part_time(result: Result, where: Where) -> Explanation:
    """The time of a part."""
    timing, e = result.timing, result.economy
    links = Input("links", "entries in air, links and lifts", None if timing is None else timing.linking, units.MINUTES,
                  "nothing yet" if timing is None else _SOURCES[timing.basis])  # fmt: skip
    if e is None:
        return Explanation(
            "time in the cut + links; no edge life is known, so changing edges is left out", ("time", links), "docs/physics.md section 13",
            "A stopwatch.",
        )  # fmt: skip
    change = Input(
        "change", "time to change an edge", e.change_time, units.MINUTES, "batch, or 1 minute where it names none"
    )
    return Explanation(
        "time in the cut + links + edges used x time to change one", ("time", "edges", links, change),
        "docs/physics.md section 13", "A stopwatch.",
    )  # fmt: skip


@_where_life_is_known
def cost(result: Result, e: Economy, where: Where) -> Explanation:
    """The cost of a part."""
    return Explanation(
        "time of the part x rate + edges used x cost of an edge",
        (
            "part_time", Input("rate", "machine rate a minute", e.rate, units.MONEY, "batch, or the machine's own"),
            "edges", Input("C edge", "cost of an edge", e.edge_cost, units.MONEY, tool_row(result, where)),
            "vc_cheapest", "vc_quickest",
        ),
        "docs/physics.md section 13", "The shop's own calculation.",
    )  # fmt: skip


@_where_life_is_known
def best_speed(result: Result, e: Economy, where: Where) -> Explanation:
    """The speed of least cost or of most parts an hour."""
    return Explanation(
        "least of time, or of money, for what is cut in a minute, along the speed; the chip unchanged",
        (
            Input("n", "Taylor exponent of speed", e.law.n, units.RATIO, data_row(result, where)),
            Input("change", "time to change an edge", e.change_time, units.MINUTES, "batch, or 1 minute"),
            Input("C edge", "cost of an edge", e.edge_cost, units.MONEY, tool_row(result, where)),
            Input("rate", "machine rate a minute", e.rate, units.MONEY, "batch, or the machine's own"),
        ),
        "Gilbert 1950; docs/physics.md section 13", "The shop's own calculation.",
    )  # fmt: skip
