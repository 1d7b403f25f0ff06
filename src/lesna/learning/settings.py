"""From records to what is learned with: the set-up of a cut or a reading, and what the tables say of its setting."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

import numpy as np

from lesna.learning.edges import Edge, Look, Mark
from lesna.learning.trust import SetUp
from lesna.model import names
from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.kept import Shelf
from lesna.model.resolve import CutParts, parts_of
from lesna.model.shown import shortened
from lesna.model.trials import Reading
from lesna.physics.life.hardness import brinell_from_rockwell
from lesna.planning.chatter.estimate import estimated_depth
from lesna.planning.cut.life import law_of, multiplier
from lesna.planning.cut.limits import BY_ID
from lesna.planning.cut.motion import motion_of
from lesna.planning.cut.result import Result
from lesna.planning.cut.setup import CutSetup, hardness_of, setup_of, usual_hardness
from lesna.planning.cut.solve import State, solve_one

#: coolants that are no liquid
_DRY = frozenset({"dry", "air", "through_air"})


@dataclass(frozen=True)
class Setting:
    """What the tables say of one setting, before any trial.

    Attributes
    ----------
    life, reference : float
        Median life, and that of the row's own reference [min].
    x : tuple of float
        ln of speed and of chip over the references, as far as they still move the life [-].
    cut_load, idle_load : float or None
        Load of the cut and of the idling spindle over S1 power at that speed [%]; None where the machine is not known.
    depth_used, chip_used : float or None
        Depth over the estimated depth of chatter, and chip over the thickest of the tables [-].
    exponents : tuple of float
        Taylor exponents n and a of the row [-].
    """

    life: float
    reference: float
    x: tuple[float, float]
    cut_load: float | None
    idle_load: float | None
    depth_used: float | None
    chip_used: float | None
    exponents: tuple[float, float]


def scope_of(parts: CutParts) -> SetUp:
    """What trials of a cut's set-up are told apart by."""
    tool, material = parts.tool, parts.material
    return SetUp(
        material=material.id or material.name, letter=material.iso_group, group=material.data_group,
        hardness=hardness_of(parts.workpiece) or usual_hardness(material), force=material.kc11_n_mm2 or material.Ktc_n_mm2,
        conductivity=material.thermal_cond_w_mk, coating=tool.coating, kind=tool.kind, substrate=tool.substrate, DC=tool.DC,
        wet=parts.cut.coolant not in _DRY, machine=parts.machine.id, holder=parts.holder.id,
    )  # fmt: skip


def is_covered(a: SetUp, b: SetUp) -> bool:
    """Whether nothing that both tell differs: the same set-up (a hardness within 3 %)."""
    same_work = a.material == b.material and not (
        a.hardness and b.hardness and abs(math.log(a.hardness / b.hardness)) > 0.03
    )
    tool = (a.coating, a.kind, a.substrate, a.DC, a.wet) == (b.coating, b.kind, b.substrate, b.DC, b.wet)
    told = all(not mine or not other or mine == other for mine, other in ((a.machine, b.machine), (a.holder, b.holder)))
    return same_work and tool and told


def scope_told(told: Mapping[str, Any], shelf: Shelf) -> SetUp | None:
    """A set-up by the fields that a store tells of it; None where its material is not in the library."""
    material = shelf.materials.get(told.get("material", ""))
    if material is None:
        return None
    rockwell, coolant = told.get("hardness_hrc"), told.get("coolant")
    return SetUp(
        material=material.id, letter=material.iso_group, group=material.data_group,
        hardness=usual_hardness(material) if rockwell is None else float(brinell_from_rockwell(rockwell)),
        force=material.kc11_n_mm2 or material.Ktc_n_mm2, conductivity=material.thermal_cond_w_mk, coating=told.get("coating", "none"),
        kind=told.get("tool_kind", ""), substrate=told.get("substrate", "carbide"), DC=told.get("DC", 0.0),
        wet=None if coolant is None else coolant not in _DRY, machine=told.get("machine", ""), holder=_holder(told.get("holder", "")),
    )  # fmt: skip


def _holder(name: str) -> str:
    """The row of a holder that is named by its kind."""
    return names.HOLDER_ROWS.get(cast(names.HolderKind, name), name)


def untaught(parts: CutParts) -> CutParts:
    """The same parts as the tables alone have them."""
    return parts if parts.lesson is None else replace(parts, lesson=None)


