"""Finding a tool by what people say of it: ``square d16 z4``, ``12mm``, ``ø10``, ``0.5in``, ``corner d12 r1``, ``ball``."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from lesna.data.search import Match, ranked, word_score
from lesna.data.tables_io import Table
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.library_records import Tool

#: how well a tool suits the work at hand, 0 not at all to 1
Suits = Callable[[Tool], float]
_FIELDS = ("id", "name", "geometry", "kind", "coating", "notes")
#: two sizes closer than this share are the same size
_SAME = 0.01
_SIZE = re.compile(
    r'^(?P<what>ø|\u2300|dia|dcx?|d|re|r|z|l|lu|apmx)?(?P<size>\d[\d.,/\-]*)(?P<unit>mm|in|inch|"|fl|flutes?|thou)?$'
)
_OF = {"ø": "DC", "\u2300": "DC", "dia": "DC", "dc": "DC", "dcx": "DC", "d": "DC", "re": "corner", "r": "corner", "z": "ZEFP",
       "l": "usable_length", "lu": "usable_length", "apmx": "APMX"}  # fmt: skip
#: words of the trade for kinds
_KINDS = {"flat": "square", "bull": "corner", "nose": "corner", "radius": "corner", "rougher": "serrated", "facemill": "face",
          "highfeed": "high"}  # fmt: skip


@dataclass(frozen=True)
class Size:
    """A size that a tool must have."""

    field: str
    value: float

    def fits(self, tool: Tool) -> bool:
        """Whether a tool has it."""
        if self.field == "usable_length":
            return bool(tool.usable_length >= self.value * (1 - _SAME))
        return self.gap(tool) <= _SAME

    def gap(self, tool: Tool) -> float:
        """How far the tool's own size is away, over the size [-]."""
        return abs(getattr(tool, self.field) - self.value) / max(self.value, 1e-6)


#: so many tools are offered where none has the sizes
_NEAREST = 5


def size_in(word: str) -> Size | None:
    """The size that a word names; None where it is a word like any other."""
    match = _SIZE.match(word.lower())
    if match is None:
        return None
    what, unit = match["what"] or "", match["unit"] or ""
    if unit.startswith("fl"):
        what, unit = "z", ""
    if not what and not unit and not re.fullmatch(r"\d{1,2}", match["size"]):
        return None
    try:
        value = units.parse(f"{match['size']} {unit}", units.LENGTH if what != "z" else units.COUNT)
    except InputError:
        return None
    return Size(_OF.get(what, "DC"), value)


def found_tools(text: str, table: Table[Any], suits: Suits | None = None) -> list[Match]:
    """Tools in which every word occurs and every size fits, best first; the nearest in size where none fits."""
    words, sizes = [], []
    for word in text.split():
        size = size_in(word)
        if size is None:
            words.append(_KINDS.get(word.lower(), word))
        else:
            sizes.append((size, word))
    found, near = [], []
    for match in ranked(" ".join(words), table, _FIELDS):
        tool = table[match.id]
        # a bare number may stand in a name as well as for the diameter
        if all(
            size.fits(tool) or (word.isdigit() and word_score(word, table.raw(match.id), _FIELDS) >= 2)
            for size, word in sizes
        ):
            exact = sum(size.fits(tool) for size, _ in sizes)
            worth = suits(tool) if suits is not None else 0.0
            found.append(match._replace(score=match.score + 3.0 * exact + worth, detail=_detail(tool)))
        else:
            gap = sum(size.gap(tool) for size, _ in sizes)
            near.append(match._replace(score=-gap, detail=f"the nearest there is; {_detail(tool)}"))
    if not found:
        return sorted(near, key=lambda match: (-match.score, match.name))[:_NEAREST]
    return sorted(found, key=lambda match: (-match.score, table[match.id].DC, match.name))


def _detail(tool: Tool) -> str:
    """What tells tools of one name apart."""
    coating = "uncoated" if tool.coating == "none" else tool.coating
    return f"reach {tool.usable_length:g} mm, {coating}"
