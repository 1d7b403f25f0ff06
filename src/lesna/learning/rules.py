"""The coach's rules: what is seen at an edge, what it says, and the one change that answers it (data with its sources)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, Literal

from pydantic import Field

from lesna.data.places import shipped_folder
from lesna.model.base import Record, number
from lesna.model.files import parse_json, read_text
from lesna.model.trials import Reading, WearKind, WearZone

Pace = Literal["fast", "usual", "slow", ""]
What = Literal["fz_mm", "ap_mm", "vc_m_min", "ae_mm", "coolant", "tool", "holder", "next"]


class Sees(Record):
    """What has to be seen; what is left out does not matter."""

    kinds: tuple[WearKind, ...] = ()
    zones: tuple[WearZone, ...] = ()
    pace: Pace = ""
    chatter: bool | None = None
    measured: bool | None = None
    wet: bool | None = None
    chip_under_least: bool | None = None
    chip_room_over: float | None = number("1", "share of the gullet that chips fill", None)
    chip_colours: tuple[str, ...] = ()
    words: tuple[str, ...] = ()


class Answer(Record):
    """One change: what, and how far; where the posterior or a limit says how far, the factor is what is done without them."""

    what: What
    factor: float = 1.0
    to: str = ""
    by: Literal["", "limit", "posterior", "least_chip", "chart"] = ""


class Rule(Record):
    """One sign and its answer; of several that hold, the heaviest is followed."""

    id: str
    weight: int
    sees: Sees
    says: str
    change: Answer
    why: str
    look_for: str
    source: str = Field(min_length=10)

    @property
    def direction(self) -> int:
        """Whether it asks for more (1), less (-1), or something else (0)."""
        return 0 if self.change.factor == 1.0 else 1 if self.change.factor > 1.0 else -1


class Seen(Record):
    """What one reading shows, beside what stands in it."""

    pace: Pace = ""
    measured: bool = False
    wet: bool = False
    chip_under_least: bool = False
    chip_room: float = 0.0


def holds(rule: Rule, reading: Reading, seen: Seen) -> bool:
    """Whether a reading shows what a rule asks for."""
    sees = rule.sees
    said = f"{reading.note} {reading.finish} {reading.sound}".lower()
    return (
        (not sees.kinds or reading.wear_kind in sees.kinds)
        and (not sees.zones or reading.wear_zone in sees.zones)
        and (not sees.pace or sees.pace == seen.pace)
        and (sees.chatter is None or sees.chatter == (reading.chattered is True or "chatter mark" in said))
        and (sees.measured is None or sees.measured == seen.measured)
        and (sees.wet is None or sees.wet == seen.wet)
        and (sees.chip_under_least is None or sees.chip_under_least == seen.chip_under_least)
        and (sees.chip_room_over is None or seen.chip_room > sees.chip_room_over)
        and (not sees.chip_colours or any(word in reading.chip_colour.lower() for word in sees.chip_colours))
        and (not sees.words or any(word in said for word in sees.words))
    )


def rules_from(rows: Sequence[Mapping[str, Any]]) -> tuple[Rule, ...]:
    """The rules of a table, the heaviest first (InputError names a row that cannot be used)."""
    return tuple(sorted((Rule.read(row) for row in rows), key=lambda rule: -rule.weight))


@lru_cache(maxsize=1)
def shipped_rules() -> tuple[Rule, ...]:
    """The rules that ship with Lesna."""
    return rules_from(parse_json(read_text(shipped_folder() / "tables" / "coach-rules.json")))