def setting_of(parts: CutParts, *, with_load: bool = True) -> Setting:
    """What the tables say of a cut as it is set.

    Raises
    ------
    InputError
        When the tables know no life for this pair.
    """
    setup = setup_of(untaught(parts))
    law = law_of(setup)
    if law is None:
        raise InputError("the tables know no edge life for this tool in this material")
    motion = motion_of(setup, np.asarray(parts.cut.ae_mm), np.asarray(parts.cut.ap_mm))
    m = float(multiplier(setup, motion.ae, motion.ap))
    x = law.settings(motion.vc, motion.hex, m)
    depth = estimated_depth(setup, parts.cut.ae_mm)
    loads = loads_of(setup) if with_load else (None, None)
    chip = BY_ID["chip_thickness_max"].use(setup, cast(State, motion))
    return Setting(
        life=float(law.median(motion.vc, motion.hex, m)), reference=law.life_ref, x=(float(x[0]), float(x[1])),
        cut_load=loads[0], idle_load=loads[1], depth_used=None if depth is None else float(motion.ap / depth),
        chip_used=None if chip is None else float(chip),
        exponents=(law.n, law.a),
    )  # fmt: skip


def loads_of(setup: CutSetup) -> tuple[float | None, float | None]:
    """Load of the cut and of the idling spindle over S1 power at that speed [%]."""
    state, _ = solve_one(setup, setup.parts.cut.ae_mm, setup.parts.cut.ap_mm)
    idle, power = float(setup.drive.idle(state.n)), float(state.power_s1)
    return (100.0 * (float(state.power_motor) - idle) / power, 100.0 * idle / power) if power > 0 else (None, None)


@dataclass(frozen=True)
class Taken:
    """One reading as it is learned from: its set-up, and what the tables say of it."""

    reading: Reading
    scope: SetUp
    setting: Setting


def columns_of(result: Result) -> dict[str, Any]:
    """What a reading says of a cut as it runs: its set-up and its setting, by the columns of a reading; what is not known is left out."""
    parts, state = result.setup.parts, result.state
    tool, cut = parts.tool, parts.cut
    found = {
        "cut": cut.name, "machine": parts.machine.id, "material": parts.material.id, "hardness_hrc": parts.workpiece.hardness_hrc,
        "tool_kind": tool.kind, "DC": tool.DC, "ZEFP": tool.ZEFP, "RE": tool.RE, "KAPR": tool.KAPR, "FHA": tool.FHA,
        "substrate": tool.substrate, "coating": tool.coating, "tool_id": tool.id, "stick_out_mm": cut.stick_out_mm,
        "holder": parts.holder.id, "coolant": cut.coolant, "strategy": cut.strategy, "direction": cut.direction,
        "ae_mm": float(state.ae), "ap_mm": float(state.ap), "n_rpm": float(state.n), "vf_mm_min": float(state.vf),
    }  # fmt: skip
    return {key: value for key, value in found.items() if value not in (None, "")}


#: what a reading has to say before anything follows from it
_NEEDED = ("material", "tool_kind", "DC", "ZEFP", "ae_mm", "ap_mm", "n_rpm", "vf_mm_min")
#: fields of a reading by which settings are told apart
_TOLD_BY = (*_NEEDED, "hardness_hrc", "substrate", "coating", "RE", "KAPR", "FHA", "tool_id", "stick_out_mm", "holder", "machine",
            "coolant", "direction")  # fmt: skip


class Settings:
    """Readings with what the tables say of them; each setting is computed once.

    Parameters
    ----------
    shelf : Shelf
        Library that ids are looked up in.
    """

    def __init__(self, shelf: Shelf) -> None:
        self._shelf: Shelf = _Untaught(shelf)
        self._known: dict[tuple[Any, ...], tuple[SetUp, Setting] | str] = {}

    def take(self, readings: Sequence[Reading]) -> tuple[list[Taken], list[tuple[Reading, str]]]:
        """Readings that can be learned from, and the others with the reason."""
        taken, left = [], []
        for reading in readings:
            found = self._of(reading)
            if isinstance(found, str):
                left.append((reading, found))
            else:
                taken.append(Taken(reading, *found))
        return taken, left

    def _of(self, reading: Reading) -> tuple[SetUp, Setting] | str:
        # forces are summed only where a load was read that they explain
        key = (reading.load_pct is not None, *(getattr(reading, name) for name in _TOLD_BY))
        if key not in self._known:
            self._known[key] = self._found(reading)
        return self._known[key]

    def _found(self, reading: Reading) -> tuple[SetUp, Setting] | str:
        missing = [name for name in _NEEDED if getattr(reading, name) in (None, "")]
        if missing:
            return f"{', '.join(missing)} not given"
        if reading.material not in self._shelf.materials:
            return f"material '{shortened(reading.material)}' is not in the library"
        try:
            parts = parts_of(self._job(reading), 0, self._shelf)
            return _scope_of_reading(reading, parts), setting_of(
                parts, with_load=reading.load_pct is not None and reading.machine in self._shelf.machines
            )
        except InputError as error:
            return str(error).removeprefix("cuts[0].")

    def _job(self, reading: Reading) -> Job:
        shelf = self._shelf
        assert reading.n_rpm and reading.vf_mm_min and reading.ZEFP and reading.DC and reading.ap_mm  # seen before
        tool: dict[str, Any] = {
            "kind": reading.tool_kind,
            "DC": reading.DC,
            "ZEFP": reading.ZEFP,
            "APMX": max(reading.ap_mm, reading.DC),
        }
        tool |= {
            name: value
            for name in ("RE", "KAPR", "FHA", "substrate", "coating")
            if (value := getattr(reading, name)) is not None
        }
        if reading.tool_id in shelf.tools:
            tool = {**tool, "id": reading.tool_id, "APMX": max(shelf.tools[reading.tool_id].APMX, reading.ap_mm)}
        cut = {
            "name": "trial", "tool": tool, "ae_mm": reading.ae_mm, "ap_mm": reading.ap_mm, "n_rpm": reading.n_rpm,
            "fz_mm": reading.vf_mm_min / (reading.n_rpm * reading.ZEFP), "coolant": reading.coolant or "dry",
            "direction": reading.direction or "down", "compensation": "max_chip",
            "stick_out_mm": reading.stick_out_mm or max(3 * reading.DC, reading.ap_mm + 1.0),
        }  # fmt: skip
        if reading.holder in shelf.holders or reading.holder in names.HOLDER_ROWS:
            cut["holder"] = reading.holder
        machine: dict[str, Any] = {
            "id": reading.machine if reading.machine in shelf.machines else next(iter(shelf.machines))
        }
        # what was run was run: no speed or feed is cut off here
        machine |= {"spindle_steps_rpm": [], "feed_steps_mm_min": [], "rpm_min": 1.0}
        row = shelf.machines[machine["id"]]
        machine["rpm_max"] = max(row.rpm_max, reading.n_rpm)
        work = {"material": reading.material, "hardness_hrc": reading.hardness_hrc}
        return Job.read({"lesna": 1, "workpiece": work, "machine": machine, "cuts": [cut]})


