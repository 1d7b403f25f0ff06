"""A quote as a page."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from lesna import __version__
from lesna.model import units
from lesna.model.job import Job
from lesna.model.shown import counted
from lesna.planning.quote import Change, Quote, hours, told
from lesna.report.pages import template


def quote_html(job: Job, quote: Quote, changes: Sequence[Change] = (), *, today: datetime.date | None = None) -> str:
    """The page of a quote.

    Parameters
    ----------
    job : Job
        The document.
    quote : Quote
        Its batch.
    changes : sequence of Change
        What would save something, the most worth first.
    today : date, optional
        Date on the page; the current one where left out.
    """
    return str(
        template("quote.html.j2").render(
            job=job,
            parts=counted(quote.parts, "part"),
            summary=told(quote),
            rows=[cut_words(quote, place) for place in range(len(quote.cuts))],
            sums=sum_words(quote),
            changes=[change_words(change) for change in changes],
            date=(today or datetime.date.today()).isoformat(),
            version=__version__,
        )
    )


def cut_words(quote: Quote, place: int) -> tuple[str, ...]:
    """A cut as it stands in the table: name, tool, time a part and its source, edges, machine and edges in money."""
    cut = quote.cuts[place]
    edges = "–" if cut.edges is None else units.PLAIN.text(cut.edges, "metric")
    return (cut.name, cut.tool, "–" if cut.minutes is None else units.clock(cut.minutes), cut.basis, edges,
            _money(cut.machine_money), _money(cut.edge_money))  # fmt: skip


def sum_words(quote: Quote) -> tuple[tuple[str, str], ...]:
    """What the batch comes to, line by line."""
    return (
        ("Set-up", "not given" if quote.setup_minutes is None else hours(quote.setup_minutes)),
        ("Tool changes, a part", f"{units.clock(quote.changes_minutes)} min:s"),
        ("A part", f"{units.clock(quote.minutes_a_part)} min:s"),
        (f"{counted(quote.parts, 'part')}, set-up included", hours(quote.minutes)),
        ("Edges", f"{quote.edges}"),
        ("Machine", _money(quote.machine_money)),
        ("Edges in money", _money(quote.edge_money)),
        ("Together", _money(quote.money)),
        ("A part in money", _money(None if quote.money is None else quote.money / quote.parts)),
    )


def change_words(change: Change) -> tuple[str, ...]:
    """A change as it stands in the table: cut, way, time, edges and money of the batch."""
    gain = change.saving
    edges = f"{gain.edges}" if gain.edges >= 0 else f"{-gain.edges} more"
    return (change.cut, change.way, hours(gain.minutes), edges, _money(gain.money))


def _money(value: float | None) -> str:
    if value is None:
        return "no price"
    return units.MONEY.text(value, "metric") if value >= 0 else f"−{units.MONEY.text(-value, 'metric')}"
