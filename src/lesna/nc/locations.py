"""Cutter locations as text, in the words of ISO 4343: one statement a line, the tip and the tool's axis at every GOTO.

Between two of them the tip goes straight, and the rotary axes turn evenly, as a control does that follows the tip. What changes motion
and is not understood stops with its line.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple, NoReturn

import numpy as np

from lesna.geometry.kinematics import Kinematics
from lesna.geometry.motion import LINE, RAPID, Array
from lesna.model.errors import InputError
from lesna.nc.program import Event, Moves, Program, TiltedMoves, Trace

#: a statement that only this language has
_FIRST = re.compile(
    r"^[ \t]*(?:GOTO|FROM|FEDRAT|LOADTL|MULTAX|CUTTER|SPINDL|UNITS|PARTNO|PPRINT)\b", re.MULTILINE | re.IGNORECASE
)
_STATEMENT = re.compile(r"[ \t]*(?P<word>[A-Za-z][A-Za-z0-9]*)[ \t]*(?P<rest>.*)$", re.DOTALL)
_PART = re.compile(r"[^,]+")
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[EeDd][+-]?\d+)?")
#: words that hold text of any kind to the end of their line
_TEXT = frozenset({"PARTNO", "PPRINT", "INSERT", "REMARK"})
#: words that are kept and say nothing about motion
_KEPT = frozenset({
    "MACHIN", "COOLNT", "TOOLNO", "FINI", "END", "STOP", "OPSTOP", "INTOL", "OUTTOL", "TOLER", "CUTTER", "MULTAX", "AUXFUN", "SEQNO",
    "DISPLY", "CLRSRF", "LOADTL", "SPINDL", "UNITS", "DELAY",
})  # fmt: skip
_REFUSED = {
    "CIRCLE": "arcs are not read; post points along them", "CYCLE": "cycles are not read; post their motion",
    "GODLTA": "steps are not read; post places (GOTO)", "TRANS": "a shifted zero is not read; post places of one zero",
    "TRACUT": "a changed frame is not read; post places of one zero", "COPY": "copies are not read; write the motion out",
    "ROTABL": "turns of the table are not read; post the tool's axis", "ROTATE": "turns of an axis are not read; post the tool's axis",
    "ORIGIN": "a shifted zero is not read; post places of one zero", "CUTCOM": "radius compensation is not read; post the path of the tip",
    "GOHOME": "the way home is not known here; post where it goes (GOTO)",
}  # fmt: skip
#: units of FEDRAT: millimetres, and whether it counts by the turn
_FEEDS = {
    "MMPM": (1.0, False),
    "MMPR": (1.0, True),
    "IPM": (25.4, False),
    "IPR": (25.4, True),
    "PERMIN": (0.0, False),
    "PERREV": (0.0, True),
}
_UNITS = {"MM": 1.0, "INCH": 25.4, "INCHES": 25.4}
#: how far the length of a tool axis may lie off 1 [-]
_UNIT = 1e-3
#: beyond this nothing is a place, a feed or a speed [mm], [mm/min], [1/min]
_FAR, _QUICKEST, _FASTEST = 1e6, 1e6, 500_000
_MOST_MOVES, _MOST_PARTS, _LONGEST = 4_000_000, 64, 1000
_QUOTED = 24


class Part(NamedTuple):
    """One part of a statement: its text in capitals, its number, and where it stands."""

    text: str
    value: float
    line: int
    start: int
    end: int


@dataclass(frozen=True)
class Statement:
    """A word with its parts; `line` is that of its last part, where a control would act on it."""

    word: str
    parts: tuple[Part, ...]
    first: int
    line: int
    text: str


def is_locations(text: str) -> bool:
    """Whether a file holds cutter locations rather than blocks."""
    return _FIRST.search(text) is not None


def statements(lines: list[str]) -> Iterator[Statement]:
    """The statements of lines up to FINI; `$$` begins a comment, `$` at the end goes on in the next line."""
    held: list[tuple[int, str]] = []
    for number, raw in enumerate(lines, start=1):
        if len(raw) > _LONGEST:
            raise InputError(f"line {number}: has {len(raw):,} characters; no statement has more than {_LONGEST:,}")
        if not held and raw.startswith(_PLAIN) and "$" not in raw:
            yield _plain_goto(raw, number)
            continue
        body = raw.split("$$", 1)[0].rstrip("\r\n").rstrip()
        goes_on = body.endswith("$")
        if goes_on:
            body = body[:-1]
        if held or body.strip():
            held.append((number, body))
        if held and not goes_on:
            said = _statement(held)
            yield said
            if said.word == "FINI":
                return  # what follows the end is no program
            held = []
    if held:
        raise InputError(f"line {held[-1][0]}: the statement goes on ($) and the file ends")


#: how nearly every line of a long program begins
_PLAIN = "GOTO/"


def _plain_goto(raw: str, number: int) -> Statement:
    """A GOTO on one line without a comment, as `_statement` reads it but several times as fast."""
    body = raw.rstrip()
    parts, start = [], len(_PLAIN)
    for text in body[len(_PLAIN) :].split(","):
        stripped = text.strip()
        if stripped:
            begin = start + len(text) - len(text.lstrip())
            parts.append(Part(stripped, _value(stripped), number, begin, begin + len(stripped)))
        start += len(text) + 1
    return Statement("GOTO", tuple(parts), number, number, body)


def _statement(held: list[tuple[int, str]]) -> Statement:
    first, body = held[0]
    found = _STATEMENT.match(body)
    if found is None:
        raise InputError(
            f"line {first}: '{body.strip()[:_QUOTED]}' is no statement; a word such as GOTO/10,0,5,0,0,1 is wanted"
        )
    word = found["word"].upper()
    text = " ".join(part.strip() for _, part in held)
    if word in _TEXT or word == "FINI":
        return Statement(word, (), first, held[-1][0], text)
    parts: list[Part] = []
    for at, (number, line) in enumerate(held):
        begin = found.start("rest") if at == 0 else 0
        if at == 0 and line[begin : begin + 1] == "/":
            begin += 1
        elif at == 0 and line[begin:].strip():
            raise InputError(f"line {first}: '{line.strip()[:_QUOTED]}': a '/' belongs behind the word {word}")
        for one in _PART.finditer(line, begin):
            stripped = one.group().strip()
            if stripped:
                start = one.start() + len(one.group()) - len(one.group().lstrip())
                parts.append(Part(stripped.upper(), _value(stripped), number, start, start + len(stripped)))
    if len(parts) > _MOST_PARTS:
        raise InputError(f"line {first}: {word} has {len(parts)} parts; no statement has so many")
    return Statement(word, tuple(parts), first, held[-1][0], text)


def _value(text: str) -> float:
    return float(text.upper().replace("D", "E")) if _NUMBER.fullmatch(text) else math.nan


class _Reader:
    """What holds from one statement to the next, and what was done so far."""

    def __init__(self) -> None:
        self.scale, self.rpm, self.is_turning, self.tool = 1.0, 0.0, False, 0
        self.feed: float | None = None
        self.word, self.feed_scale, self.per_turn, self.feed_line, self.is_fresh = math.nan, 1.0, False, 0, False
        self.unit = ""
        self.is_rapid, self.dwell, self.leans = False, 0.0, False
        self.place: tuple[float, ...] | None = None
        self.axis = (0.0, 0.0, 1.0)
        self.rows: list[tuple[float, ...]] = []
        self.changes: list[tuple[int, int]] = []
        self.events: list[Event] = []
        self.remarks: list[str] = []
        self.number = 0

    def take(self, said: Statement) -> None:
        """Takes one statement."""
        self.number = said.line
        word = said.word
        if word in ("GOTO", "FROM"):
            self._goto(said)
        elif word == "FEDRAT":
            self._fedrat(said)
        elif word == "RAPID":
            self.is_rapid = True
        elif word in _REFUSED and not (word == "CUTCOM" and any(part.text == "OFF" for part in said.parts)):
            self._stop(f"{word}: {_REFUSED[word]}")
        elif word in _KEPT or word in _TEXT or word == "CUTCOM":
            self._kept(said)
            self.events.append(Event(len(self.rows), said.line, said.text))
        else:
            self._stop(f"{word} is not understood and may change motion")

    def _kept(self, said: Statement) -> None:
        numbers = [part.value for part in said.parts if not math.isnan(part.value)]
        names = {part.text for part in said.parts if math.isnan(part.value)}
        if said.word == "UNITS":
            known = [_UNITS[name] for name in names if name in _UNITS]
            if len(known) != 1:
                self._stop("UNITS needs MM or INCHES")
            self.scale = known[0]
        elif said.word == "LOADTL":
            if not numbers or numbers[0] < 0 or numbers[0] != int(numbers[0]):
                self._stop("LOADTL needs the number of the tool, such as LOADTL/4")
            self.tool = int(numbers[0])
            self.changes.append((said.line, self.tool))
        elif said.word == "SPINDL":
            self._spindle(numbers, names)
        elif said.word == "DELAY":
            self.dwell += (numbers[0] if numbers else 0.0) / 60.0
        elif said.word == "MULTAX":
            self.leans = self.leans or "OFF" not in names

    def _spindle(self, numbers: list[float], names: set[str]) -> None:
        if "OFF" in names:
            self.is_turning = False
            return
        if "SFM" in names or "SMM" in names:
            self._stop("SPINDL by surface speed is not read; give the speed, such as SPINDL/2200,RPM")
        if numbers:
            if not 0 < numbers[0] <= _FASTEST:
                self._stop(f"SPINDL/{numbers[0]:g}: a speed lies above 0 and up to {_FASTEST:g} 1/min")
            self.rpm = numbers[0]
        self.is_turning = True
        if "CCLW" in names:
            self.remark("CCLW: a spindle that turns left is judged as one that turns right")

    def _fedrat(self, said: Statement) -> None:
        numbers = [part for part in said.parts if not math.isnan(part.value)]
        names = [part.text for part in said.parts if math.isnan(part.value)]
        unknown = [name for name in names if name not in _FEEDS]
        if len(numbers) != 1 or unknown or len(names) > 1:
            self._stop(
                f"FEDRAT needs one number and its unit, such as FEDRAT/380,MMPM; got '{said.text.strip()[:_QUOTED]}'"
            )
        value = numbers[0].value
        if value <= 0:
            self._stop(f"FEDRAT/{value:g}: a feed must be above 0")
        if not names and self.unit:
            self.remark(f"FEDRAT without a unit is taken in that of the feed before, {self.unit}")
        self.unit = names[0] if names else self.unit
        scale, per_turn = _FEEDS[self.unit] if self.unit else (0.0, False)
        self.feed_scale, self.per_turn = scale or self.scale, per_turn
        if value * self.feed_scale > _QUICKEST:
            self._stop(f"FEDRAT/{value:g}: no machine feeds faster than {_QUICKEST:g} mm/min")
        self.feed, self.word, self.is_fresh, self.feed_line = value * self.feed_scale, value, True, numbers[0].line
        self.is_rapid = False

    def _feed_now(self) -> float:
        if self.feed is None:
            self._stop("this GOTO cuts before any feed was given; write FEDRAT or RAPID before it")
        if self.per_turn:
            if self.rpm <= 0 or not self.is_turning:
                self._stop("a feed by the turn needs a spindle that turns; write SPINDL before it")
            return self.feed * self.rpm
        return self.feed

    def _goto(self, said: Statement) -> None:
        values = [part.value for part in said.parts]
        if len(values) not in (3, 6) or any(math.isnan(value) for value in values):
            self._stop(
                f"{said.word} needs three numbers, or six with the tool's axis, got '{said.text.strip()[:_QUOTED]}'"
            )
        x, y, z = values[:3]
        if max(abs(x), abs(y), abs(z)) * self.scale > _FAR:
            self._stop(f"{said.word} lies far outside any machine")
        if len(values) == 6:
            size = math.hypot(*values[3:])
            if abs(size - 1.0) > _UNIT:
                self._stop(
                    f"the tool's axis {values[3]:g}, {values[4]:g}, {values[5]:g} has the length {size:.4f}; a unit vector is wanted"
                )
            self.axis = (values[3] / size, values[4] / size, values[5] / size)
            self.leans = True
        target = (x * self.scale, y * self.scale, z * self.scale, *self.axis)
        if said.word == "FROM" or self.place is None:
            self.place, self.is_rapid = target, False
            return
        kind = RAPID if self.is_rapid else LINE
        feed = math.nan if self.is_rapid else self._feed_now()
        self.is_rapid = False
        if self.place == target:
            return
        if len(self.rows) >= _MOST_MOVES:
            self._stop(f"the program makes more than {_MOST_MOVES:,} moves; divide it")
        is_feed = kind == LINE
        self.rows.append((
            self.number, kind, *self.place, *target, feed, self.rpm if self.is_turning else 0.0, self.tool, self.feed_line,
            self.word if is_feed else math.nan, is_feed and self.is_fresh, self.per_turn, self.feed_scale != 1.0,
        ))  # fmt: skip
        self.place = target
        if is_feed:
            self.is_fresh = False
            if not self.is_turning:
                self.remark("moves at a feed while no SPINDL has set the spindle turning")

    def remark(self, text: str) -> None:
        """Tells something once, with the first line that gives cause."""
        if not any(held.endswith(text) for held in self.remarks):
            self.remarks.append(f"line {self.number}: {text}")

    def _stop(self, text: str) -> NoReturn:
        raise InputError(f"line {self.number}: {text}")


def locations_of(text: str, lines: list[str], kinematics: Kinematics | None) -> Program:
    """A program of cutter locations as motion.

    Parameters
    ----------
    text : str
        Every byte as one character.
    lines : list of str
        Its lines with their ends.
    kinematics : Kinematics or None
        Rotary axes that lean the tool; an upright tool needs none.

    Raises
    ------
    InputError
        With the line, and what cannot be read there or run by this machine.
    """
    reader = _Reader()
    for said in statements(lines):
        reader.take(said)
    rows = np.array(reader.rows).reshape(-1, 22)
    line = rows[:, 0].astype(np.int64)
    axes = np.concatenate((rows[:1, 5:8], rows[:, 11:14]))
    leaning = np.flatnonzero(np.hypot(rows[:, 11], rows[:, 12]) > _UNIT)
    if kinematics is None and len(leaning):
        raise InputError(
            f"line {int(line[leaning[0]])}: the tool leans here and the machine has no rotary axes; choose one that has (row: rotary)"
        )
    plain = _plain(rows, line)
    moves: Moves
    if kinematics is None or not reader.leans:
        kinematics, moves = None, Moves(**plain)
    else:
        turned = kinematics.path(axes, np.append(line[:1], line)) if len(rows) else np.zeros((1, 2))
        moves = _tilted(plain, turned)
    trace = Trace(moves, tuple(reader.events), ())
    return Program(
        text, lines, trace, np.arange(len(moves)), moves, reader.dwell, tuple(reader.changes), tuple(reader.remarks),
        language="locations", kinematics=kinematics,
    )  # fmt: skip


def _plain(rows: Array, line: Any) -> dict[str, Any]:
    n = len(rows)
    no = np.zeros(n, dtype=bool)
    return {
        "line": line, "kind": rows[:, 1].astype(np.int64), "start": rows[:, 2:5], "end": rows[:, 8:11], "centre": np.full((n, 3), math.nan),
        "plane": np.full(n, 2), "sweep": np.zeros(n), "feed": rows[:, 14], "rpm": rows[:, 15], "tool": rows[:, 16].astype(np.int64),
        "feed_line": rows[:, 17].astype(np.int64), "axis": rows[:, 11:14],
        "per_turn": rows[:, 20].astype(bool), "inch": rows[:, 21].astype(bool),
        "relative": no, "is_cycle": no, "offset": np.full(n, 54.0), "skip": np.full(n, -1), "word": rows[:, 18],
        "is_fresh": rows[:, 19].astype(bool), "is_doubtful": no,
    }  # fmt: skip


def _tilted(plain: dict[str, Any], turned: Array) -> TiltedMoves:
    straight = np.linalg.norm(plain["end"] - plain["start"], axis=1)
    turn = np.abs(np.diff(turned, axis=0)).max(axis=1, initial=0.0)
    n = len(straight)
    return TiltedMoves(
        **plain, turned_start=turned[:-1], turned_end=turned[1:], followed=np.ones(n, dtype=bool), inverse=np.zeros(n, dtype=bool),
        way=np.where(straight > 1e-9, straight, turn),
    )  # fmt: skip