class _Untaught:
    """A library as it is without any trial: what is learned from must not hold what was learned."""

    def __init__(self, shelf: Shelf) -> None:
        self.tools, self.holders, self.machines = shelf.tools, shelf.holders, shelf.machines
        self.materials, self.tapers, self.cutting_data = shelf.materials, shelf.tapers, shelf.cutting_data

    def lesson_of(self, parts: CutParts) -> None:
        """Nothing."""

    def standard_of(self, family: str, role: str) -> None:
        """None: what is slow taught as much."""


def _scope_of_reading(reading: Reading, parts: CutParts) -> SetUp:
    scope = scope_of(parts)
    # what a reading does not say makes no difference
    return replace(
        scope, hardness=scope.hardness if reading.hardness_hrc is not None else usual_hardness(parts.material),
        wet=None if reading.coolant is None else scope.wet, machine=reading.machine, holder=_holder(reading.holder),
    )  # fmt: skip


def edges_of(taken: Sequence[Taken], groups: dict[SetUp, int]) -> tuple[list[Edge], list[tuple[Reading, str]]]:
    """Edges in the order of their looks, and readings that nothing follows from.

    Parameters
    ----------
    taken : sequence of Taken
        Readings, several edges mixed.
    groups : dict
        Position of each set-up in the fit.
    """
    by_edge: dict[tuple[str, str], list[Taken]] = {}
    for one in taken:
        by_edge.setdefault(one.reading.key[:2], []).append(one)
    edges, left = [], []
    for (trial, name), looks in by_edge.items():
        looks.sort(key=lambda one: (one.reading.minutes, one.reading.taken_on))
        if looks[-1].reading.minutes <= 0:
            left += [(one.reading, "no time in the cut") for one in looks]
            continue
        made, before = [], 0.0
        for one in looks:
            made.append(_look(one, one.reading.minutes - before))
            before = one.reading.minutes
        first = next(k for k, one in enumerate(looks) if one.reading.minutes > 0)
        left += [(one.reading, "no time in the cut") for one in looks[:first]]
        edges.append(Edge(f"{trial} / {name}", tuple(made[first:]), groups[looks[-1].scope]))
    return edges, left


def _look(one: Taken, minutes: float) -> Look:
    reading = one.reading
    mark: Mark = "broken" if reading.is_broken else reading.retired
    return Look(minutes, one.setting.life, one.setting.x, reading.vb_mm, reading.wear_kind, mark)


def law_speed(setup: CutSetup, ratio: np.ndarray) -> tuple[np.ndarray, np.ndarray, float] | None:
    """Surface speeds round the cut's own [m/min], median life at each [min], and its chip [mm]; None where no table knows a life."""
    law = law_of(setup)
    if law is None:
        return None
    cut = setup.parts.cut
    motion = motion_of(setup, np.asarray(cut.ae_mm), np.asarray(cut.ap_mm))
    m = float(multiplier(setup, motion.ae, motion.ap))
    vc = float(motion.vc) * ratio
    return vc, np.asarray(law.median(vc, motion.hex, m)), float(motion.hex)
