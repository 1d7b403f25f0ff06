"""A quote: what a batch of a job takes in time, edges and money, and what each change that is known would save of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import CutParts, Shelf
from lesna.model.shown import counted
from lesna.model.work import STEADY, Pulse
from lesna.planning.cut.economy import rate_of, tool_change_of
from lesna.planning.cut.features import volume
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
    volume : float or None
        Material that it removes; None without a feature [cm3].
    """

    name: str
    tool: str
    basis: str
    minutes: float | None
    edges: float | None
    machine_money: float | None
    edge_money: float | None
    volume: float | None = None


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
    programming_minutes, programming_rate : float or None
        Once for the batch, and what an hour of it costs [min], [money/h].
    usual_price : float or None
        Of removed material, where the shop has said one [money/cm3].
    """

    parts: int
    setup_minutes: float | None
    changes_minutes: float
    rate: float | None
    cuts: tuple[QuotedCut, ...]
    programming_minutes: float | None = None
    programming_rate: float | None = None
    usual_price: float | None = None

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
    def programming_money(self) -> float | None:
        """Programming, once; None where its time or its rate is not given."""
        if self.programming_minutes is None or self.programming_rate is None:
            return None
        return self.programming_minutes * self.programming_rate / 60.0

    @property
    def money(self) -> float | None:
        """All of it for the batch."""
        if self.machine_money is None:
            return None
        return self.machine_money + self.edge_money + (self.programming_money or 0.0)

    @property
    def volume(self) -> float | None:
        """Material that the batch removes; None where that of a cut is not known [cm3]."""
        volumes = [cut.volume for cut in self.cuts]
        return None if None in volumes else self.parts * sum(filter(None, volumes))

    @property
    def price_per_volume(self) -> float | None:
        """What the removal of a cubic centimetre comes to [money/cm3]."""
        return None if self.money is None or not self.volume else self.money / self.volume


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
    return Quote(
        batch.parts, batch.setup_min, switch_minutes(results), rate, cuts, batch.programming_min,
        batch.programming_rate_per_h, batch.price_per_cm3,
    )  # fmt: skip


def switch_minutes(results: Sequence[Result]) -> float:
    """Minutes a part in which another tool is put into the spindle, the first of the next part included."""
    tools = [(result.setup.parts.tool, result.setup.parts.cut.stick_out_mm) for result in results]
    times = sum(tool != tools[place - 1] for place, tool in enumerate(tools))
    return times * tool_change_of(results[0].setup.parts) if results else 0.0


def _cut(result: Result, a_minute: float | None) -> QuotedCut:
    minutes, economy = result.part_time, result.economy
    edges = None if economy is None else economy.edges_per_part
    price = None if economy is None else economy.edge_cost
    return QuotedCut(
        name=result.name, tool=result.setup.parts.tool.name or result.setup.parts.tool.id,
        basis="" if result.timing is None else result.timing.basis, minutes=minutes, edges=edges,
        machine_money=None if minutes is None or a_minute is None else minutes * a_minute,
        edge_money=None if edges is None or price is None else edges * price,
        volume=volume(result.setup.parts.cut.feature),
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
