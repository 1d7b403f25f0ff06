"""What was proven, as the bank keeps it: made from a cut and its trials, found again by likeness, adopted with its conversions."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.learning.fit import Fit
from lesna.learning.settings import columns_of, scope_of, scope_told
from lesna.learning.trust import SetUp, differences, trust
from lesna.model.kept import Shelf
from lesna.model.trials import Reading
from lesna.physics import Array
from lesna.physics.edge.chip import greatest_thickness
from lesna.planning.cut.levels import depth_of
from lesna.planning.cut.result import Result

#: what a recipe says of its set-up, and of what is set
OF_SETUP = ("material", "hardness_hrc", "tool_kind", "DC", "ZEFP", "RE", "KAPR", "FHA", "substrate", "coating", "tool_id", "stick_out_mm",
            "holder", "machine", "coolant", "strategy", "direction")  # fmt: skip
_OF_SET = ("ae_mm", "ap_mm", "n_rpm", "vf_mm_min")
#: how much each further difference counts beside trust: ln of stepover, depth, feed per tooth and stick-out, each over the diameter
_SHARES = (("stepover over the diameter", 0.5), ("depth over the diameter", 0.25), ("feed per tooth over the diameter", 0.25),
           ("stick-out over the diameter", 0.5))  # fmt: skip
_OTHER_STRATEGY = 0.3
#: fields by which set-ups of recipes are told apart
_TELLING = ("material", "hardness_hrc", "tool_kind", "DC", "substrate", "coating", "coolant", "machine", "holder")
#: distance of a recipe whose material nobody knows here
_STRANGE = 9.0
#: how far an edge may have run from what it proves [-]
_SAME_SETTING = 0.05
#: a difference that is smaller is not listed [-]
_SAME = 0.02


@dataclass(frozen=True)
class Like:
    """A recipe beside a cut: how far it is, and what differs (what, here, there)."""

    name: str
    data: Mapping[str, Any]
    distance: float
    differences: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class Converted:
    """A number that was taken over: what it was, what it becomes, and how."""

    field: str
    there: float
    here: float
    how: str


def recipe_of(result: Result, fit: Fit) -> dict[str, Any]:
    """A cut with what proves it; without an edge of its own set-up it says so by its evidence."""
    columns = columns_of(result)
    minutes: dict[str, float] = {}
    proof = [one for one in fit.own if _ran_so(one.reading, columns)]
    for one in proof:
        edge = f"{one.reading.trial} / {one.reading.edge}"
        minutes[edge] = max(minutes.get(edge, 0.0), one.reading.minutes)
    total, q = sum(minutes.values()), float(result.state.q)
    return {
        "job": "", "cut": result.name, "role": result.setup.parts.cut.role,
        "setup": {key: columns[key] for key in OF_SETUP if key in columns},
        "set": {**{key: columns[key] for key in _OF_SET}, "fz_mm": float(result.state.fz), "q_cm3_min": q},
        "evidence": {
            "edges": len(minutes), "minutes": total, "cm3_per_edge": q * total / len(minutes) if minutes else None,
            "life_min": fit.at_cut.median, "life_low_min": fit.at_cut.low, "readings": sorted({one.reading.trial for one in proof}),
        },
    }  # fmt: skip


def _ran_so(reading: Reading, columns: Mapping[str, Any]) -> bool:
    """Whether a look was at an edge that ran as the cut is set: nothing else proves it."""
    pairs = [(getattr(reading, key), columns[key]) for key in _OF_SET]
    return all(ran and abs(ran / set_ - 1.0) <= _SAME_SETTING for ran, set_ in pairs)


def is_proven(data: Mapping[str, Any]) -> bool:
    """Whether an edge stands behind a recipe."""
    return bool(data.get("evidence", {}).get("edges"))


def takes(data: Mapping[str, Any], removed: float) -> tuple[float, float | None] | None:
    """Minutes in the cut and edges that a volume [cm3] takes as a recipe cuts; None where it does not say its removal."""
    q, an_edge = data.get("set", {}).get("q_cm3_min"), data.get("evidence", {}).get("cm3_per_edge")
    return (removed / q, removed / an_edge if an_edge else None) if q else None


def like_this(
    result: Result, recipes: Sequence[tuple[str, Mapping[str, Any]]], shelf: Shelf, most: int | None = None
) -> list[Like]:
    """Recipes by how far they are from a cut, the nearest first; of two as near the one with more behind it.

    Parameters
    ----------
    result : Result
        The cut.
    recipes : sequence of (str, mapping)
        Names and data, as the bank keeps them.
    shelf : Shelf
        Library that materials are looked up in.
    most : int or None
        How many are told; all where left out.
    """
    return RecipeIndex(recipes, shelf).like(result, most)


class RecipeIndex:
    """Recipes made ready to be searched again and again: their set-ups told apart once, their shares as logarithms.

    Parameters
    ----------
    recipes : sequence of (str, mapping)
        Names and data, as the bank keeps them.
    shelf : Shelf
        Library that materials are looked up in.
    """

    def __init__(self, recipes: Sequence[tuple[str, Mapping[str, Any]]], shelf: Shelf) -> None:
        self._shelf = shelf
        self._recipes = sorted(recipes, key=lambda one: one[0])  # of two that are alike in all the first by name
        numbers: dict[tuple[Any, ...], int] = {}
        #: set-ups that differ, None where nobody knows the material, and which of them each recipe has
        self._scopes: list[SetUp | None] = []
        self._of = np.zeros(len(recipes), dtype=int)
        self._shares = np.full((len(recipes), len(_SHARES)), np.nan)
        for place, (_, data) in enumerate(self._recipes):
            setup = data.get("setup", {})
            key = tuple(setup.get(name) for name in _TELLING)
            if key not in numbers:
                numbers[key] = len(self._scopes)
                self._scopes.append(scope_told(setup, shelf))
            self._of[place] = numbers[key]
            self._shares[place] = _shares_of(data)
        self._strategies = [data.get("setup", {}).get("strategy") for _, data in self._recipes]
        self._minutes = np.array(
            [data.get("evidence", {}).get("minutes", 0.0) for _, data in self._recipes], dtype=float
        )

    def like(self, result: Result, most: int | None = None) -> list[Like]:
        """The recipes nearest to a cut (see `like_this`)."""
        parts = result.setup.parts
        here, strategy = scope_of(parts), parts.cut.strategy
        far = np.array(
            [
                _STRANGE if there is None else -math.log(max(trust(here, there), math.exp(-_STRANGE)))
                for there in self._scopes
            ]
        )
        mine = _own_shares(result)
        off = np.abs(np.log(mine / self._shares))
        off = np.where(off > _SAME, off, 0.0)  # what is not said makes no difference
        beside = off @ np.array([weight for _, weight in _SHARES])
        beside += _OTHER_STRATEGY * np.array([other not in (None, strategy) for other in self._strategies], dtype=float)
        known = np.array([there is not None for there in self._scopes], dtype=bool)
        distance = (far[self._of] + np.where(known[self._of], beside, 0.0)) if len(self._recipes) else np.zeros(0)
        ranks = zip(np.round(distance, 6).tolist(), (-self._minutes).tolist(), range(len(distance)), strict=True)
        order = [place for _, _, place in sorted(ranks)]
        return [self._like(place, float(distance[place]), here, strategy, mine) for place in order[:most]]

    def _like(self, place: int, distance: float, here: SetUp, strategy: str, mine: Array) -> Like:
        """A recipe with all that differs: what, here, there."""
        name, data = self._recipes[place]
        there = self._scopes[self._of[place]]
        if there is None:
            told = [("material", here.material, str(data.get("setup", {}).get("material", "not given")))]
            return Like(name, data, distance, tuple(told))
        told = differences(here, there)
        for (what, _), own, other in zip(_SHARES, mine, self._shares[place], strict=True):
            if other > 0 and abs(math.log(own / other)) > _SAME:
                told.append((what, f"{own:.3g}", f"{other:.3g}"))
        tool = data.get("setup", {}).get("tool_id")
        if tool and tool not in self._shelf.tools:
            told.append(("its tool", "", f"{tool}, which is not in the library any more"))
        if self._strategies[place] not in (None, strategy):
            told.append(("strategy", strategy.replace("_", " "), str(self._strategies[place]).replace("_", " ")))
        return Like(name, data, distance, tuple(told))


def _own_shares(result: Result) -> Array:
    """Stepover, depth, feed per tooth and stick-out of a cut over its diameter [-]."""
    cut, DC = result.setup.parts.cut, result.setup.parts.tool.DC
    return np.array([cut.ae_mm, cut.ap_mm, float(result.state.fz), cut.stick_out_mm]) / DC


def _shares_of(data: Mapping[str, Any]) -> list[float]:
    """The same of a recipe; not a number where it does not say."""
    setup, chosen = data.get("setup", {}), data.get("set", {})
    DC = setup.get("DC")
    values = (chosen.get("ae_mm"), chosen.get("ap_mm"), chosen.get("fz_mm"), setup.get("stick_out_mm"))
    return [value / DC if DC and value else math.nan for value in values]


def adopted(result: Result, data: Mapping[str, Any]) -> tuple[dict[str, Any], list[Converted]]:
    """Fields of the cut as a recipe has them, converted to this tool and stick-out, and how each number became what it is.

    The stepover and depth keep their shares of the diameter, the surface speed and the thickest chip stay; where the tool sticks out
    further for its diameter the depth goes down with the stiffness it loses, and nowhere does it go beyond edge or feature.
    """
    parts = result.setup.parts
    setup, chosen = data["setup"], data["set"]
    DC, other = parts.tool.DC, float(setup["DC"])
    ratio = DC / other
    by_ratio = "" if abs(ratio - 1) < 1e-9 else f" x DC here over there, {ratio:.3g}"
    ae = min(chosen["ae_mm"] * ratio, DC)
    out = [Converted("ae_mm", chosen["ae_mm"], ae, f"the same share of the diameter{by_ratio}")]
    ap, how = chosen["ap_mm"] * ratio, f"the same share of the diameter{by_ratio}"
    slender = (parts.cut.stick_out_mm / DC) / (
        float(setup.get("stick_out_mm") or parts.cut.stick_out_mm * other / DC) / other
    )
    if slender > 1.0 + _SAME:
        ap, how = ap / slender**3, f"{how}; less by the stiffness that {slender:.2f} times the stick-out costs"
    most = min(
        value
        for value in (parts.tool.edge_depth, parts.cut.stick_out_mm, depth_of(parts.cut.feature))
        if value is not None
    )
    if ap > most:
        ap, how = most, f"{how}; no deeper than edge, stick-out and feature"
    out.append(Converted("ap_mm", chosen["ap_mm"], ap, how))
    vc = math.pi * other * chosen["n_rpm"] / 1000.0
    out.append(Converted("vc_m_min", vc, vc, "surface speed stays"))
    s_top = math.sin(math.radians(float(setup.get("KAPR", 90.0))))
    fz = chosen["vf_mm_min"] / (chosen["n_rpm"] * float(setup["ZEFP"]))
    h_ex = float(greatest_thickness(fz, min(chosen["ae_mm"] / other, 1.0), other, s_top))
    teeth = (
        ""
        if setup["ZEFP"] == parts.tool.ZEFP
        else f"; {parts.tool.ZEFP} teeth here, {setup['ZEFP']} there feed accordingly"
    )
    out.append(Converted("hex_mm", h_ex, h_ex, f"thickest chip stays, of fz {fz:.4g} mm{teeth}"))
    values: dict[str, Any] = {one.field: one.here for one in out}
    return {**values, "fz_mm": None, "book": None, "n_rpm": None, "life_min_wanted": None}, out
