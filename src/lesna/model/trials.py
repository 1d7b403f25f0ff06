"""What a shop writes down of its trials: readings of edges as they were looked at (docs/contract.md, *Trials and the bank*)."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, timedelta
from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from lesna.model import names
from lesna.model.base import MaybeWhole, Record, count, number, words
from lesna.model.errors import InputError
from lesna.model.shown import one_line

#: kinds of wear after ISO 8688-2, and the places of an edge where they sit
WearKind = Literal["uniform", "localised", "chipping", "flaking", "notch", "built_up", "thermal_cracks", "deformation",
                   "breakage", "rubbing", "none"]  # fmt: skip
WearZone = Literal["tip", "corner", "depth_line", "flute", "gullet"]
#: an edge that was taken out worn or while still good; one that was put back has neither
Retired = Literal["", "worn", "good"]

#: how the document's words stand on screens and sheets
WEAR_KINDS: dict[WearKind, str] = {
    "uniform": "even wear", "localised": "wear in one place", "chipping": "chipping", "flaking": "flaking", "notch": "notch",
    "built_up": "built-up edge", "thermal_cracks": "thermal cracks", "deformation": "deformed edge", "breakage": "broken",
    "rubbing": "rubbed", "none": "no wear seen",
}  # fmt: skip
WEAR_ZONES: dict[WearZone, str] = {
    "tip": "tip", "corner": "corner", "depth_line": "depth line", "flute": "along the flute", "gullet": "gullet",
}  # fmt: skip
RETIRED: dict[Retired, str] = {"": "put back", "worn": "taken out worn", "good": "taken out good"}
#: sounds of a cut that say whether it chattered
CALM, CHATTERS = ("calm", "steady", "quiet", "smooth"), ("chatter", "howl", "squeal", "ring")

#: nothing was machined before this day in a way anybody wrote down here
_FIRST_DAY = date(1950, 1, 1)
_LONGEST = 200


def _text(label: str, text: str = "", most: int = _LONGEST) -> str:
    return Field("", max_length=most, description=text or None, json_schema_extra={"label": label})


class Reading(Record):
    """One look at one cutting edge. Its setting is that of the minutes since the former look."""

    trial: str = Field(
        min_length=1, max_length=_LONGEST, description="trial it belongs to", json_schema_extra={"label": "Trial"}
    )
    edge: str = Field(
        min_length=1, max_length=_LONGEST, description="one cutting edge from new", json_schema_extra={"label": "Edge"}
    )
    step: MaybeWhole = count("step of the ladder", None, ge=0, le=1000, label="Step")
    taken_on: str = _text("Date", "day of the look, YYYY-MM-DD", 10)
    who: str = _text("Who")
    job: str = _text("Job")
    cut: str = _text("Cut")
    machine: str = _text("Machine")
    material: str = _text("Material")
    hardness_hrc: float | None = number("HRC", "measured hardness", None, gt=0, le=72, label="Hardness")
    tool_kind: names.ToolKind | None = Field(None, json_schema_extra={"label": "Tool kind"})
    DC: float | None = number("mm", "cutting diameter", None, gt=0, le=600, label="Diameter", symbol="DC")
    ZEFP: MaybeWhole = count("teeth", None, ge=1, le=200, label="Teeth", symbol="ZEFP")
    RE: float | None = number("mm", "corner radius", None, ge=0, le=300, label="Corner radius", symbol="RE")
    KAPR: float | None = number("deg", "lead angle", None, gt=0, le=90, label="Lead angle", symbol="KAPR")
    FHA: float | None = number("deg", "helix angle", None, ge=0, le=75, label="Helix", symbol="FHA")
    substrate: names.Substrate | None = Field(None, json_schema_extra={"label": "Substrate"})
    coating: names.Coating | None = Field(None, json_schema_extra={"label": "Coating"})
    tool_id: str = _text("Tool")
    stick_out_mm: float | None = number("mm", "tip to holder face", None, ge=0.5, le=1000, label="Stick-out")
    holder: str = _text("Holder")
    coolant: names.Coolant | None = Field(None, json_schema_extra={"label": "Coolant"})
    strategy: names.Strategy | None = Field(None, json_schema_extra={"label": "Strategy"})
    direction: names.Direction | None = Field(None, json_schema_extra={"label": "Direction"})
    ae_mm: float | None = number("mm", "stepover", None, gt=0, le=600, label="Stepover", symbol="ae")
    ap_mm: float | None = number("mm", "depth", None, gt=0, le=500, label="Depth", symbol="ap")
    n_rpm: float | None = number(
        "1/min", "spindle speed as it turned", None, gt=0, le=500000, label="Spindle speed", symbol="n"
    )
    vf_mm_min: float | None = number("mm/min", "feed as it moved", None, gt=0, le=1e6, label="Feed", symbol="vf")
    override_pct: float | None = number("%", "feed override that stood", None, ge=0, le=300, label="Override")
    minutes: float = number(
        "min", "in the cut, of this edge from new until this look", ge=0, le=100_000, label="Minutes in the cut"
    )
    parts: float | None = number("1", "parts of this edge until this look", None, ge=0, label="Parts")
    load_pct: float | None = number(
        "%", "spindle load over S1 at that speed, idle included", None, ge=0, le=500, label="Spindle load"
    )
    vb_mm: float | None = number(
        "mm", "flank wear VB; 0 where none was seen", None, ge=0, le=1000, label="Flank wear", symbol="VB"
    )
    wear_kind: WearKind = Field("uniform", json_schema_extra={"label": "Kind of wear"})
    wear_zone: WearZone | None = Field(None, json_schema_extra={"label": "Place"})
    retired: Retired = Field(
        "", description="worn, good, or empty where it was put back", json_schema_extra={"label": "Edge"}
    )
    chip_colour: str = _text("Chip colour")
    chip_shape: str = _text("Chip shape")
    sound: str = _text("Sound")
    finish: str = _text("Finish")
    picture: str = _text("Picture")
    note: str = words("Note")

    ELSEWHERE: ClassVar = frozenset({"trial", "edge"})

    @model_validator(mode="before")
    @classmethod
    def _plain_text(cls, raw: Any) -> Any:
        """Words as they come back from any file: no space around them, one kind of line end, nothing that no text holds."""
        if not isinstance(raw, dict):
            return raw
        out = {}
        for key, value in raw.items():
            if isinstance(value, str):
                value = value.strip().replace("\r\n", "\n").replace("\r", "\n")
                if "\x00" in value:
                    raise InputError("holds a NUL character, which no text can hold", str(key))
            out[key] = value
        return out

    @field_validator("taken_on")
    @classmethod
    def _day(cls, text: str) -> str:
        if not text:
            return text
        try:
            day = date.fromisoformat(text)
        except ValueError:
            raise InputError(f"must be a day as YYYY-MM-DD, got '{one_line(text)[:20]}'") from None
        if day < _FIRST_DAY:
            raise InputError(f"must be a day from {_FIRST_DAY} on, got {text}")
        # a shop across the date line is a day ahead
        if day > date.today() + timedelta(days=1):
            raise InputError(f"lies in the future: {text}")
        return text

    @field_validator("coolant", mode="before")
    @classmethod
    def _coolant(cls, value: object) -> object:
        return names.coolant(value)

    @field_validator("tool_kind", mode="before")
    @classmethod
    def _kind(cls, value: object) -> object:
        return names.tool_kind(value)

    @property
    def key(self) -> tuple[str, str, float, str]:
        """What tells it from every other: edge, minutes and day."""
        return self.trial, self.edge, self.minutes, self.taken_on

    @property
    def called(self) -> str:
        """How it is named."""
        return f"{self.trial} / {self.edge} at {self.minutes:g} min"

    @property
    def is_broken(self) -> bool:
        """Whether the edge broke."""
        return self.wear_kind == "breakage"

    @property
    def chattered(self) -> bool | None:
        """Whether the cut chattered, by its sound; None where that does not say."""
        said = self.sound.lower()
        if any(word in said for word in CHATTERS) and not said.startswith("no "):
            return True
        return False if any(word in said for word in CALM) or said.startswith("no chatter") else None


#: a land that nobody has in millimetres, what may be read smaller than before, and a land that is not worn yet [mm]
_NO_LAND, _SHRANK, _NOT_WORN = 3.0, 0.03, 0.1


def doubts(readings: Iterable[Reading]) -> list[str]:
    """Readings that do not go together, or that nobody can mean, in words; they are kept all the same."""
    out: list[str] = []
    before: dict[tuple[str, str], float] = {}
    for one in sorted(readings, key=lambda one: (one.trial, one.edge, one.minutes)):
        land, edge = one.vb_mm, (one.trial, one.edge)
        if land is None:
            continue
        former = before.get(edge, 0.0)
        if land > _NO_LAND:
            out.append(
                f"{one.called}: VB {land:g} mm is no land of a milling edge; is it in thousandths of a millimetre?"
            )
        elif former - land > _SHRANK:
            out.append(f"{one.called}: VB fell from {former:g} to {land:g} mm; wear does not shrink")
        elif one.retired == "worn" and land < _NOT_WORN and one.wear_kind in ("uniform", "none", "rubbing"):
            kind = WEAR_KINDS[one.wear_kind]
            out.append(f"{one.called}: taken out worn at VB {land:g} mm of {kind}; the two say different things")
        before[edge] = land
    return out
