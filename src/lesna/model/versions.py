"""Older documents brought to the version this Lesna writes, one step a version, before they are read.

A step takes and gives plain data and never refuses: what is wrong with a document is found when it is read.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from lesna.model.errors import InputError

#: the document version this Lesna writes; older ones are migrated, newer ones refused in words
VERSION = 5

Raw = dict[str, Any]


def migrate(raw: Raw) -> Raw:
    """Plain data of a document of any released version, as this version writes it."""
    version = raw.get("lesna")
    if version is None:
        raise InputError('is missing; a job begins with "lesna": 1', "lesna")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise InputError(f"must be a document version, 1 to {VERSION}, got {version!r}", "lesna")
    if version > VERSION:
        raise InputError(
            f"this job was written by a newer Lesna (document version {version}); this one reads versions 1 to "
            f"{VERSION}. Update Lesna to open it",
            "lesna",
        )
    for step in _STEPS[version - 1 :]:
        raw = step(raw)
    return {**raw, "lesna": VERSION}


def _one_to_two(raw: Raw) -> Raw:
    """Version 2 gives every cut an id, so that an answer belongs to a cut whatever it is called and wherever it stands."""
    cuts = raw.get("cuts")
    return raw if not isinstance(cuts, (list, tuple)) else {**raw, "cuts": with_ids(cuts)}


def _two_to_three(raw: Raw) -> Raw:
    """Version 3 may hold library rows as the job was computed with them; a job of version 2 takes them from the library."""
    return raw


def _three_to_four(raw: Raw) -> Raw:
    """Version 4 may name the NC program of a cut; a cut of version 3 has none."""
    return raw


def _four_to_five(raw: Raw) -> Raw:
    """Version 5 counts islands of a floor by length and width from its middle, as paths do; version 4 from its lower left corner.

    Older ones may have been written by hand from either; they are moved where they only fit so.
    """
    cuts = raw.get("cuts")
    if not isinstance(cuts, (list, tuple)):
        return raw
    return {**raw, "cuts": [_from_the_middle(cut, is_certain=raw.get("lesna") == 4) for cut in cuts]}


def _from_the_middle(cut: Any, *, is_certain: bool) -> Any:
    feature = cut.get("feature") if isinstance(cut, dict) else None
    if not isinstance(feature, dict) or feature.get("profile_mm") or not feature.get("islands_mm"):
        return cut
    try:
        half = [0.5 * float(feature[key]) for key in ("length_mm", "width_mm")]
        islands = [[[float(x), float(y)] for x, y in island] for island in feature["islands_mm"]]
    except (KeyError, TypeError, ValueError):
        return cut  # what is wrong with it is told when it is read
    fits = all(
        abs(value) <= most for island in islands for corner in island for value, most in zip(corner, half, strict=True)
    )
    if fits and not is_certain:
        return cut
    moved = [[[x - half[0], y - half[1]] for x, y in island] for island in islands]
    return {**cut, "feature": {**feature, "islands_mm": moved}}


_STEPS: tuple[Callable[[Raw], Raw], ...] = (_one_to_two, _two_to_three, _three_to_four, _four_to_five)


def with_ids(cuts: Any) -> list[Any]:
    """Cuts as plain data, each with an id: its own, else the first free of cut-1, cut-2 ... from its place on."""
    known = {cut["id"] for cut in cuts if isinstance(cut, dict) and isinstance(cut.get("id"), str)}
    out = []
    for place, cut in enumerate(cuts, start=1):
        if isinstance(cut, dict) and "id" not in cut:
            number = next(n for n in range(place, place + len(known) + 1) if f"cut-{n}" not in known)
            known.add(f"cut-{number}")
            cut = {**cut, "id": f"cut-{number}"}
        out.append(cut)
    return out
