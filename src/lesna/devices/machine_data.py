"""What a machine says of itself while it runs, and its spelling as an XML stream after ANSI/MTC1.4 (read and written here alone)."""

from __future__ import annotations

import xml.etree.ElementTree as ElementTree
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal
from xml.sax.saxutils import escape

from lesna.model.errors import FileProblem

Key = Literal["rpm", "load", "feed", "override", "program", "execution"]
#: element of a stream: what it says; the first name is the one that is written
_SPELLED: dict[Key, tuple[str, ...]] = {
    "rpm": ("RotaryVelocity", "SpindleSpeed"), "load": ("Load",), "feed": ("PathFeedrate",),
    "override": ("PathFeedrateOverride", "PathFeedrateOverrideFeed"), "program": ("Program",), "execution": ("Execution",),
}  # fmt: skip
_KEYS: dict[str, Key] = {name: key for key, names in _SPELLED.items() for name in names}
_WORDS: frozenset[Key] = frozenset({"program", "execution"})
#: what a stream says where it knows nothing
UNAVAILABLE = "UNAVAILABLE"
#: largest answer that is read [bytes], and longest word in it
LARGEST, _LONGEST = 8_000_000, 200


class StreamProblem(FileProblem):
    """An answer that is no stream of machine data, in words."""


class BufferPassed(StreamProblem):
    """What was asked for is no longer held by the machine."""


@dataclass(frozen=True)
class Observation:
    """One thing that changed: number in the stream, when [s since 1970], what, its value (None where the machine does not know), whose."""

    sequence: int
    at: float
    key: Key
    value: float | str | None
    part: str = ""


@dataclass(frozen=True)
class Answer:
    """One answer of a machine: which start of its service, when it was made [s since 1970], numbers it holds, what it says."""

    instance: str
    made: float
    first: int
    next: int
    observations: tuple[Observation, ...]


def answer_of(content: bytes) -> Answer:
    """Reads one answer (StreamProblem says what is wrong with it)."""
    if len(content) > LARGEST:
        raise StreamProblem(f"answers with {len(content) / 1e6:.0f} MB; {LARGEST / 1e6:.0f} MB at once are read")
    if b"<!DOCTYPE" in content or b"<!ENTITY" in content:
        raise StreamProblem("declares entities, which machine data does not need; it is not read")
    try:
        root = ElementTree.fromstring(content)
    except ElementTree.ParseError as error:
        raise StreamProblem(f"does not answer with machine data in XML ({error})") from None
    elements = {_local(one.tag): one for one in root.iter()}
    refusal = elements.get("Error")
    if refusal is not None:
        said = f"{refusal.get('errorCode', '')} {refusal.text or ''}".strip()[:_LONGEST]
        kind = BufferPassed if refusal.get("errorCode") == "OUT_OF_RANGE" else StreamProblem
        raise kind(f"refuses: {said}")
    header = elements.get("Header")
    if header is None or header.get("nextSequence") is None:
        raise StreamProblem("answers without a header of a machine data stream")
    try:
        return Answer(
            str(header.get("instanceId", "")), _time(str(header.get("creationTime", ""))), int(header.get("firstSequence", 1)),
            int(str(header.get("nextSequence"))), tuple(sorted(_observations(root), key=lambda one: one.sequence)),
        )  # fmt: skip
    except ValueError as error:
        raise StreamProblem(f"answers with a header that cannot be read ({error})") from None


def _observations(root: ElementTree.Element) -> Iterator[Observation]:
    """What each part of the machine says; a stream without parts speaks for one."""
    parts = [one for one in root.iter() if _local(one.tag) == "ComponentStream"]
    for part in parts or [root]:
        yield from _of_part(part, part.get("componentId") or part.get("name") or "")


def _of_part(part: ElementTree.Element, name: str) -> Iterator[Observation]:
    for one in part.iter():
        key = _KEYS.get(_local(one.tag))
        if key is None or one.get("subType") in ("PROGRAMMED", "COMMANDED"):
            continue
        text = (one.text or "").strip()[:_LONGEST]
        try:
            value: float | str | None = None if text in ("", UNAVAILABLE) else text if key in _WORDS else float(text)
            yield Observation(int(one.get("sequence", "")), _time(one.get("timestamp", "")), key, value, name)
        except ValueError:
            continue  # a value or a time that is none says nothing


def _local(tag: object) -> str:
    return str(tag).rpartition("}")[2]


def _time(text: str) -> float:
    return datetime.fromisoformat(text.replace("Z", "+00:00")).timestamp()


def _told(at: float) -> str:
    return datetime.fromtimestamp(at, UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def stream_text(instance: str, made: float, first: int, next_: int, observations: Sequence[Observation]) -> str:
    """An answer as a machine spells it."""
    said: dict[str, str] = {"Rotary": "", "Path": ""}
    for one in observations:
        value = UNAVAILABLE if one.value is None else escape(str(one.value))
        name, kind = _SPELLED[one.key][0], "Events" if one.key in _WORDS or one.key == "override" else "Samples"
        line = f'<{name} dataItemId="{one.key}" sequence="{one.sequence}" timestamp="{_told(one.at)}">{value}</{name}>'
        said["Rotary" if one.key in ("rpm", "load") else "Path"] += f"<{kind}>{line}</{kind}>"
    parts = "".join(
        f'<ComponentStream component="{name}" componentId="{name}">{text}</ComponentStream>'
        for name, text in said.items()
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?><MTConnectStreams>'
        f'<Header instanceId="{escape(instance)}" creationTime="{_told(made)}" firstSequence="{first}" nextSequence="{next_}" '
        f'lastSequence="{next_ - 1}" bufferSize="131072"/><Streams><DeviceStream name="stand-in">{parts}</DeviceStream></Streams>'
        "</MTConnectStreams>"
    )


def refusal_text(code: str, words: str) -> str:
    """A refusal as a machine spells it."""
    return f'<MTConnectError><Errors><Error errorCode="{code}">{escape(words)}</Error></Errors></MTConnectError>'
