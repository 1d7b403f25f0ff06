"""A quote: what a batch of a job takes in time, edges and money, and what each change that is known would save of it."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import CutParts, Shelf
from lesna.model.shown import counted
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.economy import rate_of, tool_change_of
from lesna.planning.cut.result import Result
from lesna.planning.schools.compare import compare
from lesna.planning.schools.lanes import Saving, saving


@dataclass(frozen=True)
class QuotedCut:
    """One cut on one part; None where something that is needed for it is not known.

    Attributes
    ----------
    name, tool : str
        What cuts.
    basis : str
        What says how long it takes; empty where nothing does.
    minutes : float or None
        Of the machine, worn edges changed in their share [min].
    edges : float or None
        Edges that are used up [-].
    machine_money, edge_money : float or None
        What both cost.
    """

    name: str
    tool: str
    basis: str
    minutes: float | None
    edges: float | None
    machine_money: float | None
    edge_money: float | None


@dataclass(frozen=True)
class Quote:
    """A batch.

    Attributes
    ----------
    parts : int
        How many.
    setup_minutes : float or None
        Once for the batch; None where nobody has said [min].
    changes_minutes : float
        Tools put into the spindle on each part [min].
    rate : float or None
        Of the machine [money/h].
    cuts : tuple of QuotedCut
        In machining order.
    """

    parts: int
    setup_minutes: float | None
    changes_minutes: float
    rate: float | None
    cuts: tuple[QuotedCut, ...]

    @property
    def unknown(self) -> tuple[str, ...]:
        """Cuts of which no time is known, which the sums leave out."""
        return tuple(cut.name for cut in self.cuts if cut.minutes is None)

    @property
    def unpriced(self) -> tuple[str, ...]:
        """Cuts whose edges have no price, which the money leaves out."""
        return tuple(cut.name for cut in self.cuts if cut.minutes is not None and cut.edge_money is None)

    @property
    def minutes_a_part(self) -> float:
        """Of the machine, without setting it up [min]."""
        return self.changes_minutes + sum(cut.minutes or 0.0 for cut in self.cuts)

    @property
    def minutes(self) -> float:
        """Of the machine for the batch [min]."""
        return (self.setup_minutes or 0.0) + self.parts * self.minutes_a_part

    @property
    def edges(self) -> int:
        """Edges that the batch takes, each begun one whole [-]."""
        return sum(math.ceil(self.parts * (cut.edges or 0.0) - 1e-9) for cut in self.cuts)

    @property
    def machine_money(self) -> float | None:
        """Machine time of the batch; None without a rate."""
        return None if self.rate is None else self.minutes * self.rate / 60.0

    @property
    def edge_money(self) -> float:
        """Edges used up by the batch."""
        return self.parts * sum(cut.edge_money or 0.0 for cut in self.cuts)

    @property
    def money(self) -> float | None:
        """All of it for the batch."""
        return None if self.machine_money is None else self.machine_money + self.edge_money


@dataclass(frozen=True)
class Change:
    """Another way to make one cut, and what it would save over the batch."""

    cut: str
    way: str
    saving: Saving


def quote_of(job: Job, results: Sequence[Result]) -> Quote:
    """The quote of a job from the Results of its cuts, each timed by its program, its path or its estimate."""
    batch, parts = job.batch, results[0].setup.parts
    a_minute = rate_of(parts)
    rate = None if a_minute is None else 60.0 * a_minute
    cuts = tuple(_cut(result, a_minute) for result in results)
    return Quote(batch.parts, batch.setup_min, _switches(results) * tool_change_of(parts), rate, cuts)


def _switches(results: Sequence[Result]) -> int:
    """How often a part asks for another tool than the one in the spindle, the first of the next part included."""
    tools = [(result.setup.parts.tool, result.setup.parts.cut.stick_out_mm) for result in results]
    return sum(tool != tools[place - 1] for place, tool in enumerate(tools))


def _cut(result: Result, a_minute: float | None) -> QuotedCut:
    minutes, economy = result.part_time, result.economy
    edges = None if economy is None else economy.edges_per_part
    price = None if economy is None else economy.edge_cost
    return QuotedCut(
        name=result.name, tool=result.setup.parts.tool.name or result.setup.parts.tool.id,
        basis="" if result.timing is None else result.timing.basis, minutes=minutes, edges=edges,
        machine_money=None if minutes is None or a_minute is None else minutes * a_minute,
        edge_money=None if edges is None or price is None else edges * price,
    )  # fmt: skip


def changes_of(every: Sequence[CutParts], shelf: Shelf, pulse: Pulse = STEADY) -> tuple[Change, ...]:
    """The cheapest way to make each cut that has a feature, where it saves something, the most worth first."""
    found = []
    for done, parts in enumerate(every):
        try:
            comparison = compare(parts, shelf, "cost", pulse=pulse)
        except InputError:
            continue  # no feature, or none that is compared
        finally:
            pulse.tell(done + 1, len(every))
        best = comparison.winner
        gain = saving(comparison, best) if best is not None else None
        if best is not None and gain is not None and (gain.money if gain.money is not None else gain.minutes) > 0:
            found.append(Change(parts.cut.name, best.strategy.name, gain))
    return tuple(sorted(found, key=lambda change: -(change.saving.money or change.saving.minutes)))


def rows_of(quote: Quote, changes: Sequence[Change] = ()) -> Iterator[tuple[str, ...]]:
    """A quote as the rows of a table, numbers with a point for a decimal."""

    def told(value: float | None, digits: int) -> str:
        return "" if value is None else f"{value:.{digits}f}"

    yield ("cut", "tool", "time by", "min a part", "edges a part", "machine money a part", "edge money a part")
    for cut in quote.cuts:
        yield (cut.name, cut.tool, cut.basis, told(cut.minutes, 3), told(cut.edges, 4), told(cut.machine_money, 2),
               told(cut.edge_money, 2))  # fmt: skip
    yield ()
    yield ("parts", f"{quote.parts}")
    yield ("set-up min", told(quote.setup_minutes, 1))
    yield ("tool changes min a part", told(quote.changes_minutes, 3))
    yield ("machine rate an hour", told(quote.rate, 2))
    yield ("min a part", told(quote.minutes_a_part, 3))
    yield ("min of the batch", told(quote.minutes, 1))
    yield ("edges of the batch", f"{quote.edges}")
    yield ("machine money", told(quote.machine_money, 2))
    yield ("edge money", told(quote.edge_money, 2))
    yield ("money", told(quote.money, 2))
    yield ("money a part", told(None if quote.money is None else quote.money / quote.parts, 2))
    if changes:
        yield ()
        yield ("change", "cut like", "min saved", "edges saved", "money saved")
        for change in changes:
            gain = change.saving
            yield (change.cut, change.way, told(gain.minutes, 1), f"{gain.edges}", told(gain.money, 2))


def csv_of(quote: Quote, changes: Sequence[Change] = ()) -> str:
    """A quote as a table for other programs."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows_of(quote, changes))
    return out.getvalue()


def hours(minutes: float) -> str:
    """Minutes of a batch as hours and minutes."""
    whole, rest = divmod(round(abs(minutes)), 60)
    sign = "−" if minutes <= -0.5 else ""
    return f"{sign}{whole} h {rest} min" if whole else f"{sign}{rest} min"


def told(quote: Quote) -> str:
    """The batch in one sentence."""
    unset = "set-up not given" if quote.setup_minutes is None else f"set-up {hours(quote.setup_minutes)}"
    words = f"{unset}, {hours(quote.minutes)} of the machine, {counted(quote.edges, 'edge')}"
    if quote.money is not None and quote.machine_money is not None:
        money = units.MONEY.text(quote.money, "metric")
        a_part = units.MONEY.text(quote.money / quote.parts, "metric")
        machine, edge = (units.MONEY.text(value, "metric") for value in (quote.machine_money, quote.edge_money))
        words += f"; machine {machine} and edges {edge}, together {money}, {a_part} a part"
    left_out = (*quote.unknown, *quote.unpriced)
    return words + (f" (without {', '.join(left_out)})" if left_out else "")
