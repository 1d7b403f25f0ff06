"""What was proven, as the bank keeps it: made from a cut and its trials, found again by likeness, adopted with its conversions."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from lesna.learning.fit import Fit
from lesna.learning.settings import columns_of, scope_of, scope_told
from lesna.learning.trust import differences, trust
from lesna.model.kept import Shelf
from lesna.model.trials import Reading
from lesna.physics.edge.chip import greatest_thickness
from lesna.planning.cut.levels import depth_of
from lesna.planning.cut.result import Result

#: what a recipe says of its set-up, and of what is set
OF_SETUP = ("material", "hardness_hrc", "tool_kind", "DC", "ZEFP", "RE", "KAPR", "FHA", "substrate", "coating", "tool_id", "stick_out_mm",
            "holder", "machine", "coolant", "strategy", "direction")  # fmt: skip
_OF_SET = ("ae_mm", "ap_mm", "n_rpm", "vf_mm_min")
#: how much each further difference counts beside trust: ln of stepover, depth, feed per tooth and stick-out, each over the diameter
_PER_STEPOVER, _PER_DEPTH, _PER_FEED, _PER_STICK_OUT, _OTHER_STRATEGY = 0.5, 0.25, 0.25, 0.5, 0.3
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


def like_this(result: Result, recipes: Sequence[tuple[str, Mapping[str, Any]]], shelf: Shelf) -> list[Like]:
    """Recipes by how far they are from a cut, the nearest first; of two as near the one with more behind it.

    Parameters
    ----------
    result : Result
        The cut.
    recipes : sequence of (str, mapping)
        Names and data, as the bank keeps them.
    shelf : Shelf
        Library that materials are looked up in.
    """
    found = [_likeness(result, name, data, shelf) for name, data in recipes]
    return sorted(
        found, key=lambda one: (round(one.distance, 6), -one.data.get("evidence", {}).get("minutes", 0.0), one.name)
    )


def _likeness(result: Result, name: str, data: Mapping[str, Any], shelf: Shelf) -> Like:
    setup, chosen = data.get("setup", {}), data.get("set", {})
    scope, there = scope_of(result.setup.parts), scope_told(setup, shelf)
    if there is None:
        return Like(name, data, _STRANGE, (("material", scope.material, str(setup.get("material", "not given"))),))
    told = differences(scope, there)
    distance = abs(math.log(max(trust(scope, there), math.exp(-_STRANGE))))
    cut, DC = result.setup.parts.cut, result.setup.parts.tool.DC
    other = float(setup.get("DC") or DC)
    for what, here, beyond, weight in (
        ("stepover over the diameter", cut.ae_mm / DC, _over(chosen.get("ae_mm"), other), _PER_STEPOVER),
        ("depth over the diameter", cut.ap_mm / DC, _over(chosen.get("ap_mm"), other), _PER_DEPTH),
        ("feed per tooth over the diameter", float(result.state.fz) / DC, _over(chosen.get("fz_mm"), other), _PER_FEED),
        ("stick-out over the diameter", cut.stick_out_mm / DC, _over(setup.get("stick_out_mm"), other), _PER_STICK_OUT),
    ):
        if beyond is not None and abs(math.log(here / beyond)) > _SAME:
            distance += weight * abs(math.log(here / beyond))
            told.append((what, f"{here:.3g}", f"{beyond:.3g}"))
    if setup.get("strategy") not in (None, cut.strategy):
        distance += _OTHER_STRATEGY
        told.append(("strategy", cut.strategy.replace("_", " "), str(setup["strategy"]).replace("_", " ")))
    return Like(name, data, distance, tuple(told))


def _over(value: Any, DC: float) -> float | None:
    return float(value) / DC if value else None


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
