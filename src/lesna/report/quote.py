"""A quote as a page and as a table, with what edges leave open."""

from __future__ import annotations

import csv
import datetime
import io
from collections.abc import Iterator, Sequence

from lesna import __version__
from lesna.learning.batch import BatchSpread
from lesna.model import units
from lesna.model.job import Job
from lesna.model.shown import counted
from lesna.planning.quote import Change, Quote, hours, told
from lesna.report.pages import template


def quote_html(
    job: Job,
    quote: Quote,
    changes: Sequence[Change] = (),
    spread: BatchSpread | None = None,
    *,
    today: datetime.date | None = None,
) -> str:
    """The page of a quote.

    Parameters
    ----------
    job : Job
        The document.
    quote : Quote
        Its batch.
    changes : sequence of Change
        What would save something, the most worth first.
    spread : BatchSpread, optional
        What edges leave open.
    today : date, optional
        Date on the page; the current one where left out.
    """
    return str(
        template("quote.html.j2").render(
            job=job,
            parts=counted(quote.parts, "part"),
            summary=told(quote),
            rows=[cut_words(quote, place, spread) for place in range(len(quote.cuts))],
            sums=sum_words(quote, spread),
            source="" if spread is None else source_words(spread),
            changes=[change_words(change) for change in changes],
            date=(today or datetime.date.today()).isoformat(),
            version=__version__,
        )
    )


def cut_words(quote: Quote, place: int, spread: BatchSpread | None = None) -> tuple[str, ...]:
    """A cut as it stands in the table: name, tool, time a part with its source and spread, edges, machine and edges in money."""
    cut = quote.cuts[place]
    edges = "–" if cut.edges is None else units.PLAIN.text(cut.edges, "metric")
    known = None if spread is None else next((one for one in spread.cuts if one.place == place), None)
    reach = "–" if known is None else f"{units.clock(known.minutes[1])} to {units.clock(known.minutes[2])}"
    return (cut.name, cut.tool, "–" if cut.minutes is None else units.clock(cut.minutes), cut.basis, reach, edges,
            _money(cut.machine_money), _money(cut.edge_money))  # fmt: skip


def sum_words(quote: Quote, spread: BatchSpread | None = None) -> tuple[tuple[str, str], ...]:
    """What the batch comes to, line by line."""
    lines = [
        ("Set-up", "not given" if quote.setup_minutes is None else hours(quote.setup_minutes)),
        ("Programming", "not given" if quote.programming_minutes is None else hours(quote.programming_minutes)),
        ("Tool changes, a part", f"{units.clock(quote.changes_minutes)} min:s"),
        ("A part", f"{units.clock(quote.minutes_a_part)} min:s"),
        (f"{counted(quote.parts, 'part')}, set-up included", hours(quote.minutes)),
        ("Edges", f"{quote.edges}"),
        ("Machine", _money(quote.machine_money)),
        ("Edges in money", _money(quote.edge_money)),
        ("Programming in money", _money(quote.programming_money)),
        ("Together", _money(quote.money)),
        ("A part in money", _money(None if quote.money is None else quote.money / quote.parts)),
    ]
    if quote.price_per_volume is not None:
        usual = "" if quote.usual_price is None else f", usual {_volume_price(quote.usual_price)}"
        lines.append(("A removed cm³", f"{_volume_price(quote.price_per_volume)}{usual}"))
    if spread is not None:
        lines.append(("Nine of ten, a part", f"{units.clock(spread.minutes[1])} to {units.clock(spread.minutes[2])}"))
        if spread.cost is not None:
            lines.append(("and in money", f"{_money(spread.cost[1])} to {_money(spread.cost[2])}"))
    return tuple(lines)


def source_words(spread: BatchSpread) -> str:
    """What the spread stands on."""
    taught = [f"{cut.name} {counted(cut.from_edges, 'edge')}" for cut in spread.cuts if cut.from_edges]
    if not taught:
        return "The spread is that of the tables: no edge of these set-ups was looked at."
    return f"The spread stands on trials of {', '.join(taught)}" + (
        "." if spread.is_own else "; the others stand on tables."
    )


def rows_of(
    quote: Quote, changes: Sequence[Change] = (), spread: BatchSpread | None = None
) -> Iterator[tuple[str, ...]]:
    """A quote as the rows of a table, numbers with a point for a decimal."""

    def told(value: float | None, digits: int) -> str:
        return "" if value is None else f"{value:.{digits}f}"

    yield ("cut", "tool", "time by", "min a part", "min low", "min high", "edges a part", "edges low", "edges high",
           "machine money a part", "edge money a part", "cm3 a part", "from edges")  # fmt: skip
    open_ = {} if spread is None else {one.place: one for one in spread.cuts}
    for place, cut in enumerate(quote.cuts):
        one = open_.get(place)
        _, short, long = (None, None, None) if one is None else one.minutes
        _, least, most = (None, None, None) if one is None else one.edges
        yield (cut.name, cut.tool, cut.basis, told(cut.minutes, 3), told(short, 3), told(long, 3), told(cut.edges, 4), told(least, 4),
               told(most, 4), told(cut.machine_money, 2), told(cut.edge_money, 2), told(cut.volume, 3),
               "" if one is None else f"{one.from_edges}")  # fmt: skip
    yield ()
    yield ("parts", f"{quote.parts}")
    yield ("set-up min", told(quote.setup_minutes, 1))
    yield ("programming min", told(quote.programming_minutes, 1))
    yield ("tool changes min a part", told(quote.changes_minutes, 3))
    yield ("machine rate an hour", told(quote.rate, 2))
    yield ("min a part", told(quote.minutes_a_part, 3))
    yield ("min of the batch", told(quote.minutes, 1))
    yield ("edges of the batch", f"{quote.edges}")
    yield ("machine money", told(quote.machine_money, 2))
    yield ("edge money", told(quote.edge_money, 2))
    yield ("programming money", told(quote.programming_money, 2))
    yield ("money", told(quote.money, 2))
    yield ("money a part", told(None if quote.money is None else quote.money / quote.parts, 2))
    yield ("money a cm3", told(quote.price_per_volume, 4))
    yield ("usual money a cm3", told(quote.usual_price, 4))
    if spread is not None:
        low, high = spread.cost[1:] if spread.cost is not None else (None, None)
        yield ("min a part, set-up shared, low", told(spread.minutes[1], 3))
        yield ("min a part, set-up shared, high", told(spread.minutes[2], 3))
        yield ("money a part, low", told(low, 2))
        yield ("money a part, high", told(high, 2))
    if changes:
        yield ()
        yield ("change", "cut like", "min saved", "edges saved", "money saved")
        for change in changes:
            gain = change.saving
            yield (change.cut, change.way, told(gain.minutes, 1), f"{gain.edges}", told(gain.money, 2))


def csv_of(quote: Quote, changes: Sequence[Change] = (), spread: BatchSpread | None = None) -> str:
    """A quote as a table for other programs."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows_of(quote, changes, spread))
    return out.getvalue()


def _volume_price(value: float) -> str:
    return units.PRICE_PER_VOLUME.text(value, "metric")


def change_words(change: Change) -> tuple[str, ...]:
    """A change as it stands in the table: cut, way, time, edges and money of the batch."""
    gain = change.saving
    edges = f"{gain.edges}" if gain.edges >= 0 else f"{-gain.edges} more"
    return (change.cut, change.way, hours(gain.minutes), edges, _money(gain.money))


def _money(value: float | None) -> str:
    if value is None:
        return "no price"
    return units.MONEY.text(value, "metric") if value >= 0 else f"−{units.MONEY.text(-value, 'metric')}"
