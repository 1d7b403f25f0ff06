"""A path written, read back, simulated, and its feed taken back where more is engaged than wanted: what is offered is what was proved."""

from __future__ import annotations

import contextlib
import time
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.result import Result
from lesna.planning.program.geometry import MeetsNothing
from lesna.planning.program.summary import Summary, summary_of
from lesna.planning.routes.wish import Wish
from lesna.planning.ways.entries import let_down, struck_by
from lesna.planning.ways.feeds import Span, eased
from lesna.planning.ways.judge import Judged, judged
from lesna.planning.ways.make import Before, Route, again, route_of
from lesna.planning.ways.program import Printing, Written, post_text, program_of
from lesna.planning.ways.remedies import Offer, offers_for
from lesna.planning.ways.walls_kept import ALLOWED, cut_into_walls

#: engagement over the wanted one from which the feed is taken back
_OVER = 1.05
#: it is taken back so far before, and stretches nearer to each other than this are one, over the radius
_EARLY, _APART = 0.1, 0.5
#: the way that follows any wall, and the share of a floor that a way may leave before that is tried
_ANY_WALL, _MUCH = "held", 0.02
#: how often ways down are mended: what is cut otherwise may leave other places standing
_ROUNDS = 3
#: of which it keeps at least so much
_LEAST = 0.25


@dataclass(frozen=True)
class Proved:
    """A path with its program and what the simulation says of it.

    Attributes
    ----------
    route : Route
        The path.
    content : bytes
        The program.
    judged : Judged
        Its simulation.
    blocks : int
        Lines of the program.
    seconds : float
        That making the path took [s].
    offers : tuple of Offer
        What helps, where there are thin webs.
    """

    route: Route
    content: bytes
    judged: Judged
    blocks: int
    seconds: float
    offers: tuple[Offer, ...]

    @cached_property
    def summary(self) -> Summary:
        """Its program in numbers."""
        return summary_of(self.judged.run)


def proved(
    result: Result, wish: Wish, printing: Printing, title: str, *, before: Before | None = None,
    pulse: Pulse = STEADY,
) -> Proved:  # fmt: skip
    """Makes the path of a cut and proves it.

    Parameters
    ----------
    result : Result
        The cut, computed.
    wish : Wish
        How the path is wanted.
    printing : Printing
        How its program is written.
    title : str
        Of the job.
    before : Before or None
        What an earlier cut has left.
    pulse : Pulse
        Told how far it is.

    Raises
    ------
    InputError
        When no path can be made, or the post is not understood.
    FileProblem
        When the post cannot be read.
    """
    template, parts = post_text(printing.post), result.setup.parts
    pulse.begin("path")
    try:
        route, written, found, seconds = _harmless(result, wish, printing, title, template, before, pulse)
    except CutsWall:
        if wish.way or wish.remedy != "none":
            raise
        # where nothing is said a way is chosen that follows any wall
        wish = replace(wish, way=_ANY_WALL)
        route, written, found, seconds = _harmless(result, wish, printing, title, template, before, pulse)
    if not wish.way and route.generator.closes and found.leftover > _MUCH * float(route.region.cleared.area):
        # nor is one that leaves much of the floor
        with contextlib.suppress(InputError):
            other = _harmless(result, replace(wish, way=_ANY_WALL), printing, title, template, before, pulse)
            if other[2].leftover < 0.5 * found.leftover:
                route, written, found, seconds = other
    spans = _spans(route, found, written, float(result.state.vf)) if wish.eased else {}
    if spans:
        route = replace(route, stretches=eased(route.stretches, spans))
        written = program_of(route.stretches, result, title, printing, template)
        found = judged(route, written, parts, pulse, found)
    offers = (
        offers_for(route.region, route.demand) if found.slivers and wish.remedy == "none" and before is None else ()
    )
    return Proved(route, written.content, found, written.content.count(b"\n"), seconds, offers)


class CutsWall(InputError):
    """A way of cutting would cut into a wall of this shape."""


def _harmless(
    result: Result, wish: Wish, printing: Printing, title: str, template: str, before: Before | None, pulse: Pulse
) -> tuple[Route, Written, Judged, float]:
    """A route that neither cuts into a wall nor goes straight down into what stands, its program, and how long it took to make [s].

    Raises
    ------
    CutsWall
        With the place.
    """
    parts, started = result.setup.parts, time.perf_counter()
    route = _along_walls(route_of(result, wish, pulse, before))
    seconds = time.perf_counter() - started
    written = program_of(route.stretches, result, title, printing, template)
    try:
        found = judged(route, written, parts, pulse)
    except MeetsNothing:
        raise InputError(
            "there is nothing for this path to cut: what it would take is thinner than the cells of the stock. Give the cut more depth or "
            "stepover, or let the cut before it leave stock on walls and floor",
            "feature",
        ) from None
    for _ in range(_ROUNDS):
        struck = struck_by(route, found, written.sources)
        if not struck:
            break
        way, left = let_down(route, struck)
        if not any(leg.intent in ("cut", "wall") for leg in way.legs):
            raise InputError("; ".join(left) or "nothing of this can be reached", "feature")
        route = _along_walls(again(route, way, result, wish, left))
        written = program_of(route.stretches, result, title, printing, template)
        found = judged(route, written, parts, pulse)
    return route, written, found, seconds


def _along_walls(route: Route) -> Route:
    """The route, as long as it keeps from the walls."""
    deep, (x, y) = cut_into_walls(route.region, route.stretches, route.demand.radius + route.demand.wall)
    if deep > ALLOWED:
        raise CutsWall(
            f"{route.generator.title} would cut {deep:.3f} mm into the wall at x {x:.2f}, y {y:.2f}; choose another way, "
            "such as held engagement, which follows any wall"
        )
    return route


def _spans(route: Route, found: Judged, written: Written, feed: float) -> dict[tuple[int, int], list[Span]]:
    """Where along each move less feed is wanted: what is removed in a minute stays as at the feed of the cut there [mm/min]."""
    sources = written.sources
    steps = found.run.geometry.steps
    line = found.run.geometry.program.moves.line[steps.move]
    over = np.flatnonzero(found.loads > _OVER)
    out: dict[tuple[int, int], list[Span]] = {}
    if not len(over):
        return out
    gone = np.append(0.0, np.cumsum(steps.length))
    begins = np.searchsorted(steps.move, np.arange(int(steps.move[-1]) + 2))
    for group in np.split(over, np.flatnonzero((np.diff(over) > 1) | (np.diff(steps.move[over]) > 0)) + 1):
        source = sources.get(int(line[group[0]]))
        move = int(steps.move[group[0]])
        start, whole = gone[begins[move]], gone[begins[move + 1]] - gone[begins[move]]
        if source is None or whole <= 0:
            continue
        # a little before it, since the feed takes its time to fall
        a = max(float(gone[group[0]] - start - _EARLY * route.demand.radius) / whole, 0.0)
        b = min(float(gone[group[-1] + 1] - start) / whole, 1.0)
        # an arc along a wall that is fed at its edge is slow already: never both
        step = route.stretches[source[0]].steps[source[1]]
        share = max(feed / step.feed / float(found.loads[group].max()), _LEAST)
        if share > 1.0 / _OVER:
            continue
        spans = out.setdefault(source, [])
        if spans and a - spans[-1][1] < _APART * route.demand.radius / whole:
            a, share = spans[-1][0], min(share, spans[-1][2])
            spans.pop()
        spans.append((a, b, share))
    return out
