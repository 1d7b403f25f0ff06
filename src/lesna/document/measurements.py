"""Measured modes belong to the tool, holder, stick-out and machine they were measured on, and go with them."""

from __future__ import annotations

from typing import Any

from lesna.model.job import Cut, Job

#: what a tool's modes do not depend on
_HARMLESS = frozenset({"runout_um", "price", "edges", "coating", "name", "edge_radius_um", "rated_rpm"})


def without_stale_modes(before: Job, after: Job) -> Job:
    """A job without the measured modes of cuts whose set-up has changed since."""
    former = {cut.id: cut for cut in before.cuts}
    moved = before.machine != after.machine
    cuts = tuple(
        cut.with_values(tap_modes=()) if cut.id in former and _is_stale(former[cut.id], cut, moved) else cut
        for cut in after.cuts
    )
    return after if cuts == after.cuts else after.with_values(cuts=cuts)


def lost_modes(before: Job, after: Job) -> tuple[str, ...]:
    """Names of the cuts that keep their place but lose measured modes."""
    had = {cut.id for cut in before.cuts if cut.tap_modes}
    return tuple(cut.name for cut in after.cuts if cut.id in had and not cut.tap_modes)


def _is_stale(before: Cut, after: Cut, moved: bool) -> bool:
    kept = bool(after.tap_modes) and after.tap_modes == before.tap_modes
    return kept and (moved or set_up_of(before) != set_up_of(after))


def set_up_of(cut: Cut) -> Any:
    """Tool, holder and stick-out of a cut as far as modes depend on them, to be compared."""
    tool = {key: value for key, value in cut.tool.written().items() if key not in _HARMLESS}
    return tool, cut.holder, cut.stick_out_mm
