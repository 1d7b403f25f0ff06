"""Book, model and bank beside each other: what a toolmaker, the tables and the shop's own proof say of one cut, and why they part."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from lesna.learning.fit import Fit
from lesna.learning.recipes import Like, adopted, is_proven
from lesna.learning.settings import untaught
from lesna.model.errors import InputError
from lesna.model.facts import fact_of
from lesna.model.job import Cut
from lesna.model.kept import Shelf
from lesna.model.resolve import CutParts
from lesna.model.shown import counted
from lesna.planning.cut.motion import REFERENCE_ENGAGEMENT
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import hardness_of, setup_of
from lesna.planning.cut.starting import starting_values
from lesna.planning.evaluate import result_of
from lesna.planning.schools.book import against_book
from lesna.planning.telling.figures import FIGURES

Source = Literal["book", "model", "bank"]
SOURCES: dict[Source, str] = {"book": "Book", "model": "Model", "bank": "Bank"}
#: figures that are compared, by their id, in the order of reading
ROWS = ("vc", "n", "fz", "hex", "ae", "ap", "vf", "q", "power_motor", "fxy_peak", "life", "volume_per_edge")
#: a figure that is off the model's by more than this wants a reason [-]
APART = 0.25
#: a share of a difference that is smaller is not told [-]
_TOLD = 0.05
#: a recipe that lies farther is no proof for this cut
_FAR = 2.0
#: recipes that differ by less are as near
_AS_NEAR = 0.2
#: what makes a figure what it is, in the order in which it is taken over
_CAUSES = (("surface speed", ("vc_m_min",)), ("chip", ("hex_mm",)), ("stepover", ("ae_mm",)), ("depth", ("ap_mm",)))


@dataclass(frozen=True)
class Column:
    """What one source says.

    Attributes
    ----------
    source : str
        Which.
    says : str
        Where it comes from; why there is nothing, where `result` is None.
    result : Result or None
        The cut as it would be set.
    conversions : tuple of str
        What was converted on the way to this cut, in words.
    apart : dict
        By figure's id: how far it is off the model's as a factor, and why, where that is more than a quarter.
    """

    source: Source
    says: str
    result: Result | None
    conversions: tuple[str, ...] = ()
    apart: tuple[tuple[str, float, str], ...] = ()


def beside(result: Result, fit: Fit | None, recipes: Sequence[Like], shelf: Shelf) -> tuple[Column, Column, Column]:
    """The three columns of a cut.

    Parameters
    ----------
    result : Result
        The cut as it stands.
    fit : Fit or None
        What trials say of it; None where the tables know no life for it.
    recipes : sequence of Like
        What the bank holds, the nearest first.
    shelf : Shelf
        Library with the starting values.
    """
    model = _model(result, shelf)
    return _parted(_book(result), model), model, _parted(_bank(result, fit, recipes), model)


def _set(parts: CutParts, values: dict[str, Any]) -> Result:
    """The cut with what a source says set, by the tables alone unless the parts hold a lesson."""
    plain = {"book": None, "n_rpm": None, "fz_mm": None, "life_min_wanted": None}
    return result_of(setup_of(replace(parts, cut=parts.cut.with_values(**{**plain, **values}))), wait=False)


def _book(result: Result) -> Column:
    parts, found = result.setup.parts, against_book(result)
    book = parts.cut.book
    if book is None or found is None:
        return Column("book", "No toolmaker's value is typed in Cut.", None)
    stated = "" if book.ae_over_dc else f" (not stated, {REFERENCE_ENGAGEMENT:.0%} taken)"
    turns = [
        f"fz {book.fz_mm:.4g} mm x {found.thinning:.2f}: the chip thins from {found.ae_over_dc:.0%} stepover to this one"
    ]
    if book.vc_m_min is None:
        turns.append("the book names no speed: the cut's own is taken")
    vc = book.vc_m_min or float(result.state.vc)
    made = _set(untaught(parts), {"vc_m_min": vc, "hex_mm": found.chip_book, "ae_mm": parts.cut.ae_mm})
    return Column("book", f"Given at {found.ae_over_dc:.0%} stepover{stated}.", made, tuple(turns))


def _model(result: Result, shelf: Shelf) -> Column:
    parts = result.setup.parts
    cut = parts.cut
    found = starting_values(
        parts.tool,
        parts.material,
        cut.strategy,
        shelf,
        hb=hardness_of(parts.workpiece),
        feature=cut.feature,
        role=cut.role,
    )
    if found is None:
        return Column("model", "The tables have no row for this material and cutting material.", None)
    values = {"vc_m_min": found.vc, "hex_mm": found.hex, "ae_mm": found.ae, "ap_mm": found.ap}
    return Column("model", f"Starting values of the tables ({found.source}).", _set(untaught(parts), values))


def _bank(result: Result, fit: Fit | None, recipes: Sequence[Like]) -> Column:
    """The nearest recipe that an edge has proven; without one the cut as it stands, if edges ran so."""
    near = _nearest(result, recipes)
    if near is not None:
        try:
            values, told = adopted(result, near.data)
            made = _set(result.setup.parts, values)
        except (InputError, KeyError, TypeError, ValueError, ZeroDivisionError):
            return Column("bank", f"The recipe {near.name} does not say enough to be set here.", None)
        edges = counted(near.data["evidence"]["edges"], "edge")
        turns = tuple(f"{_plain(one.field)}: {one.how}" for one in told if abs(one.here / one.there - 1.0) > 1e-6)
        return Column("bank", f"Recipe {near.name}, proven by {edges}, {near.distance:.2f} away.", made, turns)
    if fit is not None and fit.edges:
        return Column("bank", f"No recipe is near; the cut as it stands, {fit.lesson.of_life}.", result)
    return Column(
        "bank", "No recipe that an edge has proven lies near, and no edge of this set-up was looked at.", None
    )


def _nearest(result: Result, recipes: Sequence[Like]) -> Like | None:
    """The proven recipe for this kind of cut that is nearest; of those about as near the one with the most edges behind it."""
    role = result.setup.parts.cut.role
    known = [
        one for one in recipes if is_proven(one.data) and one.distance <= _FAR and one.data.get("role", role) == role
    ]
    least = min((one.distance for one in known), default=0.0)
    about = [one for one in known if one.distance <= least + _AS_NEAR]
    return max(about, key=lambda one: (one.data["evidence"]["edges"], -one.distance), default=None)


def _plain(key: str) -> str:
    return fact_of(Cut, key).label


def _parted(column: Column, model: Column) -> Column:
    """The column with what is more than a quarter off the model, and what makes it so."""
    if column.result is None or model.result is None:
        return column
    found = []
    chain = _between(model.result, column.result)
    for id in ROWS:
        values = [FIGURES[id].value(one) for _, one in chain]
        first, last = values[0], values[-1]
        if not first or not last or first <= 0 or last <= 0 or abs(math.log(last / first)) <= math.log(1.0 + APART):
            continue
        steps = [(chain[place + 1][0], after / before) for place, (before, after) in enumerate(zip(values, values[1:], strict=False))
                 if before and after and abs(math.log(after / before)) > math.log(1.0 + _TOLD)]  # fmt: skip
        why = ", ".join(f"{name} x {factor:.2f}" for name, factor in steps)
        found.append((id, last / first, f"{why}" if len(steps) > 1 or not steps else steps[0][0]))
    return replace(column, apart=tuple(found))


def _between(first: Result, last: Result) -> list[tuple[str, Result]]:
    """From one result to another, what is set taken over step by step, the trials last."""
    parts, state = first.setup.parts, last.state
    final = {
        "vc_m_min": float(state.vc), "hex_mm": float(state.hex_asked), "ae_mm": float(state.ae), "ap_mm": float(state.ap),
    }  # fmt: skip
    chain, values = [("", first)], {}
    for name, keys in _CAUSES:
        values.update({key: final[key] for key in keys})
        kept = {"vc_m_min": float(first.state.vc), "hex_mm": float(first.state.hex_asked), **values}
        chain.append((name, _set(parts, kept)))
    return [*chain, ("trials", last)]
