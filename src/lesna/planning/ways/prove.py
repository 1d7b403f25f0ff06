"""A path written, read back, simulated, and its feed taken back where more is engaged than wanted: what is offered is what was proved."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lesna.planning.cut.result import Result
from lesna.planning.ways.feeds import eased
from lesna.planning.ways.judge import Judged, Tell, judged
from lesna.planning.ways.make import Before, Route, route_of
from lesna.planning.ways.program import Printing, post_text, printed, program_of
from lesna.planning.ways.remedies import Offer, offers_for
from lesna.planning.ways.wish import Wish

#: engagement over the wanted one from which the feed is taken back
_OVER = 1.05
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


def proved(
    result: Result, wish: Wish, printing: Printing, title: str, *, before: Before | None = None,
    tell: Callable[[str], Tell | None] | None = None,
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
    tell : callable or None
        Given the name of a stage, what is told (done, total) of it.

    Raises
    ------
    InputError
        When no path can be made, or the post is not understood.
    FileProblem
        When the post cannot be read.
    """
    say = tell or (lambda stage: None)
    template, parts = post_text(printing.post), result.setup.parts
    started = time.perf_counter()
    route = route_of(result, wish, say("path"), before)
    seconds = time.perf_counter() - started
    content = program_of(route, result, title, printing, template)
    found = judged(route, content, parts, say("simulating"))
    shares = _shares(route, found, content, printing) if wish.eased else {}
    if shares:
        route = replace(route, stretches=eased(route.stretches, shares))
        content = program_of(route, result, title, printing, template)
        found = judged(route, content, parts, say("simulating"), found)
    offers = (
        offers_for(route.region, route.demand) if found.slivers and wish.remedy == "none" and before is None else ()
    )
    return Proved(route, content, found, content.count(b"\n"), seconds, offers)


def _shares(route: Route, found: Judged, content: bytes, printing: Printing) -> dict[tuple[int, int], float]:
    """Share of its feed that each overloaded move keeps: with it what is removed in a minute stays as wanted."""
    blocks = printed(route, printing)
    # the blocks stand one after the other somewhere in the program
    lines = content.decode("latin-1").splitlines()
    first = lines.index(blocks[0][0]) + 1
    most = np.zeros(len(lines) + 2)
    np.maximum.at(most, found.lines, found.stepovers)
    return {
        source: max(1.0 / float(most[first + number]), _LEAST)
        for number, (_, source) in enumerate(blocks)
        if source is not None and most[first + number] > _OVER
    }
