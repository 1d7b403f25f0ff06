"""From words to motion: the modal state of ISO 6983, block by block.

What changes motion and is not understood stops with its line; what does not is kept where it stands.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NoReturn

import numpy as np

from lesna.geometry.motion import CCW, CW, IN_PLANE, LINE, RAPID
from lesna.model.errors import InputError
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Moves, Program
from lesna.nc.words import Word, lines_of, text_of, words_of

#: spindle speeds beyond this are a slip [1/min]
_FASTEST = 500_000
_INCH = 25.4
#: an arc's ends may differ in radius by so much [mm], or by so large a share of it
_ARC_GAP, _ARC_SHARE = 0.02, 0.001
#: G words that are kept and say nothing about motion in program coordinates
_NO_MOTION = {8.0, 9.0, 15.0, 40.0, 43.0, 49.0, 50.0, 61.0, 64.0, 69.0, 91.1}
#: words that would change motion, and what to do instead
_REFUSED = {
    41.0: "radius compensation is not read; post the path of the tool's centre with G40",
    42.0: "radius compensation is not read; post the path of the tool's centre with G40",
    5.0: "this spline or high-precision mode is not read; post lines and arcs",
    5.1: "this spline or high-precision mode is not read; post lines and arcs",
    6.2: "splines are not read; post lines and arcs", 7.1: "wrapped paths are not read; post X, Y and Z",
    10.0: "offsets written by the program are not read; write them at the control",
    12.0: "this pocket cycle is not read; post its motion", 13.0: "this pocket cycle is not read; post its motion",
    16.0: "polar positions are not read; post X and Y",
    51.0: "scaling is not read; post the scaled path", 52.0: "a shifted zero is not read; post from one zero",
    68.0: "a turned zero is not read; post the turned path", 90.1: "absolute arc centres are not read; post I J K from the start",
    92.0: "a shifted zero is not read; post from one zero", 93.0: "inverse time feed is not read; post G94 feeds",
}  # fmt: skip
_REFUSED_M = {97: "jumps are not read; write the program out", 98: "subprograms are not read; write the program out",
              99: "repeated programs are not read; write the program out"}  # fmt: skip
_CYCLES = {73, 81, 82, 83}
#: cycles that move like drilling but turn or feed otherwise
_OTHER_CYCLES = {74, 76, 84, 85, 86, 87, 88, 89}
_ROTARY = "ABC"
_AXES = {"X": 0, "Y": 1, "Z": 2}
_CENTRE = {"I": 0, "J": 1, "K": 2}
#: letters of words that are kept or taken; any other is not understood
_LETTERS = set("DFGHIJKLMNOPQRSTXYZ")
#: lines between two words about how far the reading is
_TELL_EVERY = 4096
_MOST_PECKS = 10_000
_NO_CENTRE = (math.nan, math.nan, math.nan)


def read_program(content: bytes, pulse: Pulse = STEADY) -> Program:
    """A program as motion."""
    text = text_of(content)
    lines = lines_of(text)
    state = _Modal()
    has_begun = False
    for number, line in enumerate(lines, start=1):
        if number % _TELL_EVERY == 0:
            pulse.tell(number, len(lines))
        if line.lstrip().startswith("%"):
            if has_begun:
                break  # what follows the end mark is no program
            continue
        words = words_of(line, number)
        if words:
            has_begun = True
            state.block(words, number)
            if state.has_ended:
                break
    return Program(text, lines, state.moves(), state.dwell, tuple(state.changes), tuple(state.remarks))


def _is_known(place: Sequence[float]) -> bool:
    return place[0] == place[0] and place[1] == place[1] and place[2] == place[2]


class _Modal:
    """What holds from one block to the next, and the moves so far."""

    def __init__(self) -> None:
        self.motion: int | None = None
        self.cycle: int | None = None
        self.plane = 2
        self.scale = 1.0
        self.is_relative = False
        self.per_turn = False
        self.feed: float | None = None
        self.feed_line = 0
        self.rpm, self.is_turning = 0.0, False
        self.tool, self.pending = 0, 0
        self.returns_high = True
        self.place = [math.nan] * 3
        self.sticky: dict[str, float] = {}
        self.initial = math.nan
        self.dwell = 0.0
        self.has_ended = False
        self.changes: list[tuple[int, int]] = []
        self.remarks: list[str] = []
        self.offsets: set[float] = set()
        self._rows: list[tuple[float, ...]] = []

    # ------------------------------------------------------------ one block

    def block(self, words: list[Word], number: int) -> None:
        """Takes one line."""
        self.number = number
        held: dict[str, float] = {}
        codes: list[float] = []
        m_codes: list[float] = []
        for word in words:
            letter = word.letter
            if letter == "G":
                codes.append(word.value)
            elif letter == "M":
                m_codes.append(word.value)
            elif letter in _ROTARY:
                self._stop(f"{letter}{word.value:g}: rotary axes are not read; post the program for three axes")
            elif letter not in _LETTERS:
                self._stop(f"{letter}{word.value:g}: the word {letter} is not understood")
            elif letter in held and letter not in "NO":
                self._stop(f"{letter} stands twice in one block")
            else:
                held[letter] = word.value
        machine, wants, dwells = self._modes(codes, held)
        self._technology(held, m_codes)
        if dwells:
            self.dwell += held.get("P", held.get("X", 0.0) * 1000.0) / 60000.0
        elif machine:
            self._to_machine_place(held)
        elif wants is not None or any(axis in held for axis in _AXES):
            self._motion(held, wants)
        self.has_ended = any(code in (2, 30) for code in m_codes)

    def _modes(self, codes: list[float], held: dict[str, float]) -> tuple[bool, int | None, bool]:
        """Sets the modes; whether the block goes to a machine place, the motion it names, whether it waits."""
        machine, wants, dwells = False, None, False
        for code in codes:
            if code in (0.0, 1.0, 2.0, 3.0) or int(code) in _CYCLES | _OTHER_CYCLES and code == int(code):
                if wants is not None:
                    self._stop("two motion words stand in one block; write one a line")
                if int(code) in _OTHER_CYCLES:
                    self._stop(f"G{code:g}: this cycle is not read; G81, G82, G83 and G73 are")
                wants = int(code)
            elif code in _REFUSED:
                self._stop(f"G{code:g}: {_REFUSED[code]}")
            elif code in (17.0, 18.0, 19.0):
                self.plane = {17.0: 2, 18.0: 1, 19.0: 0}[code]
            elif code in (20.0, 21.0, 70.0, 71.0):
                self.scale = _INCH if code in (20.0, 70.0) else 1.0
            elif code in (90.0, 91.0):
                self.is_relative = code == 91.0
            elif code in (94.0, 95.0):
                if self.per_turn != (code == 95.0):
                    self.feed = None  # a feed per minute is none per turn
                self.per_turn = code == 95.0
            elif code in (98.0, 99.0):
                self.returns_high = code == 98.0
            elif code == 80.0:
                self.cycle = None
            elif code == 4.0:
                dwells = True
            elif code in (28.0, 30.0, 53.0):
                machine = True
            elif 54.0 <= code <= 59.0 or math.floor(code * 10) / 10 == 54.1:
                self._offset(code)
            elif code not in _NO_MOTION:
                self._stop(f"G{code:g} is not understood and may change motion")
        return machine, wants, dwells

    def _offset(self, code: float) -> None:
        self.offsets.add(code)
        if len(self.offsets) == 2:
            self.remarks.append(f"line {self.number}: G{code:g}: all zeros are taken as one and the same place")

    def _technology(self, held: dict[str, float], m_codes: list[float]) -> None:
        if "F" in held:
            if held["F"] <= 0:
                self._stop(f"F{held['F']:g}: a feed must be above 0")
            self.feed, self.feed_line = held["F"] * self.scale, self.number
        if "S" in held:
            if held["S"] < 0:
                self._stop(f"S{held['S']:g}: a spindle speed cannot be below 0")
            if held["S"] > _FASTEST:
                self._stop(f"S{held['S']:g}: no spindle turns faster than {_FASTEST:g} 1/min")
            self.rpm = held["S"]
        if "T" in held:
            if held["T"] < 0 or held["T"] != int(held["T"]):
                self._stop(f"T{held['T']:g}: a tool number is a whole number from 0")
            self.pending = int(held["T"])
            if not self.changes:  # until the first M6 the word alone says which tool is meant
                self.tool = self.pending
        for code in m_codes:
            if code in _REFUSED_M:
                self._stop(f"M{code:g}: {_REFUSED_M[int(code)]}")
            if code in (3, 4):
                self.is_turning = True
                if code == 4:
                    self._remark("M4: a spindle that turns left is judged as one that turns right")
            elif code == 5:
                self.is_turning = False
            elif code == 6:
                self.tool = self.pending
                self.changes.append((self.number, self.tool))

    def _remark(self, text: str) -> None:
        if not any(held.endswith(text) for held in self.remarks):
            self.remarks.append(f"line {self.number}: {text}")

    # ------------------------------------------------------------ motion

    def _target(self, held: dict[str, float]) -> list[float]:
        target = self.place.copy()
        for letter, axis in _AXES.items():
            if letter in held:
                value = held[letter] * self.scale
                if abs(value) > 1e6:
                    self._stop(f"{letter}{held[letter]:g} lies far outside any machine")
                if self.is_relative and math.isnan(self.place[axis]):
                    self._stop(
                        f"{letter}{held[letter]:g}: a step from an unknown place; program {letter} once with G90"
                    )
                target[axis] = self.place[axis] + value if self.is_relative else value
        return target

    def _to_machine_place(self, held: dict[str, float]) -> None:
        """A reference run or a place of the machine: where the named axes then are is not known."""
        named = [axis for letter, axis in _AXES.items() if letter in held]
        for axis in named or (0, 1, 2):
            self.place[axis] = math.nan

    def _motion(self, held: dict[str, float], wants: int | None) -> None:
        if wants is not None:
            self.cycle = wants if wants in _CYCLES else None
            if wants not in _CYCLES:
                self.motion = wants
                self.sticky = {}
            elif not self.sticky:
                self.initial = float(self.place[2])
        if self.cycle is not None:
            self._drill(held, wants is not None)
            return
        if not any(letter in held for letter in _AXES) and not (
            self.motion in (CW, CCW) and held.keys() & _CENTRE.keys()
        ):
            return
        if self.motion is None:
            self._stop("an axis moves before any G0 or G1")
        if self.motion == RAPID:
            self._straight(RAPID, self._target(held))
        elif self.motion == LINE:
            self._straight(LINE, self._target(held))
        else:
            self._arc(held)

    def _straight(self, kind: int, target: list[float], *, is_cycle: bool = False) -> None:
        feed = math.nan if kind == RAPID else self._feed_now()
        if _is_known(self.place) and self.place != target:
            self._row(kind, target, feed, is_cycle=is_cycle)
        self.place = target

    def _feed_now(self) -> float:
        if self.feed is None:
            self._stop("this move cuts before any F was given; write its feed, such as F800")
        if self.per_turn:
            if self.rpm <= 0:
                self._stop("G95 needs a spindle speed; write S before the first feed move")
            return self.feed * self.rpm
        return self.feed

    def _row(self, kind: int, target: list[float], feed: float, *, centre: Sequence[float] = _NO_CENTRE, sweep: float = 0.0,
             is_cycle: bool = False) -> None:  # fmt: skip
        self._rows.append((
            self.number, kind, *self.place, *target, *centre, self.plane, sweep, feed, self.rpm if self.is_turning else 0.0,
            self.tool, self.per_turn, self.scale != 1.0, self.is_relative, is_cycle, self.feed_line,
        ))  # fmt: skip

    def _arc(self, held: dict[str, float]) -> None:
        feed = self._feed_now()
        target = self._target(held)
        first, second = IN_PLANE[self.plane]
        if not _is_known(self.place) or not _is_known(target):
            self._stop("an arc from an unknown place; program X, Y and Z before it")
        names = [next(n for n, axis in _CENTRE.items() if axis == a) for a in (first, second)]
        wrong = [n for n in _CENTRE if n in held and n not in names]
        if wrong and held[wrong[0]]:
            self._stop(
                f"{wrong[0]} does not lie in the plane of this arc; its centre is given by {names[0]} and {names[1]}"
            )
        a = complex(self.place[first], self.place[second])
        b = complex(target[first], target[second])
        has_centre = any(n in held for n in names)
        if "R" in held:
            if has_centre:
                self._stop("R and a centre stand in one block; give one of them")
            middle, sweep = self._by_radius(a, b, held["R"] * self.scale)
        elif has_centre:
            middle = a + complex(*(held.get(n, 0.0) * self.scale for n in names))
            sweep = self._by_centre(a, b, middle, names)
        else:
            self._stop(f"this arc has neither {names[0]} {names[1]} nor R")
        centre = self.place.copy()
        centre[first], centre[second] = middle.real, middle.imag
        if sweep != 0.0:
            self._row(self.motion or CW, target, feed, centre=centre, sweep=sweep)
        self.place = target

    def _by_centre(self, a: complex, b: complex, middle: complex, names: list[str]) -> float:
        before, after = abs(a - middle), abs(b - middle)
        gap = abs(before - after)
        if before <= 0 or gap > max(_ARC_GAP, _ARC_SHARE * before):
            self._stop(
                f"the arc starts {before:.4f} mm from its centre and ends {after:.4f} mm from it; "
                f"{names[0]} and {names[1]} count from its start, and up to {max(_ARC_GAP, _ARC_SHARE * before):.3f} mm is taken"
            )
        turn = math.atan2(((b - middle) / (a - middle)).imag, ((b - middle) / (a - middle)).real) if after > 0 else 0.0
        if a == b:
            turn = 0.0
        if self.motion == CCW:
            return turn if turn > 1e-12 else turn + 2 * math.pi
        return turn if turn < -1e-12 else turn - 2 * math.pi

    def _by_radius(self, a: complex, b: complex, radius: float) -> tuple[complex, float]:
        chord = abs(b - a)
        if chord == 0:
            self._stop("R cannot describe a full circle; give its centre by I J K")
        size = abs(radius)
        if size < chord / 2 - max(_ARC_GAP, _ARC_SHARE * chord) or size == 0:
            self._stop(f"R{radius:g}: the ends lie {chord:.4f} mm apart, so R must be at least {chord / 2:.4f} mm")
        size = max(size, chord / 2)
        half = math.asin(min(chord / 2 / size, 1.0))
        sweep = 2 * half if radius > 0 else 2 * math.pi - 2 * half
        sweep = sweep if self.motion == CCW else -sweep
        off = size * math.cos(half) * (1 if abs(sweep) < math.pi else -1) * (1 if sweep > 0 else -1)
        return (a + b) / 2 + 1j * (b - a) / chord * off, sweep

    # ------------------------------------------------------------ drilling

    def _drill(self, held: dict[str, float], is_first: bool) -> None:
        """One hole of a canned cycle, written out as motion."""
        if self.plane != 2:
            self._stop("drilling cycles are read in the plane G17 only")
        if held.get("L", 1.0) != 1.0 or held.get("K", 1.0) not in (0.0, 1.0):
            self._stop("repeated holes are not read; write each hole in a block of its own")
        for letter in "ZRQ":
            if letter in held:
                self.sticky[letter] = held[letter] * self.scale
        if "Z" not in self.sticky or "R" not in self.sticky:
            self._stop("a drilling cycle needs Z and R")
        if not is_first and not held.keys() & {"X", "Y", "Z", "R"}:
            return
        over = self._target({letter: held[letter] for letter in "XY" if letter in held})
        if math.isnan(self.initial):
            self.initial = float(self.place[2])
        low, clear = self.sticky["Z"], self.sticky["R"]
        if self.is_relative:
            clear += self.initial
            low += clear
        if low > clear:
            self._stop(f"the hole ends at Z{low:g} above its clear plane R{clear:g}")
        if not _is_known(over):
            self._stop("a hole at an unknown place; program X, Y and Z before it")
        self._straight(RAPID, over, is_cycle=True)
        self._straight(RAPID, [*over[:2], clear], is_cycle=True)
        peck = self.sticky.get("Q", 0.0) if self.cycle in (73, 83) else 0.0
        if peck > 0 and (clear - low) / peck > _MOST_PECKS:
            self._stop(f"Q{self.sticky['Q']:g} makes more than {_MOST_PECKS} pecks")
        depth = clear
        while depth > low:
            former, depth = depth, max(depth - peck, low) if peck > 0 else low
            if self.cycle == 83 and former < clear:
                self._straight(RAPID, [*over[:2], former], is_cycle=True)
            self._straight(LINE, [*over[:2], depth], is_cycle=True)
            if self.cycle == 83 or depth == low:
                self._straight(RAPID, [*over[:2], clear], is_cycle=True)
        self.dwell += held.get("P", 0.0) / 60000.0 if self.cycle == 82 else 0.0
        if self.returns_high:
            self._straight(RAPID, [*over[:2], max(self.initial, clear)], is_cycle=True)

    # ------------------------------------------------------------ the end

    def _stop(self, text: str) -> NoReturn:
        raise InputError(f"line {self.number}: {text}")

    def moves(self) -> Moves:
        """All moves as arrays."""
        rows = np.array(self._rows, dtype=float).reshape(-1, 21)
        whole = rows[:, [0, 1, 11, 15, 20]].astype(np.int64)
        flags = rows[:, 16:20].astype(bool)
        axis = np.broadcast_to(np.array([0.0, 0.0, 1.0]), (len(rows), 3))
        return Moves(
            line=whole[:, 0], kind=whole[:, 1], start=rows[:, 2:5], end=rows[:, 5:8], centre=rows[:, 8:11], plane=whole[:, 2],
            sweep=rows[:, 12], feed=rows[:, 13], rpm=rows[:, 14], tool=whole[:, 3], feed_line=whole[:, 4], axis=axis, per_turn=flags[:, 0],
            inch=flags[:, 1], relative=flags[:, 2], is_cycle=flags[:, 3],
        )  # fmt: skip
